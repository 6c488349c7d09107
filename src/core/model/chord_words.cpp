// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/chord_words.hpp"

#include "base/pitch.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <set>

namespace fw {

namespace {

constexpr std::array<std::string_view, 7> kNumerals{"I", "II", "III", "IV", "V", "VI", "VII"};
constexpr std::array<int, 7> kMajor{0, 2, 4, 5, 7, 9, 11};

std::string upper(std::string_view text) {
    std::string out(text);
    for (char& c : out) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
    return out;
}

int kind_index(std::string_view harte) {
    const auto kinds = chord_kinds();
    for (std::size_t i = 0; i < kinds.size(); ++i)
        if (kinds[i].harte == harte) return static_cast<int>(i);
    return 0;
}

bool in_scale(const Key& key, int pc) {
    const auto scale = key.scale();
    return std::find(scale.begin(), scale.end(), pitch_class(pc)) != scale.end();
}

/// The chord of thirds that a key's scale has on a degree, of three or more tones.
Chord on_degree(const Key& key, int degree, std::size_t tones) {
    const auto scale = key.scale();
    const int root = scale[static_cast<std::size_t>(degree % 7)];
    std::vector<int> wanted;
    for (std::size_t i = 0; i < tones; ++i) wanted.push_back(pitch_class(scale[(static_cast<std::size_t>(degree) + 2 * i) % 7] - root));
    const auto kinds = chord_kinds();
    for (std::size_t k = 0; k < kinds.size(); ++k) {
        const auto have = kinds[k].tones();
        if (have.size() == wanted.size() && std::equal(have.begin(), have.end(), wanted.begin())) return {root, static_cast<int>(k), root};
    }
    return tones > 3 ? on_degree(key, degree, tones - 1) : Chord{root, 0, root};
}

}  // namespace

std::optional<Chord> parse_chord_in(const Key& key, std::string_view text) {
    if (const auto plain = parse_chord(text)) return plain;
    // Typed without care for capitals: "dm7", "bb/d".
    if (!text.empty() && std::islower(static_cast<unsigned char>(text.front()))) {
        std::string raised(text);
        raised.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(raised.front())));
        if (const auto slash = raised.find('/'); slash != std::string::npos && slash + 1 < raised.size())
            raised[slash + 1] = static_cast<char>(std::toupper(static_cast<unsigned char>(raised[slash + 1])));
        if (const auto plain = parse_chord(raised)) return plain;
    }
    int shift = 0;
    while (!text.empty() && (text.front() == 'b' || text.front() == '#')) {
        shift += text.front() == '#' ? 1 : -1;
        text.remove_prefix(1);
    }
    std::size_t length = 0;
    while (length < text.size() && std::string_view("IVXivx").find(text[length]) != std::string_view::npos) ++length;
    const std::string_view numeral = text.substr(0, length);
    const auto degree = std::find(kNumerals.begin(), kNumerals.end(), upper(numeral));
    if (numeral.empty() || degree == kNumerals.end()) return std::nullopt;
    const bool small = std::islower(static_cast<unsigned char>(numeral.front()));
    // An altered numeral is counted from the major scale, as it is written; a plain one is the key's own.
    const auto at = static_cast<std::size_t>(degree - kNumerals.begin());
    const int root = pitch_class(shift != 0 ? key.tonic + kMajor[at] + shift : key.scale()[at]);
    std::string rest(text.substr(length)), bass;
    if (const auto slash = rest.find('/'); slash != std::string::npos) bass = rest.substr(slash), rest = rest.substr(0, slash);
    if (small) {
        if (rest.empty()) rest = "m";
        else if (rest == "7" || rest == "9" || rest == "6") rest = "m" + rest;
    }
    return parse_chord(std::string(pitch_class_name(root, key.flats())) + rest + bass);
}

std::string degree_name(const Key& key, const Chord& chord) {
    if (chord.none()) return {};
    const auto scale = key.scale();
    const auto kind = chord_kinds()[static_cast<std::size_t>(chord.kind)];
    std::string name;
    const auto own = std::find(scale.begin(), scale.end(), chord.root);
    if (own != scale.end()) {
        name = kNumerals[static_cast<std::size_t>(own - scale.begin())];
    } else {
        for (std::size_t d = 0; d < 7; ++d)
            if (pitch_class(key.tonic + kMajor[d] - 1) == chord.root) name = "b" + std::string(kNumerals[d]);
    }
    std::string sign(kind.sign);
    if (kind.tones().size() > 1 && kind.tones()[1] == 3) {
        for (char& c : name) c = c == 'b' ? c : static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        if (sign.starts_with("m") && !sign.starts_with("maj")) sign.erase(0, 1);
    }
    if (chord.bass >= 0 && chord.bass != chord.root) sign += "/" + std::string(pitch_class_name(chord.bass, key.flats()));
    return name + sign;
}

std::vector<std::string> chord_completions(const Key& key, std::string_view begun, std::size_t most) {
    std::vector<std::string> out;
    std::set<std::string> told;
    const auto offer = [&](const std::string& name) {
        const bool fits = name.size() >= begun.size() && std::equal(begun.begin(), begun.end(), name.begin(), [](char a, char b) {
                              return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b));
                          });
        if (fits && out.size() < most && told.insert(name).second) out.push_back(name);
    };
    const auto slash = begun.find('/');
    if (slash != std::string_view::npos) {
        // A bass note: the chord's own tones first, then the scale's.
        const auto chord = parse_chord_in(key, begun.substr(0, slash));
        if (!chord || chord->none()) return out;
        const std::string stem(begun.substr(0, slash + 1));
        for (const int pc : chord->tones()) offer(stem + std::string(pitch_class_name(pc, key.flats())));
        for (const int pc : key.scale()) offer(stem + std::string(pitch_class_name(pc, key.flats())));
        return out;
    }
    for (const std::size_t tones : {3U, 4U, 5U})
        for (int d = 0; d < 7; ++d) offer(on_degree(key, d, tones).name(key.flats()));
    for (const bool own : {true, false})
        for (std::size_t k = 0; k < chord_kinds().size(); ++k)
            for (int pc = 0; pc < 12; ++pc)
                if (in_scale(key, pc) == own) offer(Chord{pc, static_cast<int>(k), pc}.name(key.flats()));
    for (std::size_t d = 0; d < 7; ++d)
        for (const std::size_t tones : {3U, 4U}) offer(degree_name(key, on_degree(key, static_cast<int>(d), tones)));
    offer("N.C.");
    return out;
}

std::vector<std::pair<Chord, double>> chords_of_notes(const std::vector<int>& pitches, std::size_t most) {
    std::set<int> have;
    for (const int p : pitches) have.insert(pitch_class(p));
    if (have.size() < 2) return {};
    const int bass = pitch_class(*std::min_element(pitches.begin(), pitches.end()));
    std::vector<std::pair<Chord, double>> all;
    const auto kinds = chord_kinds();
    for (int root = 0; root < 12; ++root) {
        if (!have.contains(root)) continue;
        for (std::size_t k = 0; k < kinds.size(); ++k) {
            double there = 0.0, missing = 0.0;
            const auto tones = kinds[k].tones();
            for (std::size_t i = 0; i < tones.size(); ++i) {
                // A fifth may be left out; the third tells what it is.
                const double weight = tones[i] == 7 ? 0.35 : 1.0;
                (have.contains(pitch_class(root + tones[i])) ? there : missing) += weight;
            }
            double foreign = 0.0;
            for (const int pc : have)
                if (std::none_of(tones.begin(), tones.end(), [&](int t) { return pitch_class(root + t) == pc; })) foreign += 1.0;
            const double fit =
                there / (there + missing + foreign) - 0.012 * static_cast<double>(k) / static_cast<double>(kinds.size()) - (bass == root ? 0.0 : 0.08);
            if (fit > 0.3) all.emplace_back(Chord{root, static_cast<int>(k), bass}, std::min(1.0, fit));
        }
    }
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
    if (all.size() > most) all.resize(most);
    return all;
}

Chord extended(const Key& key, const Chord& chord, bool up) {
    if (chord.none()) return chord;
    const std::string_view now = chord_kinds()[static_cast<std::size_t>(chord.kind)].harte;
    const auto become = [&](std::string_view harte) {
        Chord c = chord;
        c.kind = kind_index(harte);
        return c;
    };
    struct Ladder {
        std::string_view triad, seventh, ninth;
    };
    constexpr std::array kLadders{Ladder{"maj", "7", "9"},    Ladder{"maj", "maj7", "maj9"}, Ladder{"min", "min7", "min9"}, Ladder{"min", "minmaj7", ""},
                                  Ladder{"dim", "hdim7", ""}, Ladder{"dim", "dim7", ""},     Ladder{"maj", "maj6", ""},     Ladder{"min", "min6", ""}};
    if (!up) {
        for (const Ladder& l : kLadders) {
            if (now == l.ninth && !l.ninth.empty()) return become(l.seventh);
            if (now == l.seventh) return become(l.triad);
        }
        return chord;
    }
    // The seventh that the key has there.
    const bool major_seventh = in_scale(key, chord.root + 11) && !in_scale(key, chord.root + 10);
    if (now == "maj") return become(major_seventh ? "maj7" : "7");
    if (now == "min") return become(major_seventh ? "minmaj7" : "min7");
    if (now == "dim") return become(in_scale(key, chord.root + 10) ? "hdim7" : "dim7");
    for (const Ladder& l : kLadders)
        if (now == l.seventh && !l.ninth.empty()) return become(l.ninth);
    return chord;
}

std::vector<std::pair<Chord, double>> likely_next(const Song& song, Ticks at, std::size_t most) {
    const ChordEvent* now = nullptr;
    for (const ChordEvent& c : song.chords)
        if (c.start <= at && !c.chord.none()) now = &c;
    const Key* area = song.key_at(at);
    const Key key = area ? *area : Key{};
    std::vector<std::pair<Chord, double>> all;
    const auto add = [&](const Chord& c, double weight) {
        if (now && c.root == now->chord.root && c.kind == now->chord.kind) return;
        for (auto& [known, sum] : all)
            if (known.root == c.root && known.kind == c.kind) {
                sum += weight;
                return;
            }
        all.emplace_back(Chord{c.root, c.kind, c.root}, weight);
    };
    if (now) {
        for (std::size_t i = 0; i + 1 < song.chords.size(); ++i) {
            const Chord &c = song.chords[i].chord, &next = song.chords[i + 1].chord;
            if (!c.none() && !next.none() && c.root == now->chord.root && song.chords[i].start < at) add(next, c.kind == now->chord.kind ? 1.0 : 0.5);
        }
    }
    for (int d = 0; d < 7; ++d) {
        const Chord c = on_degree(key, d, 3);
        if (chord_kinds()[static_cast<std::size_t>(c.kind)].harte == "dim") continue;
        const int down = now ? pitch_class(now->chord.root - c.root) : 7;
        const double weight = down == 7 ? 0.5 : down == 5 ? 0.4 : down == 10 ? 0.3 : down == 2 ? 0.25 : 0.15;
        add(c, weight);
    }
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
    double sum = 0.0;
    for (const auto& [c, w] : all) sum += w;
    for (auto& [c, w] : all) w /= sum;
    if (all.size() > most) all.resize(most);
    return all;
}

}  // namespace fw

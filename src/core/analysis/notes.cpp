// SPDX-License-Identifier: GPL-3.0-or-later
// Notes from onset and sounding evidence, decoded as in "Onsets and Frames" (Hawthorne et al., ISMIR 2018): an onset that is judged to be a
// note's (note_judge.hpp) opens it, the sounding evidence carries it. Single lines come from a Viterbi path over pitches and silence.
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"
#include "analysis/note_judge.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

namespace fw {

namespace {

/// A first velocity, from the level alone: it compares notes that begin together. deal_parts compares those of a part.
int velocity_of(const Evidence& e, std::size_t frame, std::size_t pitch) {
    float top = 0.0F;
    for (std::size_t f = frame; f < std::min(frame + 4, e.pitch_frames()); ++f) top = std::max(top, e.level.at(f, pitch));
    return std::clamp(static_cast<int>(24.0F + 130.0F * top), 1, 127);
}

/// An onset frame to a fraction of it, then onto a nearby peak of the finer-grained onset evidence.
double onset_time(const Evidence& e, const ByteGrid& onset, std::size_t frame, std::size_t pitch) {
    double sum = 0.0, weight = 1e-6;
    for (std::size_t f = frame == 0 ? 0 : frame - 1; f <= std::min(frame + 1, onset.frames() - 1); ++f) {
        sum += static_cast<double>(f) * onset.at(f, pitch);
        weight += onset.at(f, pitch);
    }
    const double time = Evidence::pitch_time(weight > 0.01 ? sum / weight : static_cast<double>(frame));
    const auto centre = static_cast<Eigen::Index>(std::lround(Evidence::pulse_frame(time)));
    Eigen::Index best = -1;
    for (Eigen::Index f = std::max<Eigen::Index>(1, centre - 2); f <= std::min<Eigen::Index>(e.pulse.rows() - 2, centre + 2); ++f) {
        const float v = e.pulse(f, kPitchedOnset);
        if (v > 0.3F && v >= e.pulse(f - 1, kPitchedOnset) && v > e.pulse(f + 1, kPitchedOnset) && (best < 0 || v > e.pulse(best, kPitchedOnset))) best = f;
    }
    return best < 0 ? time : 0.4 * time + 0.6 * Evidence::pulse_time(static_cast<double>(best));
}

/// The frame in begin + 2 .. end from which a note sounds at less than a share of its height so far, for good; `end` if it never does.
/// The evidence of a note that was let go or damped fades over what rooms and strings leave, and does not stop.
std::size_t let_go(const ByteGrid& sounding, std::size_t pitch, std::size_t begin, std::size_t end) {
    constexpr float kShare = 0.65F;  // chosen for ends within a fifth of the length or 50 ms, on three bodies of music alike
    constexpr std::size_t kForGood = 3;
    float height = 0.0F;
    std::size_t below = 0;
    for (std::size_t f = begin; f < end; ++f) {
        height = std::max(height, sounding.at(f, pitch));
        below = f > begin + 1 && sounding.at(f, pitch) < kShare * height ? below + 1 : 0;
        if (below == kForGood) return f + 1 - kForGood;
    }
    return end - std::min(below, end - begin);
}

std::vector<HeardNote> decode(const Evidence& e, const NoteOptions& limits) {
    const ByteGrid &sounding = e.sounding, &onset = e.onset;
    const auto entries = note_entries(e);
    const auto judged = judge_entries(e, entries);
    std::vector<HeardNote> notes;
    const std::size_t frames = sounding.frames();
    std::size_t next = 0;  // entry
    for (std::size_t p = 0; p < Evidence::kPitches; ++p) {
        std::size_t open = frames;  // frame the note began at; frames means none
        float entered = 0.0F, carried = 0.0F;
        const auto close = [&](std::size_t end) {
            const double begin_s = onset_time(e, onset, open, p), end_s = Evidence::pitch_time(static_cast<double>(let_go(sounding, p, open, end)));
            const float mean = carried / static_cast<float>(std::max<std::size_t>(1, end - open));
            if (end_s - begin_s >= 0.03)
                notes.push_back({begin_s, end_s - begin_s, static_cast<int>(p) + Evidence::kLowestPitch, velocity_of(e, open, p),
                                 std::clamp(0.5F * entered + 0.5F * mean, 0.0F, 1.0F)});
            open = frames;
        };
        for (std::size_t f = 0; f < frames; ++f) {
            const bool entry = next < entries.size() && entries[next].pitch == p && entries[next].frame == f;
            const float note = entry ? judged[next++] : 0.0F;
            if (note >= limits.note && (open == frames || f > open + 1)) {
                if (open != frames) close(f);
                open = f;
                entered = note;
                carried = 0.0F;
            }
            if (open != frames) {
                carried += sounding.at(f, p);
                if (sounding.at(f, p) < limits.carry && f > open + 1) close(f);
            }
        }
        if (open != frames) close(frames - 1);
    }
    std::sort(notes.begin(), notes.end(),
              [](const HeardNote& a, const HeardNote& b) { return a.onset_s != b.onset_s ? a.onset_s < b.onset_s : a.pitch < b.pitch; });
    return notes;
}

/// A line that pauses is silent: what other parts play meanwhile is heard as the line only faintly, for a whole phrase and not for a
/// note here and there, which the line's own softer notes are too. share: see LineOptions::phrase_share.
std::vector<HeardNote> without_pauses(const std::vector<HeardNote>& notes, double share) {
    constexpr std::size_t kEnoughToTell = 24;
    constexpr double kPhrase = 4.0;  // seconds to each side
    if (notes.size() < kEnoughToTell) return notes;
    std::vector<double> all, around;
    for (const HeardNote& n : notes) all.push_back(n.confidence);
    const double clear = part_of(all, 3);
    std::vector<HeardNote> line;
    std::size_t first = 0;
    for (const HeardNote& n : notes) {
        around.clear();
        while (notes[first].onset_s < n.onset_s - kPhrase) ++first;
        for (std::size_t i = first; i < notes.size() && notes[i].onset_s <= n.onset_s + kPhrase; ++i) around.push_back(notes[i].confidence);
        if (part_of(around, 2) >= share * clear) line.push_back(n);
    }
    return line;
}

}  // namespace

std::vector<HeardNote> decode_notes(const Evidence& e, const NoteOptions& options) {
    std::vector<HeardNote> notes = decode(e, options);
    // A note at twice, three or four times the frequency of another that starts with it and ends no later may be nothing but its partial.
    // Where it is no louder than the lower one nothing tells them apart, and it is marked less certain.
    constexpr double kTogether = 0.04, kDoubt = 0.7;
    std::vector<char> doubtful(notes.size(), 0);
    for (std::size_t i = 0; i < notes.size(); ++i) {
        const HeardNote& upper = notes[i];
        auto at = std::lower_bound(notes.begin(), notes.end(), upper.onset_s - kTogether, [](const HeardNote& a, double t) { return a.onset_s < t; });
        for (; at != notes.end() && at->onset_s < upper.onset_s + kTogether; ++at) {
            const int above = upper.pitch - at->pitch;
            doubtful[i] |= (above == 12 || above == 19 || above == 24) && upper.velocity <= at->velocity &&
                           upper.onset_s + upper.duration_s < at->onset_s + at->duration_s + kTogether;
        }
    }
    for (std::size_t i = 0; i < notes.size(); ++i)
        if (doubtful[i]) notes[i].confidence *= kDoubt;
    return notes;
}

std::vector<HeardNote> decode_line(const Evidence& e, PartRole role) { return decode_line(e, role, {}); }

std::vector<HeardNote> decode_line(const Evidence& e, PartRole role, const LineOptions& options) {
    const ByteGrid& sounding = role == PartRole::Bass ? e.bass_sounding : e.lead_sounding;
    const ByteGrid& onset = role == PartRole::Bass ? e.bass_onset : e.lead_onset;
    const std::size_t frames = sounding.frames(), silent = Evidence::kPitches, count = silent + 1;
    if (frames == 0) return {};
    // Viterbi: staying on a pitch is free, leaving it costs; silence is what is left when no pitch speaks up.
    const auto gain = [&](std::size_t f, std::size_t p) {
        if (p == silent) return 0.0F;
        const float v = std::clamp(std::max(sounding.at(f, p), 0.9F * onset.at(f, p)), 0.02F, 0.98F);
        return std::log(v / (1.0F - v)) + options.favour;  // a rest costs the listener more than a held note
    };
    std::vector<float> score(count, 0.0F), next(count);
    std::vector<std::uint8_t> from(frames * count);
    for (std::size_t f = 0; f < frames; ++f) {
        const auto best = static_cast<std::size_t>(std::max_element(score.begin(), score.end()) - score.begin());
        for (std::size_t p = 0; p < count; ++p) {
            const bool stay = score[p] >= score[best] - options.move;
            from[f * count + p] = static_cast<std::uint8_t>(stay ? p : best);
            next[p] = (stay ? score[p] : score[best] - options.move) + gain(f, p);
        }
        score.swap(next);
    }
    std::vector<std::uint8_t> path(frames);
    auto state = static_cast<std::size_t>(std::max_element(score.begin(), score.end()) - score.begin());
    for (std::size_t f = frames; f-- > 0;) {
        path[f] = static_cast<std::uint8_t>(state);
        state = from[f * count + state];
    }
    // How clearly this line's strokes show is told by those that surely are some.
    std::vector<float> entries;
    for (std::size_t f = 2; f + 2 < frames; ++f)
        if (path[f] != silent && path[f] != path[f - 1]) {
            float strongest = 0.0F;
            for (std::size_t g = f - 2; g <= f + 2; ++g) strongest = std::max(strongest, onset.at(g, path[f]));
            entries.push_back(strongest);
        }
    const float struck_from = entries.size() < 8 ? options.struck : std::max(options.struck, options.struck_share * part_of(entries, 2));
    std::vector<HeardNote> notes;
    for (std::size_t f = 0; f < frames;) {
        const std::size_t p = path[f], begin = f;
        if (p == silent) {
            ++f;
            continue;
        }
        float carried = 0.0F, strongest = onset.at(f, p);
        for (++f; f < frames && path[f] == p; ++f) {
            const float o = onset.at(f, p);
            const bool struck = o >= struck_from && o >= onset.at(f - 1, p) && (f + 1 == frames || o > onset.at(f + 1, p));
            if (struck && f > begin + 3) break;
            if (f <= begin + 3) strongest = std::max(strongest, o);
            carried += sounding.at(f, p);
        }
        // The path enters a pitch a frame or two around its onset: place it on the onset's own peak.
        std::size_t start = begin;
        for (std::size_t g = begin > 2 ? begin - 2 : 0; g <= std::min(begin + 2, frames - 1); ++g)
            if (onset.at(g, p) > onset.at(start, p)) start = g;
        const double onset_s = onset_time(e, onset, start, p), end_s = Evidence::pitch_time(static_cast<double>(f));
        const float confidence = std::clamp(0.5F * strongest + 0.5F * carried / static_cast<float>(std::max<std::size_t>(1, f - begin)), 0.0F, 1.0F);
        if (confidence > options.least)
            notes.push_back({onset_s, end_s - onset_s, static_cast<int>(p) + Evidence::kLowestPitch, velocity_of(e, start, p), confidence});
    }
    std::sort(notes.begin(), notes.end(), [](const HeardNote& a, const HeardNote& b) { return a.onset_s < b.onset_s; });
    // Specks are dropped, but a short note that leans on the next one, a tone or less away, is a grace note.
    std::vector<HeardNote> kept;
    for (std::size_t i = 0; i < notes.size(); ++i) {
        const HeardNote& n = notes[i];
        const bool leans = i + 1 < notes.size() && std::abs(notes[i + 1].onset_s - n.onset_s - n.duration_s) < 0.04 &&
                           std::abs(notes[i + 1].pitch - n.pitch) <= 2 && notes[i + 1].duration_s >= options.shortest_s;
        if (n.duration_s >= options.shortest_s || (leans && n.duration_s >= 0.03 && n.confidence > options.grace)) kept.push_back(n);
    }
    for (HeardNote& n : kept) {
        const auto begin = std::min(frames - 1, static_cast<std::size_t>(std::lround(Evidence::pitch_frame(n.onset_s))));
        const auto end = std::min(frames, static_cast<std::size_t>(std::lround(Evidence::pitch_frame(n.onset_s + n.duration_s))));
        const std::size_t until = let_go(e.sounding, static_cast<std::size_t>(n.pitch - Evidence::kLowestPitch), begin, std::max(begin, end));
        if (until < end) n.duration_s = std::max(0.03, Evidence::pitch_time(static_cast<double>(until)) - n.onset_s);
    }
    return without_pauses(kept, options.phrase_share);
}

namespace {

/// A bass that leaps up is taken for another instrument there; what then sounds lowest is the bass all the same, if it stays in the bass's
/// range and the line pauses only shortly or is about to end. A bass that rests stays silent.
void add_leaps(std::vector<HeardNote>& bass, const std::vector<HeardNote>& lead, const std::vector<HeardNote>& notes) {
    constexpr std::size_t kLine = 8;  // notes that make a line, with a range to be known by
    constexpr int kHighest = 50;      // D3
    constexpr double kEnding = 0.3, kPause = 1.0, kTogether = 0.06, kSameStroke = 0.125;
    if (bass.size() < kLine) return;
    std::vector<int> pitches;
    for (const HeardNote& n : bass) pitches.push_back(n.pitch);
    std::sort(pitches.begin(), pitches.end());
    const int highest = std::min(kHighest, pitches[(pitches.size() - 1) * 19 / 20]);
    const auto line = bass;
    const auto begins = [](const HeardNote& n, double t) { return n.onset_s < t; };
    const auto holds = [&](const std::vector<HeardNote>& other, const HeardNote& n, double reach) {
        auto at = std::lower_bound(other.begin(), other.end(), n.onset_s - reach, begins);
        while (at != other.end() && at->onset_s < n.onset_s + reach && at->pitch != n.pitch) ++at;
        return at != other.end() && at->onset_s < n.onset_s + reach;
    };
    std::multiset<std::pair<double, int>> sounding;  // end and pitch
    for (std::size_t i = 0; i < notes.size(); ++i) {
        const HeardNote& n = notes[i];
        while (!sounding.empty() && sounding.begin()->first <= n.onset_s + 0.05) sounding.erase(sounding.begin());
        bool lowest = std::none_of(sounding.begin(), sounding.end(), [&](const auto& s) { return s.second < n.pitch; });
        for (std::size_t j = i + 1; j < notes.size() && notes[j].onset_s < n.onset_s + 0.03; ++j) lowest &= notes[j].pitch >= n.pitch;
        sounding.emplace(n.onset_s + n.duration_s, n.pitch);
        if (!lowest || n.pitch > highest || holds(lead, n, kTogether) || holds(line, n, kSameStroke)) continue;
        const auto next = std::lower_bound(line.begin(), line.end(), n.onset_s - kTogether, begins);
        if (next != line.end() && next->onset_s < n.onset_s + kTogether) continue;
        const double before = next == line.begin() ? -1e9 : std::prev(next)->onset_s + std::prev(next)->duration_s;
        const double after = next == line.end() ? 1e9 : next->onset_s;
        if (before > n.onset_s + kEnding || (before < n.onset_s - kPause && after > n.onset_s + kPause)) continue;
        bass.push_back(n);
    }
    std::sort(bass.begin(), bass.end(), [](const HeardNote& a, const HeardNote& b) { return a.onset_s < b.onset_s; });
    for (std::size_t i = 0; i + 1 < bass.size(); ++i) bass[i].duration_s = std::min(bass[i].duration_s, bass[i + 1].onset_s - bass[i].onset_s);
}

}  // namespace

std::vector<HeardPart> deal_parts(const Evidence& e, std::vector<HeardNote>& notes) {
    std::vector<HeardPart> parts{{PartRole::Bass, "Bass", decode_line(e, PartRole::Bass)},
                                 {PartRole::Lead, "Lead", decode_line(e, PartRole::Lead)},
                                 {PartRole::Chords, "Chord part", {}},
                                 {PartRole::Other, "Single notes", {}}};
    add_leaps(parts[0].notes, parts[1].notes, notes);
    for (std::size_t line = 0; line < 2; ++line) tell_velocities(e, parts[line].notes);
    std::vector<char> taken(notes.size(), 0);
    std::vector<HeardNote> unheard;
    for (std::size_t line = 0; line < 2; ++line)
        for (const HeardNote& n : parts[line].notes) {
            bool found = false;
            auto at = std::lower_bound(notes.begin(), notes.end(), n.onset_s - 0.06, [](const HeardNote& a, double t) { return a.onset_s < t; });
            for (; at != notes.end() && at->onset_s < n.onset_s + 0.06; ++at)
                if (at->pitch == n.pitch) {
                    taken[static_cast<std::size_t>(at - notes.begin())] = 1;
                    at->velocity = n.velocity;
                    found = true;
                }
            if (!found && n.confidence > 0.5) unheard.push_back(n);
        }
    std::array<std::vector<std::size_t>, 2> dealt;  // places in notes of those that go to the chords and to the others
    // What sounds with at least one other within 40 ms belongs to chords; single strokes are a part of their own.
    for (std::size_t i = 0; i < notes.size(); ++i) {
        if (taken[i]) continue;
        int company = 0;
        for (std::size_t j = i; j-- > 0 && notes[i].onset_s - notes[j].onset_s < 0.04;) company += !taken[j];
        for (std::size_t j = i + 1; j < notes.size() && notes[j].onset_s - notes[i].onset_s < 0.04; ++j) company += !taken[j];
        const std::size_t to = company > 0 ? 0 : 1;
        parts[2 + to].notes.push_back(notes[i]);
        dealt[to].push_back(i);
    }
    for (std::size_t k = 0; k < dealt.size(); ++k) {
        tell_velocities(e, parts[2 + k].notes);
        for (std::size_t i = 0; i < dealt[k].size(); ++i) notes[dealt[k][i]].velocity = parts[2 + k].notes[i].velocity;
    }
    // "notes" holds every note once, also those that only a line revealed.
    notes.insert(notes.end(), unheard.begin(), unheard.end());
    std::sort(notes.begin(), notes.end(),
              [](const HeardNote& a, const HeardNote& b) { return a.onset_s != b.onset_s ? a.onset_s < b.onset_s : a.pitch < b.pitch; });
    std::erase_if(parts, [](const HeardPart& p) { return p.notes.empty(); });
    return parts;
}

}  // namespace fw

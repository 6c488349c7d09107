// SPDX-License-Identifier: GPL-3.0-or-later
// How far the check can be trusted: the true notes of recordings with known truth are checked as they are, and with errors planted among them.
//
//   fw-planted CORPUS_DIR...          figures over all songs, those kept from fitting (every third of a folder) apart
//   fw-planted CORPUS_DIR... --notes  without the sound changed alone, whose rendering takes most of the time
//   fw-planted CORPUS_DIR... --walk   what a walk through the doubtful notes of parts comes upon, and what it offers instead
//   fw-planted CORPUS_DIR... --clues  what is looked at, a line a written note, for training/check.py
#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "check/check.hpp"
#include "check/clues.hpp"
#include "check/doubts.hpp"
#include "check/lengths.hpp"
#include "check/part_sound.hpp"
#include "engine/offline.hpp"
#include "model/drums.hpp"
#include "model/edits.hpp"
#include "model/validate.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <functional>
#include <map>
#include <nlohmann/json.hpp>
#include <random>
#include <string>
#include <vector>

namespace {

using namespace fw;

enum class Plant { None, Pitch, Extra, Missing, Late60, Late30, Mixed };
constexpr const char* kPlants[] = {"none", "pitch", "extra", "missing", "60 ms", "30 ms", "mixed"};

struct Truth {
    std::string id;
    bool held_out = false;
    std::shared_ptr<const Analysis> analysis;
    std::vector<GivenPart> parts;  ///< as they truly are
};

/// A planted error, by where and what the note is now; a missing one by what it was.
struct Planted {
    Plant kind = Plant::None;
    bool drums = false;
    double onset_s = 0.0;
    int pitch = 0, truly = -1;
};

std::vector<GivenPart> truth_of(const std::filesystem::path& path) {
    const auto j = nlohmann::json::parse(std::ifstream(path));
    std::vector<GivenPart> parts;
    std::map<int, GivenPart> by_channel;
    for (const auto& n : j["notes"]) {
        GivenPart& part = by_channel[n["channel"].get<int>()];
        part.name = "Channel " + std::to_string(n["channel"].get<int>() + 1);
        part.program = n["program"];
        part.notes.push_back({n["onset_s"], n["duration_s"], n["pitch"], n["velocity"], 1.0, {}});
    }
    for (auto& [channel, part] : by_channel) parts.push_back(std::move(part));
    GivenPart drums{"Drums", true, 0, {}};
    for (const auto& h : j["drums"])
        if (const auto kind = h["kind"] == "hat" ? std::optional(DrumKind::HatClosed) : parse_drum_kind(h["kind"].get<std::string>()))
            drums.notes.push_back({h["time_s"], 0.1, drum_sound(*kind).key, h["velocity"], 1.0, {}});
    if (!drums.notes.empty()) parts.push_back(std::move(drums));
    for (GivenPart& p : parts) std::sort(p.notes.begin(), p.notes.end(), [](const HeardNote& a, const HeardNote& b) { return a.onset_s < b.onset_s; });
    return parts;
}

/// Errors of one kind in a share of the notes.
std::vector<GivenPart> plant(const Truth& song, Plant kind, double share, unsigned seed, std::vector<Planted>& planted) {
    std::mt19937 random(seed);
    const auto chance = [&] { return std::uniform_real_distribution<double>()(random); };
    const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    std::vector<GivenPart> out = song.parts;
    for (GivenPart& part : out) {
        std::vector<HeardNote> notes;
        for (HeardNote n : part.notes) {
            if (chance() >= share) {
                notes.push_back(n);
                continue;
            }
            constexpr Plant kAll[] = {Plant::Pitch, Plant::Extra, Plant::Missing, Plant::Late60, Plant::Late30};
            Plant now = kind == Plant::Mixed ? kAll[pick(5)] : kind;
            if (part.drums && now == Plant::Pitch) now = Plant::Extra;
            Planted p{now, part.drums, n.onset_s, n.pitch, n.pitch};
            if (now == Plant::Missing) {
                planted.push_back(p);
                continue;
            }
            if (now == Plant::Pitch) {
                constexpr int kSteps[] = {-12, 12, -1, 1, -2, 2, -3, 3, -4, 5, 7, -5};
                n.pitch = std::clamp(n.pitch + kSteps[pick(12)], 24, 100);
            } else if (now == Plant::Extra) {
                notes.push_back(n);
                const HeardNote& like = part.notes[static_cast<std::size_t>(pick(static_cast<int>(part.notes.size())))];
                n.pitch = like.pitch;
                n.onset_s = std::max(0.0, n.onset_s + (pick(2) ? 1 : -1) * (0.15 + 0.5 * chance()));
                // One that by chance is played there anyhow is no error.
                bool there = false;
                for (const GivenPart& q : song.parts)
                    for (const HeardNote& m : q.notes)
                        there =
                            there || (q.drums == part.drums && m.pitch == n.pitch && m.onset_s < n.onset_s + 0.1 && m.onset_s + m.duration_s > n.onset_s - 0.1);
                if (there) continue;
            } else if (now == Plant::Late60 || now == Plant::Late30) {
                n.onset_s = std::max(0.0, n.onset_s + (pick(2) ? 1 : -1) * (now == Plant::Late60 ? 0.06 : 0.03));
            }
            p.onset_s = n.onset_s, p.pitch = n.pitch;
            planted.push_back(p);
            notes.push_back(n);
        }
        std::sort(notes.begin(), notes.end(), [](const HeardNote& a, const HeardNote& b) { return a.onset_s < b.onset_s; });
        part.notes = std::move(notes);
    }
    return out;
}

Remake rebuilt(const Truth& song, const std::vector<GivenPart>& parts) {
    auto remake = draft_remake(*song.analysis, parts, 0.0, song.id);
    if (!remake) {
        std::fprintf(stderr, "%s: %s\n", song.id.c_str(), remake.error().message().c_str());
        std::exit(1);
    }
    return std::move(*remake);
}

std::vector<Truth> songs_of(const std::filesystem::path& folder) {
    std::vector<std::filesystem::path> truths;
    for (const auto& entry : std::filesystem::directory_iterator(folder))
        if (entry.path().string().ends_with(".truth.json")) truths.push_back(entry.path());
    std::sort(truths.begin(), truths.end());
    std::vector<Truth> songs;
    const EvidenceStore store(folder / "evidence");
    for (std::size_t i = 0; i < truths.size(); ++i) {
        Truth s;
        s.id = truths[i].filename().string();
        s.id = s.id.substr(0, s.id.size() - 11);
        s.held_out = i % 3 == 2;
        auto analysis = analyse(folder / (s.id + ".flac"), {}, store);
        if (!analysis) continue;
        s.analysis = *analysis;
        s.parts = truth_of(truths[i]);
        songs.push_back(std::move(s));
    }
    return songs;
}

/// What is looked at of true songs, a tenth of each planted wrong; and of songs as they are, by which it is told what looks wrong and is not.
void clues(const std::vector<Truth>& songs) {
    for (const Truth& song : songs)
        for (unsigned seed = 21; seed < 25; ++seed) {
            std::vector<Planted> planted;
            const bool right = seed == 24;
            const auto parts = plant(song, Plant::Mixed, right ? 0.0 : 0.1, seed, planted);
            const Remake remake = rebuilt(song, parts);
            std::vector<WrittenPart> written;
            for (const GivenPart& part : parts) {
                WrittenPart w{part.drums, {}};
                for (const HeardNote& n : part.notes) w.notes.push_back({n.onset_s, n.onset_s + n.duration_s, n.pitch});
                written.push_back(std::move(w));
            }
            std::vector<double> bars;
            for (int bar = 1; bars.empty() || bars.back() < song.analysis->duration_s; ++bar)
                bars.push_back(remake.song->tempo.seconds(remake.song->meter.tick_of_bar(bar)));
            const Score score(written, bars);
            const Hearing hearing(*song.analysis);
            const auto planted_at = [&](bool drums, double onset_s, int pitch) {
                for (const Planted& p : planted)
                    if (p.kind != Plant::Missing && p.drums == drums && p.pitch == pitch && p.onset_s == onset_s) return p.kind;
                return Plant::None;
            };
            const auto line = [&](const char* what, std::size_t group, int label, const auto& looks) {
                std::printf("%s,%s,%d,%d,%s %u %zu,%d", what, song.id.c_str(), song.held_out, right, song.id.c_str(), seed, group, label);
                for (const double c : looks) std::printf(",%.4f", c);
                std::printf("\n");
            };
            const auto is_wrong = [](Plant kind) { return kind == Plant::Pitch || kind == Plant::Extra; };
            for (std::size_t p = 0; p < written.size(); ++p) {
                const auto& notes = written[p].notes;
                const auto label = [&](std::size_t i) { return is_wrong(planted_at(written[p].drums, notes[i].onset_s, notes[i].pitch)) ? 1 : 0; };
                if (written[p].drums) {
                    const auto looks = stroke_looks(hearing, score, p);
                    for (std::size_t i = 0; i < looks.size(); ++i)
                        if (looks[i]) line("Stroke", p, label(i), *looks[i]);
                } else {
                    const auto looks = note_looks(hearing, score, p);
                    for (std::size_t i = 0; i < looks.size(); ++i) line("Note", p, label(i), looks[i]);
                }
            }
            const auto twins = find_twins(hearing, score);
            const auto timing = timing_looks(hearing, score, twins);
            for (std::size_t i = 0; i < twins.size(); ++i) {
                const Written& n = written[twins[i].part].notes[twins[i].note];
                const bool drums = written[twins[i].part].drums;
                const Plant kind = planted_at(drums, n.onset_s, n.pitch);
                if (!is_wrong(kind)) line(drums ? "StrokeTiming" : "NoteTiming", twins[i].part, kind != Plant::None, timing[i]);
            }
            // What is missing because it stands at another pitch is told with that note, and is neither here.
            const auto missing = [&](bool drums, const Heard& h) {
                int label = 0;
                for (const Planted& p : planted)
                    if (p.drums == drums && p.truly == h.key && std::abs(p.onset_s - h.start_s) < 0.1)
                        label = p.kind == Plant::Missing ? 1 : p.kind == Plant::Pitch ? 2 : label;
                return label;
            };
            const auto notes = unwritten(hearing, score, false), strokes = unwritten(hearing, score, true);
            const auto note_clues = unwritten_note_looks(hearing, score, notes);
            for (std::size_t i = 0; i < notes.size(); ++i)
                if (const int label = missing(false, notes[i]); label < 2) line("UnwrittenNote", 0, label, note_clues[i]);
            const auto stroke_clues = unwritten_stroke_looks(hearing, score, strokes);
            for (std::size_t i = 0; i < strokes.size(); ++i)
                if (const int label = missing(true, strokes[i]); label < 2) line("UnwrittenStroke", 0, label, stroke_clues[i]);
        }
}

/// What the check says of one state of the rebuild, over the songs of a set.
struct Tally {
    double minutes = 0.0;
    int perhaps = 0;
    int listed = 0, sure = 0, right = 0;                   ///< findings of at least 50 and 80 %, and those of the listed that are planted errors
    int planted = 0, told = 0, told_or_perhaps = 0;        ///< errors, and those found
    std::map<Plant, std::array<int, 3>> by_kind;           ///< planted, listed, listed or perhaps
    std::map<std::string, std::array<int, 2>> false_ones;  ///< by kind of finding: listed, of at least 80 %
    std::array<std::array<double, 3>, 5> bins{};           ///< of confidence from .5 on: how many, their mean, how many right
    double off_ms = 0.0;
    int timed = 0;
    std::vector<double> figures;
    std::vector<double> areas;  ///< by song: how often a bar with an error has the lower figure of two, one with and one without
};

/// Of figures of bars, and whether an error was planted in them.
double area_under_curve(std::vector<std::pair<double, bool>> bars) {
    std::sort(bars.begin(), bars.end());
    double pairs = 0.0, with = 0.0, without = 0.0;
    for (std::size_t i = 0; i < bars.size();) {
        double w = 0.0, o = 0.0;
        const double figure = bars[i].first;
        for (; i < bars.size() && bars[i].first == figure; ++i) ++(bars[i].second ? w : o);
        pairs += with * o + 0.5 * w * o, with += w, without += o;
    }
    return with * without > 0.0 ? pairs / (with * without) : 0.0;
}

/// Spearman's rank correlation of figures that should fall from one to the next.
double rank_correlation(const std::vector<double>& falling) {
    const auto n = static_cast<double>(falling.size());
    double sum = 0.0;
    for (std::size_t i = 0; i < falling.size(); ++i) {
        double rank = 0.0;
        for (const double other : falling) rank += other < falling[i];
        sum += std::pow(static_cast<double>(i) - rank, 2.0);
    }
    return 1.0 - 6.0 * sum / (n * (n * n - 1.0));
}

/// The share of notes and strokes that a draft and the truth have in common, within 50 ms: F.
double true_f(const Remake& draft, const std::vector<GivenPart>& truth) {
    std::vector<std::pair<int, double>> true_ones, mine;
    for (const GivenPart& p : truth)
        for (const HeardNote& n : p.notes) true_ones.emplace_back(p.drums ? 1000 + sound_key(n.pitch) : n.pitch, n.onset_s);
    for (const auto& p : draft.parts)
        for (const PlacedNote& n : placed_notes(*p))
            mine.emplace_back(p->role == PartRole::Drums ? 1000 + sound_key(n.note.pitch) : n.note.pitch, draft.song->tempo.seconds(n.note.start));
    std::sort(true_ones.begin(), true_ones.end());
    std::sort(mine.begin(), mine.end());
    double both = 0.0;
    std::size_t at = 0;
    for (const auto& [key, time] : mine) {
        while (at < true_ones.size() && true_ones[at] < std::pair(key, time - 0.05)) ++at;
        if (at < true_ones.size() && true_ones[at].first == key && true_ones[at].second <= time + 0.05) both += 1.0, ++at;
    }
    return 2.0 * both / static_cast<double>(std::max<std::size_t>(1, mine.size() + true_ones.size()));
}

bool tells(const Finding& f, const Planted& p) {
    if ((f.role == PartRole::Drums) != p.drums) return false;
    const bool here = std::abs(f.start_s - p.onset_s) < 0.005 && f.pitch == p.pitch;
    switch (p.kind) {
        case Plant::Pitch:
        case Plant::Extra: return here && (f.kind == FindingKind::WrongPitch || f.kind == FindingKind::ExtraNote || f.kind == FindingKind::ExtraHit);
        case Plant::Late60:
        case Plant::Late30: return here && (f.kind == FindingKind::Early || f.kind == FindingKind::Late);
        case Plant::Missing:
            return (f.kind == FindingKind::MissingNote || f.kind == FindingKind::MissingHit) && std::abs(f.start_s - p.onset_s) < 0.1 &&
                   f.expected_pitch == p.truly;
        default: return false;
    }
}

/// Whether a finding could be about notes at all: chords and the like were not planted.
bool about_notes(const Finding& f) { return f.kind != FindingKind::WrongChord && !is_of_sound(f); }

double mean(const std::vector<double>& v);

void count(const Truth& song, const CheckReport& report, const std::vector<Planted>& planted, Tally& t) {
    t.minutes += song.analysis->duration_s / 60.0;
    if (report.match.notes) t.figures.push_back(*report.match.notes);
    for (const Planted& p : planted) {
        auto& kind = t.by_kind[p.kind];
        ++kind[0], ++t.planted;
        bool told = false, perhaps = false;
        for (const Finding& f : report.findings)
            if (tells(f, p)) {
                told = told || f.listed(), perhaps = true;
                if (p.kind == Plant::Late60 || p.kind == Plant::Late30) t.off_ms += std::abs(f.size - (p.kind == Plant::Late60 ? 60.0 : 30.0)), ++t.timed;
            }
        kind[1] += told, kind[2] += perhaps, t.told += told, t.told_or_perhaps += perhaps;
    }
    const Remake grid = rebuilt(song, {});
    std::vector<char> wrong(report.bars.size(), 0);
    for (const Planted& p : planted)
        if (const int bar = grid.song->meter.position(grid.song->tempo.nearest_tick(p.onset_s)).bar; bar >= 1 && static_cast<std::size_t>(bar) <= wrong.size())
            wrong[static_cast<std::size_t>(bar - 1)] = 1;
    std::vector<std::pair<double, bool>> bars;
    for (std::size_t b = 0; b < wrong.size(); ++b)
        if (report.bars[b]) bars.emplace_back(*report.bars[b], wrong[b] != 0);
    const auto with = std::count_if(bars.begin(), bars.end(), [](const auto& b) { return b.second; });
    if (with > 0 && with < static_cast<std::ptrdiff_t>(bars.size())) t.areas.push_back(area_under_curve(bars));
    for (const Finding& f : report.findings) {
        if (about_notes(f) && !f.listed()) ++t.perhaps;
        if (!about_notes(f) || !f.listed()) continue;
        const bool right = std::any_of(planted.begin(), planted.end(), [&](const Planted& p) { return tells(f, p); });
        if (!right) ++t.false_ones[finding_kind_name(f.kind)][0], t.false_ones[finding_kind_name(f.kind)][1] += f.confidence >= 0.8;
        ++t.listed, t.sure += f.confidence >= 0.8, t.right += right;
        auto& bin = t.bins[std::min<std::size_t>(4, static_cast<std::size_t>((f.confidence - 0.5) * 10.0))];
        bin[0] += 1, bin[1] += f.confidence, bin[2] += right;
    }
}

double mean(const std::vector<double>& v) {
    double sum = 0.0;
    for (const double x : v) sum += x;
    return v.empty() ? -1.0 : sum / static_cast<double>(v.size());
}

SoundSummary rendered(const Remake& remake) { return summarise(*compile_plan(remake, {44100.0, {}})); }

/// The sound of one part changed alone, against a rendering of the right notes: is it told of that part, and of no other?
void sound_alone(std::vector<const Truth*> set) {
    constexpr std::size_t kEnough = 4;  // each is rendered eight times
    if (set.size() > kEnough) set.resize(kEnough);
    struct Change {
        const char* name;
        std::function<void(Part&)> make;
        std::function<bool(const Finding&)> says_so;
        int asked = 0, told = 0, lower = 0;
    };
    const auto level = [](double db) { return [db](const Finding& f) { return f.kind == FindingKind::Level && f.size * db > 0; }; };
    std::vector<Change> changes{{"muted", [](Part& p) { p.mute = true; }, [](const Finding& f) { return f.kind == FindingKind::Silent; }},
                                {"6 dB louder", [](Part& p) { p.gain_db += 6.0; }, level(6)},
                                {"6 dB softer", [](Part& p) { p.gain_db -= 6.0; }, level(-6)},
                                {"hard left", [](Part& p) { p.pan = -1.0; }, [](const Finding& f) { return f.kind == FindingKind::Balance && f.size < 0; }},
                                {"too short",
                                 [](Part& p) {
                                     for (auto& pattern : p.patterns)
                                         for (Note& n : pattern.edit().notes) n.length = std::max<Ticks>(30, n.length / 4);
                                 },
                                 [](const Finding& f) { return f.kind == FindingKind::TooShort; }},
                                {"other instrument",
                                 [](Part& p) {
                                     for (Layer& l : p.layers) l.source = &kSoundFont, l.patch.clear(), l.program = (l.program + 40) % 112;
                                 },
                                 [](const Finding& f) { return f.kind == FindingKind::Tone || f.kind == FindingKind::Level; }}};
    int false_ones = 0, asked = 0, right_false = 0;
    for (const Truth* s : set) {
        const Remake right = rebuilt(*s, s->parts);
        const SoundSummary original = rendered(right);
        const auto of = [&](const Remake& r) {
            const SoundSummary sound = rendered(r);
            return full_check(r, *s->analysis, *compile_plan(r, {44100.0, {}}), original, sound).report;
        };
        const auto of_parts = [](const CheckReport& report) {
            std::vector<Finding> out;
            for (const Finding& f : report.findings)
                if (f.listed() && ((f.element && is_of_sound(f)) || f.kind == FindingKind::Silent || f.kind == FindingKind::TooShort)) out.push_back(f);
            return out;
        };
        const CheckReport as_it_is = of(right);
        right_false += static_cast<int>(of_parts(as_it_is).size());
        // The part with most notes, drums aside: one that is to be heard.
        const Part* part = nullptr;
        std::size_t most = 0;
        for (const auto& p : right.parts)
            if (const std::size_t n = placed_notes(*p).size(); p->role != PartRole::Drums && n > most) most = n, part = p.get();
        if (!part) continue;
        for (Change& c : changes) {
            const CheckReport report = of(with_part(right, part->id, c.make));
            ++c.asked, ++asked;
            bool told = false;
            for (const Finding& f : of_parts(report)) {
                if (f.element == ElementId(part->id)) told = told || c.says_so(f);
                else ++false_ones;
            }
            c.told += told;
            c.lower += report.match.sound && as_it_is.match.sound && *report.match.sound < *as_it_is.match.sound - 0.005;
        }
    }
    std::printf("sound of one part alone, told and named / figure lower:");
    for (const Change& c : changes) std::printf(" %s %d / %d of %d,", c.name, c.told, c.lower, c.asked);
    std::printf(" of others %d in %d, of right ones %d\n", false_ones, asked, right_false);
}

void figures(const std::vector<Truth>& songs, bool held_out, bool with_sound) {
    std::printf("\n## %s\n", held_out ? "kept from fitting" : "fitted on");
    std::vector<const Truth*> set;
    for (const Truth& s : songs)
        if (s.held_out == held_out) set.push_back(&s);
    const auto run = [&](Plant kind, double share) {
        Tally t;
        for (const Truth* s : set) {
            std::vector<Planted> planted;
            const auto parts = plant(*s, kind, share, 11, planted);
            count(*s, check(rebuilt(*s, parts), *s->analysis), planted, t);
        }
        return t;
    };
    const Tally right = run(Plant::None, 0.0);
    std::printf("right notes: listed %.1f a minute, of at least 80 %% %.1f, perhaps %.1f, notes figure %.3f\n", right.listed / right.minutes,
                right.sure / right.minutes, right.perhaps / right.minutes, mean(right.figures));
    std::printf("   by song:");
    for (const Truth* s : set) {
        Tally alone;
        count(*s, check(rebuilt(*s, s->parts), *s->analysis), {}, alone);
        std::printf(" %s %d", s->id.c_str(), alone.listed);
    }
    std::printf("\n");
    for (const auto& [kind, n] : right.false_ones) std::printf("   %s %.1f (%.1f)\n", kind.c_str(), n[0] / right.minutes, n[1] / right.minutes);
    std::vector<std::vector<double>> falling(set.size());
    for (std::size_t i = 0; i < set.size() && i < right.figures.size(); ++i) falling[i].push_back(right.figures[i]);
    for (const double share : {0.02, 0.05, 0.2, 0.4, 0.8}) {
        const Tally t = run(Plant::Mixed, share);
        for (std::size_t i = 0; i < set.size() && i < t.figures.size(); ++i) falling[i].push_back(t.figures[i]);
        if (share == 0.05) std::printf("bars with errors against bars without, within a song: area %.2f\n", mean(t.areas));
        std::printf("mixed %2.0f %%: listed %.1f a minute, precision %.2f, recall %.2f, with perhaps %.2f, figure %.3f\n", share * 100, t.listed / t.minutes,
                    t.listed ? static_cast<double>(t.right) / t.listed : 0.0, static_cast<double>(t.told) / t.planted,
                    static_cast<double>(t.told_or_perhaps) / t.planted, mean(t.figures));
        std::printf("   calibration");
        for (const auto& bin : t.bins)
            std::printf("  %.2f: %.2f (%d)", bin[0] > 0 ? bin[1] / bin[0] : 0.0, bin[0] > 0 ? bin[2] / bin[0] : 0.0, static_cast<int>(bin[0]));
        std::printf("\n");
    }
    double rank = 0.0;
    for (const auto& f : falling) rank += rank_correlation(f) / static_cast<double>(falling.size());
    std::printf("notes figure against the planted share within a song: rank correlation %.3f\n", -rank);
    for (const Plant kind : {Plant::Pitch, Plant::Extra, Plant::Missing, Plant::Late60, Plant::Late30}) {
        const Tally t = run(kind, 0.05);
        std::printf("%s 5 %%: recall %.2f, with perhaps %.2f, precision %.2f", kPlants[static_cast<int>(kind)], static_cast<double>(t.told) / t.planted,
                    static_cast<double>(t.told_or_perhaps) / t.planted, t.listed ? static_cast<double>(t.right) / t.listed : 0.0);
        if (t.timed) std::printf(", size off by %.1f ms", t.off_ms / t.timed);
        std::printf("\n");
    }
    // Whole parts.
    int parts = 0, false_whole = 0;
    std::map<std::string, std::array<int, 3>> whole;  ///< asked, told, told of others or otherwise
    std::vector<double> other, draft, off;
    for (std::size_t i = 0; i < set.size(); ++i) {
        const Truth& s = *set[i];
        const auto whole_of = [&](const std::vector<GivenPart>& p) {
            std::vector<Finding> out;
            for (const Finding& f : check(rebuilt(s, p), *s.analysis).findings)
                if (f.kind == FindingKind::Transposed || f.kind == FindingKind::Shifted) out.push_back(f);
            return out;
        };
        parts += static_cast<int>(s.parts.size());
        false_whole += static_cast<int>(whole_of(s.parts).size());
        const auto tally = [&](const std::vector<GivenPart>& moved, const std::string& part, const char* how, const auto& says_so) {
            auto& [asked, told, beside] = whole[how];
            ++asked;
            bool said = false;
            for (const Finding& f : whole_of(moved))
                if (f.name == part && says_so(f)) said = true;
                else ++beside;
            told += said;
        };
        for (std::size_t p = 0; p < s.parts.size(); ++p) {
            if (s.parts[p].notes.size() < 30) continue;
            for (const int by : {12, -12, 1, -1}) {
                if (s.parts[p].drums) continue;
                auto moved = s.parts;
                for (HeardNote& n : moved[p].notes) n.pitch += by;
                tally(moved, s.parts[p].name, std::abs(by) == 12 ? "octave" : "semitone",
                      [&](const Finding& f) { return f.kind == FindingKind::Transposed && std::lround(f.size) == by; });
            }
            auto late = s.parts;
            const double eighth = 30.0 / std::max(40.0, s.analysis->tempo.bpm);
            for (HeardNote& n : late[p].notes) n.onset_s += eighth;
            tally(late, s.parts[p].name, "eighth", [&](const Finding& f) { return f.kind == FindingKind::Shifted && std::abs(f.size - eighth * 1000) < 25; });
        }
        const Truth& stranger = *set[(i + 1) % set.size()];
        if (const auto r = check(rebuilt(s, stranger.parts), *s.analysis); r.match.notes) other.push_back(*r.match.notes);
        const Remake drafted = draft_remake(*s.analysis);
        if (const auto r = check(drafted, *s.analysis); r.match.notes)
            draft.push_back(*r.match.notes), off.push_back(std::abs(*r.match.notes - true_f(drafted, s.parts)));
    }
    std::printf("whole parts told:");
    for (const auto& [name, score] : whole) std::printf(" %s %d of %d and %d false,", name.c_str(), score[1], score[0], score[2]);
    std::printf(" false %d of %d right parts\n", false_whole, parts);
    if (with_sound) sound_alone(set);
    std::printf("notes figure: another song %.3f, draft %.3f, off its true F by %.3f in the mean\n", mean(other), mean(draft), mean(off));
}

/// How long the notes of each part are heard against how long they are written: as they are, and made shorter and longer.
void lengths(const std::vector<Truth>& songs, bool held_out) {
    for (const Truth& s : songs) {
        if (s.held_out != held_out) continue;
        const Hearing hearing(*s.analysis);
        for (std::size_t p = 0; p < s.parts.size(); ++p) {
            if (s.parts[p].drums) continue;
            std::printf("%s %s:", s.id.c_str(), s.parts[p].name.c_str());
            for (const double times : {1.0, 0.25, 0.5, 2.0, 4.0}) {
                std::vector<WrittenPart> all;
                for (const GivenPart& g : s.parts) {
                    WrittenPart& w = all.emplace_back();
                    w.drums = g.drums;
                    for (const HeardNote& n : g.notes) w.notes.push_back({n.onset_s, n.onset_s + (&g == &s.parts[p] ? times : 1.0) * n.duration_s, n.pitch});
                }
                const auto heard = heard_lengths(hearing, Score(std::move(all), {0.0, 1.0}), p);
                if (heard) std::printf("  x%.2f: %.2f (%d)", times, heard->times, heard->notes);
                else std::printf("  x%.2f: -", times);
            }
            std::printf("\n");
        }
    }
}

/// Walking through doubtful notes: how many of the wrong ones come up, how many right ones are asked about beside them, and where among the alternatives the
/// true pitch stands.
void walk(const std::vector<Truth>& songs, bool held_out) {
    int wrong = 0, doubted = 0, first = 0, among = 0, asked = 0, right = 0, missing = 0, offered = 0;
    for (const Truth& s : songs) {
        if (s.held_out != held_out) continue;
        for (const Plant kind : {Plant::Pitch, Plant::Missing}) {
            std::vector<Planted> planted;
            const Remake r = rebuilt(s, plant(s, kind, 0.05, 11, planted));
            const CheckReport report = check(r, *s.analysis);
            std::erase_if(planted, [](const Planted& p) { return p.drums; });
            std::vector<Doubt> all;
            for (const auto& part : r.parts)
                if (part->role != PartRole::Drums) {
                    auto some = doubts(r, report, part->id);
                    right += kind == Plant::Pitch ? static_cast<int>(placed_notes(*part).size()) : 0;
                    std::move(some.begin(), some.end(), std::back_inserter(all));
                }
            for (const Planted& p : planted) {
                const bool gone = kind == Plant::Missing;
                ++(gone ? missing : wrong);
                for (Doubt& d : all) {
                    if (d.note.has_value() == gone || std::abs(d.start_s - p.onset_s) > (gone ? 0.12 : 0.003) || (!gone && d.shown.pitch != p.pitch)) continue;
                    look_closer(r, *s.analysis->evidence, d);
                    const auto at = std::find_if(d.alternatives.begin(), d.alternatives.end(), [&](const Alternative& a) { return a.pitch == p.truly; }) -
                                    d.alternatives.begin();
                    const bool there = at < static_cast<std::ptrdiff_t>(d.alternatives.size());
                    if (gone && d.shown.pitch != p.truly && !(there && at < 3)) continue;
                    if (gone) {
                        ++offered;
                    } else {
                        ++doubted;
                        first += there && at == 0;
                        among += there && at < 3;
                    }
                    break;
                }
            }
            if (kind == Plant::Pitch) {
                for (const Doubt& d : all) asked += d.note.has_value();
                right -= static_cast<int>(planted.size());
            }
        }
    }
    std::printf(
        "%s: of %d notes at a wrong pitch %.2f are doubted, the true pitch first %.2f, among three %.2f of those; of %d right notes %.2f are asked about; "
        "of %d missing ones %.2f are offered\n",
        held_out ? "kept songs" : "fitted songs", wrong, doubted / std::max(1.0, wrong * 1.0), first / std::max(1.0, doubted * 1.0),
        among / std::max(1.0, doubted * 1.0), right, (asked - doubted) / std::max(1.0, right * 1.0), missing, offered / std::max(1.0, missing * 1.0));
}

}  // namespace

int main(int argc, char** argv) {
    std::setvbuf(stdout, nullptr, _IOLBF, 1 << 12);  // it takes a while: each line as it comes
    std::vector<std::string> folders(argv + 1, argv + argc);
    const bool only_walk = std::erase(folders, "--walk") > 0, only_clues = std::erase(folders, "--clues") > 0, only_notes = std::erase(folders, "--notes") > 0,
               only_lengths = std::erase(folders, "--lengths") > 0;
    if (folders.empty()) {
        std::fprintf(stderr, "fw-planted CORPUS_DIR... [--notes | --clues | --walk | --lengths]\n");
        return 2;
    }
    std::vector<Truth> songs;
    for (const std::string& folder : folders)
        for (Truth& s : songs_of(folder)) songs.push_back(std::move(s));
    if (only_walk) {
        for (const bool held_out : {false, true}) walk(songs, held_out);
        return 0;
    }
    if (only_lengths) {
        for (const bool held_out : {false, true}) std::printf("\n## %s\n", held_out ? "kept" : "fitted on"), lengths(songs, held_out);
        return 0;
    }
    if (only_clues) {
        clues(songs);
        return 0;
    }
    for (const bool held_out : {false, true}) figures(songs, held_out, !only_notes);
    return 0;
}

// SPDX-License-Identifier: GPL-3.0-or-later
// For every excerpt with known beats: how many gestures lead from the draft's count to the right one, of those the facts offer? A gesture is a reading chosen,
// half a beat to either side, the downbeat set at the cursor, the upbeat typed, or tapping along (eight taps, ± 20 ms unsteady, 15 ms late).
//   fw-readings CORPUS_DIR... [--misread]
// With --misread every excerpt that is counted right is first counted wrong, as the ear may on other music: at 1/2, 2, 3/2, 2/3, 4/3 and 3/4 of its tempo, half
// a beat and a whole one off.
#include "analysis/readings.hpp"
#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "model/edits.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <random>
#include <string>
#include <vector>

using namespace fw;

namespace {

struct Beats {
    std::vector<double> all, ones;
};

double f_measure(const std::vector<double>& truth, const std::vector<double>& found) {
    constexpr double kTolerance_s = 0.07;
    std::size_t hits = 0, at = 0;
    for (const double t : truth) {
        while (at < found.size() && found[at] < t - kTolerance_s) ++at;
        if (at < found.size() && found[at] <= t + kTolerance_s) ++hits, ++at;
    }
    return truth.empty() ? 1.0 : 2.0 * static_cast<double>(hits) / static_cast<double>(truth.size() + found.size());
}

Beats counted(const Song& song, double from_s, double to_s) {
    Beats b;
    const Ticks end = song.tempo.nearest_tick(to_s);
    for (Ticks t = song.meter.tick_of_bar(song.meter.position(song.tempo.nearest_tick(from_s)).bar - 1); t <= end;) {
        const BarPosition p = song.meter.position(t);
        const double s = song.tempo.seconds(t);
        if (s >= from_s - 0.03 && s <= to_s + 0.03) {
            b.all.push_back(s);
            if (p.beat == 1) b.ones.push_back(s);
        }
        t += song.meter.at_bar(p.bar).beat_ticks();
    }
    return b;
}

struct Score {
    double beats = 0.0, ones = 0.0;
    bool right(bool meter_known) const { return beats >= 0.9 && (!meter_known || ones >= 0.85); }
    double value(bool meter_known) const { return beats + (meter_known ? ones : 0.0); }
};

}  // namespace

int main(int argc, char** argv) {
    std::vector<std::string> folders(argv + 1, argv + argc);
    const bool misread = std::erase(folders, "--misread") > 0;
    if (folders.empty()) return std::fprintf(stderr, "fw-readings CORPUS_DIR...\n"), 2;
    std::mt19937 random(1);
    std::normal_distribution<double> unsteady(0.0, 0.02);
    std::map<int, int> reached;
    int songs = 0, tapped = 0, first = 0, wrong = 0;
    std::printf("%-22s  beats  ones   gestures\n", "excerpt");
    for (const std::string& folder : folders) {
        std::vector<std::filesystem::path> truths;
        for (const auto& entry : std::filesystem::directory_iterator(folder))
            if (entry.path().string().ends_with(".truth.json")) truths.push_back(entry.path());
        std::sort(truths.begin(), truths.end());
        for (const auto& path : truths) {
            const auto j = nlohmann::json::parse(std::ifstream(path));
            const auto flag = [&](const char* name) { return j.contains(name) ? j.at(name).get<bool>() : true; };
            if (!flag("beat_written")) continue;
            const bool meter_known = flag("meter_written");
            Beats truth;
            for (const auto& b : j.at("beats")) {
                truth.all.push_back(b.at("time_s"));
                if (b.at("beat") == 1) truth.ones.push_back(b.at("time_s"));
            }
            if (truth.all.size() < 16) continue;
            std::string stem = path.string();
            stem.resize(stem.size() - std::string(".truth.json").size());
            const auto analysis = analyse(std::filesystem::path(stem + ".flac"), {}, EvidenceStore::of_user());
            if (!analysis) {
                std::fprintf(stderr, "%s\n", analysis.error().message().c_str());
                continue;
            }
            const Remake draft = draft_remake(**analysis);
            const Evidence& evidence = *(*analysis)->evidence;
            // Only where the draft counts, too: silence before and after has no beats to compare.
            const double from_s = std::max(truth.all.front(), draft.song->tempo.anchors().front().time_s),
                         to_s = std::min(truth.all.back(), draft.song->tempo.anchors().back().time_s);
            const auto within = [&](std::vector<double> v) {
                std::erase_if(v, [&](double t) { return t < from_s - 0.03 || t > to_s + 0.03; });
                return v;
            };
            const Beats wanted{within(truth.all), within(truth.ones)};
            const auto score = [&](const Remake& r) {
                const Beats found = counted(*r.song, from_s, to_s);
                return Score{f_measure(wanted.all, found.all), f_measure(wanted.ones, found.ones)};
            };
            // All that one gesture makes of a count.
            const auto next = [&](const Remake& r) {
                std::vector<std::pair<std::string, Remake>> out;
                const auto offered = readings(*r.song, evidence);
                for (std::size_t k = 1; k < offered.size(); ++k)
                    out.emplace_back(offered[k].words, take_reading(r, offered[k].factor, offered[k].later, offered[k].numerator, offered[k].denominator));
                const std::size_t middle = wanted.ones.size() / 2;
                if (!wanted.ones.empty()) out.emplace_back("downbeat", set_downbeat(r, wanted.ones[middle]));
                for (const char* m : {"3/4", "4/4", "6/8", "12/8", "2/4"}) {
                    int above = 0, below = 0;
                    std::sscanf(m, "%d/%d", &above, &below);
                    out.emplace_back(std::string("meter ") + m, set_meter(r, above, below));
                }
                return out;
            };
            /// Gestures from a count to the right one, what they are, and how near they lead; 9 for more than two.
            struct Way {
                int gestures = 9;
                std::string how;
                Score best;
                bool offered_first = false;
            };
            const auto way = [&](const Remake& begin) {
                Way w;
                w.best = score(begin);
                if (w.best.right(meter_known)) {
                    w.gestures = 0;
                    return w;
                }
                const auto once = next(begin);
                for (std::size_t k = 0; k < once.size() && w.gestures > 1; ++k) {
                    const Score s = score(once[k].second);
                    if (s.right(meter_known)) w.gestures = 1, w.how = once[k].first, w.best = s, w.offered_first = k == 0;
                    if (s.value(meter_known) > w.best.value(meter_known)) w.best = s, w.how = once[k].first;
                }
                for (std::size_t k = 0; k < once.size() && w.gestures > 2; ++k)
                    for (const auto& [words, r] : next(once[k].second)) {
                        const Score s = score(r);
                        if (s.value(meter_known) > w.best.value(meter_known)) w.best = s, w.how = once[k].first + ", " + words;
                        if (s.right(meter_known) && w.gestures > 2) w.gestures = 2;
                    }
                return w;
            };
            if (misread) {
                if (!score(draft).right(meter_known)) continue;
                const Ticks beat = draft.song->meter.at_bar(1).beat_ticks();
                for (const auto& [words, factor, later] : {std::tuple{"half", 0.5, Ticks{0}},
                                                           {"double", 2.0, Ticks{0}},
                                                           {"3/2", 1.5, Ticks{0}},
                                                           {"2/3", 2.0 / 3.0, Ticks{0}},
                                                           {"4/3", 4.0 / 3.0, Ticks{0}},
                                                           {"3/4", 0.75, Ticks{0}},
                                                           {"half a beat off", 1.0, beat / 2},
                                                           {"a beat off", 1.0, beat},
                                                           {"2/3, aside", 2.0 / 3.0, beat / 3},
                                                           {"3/2, aside", 1.5, beat / 2}}) {
                    const Remake begin = take_reading(draft, factor, later);
                    if (score(begin).right(meter_known)) continue;
                    const Way w = way(begin);
                    ++songs, ++wrong;
                    first += w.offered_first;
                    ++reached[w.gestures];
                    if (w.gestures > 1)
                        std::printf("%-14s %-16s  %d  %-34s  (%.2f, %.2f)\n", path.stem().stem().c_str(), words, w.gestures, w.how.c_str(), w.best.beats,
                                    w.best.ones);
                }
                continue;
            }
            const Score now = score(draft);
            Way found = way(draft);
            int& gestures = found.gestures;
            std::string& how = found.how;
            const Score& best = found.best;
            ++songs;
            wrong += gestures > 0;
            first += found.offered_first;
            // Tapping along, whatever the draft counts.
            std::vector<double> taps;
            for (std::size_t k = wanted.all.size() / 3; k < wanted.all.size() && taps.size() < 8; ++k) taps.push_back(wanted.all[k] + 0.015 + unsteady(random));
            std::string by_taps = "-";
            if (const auto meaning = meaning_of_taps(*draft.song, evidence, taps)) {
                Remake r = draft;
                if (meaning->beats_s.empty()) {
                    r = take_reading(draft, meaning->factor, meaning->later);
                } else {
                    std::vector<TempoMap::Anchor> anchors;
                    for (const double t : meaning->beats_s) anchors.push_back({static_cast<Ticks>(anchors.size()) * kTicksPerQuarter, t});
                    r = take_beat_map(draft, TempoMap(anchors), MeterMap({{1, 4, 4}}));
                }
                const Score s = score(r);
                char text[48];
                std::snprintf(text, sizeof text, "%.2f by taps", s.beats);
                by_taps = text;
                tapped += s.beats >= 0.9;
                if (s.beats >= 0.9 && gestures > 1) {
                    if (s.right(meter_known)) gestures = 1, how = "taps";
                    else if (!wanted.ones.empty() && score(set_downbeat(r, wanted.ones[wanted.ones.size() / 2])).right(meter_known) && gestures > 2)
                        gestures = 2, how = "taps, downbeat";
                }
            }
            ++reached[gestures];
            std::printf("%-22s  %.2f   %.2f   %s  %-32s  (%.2f, %.2f; %s)\n", path.stem().stem().c_str(), now.beats, now.ones,
                        gestures == 9 ? "not in two" : std::to_string(gestures).c_str(), how.c_str(), best.beats, best.ones, by_taps.c_str());
        }
    }
    std::printf(
        "%d excerpts: right at once %d, in one gesture %d (the first reading offered in %d of %d), in two %d, not in two %d; tapping finds the beats of %d\n",
        songs, reached[0], reached[1], first, wrong, reached[2], reached[9], tapped);
    return 0;
}

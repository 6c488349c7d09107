// SPDX-License-Identifier: GPL-3.0-or-later
// What the walk through the doubtful notes of the demo's draft comes to for someone who hears everything: how many notes are corrected, how many keys that
// takes, how long its loops last, and what is wrong before and after.
//   fw-walk [RECORDING TRUTH.json]
#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "base/guard.hpp"
#include "check/doubts.hpp"
#include "model/drums.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

using namespace fw;

namespace {

constexpr double kTolerance_s = 0.05;

struct Played {
    double at_s = 0.0;
    int pitch = 0;
};

/// What a part of a role should play: of drums keys; the draft tells chords from what else there is less sharply than the truth does, so both may play either.
std::map<PartRole, std::vector<Played>> truth_of(const nlohmann::json& j) {
    std::map<PartRole, std::vector<Played>> truth;
    for (const auto& p : j["parts"])
        for (const auto& n : p["notes"]) {
            const Played note{n["onset_s"], n["pitch"]};
            if (p["role"] == "bass") truth[PartRole::Bass].push_back(note);
            else if (p["role"] == "lead") truth[PartRole::Lead].push_back(note);
            else truth[PartRole::Chords].push_back(note), truth[PartRole::Other].push_back(note);
        }
    for (const auto& h : j["drums"])
        if (const auto kind = parse_drum_kind(h["kind"].get<std::string>())) truth[PartRole::Drums].push_back({h["time_s"], drum_sound(*kind).key});
    return truth;
}

/// Of drums the sound counts, whichever of its keys is written.
bool same(PartRole role, int a, int b) {
    if (role != PartRole::Drums) return a == b;
    const DrumSound *x = drum_sound_of_key(a), *y = drum_sound_of_key(b);
    return x && x == y;
}

bool plays(const std::vector<Played>& all, PartRole role, double at_s, int pitch) {
    return std::any_of(all.begin(), all.end(), [&](const Played& p) { return same(role, p.pitch, pitch) && std::abs(p.at_s - at_s) <= kTolerance_s; });
}

/// How many of some notes others do not have.
int not_in(const std::vector<Played>& some, const std::vector<Played>& others, PartRole role) {
    return static_cast<int>(std::count_if(some.begin(), some.end(), [&](const Played& p) { return !plays(others, role, p.at_s, p.pitch); }));
}

}  // namespace

int main(int argc, char** argv) {
    const std::string demo = FW_DEMO_DIR, recording = argc > 2 ? argv[1] : demo + "/lantern-ferry.ogg",
                      truth_file = argc > 2 ? argv[2] : demo + "/lantern-ferry.truth.json";
    const auto analysis = analyse(std::filesystem::path(recording));
    if (!analysis) return std::fprintf(stderr, "fw-walk: %s\n", analysis.error().message().c_str()), 1;
    const Remake remake = draft_remake(**analysis);
    const CheckReport report = check(remake, **analysis);
    const auto truth = truth_of(nlohmann::json::parse(std::ifstream(truth_file)));
    // As the window loops them: a moment before and behind, at half speed.
    constexpr double kBefore_s = 0.3, kAfter_s = 0.35, kLongest_s = 2.5, kSpeed = 0.5;
    double all_s = 0.0;
    int all_keys = 0, all_changed = 0;
    const auto figure = [](int n) { return n < 0 ? std::string("–") : std::to_string(n); };
    std::printf("part           asked  right  changed  taken away  added  keys  loops s   wrong before  after   missing before  after\n");
    for (const auto& part : remake.parts) {
        const PartRole role = part->role;
        const auto found = truth.find(role);
        if (found == truth.end()) continue;
        const auto& meant = found->second;
        const bool shared = role == PartRole::Chords || role == PartRole::Other;  // what one of them lacks the other may play
        std::vector<Played> written;
        for (const PlacedNote& n : placed_notes(*part)) written.push_back({remake.song->tempo.seconds(n.note.start), n.note.pitch});
        const auto before = written;
        int asked = 0, right = 0, changed = 0, gone = 0, added = 0, keys = 1;
        double loops_s = 0.0;
        for (Doubt d : doubts(remake, report, part->id)) {
            look_closer(remake, *(*analysis)->evidence, d);
            ++asked;
            const double at_s = remake.song->tempo.seconds(d.shown.start);
            const double loop_s = (std::min(d.end_s, d.start_s + kLongest_s) + kAfter_s - std::max(0.0, d.start_s - kBefore_s)) / kSpeed;
            loops_s += loop_s;
            ++keys;  // the answer
            const auto it = std::find_if(written.begin(), written.end(),
                                         [&](const Played& p) { return d.note && p.pitch == d.shown.pitch && std::abs(p.at_s - at_s) < 1e-6; });
            if (plays(meant, role, at_s, d.shown.pitch) == d.note.has_value()) {
                ++right;
                continue;
            }
            // Each alternative is heard once until the true one comes.
            bool taken = false;
            for (const Alternative& a : d.alternatives) {
                if (a.written) continue;
                ++keys, loops_s += loop_s;
                if (!plays(meant, role, at_s, a.pitch) || plays(written, role, at_s, a.pitch)) continue;
                if (it != written.end()) it->pitch = a.pitch, ++changed;
                else written.push_back({at_s, a.pitch}), ++added;
                taken = true;
                break;
            }
            if (!taken && it != written.end()) written.erase(it), ++gone;
            else if (!taken && !d.note) written.push_back({at_s, d.shown.pitch}), ++added;
        }
        std::printf("%-14s %5d  %5d  %7d  %10d  %5d  %4d  %7.0f   %12d  %5d   %14s  %5s\n", part->name.c_str(), asked, right, changed, gone, added, keys,
                    loops_s, not_in(before, meant, role), not_in(written, meant, role), figure(shared ? -1 : not_in(meant, before, role)).c_str(),
                    figure(shared ? -1 : not_in(meant, written, role)).c_str());
        all_s += loops_s, all_keys += keys, all_changed += changed + gone + added;
    }
    std::printf("together: %d corrections, %d keys, loops heard once last %.0f min\n", all_changed, all_keys, all_s / 60.0);
    return 0;
}

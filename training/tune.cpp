// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the decoders' thresholds on recordings with known truth: hears each once, then tries settings.
//   fw-tune FOLDER   (holds <id>.flac and <id>.truth.json as bench/accuracy uses them)
// Settings are chosen on every second recording; the others are held out. Prints, for beats, each drum sound, notes and bass lines,
// the best mean F on the first with the settings that reach it, and the mean F of the held-out ones at those settings.
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"
#include "support/truth.hpp"

#include <cstdio>

namespace {

using namespace fw;

struct Song {
    Evidence evidence;
    std::vector<HeardNote> notes, bass;
    std::map<std::string, std::vector<double>> hits;
    std::vector<double> beats;
    std::vector<Beat> bars;  ///< as found
    double bpm = 0.0;
};

/// Mean of a figure over the recordings settings are chosen on, and over those held out.
struct Figure {
    double chosen = 0.0, held = 0.0;
    int chosen_count = 0, held_count = 0;
    void add(std::size_t song, double f) { (song % 2 ? held : chosen) += f, ++(song % 2 ? held_count : chosen_count); }
    double on_chosen() const { return chosen_count ? chosen / chosen_count : 0.0; }
    double on_held() const { return held_count ? held / held_count : 0.0; }
};

/// As the corpus groups kinds.
std::string group_of(const std::string& kind) { return kind.rfind("hat", 0) == 0 ? "hat" : kind == "clap" || kind == "rim" ? "snare" : kind; }

std::vector<HeardNote> notes_of(const nlohmann::json& list) {
    std::vector<HeardNote> out;
    for (const auto& n : list) out.push_back({n["onset_s"], n["duration_s"], n["pitch"], n["velocity"], 1.0});
    return out;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2) return std::fprintf(stderr, "usage: fw-tune FOLDER\n"), 2;
    std::vector<std::filesystem::path> paths;
    for (const auto& entry : std::filesystem::directory_iterator(argv[1]))
        if (entry.path().extension() == ".flac") paths.push_back(entry.path());
    std::sort(paths.begin(), paths.end());
    std::vector<Song> songs;
    for (const auto& path : paths) {
        auto mono = read_mono(path);
        if (!mono) continue;
        const auto truth = nlohmann::json::parse(std::ifstream(path.parent_path() / (path.stem().string() + ".truth.json")));
        Song song{hear(*mono, {}),
                  notes_of(truth["notes"]),
                  truth["bass"].size() >= 40 ? notes_of(truth["bass"]) : std::vector<HeardNote>{},
                  {},
                  {},
                  {},
                  truth["tempo_bpm"].is_null() ? 0.0 : truth["tempo_bpm"].get<double>()};
        for (const auto& b : truth["beats"]) song.beats.push_back(b["time_s"]);
        for (const auto& h : truth["drums"]) song.hits[group_of(h["kind"])].push_back(h["time_s"]);
        auto tracked = track_beats(song.evidence.pulse);
        (void)fit_tempo(tracked, song.evidence.pulse);
        song.bars = find_bars(tracked, song.evidence.pulse, bar_line_clues(song.evidence, tracked)).beats;
        songs.push_back(std::move(song));
        std::fprintf(stderr, ".");
    }
    std::fprintf(stderr, "\n");
    for (const double neutral : {0.03, 0.05, 0.08})
        for (const double leaning : {1.0, 2.5, 5.0}) {
            Figure f, right;
            for (std::size_t s = 0; s < songs.size(); ++s) {
                auto beats = track_beats(songs[s].evidence.pulse, {}, {45, 230, neutral, leaning});
                right.add(s, std::abs(fit_tempo(beats, songs[s].evidence.pulse).bpm / songs[s].bpm - 1) < 0.04);
                std::erase_if(beats, [&](double b) { return b > songs[s].beats.back() + 0.05 || b < songs[s].beats.front() - 0.05; });
                f.add(s, test::onset_f(songs[s].beats, beats, 0.07));
            }
            std::printf("beats  F %.3f (held out %.3f) tempo %.2f (%.2f) at neutral %.3f leaning %.1f\n", f.on_chosen(), f.on_held(), right.on_chosen(),
                        right.on_held(), neutral, leaning);
        }
    // One threshold after the other, twice round: the sounds of a group answer for each other's strokes.
    for (const auto& [group, columns] : std::map<std::string, std::vector<int>>{
             {"kick", {kKick}}, {"snare", {kSnare, kClap, kRim}}, {"hat", {kHatClosed, kHatOpen}}, {"tom", {kTom}}, {"crash", {kCrash}}, {"ride", {kRide}}})
        for (const float relative : {0.0F, 0.3F, 0.4F, 0.5F}) {
            Figure best;
            DrumOptions settings;
            settings.relative.fill(relative);
            settings.threshold.fill(0.999F);
            for (int round = 0; round < (columns.size() > 1 ? 2 : 1); ++round)
                for (const int column : columns) {
                    float& threshold = settings.threshold[static_cast<std::size_t>(column)];
                    float kept = threshold;
                    for (const float t : {0.1F, 0.15F, 0.2F, 0.25F, 0.3F, 0.35F, 0.4F, 0.5F, 0.6F, 0.7F, 0.999F}) {
                        threshold = t;
                        Figure f;
                        for (std::size_t s = 0; s < songs.size(); ++s) {
                            const auto truth = songs[s].hits.find(group);
                            if (truth == songs[s].hits.end() || truth->second.size() < 20) continue;
                            std::vector<double> found;
                            for (const Hit& h : decode_drums(songs[s].evidence, songs[s].bars, settings)) found.push_back(h.time_s);
                            f.add(s, test::onset_f(truth->second, found, 0.05));
                        }
                        if (f.on_chosen() > best.on_chosen()) best = f, kept = t;
                    }
                    threshold = kept;
                }
            std::printf("%-6s F %.3f (held out %.3f) relative %.1f at", group.c_str(), best.on_chosen(), best.on_held(), static_cast<double>(relative));
            for (const int column : columns)
                std::printf(" %s %.2f", drum_sound(static_cast<DrumKind>(column)).id,
                            static_cast<double>(settings.threshold[static_cast<std::size_t>(column)]));
            std::printf("\n");
        }
    Figure best;
    NoteOptions chosen;
    for (const float note : {0.25F, 0.3F, 0.35F, 0.4F, 0.45F})
        for (const float carry : {0.2F, 0.28F, 0.36F}) {
            const NoteOptions options{note, carry};
            Figure f;
            for (std::size_t s = 0; s < songs.size(); ++s) f.add(s, test::note_f(songs[s].notes, decode_notes(songs[s].evidence, options)));
            if (f.on_chosen() > best.on_chosen()) best = f, chosen = options;
        }
    std::printf("notes  F %.3f (held out %.3f) at note %.2f carry %.2f\n", best.on_chosen(), best.on_held(), static_cast<double>(chosen.note),
                static_cast<double>(chosen.carry));
    best = {};
    LineOptions line;
    for (const float move : {3.0F, 5.0F})
        for (const float favour : {0.5F, 1.0F, 2.0F})
            for (const float struck_share : {0.4F, 0.6F, 0.8F})
                for (const float least : {0.2F, 0.3F, 0.4F})
                    for (const double shortest : {0.06, 0.1}) {
                        const LineOptions options{move, favour, 0.15F, struck_share, least, shortest};
                        Figure f;
                        for (std::size_t s = 0; s < songs.size(); ++s)
                            if (!songs[s].bass.empty()) f.add(s, test::note_f(songs[s].bass, decode_line(songs[s].evidence, PartRole::Bass, options)));
                        if (f.on_chosen() > best.on_chosen()) best = f, line = options;
                    }
    std::printf("bass   F %.3f (held out %.3f) at move %.1f favour %.1f struck share %.2f least %.2f shortest %.2f\n", best.on_chosen(), best.on_held(),
                static_cast<double>(line.move), static_cast<double>(line.favour), static_cast<double>(line.struck_share), static_cast<double>(line.least),
                line.shortest_s);
    return 0;
}

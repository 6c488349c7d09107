// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the decoders' thresholds on recordings with known truth: hears each once, then tries settings.
//   fw-tune FOLDER   (holds <id>.flac and <id>.truth.json as bench/accuracy uses them)
// Prints the best mean F for each drum sound, for notes and for bass and lead lines, with the settings that reach it.
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
    std::vector<Song> songs;
    for (const auto& entry : std::filesystem::directory_iterator(argv[1])) {
        if (entry.path().extension() != ".flac") continue;
        auto mono = read_mono(entry.path());
        if (!mono) continue;
        const auto truth = nlohmann::json::parse(std::ifstream(entry.path().parent_path() / (entry.path().stem().string() + ".truth.json")));
        Song song{hear(*mono, {}), notes_of(truth["notes"]), truth["bass"].size() >= 40 ? notes_of(truth["bass"]) : std::vector<HeardNote>{}, {}, {}, {}, truth["tempo_bpm"].is_null() ? 0.0 : truth["tempo_bpm"].get<double>()};
        for (const auto& b : truth["beats"]) song.beats.push_back(b["time_s"]);
        for (const auto& h : truth["drums"]) song.hits[group_of(h["kind"])].push_back(h["time_s"]);
        auto tracked = track_beats(song.evidence.pulse);
        (void)fit_tempo(tracked, song.evidence.pulse);
        song.bars = find_bars(tracked, song.evidence.pulse, bar_line_clues(song.evidence, tracked)).beats;
        songs.push_back(std::move(song));
        std::fprintf(stderr, ".");
    }
    std::fprintf(stderr, "\n");
    for (const double neutral : {0.03, 0.0625, 0.12})
        for (const double leaning : {1.0, 2.5, 5.0, 10.0}) {
            double f = 0, right = 0, octave = 0;
            for (const Song& s : songs) {
                auto beats = track_beats(s.evidence.pulse, {}, {45, 230, neutral, leaning});
                const double bpm = fit_tempo(beats, s.evidence.pulse).bpm;
                std::erase_if(beats, [&](double b) { return b > s.beats.back() + 0.05 || b < s.beats.front() - 0.05; });
                f += test::onset_f(s.beats, beats, 0.07) / static_cast<double>(songs.size());
                right += std::abs(bpm / s.bpm - 1) < 0.04;
                octave += std::abs(bpm / s.bpm - 1) < 0.04 || std::abs(bpm / s.bpm - 2) < 0.08 || std::abs(bpm / s.bpm - 0.5) < 0.02;
            }
            std::printf("beats  F %.3f tempo1 %.2f tempo2 %.2f at neutral %.4f leaning %.1f\n", f, right / static_cast<double>(songs.size()), octave / static_cast<double>(songs.size()), neutral, leaning);
        }
    for (const auto& [group, columns] : std::map<std::string, std::vector<int>>{{"kick", {kKick}}, {"snare", {kSnare, kClapRim}}, {"hat", {kHatClosed, kHatOpen}}}) {
        for (const float repetition : {0.0F, 0.3F, 0.6F, 1.0F}) {
        double best = 0;
        std::pair<float, float> at;
        for (float t = 0.1F; t < 0.7F; t += 0.05F)
            for (float u = columns.size() > 1 ? 0.2F : 0.85F; u < 0.9F; u += 0.2F) {
                DrumOptions options;
                options.repetition = repetition;
                options.threshold.fill(0.999F);
                options.threshold[static_cast<std::size_t>(columns[0])] = t;
                if (columns.size() > 1) options.threshold[static_cast<std::size_t>(columns[1])] = u;
                double sum = 0;
                int count = 0;
                for (const Song& s : songs) {
                    const auto truth = s.hits.find(group);
                    if (truth == s.hits.end() || truth->second.size() < 20) continue;
                    std::vector<double> found;
                    for (const Hit& h : decode_drums(s.evidence, s.bars, options)) found.push_back(h.time_s);
                    sum += test::onset_f(truth->second, found, 0.05);
                    ++count;
                }
                if (count && sum / count > best) best = sum / count, at = {t, u};
            }
        std::printf("%-6s F %.3f at %.2f %.2f repetition %.1f\n", group.c_str(), best, static_cast<double>(at.first), static_cast<double>(at.second), static_cast<double>(repetition));
        }
    }
    double best = 0;
    NoteOptions chosen;
    for (const float onset : {0.2F, 0.25F, 0.3F, 0.35F, 0.4F, 0.5F})
        for (const float sounding : {0.15F, 0.25F, 0.35F, 0.5F})
            for (const float bare : {0.6F, 0.75F, 0.9F}) {
                const NoteOptions options{onset, sounding, 0.28F, bare};
                double sum = 0;
                for (const Song& s : songs) sum += test::note_f(s.notes, decode_notes(s.evidence, options)) / static_cast<double>(songs.size());
                if (sum > best) best = sum, chosen = options;
            }
    std::printf("notes  F %.3f at onset %.2f sounding %.2f bare %.2f\n", best, static_cast<double>(chosen.onset), static_cast<double>(chosen.sounding), static_cast<double>(chosen.bare));
    best = 0;
    LineOptions line;
    for (const float move : {1.5F, 3.0F, 5.0F})
        for (const float favour : {-0.5F, 0.0F, 0.5F, 1.0F})
            for (const float struck : {0.15F, 0.25F, 0.35F, 0.5F})
                for (const float least : {0.2F, 0.3F, 0.4F}) {
                    const LineOptions options{move, favour, struck, least, LineOptions{}.shortest_s};
                    double sum = 0;
                    int count = 0;
                    for (const Song& s : songs)
                        if (!s.bass.empty()) sum += test::note_f(s.bass, decode_line(s.evidence, Role::Bass, options)), ++count;
                    if (count && sum / count > best) best = sum / count, line = options;
                }
    std::printf("bass   F %.3f at move %.1f favour %.1f struck %.2f least %.2f\n", best, static_cast<double>(line.move), static_cast<double>(line.favour), static_cast<double>(line.struck), static_cast<double>(line.least));
    return 0;
}

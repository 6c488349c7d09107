// SPDX-License-Identifier: GPL-3.0-or-later
// Writes what tells notes from partials, for training/judge.py.
//   fw-clues FOLDER   ->  FOLDER/<id>.clues for each <id>.flac: per entry its time in seconds, its MIDI pitch and kNoteClues clues, as 32-bit floats
#include "analysis/note_judge.hpp"
#include "audio/audio_file.hpp"

#include <cstdio>
#include <filesystem>
#include <fstream>

int main(int argc, char** argv) {
    if (argc != 2) return std::fprintf(stderr, "usage: fw-clues FOLDER\n"), 2;
    for (const auto& file : std::filesystem::directory_iterator(argv[1])) {
        auto path = file.path();
        if (path.extension() != ".flac") continue;
        const auto mono = fw::read_mono(path);
        if (!mono) return std::fprintf(stderr, "%s\n", mono.error().message().c_str()), 1;
        const fw::Evidence evidence = fw::hear(*mono, {});
        const auto entries = fw::note_entries(evidence);
        const fw::Frames clues = fw::note_clues(evidence, entries, fw::song_clarity(evidence, entries));
        std::ofstream out(path.replace_extension(".clues"), std::ios::binary);
        const auto write = [&](float v) { out.write(reinterpret_cast<const char*>(&v), sizeof v); };
        for (std::size_t i = 0; i < entries.size(); ++i) {
            write(static_cast<float>(fw::Evidence::pitch_time(static_cast<double>(entries[i].frame))));
            write(static_cast<float>(entries[i].pitch) + fw::Evidence::kLowestPitch);
            for (int c = 0; c < fw::kNoteClues; ++c) write(clues(c, static_cast<Eigen::Index>(i)));
        }
    }
    return 0;
}

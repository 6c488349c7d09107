// SPDX-License-Identifier: GPL-3.0-or-later
// How surely a source is found: pieces of some recordings, treated as samplers treat them, are laid into others, and looked for again, also where they are not.
#include "audio/audio_file.hpp"
#include "audio/mono.hpp"
#include "engine/clip_sound.hpp"
#include "engine/offline.hpp"
#include "fit/find_source.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <random>
#include <string>
#include <vector>

namespace {

using namespace fw;

constexpr int kRate = 44100;

struct Recordings {
    std::vector<Audio> sounds;
    std::vector<std::string> names;
};

/// The first minutes of every sound in a folder.
Recordings read_all(const std::filesystem::path& folder, double minutes) {
    std::vector<std::filesystem::path> paths;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder))
        if (const auto ending = entry.path().extension(); ending == ".wav" || ending == ".flac" || ending == ".ogg" || ending == ".mp3")
            paths.push_back(entry.path());
    std::sort(paths.begin(), paths.end());
    Recordings all;
    for (const auto& path : paths) {
        auto read = read_audio(path);
        if (!read || read->duration_s() < 60.0) continue;
        Audio sound = at_rate(std::move(*read), kRate);
        sound.samples.resize(std::min(sound.samples.size(), static_cast<std::size_t>(2.0 * 60.0 * minutes * kRate)));
        all.sounds.push_back(std::move(sound));
        all.names.push_back(path.stem().string());
    }
    return all;
}

double power_of(const Audio& a, std::size_t from, std::size_t to) {
    double sum = 0.0;
    for (std::size_t i = from; i < std::min(to, a.samples.size()); ++i) sum += static_cast<double>(a.samples[i]) * static_cast<double>(a.samples[i]);
    return sum;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) return std::fprintf(stderr, "usage: fw-sources FOLDER [TRIES] [SEED]\n"), 2;
    const Recordings all = read_all(argv[1], 3.0);
    const int tries = argc > 2 ? std::atoi(argv[2]) : 12;
    std::mt19937 random(argc > 3 ? static_cast<unsigned>(std::atoi(argv[3])) : 1);
    if (all.sounds.size() < 3) return std::fprintf(stderr, "fw-sources: %s holds fewer than three recordings of a minute\n", argv[1]), 2;
    const auto uniform = [&](double low, double high) { return low + (high - low) * static_cast<double>(random()) / 4294967296.0; };
    constexpr double kSeconds = 8.0;
    std::printf("level dB   there   found right   found wrong   there itself   place ms   speed %%   semitones   | not there   said to be\n");
    for (const double level : {0.0, -6.0, -12.0}) {
        int right = 0, wrong = 0, lies = 0;
        std::vector<double> places, speeds, pitches;
        for (int t = 0; t < tries; ++t) {
            const std::size_t n = all.sounds.size(), host = random() % n, source = (host + 1 + random() % (n - 1)) % n;
            std::size_t other = random() % n;
            while (other == host || other == source) other = (other + 1) % n;
            SourcePlace true_place;
            true_place.speed = t % 4 == 0 ? 1.0 : std::exp2(uniform(-0.6, 0.6));
            if (t % 2 == 0) true_place.semitones = std::round(uniform(-7.0, 7.0));
            else true_place.as_tape = true_place.speed != 1.0, true_place.semitones = 12.0 * std::log2(true_place.speed);
            true_place.from_s = uniform(5.0, all.sounds[source].duration_s() - kSeconds * true_place.speed - 5.0);
            const double at_s = uniform(10.0, all.sounds[host].duration_s() - 20.0);
            const Audio piece = follow_recipe(all.sounds[source], recipe_of(true_place, kSeconds), kRate);
            Audio mix = all.sounds[host];
            const auto at = 2 * static_cast<std::size_t>(at_s * kRate);
            const double gain = std::pow(10.0, level / 20.0) *
                                std::sqrt(power_of(mix, at, at + piece.samples.size()) / std::max(1e-9, power_of(piece, 0, piece.samples.size())));
            for (std::size_t i = 0; i < piece.samples.size() && at + i < mix.samples.size(); ++i)
                mix.samples[at + i] += static_cast<float>(gain) * piece.samples[i];
            const double from_s = static_cast<double>(at / 2) / kRate;
            const auto found = find_source(mix, from_s, from_s + kSeconds, all.sounds[source]);
            const auto lie = find_source(mix, from_s, from_s + kSeconds, all.sounds[other]);
            if (found && *found) {
                const double off_ms = 1000.0 * ((*found)->from_s - true_place.from_s), speed = 100.0 * ((*found)->speed / true_place.speed - 1.0);
                const double pitch = std::abs((*found)->semitones - true_place.semitones);
                // A song may play the same twice: then the other place is as right.
                if (std::abs(speed) < 1.0 && pitch < 0.25) {
                    ++right;
                    if (std::abs(off_ms) < 150.0) places.push_back(std::abs(off_ms));
                    speeds.push_back(std::abs(speed)), pitches.push_back(pitch);
                } else {
                    ++wrong;
                }
            }
            if (lie && *lie) ++lies;
            if (std::getenv("FW_EACH"))
                std::fprintf(stderr, "%s in %s: %.3f %.4f %.2f -> %s %.3f %.4f %.2f (%.1f) | %s %s\n", all.names[source].c_str(), all.names[host].c_str(),
                             true_place.from_s, true_place.speed, true_place.semitones, found && *found ? "found" : "none",
                             found && *found ? (*found)->from_s : 0.0, found && *found ? (*found)->speed : 0.0, found && *found ? (*found)->semitones : 0.0,
                             found && *found ? (*found)->stands_out : 0.0, all.names[other].c_str(),
                             lie && *lie ? ("FOUND " + std::to_string((*lie)->stands_out)).c_str() : "none");
        }
        const auto middle = [](std::vector<double> v) {
            std::sort(v.begin(), v.end());
            return v.empty() ? 0.0 : v[v.size() / 2];
        };
        std::printf("%8.0f   %5d   %11d   %11d   %12zu   %8.1f   %7.3f   %9.3f   | %9d   %10d\n", level, tries, right, wrong, places.size(), middle(places),
                    middle(speeds), middle(pitches), tries, lies);
        std::fflush(stdout);
    }
}

// SPDX-License-Identifier: GPL-3.0-or-later
// Sound and evidence made in code, so that every test knows the truth exactly.
#pragma once

#include "audio/audio_file.hpp"

#include <sys/wait.h>
#include <unistd.h>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <numbers>
#include <string>
#include <vector>

namespace fw::test {

inline Audio sine(double hz, double seconds, int rate = 44100, int channels = 2, float level = 0.5F) {
    Audio a{rate, channels, {}, {}};
    for (int f = 0; f < static_cast<int>(seconds * rate); ++f)
        for (int c = 0; c < channels; ++c) a.samples.push_back(level * static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * f / rate)));
    return a;
}

/// Clicks of filtered noise at given times.
inline Audio clicks(const std::vector<double>& times_s, double seconds, int rate = 44100) {
    Audio a{rate, 1, std::vector<float>(static_cast<std::size_t>(seconds * rate), 0.0F), {}};
    unsigned noise = 1;
    for (const double t : times_s)
        for (int i = 0; i < rate / 20; ++i) {
            const auto at = static_cast<std::size_t>(t * rate) + static_cast<std::size_t>(i);
            if (at >= a.samples.size()) break;
            noise = noise * 1664525u + 1013904223u;
            a.samples[at] += 0.8F * static_cast<float>(std::exp(-i / (0.008 * rate))) * (static_cast<float>(noise >> 8) / 8388608.0F - 1.0F);
        }
    return a;
}

/// Notes with a few partials, decaying; pitch as a MIDI number, tuned by cents.
struct Tone {
    double start_s, length_s;
    int pitch;
    float level = 0.2F;
};
inline Audio tones(const std::vector<Tone>& list, double seconds, double cents = 0.0, int rate = 44100) {
    Audio a{rate, 1, std::vector<float>(static_cast<std::size_t>(seconds * rate), 0.0F), {}};
    for (const Tone& t : list) {
        const double hz = 440.0 * std::exp2((t.pitch - 69) / 12.0 + cents / 1200.0);
        for (int i = 0; i < static_cast<int>(t.length_s * rate); ++i) {
            const auto at = static_cast<std::size_t>(t.start_s * rate) + static_cast<std::size_t>(i);
            if (at >= a.samples.size()) break;
            const double s = static_cast<double>(i) / rate, fade = std::min({1.0, s / 0.005, (t.length_s - s) / 0.02});
            double v = 0;
            for (int k = 1; k <= 6 && k * hz < rate * 0.45; ++k) v += std::sin(2.0 * std::numbers::pi * k * hz * s) / (k * k) * std::exp(-1.2 * k * s);
            a.samples[at] += t.level * static_cast<float>(fade * v);
        }
    }
    return a;
}

/// Writes a sound with noise under it, so that every part of the file counts, and keeps only the first share of the file's bytes.
inline void write_truncated(const std::filesystem::path& path, Audio sound, double share) {
    unsigned n = 5;
    for (float& s : sound.samples) n = n * 1664525u + 1013904223u, s += 0.05F * (static_cast<float>(n >> 8) / 8388608.0F - 1.0F);
    if (!write_audio(path, sound)) std::abort();
    std::filesystem::resize_file(path, static_cast<std::uintmax_t>(static_cast<double>(std::filesystem::file_size(path)) * share));
}

/// Whether something holds for a user who may not do everything, as root may: asked in a process of its own.
template <class Question>
bool as_nobody(const Question& question) {
    const pid_t child = ::fork();
    if (child == 0) {
        if (::geteuid() == 0 && (::setgid(65534) != 0 || ::setuid(65534) != 0)) ::_exit(2);
        ::_exit(question() ? 0 : 1);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    return status == 0;
}

/// A folder of its own for a test, removed with it.
class TemporaryFolder {
public:
    TemporaryFolder() {
        std::string pattern = (std::filesystem::temp_directory_path() / "fw-test-XXXXXX").string();
        path_ = ::mkdtemp(pattern.data());
    }
    ~TemporaryFolder() {
        std::error_code ec;
        std::filesystem::permissions(path_, std::filesystem::perms::owner_all, ec);
        std::filesystem::remove_all(path_, ec);
    }
    std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
    const std::filesystem::path& path() const { return path_; }

private:
    std::filesystem::path path_;
};

}  // namespace fw::test

// SPDX-License-Identifier: GPL-3.0-or-later
// Drum hits by peak picking on the evidence of each sound (Böck, Krebs & Schedl, "Evaluating the online capabilities of onset detection methods", 2012).
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

struct Sound {
    int column;
    DrumKind kind;
    int band;  ///< of Evidence::bands, for the velocity
};
constexpr std::array<Sound, 8> kSounds{{{kKick, DrumKind::Kick, 0}, {kSnare, DrumKind::Snare, 1}, {kClapRim, DrumKind::Rim, 1}, {kHatClosed, DrumKind::HatClosed, 2},
                                        {kHatOpen, DrumKind::HatOpen, 2}, {kTom, DrumKind::Tom, 0}, {kCrash, DrumKind::Crash, 2}, {kRide, DrumKind::Ride, 2}}};

/// How much a band's level rises at a hit, 0..1 on the log scale of Evidence::bands.
float rise(const Evidence& e, Eigen::Index frame, int band) {
    float before = 1.0F, after = 0.0F;
    for (Eigen::Index f = std::max<Eigen::Index>(0, frame - 4); f < frame; ++f) before = std::min(before, e.bands(f, band));
    for (Eigen::Index f = frame; f <= std::min(frame + 3, e.bands.rows() - 1); ++f) after = std::max(after, e.bands(f, band));
    return std::max(0.0F, after - (frame == 0 ? 0.0F : before));
}

}  // namespace

const char* drum_kind_name(DrumKind kind) {
    static constexpr std::array<const char*, kDrumKinds> kNames{"kick", "snare", "clap", "rim", "hat_closed", "hat_open", "tom", "crash", "ride", "percussion"};
    return kNames[static_cast<std::size_t>(kind)];
}

std::optional<DrumKind> parse_drum_kind(const std::string& name) {
    for (int k = 0; k < kDrumKinds; ++k)
        if (name == drum_kind_name(static_cast<DrumKind>(k))) return static_cast<DrumKind>(k);
    return std::nullopt;
}

std::vector<Hit> decode_drums(const Evidence& e, const DrumOptions& options) {
    std::vector<Hit> hits;
    const Frames& pulse = e.pulse;
    for (const Sound& sound : kSounds) {
        std::vector<Hit> found;
        std::vector<float> strengths;
        for (Eigen::Index f = 0; f < pulse.rows(); ++f) {
            const float v = pulse(f, sound.column);
            if (v < options.threshold[static_cast<std::size_t>(sound.column)]) continue;
            bool peak = true;
            for (Eigen::Index g = std::max<Eigen::Index>(0, f - 2); g <= std::min(f + 2, pulse.rows() - 1); ++g) peak &= g == f || (g < f ? pulse(g, sound.column) < v : pulse(g, sound.column) <= v);
            if (!peak) continue;
            double sum = 0.0, weight = 0.0;
            for (Eigen::Index g = std::max<Eigen::Index>(0, f - 1); g <= std::min(f + 1, pulse.rows() - 1); ++g) sum += static_cast<double>(g) * pulse(g, sound.column), weight += pulse(g, sound.column);
            found.push_back({Evidence::pulse_time(sum / weight), sound.kind, 0, v});
            strengths.push_back(rise(e, f, sound.band));
        }
        if (found.empty()) continue;
        // Velocities are told against the loud hits of the same sound, since a mix says nothing of the player's absolute force.
        std::vector<float> sorted = strengths;
        std::sort(sorted.begin(), sorted.end());
        const float loud = std::max(0.05F, sorted[sorted.size() * 9 / 10]);
        for (std::size_t i = 0; i < found.size(); ++i) {
            found[i].velocity = std::clamp(static_cast<int>(std::lround(112.0F * std::pow(std::min(1.15F, strengths[i] / loud), 0.6F))), 12, 127);
            hits.push_back(found[i]);
        }
    }
    std::sort(hits.begin(), hits.end(), [](const Hit& a, const Hit& b) { return a.time_s != b.time_s ? a.time_s < b.time_s : a.kind < b.kind; });
    return hits;
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/click.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fw {

ClickTrack clicks_of(const Song& song, double end_s, int between) {
    ClickTrack track;
    const Ticks first = std::min<Ticks>(0, song.tempo.anchors().front().tick);
    Ticks t = song.meter.tick_of_bar(song.meter.position(first).bar);
    while (true) {
        const MeterMap::Change& meter = song.meter.at_bar(song.meter.position(t).bar);
        const Ticks beat = meter.beat_ticks();
        if (song.tempo.seconds(t) > end_s) break;
        if (!song.is_free(t))
            for (int k = 0; k <= between; ++k) {
                const double s = song.tempo.seconds(static_cast<double>(t) + static_cast<double>(beat) * k / (between + 1));
                const bool one = k == 0 && song.meter.position(t).beat == 1;
                if (s >= 0.0 && s <= end_s)
                    track.clicks.push_back({s, k > 0 ? ClickTrack::Kind::Between : one ? ClickTrack::Kind::One : ClickTrack::Kind::Beat});
            }
        t += beat;
    }
    return track;
}

void ClickVoice::strike(ClickTrack::Kind kind, double rate) noexcept {
    const double hz = kind == ClickTrack::Kind::One ? 1760.0 : kind == ClickTrack::Kind::Beat ? 1174.7 : 880.0;
    step_ = 2.0 * std::numbers::pi * hz / rate;
    phase_ = 0.0;
    level_ = kind == ClickTrack::Kind::Between ? 0.35F : kind == ClickTrack::Kind::One ? 1.0F : 0.7F;
    decay_ = static_cast<float>(std::exp(-1.0 / (0.008 * rate)));
}

void ClickVoice::add(std::span<float> left, std::span<float> right, float gain) noexcept {
    if (level_ < 1e-4F) return;
    for (std::size_t i = 0; i < left.size(); ++i) {
        const float v = gain * level_ * static_cast<float>(std::sin(phase_));
        left[i] += v;
        right[i] += v;
        phase_ += step_;
        level_ *= decay_;
    }
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>

namespace fw {

/// Attack, decay, sustain and release made in stretches of at most Most frames. Each stage ends when it says: it goes exponentially towards a place beyond its
/// end, the farther beyond the straighter it is. Value type, real-time safe; its fresh state is silence.
template <std::size_t Most>
class Envelope {
public:
    using Stretch = std::array<float, Most>;
    /// curve 0..1: from a fall that is steep at first to a straight line.
    void set(double attack_ms, double decay_ms, double sustain, double release_ms, double curve, double rate) noexcept {
        const double beyond = 0.001 * std::pow(10.0, 4.0 * curve);
        attack_.set(attack_ms, beyond + 0.04, rate);  // a rise is rounder than a fall
        decay_.set(decay_ms, beyond, rate);
        release_.set(release_ms, beyond, rate);
        sustain_ = static_cast<float>(sustain);
    }
    void start() noexcept { stage_ = Stage::Attack; }
    void stop() noexcept {
        if (stage_ == Stage::Idle || stage_ == Stage::Release) return;
        stage_ = Stage::Release;
        from_ = value_;
    }
    void clear() noexcept {
        stage_ = Stage::Idle;
        value_ = 0.0F;
    }
    bool idle() const noexcept { return stage_ == Stage::Idle; }
    double value() const noexcept { return static_cast<double>(value_); }
    /// The next `count` values, at most Most.
    void next(std::size_t count, Stretch& out) noexcept {
        for (std::size_t done = 0; done < count;) done += part(count - done, out, done);
    }
    void skip(std::size_t count) noexcept {
        Stretch unheard;
        next(count, unheard);
    }

private:
    /// Of the way to a target what is left after 1, 2, … frames.
    struct Curve {
        Stretch left{};
        float beyond = 0.01F;
        void set(double ms, double past, double rate) noexcept {
            const double frames = std::max(1.0, ms / 1000.0 * rate), keep = std::exp(-std::log((1.0 + past) / past) / frames);
            double power = 1.0;
            for (float& l : left) l = static_cast<float>(power *= keep);
            beyond = static_cast<float>(past);
        }
    };

    /// Goes to the end of the stage or of what is asked for; returns the frames made.
    std::size_t part(std::size_t count, Stretch& out, std::size_t from) noexcept {
        const auto to = out.begin() + static_cast<std::ptrdiff_t>(from);
        if (stage_ == Stage::Idle || (stage_ == Stage::Decay && value_ <= sustain_)) {
            // What is held follows the field where that is moved.
            if (stage_ == Stage::Decay) value_ = sustain_;
            std::fill_n(to, count, stage_ == Stage::Idle ? 0.0F : value_);
            if (stage_ == Stage::Decay && sustain_ <= 0.0F) clear();
            return count;
        }
        const bool rises = stage_ == Stage::Attack;
        const Curve& curve = rises ? attack_ : stage_ == Stage::Decay ? decay_ : release_;
        const float end = rises ? 1.0F : stage_ == Stage::Decay ? sustain_ : 0.0F;
        const float target = rises ? 1.0F + curve.beyond : end - curve.beyond * (stage_ == Stage::Decay ? 1.0F - sustain_ : from_), way = value_ - target;
        Stretch made;
        for (std::size_t i = 0; i < Most; ++i) made[i] = target + way * curve.left[i];
        const auto over = [&](float v) { return rises ? v >= end : v <= end; };
        std::size_t frames = count;
        if (over(made[count - 1])) {
            frames = static_cast<std::size_t>(std::find_if(made.begin(), made.end(), over) - made.begin()) + 1;
            made[frames - 1] = end;
            stage_ = rises ? Stage::Decay : stage_ == Stage::Decay && end > 0.0F ? Stage::Decay : Stage::Idle;
        }
        value_ = made[frames - 1];
        std::copy_n(made.begin(), frames, to);
        return frames;
    }

    enum class Stage { Idle, Attack, Decay, Release } stage_ = Stage::Idle;
    float value_ = 0.0F, sustain_ = 1.0F, from_ = 1.0F;
    Curve attack_, decay_, release_;
};

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/transition.hpp"

#include "base/pitch.hpp"
#include "sound/svf.hpp"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <functional>
#include <numbers>
#include <vector>

namespace fw {

namespace {

constexpr double kTwoPi = 2.0 * std::numbers::pi;

/// Both sides while something is made of them. Ways through it are told from 0 to 1.
class Canvas {
public:
    Canvas(double seconds, double rate) : rate_(rate), left_(frames_of(seconds, rate)), right_(left_.size()) {}

    std::size_t frames() const { return left_.size(); }
    double way(std::size_t i) const { return static_cast<double>(i) / static_cast<double>(std::max<std::size_t>(1, frames() - 1)); }

    using Along = std::function<double(double way)>;

    /// Noise of both sides through a filter that moves, by its level.
    enum class Pass { Low, Band, High };
    void noise(Pass pass, const Along& hz, double q, const Along& level) {
        std::vector<float> l(frames()), r(frames());
        for (std::size_t i = 0; i < frames(); ++i) l[i] = white(), r[i] = white();
        Svf filter;
        for (std::size_t at = 0; at < frames(); at += kSlice) {
            const std::size_t n = std::min(kSlice, frames() - at);
            const double f = hz(way(at));
            if (pass == Pass::Low) filter.low_pass(f, q, rate_);
            else if (pass == Pass::Band) filter.band_pass(f, q, rate_);
            else filter.high_pass(f, q, rate_);
            filter.process({std::span(l).subspan(at, n), std::span(r).subspan(at, n)});
        }
        for (std::size_t i = 0; i < frames(); ++i) {
            const auto gain = static_cast<float>(level(way(i)));
            left_[i] += gain * l[i], right_[i] += gain * r[i];
        }
    }

    /// A tone of partials whose pitch moves; a partial above the band is left out, so that nothing is folded back. The sides drift apart by some cents.
    void tone(const Along& hz, int partials, double falling_by, const Along& level, double apart_cents = 6.0) {
        for (const double side : {-0.5, 0.5}) {
            auto& to = side < 0 ? left_ : right_;
            double turns = 0.0;
            for (std::size_t i = 0; i < frames(); ++i) {
                const double f = hz(way(i)) * std::exp2(side * apart_cents / 1200.0);
                turns += f / rate_;
                turns -= std::floor(turns);
                // The partials of one phase by Chebyshev's recurrence: one sine and one cosine for all of them.
                const double c = 2.0 * std::cos(kTwoPi * turns);
                double before = 0.0, now = std::sin(kTwoPi * turns), sum = 0.0;
                for (int k = 1; k <= partials && k * f < 0.45 * rate_; ++k) {
                    sum += now * std::pow(k, -falling_by);
                    const double next = c * now - before;
                    before = now, now = next;
                }
                to[i] += static_cast<float>(level(way(i)) * sum);
            }
        }
    }

    /// Something short laid in at a frame: a function of the seconds since then, over so many seconds.
    void stroke(std::size_t at, double seconds, const std::function<double(double s)>& sound) {
        for (std::size_t i = at; i < std::min(frames(), at + frames_of(seconds, rate_)); ++i) {
            const auto x = static_cast<float>(sound(static_cast<double>(i - at) / rate_));
            left_[i] += x, right_[i] += x;
        }
    }

    void shape(const Along& level) {
        for (std::size_t i = 0; i < frames(); ++i) left_[i] *= static_cast<float>(level(way(i))), right_[i] *= static_cast<float>(level(way(i)));
    }
    void reverse() { std::reverse(left_.begin(), left_.end()), std::reverse(right_.begin(), right_.end()); }
    float white() {
        state_ = state_ * 1664525U + 1013904223U;
        return static_cast<float>(static_cast<double>(state_ >> 8) / 8388608.0 - 1.0);
    }

    /// Nothing clicks at either end, and the loudest sample stands where it is told.
    Audio finished() {
        constexpr double kRamp_s = 0.002, kPeak = 0.5;
        const std::size_t ramp = std::min(frames() / 2, frames_of(kRamp_s, rate_));
        for (std::size_t i = 0; i < ramp; ++i)
            for (auto* side : {&left_, &right_})
                (*side)[i] *= static_cast<float>(i) / static_cast<float>(ramp), (*side)[frames() - 1 - i] *= static_cast<float>(i) / static_cast<float>(ramp);
        float peak = 1e-9F;
        for (std::size_t i = 0; i < frames(); ++i) peak = std::max({peak, std::abs(left_[i]), std::abs(right_[i])});
        Audio out{static_cast<int>(std::lround(rate_)), 2, {}, {}};
        out.samples.reserve(2 * frames());
        const auto gain = static_cast<float>(kPeak) / peak;
        for (std::size_t i = 0; i < frames(); ++i) out.samples.push_back(gain * left_[i]), out.samples.push_back(gain * right_[i]);
        return out;
    }

private:
    static std::size_t frames_of(double seconds, double rate) { return static_cast<std::size_t>(std::llround(std::max(0.0, seconds) * rate)); }
    double rate_;
    std::vector<float> left_, right_;
    std::uint32_t state_ = 22695477U;
};

/// Between two frequencies, the same part of an octave in the same time.
Canvas::Along glide(double from_hz, double to_hz) {
    return [=](double way) { return from_hz * std::pow(to_hz / from_hz, way); };
}
/// Falls by 60 dB along the way, the faster the larger.
Canvas::Along dies(double speed = 1.0) {
    return [=](double way) { return std::pow(10.0, -3.0 * speed * way); };
}

/// Into an octave.
double folded_hz(double hz, double low_hz) {
    while (hz < low_hz) hz *= 2.0;
    while (hz >= 2.0 * low_hz) hz *= 0.5;
    return hz;
}

void crash(Canvas& c) {
    using Pass = Canvas::Pass;
    c.noise(Pass::High, glide(5500.0, 3500.0), 0.8, dies(0.8));
    // What rings in the metal: partials in no simple ratio (as in N. H. Fletcher & T. D. Rossing, "The Physics of Musical Instruments", on plates).
    for (const double hz : {523.0, 741.0, 1093.0, 1467.0, 2119.0, 2903.0, 3967.0})
        c.tone([=](double) { return hz; }, 3, 0.6, [&, hz](double way) { return 0.09 * dies(0.9 + hz / 4000.0)(way); });
}

/// When strokes come that go faster and faster: each quarter of the way at twice the rate of the one before, from one a beat on; seconds.
std::vector<double> hastening(double seconds, double beats) {
    std::vector<double> out;
    const double beat_s = seconds / beats;
    double at = 0.0;
    while (at < seconds - 1e-6) {
        out.push_back(at);
        const int doubled = std::min(3, static_cast<int>(4.0 * (at + 1e-6) / seconds));
        at += beat_s / (1 << doubled);
    }
    return out;
}

}  // namespace

Audio transition_sound(const Making& making, double seconds, double rate) {
    using Pass = Canvas::Pass;
    Canvas c(seconds, rate);
    const double length_s = static_cast<double>(c.frames()) / rate;
    std::vector<double> tones;
    for (const int p : making.pitches) tones.push_back(hertz_of(p));
    if (tones.empty()) tones.push_back(440.0);
    const double root = tones.front();
    switch (making.kind) {
        case Transition::None: break;
        case Transition::Riser:
            c.noise(Pass::Band, glide(300.0, 9000.0), 1.4, [=](double way) { return 1.6 * std::pow(way, 2.0); });
            // It arrives at its pitch, an octave above where it began.
            for (const double hz : tones)
                c.tone(glide(0.5 * hz, hz), 24, 1.0, [=, n = tones.size()](double way) { return 0.5 / static_cast<double>(n) * std::pow(way, 1.5); });
            break;
        case Transition::Sweep: {
            const auto there_and_back = [](double way) { return std::sin(std::numbers::pi * way); };
            c.noise(
                Pass::Band, [=](double way) { return 250.0 * std::pow(32.0, there_and_back(way)); }, 1.2, there_and_back);
            break;
        }
        case Transition::Fall:
            for (const double hz : tones) c.tone(glide(hz, 0.25 * hz), 24, 1.0, [=](double way) { return 0.6 * (1.0 - way); });
            c.noise(Pass::Low, glide(9000.0, 200.0), 0.9, [](double way) { return 0.7 * (1.0 - way); });
            break;
        case Transition::Impact: {
            const double low = folded_hz(root, 36.0);
            c.stroke(0, std::min(length_s, 1.2), [=, turns = 0.0](double s) mutable {
                turns += low * (1.0 + 3.0 * std::exp(-s / 0.03)) / rate;
                return 1.2 * std::sin(kTwoPi * turns) * std::exp(-s / 0.35);
            });
            c.noise(Pass::Low, glide(7000.0, 120.0), 0.7, dies(1.0));
            break;
        }
        case Transition::Crash: crash(c); break;
        case Transition::Swell:
            crash(c);
            c.reverse();
            break;
        case Transition::SubDrop: {
            const double high = folded_hz(root, 70.0);
            c.tone(
                glide(high, 0.5 * high), 2, 2.0, [](double way) { return std::min(1.0, 40.0 * way) * std::pow(1.0 - way, 0.7); }, 0.0);
            break;
        }
        case Transition::NoiseBuild: {
            c.noise(Pass::High, glide(200.0, 5000.0), 1.1, [](double way) { return std::pow(way, 1.2); });
            const auto strokes = hastening(length_s, making.beats);
            c.shape([=](double way) {
                const double s = way * length_s;
                const auto next = std::upper_bound(strokes.begin(), strokes.end(), s + 1e-9);
                const double from = next == strokes.begin() ? 0.0 : *std::prev(next), to = next == strokes.end() ? length_s : *next;
                return std::exp(-3.0 * (s - from) / std::max(1e-3, to - from));
            });
            break;
        }
        case Transition::SnareBuild: {
            for (const double s : hastening(length_s, making.beats)) {
                const double way = s / length_s, loud = 0.25 + 0.75 * way, body = 175.0 * (1.0 + 0.35 * way);
                c.stroke(static_cast<std::size_t>(std::llround(s * rate)), 0.25, [&, loud, body, last = 0.0](double t) mutable {
                    const double now = c.white(), bright = now - 0.6 * last;  // a snare's wires: noise, its lows taken away
                    last = now;
                    return loud * (0.5 * bright * std::exp(-t / 0.055) + 0.8 * std::sin(kTwoPi * body * t) * std::exp(-t / 0.045));
                });
            }
            break;
        }
        case Transition::ChordSwell: {
            // Played forward: the chord first, then its tones one by one from the top; so that turned round they come one by one and end in the chord.
            const auto strike = [&](double at_s, double hz, double loud) {
                c.tone([=](double) { return hz; }, 16, 1.4,
                       [=](double way) {
                           const double s = way * length_s - at_s;
                           return s < 0.0 ? 0.0 : loud * std::min(1.0, s / 0.004) * std::pow(10.0, -2.2 * s / std::max(0.2, length_s - at_s));
                       });
            };
            const double each = 0.5 / static_cast<double>(tones.size());
            for (const double hz : tones) strike(0.0, hz, 0.5);
            for (std::size_t i = 0; i < tones.size(); ++i) strike((0.5 + each * static_cast<double>(tones.size() - 1 - i)) * length_s, tones[i], 0.3);
            c.reverse();
            break;
        }
    }
    return c.finished();
}

}  // namespace fw

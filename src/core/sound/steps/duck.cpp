// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/smoothed.hpp"
#include "sound/svf.hpp"

#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

enum Field { kDepth, kAttack, kHold, kRelease, kBelow, kCount };
constexpr double kWhole_hz = 20'000.0;
constexpr std::array<Parameter, kCount> kFields{{
    {"depth", "Depth", Unit::Decibels, 0.0, 48.0, 6.0, Scale::Linear, 0.5, true, "How far each hit turns it down"},
    {"attack_ms", "Attack", Unit::Milliseconds, 0.5, 50.0, 3.0, Scale::Logarithmic, 0.05, true, "How soon it is down"},
    {"hold_ms", "Hold", Unit::Milliseconds, 0.0, 500.0, 10.0, Scale::Linear, 1.0, true, "How long it stays down"},
    {"release", "Release", Unit::Beats, 0.0625, 8.0, 0.5, Scale::Logarithmic, 0.05, true, "Until it is back, in the song's time"},
    {"below", "Below", Unit::Hertz, 40.0, kWhole_hz, kWhole_hz, Scale::Logarithmic, 1.0, true,
     "Only what lies below is turned down: the lows; 20 kHz: everything"},
}};

/// A gain that falls with each hit and comes back along half a cosine, in decibels. Sounds are not listened to: hits are.
class Duck final : public Processor {
public:
    explicit Duck(double rate) : rate_(rate), smoothed_(rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
        smoothed_.set(kRelease, 0.25);  // seconds: half a beat at 120 BPM until it is set
    }
    void reset() noexcept override {
        smoothed_.reset();
        lows_.reset();
        age_ = -1.0;
        db_ = from_db_ = 0.0;
    }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void note_on(VoiceId, int, int) noexcept override {
        age_ = 0.0;
        from_db_ = db_;
    }
    void process(Stereo io, Stereo) noexcept override {
        smoothed_.advance(io.size());
        const double attack = smoothed_[kAttack] / 1000.0 * rate_, hold = smoothed_[kHold] / 1000.0 * rate_, release = smoothed_[kRelease] * rate_;
        const bool whole = smoothed_[kBelow] > 0.999 * kWhole_hz;
        std::array<float, kSlice> low_l{}, low_r{};
        if (whole) {
            lows_.reset();
        } else {
            for (std::size_t i = 0; i < io.size(); ++i)
                low_l[i] = std::isfinite(io.left[i]) ? io.left[i] : 0.0F, low_r[i] = std::isfinite(io.right[i]) ? io.right[i] : 0.0F;
            lows_.low_pass(smoothed_[kBelow], 0.7071, rate_);
            lows_.process({std::span(low_l).first(io.size()), std::span(low_r).first(io.size())});
        }
        for (std::size_t i = 0; i < io.size(); ++i) {
            if (age_ >= 0.0) {
                if (age_ < attack) db_ = from_db_ + (-smoothed_[kDepth] - from_db_) * age_ / attack;
                else if (age_ < attack + hold) db_ = -smoothed_[kDepth];
                else if (const double way = (age_ - attack - hold) / release; way < 1.0)
                    db_ = -smoothed_[kDepth] * (0.5 + 0.5 * std::cos(std::numbers::pi * way));
                else db_ = 0.0, age_ = -2.0;
                age_ += 1.0;
            }
            const auto gain = static_cast<float>(db_ == 0.0 ? 1.0 : std::exp2(db_ * 0.16609640474436813));
            const float l = std::isfinite(io.left[i]) ? io.left[i] : 0.0F, r = std::isfinite(io.right[i]) ? io.right[i] : 0.0F;
            // Of the lows alone as much is taken away: nothing is changed where it does not duck.
            io.left[i] = whole ? l * gain : l + (gain - 1.0F) * low_l[i];
            io.right[i] = whole ? r * gain : r + (gain - 1.0F) * low_r[i];
        }
    }

private:
    double rate_;
    Smoothed<kCount> smoothed_;
    Svf lows_;
    double age_ = -1.0, db_ = 0.0, from_db_ = 0.0;
};

constexpr std::array kTelling{"depth", "release"};

}  // namespace

const StepType kDuck{"duck",  "Duck", "Makes room for each hit of another part",
                     kFields, true,   [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<Duck>(rate); },
                     kTelling};

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/smoothed.hpp"

#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

enum Field { kDepth, kAttack, kHold, kRelease, kCount };
constexpr std::array<Parameter, kCount> kFields{{
    {"depth", "Depth", Unit::Decibels, 0.0, 48.0, 6.0, Scale::Linear, 0.5, true, "How far each hit turns it down"},
    {"attack_ms", "Attack", Unit::Milliseconds, 0.5, 50.0, 3.0, Scale::Logarithmic, 0.05, true, "How soon it is down"},
    {"hold_ms", "Hold", Unit::Milliseconds, 0.0, 500.0, 10.0, Scale::Linear, 1.0, true, "How long it stays down"},
    {"release", "Release", Unit::Beats, 0.0625, 8.0, 0.5, Scale::Logarithmic, 0.05, true, "Until it is back, in the song's time"},
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
            io.left[i] = std::isfinite(io.left[i]) ? io.left[i] * gain : 0.0F;
            io.right[i] = std::isfinite(io.right[i]) ? io.right[i] * gain : 0.0F;
        }
    }

private:
    double rate_;
    Smoothed<kCount> smoothed_;
    double age_ = -1.0, db_ = 0.0, from_db_ = 0.0;
};

constexpr std::array kTelling{"depth", "release"};

}  // namespace

const StepType kDuck{"duck",  "Duck", "Makes room for each hit of another part",
                     kFields, true,   [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<Duck>(rate); },
                     kTelling};

}  // namespace fw

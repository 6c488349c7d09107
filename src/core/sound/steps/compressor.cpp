// SPDX-License-Identifier: GPL-3.0-or-later
// Feed-forward with the detector in the gain, in decibels, and a soft knee (D. Giannoulis, M. Massberg & J. D. Reiss, "Digital dynamic range compressor
// design", JAES 60, 2012: the branching smoother). The louder side turns both down.
#include "sound/approximations.hpp"
#include "sound/catalogue.hpp"
#include "sound/smoothed.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

enum Field { kThreshold, kRatio, kAttack, kRelease, kMakeup, kKnee, kCount };
constexpr std::array<Parameter, kCount> kFields{{
    {"threshold", "Threshold", Unit::Decibels, -60.0, 0.0, -18.0, Scale::Linear, 0.5, true, "What is louder is turned down"},
    {"ratio", "Ratio", Unit::Ratio, 1.0, 20.0, 3.0, Scale::Logarithmic, 0.05, true, "So many dB more come out as one"},
    {"attack_ms", "Attack", Unit::Milliseconds, 0.1, 200.0, 10.0, Scale::Logarithmic, 0.05, true, "How soon it turns down"},
    {"release_ms", "Release", Unit::Milliseconds, 5.0, 2000.0, 120.0, Scale::Logarithmic, 0.05, true, "How soon it lets go"},
    {"makeup", "Make-up", Unit::Decibels, -12.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Louder again behind it"},
    {"knee", "Knee", Unit::Decibels, 0.0, 24.0, 6.0, Scale::Linear, 0.5, true, "How gently it sets in around the threshold"},
}};

constexpr double kOctavesPerDb = 0.16609640474436813;  // of amplitude: one octave is 6.02 dB

class Compressor final : public Processor {
public:
    explicit Compressor(double rate) : rate_(rate), smoothed_(rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void reset() noexcept override {
        down_ = 0.0F;
        smoothed_.reset();
    }
    double tail_s() const noexcept override { return 3.0; }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        if (smoothed_.advance(io.size())) {
            const auto way = [&](Field ms) { return static_cast<float>(1.0 - std::exp(-1000.0 / (smoothed_[ms] * rate_))); };
            threshold_ = static_cast<float>(smoothed_[kThreshold] * kOctavesPerDb), makeup_ = static_cast<float>(smoothed_[kMakeup] * kOctavesPerDb);
            knee_ = static_cast<float>(std::max(0.01, smoothed_[kKnee]) * kOctavesPerDb), slope_ = static_cast<float>(1.0 - 1.0 / smoothed_[kRatio]);
            attack_ = way(kAttack), release_ = way(kRelease);
        }
        // All three passes run over whole slices, of which a part may be played: loops of one length are vectors throughout.
        std::array<float, kSlice> left{}, right{}, gain{};
        std::copy(io.left.begin(), io.left.end(), left.begin());
        std::copy(io.right.begin(), io.right.end(), right.begin());
        const float low = threshold_ - 0.5F * knee_, bow = 0.5F / knee_;
        for (std::size_t i = 0; i < kSlice; ++i) {
            left[i] = std::isfinite(left[i]) ? left[i] : 0.0F;
            right[i] = std::isfinite(right[i]) ? right[i] : 0.0F;
            const float above = std::max(0.0F, fast_log2(std::max({1e-6F, std::abs(left[i]), std::abs(right[i])})) - low);
            gain[i] = slope_ * (above < knee_ ? above * above * bow : above - 0.5F * knee_);
        }
        float down = down_;
        for (std::size_t i = 0; i < io.size(); ++i) gain[i] = down += (gain[i] > down ? attack_ : release_) * (gain[i] - down);
        down_ = down < 1e-9F ? 0.0F : down;
        for (std::size_t i = 0; i < kSlice; ++i) {
            const float factor = fast_exp2(std::max(-126.0F, makeup_ - gain[i]));
            left[i] *= factor;
            right[i] *= factor;
        }
        std::copy_n(left.begin(), io.size(), io.left.begin());
        std::copy_n(right.begin(), io.size(), io.right.begin());
    }

private:
    double rate_;
    Smoothed<kCount> smoothed_;
    float threshold_ = 0.0F, makeup_ = 0.0F, knee_ = 1.0F, slope_ = 0.0F, attack_ = 1.0F, release_ = 1.0F;
    float down_ = 0.0F;  ///< by how many octaves of amplitude it turns down now
};

}  // namespace

const StepType kCompressor{"compressor", "Compressor", "Evens out loud and soft",
                           kFields,      false,        [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<Compressor>(rate); }};

}  // namespace fw

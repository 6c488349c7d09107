// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace fw {

/// One period of a wave with so many partials as fit below half the sample rate at a pitch; read between its samples by straight lines.
struct BandLimited {
    const float* samples = nullptr;  ///< size + 1, the last as the first
    float size = 0.0F;
    double slower = 0.0, faster = -1.0;  ///< holds for phase steps from the one to below the other

    bool fits(double step) const noexcept { return step >= slower && step < faster; }
    /// The value at a phase in turns, 0 to below 1.
    float at(float phase) const noexcept {
        const float x = phase * size;
        const auto whole = static_cast<std::int32_t>(x);  // of the width of a float, so that a loop over phases is made of vectors
        return samples[whole] + (x - static_cast<float>(whole)) * (samples[whole + 1] - samples[whole]);
    }
};

/// Saw and triangle as tables of summed partials, three to the octave, so that at most a fifth of what is heard below half the rate is left out and nothing
/// folds back. A table has forty samples to its highest partial, or 8192 where that would be more; what straight lines between
/// them add lies below −85 dB. A square or a pulse is
/// the difference of two saws. Made once for the process, thread-safe; reading is real-time safe.
class BandLimitedWaves {
public:
    static const BandLimitedWaves& get();
    /// For a phase step a frame, 0 to 0.5.
    BandLimited saw(double step) const noexcept { return table(saw_, step); }
    BandLimited triangle(double step) const noexcept { return table(triangle_, step); }

private:
    static constexpr int kMostPartials = 1024, kTables = 31;
    struct Wave {
        std::array<std::vector<float>, kTables> tables;  ///< from the richest to the poorest
    };
    BandLimitedWaves();
    template <class Amplitude>
    static Wave summed(Amplitude&& amplitude);
    BandLimited table(const Wave& wave, double step) const noexcept;
    static int partials_of(int table) noexcept;

    std::array<double, kTables> below_{};  ///< the phase step below which each table's partials fit
    Wave saw_, triangle_;
};

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/band_limited.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fw {

int BandLimitedWaves::partials_of(int table) noexcept { return std::max(1, static_cast<int>(kMostPartials * std::exp2(-table / 3.0))); }

template <class Amplitude>
BandLimitedWaves::Wave BandLimitedWaves::summed(Amplitude&& amplitude) {
    constexpr std::size_t kLong = 8192;
    std::vector<double> sine(kLong), sum(kLong, 0.0);
    for (std::size_t i = 0; i < kLong; ++i) sine[i] = std::sin(2.0 * std::numbers::pi * static_cast<double>(i) / kLong);
    Wave wave;
    int have = 0;
    // From the poorest to the richest: each adds its partials to what the one before has.
    for (int t = kTables - 1; t >= 0; --t) {
        for (; have < partials_of(t); ++have) {
            const auto k = static_cast<std::size_t>(have + 1);
            const double a = amplitude(static_cast<int>(k));
            if (a != 0.0)
                for (std::size_t i = 0; i < kLong; ++i) sum[i] += a * sine[(k * i) % kLong];
        }
        std::size_t size = 1024;
        while (size < kLong && size < 40 * static_cast<std::size_t>(have)) size *= 2;
        auto& table = wave.tables[static_cast<std::size_t>(t)];
        for (std::size_t i = 0; i <= size; ++i) table.push_back(static_cast<float>(sum[i * (kLong / size) % kLong]));
    }
    return wave;
}

BandLimitedWaves::BandLimitedWaves()
    // A saw that rises from −1 to 1, as 2·phase − 1; a triangle that falls from 1 to −1 and back: its cosines a quarter turn later are sines.
    : saw_(summed([](int k) { return -2.0 / (std::numbers::pi * k); })),
      triangle_(summed([](int k) { return k % 2 == 0 ? 0.0 : (k % 4 == 1 ? 1.0 : -1.0) * 8.0 / (std::numbers::pi * std::numbers::pi * k * k); })) {
    for (int t = 0; t < kTables; ++t) below_[static_cast<std::size_t>(t)] = 0.499 / partials_of(t);
    below_.back() = 1.0;  // a single partial is made at any pitch
}

const BandLimitedWaves& BandLimitedWaves::get() {
    static const BandLimitedWaves waves;
    return waves;
}

BandLimited BandLimitedWaves::table(const Wave& wave, double step) const noexcept {
    const auto t = static_cast<std::size_t>(std::min<std::ptrdiff_t>(kTables - 1, std::upper_bound(below_.begin(), below_.end(), step) - below_.begin()));
    const auto& samples = wave.tables[t];
    return {samples.data(), static_cast<float>(samples.size() - 1), t == 0 ? 0.0 : below_[t - 1], below_[t]};
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "dsp/fft.hpp"

#include <cstddef>
#include <map>
#include <memory>

namespace fw {

/// A transform with its Hann window, planned once a thread and size: planning is slow, and sounds are looked at by the thousand.
struct PlannedFft {
    RealFft fft;
    std::unique_ptr<float[]> window;

    static PlannedFft& of(std::size_t size) {
        thread_local std::map<std::size_t, std::unique_ptr<PlannedFft>> all;
        auto& one = all[size];
        if (!one) one.reset(new PlannedFft{RealFft(size), hann_window(size)});
        return *one;
    }
};

}  // namespace fw

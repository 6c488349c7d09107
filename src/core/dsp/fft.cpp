// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/fft.hpp"

#include <fftw3.h>
#include <cassert>
#include <cmath>
#include <mutex>
#include <new>
#include <numbers>

namespace fw {

namespace {
std::mutex planner_mutex;  // FFTW's planner is the one part of it that is not thread-safe
}

struct RealFft::Plan {
    float* in = nullptr;
    fftwf_complex* out = nullptr;
    fftwf_plan plan = nullptr;
};

RealFft::RealFft(std::size_t size) : size_(size), plan_(std::make_unique<Plan>()) {
    assert(size >= 2 && size % 2 == 0);
    plan_->in = fftwf_alloc_real(size);
    plan_->out = fftwf_alloc_complex(bins());
    const std::lock_guard lock(planner_mutex);
    const auto give_up = [&] {
        fftwf_free(plan_->in);
        fftwf_free(plan_->out);
        throw std::bad_alloc();
    };
    if (!plan_->in || !plan_->out) give_up();
    // ESTIMATE, not MEASURE: the same plan, and so the same rounding, on every run.
    plan_->plan = fftwf_plan_dft_r2c_1d(static_cast<int>(size), plan_->in, plan_->out, FFTW_ESTIMATE);
    if (!plan_->plan) give_up();
}

RealFft::~RealFft() {
    const std::lock_guard lock(planner_mutex);
    fftwf_destroy_plan(plan_->plan);
    fftwf_free(plan_->in);
    fftwf_free(plan_->out);
}

std::span<float> RealFft::input() noexcept { return {plan_->in, size_}; }

std::span<const std::complex<float>> RealFft::transform() noexcept {
    fftwf_execute(plan_->plan);
    return {reinterpret_cast<const std::complex<float>*>(plan_->out), bins()};
}

std::unique_ptr<float[]> hann_window(std::size_t n) {
    auto window = std::make_unique<float[]>(n);
    for (std::size_t i = 0; i < n; ++i)
        window[i] = static_cast<float>(0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(n)));
    return window;
}

}  // namespace fw

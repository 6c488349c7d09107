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
struct InverseRealFft::Plan {
    fftwf_complex* in = nullptr;
    float* out = nullptr;
    fftwf_plan plan = nullptr;
};

namespace {

/// Gives a plan its memory and has it planned; one of the two arrays holds samples, the other bins.
template <class Plan, class Make>
void prepare(Plan& plan, float*& samples, fftwf_complex*& bins, std::size_t size, Make&& make) {
    assert(size >= 2 && size % 2 == 0);
    samples = fftwf_alloc_real(size);
    bins = fftwf_alloc_complex(size / 2 + 1);
    const std::lock_guard lock(planner_mutex);
    // ESTIMATE, not MEASURE: the same plan, and so the same rounding, on every run.
    if (samples && bins) plan.plan = make(static_cast<int>(size), plan.in, plan.out, FFTW_ESTIMATE);
    if (plan.plan) return;
    fftwf_free(samples);
    fftwf_free(bins);
    throw std::bad_alloc();
}

template <class Plan>
void give_up(Plan& plan) {
    const std::lock_guard lock(planner_mutex);
    fftwf_destroy_plan(plan.plan);
    fftwf_free(plan.in);
    fftwf_free(plan.out);
}

}  // namespace

RealFft::RealFft(std::size_t size) : size_(size), plan_(std::make_unique<Plan>()) { prepare(*plan_, plan_->in, plan_->out, size, fftwf_plan_dft_r2c_1d); }
RealFft::~RealFft() { give_up(*plan_); }

std::span<float> RealFft::input() noexcept { return {plan_->in, size_}; }

std::span<const std::complex<float>> RealFft::transform() noexcept {
    fftwf_execute(plan_->plan);
    return {reinterpret_cast<const std::complex<float>*>(plan_->out), bins()};
}

InverseRealFft::InverseRealFft(std::size_t size) : size_(size), plan_(std::make_unique<Plan>()) {
    prepare(*plan_, plan_->out, plan_->in, size, fftwf_plan_dft_c2r_1d);
}
InverseRealFft::~InverseRealFft() { give_up(*plan_); }

std::span<std::complex<float>> InverseRealFft::input() noexcept { return {reinterpret_cast<std::complex<float>*>(plan_->in), size_ / 2 + 1}; }

std::span<const float> InverseRealFft::transform() noexcept {
    fftwf_execute(plan_->plan);
    return {plan_->out, size_};
}

std::unique_ptr<float[]> hann_window(std::size_t n) {
    auto window = std::make_unique<float[]>(n);
    for (std::size_t i = 0; i < n; ++i)
        window[i] = static_cast<float>(0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(n)));
    return window;
}

}  // namespace fw

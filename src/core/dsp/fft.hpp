// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <complex>
#include <memory>
#include <span>

namespace fw {

/// Forward Fourier transform of real signals of one fixed even size, by FFTW.
///
/// Not scaled: a sine of amplitude 1 shows as size/2 in its bin. Creating one plans the transform (slow, locks);
/// transform() neither allocates nor locks and may be called from the thread that owns the object. Throws std::bad_alloc where memory is short.
class RealFft {
public:
    explicit RealFft(std::size_t size);
    ~RealFft();
    RealFft(const RealFft&) = delete;
    RealFft& operator=(const RealFft&) = delete;

    std::size_t size() const noexcept { return size_; }
    std::size_t bins() const noexcept { return size_ / 2 + 1; }
    /// The place to put `size()` samples before transform().
    std::span<float> input() noexcept;
    /// Transforms input(); the result, `bins()` long, stays valid until the next call.
    std::span<const std::complex<float>> transform() noexcept;

private:
    struct Plan;
    std::size_t size_;
    std::unique_ptr<Plan> plan_;
};

/// The way back: not scaled either, so that there and back is `size()` times what went in. As RealFft otherwise.
class InverseRealFft {
public:
    explicit InverseRealFft(std::size_t size);
    ~InverseRealFft();
    InverseRealFft(const InverseRealFft&) = delete;
    InverseRealFft& operator=(const InverseRealFft&) = delete;

    /// The place to put size() / 2 + 1 bins before transform(), which spoils them.
    std::span<std::complex<float>> input() noexcept;
    std::span<const float> transform() noexcept;

private:
    struct Plan;
    std::size_t size_;
    std::unique_ptr<Plan> plan_;
};

/// Hann window of n samples, periodic, as spectra need it (Harris 1978).
std::unique_ptr<float[]> hann_window(std::size_t n);

}  // namespace fw

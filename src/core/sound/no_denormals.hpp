// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#if defined(__x86_64__)
#include <xmmintrin.h>
#endif

namespace fw {

/// While one lives its thread takes numbers too small to matter (below 1e-38) for nothing: fading tails would else cost a hundred times as much as sound.
class NoDenormals {
public:
#if defined(__x86_64__)
    NoDenormals() noexcept : before_(_mm_getcsr()) { _mm_setcsr(before_ | kFlushToZero | kDenormalsAreZero); }
    ~NoDenormals() { _mm_setcsr(before_); }
#else
    NoDenormals() noexcept {}
#endif
    NoDenormals(const NoDenormals&) = delete;
    NoDenormals& operator=(const NoDenormals&) = delete;

private:
#if defined(__x86_64__)
    static constexpr unsigned kFlushToZero = 0x8000, kDenormalsAreZero = 0x0040;
    unsigned before_;
#endif
};

}  // namespace fw

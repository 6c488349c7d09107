// SPDX-License-Identifier: GPL-3.0-or-later
// Written by training/check.py; docs/accuracy.md tells on what it was fitted and what it reaches on what was kept from it.
#pragma once

#include "check/clues.hpp"

namespace fw {

/// How a sum of clues becomes a probability: the share that looks wrong where all is right, from which a song is judged, and a last straight line
/// through the log-odds.
struct JudgeFit {
    double looks_so, scale, offset;
};

// clang-format off
inline constexpr std::array<double, kNoteLooks + 1> kNoteWeights{-0.5802, -0.08519, -0.004303, 0.01414, -0.04602, -0.1391, -0.002787, -0.3539, 0.04337, -0.04274, 0.06417, -0.7441, 0.07283, 0.1563, 0.04397, 0.3004, -1.494, -2.054, 0.2595, -0.644, 7.284, 0.3201, -0.3191, -0.005952, 0.222, -5.682, -0.112, -1.141, 0.1164, -0.07827, -0.5192, -0.01879, -0.1371};
inline constexpr JudgeFit kNoteFit{0.0039, 0.502, -0.934};
inline constexpr std::array<double, kStrokeLooks + 1> kStrokeWeights{-0.5138, -0.1418, 0.2696, -0.06637, -0.2692, -0.3178, -5.34, -0.8083, 0.07914, 1.645};
inline constexpr JudgeFit kStrokeFit{0.0037, 0.738, -1.133};
inline constexpr std::array<double, kTimingLooks + 1> kNoteTimingWeights{-0.03056, -0.7013, -0.7669, 0.4057, -0.007277, -0.008505, 0.5071, -0.2044, -0.08087, -0.2014, 0.45, 1.814, 1.424, -0.2525, 0.2401, -0.05291, -0.00537, 2.704, -1.217, -0.6017, 0.5899, -0.061, 0.1028, -6.754};
inline constexpr JudgeFit kNoteTimingFit{0.0027, 0.947, -0.374};
inline constexpr std::array<double, kTimingLooks + 1> kStrokeTimingWeights{0.156, -1.029, 0.874, 0.3424, -4.534, 0.2322, 0.05565, -0.03754, 0.01015, 0.04789, 0.2587, 0.536, 0.8026, 0.9084, 0.0701, -0.06283, -1.951, -1.859, -4.609e-18, -0.9045, 0.8872, -0.3175, 0.07449, -6.308};
inline constexpr JudgeFit kStrokeTimingFit{0.0045, 0.883, -0.175};
inline constexpr std::array<double, kUnwrittenNoteLooks + 1> kUnwrittenNoteWeights{0.1789, -1.189, 0.3874, 0.1427, -0.0749, 0.1347, 0.158, 0.07192, -0.486, -0.738, 0.4237, -0.1059, -0.5123, -1.556, 0.2944, 0.3066, 0.42, -0.05886, -0.8014, -0.2738, -0.0292, -0.6157, 0.2453, 8.569, 0.08034, 0.03562, 0.7376, 1.698, -0.5046};
inline constexpr JudgeFit kUnwrittenNoteFit{0.0084, 0.619, -1.211};
inline constexpr std::array<double, kUnwrittenStrokeLooks + 1> kUnwrittenStrokeWeights{-0.4495, 1.383, 0.1789, -2.633, -0.4435, 8.193, 0.3286, 2.37, 0.6613, -3.363};
inline constexpr JudgeFit kUnwrittenStrokeFit{0.0107, 0.433, -1.019};
// clang-format on

}  // namespace fw

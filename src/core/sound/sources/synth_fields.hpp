// SPDX-License-Identifier: GPL-3.0-or-later
// The synthesiser's fields, and its sounds as values of them.
#pragma once

#include "base/parameter.hpp"

#include <array>
#include <span>
#include <utility>
#include <vector>

namespace fw::synth {

inline constexpr int kPartials = 32, kMostUnison = 7;

enum class Wave { Sine, Triangle, Saw, Square, Partials };
inline constexpr std::array<const char*, 5> kWaves{"sine", "triangle", "saw", "square", "partials"};
inline constexpr std::array<const char*, 3> kSubWaves{"sine", "triangle", "square"};
enum class Pass { Low, Band, High };
inline constexpr std::array<const char*, 3> kPasses{"low-pass", "band-pass", "high-pass"};
inline constexpr std::array<const char*, 2> kSlopes{"12 dB", "24 dB"};
enum class Play { Poly, Mono, Legato };
inline constexpr std::array<const char*, 3> kPlays{"poly", "mono", "legato"};
inline constexpr std::array<const char*, 5> kShapes{"sine", "triangle", "saw", "square", "random"};

/// Fields of one LFO, from its first on.
inline constexpr int kShape = 0, kRate = 1, kTimed = 2, kEvery = 3, kFadeIn = 4, kRestart = 5, kToPitch = 6, kToCutoff = 7, kToResonance = 8, kToPulse = 9,
                     kToLevel = 10, kLfoFields = 11;

enum Field {
    // The first oscillator.
    kFirst,
    kOctave,
    kFine,
    kPulse,
    kUnison,
    kUnisonDetune,
    kUnisonWidth,
    // The second.
    kSecond,
    kSecondLevel,
    kInterval,
    kDetune,
    kSecondPulse,
    kSecondWidth,
    // Below and besides.
    kSub,
    kSubLevel,
    kSubOctave,
    kNoise,
    kNoiseLow,
    kNoiseHigh,
    // Filter.
    kPass,
    kSlope,
    kCutoff,
    kTracking,
    kResonance,
    kFilterDrive,
    kSweep,
    kResonanceSweep,
    kSweepAttack,
    kSweepDecay,
    kSweepSustain,
    kSweepRelease,
    kSweepCurve,
    // Level.
    kAttack,
    kDecay,
    kSustain,
    kRelease,
    kCurve,
    // Pitch and playing.
    kPunch,
    kPunchTime,
    kPlay,
    kGlide,
    kGlideAlways,
    kVibrato,
    kDrift,
    kWearing,
    kPhases,
    kTrim,
    kLfo,
    kLfo2 = kLfo + kLfoFields,
    kPartial = kLfo2 + kLfoFields,
    kCount = kPartial + kPartials
};

std::span<const Parameter> fields();

/// A sound: its name by role and ear word, and the fields in which it differs from neutral.
struct Patch {
    const char* name;
    std::vector<std::pair<int, double>> values;
};
const std::vector<Patch>& patches();
/// A field's value in a patch.
double value_in(const Patch& patch, std::size_t field);

}  // namespace fw::synth

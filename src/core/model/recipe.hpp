// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/parameter.hpp"
#include "model/clips.hpp"

#include <array>
#include <span>

namespace fw {

/// A treatment's name and what its numbers (none, one or two) mean.
struct TreatmentType {
    Treatment treatment;
    const char *id, *label;
    std::span<const Parameter> fields;
};

namespace rows {
inline constexpr std::array kTrim{
    Parameter{"from_ms", "From", Unit::Milliseconds, 0.0, 600'000.0, 0.0, Scale::Linear, 1.0, false, "What lies before is cut off"},
    Parameter{"to_ms", "To", Unit::Milliseconds, 0.0, 600'000.0, 600'000.0, Scale::Linear, 1.0, false, "What lies behind is cut off"}};
inline constexpr std::array kGain{Parameter{"gain", "Gain", Unit::Decibels, -60.0, 24.0, 0.0, Scale::Linear, 0.5, false, "Louder or softer"}};
inline constexpr std::array kFade{
    Parameter{"in_ms", "In", Unit::Milliseconds, 0.0, 60'000.0, 5.0, Scale::Linear, 1.0, false, "Rises over this time at the beginning"},
    Parameter{"out_ms", "Out", Unit::Milliseconds, 0.0, 60'000.0, 5.0, Scale::Linear, 1.0, false, "Falls over this time at the end"}};
inline constexpr std::array kPitch{
    Parameter{"semitones", "Pitch", Unit::Semitones, -24.0, 24.0, 0.0, Scale::Linear, 0.01, false, "Higher or lower at the same length"}};
inline constexpr std::array kStretch{
    Parameter{"ratio", "Length", Unit::Ratio, 0.1, 10.0, 1.0, Scale::Logarithmic, 0.01, false, "Longer or shorter at the same pitch"}};
}  // namespace rows

inline constexpr std::array<TreatmentType, kTreatments> kTreatmentTypes{{
    {Treatment::Trim, "trim", "Trim", rows::kTrim},
    {Treatment::Gain, "gain", "Gain", rows::kGain},
    {Treatment::Fade, "fade", "Fade", rows::kFade},
    {Treatment::Reverse, "reverse", "Reverse", {}},
    {Treatment::Pitch, "pitch", "Pitch", rows::kPitch},
    {Treatment::Stretch, "stretch", "Stretch", rows::kStretch},
}};
constexpr const TreatmentType& treatment_type(Treatment t) { return kTreatmentTypes[static_cast<std::size_t>(t)]; }

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/parameter.hpp"
#include "model/clips.hpp"
#include "model/song.hpp"

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
    Parameter{"semitones", "Pitch", Unit::Semitones, -24.0, 24.0, 0.0, Scale::Linear, 0.01, false, "Higher or lower at the same length"},
    Parameter{"formants", "Formants kept", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "The colour of a voice stays where it was"}};
inline constexpr std::array kStretch{
    Parameter{"ratio", "Length", Unit::Ratio, 0.1, 10.0, 1.0, Scale::Logarithmic, 0.01, false, "Longer or shorter at the same pitch"}};
inline constexpr std::array kBars{
    Parameter{"bars", "Bars", Unit::None, 0.0625, 64.0, 1.0, Scale::Linear, 0.25, false, "Longer or shorter at the same pitch, until it fills so many bars"}};
inline constexpr std::array kStop{Parameter{"over_ms", "Over", Unit::Milliseconds, 10.0, 10'000.0, 500.0, Scale::Linear, 10.0, false,
                                            "Slows down to a stop at its end, as a tape does, over this time"}};
inline constexpr std::array kGate{Parameter{"a_beat", "A beat", Unit::None, 0.25, 16.0, 4.0, Scale::Linear, 0.25, false, "How often a beat it opens"},
                                  Parameter{"open", "Open", Unit::Share, 0.01, 0.99, 0.5, Scale::Linear, 0.01, false, "For how much of each time"}};
inline constexpr std::array kFreeze{
    Parameter{"at_ms", "At", Unit::Milliseconds, 0.0, 600'000.0, 0.0, Scale::Linear, 1.0, false, "The moment that is held"},
    Parameter{"for_ms", "For", Unit::Milliseconds, 50.0, 60'000.0, 4'000.0, Scale::Linear, 10.0, false, "How long it is held; nothing else is left"}};
inline constexpr std::array kClean{Parameter{"by_db", "Noise softer by", Unit::Decibels, 0.0, 40.0, 15.0, Scale::Linear, 0.5, false,
                                             "What is always there, also where nothing else is, is turned down"}};
inline constexpr std::array kTune{
    Parameter{"strength", "Strength", Unit::Share, 0.0, 1.0, 1.0, Scale::Linear, 0.02, false, "How far each note is brought to the middle of its semitone"},
    Parameter{"tuning", "Tuning", Unit::Cents, -50.0, 50.0, 0.0, Scale::Linear, 1.0, false, "How far semitones lie above those of A4 = 440 Hz"}};
inline constexpr std::array kSpeed{Parameter{"times", "Times", Unit::Ratio, 0.25, 4.0, 1.0, Scale::Logarithmic, 0.01, false,
                                             "Faster and higher or slower and lower, as a tape or a turntable does"}};
inline constexpr std::array kEven{Parameter{"strength", "Strength", Unit::Share, 0.0, 1.0, 1.0, Scale::Linear, 0.02, false,
                                            "How far a sound that leans to one side is brought to the middle; a side that is silent gets the other's sound"}};
}  // namespace rows

inline constexpr std::array<TreatmentType, kTreatments> kTreatmentTypes{{
    {Treatment::Trim, "trim", "Trim", rows::kTrim},
    {Treatment::Gain, "gain", "Gain", rows::kGain},
    {Treatment::Fade, "fade", "Fade", rows::kFade},
    {Treatment::Reverse, "reverse", "Reverse", {}},
    {Treatment::Pitch, "pitch", "Pitch", rows::kPitch},
    {Treatment::Stretch, "stretch", "Stretch", rows::kStretch},
    {Treatment::Bars, "bars", "Stretch to bars", rows::kBars},
    {Treatment::Stop, "stop", "Tape stop", rows::kStop},
    {Treatment::Gate, "gate", "Gate", rows::kGate},
    {Treatment::Freeze, "freeze", "Freeze", rows::kFreeze},
    {Treatment::Clean, "clean", "Lower noise", rows::kClean},
    {Treatment::Tune, "tune", "Centre notes", rows::kTune},
    {Treatment::Warp, "warp", "Warp", {}},
    {Treatment::Speed, "speed", "Speed", rows::kSpeed},
    {Treatment::Even, "even", "Even sides", rows::kEven},
}};

/// Whether a transition leads to a place and ends there, as what rises or swells does; what falls or strikes begins there.
bool leads_to_its_place(Transition kind);
/// How long a transition is where its clip stands; how long the bar at a tick is. Seconds.
double made_seconds(const Song& song, const Making& made, const Clip& clip);
double bar_seconds(const Song& song, Ticks tick);
/// How long a clip's sound is after its recipe, seconds: what is asked of a transition is as long as its beats are where it stands. longest, where it is given,
/// becomes the most it is on the way.
double recipe_seconds(const Song& song, const Asset& asset, const Clip& clip, double* longest = nullptr);
/// When a clip is first heard, seconds of the song.
double clip_begins_s(const Song& song, const Asset& asset, const Clip& clip);

/// What is done to a clip before a warp that ends its recipe, and that warp's marks; all of it and none where none does.
std::vector<RecipeEntry> before_warp(const Clip& clip);
std::vector<WarpMark> ending_marks(const Clip& clip);
/// Where what sounds at a time before a warp is heard after it, ms; long_ms: how long the sound is.
double warped_ms(const std::vector<WarpMark>& marks, double long_ms, double at_ms);
/// The other way: what is heard at a time.
double unwarped_ms(const std::vector<WarpMark>& marks, double long_ms, double at_ms);

constexpr const TreatmentType& treatment_type(Treatment t) { return kTreatmentTypes[static_cast<std::size_t>(t)]; }

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"

#include <array>

namespace fw {

namespace {
// In the order menus show them. A new kind is a file with its row, and a line here.
constexpr std::array<const SourceType*, 5> kSources{&kSynth, &kDrumKit, &kDrumVoice, &kSoundFont, &kSampler};
constexpr std::array<const StepType*, 23> kSteps{&kEqualiser, &kFilter,    &kDrive,   &kCabinet, &kCompressor, &kThreeBands, &kGate,   &kTransient,
                                                 &kDuck,      &kChorus,    &kFlanger, &kPhaser,  &kTremolo,    &kRotary,     &kRepeat, &kWidth,
                                                 &kWear,      &kResonator, &kDelay,   &kReverb,  &kPlate,      &kSpring,     &kLimiter};
}  // namespace

std::span<const StepType* const> step_types() { return kSteps; }
std::span<const SourceType* const> source_types() { return kSources; }

const StepType* find_step_type(std::string_view id) {
    for (const StepType* t : kSteps)
        if (id == t->id) return t;
    return nullptr;
}

const SourceType* find_source_type(std::string_view id) {
    for (const SourceType* t : kSources)
        if (id == t->id) return t;
    return nullptr;
}

}  // namespace fw

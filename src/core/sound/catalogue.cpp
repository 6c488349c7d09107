// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"

#include "sound/plug_ins/plug_ins.hpp"

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
    return is_plug_in(id) ? find_plug_in_step(id) : nullptr;
}

const SourceType* find_source_type(std::string_view id) {
    for (const SourceType* t : kSources)
        if (id == t->id) return t;
    return is_plug_in(id) ? find_plug_in_source(id) : nullptr;
}

Result<std::unique_ptr<Processor>> StepType::made(double sample_rate_hz, const std::string& state, const std::string& file) const {
    return plug_in ? start_plug_in(*plug_in, true, sample_rate_hz, state, file) : make(sample_rate_hz);
}

Result<std::unique_ptr<Processor>> SourceType::made(const SourceSpec& spec, double sample_rate_hz) const {
    return plug_in ? start_plug_in(*plug_in, false, sample_rate_hz, spec.state, spec.file) : make(spec, sample_rate_hz);
}

double SourceType::value_in(const std::string& patch, std::size_t field) const { return patch_value ? patch_value(patch, field) : fields[field].neutral; }

}  // namespace fw

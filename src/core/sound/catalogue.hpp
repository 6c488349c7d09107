// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that can sound, one row each. A row stands in the file of what it describes; the lists are in catalogue.cpp.
#pragma once

#include "base/parameter.hpp"
#include "base/result.hpp"
#include "sound/processor.hpp"

#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fw {

struct Audio;
struct PlugIn;

/// A kind of step (effect).
struct StepType {
    const char* id;     ///< in files and commands
    const char* label;  ///< for people
    const char* help;   ///< one sentence
    std::span<const Parameter> fields;
    bool triggered = false;                                     ///< notes of another part set it off
    std::unique_ptr<Processor> (*make)(double sample_rate_hz);  ///< null for a plug-in
    std::span<const char* const> telling = {};                  ///< the fields that tell most, by id; none: the first three
    const PlugIn* plug_in = nullptr;

    /// state, file: what a plug-in is given besides its fields. Errors: PlugInMissing, PlugInUnusable, FileMissing; never one for what is not a plug-in.
    Result<std::unique_ptr<Processor>> made(double sample_rate_hz, const std::string& state = {}, const std::string& file = {}) const;
};

/// What a source is made from besides its fields.
struct SourceSpec {
    std::string patch{};                   ///< the name of one of the kind's patches
    int program = 0;                       ///< General MIDI, for SoundFonts
    std::string file{};                    ///< a SoundFont, a sound file, what a plug-in is given; empty: the default sound set, a made sound
    bool drums = false;                    ///< keys are drum sounds
    double tuning_cents = 0.0;             ///< above A4 = 440 Hz, or above the drums' own pitches
    std::shared_ptr<const Audio> sound{};  ///< instead of a file: what a sampler plays
    std::string state{};                   ///< a plug-in's own, besides its fields
    bool operator==(const SourceSpec&) const = default;
};

/// A kind of source (instrument).
struct SourceType {
    const char* id;
    const char* label;
    const char* help;
    std::span<const Parameter> fields;
    /// The patches it knows by name, in the order menus show them.
    const std::vector<std::string>& (*patches)();
    double (*patch_value)(const std::string& patch, std::size_t field);                         ///< null for a plug-in
    Result<std::unique_ptr<Processor>> (*make)(const SourceSpec& spec, double sample_rate_hz);  ///< null for a plug-in
    const PlugIn* plug_in = nullptr;

    /// A field's value in a patch: what it is until it is set.
    double value_in(const std::string& patch, std::size_t field) const;
    /// Errors: SoundFontUnusable; those of reading a sound file, SampleTooLong; PlugInMissing, PlugInUnusable, FileMissing.
    Result<std::unique_ptr<Processor>> made(const SourceSpec& spec, double sample_rate_hz) const;
};

std::span<const StepType* const> step_types();
std::span<const SourceType* const> source_types();
/// By id, plug-ins of this machine among them (sound/plug_ins/plug_ins.hpp); null where there is none.
const StepType* find_step_type(std::string_view id);
const SourceType* find_source_type(std::string_view id);

// The sources, which drafts and menus name.
extern const SourceType kSynth, kDrumKit, kDrumVoice, kSoundFont, kSampler;
// The steps.
extern const StepType kEqualiser, kFilter, kDrive, kCompressor, kDuck, kReverb, kDelay, kChorus, kFlanger, kPhaser, kTremolo, kWidth, kWear, kResonator,
    kTransient, kGate, kThreeBands, kRepeat, kLimiter, kPlate, kSpring, kCabinet, kRotary;

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
// A part's sound sheet: layers first, then steps in their order.
#pragma once

#include "model/ids.hpp"
#include "model/shared.hpp"
#include "sound/catalogue.hpp"

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace fw {

/// Values of a kind's fields, by their place in its table; those that were never set are not there.
class Settings {
public:
    std::optional<double> find(std::size_t field) const;
    void set(std::size_t field, double value);
    void clear(std::size_t field);
    const std::vector<std::pair<std::size_t, double>>& all() const noexcept { return values_; }
    Unknown unknown{};  ///< fields of a newer program
    bool operator==(const Settings&) const = default;

private:
    std::vector<std::pair<std::size_t, double>> values_;  // ascending by field
};

/// One instrument of a part.
struct Layer {
    const SourceType* source = &kSynth;
    std::string patch{};  ///< one of the source's patches
    int program = 0;      ///< General MIDI program of a SoundFont
    std::string file{};   ///< a SoundFont, a sampler's sound file, what a plug-in is given; empty: the default sound set, a made sound
    std::string state{};  ///< a plug-in's own, besides its fields, in the words of LV2 (Turtle)
    AssetId asset{};      ///< a sound of the remake's own that a sampler plays instead of a file; none: the file
    double gain_db = 0.0;
    double octave = 0.0;
    double pan = 0.0;                                  ///< -1 left … 1 right
    double low_key = 0.0, high_key = 127.0;            ///< written notes it plays
    double offset_ms = 0.0;                            ///< later; negative earlier
    double low_velocity = 1.0, high_velocity = 127.0;  ///< of the notes it plays
    double tune_cents = 0.0;
    double on = 1.0;
    Settings settings{};
    LayerId id{};
    Unknown unknown{};
    bool operator==(const Layer&) const = default;

    /// A field of the source: as set, else as in the patch.
    double value(std::size_t field) const;
};

/// What sets a step off: the notes of a part, all or those of one key (a drum sound). None: the part's own.
struct Trigger {
    PartId part;
    int key = -1;
    bool operator==(const Trigger&) const = default;
};

/// An effect.
struct Step {
    const StepType* type = &kEqualiser;
    double on = 1.0;
    Trigger trigger{};
    Settings settings{};
    std::string state{}, file{};  ///< a plug-in's own, as a layer has them
    StepId id{};
    Unknown unknown{};
    bool operator==(const Step&) const = default;

    double value(std::size_t field) const;
};

/// How much of a part, as it leaves its own fader, goes to a bus besides.
struct Send {
    BusId bus{};
    double level_db = -12.0;
    double on = 1.0;
    Unknown unknown{};
    bool operator==(const Send&) const = default;
};

}  // namespace fw

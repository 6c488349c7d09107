// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <span>
#include <string>
#include <vector>

namespace fw {

/// A sound generator that plays notes.
///
/// Real time: everything but construction neither allocates, locks nor throws. Threads: one at a time.
/// reset() equals freshly made, sample for sample; only a SoundFont's library keeps the phase of its own blocks, so that the same notes may begin up to
/// 64 frames apart.
class Instrument {
public:
    virtual ~Instrument() = default;
    /// key 0..127, velocity 1..127. A key already down is struck again.
    virtual void note_on(int key, int velocity) noexcept = 0;
    virtual void note_off(int key) noexcept = 0;
    /// Detunes a sounding key by cents until its next note_on.
    virtual void bend(int key, double cents) noexcept = 0;
    virtual void reset() noexcept = 0;
    /// Adds left.size() frames to both buffers, which are of one size.
    virtual void render(std::span<float> left, std::span<float> right) noexcept = 0;
};

/// Names of the synth's patches and the drum kits, in the order menus show them.
const std::vector<std::string>& synth_patch_names();
const std::vector<std::string>& drum_kit_names();

/// A polyphonic subtractive synthesiser (16 voices): two band-limited oscillators with detune and noise through a resonant
/// low-pass, envelopes for level and cutoff, vibrato. Unknown names give the first patch. tuning_cents: how far above A4 = 440 Hz it is tuned.
std::unique_ptr<Instrument> make_synth(const std::string& patch, double sample_rate_hz, double tuning_cents = 0.0);

/// A drum kit of synthesised sounds on the General MIDI keys; closed and open hat choke each other.
std::unique_ptr<Instrument> make_drum_kit(const std::string& kit, double sample_rate_hz);

}  // namespace fw

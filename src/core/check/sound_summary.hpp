// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"
#include "dsp/frames.hpp"
#include "engine/offline.hpp"

#include <array>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace fw {

/// What is compared of a sound, as a whole and as it goes.
struct SoundSummary {
    static constexpr double kFrame_s = 0.1;  ///< from one spectrum to the next
    static constexpr double kLevel_s = 0.01;
    static constexpr int kLowestSemitone = 20, kSemitones = 111;  ///< MIDI pitches 20 (26 Hz) to 130 (15 kHz)
    static constexpr double kFloor_db = -110.0;
    static constexpr std::size_t kWidthBands = 4;
    struct WidthRange {
        const char* name;
        double low_hz, high_hz;
    };
    static const std::array<WidthRange, kWidthBands>& width_bands();

    int sample_rate_hz = 0;
    std::size_t size = 0;  ///< points in each spectrum; the bins are sample_rate_hz / size apart
    double duration_s = 0.0;
    double lufs = -70.0;                                    ///< integrated loudness (ITU-R BS.1770-4), -70 for silence
    double peak_db = kFloor_db;                             ///< true peak (BS.1770-4, annex 2), dB relative to full scale
    std::vector<double> mid, side;                          ///< mean power per bin, a full-scale sine reading about 1
    ByteGrid semitones;                                     ///< frames × kSemitones: power of both channels, see db_at
    ByteGrid left;                                          ///< frames × kSemitones: the left channel's share of that
    std::vector<std::array<float, 2 * kWidthBands>> width;  ///< per frame: the side's power in each range, then the whole's
    std::vector<float> level;                               ///< mean square of every kLevel_s

    /// Power of a semitone at a frame, to half a decibel; kFloor_db for nothing.
    double db_at(std::size_t frame, std::size_t semitone) const;
    /// The share of it that is on the left, 0..1.
    double left_share(std::size_t frame, std::size_t semitone) const { return static_cast<double>(left.at(frame, semitone)); }
    /// The frames that lie between two times.
    std::pair<std::size_t, std::size_t> frames_between(double from_s, double to_s) const;
    /// Power between two frequencies; a bin counts by the share of it that lies in the band.
    double between(const std::vector<double>& power, double low_hz, double high_hz) const;
};

/// Makes a SoundSummary of sound that comes block by block, one or two channels interleaved. What it keeps grows by about two kilobytes a second.
/// Not thread-safe.
class SoundMeter {
public:
    SoundMeter(int sample_rate_hz, int channels);
    ~SoundMeter();
    SoundMeter(SoundMeter&&) noexcept;
    SoundMeter& operator=(SoundMeter&&) noexcept;
    void add(std::span<const float> interleaved);
    /// Of all that was added; to be asked once.
    SoundSummary summary();

private:
    struct State;
    std::unique_ptr<State> state_;
};

SoundSummary summarise(const Audio& audio);
/// Of a plan, as it is rendered: memory grows as SoundMeter's does. Throws Cancelled, and what render_offline throws.
SoundSummary summarise(const Plan& plan, const RenderRange& range = {}, const Progress& progress = {});

/// Mean spectrum in third octaves from 25 Hz to 16 kHz (IEC 61260 centres), dB relative to full scale.
std::vector<double> third_octaves_db(const SoundSummary& summary);
/// The same of a stretch of time, from whole semitones.
std::vector<double> third_octaves_db(const SoundSummary& summary, double from_s, double to_s);
/// Mean level of a stretch of time, dB relative to full scale.
double level_db(const SoundSummary& summary, double from_s, double to_s);
/// The side's share of the energy in each width band of a stretch of time: 0 mono, 0.5 unrelated sides, 1 opposite ones.
std::array<double, SoundSummary::kWidthBands> width_of(const SoundSummary& summary, double from_s, double to_s);
/// The level that all but the quietest twentieth of the sound keeps above: what is always there. Digital silence does not count.
double noise_bed_db(const SoundSummary& summary);
/// How the level goes on after strokes, in steps of kLevel_s for 0.4 s, dB against its first 30 ms; louder strokes count more. Empty without strokes.
std::vector<double> decay_after(const SoundSummary& summary, std::span<const double> strokes_s);
const std::vector<double>& third_octave_centers_hz();

}  // namespace fw

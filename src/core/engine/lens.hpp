// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/spectral_lens.hpp"
#include "sound/svf.hpp"

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fw {

/// What part of a sound is let through to the ear.
enum class LensKind { Whole, Low, Body, Air, Band, Tonal, Percussive, Centre, Sides, Speaker, Pitch, Element, Loudspeakers };
inline constexpr int kLenses = 13;
const char* lens_name(LensKind kind);  ///< "small speaker", …

/// A lens as it is set.
struct Lens {
    LensKind kind = LensKind::Whole;
    double low_hz = 200.0, high_hz = 2000.0;  ///< of Band: edges, −3 dB
    double pitch_hz = 440.0;                  ///< of Pitch: the fundamental; four partials are let through, a semitone and a half to either side
    std::shared_ptr<const Share> share{};     ///< of Element; none lets all through
};

/// The edges of the three fixed bands, −3 dB: low lies below the first, body between the two, air above the third.
inline constexpr double kLowEdge_hz = 150.0, kBodyEdge_hz = 2500.0, kAirEdge_hz = 5000.0;

/// "band 200 2000", "pitch 440", "low": a lens as text, and back. An element's share is written "element" and read without it.
std::string lens_text(const Lens& lens);
std::optional<Lens> parse_lens(std::string_view text);

/// Lets part of a stereo sound through, changing from one lens to another by a crossfade of 10 ms once the next one has filled.
///
/// Bands and the small speaker are filters without delay (Butterworth, 24 dB an octave); loudspeakers, for those who listen on headphones, give each ear the
/// lows of both sides, the other's 0.3 ms later (after Bauer, "Stereophonic earphones and binaural loudspeakers", JAES 1961); centre, sides, tonal, percussive
/// and an element's share are masks on short spectra, which come later by latency_frames(). Real time: process(), change(), jump() and reset() neither
/// allocate, lock nor throw. Threads: one at a time.
class LensFilter {
public:
    explicit LensFilter(double sample_rate_hz);
    ~LensFilter();

    /// The next lens; it must live until another was changed to and settled() again. Only when settled.
    void change(const Lens* lens) noexcept;
    /// The next lens at once, for when nothing is heard.
    void jump(const Lens* lens) noexcept;
    bool settled() const noexcept { return !changing_; }
    /// Ends a crossfade at once, for when nothing is heard.
    void settle() noexcept;
    /// Forgets what was fed.
    void reset() noexcept;
    /// In place; at most kLargestBlock frames. frame: where the first lies in the recording.
    void process(std::span<float> left, std::span<float> right, std::int64_t frame) noexcept;
    std::size_t latency_frames() const noexcept;

    static constexpr std::size_t kLargestBlock = 1024;

private:
    struct Path;
    std::array<std::unique_ptr<Path>, 2> paths_;
    std::vector<float> left_, right_;
    double rate_;
    std::size_t now_ = 0, warm_ = 0;
    bool changing_ = false;
    float fade_ = 0.0F;
};

}  // namespace fw

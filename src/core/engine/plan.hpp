// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"
#include "base/progress.hpp"
#include "base/result.hpp"
#include "model/remake.hpp"
#include "sound/instrument.hpp"
#include "sound/limiter.hpp"

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace fw {

/// What happens at one frame of one part.
struct PlanEvent {
    enum class Kind : std::uint8_t { Off, Bend, On };  // in this order within a frame, so that a repeated key is struck anew
    std::int64_t frame = 0;
    Kind kind = Kind::On;
    int key = 0, velocity = 0;
    float cents = 0.0F;
};

struct PlanNote {
    std::int64_t on = 0, off = 0;
    int key = 0, velocity = 0;
};

struct PlanPart {
    int id = 0;
    std::string name;
    std::vector<PlanEvent> events;
    std::vector<PlanNote> notes;  ///< for starting in the middle of a note
    float gain = 1.0F, pan = 0.0F;
    bool audible = true;
    std::vector<float> layer_gain;
    std::vector<int> layer_octave;
};

/// The instruments of a plan: the one part of it that changes while it sounds. Owned by whoever renders.
struct Rack {
    std::vector<std::vector<std::unique_ptr<Instrument>>> instruments;  ///< by part, then layer
    std::string signature;                                              ///< what they were made from
};

/// A remake made ready to sound: every time in frames of the recording's own clock, so that the rebuild stands at the same
/// musical place as the original at any frame. Immutable but for the rack.
struct Plan {
    double sample_rate_hz = 44100.0;
    std::int64_t end_frame = 0;
    std::vector<PlanPart> parts;
    std::shared_ptr<Rack> rack;
};

/// Compiles a document. Instruments are tuned as the recording is and taken over from `previous` when they would be the same; else they are made here,
/// which may load SoundFonts: a layer whose SoundFont cannot be loaded stays silent, and the first such error is told in *trouble.
/// Cost n log n in the notes that sound.
std::shared_ptr<const Plan> compile_plan(const Remake& remake, double sample_rate_hz, const std::shared_ptr<const Plan>& previous = nullptr,
                                         Error* trouble = nullptr);

/// A plan with instruments of its own for rendering to files and figures: a layer that would be silent is an error (SoundFontUnusable).
Result<std::shared_ptr<const Plan>> compile_for_rendering(const Remake& remake, double sample_rate_hz);

/// Renders a plan block by block. Real time: render, seek and adopt neither allocate nor lock. Threads: one at a time.
class PlanRenderer {
public:
    static constexpr std::size_t kLargestBlock = 1024;

    explicit PlanRenderer(double sample_rate_hz);
    /// Takes another plan at the same place. While running, what sounds is released and what should sound is struck.
    void adopt(const Plan* plan) noexcept;
    /// Goes to a place and runs from there, striking what sounds across it.
    void seek(std::int64_t frame) noexcept;
    /// Goes to a place and rests there in silence: nothing is struck until the next seek.
    void rest(std::int64_t frame) noexcept;
    std::int64_t frame() const noexcept { return frame_; }
    /// Strikes and releases one key of a part on all its layers, at their octaves, whatever the plan plays. Heard in render() while running, else in
    /// render_resting().
    void strike(std::size_t part_index, int key, int velocity) noexcept;
    void release(std::size_t part_index, int key) noexcept;
    /// Adds what one part's instruments sound by themselves, at the levels and the pan the part plays with.
    void render_resting(std::size_t part_index, std::span<float> left, std::span<float> right) noexcept;
    /// Overwrites both buffers (at most kLargestBlock frames). only_part: a part id to render alone at its own level, 0 for the mix.
    void render(std::span<float> left, std::span<float> right, int only_part = 0) noexcept;

private:
    void silence() noexcept;
    void start_sounding() noexcept;
    void render_part(std::size_t index, std::size_t count) noexcept;
    void sound_layers(std::size_t index, std::size_t from, std::size_t count) noexcept;
    void add_part(std::size_t index, std::span<float> left, std::span<float> right) const noexcept;

    const Plan* plan_ = nullptr;
    std::int64_t frame_ = 0;
    bool running_ = false;
    static constexpr std::size_t kMostParts = 128;
    std::vector<std::size_t> next_event_;
    std::vector<float> part_left_, part_right_, layer_left_, layer_right_;
};

/// Renders a whole remake offline through the same renderer and limiter as real time, latency taken out, block by block into a sink: memory does not grow
/// with length. only_part as in PlanRenderer::render (then without the limiter). False where the sink took no more. Throws Cancelled.
bool render_offline(const Plan& plan, const SoundSink& sink, const Progress& progress = {}, int only_part = 0);

/// The same into memory, 8 bytes a frame. Returns Cancelled when told to stop.
Result<Audio> render_offline(const Plan& plan, const Progress& progress = {}, int only_part = 0);

/// The same into a file, as write_audio writes.
Status render_to_file(const Plan& plan, const std::filesystem::path& path, const Progress& progress = {}, int only_part = 0);

/// The recording at another rate, mixed to stereo; for playing beside a rebuild. What is so already is handed through, so give it away: a long recording
/// need not lie in memory twice.
Audio at_rate(Audio audio, double sample_rate_hz);

}  // namespace fw

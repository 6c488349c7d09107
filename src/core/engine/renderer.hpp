// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/plan.hpp"

#include <array>
#include <span>
#include <vector>

namespace fw {

/// What of a plan is rendered.
struct RenderWhat {
    enum class Kind {
        Whole,  ///< everything, through the master and its limiter
        Part,   ///< a part as it leaves its own fader, whatever is muted
        Layer,  ///< one layer through its part's steps and fader
        Clips,  ///< all clips at their levels
        Bus     ///< what comes out of a bus
    };
    Kind kind = Kind::Whole;
    PartId part;
    LayerId layer;
    BusId bus;
    bool steps = true;  ///< false: without any effect
    static RenderWhat whole() { return {}; }
    static RenderWhat clips() { return {Kind::Clips, {}, {}, {}, true}; }
    static RenderWhat of(PartId id) { return {Kind::Part, id, {}, {}, true}; }
    static RenderWhat of(LayerId id) { return {Kind::Layer, {}, id, {}, true}; }
    static RenderWhat of(BusId id) { return {Kind::Bus, {}, {}, id, true}; }
};

/// Renders a plan in slices of kSlice frames on the recording's own grid and hands them out in blocks of any size: the same samples whatever the blocks.
///
/// Real time: all but making it neither allocates, locks nor throws. Threads: one at a time. Plans must outlive their use: until settled() is true the one
/// before is still in use, too.
class PlanRenderer {
public:
    PlanRenderer();

    /// Takes another plan at the same place. While running, things whose sources or steps are others now go down for some 4 ms, the plan is changed, and
    /// they come back; all else sounds on: tails and held notes, of which only those that changed are released or struck.
    void adopt(const Plan* plan) noexcept;
    /// True once the plan given last is the only one in use.
    bool settled() const noexcept { return next_ == nullptr; }
    /// Goes to a place and runs from there, striking what sounds across it.
    void seek(std::int64_t frame) noexcept;
    /// Goes to a place and rests there in silence: nothing is struck until the next seek.
    void rest(std::int64_t frame) noexcept;
    std::int64_t frame() const noexcept { return frame_; }
    /// Before the first render.
    void set_what(const RenderWhat& what) noexcept { what_ = what; }

    /// Strikes and releases one key of a part on all its layers, whatever the plan plays. Heard in render() while running, else in render_resting().
    void strike(PartId part, int key, int velocity) noexcept;
    void release() noexcept;
    /// Adds what the struck part sounds by itself, with its steps, level and pan.
    void render_resting(Stereo out) noexcept;
    /// Overwrites out with the next frames.
    void render(Stereo out) noexcept;

private:
    static constexpr std::size_t kMostBuses = 64, kMostVoices = 64, kFadeSlices = 7;
    struct Buffer {
        std::array<float, kSlice> left, right;
        Stereo all() noexcept { return {left, right}; }
        void clear() noexcept { left.fill(0.0F), right.fill(0.0F); }
    };
    struct Voices {
        std::array<const PlanNote*, kMostVoices> notes;
        std::size_t count = 0;
    };

    void swap_plans() noexcept;
    void silence() noexcept;
    void begin_at_slice(std::int64_t frame) noexcept;
    void set_fields(bool all) noexcept;
    void set_fields(Processor& processor, const PlanFields& fields, bool all) noexcept;
    static Voices sounding(const PlanLayer& layer, std::int64_t frame, std::int64_t at_least) noexcept;
    void find_places(bool strike) noexcept;
    void render_slice() noexcept;
    void render_clip(const PlanClip& clip) noexcept;
    void render_bus(std::size_t bus) noexcept;
    /// Adds a layer; false where it is silent.
    bool render_layer(const PlanLayer& layer, Stereo into) noexcept;
    /// Runs a chain over a slice, which may be known to be silent; returns whether it is silent behind it.
    bool run_steps(const std::vector<PlanStep>& steps, Stereo io, bool silent) noexcept;
    void render_part(const PlanPart& part, bool alone) noexcept;
    void send(const PlanOutlet& outlet, float left, float right, const Buffer& from, bool silent = false) noexcept;
    std::pair<float, float> gains(GainState& state, std::size_t level, std::size_t pan) const noexcept;
    static void ramp(GainState& state, float left, float right, Stereo io) noexcept;
    float value(std::size_t control) const noexcept { return static_cast<float>(plan_->controls.at(control, stream_)); }
    static bool changed(const std::vector<PlanStep>& a, const std::vector<PlanStep>& b) noexcept;
    bool any_change() noexcept;

    const Plan* plan_ = nullptr;
    const Plan* next_ = nullptr;
    RenderWhat what_;
    std::int64_t frame_ = 0;   ///< of the next frame handed out
    std::int64_t stream_ = 0;  ///< of the next slice made: ahead of frame_ by the plan's latency and what is left over
    bool running_ = false, fresh_ = true;
    std::size_t fading_ = 0;  ///< slices until next_ takes over
    std::vector<char> parts_down_, buses_down_;
    bool master_down_ = false;
    std::vector<std::size_t> part_of_next_;
    Buffer slice_, part_, layer_, dry_, sent_, master_;
    std::array<Buffer, kMostBuses> buses_;
    std::array<bool, kMostBuses> bus_silent_{};
    bool master_silent_ = false;
    std::size_t left_over_ = 0;  ///< frames of slice_ not handed out yet
    PartId struck_part_;
    int struck_key_ = -1;
};

}  // namespace fw

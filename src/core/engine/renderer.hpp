// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/crew.hpp"
#include "engine/plan.hpp"
#include "model/limits.hpp"

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
/// Slices are made in batches, each part's one after the other, parts side by side where there is a crew: the same samples with and without one.
///
/// Real time: all but making it neither allocates, locks nor throws. Threads: one at a time. Plans must outlive their use: until settled() is true the one
/// before is still in use, too.
class PlanRenderer {
public:
    /// A crew must outlive the renderer; null: the caller does all.
    explicit PlanRenderer(Crew* crew = nullptr);

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
    static constexpr std::size_t kMostVoices = 64, kFadeSlices = 7, kBatch = 32;
    struct Buffer {
        std::array<float, kSlice> left, right;
        Stereo all() noexcept { return {left, right}; }
        void clear() noexcept { left.fill(0.0F), right.fill(0.0F); }
    };
    /// What a part or a bus sounds in the slices of a batch.
    struct Sound {
        std::array<Buffer, kBatch> slices;
        std::array<bool, kBatch> silent{};
        std::array<std::pair<float, float>, kBatch> faded{};  ///< the gains of a part's fader, left and right
    };
    struct Voices {
        std::array<const PlanNote*, kMostVoices> notes;
        std::size_t count = 0;
    };

    // renderer.cpp: places and plans
    void swap_plans() noexcept;
    void silence() noexcept;
    void begin_at_slice(std::int64_t frame) noexcept;
    void set_all_fields() noexcept;
    static Voices sounding(const PlanLayer& layer, std::int64_t frame, std::int64_t at_least) noexcept;
    void find_places(bool strike) noexcept;
    static bool changed(const std::vector<PlanStep>& a, const std::vector<PlanStep>& b) noexcept;
    bool any_change() noexcept;
    static bool has_clip(const Plan& plan, const PlanClip& clip) noexcept;

    // batch.cpp: sound. Each is told the frame of its slice; what runs side by side touches what belongs to its part or bus only.
    void render_batch(std::size_t slices) noexcept;
    void run_part(const PlanPart& part, std::size_t slices, bool alone) noexcept;
    /// Adds a layer; false where it is silent.
    bool run_layer(const PlanLayer& layer, std::int64_t frame, Stereo into) noexcept;
    /// Runs a chain over a slice, which may be known to be silent; returns whether it is silent behind it.
    bool run_steps(const std::vector<PlanStep>& steps, std::int64_t frame, Stereo io, bool silent) noexcept;
    void set_fields(Processor& processor, const PlanFields& fields, std::int64_t frame, bool all) noexcept;
    void set_fields(const std::vector<PlanStep>& steps, std::int64_t frame, bool all) noexcept;
    bool wanted(const PlanPart& part) const noexcept;
    void mix_parts(int into, std::size_t slices) noexcept;
    void mix_part(const PlanPart& part, int into, std::size_t slice, bool alone) noexcept;
    void mix_clip(const PlanClip& clip, std::size_t slice) noexcept;
    void run_buses(std::size_t slices) noexcept;
    void mix_bus(std::size_t bus, std::size_t slice, int to) noexcept;
    void run_master(std::size_t slice) noexcept;
    void send(const PlanOutlet& outlet, int bus, float left, float right, const Sound& from, std::size_t slice) noexcept;
    std::pair<float, float> gains(GainState& state, std::size_t level, std::size_t pan, std::int64_t frame) const noexcept;
    static void ramp(GainState& state, float left, float right, Stereo io) noexcept;
    std::int64_t frame_of(std::size_t slice) const noexcept { return stream_ + static_cast<std::int64_t>(slice * kSlice); }
    float value(std::size_t control, std::int64_t frame) const noexcept { return static_cast<float>(plan_->controls.at(control, frame)); }

    Crew* crew_;
    const Plan* plan_ = nullptr;
    const Plan* next_ = nullptr;
    RenderWhat what_;
    std::int64_t frame_ = 0;   ///< of the next frame handed out
    std::int64_t stream_ = 0;  ///< of the next slice made: ahead of frame_ by the plan's latency and what is left over
    bool running_ = false, fresh_ = true;
    std::size_t fading_ = 0;  ///< slices until next_ takes over
    std::vector<char> parts_down_, buses_down_;
    bool master_down_ = false;
    std::vector<Sound> parts_, buses_;
    Sound master_;
    std::size_t made_ = 0, left_over_ = 0;  ///< frames of master_, and those of them not handed out yet
    PartId struck_part_;
    int struck_key_ = -1;
};

}  // namespace fw

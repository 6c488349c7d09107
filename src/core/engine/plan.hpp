// SPDX-License-Identifier: GPL-3.0-or-later
// A remake made ready to sound: a graph of processors in the order they are run — sources, their part's steps, sends, buses, the master — with every time
// in frames of the recording's own clock, so that the rebuild stands at the same musical place as the original at any frame.
#pragma once

#include "base/result.hpp"
#include "engine/clip_sound.hpp"

#include <bitset>
#include "engine/moves.hpp"
#include "model/remake.hpp"
#include "sound/limiter.hpp"
#include "sound/processor.hpp"

#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace fw {

/// What happens at one frame of one layer.
struct PlanEvent {
    enum class Kind : std::uint8_t { Off, Bend, On };  // in this order within a frame, so that a repeated key is struck anew
    std::int64_t frame = 0;
    VoiceId voice = 0;
    Kind kind = Kind::On;
    std::uint8_t key = 0, velocity = 0;
    float cents = 0.0F;
};

struct PlanNote {
    std::int64_t on = 0, off = 0;
    VoiceId voice = 0;
    std::uint8_t key = 0, velocity = 0;
};

/// Gains on their way to where they shall be, in six slices from each change, so that nothing that is switched, muted or swapped clicks.
struct GainState {
    struct Side {
        float now = 0.0F, wanted = 0.0F, step = 0.0F;
    };
    Side left, right;
    bool begun = false;                                            ///< until then the first gains hold at once
    float db = 1e9F, pan = 1e9F, to_left = 0.0F, to_right = 0.0F;  ///< the last level and pan, and the gains they are

    void hold(float l, float r) noexcept { left = {l, l, 0.0F}, right = {r, r, 0.0F}, begun = true; }
};

/// Left and right of a gain by the constant-power law; pan −1 to 1, 0 dB a side at the centre.
std::pair<float, float> balanced(float gain, float pan) noexcept;

/// Sound held back by a number of frames.
class DelayLine {
public:
    explicit DelayLine(std::size_t frames) : left_(frames, 0.0F), right_(frames, 0.0F) {}
    std::size_t frames() const noexcept { return left_.size(); }
    void reset() noexcept;
    void process(Stereo io) noexcept;

private:
    std::vector<float> left_, right_;
    std::size_t at_ = 0;
};

// What sounds and remembers, one a thing: taken over from plan to plan while the thing stays what it is, and touched by whoever renders only.
struct LayerState {
    std::unique_ptr<Processor> processor;  ///< null where its SoundFont cannot be loaded: silent
    GainState gain;
    std::size_t next_event = 0;
};
struct StepState {
    std::unique_ptr<Processor> processor;
    DelayLine dry;  ///< as late as what comes out of the processor
    float wet = 0.0F;
    bool begun = false;
    std::size_t next_hit = 0;
    std::size_t silent_for = 0;  ///< frames since its input fell silent
};
struct OutletState {
    GainState gain;
    DelayLine delay;
};

/// Fields of a processor: their controls stand one behind the other in the plan.
struct PlanFields {
    std::size_t first = 0, count = 0;
    bool moving = false;  ///< one of them changes by itself
    bool timed = false;   ///< the processor asks where in the song it is
};

struct PlanLayer {
    LayerId id;
    const SourceType* source = nullptr;
    SourceSpec spec;
    std::shared_ptr<LayerState> state;
    std::size_t on = 0, level = 0, pan = 0;  ///< controls
    PlanFields fields;
    std::vector<PlanEvent> events;
    std::vector<PlanNote> notes;  ///< for starting in the middle of one
    int octave = 0, low_key = 0, high_key = 127, low_velocity = 1, high_velocity = 127;
    std::bitset<128> left_to_others{};  ///< drum sounds that have a layer of their own
    /// Whether it plays a written note.
    bool plays(int key, int velocity) const {
        return !left_to_others[static_cast<std::size_t>(key)] && key >= low_key && key <= high_key && velocity >= low_velocity && velocity <= high_velocity;
    }
};

struct PlanStep {
    StepId id;
    const StepType* type = nullptr;
    std::shared_ptr<StepState> state;
    std::size_t on = 0;
    PlanFields fields;
    std::vector<PlanNote> hits;   ///< what sets it off
    std::string own_state, file;  ///< what a plug-in is made from besides its fields
};

/// A way out of a part, a clip or a bus.
struct PlanOutlet {
    std::shared_ptr<OutletState> state;
    int bus = -1;  ///< its place among the plan's buses; -1: the master
    std::size_t level = 0;
};

struct PlanPart {
    PartId id;
    std::string name;
    std::vector<PlanLayer> layers;
    std::vector<PlanStep> steps;
    std::size_t level = 0, pan = 0;
    PlanOutlet out;
    std::vector<PlanOutlet> sends;
    std::vector<std::size_t> send_on;
    bool audible = true;
};

struct PlanClip {
    ClipId id;
    std::string name;
    std::shared_ptr<const Audio> sound;  ///< stereo, with its recipe followed
    std::int64_t start = 0;
    float left = 1.0F, right = 1.0F;
    PlanOutlet out;
    bool audible = true, original = false;
};

struct PlanBus {
    BusId id;
    std::string name;
    std::vector<PlanStep> steps;
    std::size_t level = 0, pan = 0;
    PlanOutlet out;
};

/// Immutable but for the states.
struct Plan {
    double sample_rate_hz = 44100.0;
    std::int64_t end_frame = 0;
    std::vector<PlanPart> parts;
    std::vector<PlanClip> clips;
    std::vector<PlanBus> buses;
    std::vector<PlanStep> master;
    std::size_t master_level = 0;
    std::shared_ptr<GainState> master_gain;
    std::shared_ptr<Limiter> limiter;
    Controls controls;
    Shared<Song> song;                                           ///< whose tempo and meter it is in
    std::size_t latency = 0;                                     ///< frames by which the mix comes out late, without the limiter
    std::map<std::string, std::shared_ptr<const Audio>> sounds;  ///< of clips, by asset and recipe: made once

    /// Real-time safe.
    MusicalTime time_at(std::int64_t frame) const noexcept;
    /// The place of a part, or none.
    int part(PartId id) const;
    int bus(BusId id) const;
    /// The first plug-in that has failed while it ran, if any: PlugInFailed. From any thread.
    std::optional<Error> failure() const;
};

/// What a plan is made with besides the document.
struct PlanInputs {
    double sample_rate_hz = 44100.0;
    AssetLoader assets;  ///< without one there are no clips from files
};

/// Compiles a document. What has not changed is taken over from `previous`; else it is made here, which may load SoundFonts and clips: what cannot be loaded
/// stays silent, and the first such error is told in *trouble. Cost n log n in the notes that sound.
std::shared_ptr<const Plan> compile_plan(const Remake& remake, const PlanInputs& inputs, const std::shared_ptr<const Plan>& previous = nullptr,
                                         Error* trouble = nullptr);

/// A plan of its own for rendering to files and figures: anything that would be silent is an error (SoundFontUnusable, those of the loader).
Result<std::shared_ptr<const Plan>> compile_for_rendering(const Remake& remake, const PlanInputs& inputs);

}  // namespace fw

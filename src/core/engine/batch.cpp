// SPDX-License-Identifier: GPL-3.0-or-later
// The sound of a batch of slices: parts and their steps, ways out, buses and theirs, the master, in this order, so that all that flows into something is
// there before it.
#include "engine/renderer.hpp"
#include "sound/no_denormals.hpp"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace fw {

namespace {

float gain_of(float db) { return db <= -95.9F ? 0.0F : std::pow(10.0F, db / 20.0F); }

}  // namespace

// --- fields and gains ---

void PlanRenderer::set_fields(Processor& processor, const PlanFields& fields, std::int64_t frame, bool all) noexcept {
    if (fields.timed) processor.tell_time(plan_->time_at(frame));
    if (!all && !fields.moving) return;
    for (std::size_t i = 0; i < fields.count; ++i) {
        const Control& c = plan_->controls.all[fields.first + i];
        if (all || c.track >= 0 || c.in_beats) processor.set(i, plan_->controls.at(fields.first + i, frame));
    }
}

void PlanRenderer::set_fields(const std::vector<PlanStep>& steps, std::int64_t frame, bool all) noexcept {
    for (const PlanStep& s : steps) set_fields(*s.state->processor, s.fields, frame, all);
}

void PlanRenderer::ramp(GainState& state, float left, float right, Stereo io) noexcept {
    if (!state.begun) state.hold(left, right);
    const auto one = [](GainState::Side& side, float wanted, std::span<float> samples) {
        if (wanted != side.wanted) side.wanted = wanted, side.step = std::abs(wanted - side.now) / static_cast<float>(kFadeSlices - 1);
        const float now = side.now, end = std::abs(wanted - now) <= side.step * 1.001F ? wanted : now + std::copysign(side.step, wanted - now);
        side.now = end;
        if (end == now) {
            for (float& s : samples) s *= now;
            return;
        }
        const float climb = (end - now) / static_cast<float>(kSlice);
        for (std::size_t i = 0; i < kSlice; ++i) samples[i] *= now + static_cast<float>(i + 1) * climb;
    };
    one(state.left, left, io.left);
    one(state.right, right, io.right);
}

/// The gains of a level and a pan, worked out where they have changed.
std::pair<float, float> PlanRenderer::gains(GainState& state, std::size_t level, std::size_t pan, std::int64_t frame) const noexcept {
    const float db = value(level, frame), side = value(pan, frame);
    if (db != state.db || side != state.pan) {
        state.db = db, state.pan = side;
        std::tie(state.to_left, state.to_right) = balanced(gain_of(db), side);
    }
    return {state.to_left, state.to_right};
}

// --- layers and steps: side by side ---

bool PlanRenderer::run_layer(const PlanLayer& layer, std::int64_t frame, Stereo into) noexcept {
    LayerState& state = *layer.state;
    if (!state.processor) return false;
    const auto [wanted_left, wanted_right] = gains(state.gain, layer.level, layer.pan, frame);
    const float on = value(layer.on, frame) >= 0.5F ? 1.0F : 0.0F, left = on * wanted_left, right = on * wanted_right;
    const std::int64_t end = frame + static_cast<std::int64_t>(kSlice);
    const bool event = state.next_event < layer.events.size() && layer.events[state.next_event].frame < end;
    if (!event && state.processor->idle()) {
        state.gain.hold(left, right);  // where nothing sounds a gain is at once where it shall be
        return false;
    }
    Buffer sound;
    sound.clear();
    std::size_t done = 0;
    while (done < kSlice) {
        // Everything due now is played, then sound is made up to the next event: onsets are exact to the frame.
        const std::int64_t now = frame + static_cast<std::int64_t>(done);
        while (state.next_event < layer.events.size() && layer.events[state.next_event].frame <= now) {
            const PlanEvent& e = layer.events[state.next_event++];
            if (e.kind == PlanEvent::Kind::On) state.processor->note_on(e.voice, e.key, e.velocity);
            else if (e.kind == PlanEvent::Kind::Off) state.processor->note_off(e.voice);
            else state.processor->bend(e.voice, static_cast<double>(e.cents));
        }
        std::size_t step = kSlice - done;
        if (state.next_event < layer.events.size()) step = std::min<std::size_t>(step, static_cast<std::size_t>(layer.events[state.next_event].frame - now));
        state.processor->process(sound.all().part(done, step), {});
        done += step;
    }
    ramp(state.gain, left, right, sound.all());
    for (std::size_t i = 0; i < kSlice; ++i) into.left[i] += sound.left[i], into.right[i] += sound.right[i];
    return true;
}

bool PlanRenderer::run_steps(const std::vector<PlanStep>& steps, std::int64_t frame, Stereo io, bool silent) noexcept {
    for (const PlanStep& s : steps) {
        StepState& state = *s.state;
        const float wanted = value(s.on, frame) >= 0.5F ? 1.0F : 0.0F;
        // Once its tail is over a step that hears nothing gives nothing; it goes on from there when something comes.
        state.silent_for = silent ? state.silent_for + kSlice : 0;
        const bool over =
            static_cast<double>(state.silent_for) > state.processor->tail_s() * plan_->sample_rate_hz + 2.0 * kSlice + static_cast<double>(state.dry.frames());
        if (over && s.hits.empty()) {
            state.wet = wanted;
            state.begun = true;
            std::fill(io.left.begin(), io.left.end(), 0.0F);
            std::fill(io.right.begin(), io.right.end(), 0.0F);
            continue;
        }
        if (!over && silent) silent = false;
        if (!state.begun) state.wet = wanted, state.begun = true;
        const float before = state.wet, way = 1.0F / static_cast<float>(kFadeSlices - 1);
        state.wet += std::clamp(wanted - state.wet, -way, way);
        const bool mixes = before < 1.0F || state.wet < 1.0F;
        Buffer dry;
        if (mixes || state.dry.frames() > 0) {
            std::copy(io.left.begin(), io.left.end(), dry.left.begin());
            std::copy(io.right.begin(), io.right.end(), dry.right.begin());
            state.dry.process(dry.all());
        }
        std::size_t done = 0;
        while (done < kSlice) {
            const std::int64_t now = frame + static_cast<std::int64_t>(done);
            while (state.next_hit < s.hits.size() && s.hits[state.next_hit].on <= now) {
                const PlanNote& hit = s.hits[state.next_hit++];
                state.processor->note_on(hit.voice, hit.key, hit.velocity);
            }
            std::size_t step = kSlice - done;
            if (state.next_hit < s.hits.size()) step = std::min<std::size_t>(step, static_cast<std::size_t>(s.hits[state.next_hit].on - now));
            state.processor->process(io.part(done, step), {});
            done += step;
        }
        if (!mixes) continue;
        for (std::size_t i = 0; i < kSlice; ++i) {
            const float wet = before + (state.wet - before) * static_cast<float>(i + 1) / static_cast<float>(kSlice);
            io.left[i] = dry.left[i] + wet * (io.left[i] - dry.left[i]);
            io.right[i] = dry.right[i] + wet * (io.right[i] - dry.right[i]);
        }
    }
    return silent;
}

/// A part's layers through its steps, before its fader, and where that stands. alone: heard whether the mix has it or not.
void PlanRenderer::run_part(const PlanPart& part, std::size_t slices, bool alone) noexcept {
    const NoDenormals small_is_nothing;
    const auto p = static_cast<std::size_t>(&part - plan_->parts.data());
    const bool heard = (alone || part.audible) && !parts_down_[p];  // a silent part runs along, so that it can come back in the middle of a note
    Sound& sound = parts_[p];
    for (std::size_t s = 0; s < slices; ++s) {
        const std::int64_t frame = frame_of(s);
        const bool all = fresh_ && s == 0;
        for (const PlanLayer& l : part.layers)
            if (l.state->processor) set_fields(*l.state->processor, l.fields, frame, all);
        set_fields(part.steps, frame, all);
        Buffer& slice = sound.slices[s];
        slice.clear();
        bool silent = true;
        for (const PlanLayer& l : part.layers)
            if (what_.kind != RenderWhat::Kind::Layer || l.id == what_.layer)
                if (run_layer(l, frame, slice.all())) silent = false;
        if (what_.steps) silent = run_steps(part.steps, frame, slice.all(), silent);
        sound.silent[s] = silent;
        sound.faded[s] = heard ? gains(part.out.state->gain, part.level, part.pan, frame) : std::pair{0.0F, 0.0F};
    }
}

// --- the mix: what flows into a bus or the master, in order; one beside the other ---

/// Adds a slice, at a level, to a bus (−1: the master).
void PlanRenderer::send(const PlanOutlet& outlet, int bus, float left, float right, const Sound& from, std::size_t slice) noexcept {
    if (from.silent[slice] && outlet.state->delay.frames() == 0) return outlet.state->gain.hold(left, right);
    Sound& into = bus < 0 ? master_ : buses_[static_cast<std::size_t>(bus)];
    into.silent[slice] = false;
    Buffer sent = from.slices[slice];
    ramp(outlet.state->gain, left, right, sent.all());
    if (outlet.state->delay.frames() > 0) outlet.state->delay.process(sent.all());
    Buffer& to = into.slices[slice];
    for (std::size_t i = 0; i < kSlice; ++i) to.left[i] += sent.left[i], to.right[i] += sent.right[i];
}

/// What of a part flows into a bus, or into the master.
void PlanRenderer::mix_part(const PlanPart& part, int into, std::size_t slice, bool alone) noexcept {
    const Sound& sound = parts_[static_cast<std::size_t>(&part - plan_->parts.data())];
    const auto [left, right] = sound.faded[slice];
    if (into == (alone ? -1 : part.out.bus)) send(part.out, into, left, right, sound, slice);
    if (alone) return;
    for (std::size_t s = 0; s < part.sends.size(); ++s) {
        if (part.sends[s].bus != into) continue;
        GainState& state = part.sends[s].state->gain;
        const std::int64_t frame = frame_of(slice);
        if (const float db = value(part.sends[s].level, frame); db != state.db) state.db = db, state.to_left = gain_of(db);
        const float level = value(part.send_on[s], frame) >= 0.5F ? state.to_left : 0.0F;
        send(part.sends[s], into, level * left, level * right, sound, slice);
    }
}

bool PlanRenderer::wanted(const PlanPart& part) const noexcept {
    using Kind = RenderWhat::Kind;
    if (what_.kind == Kind::Part) return part.id == what_.part;
    if (what_.kind == Kind::Layer) return std::any_of(part.layers.begin(), part.layers.end(), [&](const PlanLayer& l) { return l.id == what_.layer; });
    return what_.kind != Kind::Clips;
}

void PlanRenderer::mix_parts(int into, std::size_t slices) noexcept {
    const NoDenormals small_is_nothing;
    const bool alone = what_.kind == RenderWhat::Kind::Part || what_.kind == RenderWhat::Kind::Layer;
    Sound& sound = into < 0 ? master_ : buses_[static_cast<std::size_t>(into)];
    for (std::size_t s = 0; s < slices; ++s) {
        sound.slices[s].clear(), sound.silent[s] = true;
        for (const PlanPart& p : plan_->parts)
            if (wanted(p)) mix_part(p, into, s, alone);
    }
}

void PlanRenderer::mix_clip(const PlanClip& c, std::size_t slice) noexcept {
    const auto frames = static_cast<std::int64_t>(c.sound->frames()), first = frame_of(slice) - c.start;
    Sound& sound = parts_.front();  // parts are mixed by now
    sound.silent[slice] = first >= frames || first + static_cast<std::int64_t>(kSlice) <= 0;
    Buffer& to = sound.slices[slice];
    to.clear();
    for (std::int64_t i = std::max<std::int64_t>(0, -first); i < static_cast<std::int64_t>(kSlice) && first + i < frames; ++i) {
        to.left[static_cast<std::size_t>(i)] = c.sound->samples[static_cast<std::size_t>(2 * (first + i))];
        to.right[static_cast<std::size_t>(i)] = c.sound->samples[static_cast<std::size_t>(2 * (first + i) + 1)];
    }
    // A clip that the next plan does not have goes down with the rest.
    const bool leaves = next_ && fading_ > 1 && !has_clip(*next_, c);
    const float heard = c.audible && !leaves ? 1.0F : 0.0F;
    send(c.out, what_.kind == RenderWhat::Kind::Clips ? -1 : c.out.bus, heard * c.left, heard * c.right, sound, slice);
}

/// Their steps, side by side where none leads to another of the same run; then their ways out.
void PlanRenderer::run_buses(std::size_t slices) noexcept {
    const auto count = plan_->buses.size();
    for (std::size_t first = 0; first < count;) {
        std::size_t end = first + 1;
        const auto fed = [&](std::size_t bus) {
            return std::any_of(plan_->buses.begin() + static_cast<std::ptrdiff_t>(first), plan_->buses.begin() + static_cast<std::ptrdiff_t>(end),
                               [&](const PlanBus& b) { return b.out.bus == static_cast<int>(bus); });
        };
        while (end < count && !fed(end)) ++end;
        const auto run = [&](std::size_t i) {
            const NoDenormals small_is_nothing;
            const std::size_t b = first + i;
            for (std::size_t s = 0; s < slices; ++s) {
                set_fields(plan_->buses[b].steps, frame_of(s), fresh_ && s == 0);
                if (what_.steps) buses_[b].silent[s] = run_steps(plan_->buses[b].steps, frame_of(s), buses_[b].slices[s].all(), buses_[b].silent[s]);
            }
        };
        if (crew_) crew_->run(end - first, run);
        else
            for (std::size_t i = 0; i < end - first; ++i) run(i);
        for (std::size_t b = first; b < end; ++b)
            for (std::size_t s = 0; s < slices; ++s) mix_bus(b, s, plan_->buses[b].out.bus);
        first = end;
    }
}

void PlanRenderer::mix_bus(std::size_t b, std::size_t slice, int to) noexcept {
    const PlanBus& bus = plan_->buses[b];
    const auto [left, right] = gains(bus.out.state->gain, bus.level, bus.pan, frame_of(slice));
    const float down = buses_down_[b] ? 0.0F : 1.0F;
    send(bus.out, to, down * left, down * right, buses_[b], slice);
}

void PlanRenderer::run_master(std::size_t slice) noexcept {
    const std::int64_t frame = frame_of(slice);
    Stereo io = master_.slices[slice].all();
    set_fields(plan_->master, frame, fresh_ && slice == 0);
    if (what_.steps) run_steps(plan_->master, frame, io, master_.silent[slice]);
    const float level = master_down_ ? 0.0F : gain_of(value(plan_->master_level, frame));
    ramp(*plan_->master_gain, level, level, io);
    if (what_.steps) plan_->limiter->process(io.left, io.right);
}

/// At most kBatch slices; one while plans are changed.
void PlanRenderer::render_batch(std::size_t slices) noexcept {
    const NoDenormals small_is_nothing;
    using Kind = RenderWhat::Kind;
    const bool alone = what_.kind == Kind::Part || what_.kind == Kind::Layer;
    const auto& parts = plan_->parts;
    const auto run = [&](std::size_t p) {
        if (wanted(parts[p])) run_part(parts[p], slices, alone);
    };
    const auto mix = [&](std::size_t into) { mix_parts(static_cast<int>(into) - 1, slices); };
    const std::size_t ways = plan_->buses.size() + 1;
    if (crew_ && !alone) {
        crew_->run(parts.size(), run);
        crew_->run(ways, mix);
    } else {
        for (std::size_t p = 0; p < parts.size(); ++p) run(p);
        for (std::size_t w = 0; w < ways; ++w) mix(w);
    }
    if (!alone)
        for (const PlanClip& c : plan_->clips)
            for (std::size_t s = 0; s < slices; ++s) mix_clip(c, s);
    if (what_.kind == Kind::Bus || what_.kind == Kind::Whole) run_buses(slices);
    if (what_.kind == Kind::Bus)
        if (const int b = plan_->bus(what_.bus); b >= 0)
            for (std::size_t s = 0; s < slices; ++s) {
                master_.slices[s].clear(), master_.silent[s] = true;
                mix_bus(static_cast<std::size_t>(b), s, -1);
            }
    if (what_.kind == Kind::Whole)
        for (std::size_t s = 0; s < slices; ++s) run_master(s);
    fresh_ = false;
    made_ = slices * kSlice;
    stream_ += static_cast<std::int64_t>(made_);
    if (next_ && --fading_ == 0) swap_plans();
}

}  // namespace fw

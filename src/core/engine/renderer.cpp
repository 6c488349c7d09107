// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/renderer.hpp"

#include "model/limits.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <tuple>

namespace fw {

namespace {

constexpr VoiceId kAudition = ~VoiceId{0};

float gain_of(float db) { return db <= -95.9F ? 0.0F : std::pow(10.0F, db / 20.0F); }

/// Whether a plan plays a clip as another does.
bool has_clip(const Plan& plan, const PlanClip& clip) {
    return std::any_of(plan.clips.begin(), plan.clips.end(), [&](const PlanClip& c) { return c.sound == clip.sound && c.start == clip.start; });
}

}  // namespace

PlanRenderer::PlanRenderer() : parts_down_(limits::kParts, 0), buses_down_(kMostBuses, 0) { slice_.clear(); }

// --- places and plans ---

void PlanRenderer::silence() noexcept {
    if (!plan_) return;
    const auto still = [](const std::vector<PlanStep>& steps) {
        for (const PlanStep& s : steps) s.state->processor->reset(), s.state->dry.reset(), s.state->begun = false, s.state->silent_for = 0;
    };
    const auto rest = [](const PlanOutlet& o) { o.state->delay.reset(), o.state->gain.begun = false; };
    for (const PlanPart& p : plan_->parts) {
        for (const PlanLayer& l : p.layers) {
            if (l.state->processor) l.state->processor->reset();
            l.state->gain.begun = false;
        }
        still(p.steps);
        rest(p.out);
        for (const PlanOutlet& s : p.sends) rest(s);
    }
    for (const PlanClip& c : plan_->clips) rest(c.out);
    for (const PlanBus& b : plan_->buses) still(b.steps), rest(b.out);
    still(plan_->master);
    plan_->master_gain->begun = false;
    plan_->limiter->reset();
}

bool PlanRenderer::changed(const std::vector<PlanStep>& a, const std::vector<PlanStep>& b) noexcept {
    return !std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const PlanStep& x, const PlanStep& y) { return x.state == y.state; });
}

/// Marks what must go down before the next plan takes over; false where nothing must.
bool PlanRenderer::any_change() noexcept {
    bool any = false;
    const bool everything = plan_->latency != next_->latency;
    for (std::size_t p = 0; p < plan_->parts.size(); ++p) {
        const PlanPart& now = plan_->parts[p];
        const int at = next_->part(now.id);
        const PlanPart* then = at < 0 ? nullptr : &next_->parts[static_cast<std::size_t>(at)];
        const bool same_layers = then && std::equal(now.layers.begin(), now.layers.end(), then->layers.begin(), then->layers.end(),
                                                    [](const PlanLayer& x, const PlanLayer& y) { return x.state == y.state; });
        // Where a part goes to another bus, or its way there takes longer, its outlet is another.
        parts_down_[p] =
            everything || !then || !same_layers || changed(now.steps, then->steps) || now.out.state != then->out.state || now.out.bus != then->out.bus;
        any = any || parts_down_[p];
    }
    for (std::size_t b = 0; b < plan_->buses.size(); ++b) {
        const int at = next_->bus(plan_->buses[b].id);
        buses_down_[b] = everything || at != static_cast<int>(b) || changed(plan_->buses[b].steps, next_->buses[static_cast<std::size_t>(at)].steps);
        any = any || buses_down_[b];
    }
    master_down_ = everything || changed(plan_->master, next_->master);
    any = any || master_down_;
    for (const PlanClip& c : plan_->clips) any = any || !has_clip(*next_, c);
    return any;
}

void PlanRenderer::adopt(const Plan* plan) noexcept {
    if (plan == plan_) return;
    if (!plan_ || !plan || !running_) {
        const bool same_states = plan_ && plan && plan_->limiter == plan->limiter;
        if (plan_ && !same_states) silence();
        plan_ = plan;
        next_ = nullptr;
        fading_ = 0;
        fresh_ = true;
        if (plan_ && running_) begin_at_slice(frame_);
        return;
    }
    next_ = plan;
    fading_ = any_change() ? kFadeSlices : 1;
}

void PlanRenderer::swap_plans() noexcept {
    const Plan* before = plan_;
    const bool elsewhere = before->latency != next_->latency;
    plan_ = next_;
    next_ = nullptr;
    std::fill(parts_down_.begin(), parts_down_.end(), char{0});
    std::fill(buses_down_.begin(), buses_down_.end(), char{0});
    master_down_ = false;
    fresh_ = true;
    if (elsewhere) {  // all is silent by now
        begin_at_slice(frame_);
        return;
    }
    const auto shortest = static_cast<std::int64_t>(plan_->sample_rate_hz * 0.02);
    for (const PlanPart& now : plan_->parts) {
        const int was_at = before->part(now.id);
        for (const PlanLayer& layer : now.layers) {
            if (!layer.state->processor) continue;
            Processor& processor = *layer.state->processor;
            const PlanLayer* was = nullptr;
            if (was_at >= 0)
                for (const PlanLayer& l : before->parts[static_cast<std::size_t>(was_at)].layers)
                    if (l.state == layer.state) was = &l;
            const Voices then = was ? sounding(*was, stream_, 0) : Voices{}, here = sounding(layer, stream_, 0);
            const auto in = [](const Voices& all, const PlanNote& n) {
                return std::any_of(all.notes.begin(), all.notes.begin() + static_cast<std::ptrdiff_t>(all.count),
                                   [&](const PlanNote* o) { return o->voice == n.voice && o->key == n.key; });
            };
            for (std::size_t i = 0; i < then.count; ++i)
                if (!in(here, *then.notes[i])) processor.note_off(then.notes[i]->voice);
            for (std::size_t i = 0; i < here.count; ++i)
                if (!in(then, *here.notes[i]) && here.notes[i]->off > stream_ + shortest)
                    processor.note_on(here.notes[i]->voice, here.notes[i]->key, here.notes[i]->velocity);
        }
    }
    find_places(false);
    // What went down comes back from nothing; what is new comes in from nothing.
    for (const PlanPart& p : plan_->parts)
        if (before->part(p.id) < 0) p.out.state->gain.hold(0.0F, 0.0F);
    for (const PlanBus& b : plan_->buses)
        if (before->bus(b.id) < 0) b.out.state->gain.hold(0.0F, 0.0F);
}

PlanRenderer::Voices PlanRenderer::sounding(const PlanLayer& layer, std::int64_t frame, std::int64_t at_least) noexcept {
    Voices out;
    for (const PlanNote& n : layer.notes) {
        if (n.on >= frame) break;  // they stand in order of their beginnings
        if (n.off > frame + at_least && out.count < kMostVoices) out.notes[out.count++] = &n;
    }
    return out;
}

/// Finds where the events of the plan go on at stream_; strikes what sounds across it where that is wanted.
void PlanRenderer::find_places(bool strike) noexcept {
    const auto hits = [&](const std::vector<PlanStep>& steps) {
        for (const PlanStep& s : steps)
            s.state->next_hit = static_cast<std::size_t>(
                std::lower_bound(s.hits.begin(), s.hits.end(), stream_, [](const PlanNote& n, std::int64_t f) { return n.on < f; }) - s.hits.begin());
    };
    for (const PlanPart& p : plan_->parts) {
        for (const PlanLayer& l : p.layers) {
            l.state->next_event = static_cast<std::size_t>(
                std::lower_bound(l.events.begin(), l.events.end(), stream_, [](const PlanEvent& e, std::int64_t f) { return e.frame < f; }) - l.events.begin());
            if (!strike || !l.state->processor) continue;
            const Voices across = sounding(l, stream_, static_cast<std::int64_t>(plan_->sample_rate_hz * 0.02));
            for (std::size_t i = 0; i < across.count; ++i) l.state->processor->note_on(across.notes[i]->voice, across.notes[i]->key, across.notes[i]->velocity);
        }
        hits(p.steps);
    }
    for (const PlanBus& b : plan_->buses) hits(b.steps);
    hits(plan_->master);
}

/// Begins at the slice that holds a frame; what lies before it, and what comes late, is made and thrown away.
void PlanRenderer::begin_at_slice(std::int64_t frame) noexcept {
    silence();
    frame_ = frame;
    const auto slice = static_cast<std::int64_t>(kSlice);
    stream_ = (frame >= 0 ? frame : frame - slice + 1) / slice * slice;
    fresh_ = true;
    set_fields(true);
    find_places(true);
    auto skip = static_cast<std::size_t>(frame - stream_) + plan_->latency;
    if (what_.kind == RenderWhat::Kind::Whole && what_.steps) skip += plan_->limiter->latency();
    left_over_ = 0;
    while (skip > 0) {
        render_slice();
        left_over_ = kSlice - std::min(skip, kSlice);
        skip -= std::min(skip, kSlice);
    }
}

void PlanRenderer::seek(std::int64_t frame) noexcept {
    if (next_) swap_plans();
    running_ = true;
    frame_ = frame;
    if (plan_) begin_at_slice(frame);
}

void PlanRenderer::rest(std::int64_t frame) noexcept {
    if (next_) swap_plans();
    frame_ = frame;
    running_ = false;
    left_over_ = 0;
    silence();
}

// --- fields ---

void PlanRenderer::set_fields(Processor& processor, const PlanFields& fields, bool all) noexcept {
    if (!all && !fields.moving) return;
    for (std::size_t i = 0; i < fields.count; ++i) {
        const Control& c = plan_->controls.all[fields.first + i];
        if (all || c.track >= 0 || c.in_beats) processor.set(i, plan_->controls.at(fields.first + i, stream_));
    }
}

/// Sets what moves for the slice at stream_; everything after a change of plan.
void PlanRenderer::set_fields(bool all) noexcept {
    const auto chain = [&](const std::vector<PlanStep>& steps) {
        for (const PlanStep& s : steps) set_fields(*s.state->processor, s.fields, all);
    };
    for (const PlanPart& p : plan_->parts) {
        for (const PlanLayer& l : p.layers)
            if (l.state->processor) set_fields(*l.state->processor, l.fields, all);
        chain(p.steps);
    }
    for (const PlanBus& b : plan_->buses) chain(b.steps);
    chain(plan_->master);
}

// --- a slice ---

void PlanRenderer::ramp(GainState& state, float left, float right, Stereo io) noexcept {
    if (!state.begun) state.hold(left, right);
    const auto one = [](GainState::Side& side, float wanted, std::span<float> samples) {
        if (wanted != side.wanted) side.wanted = wanted, side.step = std::abs(wanted - side.now) / static_cast<float>(kFadeSlices - 1);
        const float end = std::abs(wanted - side.now) <= side.step * 1.001F ? wanted : side.now + std::copysign(side.step, wanted - side.now);
        const float climb = (end - side.now) / static_cast<float>(samples.size());
        for (std::size_t i = 0; i < samples.size(); ++i) samples[i] *= side.now + static_cast<float>(i + 1) * climb;
        side.now = end;
    };
    one(state.left, left, io.left);
    one(state.right, right, io.right);
}

/// The gains of a level and a pan, worked out where they have changed.
std::pair<float, float> PlanRenderer::gains(GainState& state, std::size_t level, std::size_t pan) const noexcept {
    const float db = value(level), side = value(pan);
    if (db != state.db || side != state.pan) {
        state.db = db, state.pan = side;
        std::tie(state.to_left, state.to_right) = balanced(gain_of(db), side);
    }
    return {state.to_left, state.to_right};
}

bool PlanRenderer::render_layer(const PlanLayer& layer, Stereo into) noexcept {
    LayerState& state = *layer.state;
    if (!state.processor) return false;
    const auto [wanted_left, wanted_right] = gains(state.gain, layer.level, layer.pan);
    const float on = value(layer.on) >= 0.5F ? 1.0F : 0.0F, left = on * wanted_left, right = on * wanted_right;
    const std::int64_t end = stream_ + static_cast<std::int64_t>(kSlice);
    const bool event = state.next_event < layer.events.size() && layer.events[state.next_event].frame < end;
    if (!event && state.processor->idle()) {
        state.gain.hold(left, right);  // where nothing sounds a gain is at once where it shall be
        return false;
    }
    layer_.clear();
    std::size_t done = 0;
    while (done < kSlice) {
        // Everything due now is played, then sound is made up to the next event: onsets are exact to the frame.
        const std::int64_t now = stream_ + static_cast<std::int64_t>(done);
        while (state.next_event < layer.events.size() && layer.events[state.next_event].frame <= now) {
            const PlanEvent& e = layer.events[state.next_event++];
            if (e.kind == PlanEvent::Kind::On) state.processor->note_on(e.voice, e.key, e.velocity);
            else if (e.kind == PlanEvent::Kind::Off) state.processor->note_off(e.voice);
            else state.processor->bend(e.voice, static_cast<double>(e.cents));
        }
        std::size_t step = kSlice - done;
        if (state.next_event < layer.events.size()) step = std::min<std::size_t>(step, static_cast<std::size_t>(layer.events[state.next_event].frame - now));
        state.processor->process(layer_.all().part(done, step), {});
        done += step;
    }
    ramp(state.gain, left, right, layer_.all());
    for (std::size_t i = 0; i < kSlice; ++i) into.left[i] += layer_.left[i], into.right[i] += layer_.right[i];
    return true;
}

bool PlanRenderer::run_steps(const std::vector<PlanStep>& steps, Stereo io, bool silent) noexcept {
    for (const PlanStep& s : steps) {
        StepState& state = *s.state;
        // Once its tail is over a step that hears nothing gives nothing; it goes on from there when something comes.
        state.silent_for = silent ? state.silent_for + kSlice : 0;
        const bool over =
            static_cast<double>(state.silent_for) > state.processor->tail_s() * plan_->sample_rate_hz + 2.0 * kSlice + static_cast<double>(state.dry.frames());
        if (over && s.hits.empty()) {
            state.wet = value(s.on) >= 0.5F ? 1.0F : 0.0F;
            state.begun = true;
            std::fill(io.left.begin(), io.left.end(), 0.0F);
            std::fill(io.right.begin(), io.right.end(), 0.0F);
            continue;
        }
        if (!over && silent) silent = false;
        const float wanted = value(s.on) >= 0.5F ? 1.0F : 0.0F;
        if (!state.begun) state.wet = wanted, state.begun = true;
        const float before = state.wet, way = 1.0F / static_cast<float>(kFadeSlices - 1);
        state.wet += std::clamp(wanted - state.wet, -way, way);
        const bool mixes = before < 1.0F || state.wet < 1.0F;
        if (mixes || state.dry.frames() > 0) {
            std::copy(io.left.begin(), io.left.end(), dry_.left.begin());
            std::copy(io.right.begin(), io.right.end(), dry_.right.begin());
            state.dry.process(dry_.all());
        }
        std::size_t done = 0;
        while (done < kSlice) {
            const std::int64_t now = stream_ + static_cast<std::int64_t>(done);
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
            io.left[i] = dry_.left[i] + wet * (io.left[i] - dry_.left[i]);
            io.right[i] = dry_.right[i] + wet * (io.right[i] - dry_.right[i]);
        }
    }
    return silent;
}

/// Adds a buffer, at a level, to where an outlet leads.
void PlanRenderer::send(const PlanOutlet& outlet, float left, float right, const Buffer& from, bool silent) noexcept {
    if (silent && outlet.state->delay.frames() == 0) return outlet.state->gain.hold(left, right);
    (outlet.bus < 0 ? master_silent_ : bus_silent_[static_cast<std::size_t>(outlet.bus)]) = false;
    sent_ = from;
    ramp(outlet.state->gain, left, right, sent_.all());
    outlet.state->delay.process(sent_.all());
    Buffer& to = outlet.bus < 0 ? master_ : buses_[static_cast<std::size_t>(outlet.bus)];
    for (std::size_t i = 0; i < kSlice; ++i) to.left[i] += sent_.left[i], to.right[i] += sent_.right[i];
}

void PlanRenderer::render_part(const PlanPart& part, bool alone) noexcept {
    const auto p = static_cast<std::size_t>(&part - plan_->parts.data());
    part_.clear();
    bool silent = true;
    for (const PlanLayer& l : part.layers)
        if (what_.kind != RenderWhat::Kind::Layer || l.id == what_.layer)
            if (render_layer(l, part_.all())) silent = false;
    if (what_.steps) silent = run_steps(part.steps, part_.all(), silent);
    const bool heard = (alone || part.audible) && !parts_down_[p];  // a silent part runs along, so that it can come back in the middle of a note
    const auto [full_left, full_right] = gains(part.out.state->gain, part.level, part.pan);
    const float left = heard ? full_left : 0.0F, right = heard ? full_right : 0.0F;
    if (alone) {
        PlanOutlet out = part.out;
        out.bus = -1;
        send(out, left, right, part_, silent);
        return;
    }
    send(part.out, left, right, part_, silent);
    for (std::size_t s = 0; s < part.sends.size(); ++s) {
        GainState& state = part.sends[s].state->gain;
        if (const float db = value(part.sends[s].level); db != state.db) state.db = db, state.to_left = gain_of(db);
        const float level = value(part.send_on[s]) >= 0.5F ? state.to_left : 0.0F;
        send(part.sends[s], level * left, level * right, part_, silent);
    }
}

void PlanRenderer::render_clip(const PlanClip& c) noexcept {
    const auto frames = static_cast<std::int64_t>(c.sound->frames()), first = stream_ - c.start;
    const bool away = first >= frames || first + static_cast<std::int64_t>(kSlice) <= 0;
    layer_.clear();
    for (std::int64_t i = std::max<std::int64_t>(0, -first); i < static_cast<std::int64_t>(kSlice) && first + i < frames; ++i) {
        layer_.left[static_cast<std::size_t>(i)] = c.sound->samples[static_cast<std::size_t>(2 * (first + i))];
        layer_.right[static_cast<std::size_t>(i)] = c.sound->samples[static_cast<std::size_t>(2 * (first + i) + 1)];
    }
    // A clip that the next plan does not have goes down with the rest.
    const bool leaves = next_ && fading_ > 1 && !has_clip(*next_, c);
    const float heard = c.audible && !leaves ? 1.0F : 0.0F;
    PlanOutlet out = c.out;
    if (what_.kind == RenderWhat::Kind::Clips) out.bus = -1;
    send(out, heard * c.left, heard * c.right, layer_, away);
}

void PlanRenderer::render_bus(std::size_t b) noexcept {
    const PlanBus& bus = plan_->buses[b];
    const bool silent = what_.steps ? run_steps(bus.steps, buses_[b].all(), bus_silent_[b]) : bus_silent_[b];
    const auto [left, right] = gains(bus.out.state->gain, bus.level, bus.pan);
    const float down = buses_down_[b] ? 0.0F : 1.0F;
    send(bus.out, down * left, down * right, buses_[b], silent);
}

/// Sources, their parts' steps, ways out, buses, the master: in this order, so that all that flows into something is there before it.
void PlanRenderer::render_slice() noexcept {
    set_fields(fresh_);
    fresh_ = false;
    master_.clear();
    for (std::size_t b = 0; b < plan_->buses.size(); ++b) buses_[b].clear(), bus_silent_[b] = true;
    master_silent_ = true;
    using Kind = RenderWhat::Kind;
    const bool alone = what_.kind == Kind::Part || what_.kind == Kind::Layer;
    const auto wanted = [&](const PlanPart& p) {
        if (what_.kind == Kind::Part) return p.id == what_.part;
        if (what_.kind == Kind::Layer) return std::any_of(p.layers.begin(), p.layers.end(), [&](const PlanLayer& l) { return l.id == what_.layer; });
        return what_.kind != Kind::Clips;
    };
    for (const PlanPart& p : plan_->parts)
        if (wanted(p)) render_part(p, alone);
    if (!alone)
        for (const PlanClip& c : plan_->clips) render_clip(c);
    if (what_.kind == Kind::Bus) {
        master_.clear();
        if (const int b = plan_->bus(what_.bus); b >= 0) render_bus(static_cast<std::size_t>(b));
    } else if (what_.kind == Kind::Whole) {
        for (std::size_t b = 0; b < plan_->buses.size(); ++b) render_bus(b);
        if (what_.steps) run_steps(plan_->master, master_.all(), master_silent_);
        const float level = master_down_ ? 0.0F : gain_of(value(plan_->master_level));
        ramp(*plan_->master_gain, level, level, master_.all());
        if (what_.steps) plan_->limiter->process(master_.left, master_.right);
    }
    slice_ = master_;
    stream_ += static_cast<std::int64_t>(kSlice);
    if (next_ && --fading_ == 0) swap_plans();
}

void PlanRenderer::render(Stereo out) noexcept {
    std::size_t done = 0;
    while (done < out.size()) {
        if (!plan_ || !running_) {
            std::fill(out.left.begin() + static_cast<std::ptrdiff_t>(done), out.left.end(), 0.0F);
            std::fill(out.right.begin() + static_cast<std::ptrdiff_t>(done), out.right.end(), 0.0F);
            frame_ += static_cast<std::int64_t>(out.size() - done);
            return;
        }
        if (left_over_ == 0) {
            render_slice();
            if (left_over_ == 0) left_over_ = kSlice;  // a change of plans may have begun anew and left its own
        }
        const std::size_t count = std::min(left_over_, out.size() - done), from = kSlice - left_over_;
        std::copy_n(slice_.left.begin() + static_cast<std::ptrdiff_t>(from), count, out.left.begin() + static_cast<std::ptrdiff_t>(done));
        std::copy_n(slice_.right.begin() + static_cast<std::ptrdiff_t>(from), count, out.right.begin() + static_cast<std::ptrdiff_t>(done));
        left_over_ -= count;
        done += count;
        frame_ += static_cast<std::int64_t>(count);
    }
}

// --- one key by itself ---

void PlanRenderer::strike(PartId part, int key, int velocity) noexcept {
    release();
    const int p = plan_ ? plan_->part(part) : -1;
    if (p < 0) return;
    if (!running_ && struck_part_ != part) silence(), fresh_ = true;
    struck_part_ = part;
    struck_key_ = key;
    for (const PlanLayer& l : plan_->parts[static_cast<std::size_t>(p)].layers)
        if (l.state->processor && key >= l.low_key && key <= l.high_key)
            l.state->processor->note_on(kAudition, std::clamp(key + 12 * l.octave, 0, 127), std::clamp(velocity, 1, 127));
}

void PlanRenderer::release() noexcept {
    if (struck_key_ < 0) return;
    struck_key_ = -1;
    const int p = plan_ ? plan_->part(struck_part_) : -1;
    if (p < 0) return;
    for (const PlanLayer& l : plan_->parts[static_cast<std::size_t>(p)].layers)
        if (l.state->processor) l.state->processor->note_off(kAudition);
}

void PlanRenderer::render_resting(Stereo out) noexcept {
    const int p = plan_ ? plan_->part(struck_part_) : -1;
    if (p < 0) return;
    const PlanPart& part = plan_->parts[static_cast<std::size_t>(p)];
    std::size_t done = 0;
    while (done < out.size()) {
        if (left_over_ == 0) {
            stream_ = frame_;
            set_fields(fresh_);
            fresh_ = false;
            // Nothing but the struck key is played: the places of the plan's events are found anew by the next seek.
            for (const PlanLayer& l : part.layers) l.state->next_event = l.events.size();
            for (const PlanStep& s : part.steps) s.state->next_hit = s.hits.size();
            master_.clear();
            render_part(part, true);
            slice_ = master_;
            left_over_ = kSlice;
        }
        const std::size_t count = std::min(left_over_, out.size() - done), from = kSlice - left_over_;
        for (std::size_t i = 0; i < count; ++i) out.left[done + i] += slice_.left[from + i], out.right[done + i] += slice_.right[from + i];
        left_over_ -= count;
        done += count;
    }
}

}  // namespace fw

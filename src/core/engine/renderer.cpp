// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/renderer.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <tuple>

namespace fw {

namespace {

constexpr VoiceId kAudition = ~VoiceId{0};

}  // namespace

PlanRenderer::PlanRenderer(Crew* crew)
    : crew_(crew), parts_down_(limits::kParts, 0), buses_down_(limits::kBuses, 0), parts_(limits::kParts), buses_(limits::kBuses) {}

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

/// Whether a plan plays a clip as another does.
bool PlanRenderer::has_clip(const Plan& plan, const PlanClip& clip) noexcept {
    return std::any_of(plan.clips.begin(), plan.clips.end(), [&](const PlanClip& c) { return c.sound == clip.sound && c.start == clip.start; });
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
        const PlanBus& now = plan_->buses[b];
        const PlanBus* then = at == static_cast<int>(b) ? &next_->buses[b] : nullptr;
        buses_down_[b] = everything || !then || changed(now.steps, then->steps) || now.out.state != then->out.state || now.out.bus != then->out.bus;
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
    set_all_fields();
    find_places(true);
    auto skip = static_cast<std::size_t>(frame - stream_) + plan_->latency;
    if (what_.kind == RenderWhat::Kind::Whole && what_.steps) skip += plan_->limiter->latency();
    left_over_ = 0;
    while (skip > 0) {
        render_batch(1);
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

/// What is struck where the plan begins is struck with what is set there.
void PlanRenderer::set_all_fields() noexcept {
    for (const PlanPart& p : plan_->parts) {
        for (const PlanLayer& l : p.layers)
            if (l.state->processor) set_fields(*l.state->processor, l.fields, stream_, true);
        set_fields(p.steps, stream_, true);
    }
    for (const PlanBus& b : plan_->buses) set_fields(b.steps, stream_, true);
    set_fields(plan_->master, stream_, true);
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
            // While plans are changed slices are made one by one: what was made ahead would be thrown away where the next plan begins anew.
            const std::size_t slices = next_ ? 1 : std::min(kBatch, (out.size() - done + kSlice - 1) / kSlice);
            render_batch(slices);
            if (left_over_ == 0) left_over_ = slices * kSlice;  // a change of plans may have begun anew and left its own
        }
        const std::size_t from = made_ - left_over_, within = from % kSlice, count = std::min({left_over_, out.size() - done, kSlice - within});
        const Buffer& slice = master_.slices[from / kSlice];
        std::copy_n(slice.left.begin() + static_cast<std::ptrdiff_t>(within), count, out.left.begin() + static_cast<std::ptrdiff_t>(done));
        std::copy_n(slice.right.begin() + static_cast<std::ptrdiff_t>(within), count, out.right.begin() + static_cast<std::ptrdiff_t>(done));
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
        if (l.state->processor && l.plays(key, std::clamp(velocity, 1, 127)))
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
            // Nothing but the struck key is played: the places of the plan's events are found anew by the next seek.
            for (const PlanLayer& l : part.layers) l.state->next_event = l.events.size();
            for (const PlanStep& s : part.steps) s.state->next_hit = s.hits.size();
            master_.slices[0].clear();
            run_part(part, 1, true);
            mix_part(part, -1, 0, true);
            fresh_ = false;
            made_ = left_over_ = kSlice;
        }
        const std::size_t count = std::min(left_over_, out.size() - done), from = kSlice - left_over_;
        const Buffer& slice = master_.slices[0];
        for (std::size_t i = 0; i < count; ++i) out.left[done + i] += slice.left[from + i], out.right[done + i] += slice.right[from + i];
        left_over_ -= count;
        done += count;
    }
}

}  // namespace fw

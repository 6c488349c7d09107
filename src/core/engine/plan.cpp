// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/plan.hpp"

#include "sound/soundfont.hpp"

#include <algorithm>
#include <array>
#include <cassert>
#include <cmath>

namespace fw {

namespace {

float gain_of(double db) { return static_cast<float>(std::pow(10.0, db / 20.0)); }

std::string signature_of(const Remake& remake, double rate) {
    std::string s = std::to_string(rate) + "," + std::to_string(remake.tuning_cents);
    for (const auto& part : remake.parts) {
        s += "|" + std::to_string(part->id) + (part->role == PartRole::Drums ? "d" : "");
        for (const Layer& l : part->layers) s += ";" + std::to_string(static_cast<int>(l.kind)) + l.patch + "," + std::to_string(l.program) + "," + l.file;
    }
    return s;
}

std::unique_ptr<Instrument> make_instrument(const Layer& layer, bool drums, double rate, double tuning_cents, Error* trouble) {
    switch (layer.kind) {
        case InstrumentKind::Synth: return make_synth(layer.patch, rate, tuning_cents);
        case InstrumentKind::DrumKit: return make_drum_kit(layer.patch, rate);
        case InstrumentKind::SoundFont: break;
    }
    auto made = make_soundfont(layer.file, layer.program, drums, rate, tuning_cents);
    if (made) return std::move(made).value();
    if (trouble && trouble->subject.empty()) *trouble = made.error();
    return nullptr;
}

PlanPart compile_part(const Part& part, const TempoMap& tempo, double rate, bool any_solo) {
    PlanPart out;
    out.id = part.id;
    out.name = part.name;
    out.gain = gain_of(part.gain_db);
    out.pan = static_cast<float>(part.pan);
    out.audible = !part.mute && (!any_solo || part.solo);
    for (const Layer& l : part.layers) {
        out.layer_gain.push_back(gain_of(l.gain_db));
        out.layer_octave.push_back(12 * l.octave);
    }
    const auto frame_of = [&](Ticks t) { return static_cast<std::int64_t>(std::llround(tempo.seconds(t) * rate)); };
    for (const PlacedNote& n : placed_notes(part)) {
        if (n.muted) continue;
        const std::int64_t on = std::max<std::int64_t>(0, frame_of(n.note.start)), off = std::max(on + 1, frame_of(n.note.start + n.note.length));
        out.notes.push_back({on, off, n.note.pitch, n.note.velocity});
        out.events.push_back({on, PlanEvent::Kind::On, n.note.pitch, n.note.velocity, 0.0F});
        out.events.push_back({off, PlanEvent::Kind::Off, n.note.pitch, 0, 0.0F});
        for (const BendPoint& b : n.note.bend) {
            // A bend at the very start must come after the stroke it bends.
            const std::int64_t at = std::max(on + 1, frame_of(n.note.start + b.tick));
            out.events.push_back({at, PlanEvent::Kind::Bend, n.note.pitch, 0, static_cast<float>(b.cents)});
        }
    }
    std::sort(out.events.begin(), out.events.end(), [](const PlanEvent& a, const PlanEvent& b) {
        return a.frame != b.frame ? a.frame < b.frame : a.kind != b.kind ? a.kind < b.kind : a.key < b.key;
    });
    // Where two notes of one key overlap, the first one's end must not cut the second: an end counts only once no later one is to come.
    std::array<std::int64_t, 128> latest;
    latest.fill(-1);
    std::vector<PlanEvent> kept;
    kept.reserve(out.events.size());
    std::size_t next_note = 0;  // notes stand in order of their beginnings
    for (const PlanEvent& e : out.events) {
        for (; next_note < out.notes.size() && out.notes[next_note].on <= e.frame; ++next_note) {
            // At the frame of its own beginning a note holds the key only behind the ends that fall there.
            if (out.notes[next_note].on == e.frame && e.kind != PlanEvent::Kind::On) break;
            std::int64_t& until = latest[static_cast<std::size_t>(out.notes[next_note].key)];
            until = std::max(until, out.notes[next_note].off);
        }
        if (e.kind == PlanEvent::Kind::Off && e.frame < latest[static_cast<std::size_t>(e.key)]) continue;
        kept.push_back(e);
    }
    out.events = std::move(kept);
    return out;
}

}  // namespace

std::shared_ptr<const Plan> compile_plan(const Remake& remake, double rate, const std::shared_ptr<const Plan>& previous, Error* trouble) {
    auto plan = std::make_shared<Plan>();
    plan->sample_rate_hz = rate;
    const bool any_solo = std::any_of(remake.parts.begin(), remake.parts.end(), [](const auto& p) { return p->solo; });
    std::int64_t end = static_cast<std::int64_t>(remake.reference.duration_s * rate);
    for (const auto& part : remake.parts) {
        plan->parts.push_back(compile_part(*part, remake.tempo, rate, any_solo));
        for (const PlanNote& n : plan->parts.back().notes) end = std::max(end, n.off + static_cast<std::int64_t>(rate));
    }
    plan->end_frame = end;
    const std::string signature = signature_of(remake, rate);
    if (previous && previous->rack && previous->rack->signature == signature) {
        plan->rack = previous->rack;
        return plan;
    }
    plan->rack = std::make_shared<Rack>();
    plan->rack->signature = signature;
    for (const auto& part : remake.parts) {
        auto& layers = plan->rack->instruments.emplace_back();
        for (const Layer& l : part->layers) layers.push_back(make_instrument(l, part->role == PartRole::Drums, rate, remake.tuning_cents, trouble));
    }
    return plan;
}

Result<std::shared_ptr<const Plan>> compile_for_rendering(const Remake& remake, double rate) {
    Error trouble;
    auto plan = compile_plan(remake, rate, nullptr, &trouble);
    if (!trouble.subject.empty()) return trouble;
    return plan;
}

PlanRenderer::PlanRenderer(double)
    : next_event_(kMostParts, 0), part_left_(kLargestBlock), part_right_(kLargestBlock), layer_left_(kLargestBlock), layer_right_(kLargestBlock) {}

void PlanRenderer::silence() noexcept {
    if (!plan_) return;
    for (auto& layers : plan_->rack->instruments)
        for (auto& instrument : layers)
            if (instrument) instrument->reset();
}

void PlanRenderer::adopt(const Plan* plan) noexcept {
    const bool same_rack = plan_ && plan && plan_->rack == plan->rack;
    if (!same_rack) silence();
    else if (running_)  // at rest nothing sounds but a note being auditioned, which is left alone
        for (std::size_t p = 0; p < plan_->parts.size() && p < plan_->rack->instruments.size(); ++p)
            for (const PlanNote& n : plan_->parts[p].notes)
                if (n.on <= frame_ && n.off > frame_)
                    for (std::size_t l = 0; l < plan_->rack->instruments[p].size(); ++l)
                        if (auto& instrument = plan_->rack->instruments[p][l])
                            instrument->note_off(std::clamp(n.key + plan_->parts[p].layer_octave[l], 0, 127));
    plan_ = plan;
    if (running_) start_sounding();
}

void PlanRenderer::seek(std::int64_t frame) noexcept {
    rest(frame);
    running_ = true;
    start_sounding();
}

void PlanRenderer::rest(std::int64_t frame) noexcept {
    frame_ = frame;
    running_ = false;
    silence();
}

void PlanRenderer::start_sounding() noexcept {
    if (!plan_) return;
    for (std::size_t p = 0; p < std::min(plan_->parts.size(), kMostParts); ++p) {
        const PlanPart& part = plan_->parts[p];
        next_event_[p] = static_cast<std::size_t>(
            std::lower_bound(part.events.begin(), part.events.end(), frame_, [](const PlanEvent& e, std::int64_t f) { return e.frame < f; }) -
            part.events.begin());
        for (const PlanNote& n : part.notes)
            if (n.on < frame_ && n.off > frame_ + static_cast<std::int64_t>(plan_->sample_rate_hz * 0.02))
                for (std::size_t l = 0; l < plan_->rack->instruments[p].size(); ++l)
                    if (auto& instrument = plan_->rack->instruments[p][l]) instrument->note_on(std::clamp(n.key + part.layer_octave[l], 0, 127), n.velocity);
    }
}

void PlanRenderer::render_part(std::size_t p, std::size_t count) noexcept {
    const PlanPart& part = plan_->parts[p];
    auto& layers = plan_->rack->instruments[p];
    std::fill_n(part_left_.begin(), count, 0.0F);
    std::fill_n(part_right_.begin(), count, 0.0F);
    std::size_t done = 0;
    while (done < count) {
        // Everything due now is played, then sound is made up to the next event: onsets are exact to the sample.
        const std::int64_t now = frame_ + static_cast<std::int64_t>(done);
        while (next_event_[p] < part.events.size() && part.events[next_event_[p]].frame <= now) {
            const PlanEvent& e = part.events[next_event_[p]++];
            for (std::size_t l = 0; l < layers.size(); ++l) {
                if (!layers[l]) continue;
                const int key = std::clamp(e.key + part.layer_octave[l], 0, 127);
                if (e.kind == PlanEvent::Kind::On) layers[l]->note_on(key, e.velocity);
                else if (e.kind == PlanEvent::Kind::Off) layers[l]->note_off(key);
                else layers[l]->bend(key, e.cents);
            }
        }
        std::size_t step = count - done;
        if (next_event_[p] < part.events.size()) step = std::min<std::size_t>(step, static_cast<std::size_t>(part.events[next_event_[p]].frame - now));
        sound_layers(p, done, step);
        done += step;
    }
}

/// Adds the next sound of a part's layers to the part's buffers, from a place in them on.
void PlanRenderer::sound_layers(std::size_t p, std::size_t from, std::size_t count) noexcept {
    const PlanPart& part = plan_->parts[p];
    auto& layers = plan_->rack->instruments[p];
    for (std::size_t l = 0; l < layers.size(); ++l) {
        if (!layers[l]) continue;
        std::fill_n(layer_left_.begin(), count, 0.0F);
        std::fill_n(layer_right_.begin(), count, 0.0F);
        layers[l]->render(std::span(layer_left_).first(count), std::span(layer_right_).first(count));
        for (std::size_t i = 0; i < count; ++i) {
            part_left_[from + i] += part.layer_gain[l] * layer_left_[i];
            part_right_[from + i] += part.layer_gain[l] * layer_right_[i];
        }
    }
}

/// Adds a part's buffers at its level and pan.
void PlanRenderer::add_part(std::size_t p, std::span<float> left, std::span<float> right) const noexcept {
    const PlanPart& part = plan_->parts[p];
    // Balance by the constant-power law, 0 dB at the centre.
    const float angle = (part.pan + 1.0F) * 0.785398F;
    const float l = part.gain * std::cos(angle) * 1.414214F, r = part.gain * std::sin(angle) * 1.414214F;
    for (std::size_t i = 0; i < left.size(); ++i) {
        left[i] += l * part_left_[i];
        right[i] += r * part_right_[i];
    }
}

void PlanRenderer::strike(std::size_t p, int key, int velocity) noexcept {
    if (!plan_ || p >= plan_->rack->instruments.size()) return;
    for (std::size_t l = 0; l < plan_->rack->instruments[p].size(); ++l)
        if (auto& instrument = plan_->rack->instruments[p][l]) instrument->note_on(std::clamp(key + plan_->parts[p].layer_octave[l], 0, 127), velocity);
}

void PlanRenderer::release(std::size_t p, int key) noexcept {
    if (!plan_ || p >= plan_->rack->instruments.size()) return;
    for (std::size_t l = 0; l < plan_->rack->instruments[p].size(); ++l)
        if (auto& instrument = plan_->rack->instruments[p][l]) instrument->note_off(std::clamp(key + plan_->parts[p].layer_octave[l], 0, 127));
}

void PlanRenderer::render_resting(std::size_t p, std::span<float> left, std::span<float> right) noexcept {
    if (!plan_ || p >= plan_->rack->instruments.size()) return;
    std::fill_n(part_left_.begin(), left.size(), 0.0F);
    std::fill_n(part_right_.begin(), left.size(), 0.0F);
    sound_layers(p, 0, left.size());
    add_part(p, left, right);
}

void PlanRenderer::render(std::span<float> left, std::span<float> right, int only_part) noexcept {
    assert(left.size() <= kLargestBlock && left.size() == right.size());
    std::fill(left.begin(), left.end(), 0.0F);
    std::fill(right.begin(), right.end(), 0.0F);
    if (plan_) {
        for (std::size_t p = 0; p < std::min(plan_->parts.size(), kMostParts); ++p) {
            const PlanPart& part = plan_->parts[p];
            if (only_part != 0 && part.id != only_part) continue;
            render_part(p, left.size());  // a silent part runs along, so that it can come back in the middle of a note
            if (only_part == 0 && !part.audible) continue;
            add_part(p, left, right);
        }
    }
    frame_ += static_cast<std::int64_t>(left.size());
}

}  // namespace fw

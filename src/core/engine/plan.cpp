// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/plan.hpp"

#include "model/recipe.hpp"
#include "sound/catalogue.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <tuple>

namespace fw {

void DelayLine::reset() noexcept {
    std::fill(left_.begin(), left_.end(), 0.0F);
    std::fill(right_.begin(), right_.end(), 0.0F);
    at_ = 0;
}

void DelayLine::process(Stereo io) noexcept {
    if (left_.empty()) return;
    for (std::size_t i = 0; i < io.size(); ++i) {
        std::swap(io.left[i], left_[at_]);
        std::swap(io.right[i], right_[at_]);
        at_ = at_ + 1 == left_.size() ? 0 : at_ + 1;
    }
}

std::pair<float, float> balanced(float gain, float pan) noexcept {
    const float angle = (pan + 1.0F) * 0.78539816F;
    return {gain * std::cos(angle) * 1.41421356F, gain * std::sin(angle) * 1.41421356F};
}

MusicalTime Plan::time_at(std::int64_t frame) const noexcept {
    const double tick = song->tempo.ticks(static_cast<double>(frame) / sample_rate_hz);
    const auto whole = static_cast<Ticks>(std::floor(tick));
    const int bar = song->meter.position(whole).bar;
    const auto& meter = song->meter.at_bar(bar);
    const double unit = 4.0 * kTicksPerQuarter / meter.denominator;
    return {frame, song->tempo.bpm_at(whole), bar - 1, (tick - static_cast<double>(song->meter.tick_of_bar(bar))) / unit, meter.numerator, meter.denominator};
}

int Plan::part(PartId id) const {
    for (std::size_t p = 0; p < parts.size(); ++p)
        if (parts[p].id == id) return static_cast<int>(p);
    return -1;
}

int Plan::bus(BusId id) const {
    for (std::size_t b = 0; b < buses.size(); ++b)
        if (buses[b].id == id) return static_cast<int>(b);
    return -1;
}

std::optional<Error> Plan::failure() const {
    const auto of = [](const Processor* p, const char* label) {
        return p && p->failed() ? std::optional(Error{ErrorCode::PlugInFailed, label, {}}) : std::nullopt;
    };
    const auto among = [&](const std::vector<PlanStep>& steps) -> std::optional<Error> {
        for (const PlanStep& s : steps)
            if (auto error = of(s.state->processor.get(), s.type->label)) return error;
        return std::nullopt;
    };
    for (const PlanPart& p : parts) {
        for (const PlanLayer& l : p.layers)
            if (auto error = of(l.state->processor.get(), l.source->label)) return error;
        if (auto error = among(p.steps)) return error;
    }
    for (const PlanBus& b : buses)
        if (auto error = among(b.steps)) return error;
    return among(master);
}

namespace {

/// In the place of a plug-in that cannot be had.
class PassedOn final : public Processor {
public:
    void reset() noexcept override {}
    void set(std::size_t, double) noexcept override {}
    void process(Stereo, Stereo) noexcept override {}
};

class Compiler {
public:
    Compiler(const Remake& remake, const PlanInputs& inputs, const Plan* previous, Error* trouble)
        : r_(remake), song_(*remake.song), rate_(inputs.sample_rate_hz), inputs_(inputs), trouble_(trouble), moves_(remake, rate_) {
        plan_->sample_rate_hz = rate_;
        plan_->song = remake.song;
        if (previous && previous->sample_rate_hz == rate_) previous_ = previous;
    }

    std::shared_ptr<Plan> run() {
        plan_->end_frame = static_cast<std::int64_t>(r_.reference.duration_s * rate_);
        plan_->limiter = previous_ ? previous_->limiter : std::make_shared<Limiter>(rate_);
        plan_->master_gain = previous_ ? previous_->master_gain : std::make_shared<GainState>();
        for (const Bus* b : in_order()) {
            PlanBus& bus = plan_->buses.emplace_back();
            bus.id = b->id;
            bus.name = b->name;
            bus.steps = steps(b->steps, {});
            bus.level = moves_.add(b->id, kBusFields[0], b->gain_db);
            bus.pan = moves_.add(b->id, kBusFields[1], b->pan);
        }
        for (PlanBus& bus : plan_->buses)
            if (const BusId to = r_.mixer->bus(bus.id)->output) bus.out.bus = plan_->bus(to);
        const bool any_solo = std::any_of(r_.parts.begin(), r_.parts.end(), [](const auto& p) { return p->solo; });
        for (const auto& p : r_.parts) part(*p, any_solo);
        for (const Clip& c : r_.clips->clips) clip(c, any_solo);
        plan_->master = steps(r_.mixer->master.steps, {});
        plan_->master_level = moves_.add(MasterRef{}, kMasterFields[0], r_.mixer->master.gain_db);
        bring_together();
        plan_->controls = moves_.take();
        return plan_;
    }

private:
    /// Each before the one it goes to.
    std::vector<const Bus*> in_order() const {
        std::vector<const Bus*> all;
        for (const Bus& b : r_.mixer->buses) all.push_back(&b);
        const auto steps_left = [&](const Bus* b) {  // to the master
            int far = 0;
            for (BusId to = b->output; to && far <= static_cast<int>(all.size()); ++far) {
                const Bus* next = r_.mixer->bus(to);
                to = next ? next->output : BusId{};
            }
            return far;
        };
        std::stable_sort(all.begin(), all.end(), [&](const Bus* a, const Bus* b) { return steps_left(a) > steps_left(b); });
        return all;
    }

    std::int64_t frame_of(Ticks t) const { return static_cast<std::int64_t>(std::llround(song_.tempo.seconds(t) * rate_)); }

    void tell(const Error& error) {
        if (trouble_ && trouble_->subject.empty()) *trouble_ = error;
    }

    template <class Value>
    PlanFields fields(const FieldOwner& owner, std::span<const Parameter> table, Value&& value) {
        PlanFields out{0, table.size()};
        for (std::size_t i = 0; i < table.size(); ++i) {
            const std::size_t at = moves_.add(owner, table[i], value(i));
            if (i == 0) out.first = at;
            out.moving = out.moving || moves_.moves(at);
        }
        return out;
    }

    // --- layers ---

    /// What has failed is made anew with the next plan.
    static bool works(const Processor* p) { return !p || !p->failed(); }

    std::shared_ptr<LayerState> layer_state(const Layer& l, const SourceSpec& spec) {
        if (previous_)
            for (const PlanPart& p : previous_->parts)
                for (const PlanLayer& old : p.layers)
                    if (old.id == l.id && old.source == l.source && old.spec == spec && works(old.state->processor.get())) return old.state;
        auto state = std::make_shared<LayerState>();
        if (auto made = l.source->made(spec, rate_)) state->processor = std::move(made).value();
        else tell(made.error());
        return state;
    }

    void events_of(const std::vector<PlacedNote>& notes, double late_ms, PlanLayer& out) const {
        const auto offset = static_cast<std::int64_t>(std::llround(late_ms / 1000.0 * rate_));
        for (const PlacedNote& n : notes) {
            if (n.muted || !out.plays(n.note.pitch, n.note.velocity)) continue;
            const auto key = static_cast<std::uint8_t>(std::clamp(n.note.pitch + 12 * out.octave, 0, 127));
            const auto velocity = static_cast<std::uint8_t>(n.note.velocity);
            const std::int64_t on = std::max<std::int64_t>(0, frame_of(n.note.start) + offset),
                               off = std::max(on + 1, frame_of(n.note.start + n.note.length) + offset);
            const VoiceId voice = (static_cast<VoiceId>(n.placement.number) << 32) | static_cast<VoiceId>(n.note.id.number);
            out.notes.push_back({on, off, voice, key, velocity});
            out.events.push_back({on, voice, PlanEvent::Kind::On, key, velocity, 0.0F});
            out.events.push_back({off, voice, PlanEvent::Kind::Off, key, 0, 0.0F});
            for (const BendPoint& b : *n.note.bend) {
                // A bend at the very start must come after the stroke it bends.
                const std::int64_t at = std::max(on + 1, frame_of(n.note.start + b.tick) + offset);
                out.events.push_back({at, voice, PlanEvent::Kind::Bend, key, 0, static_cast<float>(b.cents)});
            }
        }
        std::stable_sort(out.events.begin(), out.events.end(),
                         [](const PlanEvent& a, const PlanEvent& b) { return a.frame != b.frame ? a.frame < b.frame : a.kind < b.kind; });
    }

    void part(const Part& p, bool any_solo) {
        PlanPart& out = plan_->parts.emplace_back();
        out.id = p.id;
        out.name = p.name;
        out.audible = !p.mute && (!any_solo || p.solo);
        const auto notes = struck_notes(p);
        // A drum sound with a layer of its own is no longer played by the kit.
        std::bitset<128> own;
        for (const Layer& l : p.layers)
            if (p.role == PartRole::Drums && l.on >= 0.5 && l.low_key == l.high_key) own.set(static_cast<std::size_t>(l.low_key));
        for (const Layer& l : p.layers) {
            PlanLayer& layer = out.layers.emplace_back();
            layer.id = l.id;
            layer.source = l.source;
            const bool drums = p.role == PartRole::Drums;
            const Asset* asset = l.asset ? r_.clips->asset(l.asset) : nullptr;
            layer.spec = {
                l.patch, l.program, l.file, drums, (drums ? 0.0 : r_.song->rebuild_tuning_cents()) + l.tune_cents, asset ? sound_of({}, *asset) : nullptr,
                l.state};
            layer.state = layer_state(l, layer.spec);
            layer.octave = static_cast<int>(l.octave), layer.low_key = static_cast<int>(l.low_key), layer.high_key = static_cast<int>(l.high_key);
            if (l.low_key != l.high_key) layer.left_to_others = own;
            layer.low_velocity = static_cast<int>(l.low_velocity), layer.high_velocity = static_cast<int>(l.high_velocity);
            layer.on = moves_.add(l.id, kLayerFields[0], l.on);
            layer.level = moves_.add(l.id, kLayerFields[1], l.gain_db);
            layer.pan = moves_.add(l.id, kLayerFields[2], l.pan);
            layer.fields = fields(l.id, l.source->fields, [&](std::size_t i) { return l.value(i); });
            layer.fields.timed = layer.state->processor && layer.state->processor->wants_time();
            events_of(notes, l.offset_ms - p.early_ms, layer);
            for (const PlanNote& n : layer.notes) plan_->end_frame = std::max(plan_->end_frame, n.off + static_cast<std::int64_t>(rate_));
        }
        out.steps = steps(p.steps, p.id);
        out.level = moves_.add(p.id, kPartFields[0], p.gain_db);
        out.pan = moves_.add(p.id, kPartFields[1], p.pan);
        out.out.bus = p.output ? plan_->bus(p.output) : -1;
        for (const Send& s : p.sends) {
            PlanOutlet& send = out.sends.emplace_back();
            send.bus = plan_->bus(s.bus);
            send.level = moves_.add(SendRef{p.id, s.bus}, kSendFields[0], s.level_db);
            out.send_on.push_back(moves_.add(SendRef{p.id, s.bus}, kSendFields[1], s.on));
        }
    }

    // --- steps ---

    std::shared_ptr<StepState> step_state(const Step& s) {
        const auto search = [&](const std::vector<PlanStep>& steps) -> std::shared_ptr<StepState> {
            for (const PlanStep& old : steps)
                if (old.id == s.id && old.type == s.type && old.own_state == s.state && old.file == s.file && works(old.state->processor.get()))
                    return old.state;
            return nullptr;
        };
        if (previous_) {
            for (const PlanPart& p : previous_->parts)
                if (auto found = search(p.steps)) return found;
            for (const PlanBus& b : previous_->buses)
                if (auto found = search(b.steps)) return found;
            if (auto found = search(previous_->master)) return found;
        }
        auto made = s.type->made(rate_, s.state, s.file);
        if (!made) tell(made.error());
        auto processor = made ? std::move(made).value() : std::make_unique<PassedOn>();
        const std::size_t latency = processor->latency();
        return std::make_shared<StepState>(StepState{std::move(processor), DelayLine(latency), 0.0F, false, 0, 0});
    }

    std::vector<PlanNote> hits_of(const Trigger& trigger, PartId own) const {
        std::vector<PlanNote> hits;
        const Part* part = r_.part(trigger.part ? trigger.part : own);
        if (!part) return hits;
        for (const PlacedNote& n : struck_notes(*part)) {
            if (n.muted || (trigger.key >= 0 && n.note.pitch != trigger.key)) continue;
            const std::int64_t on = std::max<std::int64_t>(0, frame_of(n.note.start));
            hits.push_back({on, on + 1, 0, static_cast<std::uint8_t>(n.note.pitch), static_cast<std::uint8_t>(n.note.velocity)});
        }
        return hits;
    }

    std::vector<PlanStep> steps(const std::vector<Step>& chain, PartId own) {
        std::vector<PlanStep> out;
        for (const Step& s : chain) {
            PlanStep& step = out.emplace_back();
            step.id = s.id;
            step.type = s.type;
            step.own_state = s.state, step.file = s.file;
            step.state = step_state(s);
            step.on = moves_.add(s.id, kStepFields[0], s.on);
            step.fields = fields(s.id, s.type->fields, [&](std::size_t i) { return s.value(i); });
            step.fields.timed = step.state->processor->wants_time();
            if (s.type->triggered) step.hits = hits_of(s.trigger, own);
        }
        return out;
    }

    // --- clips ---

    std::shared_ptr<const Audio> sound_of(const std::vector<RecipeEntry>& recipe, const Asset& asset, const ClipTime& time = {}) {
        std::string key = std::to_string(static_cast<int>(asset.origin)) + asset.path;
        char number[64];
        const auto add = [&](double v) {
            std::snprintf(number, sizeof number, "|%.9g", v);
            key += number;
        };
        std::snprintf(number, sizeof number, "|%llx", static_cast<unsigned long long>(asset.content_hash));
        key += number;
        add(asset.start_s), add(asset.end_s);
        add(static_cast<double>(asset.made.kind)), add(asset.made.beats);
        for (const int p : asset.made.pitches) add(p);
        for (const RecipeEntry& e : recipe) {
            add(static_cast<double>(e.treatment)), add(e.on), add(e.first), add(e.second);
            for (const WarpMark& m : e.marks) add(m.from_ms), add(m.to_ms);
            // Of the tempo only what the recipe goes by: elsewhere the same sound is made once, wherever it stands.
            if (e.treatment == Treatment::Bars) add(time.bar_s);
            if (e.treatment == Treatment::Gate) add(time.beat_s);
        }
        if (const auto made = plan_->sounds.find(key); made != plan_->sounds.end()) return made->second;
        if (previous_)
            if (const auto made = previous_->sounds.find(key); made != previous_->sounds.end()) return plan_->sounds[key] = made->second;
        if (!inputs_.assets) return nullptr;
        auto loaded = inputs_.assets(asset);
        if (!loaded) {
            tell(loaded.error());
            return nullptr;
        }
        return plan_->sounds[key] = std::make_shared<const Audio>(follow_recipe(std::move(loaded).value(), recipe, rate_, time));
    }

    void clip(const Clip& c, bool any_solo) {
        const Asset* asset = r_.clips->asset(c.asset);
        if (!asset) return;
        PlanClip out;
        const auto& song = *r_.song;
        Asset meant = *asset;
        if (meant.made.kind != Transition::None) meant.end_s = meant.start_s + made_seconds(song, meant.made, c);
        out.sound = sound_of(c.recipe, meant, clip_time(song, c.start));
        if (!out.sound) return;
        out.id = c.id;
        out.name = c.name;
        out.original = asset->origin == AssetOrigin::Original;
        const auto frames = static_cast<std::int64_t>(out.sound->frames());
        out.start = frame_of(c.start) - (c.ends_here ? frames : 0);
        std::tie(out.left, out.right) = balanced(static_cast<float>(std::pow(10.0, c.gain_db / 20.0)), static_cast<float>(c.pan));
        out.audible = !c.mute && !any_solo;
        out.out.bus = c.output ? plan_->bus(c.output) : -1;
        plan_->end_frame = std::max(plan_->end_frame, out.start + frames);
        plan_->clips.push_back(std::move(out));
    }

    // --- what runs beside each other arrives together ---

    std::size_t latency_of(const std::vector<PlanStep>& steps) const {
        std::size_t sum = 0;
        for (const PlanStep& s : steps) sum += s.state->processor->latency();
        return sum;
    }

    enum class Kind { PartOut, Send, ClipOut, BusOut };

    std::shared_ptr<OutletState> outlet(Kind kind, int whose, int where, std::size_t delay) {
        if (previous_) {
            const auto keeps = [&](const PlanOutlet& old) { return old.state->delay.frames() == delay; };
            if (kind == Kind::PartOut || kind == Kind::Send) {
                if (const int p = previous_->part(PartId(whose)); p >= 0) {
                    const PlanPart& part = previous_->parts[static_cast<std::size_t>(p)];
                    if (kind == Kind::PartOut && keeps(part.out)) return part.out.state;
                    if (kind == Kind::Send)
                        for (const PlanOutlet& s : part.sends)
                            if (s.bus >= 0 && previous_->buses[static_cast<std::size_t>(s.bus)].id.number == where && keeps(s)) return s.state;
                }
            } else if (kind == Kind::ClipOut) {
                for (const PlanClip& c : previous_->clips)
                    if (c.id.number == whose && keeps(c.out)) return c.out.state;
            } else if (const int b = previous_->bus(BusId(whose)); b >= 0 && keeps(previous_->buses[static_cast<std::size_t>(b)].out)) {
                return previous_->buses[static_cast<std::size_t>(b)].out.state;
            }
        }
        auto state = std::make_shared<OutletState>(OutletState{{}, DelayLine(delay)});
        state->gain.begun = previous_ != nullptr && kind == Kind::Send;  // a send that is opened while it plays comes in from nothing
        return state;
    }

    void bring_together() {
        std::vector<std::size_t> into_bus(plan_->buses.size(), 0);  // how late the latest comes in
        std::size_t into_master = 0;
        const auto arrives = [&](int bus, std::size_t late) {
            std::size_t& latest = bus < 0 ? into_master : into_bus[static_cast<std::size_t>(bus)];
            latest = std::max(latest, late);
        };
        std::vector<std::size_t> part_late;
        for (const PlanPart& p : plan_->parts) {
            part_late.push_back(latency_of(p.steps));
            arrives(p.out.bus, part_late.back());
            for (const PlanOutlet& s : p.sends) arrives(s.bus, part_late.back());
        }
        for (std::size_t b = 0; b < plan_->buses.size(); ++b) arrives(plan_->buses[b].out.bus, into_bus[b] + latency_of(plan_->buses[b].steps));
        const auto wait = [&](int bus, std::size_t late) { return (bus < 0 ? into_master : into_bus[static_cast<std::size_t>(bus)]) - late; };
        for (std::size_t p = 0; p < plan_->parts.size(); ++p) {
            PlanPart& part = plan_->parts[p];
            part.out.state = outlet(Kind::PartOut, part.id.number, 0, wait(part.out.bus, part_late[p]));
            for (PlanOutlet& s : part.sends)
                s.state = outlet(Kind::Send, part.id.number, plan_->buses[static_cast<std::size_t>(s.bus)].id.number, wait(s.bus, part_late[p]));
        }
        for (PlanClip& c : plan_->clips) c.out.state = outlet(Kind::ClipOut, c.id.number, 0, wait(c.out.bus, 0));
        for (std::size_t b = 0; b < plan_->buses.size(); ++b) {
            PlanBus& bus = plan_->buses[b];
            bus.out.state = outlet(Kind::BusOut, bus.id.number, 0, wait(bus.out.bus, into_bus[b] + latency_of(bus.steps)));
        }
        plan_->latency = into_master + latency_of(plan_->master);
    }

    const Remake& r_;
    const Song& song_;
    double rate_;
    const PlanInputs& inputs_;
    Error* trouble_;
    Moves moves_;
    const Plan* previous_ = nullptr;
    std::shared_ptr<Plan> plan_ = std::make_shared<Plan>();
};

}  // namespace

std::shared_ptr<const Plan> compile_plan(const Remake& remake, const PlanInputs& inputs, const std::shared_ptr<const Plan>& previous, Error* trouble) {
    return Compiler(remake, inputs, previous.get(), trouble).run();
}

Result<std::shared_ptr<const Plan>> compile_for_rendering(const Remake& remake, const PlanInputs& inputs) {
    Error trouble;
    auto plan = compile_plan(remake, inputs, nullptr, &trouble);
    if (!trouble.subject.empty()) return trouble;
    return plan;
}

}  // namespace fw

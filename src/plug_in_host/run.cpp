// SPDX-License-Identifier: GPL-3.0-or-later
// One plug-in, run on the memory it shares with the program that asked for it.
#include "plug_in_host/world.hpp"
#include "sound/no_denormals.hpp"
#include "sound/plug_ins/wire.hpp"

#include <lv2/atom/atom.h>
#include <lv2/atom/forge.h>
#include <lv2/atom/util.h>
#include <lv2/buf-size/buf-size.h>
#include <lv2/core/lv2.h>
#include <lv2/midi/midi.h>
#include <lv2/options/options.h>
#include <lv2/patch/patch.h>
#include <lv2/state/state.h>
#include <lv2/time/time.h>
#include <lv2/worker/worker.h>
#include <sys/mman.h>
#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <utility>

namespace fw::host {

namespace {

constexpr std::uint32_t kEventBytes = 65536;

/// One instance with its buffers. Work it puts off is done at once: here nobody hears it wait.
class Instance {
public:
    Instance(World& w, const LilvPlugin* plugin, double rate, Numbers& numbers, const std::string& own_state, const std::string& file)
        : ports_(ports_of(w, plugin)), numbers_(numbers) {
        static const std::int32_t most = kSlice, least = 1, events = kEventBytes;
        static const float rate_hz = static_cast<float>(rate);
        const LV2_URID whole = numbers.map(LV2_ATOM__Int), real = numbers.map(LV2_ATOM__Float);
        options_ = {{LV2_OPTIONS_INSTANCE, 0, numbers.map(LV2_BUF_SIZE__maxBlockLength), sizeof most, whole, &most},
                    {LV2_OPTIONS_INSTANCE, 0, numbers.map(LV2_BUF_SIZE__minBlockLength), sizeof least, whole, &least},
                    {LV2_OPTIONS_INSTANCE, 0, numbers.map(LV2_BUF_SIZE__sequenceSize), sizeof events, whole, &events},
                    {LV2_OPTIONS_INSTANCE, 0, numbers.map("http://lv2plug.in/ns/ext/parameters#sampleRate"), sizeof rate_hz, real, &rate_hz},
                    {LV2_OPTIONS_INSTANCE, 0, 0, 0, 0, nullptr}};
        schedule_ = {this, [](void* self, std::uint32_t size, const void* data) { return static_cast<Instance*>(self)->work(size, data); }};
        features_ = {LV2_Feature{LV2_URID__map, numbers.mapper()},
                     LV2_Feature{LV2_URID__unmap, numbers.unmapper()},
                     LV2_Feature{LV2_OPTIONS__options, options_.data()},
                     LV2_Feature{LV2_WORKER__schedule, &schedule_},
                     LV2_Feature{LV2_BUF_SIZE__boundedBlockLength, nullptr},
                     LV2_Feature{LV2_STATE__loadDefaultState, nullptr},
                     LV2_Feature{LV2_CORE__isLive, nullptr}};
        std::vector<const LV2_Feature*> pointers;
        for (const LV2_Feature& f : features_) pointers.push_back(&f);
        pointers.push_back(nullptr);
        instance_ = lilv_plugin_instantiate(plugin, rate, pointers.data());
        if (!instance_) return;
        worker_ = static_cast<const LV2_Worker_Interface*>(lilv_instance_get_extension_data(instance_, LV2_WORKER__interface));
        for (const Port& p : ports_) {
            void* buffer = nullptr;
            using Kind = Port::Kind;
            switch (p.kind) {
                case Kind::AudioIn:
                case Kind::AudioOut:
                case Kind::Cv: buffer = (sounds_[p.index] = std::vector<float>(kSlice)).data(); break;
                case Kind::Field:
                case Kind::ControlIn:
                case Kind::ControlOut: buffer = &(controls_[p.index] = p.value); break;
                case Kind::EventsIn:
                case Kind::EventsOut: buffer = (events_[p.index] = std::vector<std::uint64_t>(kEventBytes / 8)).data(); break;
                case Kind::Left: break;
            }
            lilv_instance_connect_port(instance_, p.index, buffer);
            if (takes(w, plugin, p, LV2_MIDI__MidiEvent) && midi_ < 0) midi_ = static_cast<int>(p.index);
            if (takes(w, plugin, p, LV2_TIME__Position) && time_ < 0) time_ = static_cast<int>(p.index);
            if (takes(w, plugin, p, LV2_PATCH__Message) && told_ < 0) told_ = static_cast<int>(p.index);
        }
        if (const LilvPort* l = lilv_plugin_has_latency(plugin) ? lilv_plugin_get_port_by_index(plugin, lilv_plugin_get_latency_port_index(plugin)) : nullptr)
            latency_ = static_cast<int>(lilv_port_get_index(plugin, l));
        // What it stands at by itself, and over it what the remake keeps.
        for (LilvState* state : {lilv_state_new_from_world(w.get(), numbers.mapper(), lilv_plugin_get_uri(plugin)),
                                 own_state.empty() ? nullptr : lilv_state_new_from_string(w.get(), numbers.mapper(), own_state.c_str())}) {
            if (!state) continue;
            lilv_state_restore(state, instance_, nullptr, nullptr, 0, pointers.data());
            lilv_state_free(state);
        }
        if (const LilvNode* property = file.empty() ? nullptr : file_property(w, plugin)) tell_file(lilv_node_as_uri(property), file);
        lilv_instance_activate(instance_);
    }
    ~Instance() {
        if (!instance_) return;
        lilv_instance_deactivate(instance_);
        lilv_instance_free(instance_);
    }
    Instance(const Instance&) = delete;
    Instance& operator=(const Instance&) = delete;

    bool usable() const { return instance_; }
    bool wants_time() const { return time_ >= 0; }
    std::uint32_t latency() const { return latency_ < 0 ? 0 : static_cast<std::uint32_t>(std::max(0.0F, controls_.at(static_cast<std::uint32_t>(latency_)))); }
    void reset() {
        lilv_instance_deactivate(instance_);
        lilv_instance_activate(instance_);
    }
    std::vector<std::uint32_t> of(Port::Kind kind) const {
        std::vector<std::uint32_t> some;
        for (const Port& p : ports_)
            if (p.kind == kind) some.push_back(p.index);
        return some;
    }
    std::vector<float>& sound(std::uint32_t port) { return sounds_.at(port); }
    void set_fields(const float* values) {
        std::size_t f = 0;
        for (const Port& p : ports_)
            if (p.kind == Port::Kind::Field) {
                const float v = values[f++];
                const auto chosen = static_cast<std::size_t>(std::max(0L, std::lround(v)));
                controls_[p.index] = p.choices.size() > 1 ? p.choices[std::min(chosen, p.choices.size() - 1)] : v;
            }
    }
    void run(std::uint32_t frames, const PlugInWire& wire) {
        for (auto& [port, buffer] : events_) {
            auto* sequence = reinterpret_cast<LV2_Atom_Sequence*>(buffer.data());
            const bool in = ports_[port].kind == Port::Kind::EventsIn;
            sequence->atom.type = numbers_.map(in ? LV2_ATOM__Sequence : LV2_ATOM__Chunk);
            sequence->atom.size = in ? sizeof(LV2_Atom_Sequence_Body) : kEventBytes - sizeof(LV2_Atom);
            sequence->body = {};
            const auto append = [&, to = sequence](const std::vector<std::uint64_t>& event) {
                lv2_atom_sequence_append_event(to, kEventBytes - sizeof(LV2_Atom_Sequence), reinterpret_cast<const LV2_Atom_Event*>(event.data()));
            };
            if (static_cast<int>(port) == told_ && !message_.empty()) append(std::exchange(message_, {}));
            if (static_cast<int>(port) == time_ && wire.bpm > 0.0) append(place_in_time(wire));
            if (static_cast<int>(port) != midi_) continue;
            struct {
                LV2_Atom_Event event;
                std::uint8_t bytes[3];
            } one{};
            one.event.body = {3, numbers_.map(LV2_MIDI__MidiEvent)};
            for (std::uint32_t e = 0; e < std::min<std::uint32_t>(wire.event_count, PlugInWire::kMostEvents); ++e) {
                std::copy_n(wire.events[e].bytes, 3, reinterpret_cast<std::uint8_t*>(&one.event + 1));
                lv2_atom_sequence_append_event(sequence, kEventBytes - sizeof(LV2_Atom_Sequence), &one.event);
            }
        }
        lilv_instance_run(instance_, frames);
        if (!worker_) return;
        for (const auto& answer : answers_)
            if (worker_->work_response) worker_->work_response(lilv_instance_get_handle(instance_), static_cast<std::uint32_t>(answer.size()), answer.data());
        answers_.clear();
        if (worker_->end_run) worker_->end_run(lilv_instance_get_handle(instance_));
    }

private:
    /// An event made by a forge: what write does to one goes behind the time it comes at.
    template <class Write>
    std::vector<std::uint64_t> event_of(Write write) {
        std::vector<std::uint64_t> event(1024);
        LV2_Atom_Forge forge;
        lv2_atom_forge_init(&forge, numbers_.mapper());
        // The time, in frames, stands before the atom and is 0.
        lv2_atom_forge_set_buffer(&forge, reinterpret_cast<std::uint8_t*>(event.data() + 1), (event.size() - 1) * sizeof event[0]);
        write(forge);
        return event;
    }
    void tell_file(const char* property, const std::string& file) {
        if (told_ < 0 || file.size() > 4000) return;
        message_ = event_of([&](LV2_Atom_Forge& f) {
            LV2_Atom_Forge_Frame frame;
            lv2_atom_forge_object(&f, &frame, 0, numbers_.map(LV2_PATCH__Set));
            lv2_atom_forge_key(&f, numbers_.map(LV2_PATCH__property));
            lv2_atom_forge_urid(&f, numbers_.map(property));
            lv2_atom_forge_key(&f, numbers_.map(LV2_PATCH__value));
            lv2_atom_forge_path(&f, file.c_str(), static_cast<std::uint32_t>(file.size()));
            lv2_atom_forge_pop(&f, &frame);
        });
    }
    std::vector<std::uint64_t> place_in_time(const PlugInWire& wire) {
        return event_of([&](LV2_Atom_Forge& f) {
            LV2_Atom_Forge_Frame frame;
            lv2_atom_forge_object(&f, &frame, 0, numbers_.map(LV2_TIME__Position));
            const auto real = [&](const char* key, double value) {
                lv2_atom_forge_key(&f, numbers_.map(key));
                lv2_atom_forge_float(&f, static_cast<float>(value));
            };
            lv2_atom_forge_key(&f, numbers_.map(LV2_TIME__frame));
            lv2_atom_forge_long(&f, wire.frame);
            real(LV2_TIME__speed, 1.0);
            real(LV2_TIME__beatsPerMinute, wire.bpm);
            lv2_atom_forge_key(&f, numbers_.map(LV2_TIME__bar));
            lv2_atom_forge_long(&f, wire.bar);
            real(LV2_TIME__barBeat, wire.bar_beat);
            real(LV2_TIME__beatsPerBar, wire.beats_per_bar);
            lv2_atom_forge_key(&f, numbers_.map(LV2_TIME__beatUnit));
            lv2_atom_forge_int(&f, wire.beat_unit);
            lv2_atom_forge_pop(&f, &frame);
        });
    }
    LV2_Worker_Status work(std::uint32_t size, const void* data) {
        if (!worker_ || !worker_->work) return LV2_WORKER_ERR_UNKNOWN;
        const auto respond = [](LV2_Worker_Respond_Handle self, std::uint32_t bytes, const void* what) {
            const auto* from = static_cast<const std::uint8_t*>(what);
            static_cast<Instance*>(self)->answers_.emplace_back(from, from + bytes);
            return LV2_WORKER_SUCCESS;
        };
        return worker_->work(lilv_instance_get_handle(instance_), respond, this, size, data);
    }

    std::vector<Port> ports_;
    Numbers& numbers_;
    std::vector<LV2_Options_Option> options_;
    LV2_Worker_Schedule schedule_{};
    std::array<LV2_Feature, 7> features_{};
    const LV2_Worker_Interface* worker_ = nullptr;
    LilvInstance* instance_ = nullptr;
    std::map<std::uint32_t, std::vector<float>> sounds_;
    std::map<std::uint32_t, float> controls_;
    std::map<std::uint32_t, std::vector<std::uint64_t>> events_;
    std::vector<std::vector<std::uint8_t>> answers_;
    std::vector<std::uint64_t> message_;  ///< to be told with the next stretch
    int midi_ = -1, time_ = -1, told_ = -1, latency_ = -1;
};

/// Both sides through one plug-in, or through two where it has a single channel.
class Pair {
public:
    Pair(World& w, const LilvPlugin* plugin, double rate, Numbers& numbers, const std::string& state, const std::string& file) {
        all_.push_back(std::make_unique<Instance>(w, plugin, rate, numbers, state, file));
        if (!usable()) return;
        in_ = all_[0]->of(Port::Kind::AudioIn), out_ = all_[0]->of(Port::Kind::AudioOut);
        if (in_.size() == 1 && out_.size() == 1) all_.push_back(std::make_unique<Instance>(w, plugin, rate, numbers, state, file));
    }
    bool usable() const {
        return std::all_of(all_.begin(), all_.end(), [](const auto& i) { return i->usable(); });
    }
    std::uint32_t latency() const { return all_[0]->latency(); }
    bool wants_time() const { return all_[0]->wants_time(); }
    void reset() {
        for (auto& i : all_) i->reset();
    }
    void run(PlugInWire& wire) {
        const std::uint32_t frames = std::min<std::uint32_t>(wire.frames, kSlice);
        for (std::size_t side = 0; side < all_.size(); ++side) {
            Instance& one = *all_[side];
            one.set_fields(wire.fields);
            for (std::size_t i = 0; i < in_.size(); ++i) {
                auto& to = one.sound(in_[i]);
                for (std::uint32_t f = 0; f < frames; ++f) {
                    const float left = wire.left[f], right = wire.right[f];
                    if (all_.size() == 2) to[f] = side == 0 ? left : right;
                    else if (in_.size() == 1) to[f] = 0.5F * (left + right);
                    else to[f] = i == 0 ? left : i == 1 ? right : 0.0F;  // further inputs are side chains: silent
                }
            }
            one.run(frames, wire);
        }
        const auto& left = all_[0]->sound(out_[0]);
        const auto& right = all_.size() == 2 ? all_[1]->sound(out_[0]) : all_[0]->sound(out_[out_.size() > 1 ? 1 : 0]);
        std::copy_n(left.begin(), frames, wire.left);
        std::copy_n(right.begin(), frames, wire.right);
    }

private:
    std::vector<std::unique_ptr<Instance>> all_;
    std::vector<std::uint32_t> in_, out_;
};

}  // namespace

int run(const char* uri, double rate, pid_t program, const std::string& state, const std::string& file) {
    void* seen = ::mmap(nullptr, sizeof(PlugInWire), PROT_READ | PROT_WRITE, MAP_SHARED, PlugInWire::kDescriptor, 0);
    if (seen == MAP_FAILED) return 1;
    auto& wire = *static_cast<PlugInWire*>(seen);
    const NoDenormals small_is_nothing;
    World w;
    Numbers numbers;
    const LilvPlugin* plugin = lilv_plugins_get_by_uri(lilv_world_get_all_plugins(w.get()), w(uri));
    std::unique_ptr<Pair> pair;
    if (plugin && can_be_run(plugin)) pair = std::make_unique<Pair>(w, plugin, rate, numbers, state, file);
    if (!pair || !pair->usable()) {
        wire.state = PlugInWire::State::Unusable;
        return 1;
    }
    // Its delay is known once it has run; what that left behind is cleared.
    wire.frames = kSlice;
    pair->run(wire);
    pair->reset();
    wire.wants_time = pair->wants_time();
    wire.latency = std::min<std::uint32_t>(pair->latency(), static_cast<std::uint32_t>(10.0 * rate));
    wire.state = PlugInWire::State::Ready;
    for (std::uint32_t done = 0;;) {
        for (int i = 0; i < 2000 && wire.asked.load() == done; ++i) {
#if defined(__x86_64__)
            __builtin_ia32_pause();
#endif
        }
        while (wire.asked.load() == done) {
            sleep_while(wire.asked, done, 1000);
            if (::getppid() != program) return 0;  // whoever asked is gone
        }
        done = wire.asked.load();
        if (wire.task == PlugInWire::Task::Run) pair->run(wire);
        else if (wire.task == PlugInWire::Task::Reset) pair->reset();
        wire.answered.store(done, std::memory_order_release);
        wake(wire.answered);
        if (wire.task == PlugInWire::Task::Leave) return 0;
    }
}

}  // namespace fw::host

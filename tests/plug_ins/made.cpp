// SPDX-License-Identifier: GPL-3.0-or-later
// Plug-ins to be tested with: a gain that comes 7 frames late, one that turns the sign of a single channel, a tone, one that keeps things besides its fields
// and asks for the time, and such as crash, hang and cannot be made.
#include <lv2/atom/atom.h>
#include <lv2/atom/util.h>
#include <lv2/core/lv2.h>
#include <lv2/patch/patch.h>
#include <lv2/state/state.h>
#include <lv2/time/time.h>
#include <lv2/urid/urid.h>

#include <unistd.h>
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <cstring>

namespace {

constexpr std::uint32_t kLate = 7, kWell = 4096;

struct Made {
    std::array<void*, 8> ports{};
    double rate = 44100.0;
    std::array<std::array<float, kLate>, 2> late{};
    std::uint32_t at = 0, ran = 0;
    int key = -1;
    double phase = 0.0;
    float* sound(std::size_t port) const { return static_cast<float*>(ports[port]); }
    float value(std::size_t port) const { return *static_cast<float*>(ports[port]); }
};

LV2_Handle make(const LV2_Descriptor*, double rate, const char*, const LV2_Feature* const*) {
    auto* made = new Made;
    made->rate = rate;
    return made;
}
void connect(LV2_Handle self, std::uint32_t port, void* where) { static_cast<Made*>(self)->ports[port] = where; }
void activate(LV2_Handle self) {
    auto& m = *static_cast<Made*>(self);
    m.late = {}, m.at = 0, m.key = -1, m.phase = 0.0;
}
void clean_up(LV2_Handle self) { delete static_cast<Made*>(self); }

void gain(LV2_Handle self, std::uint32_t frames) {
    auto& m = *static_cast<Made*>(self);
    const float by = m.value(4) * std::pow(10.0F, m.value(5) / 20.0F);
    const std::array<float, 2> sides{m.value(6) == 7.0F ? 0.0F : by, m.value(6) == 3.0F ? 0.0F : by};
    for (std::uint32_t i = 0; i < frames; ++i) {
        for (std::size_t s = 0; s < 2; ++s) {
            const float in = m.sound(s)[i];
            m.sound(2 + s)[i] = sides[s] * m.late[s][m.at];
            m.late[s][m.at] = in;
        }
        m.at = (m.at + 1) % kLate;
    }
    *static_cast<float*>(m.ports[7]) = kLate;
}
void turn(LV2_Handle self, std::uint32_t frames) {
    const auto& m = *static_cast<Made*>(self);
    for (std::uint32_t i = 0; i < frames; ++i) m.sound(1)[i] = m.value(2) > 0.5F ? 0.0F : -m.sound(0)[i];
}
void tone(LV2_Handle self, std::uint32_t frames) {
    auto& m = *static_cast<Made*>(self);
    const auto* events = static_cast<const LV2_Atom_Sequence*>(m.ports[0]);
    LV2_ATOM_SEQUENCE_FOREACH(events, e) {
        const auto* bytes = reinterpret_cast<const std::uint8_t*>(e + 1);
        if ((bytes[0] & 0xF0) == 0x90) m.key = bytes[1];
        if ((bytes[0] & 0xF0) == 0x80 && m.key == bytes[1]) m.key = -1;
    }
    for (std::uint32_t i = 0; i < frames; ++i) {
        m.sound(1)[i] = m.key < 0 ? 0.0F : m.value(2) * static_cast<float>(std::sin(2.0 * M_PI * m.phase));
        if (m.key >= 0) m.phase += 440.0 * std::exp2((m.key - 69) / 12.0) / m.rate;
    }
}
void passed_on(Made& m, std::uint32_t frames) {
    for (std::size_t s = 0; s < 2; ++s) std::copy_n(m.sound(s), frames, m.sound(2 + s));
    m.ran += frames;
}
void crash(LV2_Handle self, std::uint32_t frames) {
    auto& m = *static_cast<Made*>(self);
    if (m.ran > kWell) std::abort();
    passed_on(m, frames);
}
void hang(LV2_Handle self, std::uint32_t frames) {
    auto& m = *static_cast<Made*>(self);
    while (m.ran > kWell) ::sleep(1);
    passed_on(m, frames);
}
/// Left: a weight that only its state tells, times its field. Right: a beat of the bar it was told, and the length of the name of its file.
struct Keeper {
    std::array<void*, 6> ports{};
    LV2_URID_Map map{};
    float weight = 1.0F, beat = 0.0F, letters = 0.0F;
    LV2_URID number(const char* uri) const { return map.map(map.handle, uri); }
};
LV2_Handle keeper(const LV2_Descriptor*, double, const char*, const LV2_Feature* const* features) {
    auto* k = new Keeper;
    for (; *features; ++features)
        if (std::strcmp((*features)->URI, LV2_URID__map) == 0) k->map = *static_cast<const LV2_URID_Map*>((*features)->data);
    return k;
}
void connect_keeper(LV2_Handle self, std::uint32_t port, void* where) { static_cast<Keeper*>(self)->ports[port] = where; }
void clean_keeper(LV2_Handle self) { delete static_cast<Keeper*>(self); }
void keep(LV2_Handle self, std::uint32_t frames) {
    auto& k = *static_cast<Keeper*>(self);
    const auto* events = static_cast<const LV2_Atom_Sequence*>(k.ports[4]);
    LV2_ATOM_SEQUENCE_FOREACH(events, e) {
        const auto* object = reinterpret_cast<const LV2_Atom_Object*>(&e->body);
        const LV2_Atom *beat = nullptr, *property = nullptr, *value = nullptr;
        lv2_atom_object_get(object, k.number(LV2_TIME__barBeat), &beat, k.number(LV2_PATCH__property), &property, k.number(LV2_PATCH__value), &value, 0);
        if (object->body.otype == k.number(LV2_TIME__Position) && beat) k.beat = reinterpret_cast<const LV2_Atom_Float*>(beat)->body;
        if (object->body.otype == k.number(LV2_PATCH__Set) && property && value &&
            reinterpret_cast<const LV2_Atom_URID*>(property)->body == k.number("urn:fakturwerk:test:keeper#file"))
            k.letters = static_cast<float>(std::strlen(static_cast<const char*>(LV2_ATOM_BODY_CONST(value))));
    }
    const float field = *static_cast<float*>(k.ports[5]);
    for (std::uint32_t i = 0; i < frames; ++i) {
        static_cast<float*>(k.ports[2])[i] = k.weight * field * static_cast<const float*>(k.ports[0])[i];
        static_cast<float*>(k.ports[3])[i] = k.beat + 100.0F * k.letters;
    }
}
LV2_State_Status save_keeper(LV2_Handle self, LV2_State_Store_Function store, LV2_State_Handle where, std::uint32_t, const LV2_Feature* const*) {
    const auto& k = *static_cast<Keeper*>(self);
    return store(where, k.number("urn:fakturwerk:test:keeper#weight"), &k.weight, sizeof k.weight, k.number(LV2_ATOM__Float),
                 LV2_STATE_IS_POD | LV2_STATE_IS_PORTABLE);
}
LV2_State_Status restore_keeper(LV2_Handle self, LV2_State_Retrieve_Function retrieve, LV2_State_Handle from, std::uint32_t, const LV2_Feature* const*) {
    auto& k = *static_cast<Keeper*>(self);
    std::size_t size = 0;
    std::uint32_t type = 0, flags = 0;
    if (const void* weight = retrieve(from, k.number("urn:fakturwerk:test:keeper#weight"), &size, &type, &flags); weight && size == sizeof k.weight)
        std::memcpy(&k.weight, weight, size);
    return LV2_STATE_SUCCESS;
}
const void* extension_of_keeper(const char* uri) {
    static const LV2_State_Interface state{save_keeper, restore_keeper};
    return std::strcmp(uri, LV2_STATE__interface) == 0 ? &state : nullptr;
}

LV2_Handle not_made(const LV2_Descriptor*, double, const char*, const LV2_Feature* const*) { return nullptr; }

const std::array<LV2_Descriptor, 8> kAll{{
    {"urn:fakturwerk:test:gain", make, connect, activate, gain, nullptr, clean_up, nullptr},
    {"urn:fakturwerk:test:turn", make, connect, activate, turn, nullptr, clean_up, nullptr},
    {"urn:fakturwerk:test:tone", make, connect, activate, tone, nullptr, clean_up, nullptr},
    {"urn:fakturwerk:test:crash", make, connect, nullptr, crash, nullptr, clean_up, nullptr},
    {"urn:fakturwerk:test:hang", make, connect, nullptr, hang, nullptr, clean_up, nullptr},
    {"urn:fakturwerk:test:stillborn", not_made, connect, nullptr, crash, nullptr, clean_up, nullptr},
    {"urn:fakturwerk:test:keeper", keeper, connect_keeper, nullptr, keep, nullptr, clean_keeper, extension_of_keeper},
    {"urn:fakturwerk:test:demanding", make, connect, nullptr, crash, nullptr, clean_up, nullptr},
}};

}  // namespace

extern "C" LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(std::uint32_t index) { return index < kAll.size() ? &kAll[index] : nullptr; }

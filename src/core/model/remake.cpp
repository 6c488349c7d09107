// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/remake.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace fw {

const char* state_name(State state) {
    switch (state) {
        case State::Open: return "open";
        case State::Draft: return "draft";
        case State::Confirmed: return "confirmed";
        case State::LeftOut: break;
    }
    return "left out";
}

const Bus* Mixer::bus(BusId id) const {
    const auto at = std::find_if(buses.begin(), buses.end(), [&](const Bus& b) { return b.id == id; });
    return at == buses.end() ? nullptr : &*at;
}

bool Mixer::leads(BusId from, BusId to) const {
    for (std::size_t ways = 0; from && ways <= buses.size(); ++ways) {
        if (from == to) return true;
        const Bus* next = bus(from);
        from = next ? next->output : BusId{};
    }
    return false;
}

const Asset* Clips::asset(AssetId id) const {
    const auto at = std::find_if(assets.begin(), assets.end(), [&](const Asset& a) { return a.id == id; });
    return at == assets.end() ? nullptr : &*at;
}

const Clip* Clips::clip(ClipId id) const {
    const auto at = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == id; });
    return at == clips.end() ? nullptr : &*at;
}

bool Song::is_free(Ticks tick) const {
    return std::any_of(free_time.begin(), free_time.end(), [&](const FreeTime& f) { return tick >= f.start && tick < f.start + f.length; });
}

const Key* Song::key_at(Ticks tick) const {
    const Key* found = nullptr;
    for (const KeyArea& k : keys)
        if (!found || k.start <= tick) found = &k.key;
    return found;
}

const ChordEvent* Song::chord_at(Ticks tick) const {
    for (const ChordEvent& c : chords)
        if (tick >= c.start && tick < c.start + c.length) return &c;
    return nullptr;
}

bool Song::flats_at(Ticks tick) const {
    const Key* key = key_at(tick);
    return key && key->flats();
}

int Song::section_at(Ticks tick) const {
    for (std::size_t i = 0; i < sections.size(); ++i)
        if (tick >= sections[i].start && tick < sections[i].start + sections[i].length) return static_cast<int>(i);
    return -1;
}

const Section* Song::section(SectionId id) const {
    const auto at = std::find_if(sections.begin(), sections.end(), [&](const Section& s) { return s.id == id; });
    return at == sections.end() ? nullptr : &*at;
}

std::string Song::tempo_text() const {
    const double first = tempo.bpm_at(tempo.anchors().front().tick), last = tempo.bpm_at(tempo.anchors().back().tick - 1);
    char text[64];
    if (std::abs(first - last) < 0.05) std::snprintf(text, sizeof text, "%.2f BPM", first);
    else std::snprintf(text, sizeof text, "%.2f → %.2f BPM", first, last);
    return text;
}

const Part* Remake::part(PartId id) const {
    for (const auto& p : parts)
        if (p->id == id) return p.get();
    return nullptr;
}

Ticks Remake::end_tick() const {
    Ticks end = std::max<Ticks>(kTicksPerQuarter, song->tempo.nearest_tick(reference.duration_s));
    for (const Section& s : song->sections) end = std::max(end, s.start + s.length);
    return end;
}

std::vector<ElementId> Remake::element_ids() const {
    std::vector<ElementId> ids{ElementId::tempo(), ElementId::key(), ElementId::sections(), ElementId::chords()};
    for (const auto& p : parts) ids.push_back(p->id);
    for (const OwnRow& r : notebook->rows) ids.push_back(r.id);
    return ids;
}

std::string Remake::element_name(ElementId id) const {
    switch (id.kind()) {
        case ElementId::Kind::Tempo: return "Tempo & bars";
        case ElementId::Kind::Key: return "Key & tuning";
        case ElementId::Kind::Sections: return "Sections";
        case ElementId::Kind::Chords: return "Chords";
        case ElementId::Kind::Part: {
            const Part* p = part(id.part());
            return p ? p->name : std::string();
        }
        case ElementId::Kind::Own: break;
    }
    for (const OwnRow& r : notebook->rows)
        if (r.id == id.row()) return r.name;
    return {};
}

ElementState Remake::element(ElementId id) const {
    const auto it = notebook->elements.find(id);
    return it == notebook->elements.end() ? ElementState{} : it->second;
}

void Remake::number_all() {
    const auto after = [&](int number) { next_id = std::max(next_id, number + 1); };
    for (const auto& p : parts) {
        after(p->id.number);
        for (const Layer& l : p->layers) after(l.id.number);
        for (const Step& s : p->steps) after(s.id.number);
    }
    for (const Section& s : song->sections) after(s.id.number);
    for (auto& shared : parts) {
        Part& p = shared.edit();
        if (!p.id) p.id = PartId(next_id++);
        for (Layer& l : p.layers)
            if (!l.id) l.id = LayerId(next_id++);
        for (Step& s : p.steps)
            if (!s.id) s.id = StepId(next_id++);
        p.number_all();
    }
    for (Section& s : song.edit().sections)
        if (!s.id) s.id = SectionId(next_id++);
}

}  // namespace fw

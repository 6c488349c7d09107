// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/remedy.hpp"

#include "base/pitch.hpp"
#include "commands/call.hpp"

#include <algorithm>
#include <cstdio>

namespace fw {

namespace {

std::optional<PlacedNote> note_of(const Remake& r, PartId id, const NoteRef& ref) {
    const Part* part = r.part(id);
    if (!part) return std::nullopt;
    const auto notes = placed_notes(*part);
    const auto at = std::find_if(notes.begin(), notes.end(), [&](const PlacedNote& n) { return n.ref() == ref; });
    return at == notes.end() ? std::nullopt : std::optional(*at);
}

}  // namespace

std::optional<Line> remedy_line(const Remake& r, const Finding& f) {
    const auto place = [&](Ticks t) { return place_text(r.song->meter, t); };
    if (const auto* chord = std::get_if<remedy::SetChord>(&f.remedy)) return Line("chord.set").with("at", place(chord->at)).with("chord", chord->chord.label());
    if (const auto* level = std::get_if<remedy::ChangeLevel>(&f.remedy); level && !f.element) {
        const double now = r.mixer->master.gain_db + level->db;
        const Parameter& row = kMasterFields[0];
        return Line("field.set").with("master", "on").with("field", row.id).with("value", value_text(row, clamped(row, now)));
    }
    const PartId id = f.element ? f.element->part() : PartId();
    if (!r.part(id)) return std::nullopt;
    const std::string part = part_text(r, id);
    if (std::holds_alternative<remedy::Unmute>(f.remedy)) return Line("part.mute").with("part", part).with("on", "off");
    if (const auto* level = std::get_if<remedy::ChangeLevel>(&f.remedy)) {
        const Parameter& row = kPartFields[0];
        return Line("field.set").with("part", part).with("field", row.id).with("value", value_text(row, clamped(row, r.part(id)->gain_db + level->db)));
    }
    const auto whole = [&] {
        const auto notes = placed_notes(*r.part(id));
        Line line("note.change");
        line.with("part", part);
        if (!notes.empty()) line.with("from", place(notes.front().note.start)).with("to", place(notes.back().note.start + 1));
        return line;
    };
    if (const auto* up = std::get_if<remedy::TransposePart>(&f.remedy)) return whole().with("semitones", std::to_string(up->semitones));
    if (const auto* by = std::get_if<remedy::ShiftPart>(&f.remedy)) return whole().with("move", length_text(by->by));
    if (const auto* longer = std::get_if<remedy::LengthenPart>(&f.remedy)) {
        char times[32];
        std::snprintf(times, sizeof times, "%.2f", longer->times);
        return whole().with("times", times);
    }
    if (const auto* add = std::get_if<remedy::AddNote>(&f.remedy))
        return Line("note.add")
            .with("part", part)
            .with("at", place(add->note.start))
            .with("pitch", note_name(add->note.pitch, false))
            .with("length", length_text(add->note.length))
            .with("velocity", std::to_string(add->note.velocity));
    const auto meant = [&](const NoteRef& ref) -> std::optional<PlacedNote> { return note_of(r, id, ref); };
    if (const auto* gone = std::get_if<remedy::DeleteNote>(&f.remedy)) {
        if (const auto n = meant(gone->note)) return Line("note.remove").with("part", part).with("notes", note_text(r, *n));
    } else if (const auto* set = std::get_if<remedy::SetPitch>(&f.remedy)) {
        if (const auto n = meant(set->note))
            return Line("note.change").with("part", part).with("notes", note_text(r, *n)).with("semitones", std::to_string(set->pitch - n->note.pitch));
    } else if (const auto* move = std::get_if<remedy::MoveNote>(&f.remedy)) {
        if (const auto n = meant(move->note)) return Line("note.change").with("part", part).with("notes", note_text(r, *n)).with("move", length_text(move->by));
    }
    return std::nullopt;
}

}  // namespace fw

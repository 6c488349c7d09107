// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/selection.hpp"

#include "base/pitch.hpp"

#include <algorithm>

namespace fw::app {

Selection::Selection(DocumentStore& documents) : documents_(documents) {
    connect(&documents_, &DocumentStore::travelled, this, [this] { choose({}); });
    connect(&documents_, &DocumentStore::gesture_ended, this, [this] { nudged_from_.reset(); });
    connect(&documents_, &DocumentStore::changed, this, [this] { nudged_from_.reset(); });
}

void Selection::select_element(ElementId id) {
    if (element_ == id) return;
    element_ = id;
    select_notes({});
}

const Part* Selection::part() const { return element_.part() ? documents_.remake().part(element_.part()) : nullptr; }

bool Selection::contains(const PlacedNote& note) const { return std::binary_search(ascending_.begin(), ascending_.end(), note.ref()); }

void Selection::choose(std::vector<NoteRef> notes) {
    notes_ = std::move(notes);
    ascending_ = notes_;
    std::sort(ascending_.begin(), ascending_.end());
}

void Selection::select_notes(std::vector<NoteRef> notes) {
    choose(std::move(notes));
    documents_.end_gesture();
    emit changed();
}

void Selection::set_reach(Reach reach) {
    reach_ = reach;
    emit changed();
}

Line Selection::on_notes(const char* command, const Remake& document, PartId part) const {
    Line line(command);
    line.with("part", part_text(document, part));
    if (const Part* p = document.part(part)) line.with("notes", notes_text(document, *p, notes_));
    if (reach_ == Reach::Here) line.with("reach", reach_text(reach_));
    return line;
}

void Selection::draw_note(PartId part, const Note& n) {
    const Remake& before = documents_.remake();
    Line line("note.add");
    line.with("part", part_text(before, part))
        .with("at", place_text(before.song->meter, n.start))
        .with("pitch", note_name(n.pitch, false))
        .with("length", length_text(n.length))
        .with("velocity", std::to_string(n.velocity));
    if (reach_ == Reach::Here) line.with("reach", reach_text(reach_));
    choose({});
    if (!documents_.run(line)) return;
    std::vector<NoteRef> drawn;
    for (const PlacedNote& x : documents_.placed(*documents_.remake().part(part)))
        if (x.note.start == n.start && x.note.pitch == n.pitch) drawn = {x.ref()};
    select_notes(std::move(drawn));
}

void Selection::nudge(PartId part, Ticks ticks) {
    // Always from where the notes were before the first press, so that the presses are one step and one line.
    if (!nudged_from_) nudged_from_ = documents_.document(), nudged_ = 0;
    const auto from = nudged_from_;
    nudged_ += ticks;
    if (documents_.run(on_notes("note.change", *from, part).with("move", length_text(nudged_)), "nudge", from)) nudged_from_ = from;
}

void Selection::begin_anew(ElementId element) {
    element_ = element;
    choose({});
    nudged_from_.reset();
}

}  // namespace fw::app

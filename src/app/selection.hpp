// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/document_store.hpp"
#include "model/edits/notes.hpp"

#include <QObject>
#include <vector>

namespace fw::app {

/// What the user has chosen — an element, notes of it, how far edits of notes reach — and what is done with the chosen notes.
///
/// Lives in the window's thread.
class Selection final : public QObject {
    Q_OBJECT

public:
    explicit Selection(DocumentStore& documents);

    ElementId element() const { return element_; }
    void select_element(ElementId id);
    /// The selected part, or null where the element is no part.
    const Part* part() const;

    const std::vector<NoteRef>& notes() const { return notes_; }
    bool contains(const PlacedNote& note) const;
    /// Another choice ends a gesture.
    void select_notes(std::vector<NoteRef> notes);

    /// How far edits of notes reach.
    Reach reach() const { return reach_; }
    void set_reach(Reach reach);

    /// Begins a command on the selected notes of a part, as they are in a document, with the reach that is set.
    Line on_notes(const char* command, const Remake& document, PartId part) const;
    /// Draws a note and selects it.
    void draw_note(PartId part, const Note& note);
    /// Moves the selected notes by ticks; presses in a row are one step.
    void nudge(PartId part, Ticks ticks);

    /// Something else is open now: nothing is selected, or an element that was chosen there before.
    void begin_anew(ElementId element = {});

signals:
    void changed();

private:
    void choose(std::vector<NoteRef> notes);

    DocumentStore& documents_;
    ElementId element_;
    std::vector<NoteRef> notes_, ascending_;  ///< as they were chosen; in order, to be found in
    Reach reach_ = Reach::Everywhere;
    std::shared_ptr<const Remake> nudged_from_;  ///< before the presses that are going on
    Ticks nudged_ = 0;
};

}  // namespace fw::app

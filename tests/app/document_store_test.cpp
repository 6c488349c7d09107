// SPDX-License-Identifier: GPL-3.0-or-later
// What views ask of the open document and of what is chosen in it.
#include "fixture.hpp"

namespace fw::app {

TEST_F(WindowTest, WhatSoundsInAStretchIsFoundAmongAllNotes) {
    const DocumentStore& documents = session->documents();
    for (const auto& p : session->remake().parts) {
        const auto& all = documents.placed(*p);
        for (const auto& [from, to] : {std::pair<Ticks, Ticks>{-500, 0}, {0, 3840}, {19200, 19300}, {40000, 40000}, {-1000000, 10000000}, {9000000, 9100000}}) {
            const auto within = documents.placed_within(*p, from, to);
            std::size_t wanted = 0, found = 0;
            const auto sounds = [&](const PlacedNote& n) { return n.note.start <= to && n.note.start + n.note.length >= from; };
            for (const PlacedNote& n : all) wanted += sounds(n);
            for (const PlacedNote& n : within) {
                found += sounds(n);
                EXPECT_LE(n.note.start, to);
            }
            EXPECT_EQ(found, wanted) << p->name << " from " << from << " to " << to;
        }
        EXPECT_LT(documents.placed_within(*p, 19200, 23040).size(), all.size() / 2) << "a bar is not looked for in the whole song";
    }
    // Of another document's part, too, such as the one a drag began with.
    const auto before = documents.document();
    const Part& theirs = *before->parts.front();
    session->documents().run(Line("part.rename").with("part", theirs.name).with("name", "Other"));
    EXPECT_EQ(documents.placed_within(theirs, -1000000, 10000000).size(), documents.placed(theirs).size());
}

TEST_F(WindowTest, ChosenNotesAreKnownInWhateverOrderTheyWereChosen) {
    select(PartRole::Bass);
    const auto all = placed_notes(*part(PartRole::Bass));
    std::vector<NoteRef> chosen;
    for (std::size_t i = all.size(); i-- > 0;)
        if (i % 3 == 0) chosen.push_back(all[i].ref());
    session->selection().select_notes(chosen);
    EXPECT_EQ(session->selection().notes(), chosen) << "the first is the first that was chosen";
    for (std::size_t i = 0; i < all.size(); ++i) EXPECT_EQ(session->selection().contains(all[i]), i % 3 == 0) << i;
    session->documents().run(session->selection().on_notes("note.change", session->remake(), part(PartRole::Bass)->id).with("velocity", "3"));
    session->documents().undo();  // on the way through the history nothing stays chosen
    for (const PlacedNote& n : all) EXPECT_FALSE(session->selection().contains(n));
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "fixture.hpp"

#include "app/doubt_walk.hpp"
#include "app/survey.hpp"

#include <QApplication>

namespace fw::app {

class TranscribeTest : public WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        session->walk().end();
        session->survey().set_lens({});
        window->show_desk(Desk::Transcribe);
    }
    void TearDown() override { session->walk().end(); }

    NoteCloseUp* view() { return window->transcribe()->notes(); }
    static std::vector<PlacedNote> notes(PartRole role) { return placed_notes(*part(role)); }
    static PlacedNote note_of(PartRole role, const NoteRef& ref) {
        for (const PlacedNote& n : notes(role))
            if (n.ref() == ref) return n;
        ADD_FAILURE() << "no such note";
        return {};
    }
    void drag(QWidget* on, QPoint from, QPoint to, Qt::KeyboardModifiers held = {}) {
        QTest::qWait(QApplication::doubleClickInterval() + 50);
        QTest::mousePress(on, Qt::LeftButton, held, from);
        for (int i = 1; i <= 4; ++i) {
            QMouseEvent move(QEvent::MouseMove, QPointF(from + (to - from) * i / 4), on->mapToGlobal(QPointF(from + (to - from) * i / 4)), Qt::NoButton,
                             Qt::LeftButton, held);
            QApplication::sendEvent(on, &move);
        }
        QTest::mouseRelease(on, Qt::LeftButton, held, to);
    }
    /// Some notes in a row, from a time on.
    std::vector<NoteRef> choose(PartRole role, double from_s, std::size_t count) {
        std::vector<NoteRef> some;
        for (const PlacedNote& n : notes(role))
            if (session->remake().song->tempo.seconds(n.note.start) >= from_s && some.size() < count) some.push_back(n.ref());
        session->selection().select_notes(some);
        return some;
    }
};

}  // namespace fw::app

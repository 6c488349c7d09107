// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "fixture.hpp"

#include "app/survey.hpp"

#include <QScrollBar>

namespace fw::app {

class SurveyTest : public WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        session->selection().select_element(ElementId::tempo());
        session->survey().set_lens({});
        session->survey().set_click({});
        session->survey().hear_reading(nullptr);
        window->page()->set_phrase(0);
        window->page()->verticalScrollBar()->setValue(0);
    }
    void TearDown() override {
        session->transport().player().stop();
        session->survey().hear_reading(nullptr);
        session->survey().set_lens({});
    }
    static const Song& song() { return *session->remake().song; }
    static Ticks bar(int n) { return song().meter.tick_of_bar(n); }
    static void key(int k, Qt::KeyboardModifiers m = Qt::NoModifier) {
        // A dialog that has closed may have left the window without the keyboard.
        if (!window->isActiveWindow()) window->activateWindow(), (void)QTest::qWaitForWindowActive(window);
        QTest::keyClick(window, static_cast<Qt::Key>(k), m);
    }
    static void drag(const QPoint& from, const QPoint& to, Qt::KeyboardModifiers m = Qt::NoModifier) {
        QWidget* page = window->page()->viewport();
        QTest::mousePress(page, Qt::LeftButton, m, from);
        QTest::mouseMove(page, (from + to) / 2);
        QTest::mouseMove(page, to);
        QTest::mouseRelease(page, Qt::LeftButton, m, to);
    }
    static bool judged() {
        return QTest::qWaitFor([] { return !session->survey().readings().empty(); }, 30000);
    }
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/check_desk.hpp"
#include "app/desks.hpp"
#include "app/facts_panel.hpp"
#include "app/ledger.hpp"
#include "app/main_window.hpp"
#include "app/page_view.hpp"
#include "app/song_strip.hpp"
#include "app/theme.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <QCoreApplication>
#include <QStringList>
#include <QTest>
#include <sstream>

namespace fw::app {

/// One window for all tests: opening and hearing the demo takes seconds, so each test starts from the same opened document.
class WindowTest : public testing::Test {
protected:
    static void SetUpTestSuite() {
        if (window) return;  // suites of other names share it, too
        auto device = std::make_unique<SimulatedOutput>(44100.0);
        output = device.get();
        session = new Session(std::move(device));
        window = new MainWindow(*session);
        window->resize(1280, 800);
        window->show();
        ASSERT_TRUE(QTest::qWaitForWindowExposed(window));
        QStringList stages;
        const auto connection = QObject::connect(session, &Session::progress, [&](double, const QString& stage) { stages << stage; });
        window->open(QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
        ASSERT_TRUE(QTest::qWaitFor([] { return session->has_reference() && !session->busy(); }, 900000));
        QObject::disconnect(connection);
        EXPECT_GT(stages.removeDuplicates(), 0) << "progress was shown";
        EXPECT_EQ(window->desk(), Desk::Survey) << "it lands on the Survey desk";
        first = session->documents().document();
        ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    }

public:
    /// Called by main when all tests are over, while the application still lives.
    static void shut_down() {
        delete window;
        delete session;
        window = nullptr;
        session = nullptr;
    }

protected:
    void SetUp() override {
        ASSERT_TRUE(session->has_reference());
        while (session->documents().history().can_undo()) session->documents().undo();
        ASSERT_EQ(session->documents().document(), first) << "undo leads back to the document as it was opened";
        // Other tests had windows of their own; keys go to the active one.
        window->activateWindow();
        window->raise();
        ASSERT_TRUE(QTest::qWaitForWindowActive(window));
        session->transport().player().stop();
        session->transport().set_source(Source::Original);
        session->selection().set_reach(Reach::Everywhere);
        session->transport().set_loop(0, 0, false);
        session->set_evidence_store(EvidenceStore::of_user());
        window->show_desk(Desk::Survey);
    }
    static const Part* part(PartRole role) {
        for (const auto& p : session->remake().parts)
            if (p->role == role) return p.get();
        return nullptr;
    }
    static void select(PartRole role) { session->selection().select_element(part(role)->id); }
    static std::size_t notes_of(PartRole role) { return placed_notes(*part(role)).size(); }
    /// Waits until what follows an edit by itself has followed.
    static void settle() {
        EXPECT_TRUE(QTest::qWaitFor([] { return session->settled(); }, 60000));
    }
    /// Runs lines of a script in the window.
    static void run(const std::string& script) {
        std::istringstream lines(script);
        for (std::string text; std::getline(lines, text);)
            if (const auto line = parse_line(text); line && *line) {
                EXPECT_TRUE(session->documents().run(**line)) << text << ": " << window->last_message().toStdString();
            }
    }
    template <class Widget>
    static Widget* in_sheet(const QString& name, int which = 0) {
        QCoreApplication::processEvents();
        QTest::qWait(1);
        const auto all = window->rebuild_desk()->sheet()->widget()->findChildren<Widget*>(name);
        return which < all.size() ? all[which] : nullptr;
    }
    template <class Widget>
    static Widget* fact(const QString& name) {
        QCoreApplication::processEvents();
        EXPECT_TRUE(QTest::qWaitFor([] { return !window->facts()->pending(); }, 5000));
        return window->facts()->widget()->findChild<Widget*>(name);
    }

    static inline SimulatedOutput* output = nullptr;
    static inline Session* session = nullptr;
    static inline MainWindow* window = nullptr;
    static inline std::shared_ptr<const Remake> first;
};

}  // namespace fw::app

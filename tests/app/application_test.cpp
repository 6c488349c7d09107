// SPDX-License-Identifier: GPL-3.0-or-later
// What must not end the program, and what must.
#include "app/application.hpp"

#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <sys/wait.h>
#include <QCoreApplication>
#include <QProcess>
#include <QTest>
#include <csignal>
#include <stdexcept>

namespace fw::app {

namespace {

class Thrower final : public QObject {
public:
    bool event(QEvent* e) override {
        if (e->type() == QEvent::User) throw std::runtime_error("the roof fell in");
        return QObject::event(e);
    }
};

}  // namespace

TEST(ApplicationTest, AnExceptionThatEscapesFromAHandlerIsASentence) {
    auto* app = qobject_cast<Application*>(QCoreApplication::instance());
    ASSERT_TRUE(app);
    QString told;
    const auto connection = QObject::connect(app, &Application::failed, [&](const QString& s) { told = s; });
    Thrower thrower;
    QCoreApplication::postEvent(&thrower, new QEvent(QEvent::User));
    EXPECT_TRUE(QTest::qWaitFor([&] { return !told.isEmpty(); }, 5000));
    EXPECT_TRUE(told.contains("the roof fell in")) << told.toStdString();
    QObject::disconnect(connection);
}

TEST(ApplicationTest, ASignalEndsTheWindowInOrder) {
    for (const int signal : {SIGTERM, SIGINT, SIGHUP}) {
        QProcess program;
        program.start(FW_APP, {QString(FW_DEMO_DIR) + "/lantern-ferry.ogg"});
        ASSERT_TRUE(program.waitForStarted(20000));
        QTest::qWait(700);  // it is up, and listening to the demo
        ::kill(static_cast<pid_t>(program.processId()), signal);
        ASSERT_TRUE(program.waitForFinished(20000)) << signal;
        EXPECT_EQ(program.exitStatus(), QProcess::NormalExit) << signal;
        EXPECT_EQ(program.exitCode(), 0) << signal;
    }
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QApplication>

class QSocketNotifier;

namespace fw::app {

/// The application: an exception that escapes from a handler becomes a sentence in the window instead of the program's end, and a signal to end
/// (INT, TERM, HUP) ends it in order: what is being written is finished or taken back. One a process.
class Application final : public QApplication {
    Q_OBJECT

public:
    Application(int& argc, char** argv);
    ~Application() override;
    bool notify(QObject* receiver, QEvent* event) override;

signals:
    /// What went wrong, for the user.
    void failed(const QString& sentence);

private:
    int signal_pipe_[2] = {-1, -1};
    QSocketNotifier* notifier_ = nullptr;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/application.hpp"
#include "app/words.hpp"

#include "base/guard.hpp"

#include <fcntl.h>
#include <unistd.h>
#include <QMetaObject>
#include <QSocketNotifier>
#include <csignal>

namespace fw::app {

namespace {

volatile std::sig_atomic_t signal_fd = -1;

/// Only what a signal handler may do: the event loop, woken by the byte, does the rest.
void on_signal(int) {
    const char byte = 1;
    if (signal_fd >= 0 && ::write(signal_fd, &byte, 1) < 0) return;
}

}  // namespace

Application::Application(int& argc, char** argv) : QApplication(argc, argv) {
    if (::pipe2(signal_pipe_, O_CLOEXEC | O_NONBLOCK) != 0) return;
    signal_fd = signal_pipe_[1];
    notifier_ = new QSocketNotifier(signal_pipe_[0], QSocketNotifier::Read, this);
    connect(notifier_, &QSocketNotifier::activated, this, [] { QApplication::exit(0); });
    for (const int signal : {SIGINT, SIGTERM, SIGHUP}) std::signal(signal, on_signal);
}

Application::~Application() {
    for (const int signal : {SIGINT, SIGTERM, SIGHUP}) std::signal(signal, SIG_DFL);
    signal_fd = -1;
    for (const int fd : signal_pipe_)
        if (fd >= 0) ::close(fd);
}

bool Application::notify(QObject* receiver, QEvent* event) {
    bool handled = false;
    const Status done = guarded("the last command", [&]() -> Status {
        handled = QApplication::notify(receiver, event);
        return Done{};
    });
    // Later, not now: whoever threw may be in the middle of painting.
    if (!done)
        QMetaObject::invokeMethod(
            this, [this, s = of_core(done.error().message())] { emit failed(s); }, Qt::QueuedConnection);
    return handled;
}

}  // namespace fw::app

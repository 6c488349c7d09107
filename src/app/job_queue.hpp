// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/progress.hpp"
#include "base/result.hpp"

#include <QObject>
#include <QString>
#include <QThreadPool>
#include <functional>
#include <map>
#include <memory>
#include <string>

namespace fw::app {

/// Work off the window's thread, by name. Of each name one job runs at a time; what is asked for meanwhile waits, and of that only the latest: so a burst of
/// edits costs two runs, and the window waits for none. What a job throws or returns as an error is told by failed().
///
/// Lives in the window's thread, and so do all functions and what is delivered; work runs in threads of its own and must hold all it needs.
class JobQueue final : public QObject {
    Q_OBJECT

public:
    /// What work leaves to be done in the window's thread.
    using Delivery = std::function<void()>;
    /// Runs in another thread; stops at its next checkpoint when told to.
    using Work = std::function<Result<Delivery>(const Progress&)>;
    /// Called in the window's thread just before the work begins, so that it starts from what is there then.
    using Maker = std::function<Work()>;

    /// Patient work begins a moment later and goes behind the window and whatever else is prompt: it takes all cores for a while and nobody waits for it.
    enum class Pace { Prompt, Patient };

    explicit JobQueue(QObject* parent = nullptr);
    ~JobQueue() override;

    /// what: for messages, "opening song.wav".
    void run(const std::string& name, const QString& what, Maker make, Progress::Callback progress = {}, Pace pace = Pace::Prompt);
    /// Tells what runs to stop and forgets what waits.
    void cancel(const std::string& name);
    bool busy(const std::string& name) const;

signals:
    void failed(const QString& sentence);
    /// A job is over: done, failed or stopped.
    void finished(const QString& name);

private:
    struct Asked {
        QString what;
        Maker make;
        Progress::Callback progress;
        Pace pace;
    };
    struct Lane {
        std::shared_ptr<Progress> running;  ///< null where nothing runs
        std::unique_ptr<Asked> waiting;
    };
    void start(const std::string& name, Asked asked);
    void start_waiting(const std::string& name);
    void end(const std::string& name, const Result<Delivery>& result);

    std::map<std::string, Lane> lanes_;
    QThreadPool threads_;
};

}  // namespace fw::app

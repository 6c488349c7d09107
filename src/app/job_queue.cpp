// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/job_queue.hpp"
#include "app/words.hpp"

#include "base/guard.hpp"

#include <sys/resource.h>
#include <unistd.h>
#include <QMetaObject>
#include <QTimer>
#include <chrono>
#include <thread>
#include <utility>

namespace fw::app {

namespace {

constexpr std::chrono::milliseconds kBreath{25};

/// Lets other threads go first. A nicety: where it is refused all goes on as before.
void step_back() {
    constexpr int kBehind = 10;
    (void)::setpriority(PRIO_PROCESS, static_cast<id_t>(::gettid()), kBehind);
}

}  // namespace

JobQueue::JobQueue(QObject* parent) : QObject(parent) {
    // Long work must not keep short work from beginning: as many threads as there are names in use.
    threads_.setMaxThreadCount(8);
}

JobQueue::~JobQueue() {
    for (auto& [name, lane] : lanes_) {
        lane.waiting.reset();
        if (lane.running) lane.running->cancel();
    }
    threads_.waitForDone();
}

bool JobQueue::busy(const std::string& name) const {
    const auto lane = lanes_.find(name);
    return lane != lanes_.end() && (lane->second.running || lane->second.waiting);
}

void JobQueue::run(const std::string& name, const QString& what, Maker make, Progress::Callback progress, Pace pace) {
    Asked asked{what, std::move(make), std::move(progress), pace};
    Lane& lane = lanes_[name];
    if (!lane.running && pace == Pace::Prompt) return start(name, std::move(asked));
    lane.waiting = std::make_unique<Asked>(std::move(asked));
    // What was done is drawn before patient work takes the cores; while one runs, its end starts the next.
    if (!lane.running) QTimer::singleShot(kBreath, this, [this, name] { start_waiting(name); });
}

void JobQueue::start_waiting(const std::string& name) {
    Lane& lane = lanes_[name];
    if (lane.running) return;
    if (auto next = std::move(lane.waiting)) start(name, std::move(*next));
}

void JobQueue::cancel(const std::string& name) {
    Lane& lane = lanes_[name];
    lane.waiting.reset();
    if (lane.running) lane.running->cancel();
}

void JobQueue::start(const std::string& name, Asked asked) {
    Lane& lane = lanes_[name];
    lane.running = std::make_shared<Progress>(std::move(asked.progress));
    threads_.start([this, name, pace = asked.pace, what = asked.what.toStdString(), work = asked.make(), progress = lane.running] {
        auto result = std::make_shared<Result<Delivery>>(Error{ErrorCode::Cancelled, {}, {}});
        const auto run = [&] { *result = guarded(what, [&] { return work(*progress); }); };
        if (pace == Pace::Patient) {
            // In a thread of its own, for a thread that has stepped back cannot step forward again; those it makes step back with it.
            std::thread patient([&] {
                step_back();
                run();
            });
            patient.join();
        } else {
            run();
        }
        QMetaObject::invokeMethod(
            this, [this, name, result] { end(name, *result); }, Qt::QueuedConnection);
    });
}

void JobQueue::end(const std::string& name, const Result<Delivery>& result) {
    lanes_[name].running.reset();
    // What is delivered comes before what starts from it.
    if (result && *result) (*result)();
    if (!result && result.error().code != ErrorCode::Cancelled) emit failed(of_core(result.error().message()));
    start_waiting(name);
    emit finished(QString::fromStdString(name));
}

}  // namespace fw::app

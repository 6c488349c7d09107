// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <functional>
#include <string_view>

namespace fw {

/// Thrown inside long work when the user asked for it to stop, and caught where the work was started:
/// no Cancelled leaves a public function of the core (they return ErrorCode::Cancelled instead).
struct Cancelled {};

/// Tells how far long work has come and carries the wish to stop it.
///
/// report() and checkpoint() may be called from any thread; the callback runs in the caller's thread.
/// Work calls checkpoint() often enough that a cancel takes effect within 0.2 s.
class Progress {
public:
    using Callback = std::function<void(double fraction, std::string_view stage)>;

    Progress() = default;
    explicit Progress(Callback callback) : callback_(std::move(callback)) {}
    /// A part of larger work: stops when the whole is told to. The whole must outlive it.
    Progress(Callback callback, const Progress* whole) : callback_(std::move(callback)), whole_(whole) {}

    void cancel() noexcept { cancelled_.store(true, std::memory_order_relaxed); }
    bool cancelled() const noexcept { return cancelled_.load(std::memory_order_relaxed) || (whole_ && whole_->cancelled()); }

    /// Throws Cancelled if the user asked for it.
    void checkpoint() const {
        if (cancelled()) throw Cancelled{};
    }

    /// fraction: 0..1 of the whole work; stage: what is being done, in the user's words.
    void report(double fraction, std::string_view stage) const {
        checkpoint();
        if (callback_) callback_(fraction, stage);
    }

    /// The stretch of this work from one fraction to another, told as a whole of its own. This must outlive it.
    Progress stretch(double from, double to) const {
        return Progress([this, from, to](double f, std::string_view what) { report(from + (to - from) * f, what); }, this);
    }

private:
    Callback callback_;
    const Progress* whole_ = nullptr;
    std::atomic<bool> cancelled_{false};
};

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <cstddef>
#include <cstdint>
#include <thread>
#include <vector>

namespace fw {

/// Threads that stand by to do many short rounds of work side by side: what takes microseconds and comes again at once, where parallel_for would spend its
/// time on making threads. Between rounds they watch for some 50 µs and then sleep.
///
/// run() neither allocates nor locks; it waits for a helper that is within a job. One thread at a time calls it.
class Crew {
public:
    /// helpers besides the caller; 0: the caller does all.
    explicit Crew(std::size_t helpers);
    ~Crew();
    Crew(const Crew&) = delete;
    Crew& operator=(const Crew&) = delete;
    /// As many helpers as there are further cores.
    static std::size_t further_cores() noexcept;

    /// Runs job(0) … job(count-1), the caller with the rest, and returns when all are done. Jobs must not throw nor depend on their order.
    template <class Job>
    void run(std::size_t count, const Job& job) noexcept {
        run(
            count, [](const void* context, std::size_t i) { (*static_cast<const Job*>(context))(i); }, &job);
    }

private:
    void run(std::size_t count, void (*job)(const void*, std::size_t), const void* context) noexcept;
    void work() noexcept;
    void stand_by() noexcept;

    // Of the round that is open; written by run() while none is.
    void (*job_)(const void*, std::size_t) = nullptr;
    const void* context_ = nullptr;
    std::size_t count_ = 0;
    std::atomic<std::size_t> next_{0};
    std::atomic<std::uint32_t> round_{0};  ///< odd while a round is open
    std::atomic<std::size_t> inside_{0};   ///< helpers that may be within a job
    std::atomic<bool> leave_{false};
    std::vector<std::jthread> helpers_;
};

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/crew.hpp"

#include <algorithm>
#include <chrono>

namespace fw {

namespace {

void breathe() noexcept {
#if defined(__x86_64__)
    __builtin_ia32_pause();
#endif
}

}  // namespace

std::size_t Crew::further_cores() noexcept { return std::max(1U, std::thread::hardware_concurrency()) - 1; }

Crew::Crew(std::size_t helpers) {
    for (std::size_t i = 0; i < helpers; ++i) helpers_.emplace_back([this] { stand_by(); });
}

Crew::~Crew() {
    leave_ = true;
    round_ += 2;
    round_.notify_all();
}

void Crew::work() noexcept {
    for (std::size_t i; (i = next_.fetch_add(1)) < count_;) job_(context_, i);
}

void Crew::run(std::size_t count, void (*job)(const void*, std::size_t), const void* context) noexcept {
    if (helpers_.empty() || count < 2) {
        for (std::size_t i = 0; i < count; ++i) job(context, i);
        return;
    }
    job_ = job, context_ = context, count_ = count;
    next_ = 0;
    ++round_;
    round_.notify_all();
    work();
    // A helper says that it is inside before it looks whether the round is open: once it is closed and nobody is inside, all is done.
    ++round_;
    while (inside_ > 0) breathe();
}

void Crew::stand_by() noexcept {
    std::uint32_t done = 0;
    while (!leave_) {
        std::uint32_t round = round_;
        const auto since = std::chrono::steady_clock::now();
        for (int i = 1; (round == done || round % 2 == 0) && !leave_; round = round_, ++i) {
            breathe();
            // At a look at the clock now and then, not at each: it costs more than what it is to save.
            if (i % 64 == 0 && std::chrono::steady_clock::now() - since > std::chrono::microseconds(50)) round_.wait(round);
        }
        ++inside_;
        if (round_ == round && !leave_) work();
        --inside_;
        done = round;
    }
}

}  // namespace fw

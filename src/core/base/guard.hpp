// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/progress.hpp"
#include "base/result.hpp"

#include <exception>
#include <new>
#include <string>
#include <type_traits>
#include <utility>

namespace fw {

/// What work throws from deep within to end with an error of its own.
class Failed : public std::exception {
public:
    explicit Failed(Error error) : error_(std::move(error)), sentence_(error_.message()) {}
    const Error& error() const noexcept { return error_; }
    const char* what() const noexcept override { return sentence_.c_str(); }

private:
    Error error_;
    std::string sentence_;
};

/// Runs work and turns what it throws into an error value: its own (Failed), Cancelled, OutOfMemory, or Unexpected with the exception's own words. Every thread
/// and every `main` does its work in here, so that no exception ends the program. what: the work in the user's words, "the analysis of a.wav".
template <class Work>
auto guarded(const std::string& what, Work&& work) -> std::invoke_result_t<Work> {
    try {
        return std::forward<Work>(work)();
    } catch (const Cancelled&) {
        return Error{ErrorCode::Cancelled, what, {}};
    } catch (const Failed& failed) {
        return failed.error();
    } catch (const std::bad_alloc&) {
        return Error{ErrorCode::OutOfMemory, what, {}};
    } catch (const std::exception& e) {
        return Error{ErrorCode::Unexpected, what, e.what()};
    } catch (...) {
        return Error{ErrorCode::Unexpected, what, "no reason was given"};
    }
}

}  // namespace fw

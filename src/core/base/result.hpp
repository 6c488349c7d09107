// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <utility>
#include <variant>

namespace fw {

/// Everything that can go wrong with what a user hands us. A programmer's mistake is an assert, never one of these.
enum class ErrorCode {
    FileMissing,
    FileUnreadable,
    NotAFile,
    FileTooLarge,
    NotAudio,
    AudioEmpty,
    AudioTooShort,
    AudioSilent,
    AudioDamaged,
    AudioNotFinite,
    AudioManyChannels,
    AudioLowRate,
    AudioHighRate,
    AudioChanges,
    AudioTooManyChannels,
    AudioRateOutOfRange,
    AudioTooLong,
    FolderUnwritable,
    FileUnwritable,
    DiskFull,
    OverwritesInput,
    EndingUnknown,
    RemakeDamaged,
    RemakeUnusable,
    RemakeFromFuture,
    ReferenceGone,
    ReferenceChanged,
    MidiDamaged,
    BeatsUnusable,
    GrooveUnusable,
    MidiEmpty,
    MidiUnusable,
    MidiElsewhere,
    SoundFontUnusable,
    SampleTooLong,
    PlugInMissing,
    PlugInUnusable,
    PlugInFailed,
    SoundUnusable,
    IndexUnusable,
    DeviceUnusable,
    NoMidiInput,
    CommandRefused,
    WrongUsage,
    Cancelled,
    OutOfMemory,
    Unexpected,
    Count_  // number of codes; keep last
};

/// The sentence for a code, with %s where the subject (a file, a folder, a device) goes, and in some %d where the detail goes. Total: every
/// code has one.
const char* sentence_for(ErrorCode code);

/// Bad input, told in one sentence: what is wrong with what, and what to do.
struct Error {
    ErrorCode code{};
    std::string subject;  ///< the file, folder or device concerned
    std::string detail;   ///< why, in the user's words where the code's sentence has a place for it, else what the library below said; may be empty

    /// One sentence for the user, naming the subject.
    std::string message() const;
};

/// A value or the reason there is none. Small stand-in for std::expected, which C++20 lacks.
template <class T>
class [[nodiscard]] Result {
public:
    Result(T value) : state_(std::in_place_index<0>, std::move(value)) {}
    Result(Error error) : state_(std::in_place_index<1>, std::move(error)) {}

    bool ok() const noexcept { return state_.index() == 0; }
    explicit operator bool() const noexcept { return ok(); }
    T& value() & { return std::get<0>(state_); }
    const T& value() const& { return std::get<0>(state_); }
    T&& value() && { return std::get<0>(std::move(state_)); }
    const Error& error() const { return std::get<1>(state_); }
    T& operator*() & { return value(); }
    const T& operator*() const& { return value(); }
    T* operator->() { return &value(); }
    const T* operator->() const { return &value(); }

private:
    std::variant<T, Error> state_;
};

struct Done {};
using Status = Result<Done>;

}  // namespace fw

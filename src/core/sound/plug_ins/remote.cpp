// SPDX-License-Identifier: GPL-3.0-or-later
// A plug-in that runs in a process of its own, seen from here.
#include "sound/plug_ins/plug_ins.hpp"
#include "sound/plug_ins/wire.hpp"

#include <fcntl.h>
#include <signal.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/wait.h>
#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <new>

namespace fw {

namespace {

using Clock = std::chrono::steady_clock;
constexpr std::chrono::seconds kStartMost{10}, kAnswerMost{2};

/// reset() is what the plug-in makes of being switched off and on. Each stretch is a round: what is asked is done by the other process while this one waits.
/// Once it has died, or has not answered for two seconds, it is left out: an effect passes on what it hears, an instrument is silent, and failed() says so.
/// Waiting is not what real-time code does; it is what a plug-in that may crash costs.
class RemotePlugIn final : public Processor {
public:
    RemotePlugIn(const PlugIn& plug_in, bool effect, double rate, const std::string& state, const std::string& file)
        : effect_(effect), rate_(rate), fields_(plug_in.fields.size()) {
        start(plug_in.uri, state, file);
        for (std::size_t i = 0; wire_ && i < std::min(fields_, PlugInWire::kMostFields); ++i) wire_->fields[i] = static_cast<float>(plug_in.fields[i].neutral);
    }
    ~RemotePlugIn() override {
        if (!failed_) ask(PlugInWire::Task::Leave);
        end();
        if (wire_) ::munmap(wire_, sizeof(PlugInWire));
    }
    bool runs() const noexcept { return wire_ && !failed_; }

    void reset() noexcept override {
        held_ = 0, quiet_for_ = 0, waiting_ = 0;
        ask(PlugInWire::Task::Reset);
    }
    bool failed() const noexcept override { return failed_; }
    std::size_t latency() const noexcept override { return latency_; }
    double tail_s() const noexcept override { return 10.0; }
    bool idle() const noexcept override { return failed_ || (waiting_ == 0 && held_ == 0 && quiet_for_ > static_cast<std::size_t>(2.0 * rate_)); }
    void set(std::size_t field, double value) noexcept override {
        if (std::isfinite(value) && field < std::min(fields_, PlugInWire::kMostFields)) wire_->fields[field] = static_cast<float>(value);
    }
    bool wants_time() const noexcept override { return !failed_ && wire_->wants_time != 0; }
    void tell_time(const MusicalTime& t) noexcept override {
        wire_->bpm = t.bpm, wire_->frame = t.frame, wire_->bar = t.bar, wire_->bar_beat = t.bar_beat;
        wire_->beats_per_bar = t.beats_per_bar, wire_->beat_unit = t.beat_unit;
    }
    void note_on(VoiceId id, int key, int velocity) noexcept override {
        bend_to(0.0);
        send(0x90, key, velocity);
        holder_[static_cast<std::size_t>(key)] = id;
        if (!is_held_[static_cast<std::size_t>(key)]) is_held_[static_cast<std::size_t>(key)] = true, ++held_;
        quiet_for_ = 0;
    }
    void note_off(VoiceId id) noexcept override {
        for (std::size_t key = 0; key < holder_.size(); ++key)
            if (is_held_[key] && holder_[key] == id) send(0x80, static_cast<int>(key), 64), is_held_[key] = false, --held_;
    }
    void bend(VoiceId, double cents) noexcept override { bend_to(cents); }

    void process(Stereo io, Stereo) noexcept override {
        for (const auto side : {io.left, io.right})
            for (float& s : side)
                if (!std::isfinite(s)) s = 0.0F;
        if (failed_) return;
        wire_->frames = static_cast<std::uint32_t>(io.size());
        wire_->event_count = waiting_;
        waiting_ = 0;
        if (effect_) {
            std::copy(io.left.begin(), io.left.end(), wire_->left);
            std::copy(io.right.begin(), io.right.end(), wire_->right);
        } else {
            std::fill_n(wire_->left, kSlice, 0.0F), std::fill_n(wire_->right, kSlice, 0.0F);
        }
        if (!ask(PlugInWire::Task::Run)) return;
        wire_->bpm = 0.0;  // told once a slice
        float loudest = 0.0F;
        for (std::size_t i = 0; i < io.size(); ++i) {
            const float left = std::isfinite(wire_->left[i]) ? wire_->left[i] : 0.0F, right = std::isfinite(wire_->right[i]) ? wire_->right[i] : 0.0F;
            loudest = std::max({loudest, std::abs(left), std::abs(right)});
            io.left[i] = effect_ ? left : io.left[i] + left;
            io.right[i] = effect_ ? right : io.right[i] + right;
        }
        quiet_for_ = loudest > 1e-5F ? 0 : quiet_for_ + io.size();
    }

private:
    void start(const std::string& uri, const std::string& state, const std::string& file) {
        const int memory = ::memfd_create("plug-in", MFD_CLOEXEC);
        if (memory < 0) return;
        void* seen = MAP_FAILED;
        if (::ftruncate(memory, sizeof(PlugInWire)) == 0) seen = ::mmap(nullptr, sizeof(PlugInWire), PROT_READ | PROT_WRITE, MAP_SHARED, memory, 0);
        if (seen != MAP_FAILED) {
            wire_ = new (seen) PlugInWire;
            const std::string host = plug_in_host(), rate = std::to_string(static_cast<long>(std::lround(rate_))), own = std::to_string(::getpid());
            const int held = state.empty() ? -1 : in_memory(state);
            std::array<char*, 8> arguments{const_cast<char*>(host.c_str()),
                                           const_cast<char*>("run"),
                                           const_cast<char*>(uri.c_str()),
                                           const_cast<char*>(rate.c_str()),
                                           const_cast<char*>(own.c_str()),
                                           const_cast<char*>(held >= 0 ? "state" : "-"),
                                           const_cast<char*>(file.empty() ? "-" : file.c_str()),
                                           nullptr};
            posix_spawn_file_actions_t actions;
            ::posix_spawn_file_actions_init(&actions);
            ::posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
            ::posix_spawn_file_actions_addopen(&actions, 2, "/dev/null", O_WRONLY, 0);
            // A descriptor copied onto itself would stay closed in the other program.
            constexpr int kBehind = std::max(PlugInWire::kDescriptor, PlugInWire::kStateDescriptor) + 1;
            const auto away = [](int descriptor) {
                return descriptor >= 0 && descriptor < kBehind ? ::fcntl(descriptor, F_DUPFD_CLOEXEC, kBehind) : descriptor;
            };
            const int moved = away(memory), moved_state = away(held);
            ::posix_spawn_file_actions_adddup2(&actions, moved, PlugInWire::kDescriptor);
            if (moved_state >= 0) ::posix_spawn_file_actions_adddup2(&actions, moved_state, PlugInWire::kStateDescriptor);
            if (::posix_spawn(&child_, host.c_str(), &actions, nullptr, arguments.data(), environ) != 0) child_ = 0;
            ::posix_spawn_file_actions_destroy(&actions);
            if (moved != memory) ::close(moved);
            if (moved_state != held) ::close(moved_state);
            if (held >= 0) ::close(held);
        }
        ::close(memory);
        failed_ = child_ <= 0 || !ready();
        if (!failed_) latency_ = wire_->latency;
    }

    /// Text in memory that another process can be handed; -1 where there is none.
    static int in_memory(const std::string& text) {
        const int memory = ::memfd_create("state", MFD_CLOEXEC);
        if (memory < 0) return -1;
        std::size_t done = 0;
        while (done < text.size()) {
            const ssize_t some = ::write(memory, text.data() + done, text.size() - done);
            if (some <= 0) break;
            done += static_cast<std::size_t>(some);
        }
        if (done == text.size()) return memory;
        ::close(memory);
        return -1;
    }

    bool ready() {
        for (const auto until = Clock::now() + kStartMost; Clock::now() < until; ::usleep(500)) {
            if (const auto state = wire_->state.load(); state != PlugInWire::State::Starting) return state == PlugInWire::State::Ready;
            if (gone()) return false;
        }
        return false;
    }
    /// Whether the other process is no more.
    bool gone() noexcept {
        if (child_ > 0 && ::waitpid(child_, nullptr, WNOHANG) != 0) child_ = 0;
        return child_ <= 0;
    }

    /// Ends the other process, if there is one still: by its own number, never by 0, which would mean all that were started together.
    void end() noexcept {
        if (child_ <= 0) return;
        ::kill(child_, SIGKILL);
        ::waitpid(child_, nullptr, 0);
        child_ = 0;
    }

    /// A round; false where there is no answer.
    bool ask(PlugInWire::Task task) noexcept {
        if (failed_ || !wire_) return false;
        wire_->task = task;
        const std::uint32_t round = wire_->asked.fetch_add(1) + 1;
        wake(wire_->asked);
        const auto answered = [&] { return wire_->answered.load(std::memory_order_acquire) == round; };
        for (int i = 0; i < 4000; ++i) {  // some 20 microseconds: most answers come sooner than sleeping takes
            if (answered()) return true;
            breathe();
        }
        for (const auto until = Clock::now() + kAnswerMost; Clock::now() < until;) {
            sleep_while(wire_->answered, round - 1, 5);
            if (answered()) return true;
            if (!gone()) continue;
            if (answered()) return true;  // it answered and left
            break;
        }
        failed_ = true;
        end();
        return false;
    }
    static void breathe() noexcept {
#if defined(__x86_64__)
        __builtin_ia32_pause();
#endif
    }

    void send(int status, int first, int second) noexcept {
        if (failed_ || waiting_ == PlugInWire::kMostEvents) return;
        wire_->events[waiting_++] = {
            {static_cast<std::uint8_t>(status), static_cast<std::uint8_t>(first & 127), static_cast<std::uint8_t>(std::clamp(second, 0, 127))}};
    }
    /// The wheel at two semitones to either side, as instruments stand unless told otherwise.
    void bend_to(double cents) noexcept {
        const int wheel = std::clamp(static_cast<int>(std::lround(8192.0 + cents / 200.0 * 8192.0)), 0, 16383);
        if (wheel == wheel_) return;
        wheel_ = wheel;
        send(0xE0, wheel & 127, wheel >> 7);
    }

    bool effect_;
    double rate_;
    std::size_t fields_, latency_ = 0, quiet_for_ = 0;
    std::uint32_t waiting_ = 0;  ///< events that go with the next round
    int held_ = 0, wheel_ = 8192;
    PlugInWire* wire_ = nullptr;
    pid_t child_ = 0;
    std::atomic<bool> failed_{false};
    std::array<VoiceId, 128> holder_{};
    std::array<bool, 128> is_held_{};
};

}  // namespace

Result<std::unique_ptr<Processor>> start_plug_in(const PlugIn& plug_in, bool effect, double sample_rate_hz, const std::string& state, const std::string& file) {
    if (!plug_in.here) return Error{ErrorCode::PlugInMissing, plug_in.uri, {}};
    std::error_code ec;
    if (!file.empty() && !std::filesystem::exists(file, ec)) return Error{ErrorCode::FileMissing, file, {}};
    auto remote = std::make_unique<RemotePlugIn>(plug_in, effect, sample_rate_hz, state, file);
    if (!remote->runs()) return Error{ErrorCode::PlugInUnusable, plug_in.name, {}};
    return std::unique_ptr<Processor>(std::move(remote));
}

}  // namespace fw

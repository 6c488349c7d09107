// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/play_in.hpp"

#include "app/session.hpp"
#include "model/groove.hpp"

#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

constexpr double kWheelCents = 200.0;  // a wheel's way to either side, as keyboards have it from the start
constexpr double kJump_s = 0.08;       // what moves farther from one asking to the next has jumped

double seconds_between(Moment from, Moment to) { return std::chrono::duration<double>(to - from).count(); }

}  // namespace

PlayIn::PlayIn(Session& session) : session_(session) {
    timer_.setInterval(3);
    timer_.setTimerType(Qt::PreciseTimer);
    connect(&timer_, &QTimer::timeout, this, &PlayIn::poll);
    connect(&session_, &Session::opened, this, [this] { takes_.clear(), taken_.reset(), events_.clear(), recording_ = false, emit changed(); });
}

PlayIn::~PlayIn() = default;

void PlayIn::listen(std::unique_ptr<MidiInput> keyboard) {
    keyboard_ = std::move(keyboard);
    listening_ = true;
    clock_at_ = std::chrono::steady_clock::now();
    clock_s_ = last_position_s_ = session_.transport().position_s();
    timer_.start();
    emit changed();
}

void PlayIn::stop_listening() {
    if (recording_) record(false);
    listening_ = false;
    keyboard_.reset();
    timer_.stop();
    emit changed();
}

double PlayIn::heard_at(Moment at) const {
    const Player& player = session_.transport().player();
    const double speed = player.playing() ? player.speed() : 0.0;
    return clock_s_ + seconds_between(clock_at_, at) * speed - latency_ms_ / 1000.0 * player.speed();
}

void PlayIn::poll() {
    const Moment now = std::chrono::steady_clock::now();
    const Player& player = session_.transport().player();
    const double position = session_.transport().position_s(), speed = player.playing() ? player.speed() : 0.0;
    const double expected = clock_s_ + seconds_between(clock_at_, now) * speed;
    if (recording_ && position < last_position_s_ - kJump_s) {
        // Round the loop: what was played up to here is a take.
        for (const MidiMessage& m : keyboard_ ? keyboard_->take() : std::vector<MidiMessage>()) handle(m);
        end_pass(std::max(session_.transport().loop_end(), last_position_s_));
    }
    clock_at_ = now;
    clock_s_ = std::abs(position - expected) > kJump_s || speed == 0.0 ? position : expected + 0.05 * (position - expected);
    last_position_s_ = position;
    if (keyboard_)
        for (const MidiMessage& m : keyboard_->take()) handle(m);
    if (recording_ && !player.playing()) record(false);
}

void PlayIn::key(int pitch, bool down) {
    handle({std::chrono::steady_clock::now(), static_cast<std::uint8_t>(down ? 0x90 : 0x80), static_cast<std::uint8_t>(std::clamp(pitch, 0, 127)),
            static_cast<std::uint8_t>(down ? 96 : 0)});
}

void PlayIn::handle(const MidiMessage& m) {
    const Part* part = session_.selection().part();
    if (!part) return;
    if (m.note_on()) session_.transport().player().audition(part->id, m.first, m.second);
    if (step_entry_ && !recording_ && (m.note_on() || m.note_off())) return enter_step(m.first, m.second, m.note_on());
    if (!recording_) return;
    KeyEvent e;
    e.time_s = heard_at(m.at);
    if (m.bend()) {
        e.kind = KeyEvent::Kind::Bend;
        e.cents = ((m.second << 7 | m.first) - 8192) / 8192.0 * kWheelCents;
    } else if (m.note_on() || m.note_off()) {
        e.kind = m.note_on() ? KeyEvent::Kind::Down : KeyEvent::Kind::Up;
        e.pitch = m.first;
        e.velocity = m.second;
    } else {
        return;
    }
    events_.push_back(e);
}

void PlayIn::record(bool on) {
    if (on == recording_) return;
    const Part* part = session_.selection().part();
    if (on) {
        if (!part || !listening_) {
            emit session_.told(part ? tr("Choose what you play on first.") : tr("Choose a part in the ledger first: what is played goes into it."));
            return;
        }
        recording_ = true;
        events_.clear();
        takes_.clear();
        taken_.reset();
        part_ = part->id;
        from_ = session_.documents().document();
        if (!session_.transport().player().playing()) session_.toggle_play();
        last_position_s_ = clock_s_ = session_.transport().position_s();
        clock_at_ = std::chrono::steady_clock::now();
    } else {
        recording_ = false;
        end_pass(heard_at(std::chrono::steady_clock::now()));
        if (session_.transport().player().playing()) session_.transport().toggle_play();
        if (!takes_.empty()) take(takes_.size() - 1);
        else emit session_.told(tr("Nothing was played."));
    }
    emit changed();
}

void PlayIn::end_pass(double at_s) {
    std::stable_sort(events_.begin(), events_.end(), [](const KeyEvent& a, const KeyEvent& b) { return a.time_s < b.time_s; });
    auto notes = notes_played(events_, session_.remake().song->tempo, at_s);
    events_.clear();
    if (notes.empty()) return;
    takes_.push_back({std::move(notes)});
    emit changed();
}

void PlayIn::add_take(std::vector<Note> notes) {
    const Part* part = session_.selection().part();
    if (!part || notes.empty()) return;
    if (!taken_ || part_ != part->id) {
        takes_.clear();
        part_ = part->id;
        from_ = session_.documents().document();
    }
    takes_.push_back({std::move(notes)});
    take(takes_.size() - 1);
}

void PlayIn::take(std::size_t index) {
    if (index >= takes_.size() || !from_) return;
    // Nothing that was done since the last take is taken back by another one.
    if (const auto now = session_.documents().document(); now != from_ && now != with_) {
        from_ = now;
        session_.documents().end_gesture();
        if (taken_) emit session_.told(tr("The remake was edited since: this take is written beside the one before."));
    }
    if (!from_->part(part_)) return;
    const MeterMap& meter = from_->song->meter;
    const Ticks start = takes_[index].notes.front().start;
    const Ticks bar = meter.tick_of_bar(meter.position(start).bar);
    Line line("note.write");
    line.with("part", part_text(*from_, part_))
        .with("at", place_text(meter, bar))
        .with("origin", "played")
        .with("notes", written_text(takes_[index].notes, bar));
    if (session_.selection().reach() == Reach::Here) line.with("reach", "here");
    // Always from what was there before the first take, so that another take replaces it.
    if (session_.documents().run(line, "take", from_)) taken_ = index, with_ = session_.documents().document();
    emit changed();
}

void PlayIn::enter_step(int pitch, int velocity, bool down) {
    const Part* part = session_.selection().part();
    if (!part || step_ <= 0) return;
    if (!down) {
        if (--held_ > 0) return;
        held_ = 0;
        // All keys are up: on to the next step.
        const Song& song = *session_.remake().song;
        const Ticks here = song.tempo.nearest_tick(session_.transport().position_s());
        session_.transport().seek(song.tempo.seconds(nearest_on({step_}, song.meter, here).at + step_));
        return;
    }
    ++held_;
    const Song& song = *session_.remake().song;
    Note n;
    n.start = nearest_on({step_}, song.meter, song.tempo.nearest_tick(session_.transport().position_s())).at;
    n.length = step_;
    n.pitch = pitch;
    n.velocity = std::clamp(velocity, 1, 127);
    session_.selection().draw_note(part->id, n);
}

}  // namespace fw::app

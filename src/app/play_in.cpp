// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/play_in.hpp"

#include "app/session.hpp"
#include "check/check.hpp"
#include "commands/call.hpp"
#include "model/edits/phrasing.hpp"
#include "model/fields.hpp"
#include "model/groove.hpp"

#include <algorithm>
#include <cmath>
#include <set>

namespace fw::app {

namespace {

constexpr double kWheelCents = 200.0;                  // a wheel's way to either side, as keyboards have it from the start
constexpr std::uint8_t kVolume = 7, kExpression = 11;  // controllers of General MIDI that a fader sends
constexpr double kJump_s = 0.08;                       // what moves farther from one asking to the next has jumped

double seconds_between(Moment from, Moment to) { return std::chrono::duration<double>(to - from).count(); }

}  // namespace

PlayIn::PlayIn(Session& session) : session_(session), tried_(session.documents()) {
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
    } else if (m.control() && (m.first == kVolume || m.first == kExpression)) {
        fader_.emplace_back(e.time_s, m.second);
        return;
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
        fader_.clear();
        takes_.clear();
        taken_.reset();
        part_ = part->id;
        tried_.begin();
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
    const auto fader = std::exchange(fader_, {});
    if (notes.empty()) return;
    Take take{std::move(notes)};
    // Full is the level the part has; below it by the square, as General MIDI has it.
    std::vector<BendPoint> moved;
    for (const auto& [time_s, value] : fader) {
        const Ticks tick = session_.remake().song->tempo.nearest_tick(time_s);
        const double db = std::max(-60.0, 40.0 * std::log10(std::max(1, value) / 127.0));
        if (!moved.empty() && moved.back().tick >= tick) moved.back().cents = db;
        else moved.push_back({tick, db});
    }
    constexpr double kWithin_db = 0.5;
    for (const BendPoint& b : thinned(moved, kWithin_db)) take.level.push_back({b.tick, b.cents});
    takes_.push_back(std::move(take));
    judge(takes_.size() - 1);
    emit changed();
}

void PlayIn::judge(std::size_t index) {
    const auto analysis = session_.recording().analysis;
    if (!analysis || session_.provisional() || !tried_.begun() || !tried_.from()->part(part_)) return;
    const auto line = line_of(index);
    jobs_.run(
        "take " + std::to_string(index), tr("listening to take %1").arg(index + 1),
        [this, index, analysis, from = tried_.from(), part = part_, line]() -> JobQueue::Work {
            return [this, index, analysis, from, part, line](const Progress&) -> Result<JobQueue::Delivery> {
                const auto with = run_command(*from, line);
                if (!with) return with.error();
                const auto report = check(with->remake, *analysis);
                double sum = 0.0;
                int count = 0;
                std::set<NoteRef> before;
                for (const PlacedNote& n : placed_notes(*from->part(part))) before.insert(n.ref());
                for (const PlacedNote& n : placed_notes(*with->remake.part(part)))
                    if (const auto right = before.contains(n.ref()) ? std::nullopt : report.right(part, n.ref())) sum += *right, ++count;
                return JobQueue::Delivery([this, index, from, sum, count] {
                    if (from != tried_.from() || index >= takes_.size() || count == 0) return;
                    takes_[index].right = sum / count;
                    emit changed();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

Line PlayIn::line_of(std::size_t take) const {
    const MeterMap& meter = tried_.from()->song->meter;
    const Ticks bar = meter.tick_of_bar(meter.position(takes_[take].notes.front().start).bar);
    Line line("note.write");
    line.with("part", part_text(*tried_.from(), part_))
        .with("at", place_text(meter, bar))
        .with("origin", "played")
        .with("notes", written_text(takes_[take].notes, bar));
    return line;
}

/// The fader's way, on top of what the level's curve was elsewhere.
void PlayIn::write_level(const Take& take) {
    if (take.level.empty()) return;
    const Remake& r = session_.remake();
    const Part* part = r.part(part_);
    const FieldRef field{part_, kPartFields.front().id};
    const Parameter* row = find_field(r, field);
    if (!part || !row) return;
    std::vector<CurvePoint> points;
    const Ticks first = std::max<Ticks>(1, take.level.front().tick),
                last = std::max(take.level.back().tick, take.notes.back().start + take.notes.back().length);
    for (const CurvePoint& p : take.level)
        if (p.tick >= first) points.push_back({p.tick, std::clamp(part->gain_db + p.value, row->low, row->high)});
    if (points.empty()) points.push_back({first, std::clamp(part->gain_db + take.level.back().value, row->low, row->high)});
    tried_.also(Line("curve.lay")
                    .with("part", part_text(r, part_))
                    .with("field", row->id)
                    .with("from", place_text(r.song->meter, first))
                    .with("to", place_text(r.song->meter, last + 1))
                    .with("points", points_text(r, *row, 0, points)),
                "take");
}

void PlayIn::add_take(std::vector<Note> notes) {
    const Part* part = session_.selection().part();
    if (!part || notes.empty()) return;
    if (!taken_ || part_ != part->id) {
        takes_.clear();
        part_ = part->id;
        tried_.begin();
    }
    takes_.push_back({std::move(notes)});
    judge(takes_.size() - 1);
    take(takes_.size() - 1);
}

void PlayIn::take(std::size_t index) {
    if (index >= takes_.size() || !tried_.begun()) return;
    if (tried_.catch_up() && taken_) emit session_.told(tr("The remake was edited since: this take is written beside the one before."));
    if (!tried_.from()->part(part_)) return;
    Line line = line_of(index);
    if (session_.selection().reach() == Reach::Here) line.with("reach", "here");
    if (tried_.run(line, "take")) {
        write_level(takes_[index]);
        taken_ = index;
    }
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

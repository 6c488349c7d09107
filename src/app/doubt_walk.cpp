// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/doubt_walk.hpp"

#include "app/session.hpp"
#include "base/pitch.hpp"
#include "check/share.hpp"

#include <algorithm>

namespace fw::app {

namespace {

std::pair<double, int> place_of(const Doubt& d) { return {d.start_s, d.shown.pitch}; }

}  // namespace

DoubtWalk::DoubtWalk(Session& session) : session_(session) {
    connect(&session_, &Session::report_changed, this, &DoubtWalk::news);
    connect(&session_, &Session::document_changed, this, [this] {
        // A long part costs more than a frame and is gone through anew with the report that follows the edit; who walks sees it at once.
        constexpr std::size_t kLong = 2000;
        const Part* part = session_.selection().part();
        if (walking_ || !part || session_.documents().placed(*part).size() < kLong) news();
    });
    connect(&session_, &Session::selection_changed, this, [this] {
        const Part* part = session_.selection().part();
        if (walking_ && (!part || part->id != walked_)) end();
        if (std::exchange(told_of_, part ? part->id : PartId{}) != (part ? part->id : PartId{})) news();  // a note chosen changes nothing of it
    });
}

const std::vector<Doubt>& DoubtWalk::doubts() const {
    refresh();
    return doubts_;
}

void DoubtWalk::news() {
    stale_ = true;
    emit changed();
}

const Doubt* DoubtWalk::current() const {
    refresh();
    return walking_ && at_ < doubts_.size() ? &doubts_[at_] : nullptr;
}

void DoubtWalk::refresh() const {
    if (!std::exchange(stale_, false)) return;
    const Part* part = session_.selection().part();
    const auto report = session_.report();
    const auto analysis = session_.recording().analysis;
    doubts_ = part && report && analysis && !session_.provisional() ? fw::doubts(session_.remake(), *report, *part, session_.documents().placed(*part))
                                                                    : std::vector<Doubt>();
    // The walk stands where it stood, be it that others before it are gone.
    const auto at = std::lower_bound(doubts_.begin(), doubts_.end(), place_, [](const Doubt& d, const std::pair<double, int>& p) { return place_of(d) < p; });
    at_ = static_cast<std::size_t>(at - doubts_.begin());
    if (walking_ && at != doubts_.end() && place_of(*at) == place_) look_closer(session_.remake(), *analysis->evidence, *at);
    else candidate_.reset();
}

void DoubtWalk::go(int direction) {
    refresh();
    if (!session_.selection().part()) {
        emit session_.told(tr("Choose a part in the ledger first: then its doubtful notes are heard one after the other."));
        return;
    }
    if (doubts_.empty()) {
        end();
        emit session_.told(session_.report()
                               ? tr("Nothing of %1 is doubtful: what is left is for your ears.").arg(QString::fromStdString(session_.selection().part()->name))
                               : tr("It is still being checked: the doubtful notes follow in a moment."));
        return;
    }
    const auto count = static_cast<std::ptrdiff_t>(doubts_.size());
    std::ptrdiff_t next = 0;
    if (!walking_) {
        const double here = session_.transport().position_s();
        while (next < count && doubts_[static_cast<std::size_t>(next)].start_s < here - 0.01) ++next;
        if (direction < 0) --next;
    } else {
        const auto at = std::min(static_cast<std::ptrdiff_t>(at_), count);
        const bool still_there = at < count && place_of(doubts_[static_cast<std::size_t>(at)]) == place_;
        // What was settled is gone, and the one behind it stands in its place.
        next = direction > 0 ? at + (still_there ? 1 : 0) : at - 1;
    }
    settle_on(static_cast<std::size_t>(((next % count) + count) % count));
}

void DoubtWalk::settle_on(std::size_t index) {
    if (!before_) {
        const Transport& t = session_.transport();
        before_ = Before{t.loop_start(),
                         t.loop_end(),
                         session_.transport().player().speed(),
                         session_.transport().player().looping(),
                         session_.transport().player().source(),
                         t.lens()};
    }
    walking_ = true;
    walked_ = doubts_[index].part;
    at_ = index;
    look_closer(session_.remake(), *session_.recording().analysis->evidence, doubts_[index]);
    const Doubt d = doubts_[index];
    place_ = place_of(d);
    candidate_.reset();
    if (d.note) session_.selection().select_notes({*d.note});
    else session_.selection().select_notes({});
    hear();
    emit shows(d.start_s, d.end_s);
    emit changed();
}

void DoubtWalk::hear() {
    const Doubt* d = current();
    if (!d) return;
    constexpr double kBefore_s = 0.3, kAfter_s = 0.35, kLongest_s = 2.5, kSlow = 0.5;
    Transport& t = session_.transport();
    const Part* part = session_.remake().part(d->part);
    const bool drums = part && part->role == PartRole::Drums;
    Lens lens;
    Drone drone;
    const int pitch = candidate_ ? d->alternatives[*candidate_].pitch : d->shown.pitch;
    const double cents = session_.remake().song->tuning_cents;
    if (drums) {
        const DrumSound* sound = drum_sound_of_key(pitch);
        if (sound && session_.recording().analysis) lens.kind = LensKind::Element, lens.share = share_of_drum(*session_.recording().analysis, sound->kind);
    } else {
        lens.kind = LensKind::Pitch;
        lens.pitch_hz = hertz_of(pitch + cents / 100.0);
        if (candidate_) {
            // The candidate sounds where it would be played, for as long.
            drone.hz[drone.count++] = lens.pitch_hz;
            drone.within_s = {d->start_s, std::max(d->end_s, d->start_s + 0.15)};
        }
    }
    t.set_source(Source::Original);
    t.set_lens(std::move(lens));
    t.set_drone(drone);
    t.set_speed(kSlow);
    t.set_loop(std::max(0.0, d->start_s - kBefore_s), std::min(d->end_s, d->start_s + kLongest_s) + kAfter_s);
    t.seek(t.loop_start());
    if (!t.player().playing()) t.toggle_play();
    if (drums && candidate_) t.player().audition(d->part, pitch, 100);
}

void DoubtWalk::try_next(int direction) {
    const Doubt* d = current();
    if (!d) return go(1);
    if (d->alternatives.empty()) return;
    const auto count = static_cast<int>(d->alternatives.size());
    const int now = candidate_ ? static_cast<int>(*candidate_) : direction > 0 ? -1 : count;
    // Behind the last comes the original alone.
    const int next = now + direction;
    if (next < 0 || next >= count) {
        candidate_.reset();
        hear();
        emit changed();
    } else {
        try_candidate(static_cast<std::size_t>(next));
    }
}

void DoubtWalk::try_candidate(std::size_t alternative) {
    const Doubt* d = current();
    if (!d || alternative >= d->alternatives.size()) return;
    candidate_ = alternative;
    hear();
    emit changed();
}

void DoubtWalk::take() {
    if (!current()) return;
    // A copy: choosing its note makes the list anew.
    const Doubt d = *current();
    const Remake& r = session_.remake();
    const std::string part = part_text(r, d.part);
    if (!d.note) {
        Note n = d.shown;
        if (candidate_) n.pitch = d.alternatives[*candidate_].pitch;
        Line line("note.add");
        line.with("part", part)
            .with("at", place_text(r.song->meter, n.start))
            .with("pitch", note_name(n.pitch, false))
            .with("length", length_text(n.length))
            .with("velocity", std::to_string(n.velocity));
        if (session_.selection().reach() == Reach::Here) line.with("reach", "here");
        if (session_.documents().run(line)) go(1);
        return;
    }
    if (!candidate_ || d.alternatives[*candidate_].written) return accept();
    const int by = d.alternatives[*candidate_].pitch - d.shown.pitch;
    session_.selection().select_notes({*d.note});
    if (session_.documents().run(session_.selection().on_notes("note.change", r, d.part).with("semitones", std::to_string(by)))) go(1);
}

void DoubtWalk::accept() {
    if (!current()) return;
    // A copy: choosing its note makes the list anew.
    const Doubt d = *current();
    const Remake& r = session_.remake();
    if (d.note) {
        session_.selection().select_notes({*d.note});
        if (session_.documents().run(session_.selection().on_notes("note.accept", r, d.part).with("on", "on"))) go(1);
        return;
    }
    const Line line = Line("remark.add")
                          .with("kind", "dismissed")
                          .with("element", element_text(r, ElementId(d.part)))
                          .with("at", place_text(r.song->meter, d.shown.start))
                          .with("length", length_text(std::max<Ticks>(1, d.shown.length)))
                          .with("words", note_name(d.shown.pitch, false));
    if (session_.documents().run(line)) go(1);
}

void DoubtWalk::remove() {
    if (!current() || !current()->note) return accept();
    // A copy: choosing its note makes the list anew.
    const Doubt d = *current();
    session_.selection().select_notes({*d.note});
    if (session_.documents().run(session_.selection().on_notes("note.remove", session_.remake(), d.part))) go(1);
}

void DoubtWalk::question() {
    if (!current()) return;
    // A copy: choosing its note makes the list anew.
    const Doubt d = *current();
    const Remake& r = session_.remake();
    QStringList names;
    for (const Alternative& a : d.alternatives) names << QString::fromStdString(note_name(a.pitch, r.song->flats_at(d.shown.start)));
    const QString words = d.note ? tr("Is it %1?").arg(names.join(", "))
                                 : tr("Is there a %1?").arg(QString::fromStdString(note_name(d.shown.pitch, r.song->flats_at(d.shown.start))));
    const Line line = Line("remark.add")
                          .with("kind", "question")
                          .with("element", element_text(r, ElementId(d.part)))
                          .with("at", place_text(r.song->meter, d.shown.start))
                          .with("length", length_text(std::max<Ticks>(1, d.shown.length)))
                          .with("words", words.toStdString());
    if (session_.documents().run(line)) go(1);
}

void DoubtWalk::end() {
    walking_ = false;
    candidate_.reset();
    place_ = {-1e9, -1};
    if (const auto before = std::exchange(before_, std::nullopt)) {
        Transport& t = session_.transport();
        t.set_drone({});
        t.set_lens(before->lens);
        t.set_speed(before->speed);
        t.set_source(before->source);
        t.set_loop(before->loop_start_s, before->loop_end_s, before->looping);
        if (t.player().playing()) t.toggle_play();
    }
    emit changed();
}

}  // namespace fw::app

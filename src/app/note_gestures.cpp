// SPDX-License-Identifier: GPL-3.0-or-later
// The close-up of notes under the hand.
#include "app/close_up.hpp"

#include "app/painting.hpp"
#include "base/pitch.hpp"
#include "model/edits/phrasing.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr double kEdge = 6.0;              // pixels at a note's ends that lengthen it
constexpr double kHearingWithin_s = 0.12;  // how far an onset that was heard draws a stroke
}  // namespace

void NoteCloseUp::paint_pointer(QPainter& p, const QRect& area) {
    const Remake& r = session_.remake();
    const Key* key = r.song->key_at(tick_at(area.left()));
    p.setPen(QPen(theme().selection, 1, Qt::DashLine));
    p.setBrush(with_alpha(theme().selection, 18));
    if (!rubber_.isNull()) p.drawRect(rubber_.normalized());
    if (lasso_.size() > 1) p.drawPolygon(lasso_);
    if (drag_ == Drag::Velocity) p.drawLine(press_, hover_);
    if (hover_.x() >= area.left() && roll().contains(hover_.toPoint())) {
        p.setPen(theme().faint);
        p.setFont(figure_font(8));
        const Ticks t = tick_at(hover_.x());
        const QString text = QString("%1  %2").arg(QString::fromStdString(note_name(pitch_at(hover_.y()), key && key->flats())),
                                                   QString::fromStdString(r.song->meter.position(t).text()));
        p.drawText(area.adjusted(8, 4, -8, 0), Qt::AlignRight | Qt::AlignTop, text);
    }
}

std::optional<PlacedNote> NoteCloseUp::note_at(const QPointF& at) const {
    const Part* part = session_.selection().part();
    if (!part) return std::nullopt;
    std::optional<PlacedNote> found;
    const int pitch = pitch_at(at.y());
    for (const PlacedNote& n : notes_between(*part, at.x() - 5, at.x() + 1))
        if (n.note.pitch == pitch && at.x() >= x_of(n.note.start) - 1 && at.x() <= std::max(x_of(n.note.start) + 4, x_of(n.note.start + n.note.length)) + 1)
            found = n;
    return found;
}

void NoteCloseUp::audition(int pitch, int velocity) {
    if (const Part* part = session_.selection().part()) session_.transport().player().audition(part->id, std::clamp(pitch, 0, 127), velocity);
}

/// A note's ends lengthen it; one too short for both has only its right end.
NoteCloseUp::Drag NoteCloseUp::edge_at(const PlacedNote& n, double x) const {
    const double x0 = x_of(n.note.start), x1 = x_of(n.note.start + n.note.length);
    if (x > x1 - kEdge) return Drag::Lengthen;
    return x < x0 + kEdge && x1 - x0 > 3.0 * kEdge ? Drag::Begin : Drag::Move;
}

void NoteCloseUp::drag_velocities(const QPointF& to) {
    const Part* part = drag_from_ ? drag_from_->part(session_.selection().element().part()) : nullptr;
    if (!part) return;
    constexpr double kNear = 6.0;  // pixels around a press
    const auto velocity_at = [this](double y) {
        const QRect area = lane();
        return std::clamp(static_cast<int>(std::lround((area.bottom() - 2 - y) / (area.height() - 12) * 127.0)), 1, 127);
    };
    const bool ramp = std::abs(to.x() - press_.x()) > kNear;
    const QPointF first = press_.x() <= to.x() ? press_ : to, last = press_.x() <= to.x() ? to : press_;
    // Where notes were chosen, only those are meant.
    const bool all = session_.selection().notes().empty();
    std::vector<NoteRef> refs;
    double nearest = kNear;
    for (const PlacedNote& n : notes_between(*part, first.x() - kNear, last.x() + kNear)) {
        const double x = x_of(n.note.start);
        if (!all && !session_.selection().contains(n)) continue;
        if (ramp ? x >= first.x() - 2 && x <= last.x() + 2 : std::abs(x - press_.x()) <= nearest) {
            if (!ramp && std::abs(x - press_.x()) < nearest) nearest = std::abs(x - press_.x()), refs.clear();
            refs.push_back(n.ref());
        }
    }
    if (refs.empty()) return;
    Line line("note.ramp");
    line.with("part", part_text(*drag_from_, part->id)).with("notes", notes_text(*drag_from_, *part, refs));
    if (session_.selection().reach() == Reach::Here) line.with("reach", "here");
    line.with("first", std::to_string(velocity_at(ramp ? first.y() : to.y())));
    if (ramp) line.with("last", std::to_string(velocity_at(last.y())));
    session_.documents().run(line, "velocities", drag_from_);
}

/// A row is a semitone; near one it arrives there, unless Alt is held.
void NoteCloseUp::drag_pitch(const QPointF& to, Qt::KeyboardModifiers held) {
    const Part* part = drag_from_ ? drag_from_->part(session_.selection().element().part()) : nullptr;
    if (!part || !bent_) return;
    constexpr double kArrives_cents = 18.0, kWithin_cents = 4.0;
    const Note& n = bent_->note;
    const double row = y_of(n.pitch) - y_of(n.pitch + 1);
    double cents = std::clamp((y_of(n.pitch) + row / 2 - to.y()) / row * 100.0, -1200.0, 1200.0);
    if (const double semitone = 100.0 * std::round(cents / 100.0); !(held & Qt::AltModifier) && std::abs(cents - semitone) < kArrives_cents) cents = semitone;
    const Ticks at = std::clamp<Ticks>(tick_at(to.x()) - n.start, 0, n.length);
    // What lies on the way since the last place is drawn anew.
    if (!drawn_pitch_.empty()) {
        const Ticks before = std::clamp<Ticks>(tick_at(hover_.x()) - n.start, 0, n.length);
        drawn_pitch_.erase(drawn_pitch_.upper_bound(std::min(before, at)), drawn_pitch_.lower_bound(std::max(before, at)));
    }
    drawn_pitch_[at] = cents;
    std::vector<BendPoint> points;
    for (const auto& [tick, c] : drawn_pitch_) points.push_back({tick, c});
    std::string text;
    for (const BendPoint& b : thinned(points, kWithin_cents)) {
        if (!text.empty()) text += ' ';
        text.append(std::to_string(b.tick)).append(1, ':').append(std::to_string(std::lround(b.cents)));
    }
    Line line("note.bend");
    line.with("part", part_text(*drag_from_, part->id)).with("notes", notes_text(*drag_from_, *part, {bent_->ref()})).with("points", text);
    if (session_.selection().reach() == Reach::Here) line.with("reach", "here");
    session_.documents().run(line, "pitch", drag_from_);
}

void NoteCloseUp::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || ruler_press(e->pos())) return;
    setFocus();
    press_ = e->position();
    if (press_.x() < kLeft) {
        audition(pitch_at(press_.y()));
        return;
    }
    rubber_ = QRectF();
    lasso_.clear();
    drag_from_ = session_.documents().document();
    if (lane().contains(press_.toPoint())) {
        drag_ = Drag::Velocity;
        drag_velocities(press_);
        return;
    }
    drag_ = e->modifiers() & Qt::ShiftModifier ? Drag::Lasso : Drag::Select;
    if (const auto n = note_at(press_)) {
        const NoteRef ref = n->ref();
        std::vector<NoteRef> chosen = session_.selection().notes();
        const auto at = std::find(chosen.begin(), chosen.end(), ref);
        if (e->modifiers() & Qt::ControlModifier) {
            if (at == chosen.end()) chosen.push_back(ref);
            else chosen.erase(at);
        } else if (at == chosen.end()) {
            chosen = {ref};
        }
        session_.selection().select_notes(std::move(chosen));
        drag_ = edge_at(*n, press_.x());
        if (draws_pitch_ && !(e->modifiers() & Qt::ControlModifier)) {
            drag_ = Drag::Pitch;
            bent_ = n;
            drawn_pitch_.clear();
            for (const BendPoint& b : *n->note.bend) drawn_pitch_[b.tick] = b.cents;
            hover_ = press_;
        }
        last_semitones_ = 0;
        audition(n->note.pitch, n->note.velocity);
    } else if (!(e->modifiers() & Qt::ControlModifier)) {
        session_.selection().select_notes({});
    }
}

void NoteCloseUp::mouseMoveEvent(QMouseEvent* e) {
    const Part* part = session_.selection().part();
    if (drag_ == Drag::Pitch && e->buttons() & Qt::LeftButton) {
        drag_pitch(e->position(), e->modifiers());
        hover_ = e->position();
        update();
        return;
    }
    hover_ = e->position();
    if (!(e->buttons() & Qt::LeftButton) || !part || drag_ == Drag::None) {
        const auto n = note_at(hover_);
        setCursor(n && draws_pitch_ ? Qt::CrossCursor : !n ? Qt::ArrowCursor : edge_at(*n, hover_.x()) == Drag::Move ? Qt::SizeAllCursor : Qt::SizeHorCursor);
        update();
        return;
    }
    if (drag_ == Drag::Velocity) {
        drag_velocities(hover_);
        update();
        return;
    }
    if (drag_ == Drag::Lasso) {
        if (lasso_.isEmpty()) lasso_ << press_;
        lasso_ << hover_;
        std::vector<NoteRef> within;
        const QRectF around = lasso_.boundingRect();
        for (const PlacedNote& n : notes_between(*part, around.left(), around.right())) {
            const double row = y_of(n.note.pitch) - y_of(n.note.pitch + 1);
            const QPointF middle((x_of(n.note.start) + x_of(n.note.start + n.note.length)) / 2, y_of(n.note.pitch) + row / 2);
            if (lasso_.containsPoint(middle, Qt::OddEvenFill)) within.push_back(n.ref());
        }
        session_.selection().select_notes(std::move(within));
        return;
    }
    if (drag_ == Drag::Select) {
        rubber_ = QRectF(press_, hover_);
        std::vector<NoteRef> within;
        const QRectF box = rubber_.normalized();
        for (const PlacedNote& n : notes_between(*part, box.left() - 2, box.right())) {
            const double y = y_of(n.note.pitch), row = y_of(n.note.pitch) - y_of(n.note.pitch + 1);
            if (box.intersects(QRectF(x_of(n.note.start), y, std::max(2.0, x_of(n.note.start + n.note.length) - x_of(n.note.start)), row)))
                within.push_back(n.ref());
        }
        session_.selection().select_notes(std::move(within));
        return;
    }
    if ((hover_ - press_).manhattanLength() < 3) return;
    // Always from the document the drag began with, so that there and back again is no change at all.
    const Ticks moved = tick_at(hover_.x()) - tick_at(press_.x());
    const Ticks step = snap_move(moved, e->modifiers());
    if (drag_ == Drag::Lengthen) {
        session_.documents().run(session_.selection().on_notes("note.change", *drag_from_, part->id).with("lengthen", length_text(step)), "drag", drag_from_);
        return;
    }
    if (drag_ == Drag::Begin) {
        session_.documents().run(
            session_.selection().on_notes("note.change", *drag_from_, part->id).with("move", length_text(step)).with("lengthen", length_text(-step)), "drag",
            drag_from_);
        return;
    }
    const int semitones = pitch_at(hover_.y()) - pitch_at(press_.y());
    if (semitones != last_semitones_) {
        last_semitones_ = semitones;
        if (const auto n = note_at(press_)) audition(n->note.pitch + semitones);
        else audition(pitch_at(hover_.y()));
    }
    session_.documents().run(
        session_.selection().on_notes("note.change", *drag_from_, part->id).with("move", length_text(step)).with("semitones", std::to_string(semitones)),
        "drag", drag_from_);
}

/// Where the evidence hears a stroke of a pitch near a place on the screen.
std::optional<Ticks> NoteCloseUp::onset_near(double x, int pitch) const {
    const auto analysis = session_.recording().analysis;
    if (!analysis) return std::nullopt;
    const auto time_s = analysis->evidence->onset_near(pitch, time_at(x), kHearingWithin_s);
    return time_s ? std::optional(session_.remake().song->tempo.nearest_tick(*time_s)) : std::nullopt;
}

/// How far what is dragged moves: in steps of the grid, or to the stroke that was heard nearest to where its start would lie.
Ticks NoteCloseUp::snap_move(Ticks moved, Qt::KeyboardModifiers held) const {
    if (!onsets_ || held & Qt::AltModifier || drag_ == Drag::Lengthen || !drag_from_) return snap_distance(moved, held);
    const Part* part = drag_from_->part(session_.selection().element().part());
    if (!part || session_.selection().notes().empty()) return moved;
    for (const PlacedNote& n : session_.documents().placed(*part))
        if (n.ref() == session_.selection().notes().front())
            if (const auto heard = onset_near(x_of(n.note.start + moved), n.note.pitch)) return *heard - n.note.start;
    return moved;
}

void NoteCloseUp::mouseReleaseEvent(QMouseEvent*) {
    session_.documents().end_gesture();
    drag_ = Drag::None;
    drag_from_.reset();
    rubber_ = QRectF();
    lasso_.clear();
    update();
}

void NoteCloseUp::mouseDoubleClickEvent(QMouseEvent* e) {
    const Part* part = session_.selection().part();
    if (!part || e->position().x() < kLeft || e->pos().y() < kRuler || note_at(e->position())) return;
    Note n;
    n.start = std::max<Ticks>(0, snap(tick_at(e->position().x()), e->modifiers(), true));
    n.length = grid_ > 0 ? e->modifiers() & Qt::ShiftModifier ? grid_ * 2 / 3 : grid_ : kTicksPerQuarter / 4;
    n.pitch = pitch_at(e->position().y());
    if (onsets_)
        if (const auto heard = onset_near(e->position().x(), n.pitch)) n.start = *heard;
    n.velocity = 96;
    session_.selection().draw_note(part->id, n);
    audition(n.pitch);
    session_.selection().select_notes({});
    drag_ = Drag::None;
}

void NoteCloseUp::transpose_selected(int semitones) {
    const Part* part = session_.selection().part();
    if (!part || session_.selection().notes().empty()) return;
    for (const PlacedNote& n : session_.documents().placed(*part))
        if (n.ref() == session_.selection().notes().front()) audition(n.note.pitch + semitones, n.note.velocity);
    session_.documents().run(session_.selection().on_notes("note.change", session_.remake(), part->id).with("semitones", std::to_string(semitones)));
}

void NoteCloseUp::wheelEvent(QWheelEvent* e) {
    if (!(e->modifiers() & Qt::ShiftModifier)) return CloseUp::wheelEvent(e);
    const int delta = e->angleDelta().y() + e->angleDelta().x();
    const int step = delta > 0 ? 2 : -2;
    if (low_pitch_ + step >= 21 && high_pitch_ + step <= 108) low_pitch_ += step, high_pitch_ += step;
    still_.renew(*this);
}

void NoteCloseUp::leaveEvent(QEvent*) {
    hover_ = {-1, -1};
    update();
}

}  // namespace fw::app

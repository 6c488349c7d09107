// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/close_up.hpp"

#include "analysis/analysis.hpp"
#include "app/doubt_walk.hpp"
#include "app/painting.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <set>

namespace fw::app {

DrumCloseUp::DrumCloseUp(Session& session, QWidget* parent) : CloseUp(session, parent) {
    setAccessibleName(tr("Close-up of drums"));
    setToolTip(
        tr("Double-click adds a hit on the grid or removes one; drag moves it in time (Alt: off the grid, Shift: triplets), up and down it is played harder or "
           "softer; a name under the pointer is heard."));
    connect(&session_.walk(), &DoubtWalk::changed, this, [this] { still_.renew(*this); });
    connect(&session_.walk(), &DoubtWalk::shows, this, [this](double from_s, double) {
        if (isVisible()) show_from(from_s - (width() - kLeft) / pixels_per_s_ / 2.0);
    });
}

std::vector<int> DrumCloseUp::rows() const {
    std::vector<int> keys;
    for (const DrumSound& s : drum_sounds()) keys.push_back(s.key);
    // What else is played gets rows of its own, lest a hit be there and not be seen.
    std::set<int> others;
    if (const Part* part = session_.selection().part())
        for (const auto& pattern : part->patterns)
            for (const Note& n : pattern->notes)
                if (!drum_sound_of_key(n.pitch)) others.insert(n.pitch);
    keys.insert(keys.end(), others.begin(), others.end());
    return keys;
}

int DrumCloseUp::row_of(int key) const {
    if (const DrumSound* sound = drum_sound_of_key(key)) return static_cast<int>(sound - drum_sounds().data());
    const auto all = rows();
    return static_cast<int>(std::find(all.begin(), all.end(), key) - all.begin());
}

QRectF DrumCloseUp::row_rect(int row) const {
    const QRect area = content();
    const double h = static_cast<double>(area.height()) / static_cast<double>(rows().size());
    return {static_cast<double>(area.left()), area.bottom() + 1 - (row + 1) * h, static_cast<double>(area.width()), h};
}

QString DrumCloseUp::ground_state() const {
    QString state = QString::number(hovered_);
    for (const int key : rows()) state += QString(" %1").arg(key);
    return state;
}

void DrumCloseUp::paint_ground(QPainter& p, const QRect& area) {
    const auto analysis = session_.recording().analysis;
    if (!analysis) return;
    const Frames& pulse = analysis->evidence->pulse;
    const auto keys = rows();
    for (int row = 0; row < static_cast<int>(keys.size()); ++row) {
        const QRectF lane = row_rect(row);
        const DrumSound* sound = drum_sound_of_key(keys[static_cast<std::size_t>(row)]);
        p.setClipping(false);
        p.setPen(row == hovered_ ? theme().selection : theme().text);
        p.setFont(text_font(9));
        p.drawText(QRectF(8, lane.top(), kLeft - 14, lane.height()), Qt::AlignVCenter,
                   sound ? tr(sound->name) : tr("Key %1").arg(keys[static_cast<std::size_t>(row)]));
        p.setPen(theme().hairline);
        p.drawLine(QPointF(0, lane.bottom()), QPointF(area.right(), lane.bottom()));
        p.setClipRect(area);
        if (!sound) continue;  // nothing listens for it
        const int column = pulse_column(sound->kind);
        QPolygonF shape;
        shape << lane.bottomLeft();
        const double step = std::max(1.0, Evidence::pulse_frame(1.0) / pixels_per_s_);
        for (int x = area.left(); x <= area.right(); ++x) {
            const double f = Evidence::pulse_frame(time_at(x));
            float v = 0.0F;
            for (double g = f; g < f + step; g += 1.0)
                if (g >= 0 && g < static_cast<double>(pulse.rows())) v = std::max(v, pulse(static_cast<Eigen::Index>(g), column));
            shape << QPointF(x, lane.bottom() - v * (lane.height() - 3));
        }
        shape << lane.bottomRight();
        p.setPen(Qt::NoPen);
        p.setBrush(with_alpha(theme().original, 150));
        p.drawPolygon(shape);
    }
}

void DrumCloseUp::paint_content(QPainter& p, const QRect& area) {
    const Part* part = session_.selection().part();
    if (!part) return;
    p.setCompositionMode(theme().overprint);
    p.setRenderHint(QPainter::Antialiasing);
    const auto report = session_.report();
    for (const PlacedNote& n : notes_between(*part, area.left() - 8, area.right() + 8)) {
        const double x = x_of(n.note.start);
        const QRectF lane = row_rect(row_of(n.note.pitch));
        // Height tells velocity; the stem stands exactly on the time.
        const double h = (lane.height() - 4) * (0.25 + 0.75 * n.note.velocity / 127.0);
        const QRectF stem(x - 1, lane.bottom() - h, 2.5, h);
        p.setPen(Qt::NoPen);
        p.setBrush(with_alpha(theme().rebuild, n.muted ? 70 : 255));
        p.drawRect(stem);
        // What the evidence doubts and nobody has accepted has a hollow head.
        if (is_doubted(n, report ? report->right(part->id, n.ref()) : std::nullopt)) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(theme().rebuild, 1.2));
        }
        p.drawRect(QRectF(x - 3, lane.bottom() - h, 6.5, 4));
        if (const DrumSound* sound = drum_sound_of_key(n.note.pitch); sound && sound->kind == DrumKind::HatOpen && !n.muted) {
            // It rings until a closed one chokes it.
            const auto& all = session_.documents().placed(*part);
            const auto next = std::upper_bound(all.begin(), all.end(), n.note.start, [](Ticks t, const PlacedNote& other) { return t < other.note.start; });
            const auto choke = std::find_if(next, all.end(), [](const PlacedNote& other) {
                const DrumSound* s = drum_sound_of_key(other.note.pitch);
                return s && !other.muted && (s->kind == DrumKind::HatClosed || s->kind == DrumKind::HatOpen);
            });
            const Ticks rings = kTicksPerQuarter * 2, until = choke == all.end() ? n.note.start + rings : std::min(n.note.start + rings, choke->note.start);
            p.setPen(QPen(with_alpha(theme().rebuild, 150), 1.2));
            p.drawLine(QPointF(x + 3, lane.bottom() - 2.5), QPointF(x_of(until) - 1, lane.bottom() - 2.5));
            if (choke != all.end() && choke->note.start < n.note.start + rings)
                p.drawLine(QPointF(x_of(until) - 1, lane.bottom() - 6), QPointF(x_of(until) - 1, lane.bottom()));
        }
        if (n.note.roll->strokes > 1) {
            // Its strokes one after the other, each as high as it is hard.
            p.setPen(QPen(theme().rebuild, 1.2));
            for (const Note& stroke : strokes_of(n.note)) {
                const double at = x_of(stroke.start);
                p.drawLine(QPointF(at, lane.bottom()), QPointF(at, lane.bottom() - (lane.height() - 4) * (0.25 + 0.75 * stroke.velocity / 127.0)));
            }
        }
        if (session_.selection().contains(n)) {
            p.setCompositionMode(QPainter::CompositionMode_SourceOver);
            p.setPen(QPen(theme().selection, 1.5));
            p.setBrush(Qt::NoBrush);
            p.drawRect(QRectF(x - 5, lane.bottom() - h - 2, 10.5, h + 2));
            p.setCompositionMode(theme().overprint);
        }
    }
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setCompositionMode(QPainter::CompositionMode_SourceOver);
    p.setBrush(Qt::NoBrush);
    for (const Doubt& d : session_.walk().doubts()) {
        const double x = x_at(d.start_s);
        if (d.note || x < area.left() || x > area.right()) continue;
        p.setPen(QPen(theme().original, 1.2, Qt::DotLine));
        p.drawRect(QRectF(x - 3.5, row_rect(row_of(d.shown.pitch)).top() + 3, 7, row_rect(row_of(d.shown.pitch)).height() - 4));
    }
    const Doubt* now = session_.walk().current();
    if (!now) return;
    const auto tried = session_.walk().candidate();
    const QRectF lane = row_rect(row_of(tried ? now->alternatives[*tried].pitch : now->shown.pitch));
    p.setPen(QPen(theme().selection, 1.6, tried ? Qt::DotLine : Qt::SolidLine));
    p.drawRect(QRectF(x_at(now->start_s) - 6, lane.top() + 1, 12, lane.height() - 2));
}

std::optional<PlacedNote> DrumCloseUp::hit_at(const QPointF& at) const {
    const Part* part = session_.selection().part();
    if (!part) return std::nullopt;
    std::optional<PlacedNote> best;
    double nearest = 6.0;
    for (const PlacedNote& n : notes_between(*part, at.x() - nearest, at.x() + nearest)) {
        if (!row_rect(row_of(n.note.pitch)).contains(at)) continue;
        if (const double d = std::abs(x_of(n.note.start) - at.x()); d < nearest) nearest = d, best = n;
    }
    return best;
}

void DrumCloseUp::hear_row(double y) {
    const Part* part = session_.selection().part();
    const auto keys = rows();
    for (int row = 0; part && row < static_cast<int>(keys.size()); ++row)
        if (row_rect(row).top() <= y && row_rect(row).bottom() > y) session_.transport().player().audition(part->id, keys[static_cast<std::size_t>(row)], 100);
}

void DrumCloseUp::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || ruler_press(e->pos())) return;
    setFocus();
    press_ = e->position();
    drag_from_.reset();
    const Part* part = session_.selection().part();
    if (!part) return;
    if (press_.x() < kLeft) {
        hear_row(press_.y());
        return;
    }
    const auto hit = hit_at(press_);
    std::vector<NoteRef> chosen;
    if (e->modifiers() & Qt::ControlModifier) chosen = session_.selection().notes();
    if (hit) {
        chosen.push_back(hit->ref());
        session_.transport().player().audition(part->id, hit->note.pitch, hit->note.velocity);
        drag_from_ = session_.documents().document();
    }
    session_.selection().select_notes(std::move(chosen));
}

void DrumCloseUp::mouseMoveEvent(QMouseEvent* e) {
    const Part* part = session_.selection().part();
    if (!part) return;
    if (!(e->buttons() & Qt::LeftButton)) {
        // A name under the pointer is heard, once as it is entered.
        int hovered = -1;
        for (int row = 0; e->position().x() < kLeft && row < static_cast<int>(rows().size()); ++row)
            if (row_rect(row).top() <= e->position().y() && row_rect(row).bottom() > e->position().y()) hovered = row;
        if (hovered == hovered_) return;
        hovered_ = hovered;
        if (hovered >= 0) hear_row(e->position().y());
        still_.renew(*this);
        return;
    }
    const QPointF way = e->position() - press_;
    if (!drag_from_ || way.manhattanLength() < 4) return;
    if (!upright_) upright_ = std::abs(way.y()) > std::abs(way.x());
    if (*upright_) {
        const double height = row_rect(0).height() - 4;
        const int by = static_cast<int>(std::lround(-way.y() / height * 127.0));
        session_.documents().run(
            session_.selection().on_notes("note.change", *drag_from_, part->id).with("velocity", std::to_string(std::clamp(by, -126, 126))), "drag",
            drag_from_);
        return;
    }
    const Ticks moved = snap_distance(tick_at(e->position().x()) - tick_at(press_.x()), e->modifiers());
    session_.documents().run(session_.selection().on_notes("note.change", *drag_from_, part->id).with("move", length_text(moved)), "drag", drag_from_);
}

void DrumCloseUp::mouseReleaseEvent(QMouseEvent*) {
    session_.documents().end_gesture();
    drag_from_.reset();
    upright_.reset();
}

void DrumCloseUp::mouseDoubleClickEvent(QMouseEvent* e) {
    const Part* part = session_.selection().part();
    if (!part || e->position().x() < kLeft || e->pos().y() < kRuler) return;
    drag_from_.reset();
    session_.selection().select_notes({});
    if (const auto hit = hit_at(e->position())) {
        session_.selection().select_notes({hit->ref()});
        session_.documents().run(session_.selection().on_notes("note.remove", session_.remake(), part->id));
        session_.selection().select_notes({});
        return;
    }
    const auto keys = rows();
    for (int row = 0; row < static_cast<int>(keys.size()); ++row) {
        if (!row_rect(row).contains(e->position())) continue;
        Note n;
        n.start = std::max<Ticks>(0, snap(tick_at(e->position().x()), e->modifiers()));
        n.length = kTicksPerQuarter / 8;
        n.pitch = keys[static_cast<std::size_t>(row)];
        n.velocity = 100;
        session_.selection().draw_note(part->id, n);
        session_.transport().player().audition(part->id, n.pitch, n.velocity);
    }
}

}  // namespace fw::app

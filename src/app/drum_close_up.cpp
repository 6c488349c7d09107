// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/close_up.hpp"

#include "analysis/analysis.hpp"
#include "app/painting.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace fw::app {

DrumCloseUp::DrumCloseUp(Session& session, QWidget* parent) : CloseUp(session, parent) {
    setAccessibleName(tr("Close-up of drums"));
    setToolTip(tr("Double-click adds a hit on the grid or removes one, drag moves it in time (Alt: off the grid), a click on a name hears the sound."));
}

QRectF DrumCloseUp::row_rect(int row) const {
    const QRect area = content();
    const double h = static_cast<double>(area.height()) / static_cast<double>(drum_sounds().size());
    return {static_cast<double>(area.left()), area.bottom() + 1 - (row + 1) * h, static_cast<double>(area.width()), h};
}

void DrumCloseUp::paint_content(QPainter& p, const QRect& area) {
    const Part* part = session_.selection().part();
    const auto analysis = session_.recording().analysis;
    if (!part || !analysis) return;
    const Frames& pulse = analysis->evidence->pulse;
    for (int row = 0; row < static_cast<int>(drum_sounds().size()); ++row) {
        const QRectF lane = row_rect(row);
        p.setClipping(false);
        p.setPen(theme().text);
        p.setFont(text_font(9));
        p.drawText(QRectF(8, lane.top(), kLeft - 14, lane.height()), Qt::AlignVCenter, drum_sounds()[static_cast<std::size_t>(row)].name);
        p.setPen(theme().hairline);
        p.drawLine(QPointF(0, lane.bottom()), QPointF(area.right(), lane.bottom()));
        p.setClipRect(area);
        const int column = pulse_column(drum_sounds()[static_cast<std::size_t>(row)].kind);
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
    p.setCompositionMode(theme().overprint);
    p.setRenderHint(QPainter::Antialiasing);
    for (const PlacedNote& n : placed_notes(*part)) {
        const double x = x_of(n.note.start);
        if (x < area.left() - 8 || x > area.right() + 8) continue;
        const DrumSound* sound = drum_sound_of_key(n.note.pitch);
        if (!sound) continue;
        const QRectF lane = row_rect(static_cast<int>(sound - drum_sounds().data()));
        // Height tells velocity; the stem stands exactly on the time.
        const double h = (lane.height() - 4) * (0.25 + 0.75 * n.note.velocity / 127.0);
        const QRectF stem(x - 1, lane.bottom() - h, 2.5, h);
        p.setPen(Qt::NoPen);
        p.setBrush(with_alpha(theme().rebuild, n.muted ? 70 : 255));
        p.drawRect(stem);
        p.drawRect(QRectF(x - 3, lane.bottom() - h, 6.5, 4));
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
}

std::optional<PlacedNote> DrumCloseUp::hit_at(const QPointF& at) const {
    const Part* part = session_.selection().part();
    if (!part) return std::nullopt;
    std::optional<PlacedNote> best;
    double nearest = 6.0;
    for (const PlacedNote& n : placed_notes(*part)) {
        const DrumSound* sound = drum_sound_of_key(n.note.pitch);
        if (!sound || !row_rect(static_cast<int>(sound - drum_sounds().data())).contains(at)) continue;
        if (const double d = std::abs(x_of(n.note.start) - at.x()); d < nearest) nearest = d, best = n;
    }
    return best;
}

void DrumCloseUp::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || ruler_press(e->pos())) return;
    setFocus();
    press_ = e->position();
    drag_from_.reset();
    const Part* part = session_.selection().part();
    if (!part) return;
    if (press_.x() < kLeft) {
        for (int row = 0; row < static_cast<int>(drum_sounds().size()); ++row)
            if (row_rect(row).top() <= press_.y() && row_rect(row).bottom() > press_.y())
                session_.transport().player().audition(part->id, drum_sounds()[static_cast<std::size_t>(row)].key, 100);
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
    if (!part || !(e->buttons() & Qt::LeftButton) || !drag_from_ || std::abs(e->position().x() - press_.x()) < 3) return;
    const Ticks moved = tick_at(e->position().x()) - tick_at(press_.x());
    session_.documents().run(
        session_.selection().on_notes("note.change", *drag_from_, part->id).with("move", length_text(e->modifiers() & Qt::AltModifier ? moved : snap(moved))),
        "drag", drag_from_);
}

void DrumCloseUp::mouseReleaseEvent(QMouseEvent*) {
    session_.documents().end_gesture();
    drag_from_.reset();
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
    for (int row = 0; row < static_cast<int>(drum_sounds().size()); ++row) {
        if (!row_rect(row).contains(e->position())) continue;
        Note n;
        n.start = std::max<Ticks>(0, snap(tick_at(e->position().x())));
        n.length = kTicksPerQuarter / 8;
        n.pitch = drum_sounds()[static_cast<std::size_t>(row)].key;
        n.velocity = 100;
        session_.selection().draw_note(part->id, n);
        session_.transport().player().audition(part->id, n.pitch, n.velocity);
    }
}

void DrumCloseUp::delete_selected() {
    const Part* part = session_.selection().part();
    if (!part || session_.selection().notes().empty()) return;
    session_.documents().run(session_.selection().on_notes("note.remove", session_.remake(), part->id));
    session_.selection().select_notes({});
}

void DrumCloseUp::nudge_selected(Ticks ticks) {
    const Part* part = session_.selection().part();
    if (part && !session_.selection().notes().empty()) session_.selection().nudge(part->id, ticks);
}

void DrumCloseUp::quantise_selected() {
    const Part* part = session_.selection().part();
    if (part && grid_ > 0 && !session_.selection().notes().empty())
        session_.documents().run(session_.selection().on_notes("note.quantise", session_.remake(), part->id).with("grid", length_text(grid_)));
}

}  // namespace fw::app

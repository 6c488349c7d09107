// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/close_up.hpp"

#include "analysis/decoders.hpp"
#include "app/painting.hpp"
#include "base/pitch.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace fw::app {

ChordCloseUp::ChordCloseUp(Session& session, QWidget* parent) : CloseUp(session, parent) {
    setAccessibleName(tr("Close-up of chords"));
    setToolTip(tr("Click a chord to see its alternatives in the facts, double-click to type its name."));
    pixels_per_s_ = 60.0;
}

void ChordCloseUp::select_tick(Ticks tick) {
    selected_ = tick;
    still_.renew(*this);
    emit chord_selected(tick);
}

namespace {
constexpr int kNames = 40;  ///< how high the row of names is

/// Where the twelve pitch classes lie.
QRect chroma_in(const QRect& area) { return area.adjusted(0, kNames + 8, 0, -4); }
}  // namespace

void ChordCloseUp::paint_ground(QPainter& p, const QRect& area) {
    const auto analysis = session_.recording().analysis;
    if (!analysis) return;
    const Remake& r = session_.remake();
    const QRect chroma = chroma_in(area);
    const double row = chroma.height() / 12.0;
    const bool flats = r.song->flats_at(tick_at(area.left()));
    p.setClipping(false);
    p.setFont(figure_font(9));
    for (int pc = 0; pc < 12; ++pc) {
        p.setPen(theme().faint);
        p.drawText(QRectF(8, chroma.bottom() + 1 - (pc + 1) * row, kLeft - 16, row), Qt::AlignVCenter | Qt::AlignRight,
                   QString::fromStdString(std::string(pitch_class_name(pc, flats))));
    }
    p.setPen(theme().text);
    p.setFont(text_font(9));
    p.drawText(QRectF(8, area.top() + 4, kLeft - 16, kNames), Qt::AlignVCenter | Qt::AlignRight, "chord");
    p.setClipRect(area);
    // Chroma beat by beat, as the chord decoder hears it.
    const Ticks from = std::max<Ticks>(0, tick_at(area.left())) / kTicksPerQuarter * kTicksPerQuarter;
    for (Ticks t = from; x_of(t) < area.right(); t += kTicksPerQuarter) {
        const auto c = chroma_of(*analysis->evidence, r.song->tempo.seconds(t), r.song->tempo.seconds(t + kTicksPerQuarter));
        for (int pc = 0; pc < 12; ++pc) {
            const float v = c[static_cast<std::size_t>(pc)];
            if (v < 0.05F) continue;
            p.fillRect(QRectF(x_of(t), chroma.bottom() + 1 - (pc + 1) * row, x_of(t + kTicksPerQuarter) - x_of(t), row - 1),
                       with_alpha(theme().original, static_cast<int>(v * 190)));
        }
    }
}

void ChordCloseUp::paint_content(QPainter& p, const QRect& area) {
    if (!session_.recording().analysis) return;
    const Remake& r = session_.remake();
    const QRect chroma = chroma_in(area);
    const double row = chroma.height() / 12.0;
    for (const ChordEvent& c : r.song->chords) {
        const double x0 = x_of(c.start), x1 = x_of(c.start + c.length);
        if (x1 < area.left() || x0 > area.right()) continue;
        const bool chosen = selected_ >= c.start && selected_ < c.start + c.length;
        const QRectF box(x0 + 1, area.top() + 4, x1 - x0 - 2, kNames);
        p.setBrush(c.origin == Origin::Heard ? QBrush(Qt::NoBrush) : rebuild_hatch(130));
        p.setPen(QPen(chosen ? theme().selection : theme().rebuild, chosen ? 2 : 1, c.confidence < 0.35 ? Qt::DashLine : Qt::SolidLine));
        p.drawRect(box);
        p.setPen(theme().text);
        p.setFont(text_font(11, true));
        paint_text(p, box.adjusted(5, 2, -3, -16), Qt::AlignVCenter, QString::fromStdString(c.chord.name(r.song->flats_at(c.start))));
        p.setFont(figure_font(7.5));
        p.setPen(theme().faint);
        paint_text(p, box.adjusted(5, 22, -3, -2), Qt::AlignVCenter,
                   c.origin == Origin::Heard ? QString("%1 %").arg(static_cast<int>(c.confidence * 100)) : QString("yours"));
        // The chord's tones over the chroma, in the rebuild's ink: dark where both agree.
        p.setCompositionMode(theme().overprint);
        p.setPen(Qt::NoPen);
        for (const int pc : c.chord.tones())
            p.fillRect(QRectF(x0 + 1, chroma.bottom() + 1 - (pc + 1) * row + row * 0.28, x1 - x0 - 2, row * 0.42), with_alpha(theme().rebuild, 200));
        p.setCompositionMode(QPainter::CompositionMode_SourceOver);
    }
}

void ChordCloseUp::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || ruler_press(e->pos()) || e->position().x() < kLeft) return;
    setFocus();
    select_tick(tick_at(e->position().x()));
}

void ChordCloseUp::mouseDoubleClickEvent(QMouseEvent* e) {
    if (e->position().x() >= kLeft && e->pos().y() >= kRuler) emit name_wanted(tick_at(e->position().x()));
}

}  // namespace fw::app

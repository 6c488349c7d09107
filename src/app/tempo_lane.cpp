// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/tempo_lane.hpp"

#include "app/time_axis.hpp"
#include "app/words.hpp"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

constexpr int kLeft = 52, kRight = 12, kTop = 16, kBottom = 6;

/// Stretches of one tempo: beats that go on within a hundredth of each other's interval.
struct Area {
    Ticks from = 0, to = 0;
};
std::vector<Area> areas_of(const Song& song) {
    std::vector<Area> areas;
    const auto& anchors = song.tempo.anchors();
    double usual = 0.0;
    for (std::size_t i = 0; i + 1 < anchors.size(); ++i) {
        const double bpm = song.tempo.bpm_at(anchors[i].tick);
        if (areas.empty() || std::abs(bpm / usual - 1.0) > 0.01) areas.push_back({anchors[i].tick, anchors[i + 1].tick}), usual = bpm;
        else areas.back().to = anchors[i + 1].tick, usual += 0.2 * (bpm - usual);
    }
    std::erase_if(areas, [](const Area& a) { return a.to - a.from < 8 * kTicksPerQuarter; });
    return areas;
}

}  // namespace

TempoLane::TempoLane(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedHeight(70);
    setAccessibleName(tr("Tempo"));
    still_.follow(*this, session_, {&Session::document_changed, &Session::analysis_changed});
}

double TempoLane::duration() const { return session_.remake().reference.duration_s; }

void TempoLane::paint_still(QPainter& p) const {
    p.fillRect(rect(), theme().ground);
    p.setPen(theme().hairline);
    p.drawLine(0, 0, width(), 0);
    if (!session_.has_reference()) return;
    const Song& song = *session_.remake().song;
    const TimeAxis axis = TimeAxis::of_song(song, kLeft, width() - kRight, duration());
    const auto& anchors = song.tempo.anchors();
    double low = 1e9, high = 0.0;
    for (std::size_t i = 0; i + 1 < anchors.size(); ++i) {
        const double bpm = song.tempo.bpm_at(anchors[i].tick);
        low = std::min(low, bpm), high = std::max(high, bpm);
    }
    // At least ten BPM are in view, so that a steady song does not look restless.
    const double middle = 0.5 * (low + high), half = std::max(5.0, 0.6 * (high - low));
    const auto y_of = [&](double bpm) { return kTop + (height() - kTop - kBottom) * (1.0 - (bpm - middle + half) / (2.0 * half)); };
    p.setFont(figure_font(7.5));
    for (const double bpm : {middle - 0.7 * half, middle, middle + 0.7 * half}) {
        p.setPen(theme().hairline);
        p.drawLine(QPointF(kLeft, y_of(bpm)), QPointF(width() - kRight, y_of(bpm)));
        p.setPen(theme().faint);
        p.drawText(QRectF(4, y_of(bpm) - 7, kLeft - 10, 14), Qt::AlignRight | Qt::AlignVCenter, QString::number(bpm, 'f', 1));
    }
    for (const FreeTime& f : song.free_time)
        p.fillRect(QRectF(axis.x_of(f.start), kTop, axis.x_of(f.start + f.length) - axis.x_of(f.start), height() - kTop - kBottom),
                   with_alpha(theme().hairline, 150));
    // Every beat, in the original's ink; a line through each steady area with what it says.
    p.setPen(Qt::NoPen);
    p.setBrush(theme().original);
    double last_x = -10.0;
    for (std::size_t i = 0; i + 1 < anchors.size(); ++i) {
        const double x = axis.x_of(anchors[i].tick);
        if (x - last_x < 1.0) continue;
        last_x = x;
        p.drawEllipse(QPointF(x, y_of(song.tempo.bpm_at(anchors[i].tick))), 1.4, 1.4);
    }
    p.setBrush(Qt::NoBrush);
    double free_from = 0.0;
    for (const Area& a : areas_of(song)) {
        const SteadyFit fit = fit_steady(song, a.from, a.to);
        p.setPen(QPen(theme().text, 1.0));
        p.drawLine(QPointF(axis.x_of(a.from), y_of(fit.bpm)), QPointF(axis.x_of(a.to), y_of(fit.bpm)));
        p.setFont(figure_font(8));
        const QString words = tr("%1 BPM ± %2 ms").arg(fit.bpm, 0, 'f', 2).arg(fit.rms_ms, 0, 'f', 1);
        const double wide = QFontMetricsF(p.font()).horizontalAdvance(words);
        const double x = std::max(std::min(axis.x_of(a.from), width() - kRight - wide), free_from);
        if (x + wide > width() - kRight + 1.0 || x > axis.x_of(a.to)) continue;
        p.drawText(QPointF(x, 11), words);
        free_from = x + wide + 12;
    }
    p.setPen(Qt::NoPen);
    p.setBrush(theme().text);
    for (const Pin& pin : song.pins) {
        const double x = axis.x_of(pin.at), y = height() - kBottom + 3;
        p.drawPolygon(QPolygonF({{x - 3, y}, {x + 3, y}, {x, y - 6}}));
    }
    p.setBrush(Qt::NoBrush);
}

void TempoLane::paintEvent(QPaintEvent*) {
    QPainter p(this);
    still_.paint(p, *this, [this](QPainter& still) {
        still.setRenderHint(QPainter::Antialiasing);
        paint_still(still);
    });
}

void TempoLane::mousePressEvent(QMouseEvent* e) {
    if (session_.has_reference())
        session_.transport().seek(TimeAxis::of_song(*session_.remake().song, kLeft, width() - kRight, duration()).time_at(e->position().x()));
}

bool TempoLane::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip && session_.has_reference()) {
        const auto* help = static_cast<QHelpEvent*>(e);
        const Song& song = *session_.remake().song;
        const Ticks t = TimeAxis::of_song(song, kLeft, width() - kRight, duration()).tick_at(help->pos().x());
        QToolTip::showText(help->globalPos(),
                           tr("%1 BPM at bar %2. Dots are beats, lines steady stretches with how far their beats lie from them, triangles pinned beats.")
                               .arg(song.tempo.bpm_at(t), 0, 'f', 2)
                               .arg(song.meter.position(t).bar),
                           this);
        return true;
    }
    return QWidget::event(e);
}

}  // namespace fw::app

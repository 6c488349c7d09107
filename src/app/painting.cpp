// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/painting.hpp"

#include <QFontMetricsF>
#include <QWidget>
#include <algorithm>
#include <cmath>
#include <vector>

namespace fw::app {

void paint_waveform(QPainter& painter, const QRectF& rect, const Peaks& peaks, double start_s, double end_s, const QBrush& ink, float gain) {
    if (peaks.empty() || rect.width() < 1 || end_s <= start_s) return;
    const double middle = rect.center().y(), half = rect.height() / 2 - 1;
    const int columns = static_cast<int>(rect.width());
    const double step = (end_s - start_s) / columns;
    // A column a pixel: many times faster than one outline with thousands of corners.
    std::vector<QRectF> bars;
    bars.reserve(static_cast<std::size_t>(columns));
    for (int x = 0; x < columns; ++x) {
        const auto [low, high] = peaks.between(start_s + x * step, start_s + (x + 1) * step);
        const auto clip = [&](float v) { return std::clamp(static_cast<double>(v * gain), -1.0, 1.0); };
        const double top = middle - std::max(0.5, clip(high) * half), bottom = middle - std::min(-0.5, clip(low) * half);
        bars.emplace_back(rect.left() + x, top, 1.0, bottom - top);
    }
    painter.setPen(Qt::NoPen);
    painter.setBrush(ink);
    painter.drawRects(bars.data(), columns);
}

QString percent_text(double share) { return QString("%1 %").arg(std::lround(share * 100.0)); }

QColor match_color(std::optional<double> match) {
    if (!match) return with_alpha(theme().hairline, 120);
    // A difference shows in the rebuild's ink, agreement as the overprint of both.
    const double m = std::clamp(*match, 0.0, 1.0);
    const QColor a = theme().rebuild, b = theme().text;
    const double t = m * m;
    return QColor::fromRgbF(static_cast<float>(a.redF() + (b.redF() - a.redF()) * t), static_cast<float>(a.greenF() + (b.greenF() - a.greenF()) * t),
                            static_cast<float>(a.blueF() + (b.blueF() - a.blueF()) * t));
}

void paint_state(QPainter& painter, const QRectF& rect, const ElementState& state) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    QPen pen(theme().text, 1.3);
    painter.setBrush(Qt::NoBrush);
    const QRectF mark(rect.center().x() - 5, rect.center().y() - 5, 10, 10);
    switch (state.state) {
        case State::Open:
            painter.setPen(pen);
            painter.drawEllipse(mark);
            break;
        case State::Draft:
            pen.setDashPattern({1.2, 1.6});
            painter.setPen(pen);
            painter.drawEllipse(mark);
            break;
        case State::Confirmed:
            painter.setPen(Qt::NoPen);
            painter.setBrush(theme().text);
            painter.drawRect(mark.adjusted(0.5, 0.5, -0.5, -0.5));
            break;
        case State::LeftOut:
            painter.setPen(pen);
            painter.drawEllipse(mark);
            painter.drawLine(mark.bottomLeft(), mark.topRight());
            break;
    }
    painter.restore();
}

void paint_text(QPainter& painter, const QRectF& rect, int flags, const QString& text) {
    const QString cut = QFontMetricsF(painter.font()).elidedText(text, Qt::ElideRight, rect.width());
    if (cut.isEmpty() || cut == "…") return;
    painter.drawText(rect, flags | Qt::TextSingleLine, cut);
}

void for_each_bar(const Remake& remake, Ticks from, Ticks to, const std::function<void(int, Ticks, Ticks)>& call) {
    int bar = std::max(1, remake.song->meter.position(from).bar);
    for (Ticks start = remake.song->meter.tick_of_bar(bar); start < to; ++bar) {
        const Ticks end = remake.song->meter.tick_of_bar(bar + 1);
        call(bar, start, end);
        start = end;
    }
}

void paint_empty(QPainter& painter, const QRectF& rect, const QString& sentence) {
    painter.setPen(theme().faint);
    painter.setFont(text_font(11));
    painter.drawText(rect.adjusted(40, 20, -40, -20), Qt::AlignCenter | Qt::TextWordWrap, sentence);
}

void StillPicture::paint(QPainter& painter, const QWidget& view, const std::function<void(QPainter&)>& draw) {
    const double scale = view.devicePixelRatioF();
    const QSize size = view.size() * scale;
    if (picture_.size() != size || picture_.devicePixelRatio() != scale) {
        picture_ = QPixmap(size);
        picture_.setDevicePixelRatio(scale);
        picture_.fill(Qt::transparent);
        QPainter p(&picture_);
        p.setFont(view.font());
        draw(p);
    }
    painter.drawPixmap(0, 0, picture_);
}

}  // namespace fw::app

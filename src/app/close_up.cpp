// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/close_up.hpp"

#include "app/painting.hpp"
#include "model/groove.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace fw::app {

CloseUp::CloseUp(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(160);
    setAttribute(Qt::WA_OpaquePaintEvent);  // what lies behind it need not be painted first
    still_.follow(*this, session_, {&Session::document_changed, &Session::selection_changed, &Session::report_changed});
    connect(&session_, &Session::transport_changed, this, qOverload<>(&QWidget::update));
    connect(&session_, &Session::analysis_changed, this, [this] { show_from(0.0); });
}

double CloseUp::end_s() const { return std::max(4.0, session_.remake().reference.duration_s); }

void CloseUp::show_from(double time_s) {
    const double span = (width() - kLeft) / pixels_per_s_;
    start_s_ = std::clamp(time_s, -0.5, std::max(-0.5, end_s() - span * 0.6));
    still_.renew(*this);
}

void CloseUp::zoom(double factor, double about_x) {
    const double time = time_at(about_x);
    pixels_per_s_ = std::clamp(pixels_per_s_ * factor, std::max(2.0, (width() - kLeft) / (end_s() * 1.05)), 2000.0);
    show_from(time - (about_x - kLeft) / pixels_per_s_);
}

namespace {
/// The step that holds while Shift is down: three in the time of two.
Ticks step_of(Ticks grid, Qt::KeyboardModifiers held) { return held & Qt::ShiftModifier ? grid * 2 / 3 : grid; }
}  // namespace

Ticks CloseUp::snap(Ticks tick, Qt::KeyboardModifiers held, bool below) const {
    const Ticks step = step_of(grid_, held);
    if (step <= 0 || held & Qt::AltModifier) return tick;
    const Grid grid{step, held & Qt::ShiftModifier ? 0.5 : swing_};
    const MeterMap& meter = session_.remake().song->meter;
    const Ticks nearest = nearest_on(grid, meter, tick).at;
    return below && nearest > tick ? nearest_on(grid, meter, tick - step / 2).at : nearest;
}

Ticks CloseUp::snap_distance(Ticks distance, Qt::KeyboardModifiers held) const {
    const Ticks step = step_of(grid_, held);
    if (step <= 0 || held & Qt::AltModifier) return distance;
    return static_cast<Ticks>(std::llround(static_cast<double>(distance) / static_cast<double>(step))) * step;
}

void CloseUp::wheelEvent(QWheelEvent* e) {
    const double steps = e->angleDelta().y() / 120.0 + e->angleDelta().x() / 120.0;
    if (e->modifiers() & Qt::ControlModifier) zoom(std::pow(1.25, steps), e->position().x());
    else show_from(start_s_ - steps * 0.12 * (width() - kLeft) / pixels_per_s_);
    e->accept();
}

void CloseUp::resizeEvent(QResizeEvent*) { still_.renew(*this); }

bool CloseUp::ruler_press(const QPoint& p) {
    if (p.y() >= kRuler) return false;
    session_.transport().seek(time_at(p.x()));
    return true;
}

void CloseUp::paintEvent(QPaintEvent*) {
    QPainter p(this);
    if (!session_.has_reference()) {
        p.fillRect(rect(), theme().ground);
        paint_empty(p, rect(), tr("Open a recording first: its evidence appears here, with your notes on top."));
        return;
    }
    if (session_.transport().player().playing()) {
        const double x = x_at(session_.transport().position_s());
        if (x > width() - 30 || x < kLeft) show_from(session_.transport().position_s() - 0.1 * (width() - kLeft) / pixels_per_s_);
    }
    still_.paint(p, *this, [this](QPainter& still) { paint_still(still); });
    if (session_.transport().loop_end() > session_.transport().loop_start()) {
        const double a = std::max<double>(kLeft, x_at(session_.transport().loop_start())), b = std::max<double>(kLeft, x_at(session_.transport().loop_end()));
        p.fillRect(QRectF(a, 0, b - a, kRuler - 1), with_alpha(theme().selection, session_.transport().player().looping() ? 40 : 18));
    }
    if (const double x = x_at(session_.transport().position_s()); x >= kLeft) {
        p.setPen(QPen(theme().text, 1.4));
        p.drawLine(QPointF(x, 0), QPointF(x, height() - kFoot));
    }
    p.setClipRect(content());
    paint_pointer(p, content());
}

/// In half time bars go in pairs from each section's beginning on.
bool CloseUp::begins_bar(int bar) const {
    if (drawn_bars_ != DrawnBars::HalfTime) return true;
    const Song& song = *session_.remake().song;
    const int section = song.section_at(song.meter.tick_of_bar(bar));
    const int first = section < 0 ? 1 : song.meter.position(song.sections[static_cast<std::size_t>(section)].start).bar;
    return (bar - first) % 2 == 0;
}

/// Kept while the notes alone change, so that an edit is drawn in the frame after it.
const QPixmap& CloseUp::ground() {
    const auto analysis = session_.recording().analysis;
    const double scale = devicePixelRatioF();
    QString seen;
    for (const double number : {start_s_, pixels_per_s_, double(width()), double(height()), scale, double(grid_)})
        seen += QString::number(number, 'g', 15) + " ";
    seen += QString("%1 %2 %3 ").arg(static_cast<int>(drawn_bars_)).arg(theme().night).arg(analysis ? analysis->content_hash : 0) + ground_state();
    if (seen == ground_seen_ && ground_song_.is(session_.remake().song)) return ground_;
    ground_seen_ = seen;
    ground_song_ = session_.remake().song;
    ground_ = QPixmap(size() * scale);
    ground_.setDevicePixelRatio(scale);
    ground_.fill(theme().ground);
    QPainter p(&ground_);
    p.setFont(font());
    p.setClipRect(content());
    paint_ground(p, content());
    // Thin enough not to hide what is heard.
    p.setClipRect(content());
    paint_grid(p, content());
    p.setClipping(false);
    paint_rulers(p);
    return ground_;
}

void CloseUp::paint_still(QPainter& p) {
    p.drawPixmap(0, 0, ground());
    p.setClipRect(content());
    paint_content(p, content());
}

std::pair<Ticks, Ticks> CloseUp::shown() const { return {std::max<Ticks>(0, tick_at(kLeft)), tick_at(width()) + kTicksPerQuarter}; }

void CloseUp::paint_grid(QPainter& p, const QRect& area) const {
    const Remake& r = session_.remake();
    const auto [from, to] = shown();
    for_each_bar(r, from, to, [&](int bar, Ticks a, Ticks b) {
        const Ticks counted = r.song->meter.at_bar(bar).beat_ticks();
        const Ticks beat = drawn_bars_ == DrawnBars::HalfTime ? 2 * counted : drawn_bars_ == DrawnBars::DoubleTime ? counted / 2 : counted;
        const double beat_pixels = x_of(a + beat) - x_of(a);
        const auto line = [&](Ticks at) { p.drawLine(QPointF(x_of(at), area.top()), QPointF(x_of(at), area.bottom())); };
        if (grid_ > 0 && x_of(a + grid_) - x_of(a) > 9) {
            p.setPen(with_alpha(theme().hairline, 130));
            for (Ticks t = a; t < b; t += grid_) line(t);
        }
        if (beat_pixels > 7) {
            p.setPen(theme().hairline);
            for (Ticks t = a + beat; t < b; t += beat) line(t);
        }
        p.setPen(begins_bar(bar) ? with_alpha(theme().faint, 190) : theme().hairline);
        line(a);
        p.setPen(with_alpha(theme().faint, 190));
        if (drawn_bars_ == DrawnBars::DoubleTime) line(a + (b - a) / 2);
    });
}

/// Bars and sections above, seconds below.
void CloseUp::paint_rulers(QPainter& p) const {
    const Remake& r = session_.remake();
    const auto [from, to] = shown();
    p.setPen(theme().hairline);
    p.drawLine(0, kRuler - 1, width(), kRuler - 1);
    p.drawLine(0, height() - kFoot, width(), height() - kFoot);
    p.drawLine(kLeft - 1, kRuler, kLeft - 1, height() - kFoot);
    p.setFont(figure_font(8.5));
    double last = -1e9;
    for_each_bar(r, from, to, [&](int bar, Ticks a, Ticks) {
        const double x = x_of(a);
        if (x < kLeft - 2 || x - last < 30 || !begins_bar(bar)) return;
        last = x;
        p.setPen(theme().text);
        p.drawText(QRectF(x + 3, 0, 60, kRuler), Qt::AlignVCenter, QString::number(bar));
        p.setPen(theme().faint);
        p.drawLine(QPointF(x, kRuler - 7), QPointF(x, kRuler - 1));
    });
    for (const Section& s : r.song->sections)
        if (const double x = x_of(s.start); x >= kLeft - 2) {
            p.setPen(theme().text);
            p.setFont(text_font(8.5, true));
            p.drawText(QRectF(x + 26, 0, 100, kRuler), Qt::AlignVCenter, QString::fromStdString(s.label + (s.name.empty() ? "" : " " + s.name)));
        }
    p.setFont(figure_font(7.5));
    p.setPen(theme().faint);
    double step = 1.0;
    while (step * pixels_per_s_ < 70) step *= step < 2 ? 2 : step < 5 ? 2.5 : 2;
    for (double t = std::max(0.0, std::floor(start_s_ / step) * step); t < time_at(width()); t += step)
        if (x_at(t) >= kLeft)
            p.drawText(QRectF(x_at(t) + 2, height() - kFoot, 70, kFoot), Qt::AlignVCenter, time_text(t).left(time_text(t).size() - (step >= 1 ? 4 : 0)));
    p.drawText(QRectF(8, height() - kFoot, kLeft - 14, kFoot), Qt::AlignVCenter, "m:ss");
    p.drawText(QRectF(8, 0, kLeft - 14, kRuler), Qt::AlignVCenter, "bar");
}

}  // namespace fw::app

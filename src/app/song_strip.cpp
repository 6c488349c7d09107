// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/song_strip.hpp"

#include "app/painting.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr int kMargin = 12, kSections = 18, kTape = 9;
}

SongStrip::SongStrip(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedHeight(92);
    setToolTip(tr("The whole song. Click to go there, drag to loop, double-click a section to loop it."));
    still_.follow(*this, session_, {&Session::document_changed, &Session::report_changed, &Session::selection_changed, &Session::analysis_changed},
                  StillPicture::When::AFrameLater);
    connect(&session_, &Session::transport_changed, this, qOverload<>(&QWidget::update));
}

TimeAxis SongStrip::axis() const { return TimeAxis::of_song(*session_.remake().song, kMargin, width() - kMargin, session_.remake().reference.duration_s); }

/// Within the song, wherever the pointer is.
double SongStrip::heard_at(double x) const { return std::clamp(axis().time_at(x), 0.0, std::max(1.0, session_.remake().reference.duration_s)); }

void SongStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().ground);
    p.setPen(theme().hairline);
    p.drawLine(0, height() - 1, width(), height() - 1);
    if (!session_.has_reference()) return;
    if (session_.transport().loop_end() > session_.transport().loop_start()) {
        const double a = axis().x_at(session_.transport().loop_start()), b = axis().x_at(session_.transport().loop_end());
        p.fillRect(QRectF(a, 2, b - a, height() - 4), with_alpha(theme().selection, session_.transport().player().looping() ? 26 : 12));
    }
    still_.paint(p, *this, [this](QPainter& still) { paint_still(still); });
    const double x = axis().x_at(session_.transport().position_s());
    p.setPen(QPen(theme().text, 1.4));
    p.drawLine(QPointF(x, 0), QPointF(x, height() - 2));
}

void SongStrip::paint_still(QPainter& p) {
    const Remake& r = session_.remake();
    const TimeAxis axis = this->axis();
    const QRectF wave(kMargin, 4, width() - 2 * kMargin, height() - kSections - kTape - 10);
    paint_waveform(p, wave, session_.recording().peaks, 0.0, r.reference.duration_s, theme().original);
    const double sections_y = wave.bottom() + 3;
    p.setFont(text_font(8));
    for (const Section& s : r.song->sections) {
        const double a = axis.x_of(s.start), b = axis.x_of(s.start + s.length);
        p.setPen(theme().hairline);
        p.drawLine(QPointF(a, 3), QPointF(a, sections_y + kSections));
        p.setPen(theme().text);
        paint_text(p, QRectF(a + 4, sections_y, b - a - 6, kSections - 2), Qt::AlignVCenter | Qt::AlignLeft,
                   QString::fromStdString(s.label + (s.name.empty() ? "" : " · " + s.name)));
    }
    if (const auto report = session_.report()) {
        const double y = sections_y + kSections;
        const auto chosen =
            std::find_if(report->elements.begin(), report->elements.end(), [&](const ElementMatch& e) { return e.id == session_.selection().element(); });
        for_each_bar(r, 0, r.end_tick(), [&](int bar, Ticks start, Ticks end) {
            std::optional<double> match;
            if (chosen != report->elements.end() && static_cast<std::size_t>(bar) <= chosen->bars.size())
                match = chosen->bars[static_cast<std::size_t>(bar - 1)];
            const double a = axis.x_of(start), b = axis.x_of(end);
            p.fillRect(QRectF(a, y, std::max(1.0, b - a - 1), kTape - 2), match_color(match));
        });
    }
}

void SongStrip::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    press_x_ = e->position().x();
    dragged_ = false;
}

void SongStrip::mouseMoveEvent(QMouseEvent* e) {
    if (press_x_ < 0) return;
    if (std::abs(e->position().x() - press_x_) > 5) dragged_ = true;
    if (dragged_) session_.transport().set_loop(heard_at(press_x_), heard_at(e->position().x()));
}

void SongStrip::mouseReleaseEvent(QMouseEvent* e) {
    if (press_x_ >= 0 && !dragged_) session_.transport().seek(heard_at(e->position().x()));
    else if (dragged_) session_.transport().seek(session_.transport().loop_start());
    press_x_ = -1.0;
}

void SongStrip::mouseDoubleClickEvent(QMouseEvent* e) {
    const Remake& r = session_.remake();
    const int s = r.song->section_at(r.song->tempo.nearest_tick(heard_at(e->position().x())));
    if (s < 0) return;
    const Section& section = r.song->sections[static_cast<std::size_t>(s)];
    session_.transport().set_loop(r.song->tempo.seconds(section.start), r.song->tempo.seconds(section.start + section.length));
    session_.transport().seek(session_.transport().loop_start());
}

}  // namespace fw::app

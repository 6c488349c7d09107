// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/page_view.hpp"

#include "app/changes.hpp"
#include "app/painting.hpp"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QToolTip>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr int kRowHeight = 92, kLeft = 84, kRight = 16, kTop = 10;
constexpr int kChordBand = 20, kWave = 46, kRuler = 16;
}  // namespace

PageView::PageView(Session& session, QWidget* parent) : QAbstractScrollArea(parent), session_(session) {
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    viewport()->setMouseTracking(true);
    setAccessibleName(tr("Page"));
    connect(&session_, &Session::document_changed, this, &PageView::lay_out);
    still_.follow(*viewport(), session_, {&Session::report_changed, &Session::selection_changed, &Session::analysis_changed});
    connect(&session_, &Session::transport_changed, this, [this] { follow_playhead(); });
}

void PageView::lay_out() {
    rows_.clear();
    const Remake& r = session_.remake();
    int top = kTop;
    const auto add_stretch = [&](int section, Ticks start, Ticks end) {
        bool first = true;
        int bar = r.song->meter.position(start).bar;
        for (Ticks at = start; at < end;) {
            bar += kBarsPerRow;
            const Ticks next = std::min(end, std::max(at + 1, r.song->meter.tick_of_bar(bar)));
            rows_.push_back({section, at, next, top, first});
            first = false;
            at = next;
            top += kRowHeight;
        }
    };
    Ticks at = 0;
    for (std::size_t s = 0; s < r.song->sections.size(); ++s) {
        if (r.song->sections[s].start > at) add_stretch(-1, at, r.song->sections[s].start);
        add_stretch(static_cast<int>(s), r.song->sections[s].start, r.song->sections[s].start + r.song->sections[s].length);
        at = r.song->sections[s].start + r.song->sections[s].length;
    }
    if (rows_.empty() && session_.has_reference()) add_stretch(-1, 0, r.end_tick());
    verticalScrollBar()->setRange(0, std::max(0, top + kTop - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(kRowHeight / 2);
    still_.renew(*viewport());
}

void PageView::scrollContentsBy(int, int) { still_.renew(*viewport()); }

double PageView::bar_width() const { return static_cast<double>(viewport()->width() - kLeft - kRight) / kBarsPerRow; }

Ticks PageView::bar_ticks(const Row& row) const {
    const MeterMap& meter = session_.remake().song->meter;
    return meter.at_bar(meter.position(row.start).bar).bar_ticks();
}

TimeAxis PageView::axis_of(const Row& row) const {
    return TimeAxis::of_ticks(*session_.remake().song, kLeft, bar_width() / static_cast<double>(bar_ticks(row)), row.start);
}

const PageView::Row* PageView::row_of(const QPoint& p) const {
    const int y = p.y() + verticalScrollBar()->value();
    for (const Row& row : rows_)
        if (y >= row.top && y < row.top + kRowHeight) return &row;
    return nullptr;
}

QPoint PageView::point_of(Ticks tick) const {
    for (const Row& row : rows_)
        if (tick >= row.start && tick < row.end) {
            return {static_cast<int>(std::lround(axis_of(row).x_of(tick))), row.top - verticalScrollBar()->value() + kChordBand + kWave / 2};
        }
    return {-1, -1};
}

Ticks PageView::tick_at(const QPoint& p) const {
    const Row* row = row_of(p);
    if (!row) return -1;
    return std::clamp<Ticks>(axis_of(*row).tick_at(p.x()), row->start, row->end - 1);
}

void PageView::paint_row(QPainter& p, const Row& row) const {
    const Remake& r = session_.remake();
    const int y = row.top - verticalScrollBar()->value();
    const TimeAxis axis = axis_of(row);
    const auto x_of = [&](Ticks t) { return axis.x_of(t); };
    const QRectF wave(kLeft, y + kChordBand, x_of(row.end) - kLeft, kWave);
    if (row.first_of_section) {
        p.setPen(theme().text);
        p.setFont(text_font(13, true));
        const QString label = row.section < 0 ? QString("–") : QString::fromStdString(r.song->sections[static_cast<std::size_t>(row.section)].label);
        p.drawText(QRectF(12, y + kChordBand - 2, kLeft - 20, 22), Qt::AlignVCenter, label);
        if (row.section >= 0) {
            const Section& s = r.song->sections[static_cast<std::size_t>(row.section)];
            p.setFont(text_font(8.5));
            p.setPen(theme().faint);
            paint_text(p, QRectF(12, y + kChordBand + 19, kLeft - 20, 14), Qt::AlignVCenter, QString::fromStdString(s.name));
            p.drawText(QRectF(12, y + kChordBand + 32, kLeft - 20, 14), Qt::AlignVCenter,
                       tr("%1 bars").arg(std::lround(static_cast<double>(s.length) / static_cast<double>(bar_ticks(row)))));
        }
    }
    const double start_s = r.song->tempo.seconds(row.start);
    // Time inside a bar may run unevenly, so the waveform is painted bar by bar where its bar lines are.
    for_each_bar(r, row.start, row.end, [&](int bar, Ticks a, Ticks b) {
        a = std::max(a, row.start), b = std::min(b, row.end);
        paint_waveform(p, QRectF(x_of(a), wave.top(), x_of(b) - x_of(a) + 1, kWave), session_.recording().peaks, r.song->tempo.seconds(a),
                       r.song->tempo.seconds(b), theme().original);
        const Ticks beat = r.song->meter.at_bar(bar).beat_ticks();
        for (Ticks t = a; t < b; t += beat) {
            p.setPen(QPen(t == a ? theme().text : theme().hairline, t == a ? 1.2 : 1.0));
            p.drawLine(QPointF(x_of(t), wave.bottom() - (t == a ? kWave : 0)), QPointF(x_of(t), wave.bottom() + (t == a ? 6 : 4)));
        }
        p.setPen(theme().faint);
        p.setFont(figure_font(8));
        const auto changes = bar_changes(session_, a, b);
        p.drawText(QRectF(x_of(a) + 3, wave.bottom() + 1, bar_width(), kRuler), Qt::AlignVCenter,
                   changes.empty() ? QString::number(bar) : QString("%1 ≠ %2").arg(bar).arg(changes.front()->of_bar));
    });
    p.setFont(figure_font(7.5));
    p.setPen(theme().faint);
    p.drawText(QRectF(12, wave.bottom() + 1, kLeft - 20, kRuler), Qt::AlignVCenter, time_text(start_s).left(6));
    for (const ChordEvent& c : r.song->chords) {
        const Ticks a = std::max(c.start, row.start), b = std::min(c.start + c.length, row.end);
        if (b <= a) continue;
        p.setPen(theme().hairline);
        p.drawLine(QPointF(x_of(a), y + 3), QPointF(x_of(a), y + kChordBand - 2));
        // A chord held over from the row before is named once more, faintly, or the row would begin without a name.
        p.setPen(c.confidence < 0.35 || a != c.start ? theme().faint : theme().text);
        p.setFont(text_font(10, c.origin != Origin::Heard));
        QString name = QString::fromStdString(c.chord.name(r.song->flats_at(c.start)));
        if (c.confidence < 0.35) name += " ?";
        paint_text(p, QRectF(x_of(a) + 4, y + 2, x_of(b) - x_of(a) - 5, kChordBand - 3), Qt::AlignVCenter, name);
    }
}

bool PageView::viewportEvent(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        QString text = tr("Click goes there, dragging loops, a double-click on a chord renames it.");
        if (const Ticks t = tick_at(help->pos()); t >= 0) {
            const MeterMap& meter = session_.remake().song->meter;
            const int bar = meter.position(t).bar;
            const auto changes = bar_changes(session_, meter.tick_of_bar(bar), meter.tick_of_bar(bar + 1));
            if (!changes.empty()) text = tr("Bar %1 against bar %2: %3.").arg(bar).arg(changes.front()->of_bar).arg(change_words(changes));
        }
        QToolTip::showText(help->globalPos(), text, viewport());
        return true;
    }
    return QAbstractScrollArea::viewportEvent(event);
}

void PageView::paintEvent(QPaintEvent* event) {
    QPainter p(viewport());
    p.fillRect(event->rect(), theme().ground);
    if (!session_.has_reference()) {
        paint_empty(p, viewport()->rect(), tr("Drop a recording here, or open one with File ▸ Open recording, to see its tempo, bars, chords and sections."));
        return;
    }
    const Remake& r = session_.remake();
    const int scroll = verticalScrollBar()->value();
    const auto in_sight = [&](const Row& row) { return row.top + kRowHeight > scroll && row.top < scroll + viewport()->height(); };
    // The loop lies under the music, the playhead on top.
    for (const Row& row : rows_) {
        if (!in_sight(row) || session_.transport().loop_end() <= session_.transport().loop_start()) continue;
        const Ticks a = std::max(row.start, r.song->tempo.nearest_tick(session_.transport().loop_start())),
                    b = std::min(row.end, r.song->tempo.nearest_tick(session_.transport().loop_end()));
        const double from = axis_of(row).x_of(a);
        if (b > a)
            p.fillRect(QRectF(from, row.top - scroll + 2, axis_of(row).x_of(b) - from, kRowHeight - 10),
                       with_alpha(theme().selection, session_.transport().player().looping() ? 24 : 12));
    }
    still_.paint(p, *viewport(), [&](QPainter& still) {
        for (const Row& row : rows_)
            if (in_sight(row)) paint_row(still, row);
    });
    const double now = session_.transport().position_s();
    for (const Row& row : rows_) {
        if (!in_sight(row) || now < r.song->tempo.seconds(row.start) || now >= r.song->tempo.seconds(row.end)) continue;
        const double x = axis_of(row).x_at(now);
        p.setPen(QPen(theme().text, 1.6));
        p.drawLine(QPointF(x, row.top - scroll + 2), QPointF(x, row.top - scroll + kRowHeight - 12));
    }
}

void PageView::resizeEvent(QResizeEvent*) { lay_out(); }

void PageView::follow_playhead() {
    if (session_.transport().player().playing()) {
        const QPoint at = point_of(session_.remake().song->tempo.nearest_tick(session_.transport().position_s()));
        if (at.x() >= 0 && (at.y() > viewport()->height() - kRowHeight / 2 || at.y() < kRowHeight / 2))
            verticalScrollBar()->setValue(verticalScrollBar()->value() + at.y() - kRowHeight);
    }
    viewport()->update();
}

void PageView::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || tick_at(e->pos()) < 0) return;
    pressed_ = true;
    dragged_ = false;
    press_ = e->pos();
}

void PageView::mouseMoveEvent(QMouseEvent* e) {
    if (!pressed_) return;
    if ((e->pos() - press_).manhattanLength() > 6) dragged_ = true;
    const Ticks a = tick_at(press_), b = tick_at(e->pos());
    if (dragged_ && a >= 0 && b >= 0) session_.transport().set_loop(session_.remake().song->tempo.seconds(a), session_.remake().song->tempo.seconds(b));
}

void PageView::mouseReleaseEvent(QMouseEvent* e) {
    if (!pressed_) return;
    pressed_ = false;
    if (dragged_) session_.transport().seek(session_.transport().loop_start());
    else if (const Ticks t = tick_at(e->pos()); t >= 0) session_.transport().seek(session_.remake().song->tempo.seconds(t));
}

void PageView::mouseDoubleClickEvent(QMouseEvent* e) {
    const Row* row = row_of(e->pos());
    if (!row) return;
    if (e->pos().y() + verticalScrollBar()->value() - row->top < kChordBand) {
        session_.selection().select_element(ElementId::chords());
        emit chord_chosen(tick_at(e->pos()));
    } else if (e->pos().x() < kLeft && row->section >= 0) {
        session_.selection().select_element(ElementId::sections());
    }
}

}  // namespace fw::app

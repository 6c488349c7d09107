// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/page_view.hpp"

#include "app/changes.hpp"
#include "app/painting.hpp"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QToolTip>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr int kLeft = 84, kRight = 16, kTop = 10, kStrip = 9;
constexpr int kGrip = 5;  // pixels to either side of a beat
constexpr double kFarthest = 0.2, kNearest = 4.5;

QString signed_number(int n) { return n > 0 ? QString("+%1").arg(n) : QString("−%1").arg(-n); }
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
    const int height = heights().row();
    int top = kTop;
    const auto add_stretch = [&](int section, Ticks start, Ticks end) {
        bool first = true;
        int bar = r.song->meter.position(start).bar;
        for (Ticks at = start; at < end;) {
            bar += bars_per_row();
            const Ticks next = std::min(end, std::max(at + 1, r.song->meter.tick_of_bar(bar)));
            rows_.push_back({section, at, next, top, first});
            first = false;
            at = next;
            top += height;
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
    verticalScrollBar()->setSingleStep(height / 2);
    still_.renew(*viewport());
}

void PageView::scrollContentsBy(int, int) { still_.renew(*viewport()); }

double PageView::bar_width() const { return static_cast<double>(viewport()->width() - kLeft - kRight) / bars_per_row(); }

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
        if (y >= row.top && y < row.top + heights().row()) return &row;
    return nullptr;
}

QPoint PageView::point_of(Ticks tick) const {
    for (const Row& row : rows_)
        if (tick >= row.start && tick < row.end) {
            return {static_cast<int>(std::lround(axis_of(row).x_of(tick))), row.top - verticalScrollBar()->value() + heights().chords + heights().wave / 2};
        }
    return {-1, -1};
}

Ticks PageView::tick_at(const QPoint& p) const {
    const Row* row = row_of(p);
    if (!row) return -1;
    return std::clamp<Ticks>(axis_of(*row).tick_at(p.x()), row->start, row->end - 1);
}

PageView::Heights PageView::heights() const {
    const auto scaled = [this](double px) { return static_cast<int>(std::lround(px * scale_)); };
    // Far away only the waveform and the bars' numbers are left.
    Heights h{scale_ < 0.5 ? 0 : 20, std::max(12, scaled(46)), scale_ < 0.35 ? 10 : 16, 0, std::clamp(scaled(10), 2, 14)};
    if (strips_ && scale_ >= 0.7) h.strips = strip_count() * kStrip + 2, h.wave = std::max(24, h.wave - 12);
    return h;
}

int PageView::bars_per_row() const {
    if (phrase_) return phrase_;
    if (scale_ >= 0.5) return scale_ > 2.2 ? 4 : 8;
    // Far away a row holds the longest section, up to sixteen bars.
    const Song& song = *session_.remake().song;
    int longest = 1;
    for (const Section& s : song.sections) longest = std::max(longest, song.meter.position(s.start + s.length - 1).bar - song.meter.position(s.start).bar + 1);
    return longest <= 4 ? 4 : longest <= 8 ? 8 : 16;
}

int PageView::strip_count() const {
    const auto a = session_.recording().analysis;
    return a ? static_cast<int>(a->parts.size() + (a->drums.empty() ? 0u : 1u)) : 0;
}

void PageView::set_phrase(int bars) {
    phrase_ = bars;
    lay_out();
}

void PageView::show_strips(bool on) {
    strips_ = on;
    lay_out();
}

void PageView::zoom(int steps) { zoom_to(scale_ * std::pow(1.25, steps)); }

void PageView::zoom_to_usual() { zoom_to(1.0); }

void PageView::zoom_to(double scale) {
    const Ticks seen = rows_.empty() ? 0 : tick_at({kLeft + 1, viewport()->height() / 2});
    scale_ = std::clamp(scale, kFarthest, kNearest);
    lay_out();
    if (seen > 0) show_tick(seen);
}

void PageView::show_tick(Ticks tick) {
    for (const Row& row : rows_)
        if (tick >= row.start && tick < row.end) {
            const int scroll = verticalScrollBar()->value();
            if (row.top < scroll || row.top + heights().row() > scroll + viewport()->height())
                verticalScrollBar()->setValue(row.top - std::max(0, (viewport()->height() - heights().row()) / 3));
        }
}

QPoint PageView::handle_of(Ticks beat) const {
    for (const Row& row : rows_)
        if (beat >= row.start && beat < row.end) {
            const Heights h = heights();
            return {static_cast<int>(std::lround(axis_of(row).x_of(beat))), row.top - verticalScrollBar()->value() + h.chords + h.wave + h.ruler / 2};
        }
    return {-1, -1};
}

std::optional<Ticks> PageView::beat_at(const QPoint& p) const {
    const Row* row = row_of(p);
    if (!row || p.x() < kLeft - kGrip) return std::nullopt;
    const Heights h = heights();
    const int y = p.y() + verticalScrollBar()->value() - row->top - h.chords - h.wave;
    if (y < -2 || y > h.ruler) return std::nullopt;
    const TimeAxis axis = axis_of(*row);
    const MeterMap& meter = session_.remake().song->meter;
    const Ticks at = axis.tick_at(p.x()), beat = meter.at_bar(meter.position(std::max(row->start, at)).bar).beat_ticks();
    const Ticks line = row->start + static_cast<Ticks>(std::llround(static_cast<double>(at - row->start) / static_cast<double>(beat))) * beat;
    if (line < row->start || line >= row->end || std::abs(axis.x_of(line) - p.x()) > kGrip) return std::nullopt;
    return line;
}

void PageView::paint_strips(QPainter& p, const Row& row, const QRectF& area, const TimeAxis& axis) const {
    const auto a = session_.recording().analysis;
    if (!a) return;
    const double from_s = session_.remake().song->tempo.seconds(row.start), to_s = session_.remake().song->tempo.seconds(row.end);
    double y = area.top() + 2;
    const auto strip = [&](const QString& name) {
        p.setPen(theme().faint);
        p.setFont(text_font(7));
        paint_text(p, QRectF(12, y - 2, kLeft - 20, kStrip + 3), Qt::AlignVCenter, name);
        p.setPen(theme().hairline);
        p.drawLine(QPointF(area.left(), y + kStrip - 1.5), QPointF(area.right(), y + kStrip - 1.5));
    };
    const auto mark = [&](double start_s, double end_s, double sure) {
        const double x = axis.x_at(std::max(from_s, start_s)), end = axis.x_at(std::min(to_s, end_s));
        p.fillRect(QRectF(x, y, std::max(1.5, end - x - 0.5), kStrip - 3),
                   with_alpha(theme().original, static_cast<int>(70 + 185 * std::clamp(sure, 0.0, 1.0))));
    };
    for (const HeardPart& part : a->parts) {
        strip(QString::fromStdString(part.name));
        constexpr double kLongest_s = 16.0;  // no note that began earlier reaches in here
        auto n = std::lower_bound(part.notes.begin(), part.notes.end(), from_s - kLongest_s, [](const HeardNote& x, double t) { return x.onset_s < t; });
        for (; n != part.notes.end() && n->onset_s < to_s; ++n)
            if (n->onset_s + n->duration_s > from_s) mark(n->onset_s, n->onset_s + n->duration_s, n->confidence);
        y += kStrip;
    }
    if (a->drums.empty()) return;
    strip(tr("Drums"));
    // Low drums below, hats above, what is struck between them over the whole height.
    auto hit = std::lower_bound(a->drums.begin(), a->drums.end(), from_s, [](const Hit& x, double t) { return x.time_s < t; });
    for (; hit != a->drums.end() && hit->time_s < to_s; ++hit) {
        const bool low = hit->kind == DrumKind::Kick || hit->kind == DrumKind::Tom;
        const bool high = hit->kind == DrumKind::HatClosed || hit->kind == DrumKind::HatOpen || hit->kind == DrumKind::Ride || hit->kind == DrumKind::Crash;
        p.fillRect(QRectF(axis.x_at(hit->time_s), y + (low ? 3 : 0), 1.5,
                          high  ? 2
                          : low ? 4
                                : 7),
                   with_alpha(theme().original, static_cast<int>(70 + 185 * std::clamp(hit->confidence, 0.0, 1.0))));
    }
}

void PageView::paint_row(QPainter& p, const Row& row) const {
    const Remake& r = session_.remake();
    const Heights h = heights();
    const int y = row.top - verticalScrollBar()->value();
    const TimeAxis axis = axis_of(row);
    const auto x_of = [&](Ticks t) { return axis.x_of(t); };
    const QRectF wave(kLeft, y + h.chords, x_of(row.end) - kLeft, h.wave);
    const auto analysis = session_.recording().analysis;
    if (row.first_of_section) {
        p.setPen(theme().text);
        p.setFont(text_font(scale_ < 0.5 ? 9 : 13, true));
        QString label = row.section < 0 ? QString("–") : QString::fromStdString(r.song->sections[static_cast<std::size_t>(row.section)].label);
        // A repeat in another key says so once.
        if (const int up = section_shift(session_, row.start, row.end); up != 0) label += " " + signed_number(up);
        p.drawText(QRectF(12, y + h.chords - 2, kLeft - 14, std::min(22, h.wave + 4)), Qt::AlignVCenter, label);
        if (row.section >= 0 && h.wave >= 24) {
            const Section& s = r.song->sections[static_cast<std::size_t>(row.section)];
            const QString bars = tr("%1 bars").arg(std::lround(static_cast<double>(s.length) / static_cast<double>(bar_ticks(row))));
            p.setFont(text_font(8.5));
            p.setPen(theme().faint);
            paint_text(p, QRectF(12, y + h.chords + 18, kLeft - 16, 14), Qt::AlignVCenter, QString::fromStdString(s.name));
            // Where there is no room below the name, above the letter.
            p.drawText(QRectF(12, h.wave >= 42 ? y + h.chords + 31 : y + 2, kLeft - 16, 14), Qt::AlignVCenter, bars);
        }
    }
    const double start_s = r.song->tempo.seconds(row.start);
    for (const FreeTime& f : r.song->free_time) {
        const Ticks a = std::max(f.start, row.start), b = std::min(f.start + f.length, row.end);
        if (b <= a) continue;
        p.fillRect(QRectF(x_of(a), wave.top(), x_of(b) - x_of(a), h.wave + h.ruler), with_alpha(theme().hairline, 150));
        p.setPen(theme().faint);
        p.setFont(text_font(8));
        paint_text(p, QRectF(x_of(a) + 4, wave.top(), x_of(b) - x_of(a) - 8, 12), Qt::AlignRight, tr("free time"));
    }
    // Time inside a bar may run unevenly, so the waveform is painted bar by bar where its bar lines are.
    for_each_bar(r, row.start, row.end, [&](int bar, Ticks a, Ticks b) {
        a = std::max(a, row.start), b = std::min(b, row.end);
        paint_waveform(p, QRectF(x_of(a), wave.top(), x_of(b) - x_of(a) + 1, h.wave), session_.recording().peaks, r.song->tempo.seconds(a),
                       r.song->tempo.seconds(b), theme().original);
        const Ticks beat = r.song->meter.at_bar(bar).beat_ticks();
        for (Ticks t = a; t < b; t += beat) {
            p.setPen(QPen(t == a ? theme().text : theme().hairline, t == a ? 1.2 : 1.0));
            p.drawLine(QPointF(x_of(t), wave.bottom() - (t == a ? h.wave : 0)), QPointF(x_of(t), wave.bottom() + (t == a ? 6 : 4)));
        }
        p.setPen(theme().faint);
        p.setFont(h.ruler < 14 ? figure_font(6.5) : text_font(8));
        const auto changes = bar_changes(session_, a, b);
        QString text = QString::number(bar);
        if (!changes.empty()) text += " ≠ " + (h.ruler < 14 ? QString() : change_words(session_, changes));
        const MeterMap::Change& meter = r.song->meter.at_bar(bar);
        if (meter.bar == bar && (bar > 1 || r.song->meter.changes().size() > 1)) text += QString("  %1/%2").arg(meter.numerator).arg(meter.denominator);
        paint_text(p, QRectF(x_of(a) + 3, wave.bottom() + 1, x_of(b) - x_of(a) - 5, h.ruler), Qt::AlignVCenter, text);
    });
    p.setPen(Qt::NoPen);
    p.setBrush(theme().text);
    for (const Pin& pin : r.song->pins)
        if (pin.at >= row.start && pin.at < row.end) {
            const double x = x_of(pin.at), bottom = wave.bottom();
            p.drawPolygon(QPolygonF({{x - 4, bottom + 7}, {x + 4, bottom + 7}, {x, bottom}}));
        }
    p.setBrush(Qt::NoBrush);
    if (h.ruler >= 14) {
        p.setFont(figure_font(7.5));
        p.setPen(theme().faint);
        p.drawText(QRectF(12, wave.bottom() + 1, kLeft - 20, h.ruler), Qt::AlignVCenter, time_text(start_s).left(6));
    }
    if (h.strips) paint_strips(p, row, QRectF(kLeft, wave.bottom() + h.ruler, wave.width(), h.strips), axis);
    for (const ChordEvent& c : r.song->chords) {
        const Ticks a = std::max(c.start, row.start), b = std::min(c.start + c.length, row.end);
        if (b <= a || h.chords == 0) continue;
        p.setPen(theme().hairline);
        p.drawLine(QPointF(x_of(a), y + 3), QPointF(x_of(a), y + h.chords - 2));
        // A chord held over from the row before is named once more, faintly, or the row would begin without a name.
        p.setPen(c.confidence < 0.35 || a != c.start ? theme().faint : theme().text);
        p.setFont(text_font(10, c.origin != Origin::Heard));
        QString name = QString::fromStdString(c.chord.name(r.song->flats_at(c.start)));
        if (c.confidence < 0.35) name += " ?";
        paint_text(p, QRectF(x_of(a) + 4, y + 2, x_of(b) - x_of(a) - 5, h.chords - 3), Qt::AlignVCenter, name);
    }
}

bool PageView::viewportEvent(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        QString text = tr("Click goes there, dragging loops, a double-click on a chord renames it, the right button offers more.");
        if (const auto beat = beat_at(help->pos())) {
            const auto& pins = session_.remake().song->pins;
            const bool pinned = std::any_of(pins.begin(), pins.end(), [&](const Pin& pin) { return pin.at == *beat; });
            QToolTip::showText(
                help->globalPos(),
                pinned ? tr("Pinned: drag it, or double-click to let go of it.")
                       : tr("Drag this beat to where the recording has it; its neighbours follow up to the next pin or bar line, with Shift all the rest."),
                viewport());
            return true;
        }
        if (const Ticks t = tick_at(help->pos()); t >= 0) {
            const MeterMap& meter = session_.remake().song->meter;
            const int bar = meter.position(t).bar;
            const auto changes = bar_changes(session_, meter.tick_of_bar(bar), meter.tick_of_bar(bar + 1));
            if (!changes.empty()) text = tr("Bar %1 against bar %2: %3.").arg(bar).arg(changes.front()->of_bar).arg(change_words(session_, changes));
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
    const auto in_sight = [&](const Row& row) { return row.top + heights().row() > scroll && row.top < scroll + viewport()->height(); };
    // The loop lies under the music, the playhead on top.
    for (const Row& row : rows_) {
        if (!in_sight(row) || session_.transport().loop_end() <= session_.transport().loop_start()) continue;
        const Ticks a = std::max(row.start, r.song->tempo.nearest_tick(session_.transport().loop_start())),
                    b = std::min(row.end, r.song->tempo.nearest_tick(session_.transport().loop_end()));
        const double from = axis_of(row).x_of(a);
        if (b > a)
            p.fillRect(QRectF(from, row.top - scroll + 2, axis_of(row).x_of(b) - from, heights().row() - heights().gap),
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
        p.drawLine(QPointF(x, row.top - scroll + 2), QPointF(x, row.top - scroll + heights().row() - heights().gap - 2));
    }
    if (held_ && dragged_) {
        if (const Row* row = row_of(press_)) {
            const double by_ms = 1000.0 * (r.song->tempo.seconds(axis_of(*row).tick_at(now_.x())) - r.song->tempo.seconds(*held_));
            p.setPen(QPen(theme().selection, 1.6));
            p.drawLine(QPointF(now_.x(), row->top - scroll + 2), QPointF(now_.x(), row->top - scroll + heights().chords + heights().wave + 8));
            p.setFont(figure_font(9));
            p.setPen(theme().text);
            p.drawText(QPointF(now_.x() + 6, row->top - scroll + heights().chords + heights().wave + 13), tr("%1 ms").arg(std::lround(by_ms)));
        }
    }
}

void PageView::resizeEvent(QResizeEvent*) { lay_out(); }

void PageView::follow_playhead() {
    if (session_.transport().player().playing()) {
        const QPoint at = point_of(session_.remake().song->tempo.nearest_tick(session_.transport().position_s()));
        if (at.x() >= 0 && (at.y() > viewport()->height() - heights().row() / 2 || at.y() < heights().row() / 3))
            verticalScrollBar()->setValue(verticalScrollBar()->value() + at.y() - heights().row());
    }
    viewport()->update();
}

void PageView::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || tick_at(e->pos()) < 0) return;
    pressed_ = true;
    dragged_ = false;
    press_ = now_ = e->pos();
    held_ = session_.provisional() ? std::nullopt : beat_at(press_);
}

void PageView::mouseMoveEvent(QMouseEvent* e) {
    if (!pressed_) {
        viewport()->setCursor(beat_at(e->pos()) ? Qt::SizeHorCursor : Qt::ArrowCursor);
        return;
    }
    now_ = e->pos();
    if ((now_ - press_).manhattanLength() > (held_ ? 2 : 6)) dragged_ = true;
    if (held_) {
        viewport()->update();
        return;
    }
    const Ticks a = tick_at(press_), b = tick_at(e->pos());
    if (dragged_ && a >= 0 && b >= 0) session_.transport().set_loop(session_.remake().song->tempo.seconds(a), session_.remake().song->tempo.seconds(b));
}

void PageView::mouseReleaseEvent(QMouseEvent* e) {
    if (!pressed_) return;
    pressed_ = false;
    const Remake& r = session_.remake();
    if (const auto held = std::exchange(held_, std::nullopt)) {
        const Row* row = row_of(press_);
        if (dragged_ && row) {
            Line line("tempo.pin");
            line.with("at", place_text(r.song->meter, *held)).with("time", std::to_string(r.song->tempo.seconds(axis_of(*row).tick_at(e->pos().x()))));
            if (e->modifiers() & Qt::ShiftModifier) line.with("reach", "all");
            session_.documents().run(line);
        } else {
            session_.transport().seek(r.song->tempo.seconds(*held));
        }
        viewport()->update();
        return;
    }
    if (dragged_) session_.transport().seek(session_.transport().loop_start());
    else if (const Ticks t = tick_at(e->pos()); t >= 0) session_.transport().seek(r.song->tempo.seconds(t));
}

void PageView::wheelEvent(QWheelEvent* e) {
    if (!(e->modifiers() & Qt::ControlModifier)) return QAbstractScrollArea::wheelEvent(e);
    zoom(e->angleDelta().y() > 0 ? 1 : -1);
    e->accept();
}

void PageView::contextMenuEvent(QContextMenuEvent* e) {
    const Ticks t = tick_at(e->pos());
    if (t < 0 || !session_.has_reference()) return;
    session_.transport().seek(session_.remake().song->tempo.seconds(t));
    emit menu_wanted(e->globalPos());
}

void PageView::mouseDoubleClickEvent(QMouseEvent* e) {
    const Row* row = row_of(e->pos());
    if (!row) return;
    if (const auto beat = beat_at(e->pos())) {
        const auto& pins = session_.remake().song->pins;
        if (std::any_of(pins.begin(), pins.end(), [&](const Pin& pin) { return pin.at == *beat; }))
            session_.documents().run(Line("tempo.unpin").with("at", place_text(session_.remake().song->meter, *beat)));
        return;
    }
    if (e->pos().y() + verticalScrollBar()->value() - row->top < heights().chords) {
        session_.selection().select_element(ElementId::chords());
        emit chord_chosen(tick_at(e->pos()));
    } else if (e->pos().x() < kLeft && row->section >= 0) {
        session_.selection().select_element(ElementId::sections());
    }
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/match_table.hpp"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>

namespace fw::app {

namespace {
constexpr double kNames = 118, kHead = 20, kRow = 22, kBars = 7, kRight = 12;
}

MatchTable::MatchTable(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("match-table");
    setFocusPolicy(Qt::StrongFocus);
    still_.follow(*this, session_, {&Session::report_changed, &Session::document_changed, &Session::selection_changed, &Session::opened});
    connect(&session_, &Session::opened, this, [this] { place_ = {}; });
    connect(&session_, &Session::report_changed, this, [this] { updateGeometry(); });
}

std::vector<MatchTable::Row> MatchTable::rows() const {
    std::vector<Row> out;
    const auto report = session_.report();
    if (!report) return out;
    for (const ElementMatch& e : report->elements)
        if (e.kind == "part") out.push_back({QString::fromStdString(e.name), &e, false});
    out.push_back({tr("All notes"), nullptr, false});
    out.push_back({tr("Sound"), nullptr, true});
    return out;
}

int MatchTable::sections() const { return static_cast<int>(session_.remake().song->sections.size()); }

QSize MatchTable::sizeHint() const { return {400, static_cast<int>(kHead + kRow * static_cast<double>(std::max<std::size_t>(3, rows().size())) + 6)}; }

QRectF MatchTable::cell_rect(int row, int section) const {
    const int columns = sections() + 1;
    const double step = (width() - kNames - kRight) / std::max(1, columns);
    return {kNames + step * (section + 1), kHead + kRow * row, step, kRow};
}

std::pair<int, int> MatchTable::bars_of(int section) const {
    const Song& song = *session_.remake().song;
    const auto report = session_.report();
    if (section < 0 || section >= sections()) return {1, report ? static_cast<int>(report->bars.size()) + 1 : 1};
    const Section& s = song.sections[static_cast<std::size_t>(section)];
    return {song.meter.position(s.start).bar, song.meter.position(s.start + s.length - 1).bar + 1};
}

std::pair<double, double> MatchTable::span(const MatchPlace& place) const {
    const Song& song = *session_.remake().song;
    if (place.bar > 0) return {song.tempo.seconds(song.meter.tick_of_bar(place.bar)), song.tempo.seconds(song.meter.tick_of_bar(place.bar + 1))};
    if (place.section < 0 || place.section >= sections()) return {0.0, std::max(1.0, session_.remake().reference.duration_s)};
    const auto [first, end] = bars_of(place.section);
    return {song.tempo.seconds(song.meter.tick_of_bar(first)), song.tempo.seconds(song.meter.tick_of_bar(end))};
}

std::optional<double> MatchTable::figure(const Row& row, int section) const {
    const auto report = session_.report();
    if (!report) return {};
    if (row.sound) {
        if (section < 0) return report->match.sound;
        const auto& all = report->sound.sections;
        return static_cast<std::size_t>(section) < all.size() ? all[static_cast<std::size_t>(section)].sound : std::nullopt;
    }
    if (section < 0) return row.element ? row.element->match.notes : report->match.notes;
    const auto& sections = row.element ? row.element->sections : report->sections;
    return static_cast<std::size_t>(section) < sections.size() ? sections[static_cast<std::size_t>(section)] : std::nullopt;
}

QString MatchTable::words(const MatchPlace& place) const {
    const auto report = session_.report();
    if (!report) return {};
    const auto all = rows();
    const auto row = std::find_if(all.begin(), all.end(), [&](const Row& r) {
        return place.sound ? r.sound : place.element ? r.element && r.element->id == *place.element : !r.element && !r.sound;
    });
    if (row == all.end()) return {};
    const QString where = place.bar > 0 ? tr("bar %1").arg(place.bar)
                          : place.section >= 0 && place.section < sections()
                              ? QString::fromStdString(session_.remake().song->sections[static_cast<std::size_t>(place.section)].name)
                              : QString(tr("the whole song"));
    std::optional<double> v = figure(*row, place.section);
    if (place.bar > 0 && !row->sound) {
        const auto& bars = row->element ? row->element->bars : report->bars;
        v = static_cast<std::size_t>(place.bar) <= bars.size() ? bars[static_cast<std::size_t>(place.bar - 1)] : std::nullopt;
    }
    const QString measures = row->sound     ? tr("how near level, tone and width are at matched loudness")
                             : row->element ? of_core(row->element->measures)
                                            : tr("the parts' figures, each by how much of it there is");
    return tr("%1, %2: %3 — %4.").arg(row->name, where, v ? percent_text(*v) : QString(tr("nothing to compare")), measures);
}

std::optional<MatchPlace> MatchTable::place_at(QPointF at) const {
    const auto all = rows();
    const int row = static_cast<int>((at.y() - kHead) / kRow);
    if (at.y() < kHead || row >= static_cast<int>(all.size())) return std::nullopt;
    MatchPlace p;
    const Row& r = all[static_cast<std::size_t>(row)];
    if (r.element) p.element = r.element->id;
    p.sound = r.sound;
    if (at.x() < kNames) return p;
    const double step = cell_rect(0, 0).width();
    p.section = std::clamp(static_cast<int>((at.x() - kNames) / step) - 1, -1, sections() - 1);
    const QRectF cell = cell_rect(row, p.section);
    if (p.section >= 0 && !r.sound && at.y() > cell.bottom() - kBars - 2) {
        const auto [first, end] = bars_of(p.section);
        p.bar = first + std::clamp(static_cast<int>((at.x() - cell.left()) / cell.width() * (end - first)), 0, std::max(0, end - first - 1));
    }
    return p;
}

void MatchTable::choose(const MatchPlace& place) {
    place_ = place;
    if (place.element) session_.selection().select_element(*place.element);
    still_.renew(*this);
    emit chosen();
}

void MatchTable::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (const auto p = place_at(e->position())) choose(*p);
}

void MatchTable::keyPressEvent(QKeyEvent* e) {
    const auto all = rows();
    if (all.empty()) return;
    int row = 0;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (place_.sound ? all[i].sound : place_.element ? all[i].element && all[i].element->id == *place_.element : !all[i].element && !all[i].sound)
            row = static_cast<int>(i);
    MatchPlace next = place_;
    next.bar = 0;
    switch (e->key()) {
        case Qt::Key_Up: row = std::max(0, row - 1); break;
        case Qt::Key_Down: row = std::min(static_cast<int>(all.size()) - 1, row + 1); break;
        case Qt::Key_Left: next.section = std::max(-1, next.section - 1); break;
        case Qt::Key_Right: next.section = std::min(sections() - 1, next.section + 1); break;
        case Qt::Key_Backspace:
            if (place_.bar == 0) next.section = -1;
            break;
        default: QWidget::keyPressEvent(e); return;
    }
    const Row& r = all[static_cast<std::size_t>(row)];
    next.element = r.element ? std::optional(r.element->id) : std::nullopt;
    next.sound = r.sound;
    choose(next);
}

bool MatchTable::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip) return QWidget::event(e);
    const auto* help = static_cast<QHelpEvent*>(e);
    if (const auto p = place_at(help->pos())) QToolTip::showText(help->globalPos(), words(*p) + "\n" + tr("A click shows this place and its findings."), this);
    else QToolTip::hideText();
    return true;
}

void MatchTable::paintEvent(QPaintEvent*) {
    QPainter p(this);
    still_.paint(p, *this, [this](QPainter& still) { paint_still(still); });
}

void MatchTable::paint_still(QPainter& p) const {
    p.fillRect(rect(), theme().ground);
    if (!session_.report() || !session_.has_reference()) {
        paint_empty(p, rect(), tr("Open a recording first: the check compares your rebuild with it, element by element."));
        return;
    }
    const auto all = rows();
    const auto& song = *session_.remake().song;
    p.setFont(text_font(8.5));
    p.setPen(theme().faint);
    for (int s = -1; s < sections(); ++s) {
        const QRectF cell = cell_rect(0, s);
        paint_text(p, QRectF(cell.left() + 3, 0, cell.width() - 4, kHead), Qt::AlignVCenter,
                   s < 0 ? QString(tr("song")) : QString::fromStdString(song.sections[static_cast<std::size_t>(s)].name));
    }
    for (std::size_t i = 0; i < all.size(); ++i) {
        const Row& row = all[i];
        const int r = static_cast<int>(i);
        const bool mine = row.element && row.element->id == session_.selection().element();
        p.setPen(theme().text);
        p.setFont(text_font(8.5, mine));
        paint_text(p, QRectF(12, kHead + kRow * r, kNames - 16, kRow), Qt::AlignVCenter, row.name);
        for (int s = -1; s < sections(); ++s) {
            const QRectF cell = cell_rect(r, s);
            const auto v = figure(row, s);
            p.setFont(figure_font(8.0));
            p.setPen(v ? theme().text : theme().faint);
            const bool bars = s >= 0 && !row.sound;
            p.drawText(QRectF(cell.left() + 3, cell.top() + 1, cell.width() - 6, kRow - kBars), Qt::AlignVCenter | Qt::AlignLeft,
                       v ? (cell.width() > 34 ? percent_text(*v) : QString::number(std::lround(*v * 100))) : QString("–"));
            const QRectF strip(cell.left() + 3, cell.bottom() - kBars, cell.width() - 6, kBars - 2);
            if (!bars) {
                if (v) p.fillRect(QRectF(strip.left(), strip.top(), strip.width() * *v, strip.height()), match_color(v));
                continue;
            }
            const auto& of = row.element ? row.element->bars : session_.report()->bars;
            const auto [first, end] = bars_of(s);
            const double step = strip.width() / std::max(1, end - first);
            for (int b = first; b < end && b <= static_cast<int>(of.size()); ++b) {
                const auto& m = of[static_cast<std::size_t>(b - 1)];
                const QRectF at(strip.left() + (b - first) * step, strip.top(), std::max(1.0, step - 1.0), strip.height());
                if (m) p.fillRect(at, match_color(m));
                else p.fillRect(QRectF(at.left(), at.center().y(), at.width(), 1), theme().hairline);
                if (place_.bar == b && (place_.element ? row.element && row.element->id == *place_.element : !row.element)) {
                    p.setPen(QPen(theme().selection, 1.5));
                    p.drawRect(at.adjusted(-1, -1, 1, 1));
                }
            }
        }
        p.setPen(theme().hairline);
        p.drawLine(QPointF(12, kHead + kRow * (r + 1)), QPointF(width() - kRight, kHead + kRow * (r + 1)));
        const bool chosen = place_.sound ? row.sound : place_.element ? mine && row.element->id == *place_.element : !row.element && !row.sound;
        if (chosen) {
            p.setPen(QPen(theme().selection, 1.5));
            p.drawRect(cell_rect(r, place_.section).adjusted(0.5, 1.5, -1.5, -0.5));
        }
    }
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desks.hpp"
#include "app/sound_finder.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr int kNames = 128, kHead = 40, kRowHeight = 36;
}

ArrangementGrid::ArrangementGrid(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setAccessibleName(tr("Arrangement"));
    setToolTip(tr("Click a cell to mute or unmute the part in that section; click a name to select the part."));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    connect(&session_, &Session::document_changed, this, [this] { updateGeometry(); });
    still_.follow(*this, session_, {&Session::document_changed, &Session::selection_changed, &Session::report_changed});
}

QSize ArrangementGrid::sizeHint() const { return {400, kHead + std::clamp(static_cast<int>(session_.remake().parts.size()), 3, 12) * kRowHeight + 2}; }

QRectF ArrangementGrid::cell_rect(int part, int section) const {
    const Remake& r = session_.remake();
    if (section < 0 || section >= static_cast<int>(r.song->sections.size())) return {};
    // Columns as wide as their sections are long, but never too narrow for a letter.
    double total = 0;
    for (const Section& s : r.song->sections) total += std::max<double>(2.0 * kTicksPerQuarter * 4, static_cast<double>(s.length));
    const double scale = (width() - kNames - 14) / std::max(1.0, total);
    double x = kNames;
    for (int i = 0; i < section; ++i)
        x += std::max<double>(2.0 * kTicksPerQuarter * 4, static_cast<double>(r.song->sections[static_cast<std::size_t>(i)].length)) * scale;
    const double w = std::max<double>(2.0 * kTicksPerQuarter * 4, static_cast<double>(r.song->sections[static_cast<std::size_t>(section)].length)) * scale;
    return {x, static_cast<double>(kHead + part * kRowHeight), w, kRowHeight};
}

void ArrangementGrid::paintEvent(QPaintEvent*) {
    QPainter p(this);
    still_.paint(p, *this, [this](QPainter& still) { paint_still(still); });
}

void ArrangementGrid::paint_still(QPainter& p) const {
    p.fillRect(rect(), theme().ground);
    const Remake& r = session_.remake();
    if (!session_.has_reference()) {
        paint_empty(p, rect(), tr("Open a recording first: its parts and sections make the grid."));
        return;
    }
    p.setRenderHint(QPainter::Antialiasing);
    for (int s = 0; s < static_cast<int>(r.song->sections.size()); ++s) {
        const QRectF head = cell_rect(0, s);
        const Section& section = r.song->sections[static_cast<std::size_t>(s)];
        p.setPen(theme().text);
        p.setFont(text_font(10, true));
        paint_text(p, QRectF(head.left() + 6, 4, head.width() - 8, 18), Qt::AlignVCenter, QString::fromStdString(section.label));
        p.setFont(text_font(8.5));
        p.setPen(theme().faint);
        paint_text(p, QRectF(head.left() + 6, 20, head.width() - 8, 16), Qt::AlignVCenter,
                   QString("%1 · %2").arg(QString::fromStdString(section.name)).arg(r.song->meter.position(section.start).bar));
    }
    for (int i = 0; i < static_cast<int>(r.parts.size()); ++i) {
        const Part& part = *r.parts[static_cast<std::size_t>(i)];
        const bool chosen = session_.selection().element() == ElementId(part.id);
        const QRectF row(0, kHead + i * kRowHeight, width(), kRowHeight);
        if (chosen) p.fillRect(row, theme().raised);
        p.setPen(theme().hairline);
        p.drawLine(row.bottomLeft(), row.bottomRight());
        p.setPen(part.mute ? theme().faint : theme().text);
        p.setFont(text_font(9.5, chosen));
        paint_text(p, QRectF(12, row.top() + 2, kNames - 20, 18), Qt::AlignVCenter, QString::fromStdString(part.name));
        p.setFont(text_font(8));
        p.setPen(theme().faint);
        const Layer layer = part.layers.empty() ? Layer{} : part.layers.front();
        paint_text(p, QRectF(12, row.top() + 18, kNames - 20, 15), Qt::AlignVCenter,
                   QString("%1 dB%2").arg(part.gain_db, 0, 'f', 1).arg(layer.patch.empty() ? QString() : ", " + QString::fromStdString(layer.patch)));
        for (int s = 0; s < static_cast<int>(r.song->sections.size()); ++s) {
            const Section& section = r.song->sections[static_cast<std::size_t>(s)];
            const QRectF cell = cell_rect(i, s).adjusted(2, 3, -2, -4);
            const Placement* placement = nullptr;
            for (const Placement& x : part.placements)
                if (x.start >= section.start && x.start < section.start + section.length) placement = &x;
            const Pattern* pattern = placement ? part.pattern(placement->pattern) : nullptr;
            if (!pattern) {
                p.setPen(QPen(theme().hairline, 1, Qt::DotLine));
                p.setBrush(Qt::NoBrush);
                p.drawRect(cell);
                continue;
            }
            p.setPen(QPen(placement->muted ? theme().hairline : theme().rebuild, 1));
            p.setBrush(placement->muted ? QBrush(Qt::NoBrush) : QBrush(with_alpha(theme().rebuild, 28)));
            p.drawRect(cell);
            // The pattern's own notes, small: what is played shows before it is read.
            if (const auto notes = pattern ? part.notes(*pattern) : std::vector<Note>(); !notes.empty()) {
                int low = 127, high = 0;
                for (const Note& n : notes) low = std::min(low, n.pitch), high = std::max(high, n.pitch);
                const double unit = cell.width() / static_cast<double>(std::max<Ticks>(1, pattern->length));
                p.setRenderHint(QPainter::Antialiasing, false);
                for (const Note& n : notes) {
                    const double y = cell.bottom() - 4 - (cell.height() - 8) * (high > low ? static_cast<double>(n.pitch - low) / (high - low) : 0.5);
                    p.fillRect(QRectF(std::max(cell.left(), cell.left() + static_cast<double>(n.start) * unit), y - 1,
                                      std::max(1.5, static_cast<double>(n.length) * unit), 2),
                               with_alpha(theme().rebuild, placement->muted ? 60 : 200));
                }
                p.setRenderHint(QPainter::Antialiasing);
            }
            const QString letter = QString::fromStdString(pattern->letter) + (placement->muted ? tr("  muted") : "");
            p.setFont(text_font(9, true));
            const QRectF tag(cell.left() + 2, cell.top() + 2, std::min(cell.width() - 4, QFontMetricsF(p.font()).horizontalAdvance(letter) + 8), 15);
            p.fillRect(tag, theme().ground);
            p.setPen(placement->muted ? theme().faint : theme().text);
            paint_text(p, tag.adjusted(3, 0, 0, 0), Qt::AlignVCenter, letter);
        }
    }
}

void ArrangementGrid::mousePressEvent(QMouseEvent* e) {
    const int row = (e->pos().y() - kHead) / kRowHeight;
    const Remake& r = session_.remake();
    if (e->pos().y() < kHead || row >= static_cast<int>(r.parts.size())) return;
    const Part& part = *r.parts[static_cast<std::size_t>(row)];
    session_.selection().select_element(part.id);
    for (int s = 0; s < static_cast<int>(r.song->sections.size()); ++s) {
        if (!cell_rect(row, s).contains(e->position())) continue;
        const Section& section = r.song->sections[static_cast<std::size_t>(s)];
        for (const Placement& x : part.placements)
            if (x.start >= section.start && x.start < section.start + section.length) {
                session_.documents().run(
                    Line("part.mute-in").with("part", part_text(r, part.id)).with("section", section_text(r, section.id)).with("on", x.muted ? "off" : "on"));
                return;
            }
    }
}

ToneView::ToneView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setMinimumHeight(150);
    setToolTip(tr("Mean level in third octaves, the rebuild brought to the original's loudness."));
    still_.follow(*this, session_, {&Session::report_changed, &Session::analysis_changed});
}

void ToneView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    still_.paint(p, *this, [this](QPainter& still) { paint_still(still); });
}

void ToneView::paint_still(QPainter& p) const {
    p.fillRect(rect(), theme().ground);
    p.setPen(theme().hairline);
    p.drawLine(0, 0, width(), 0);
    const QRectF area = QRectF(rect()).adjusted(52, 26, -22, -20);
    p.setFont(text_font(8.5));
    p.setPen(theme().faint);
    paint_text(p, QRectF(12, 4, width() - 20, 18), Qt::AlignVCenter,
               width() > 320 ? QString(tr("Tone in third octaves, at matched loudness")) : QString(tr("Tone at matched loudness")));
    const auto report = session_.report();
    if (!report || report->sound.tone.empty()) {
        paint_empty(p, rect(),
                    session_.has_reference() ? tr("The rebuild is being rendered; its tone appears here in a moment.")
                                             : tr("Both sources' tone appears here once a recording is open."));
        return;
    }
    double top = -120;
    for (const ToneBand& t : report->sound.tone) top = std::max({top, t.original_db, t.rebuild_db + report->sound.match_gain_db});
    const double high = std::ceil(top / 12) * 12, low = high - 60;
    const auto& tone = report->sound.tone;
    const double step = area.width() / static_cast<double>(tone.size());
    const auto y_of = [&](double db) { return area.bottom() - std::clamp((db - low) / (high - low), 0.0, 1.0) * area.height(); };
    p.setFont(figure_font(7.5));
    for (double db = low; db <= high; db += 12) {
        p.setPen(theme().hairline);
        p.drawLine(QPointF(area.left(), y_of(db)), QPointF(area.right(), y_of(db)));
        p.setPen(theme().faint);
        p.drawText(QRectF(4, y_of(db) - 7, 42, 14), Qt::AlignVCenter | Qt::AlignRight, QString("%1 dB").arg(db));
    }
    p.setCompositionMode(theme().overprint);
    for (std::size_t i = 0; i < tone.size(); ++i) {
        const double x = area.left() + static_cast<double>(i) * step;
        p.fillRect(QRectF(x + 1, y_of(tone[i].original_db), step - 2, area.bottom() - y_of(tone[i].original_db)), with_alpha(theme().original, 190));
        const double y = y_of(tone[i].rebuild_db + report->sound.match_gain_db);
        p.fillRect(QRectF(x + 1, y, step - 2, area.bottom() - y), rebuild_hatch(170));
    }
    p.setCompositionMode(QPainter::CompositionMode_SourceOver);
    p.setPen(theme().faint);
    // As many frequencies as there is room for: every octave, or every second or third.
    std::size_t every = 3;
    while (static_cast<double>(every) * step < 46) every += 3;
    for (std::size_t i = 1; i < tone.size(); i += every) {
        const double hz = tone[i].center_hz;
        p.drawText(QRectF(area.left() + static_cast<double>(i) * step - 24, area.bottom() + 3, step + 48, 14), Qt::AlignCenter,
                   hz >= 1000 ? tr("%1 kHz").arg(hz / 1000, 0, 'g', 2) : QString("%1 Hz").arg(std::lround(hz)));
    }
}

RebuildDesk::RebuildDesk(Session& session, QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(grid_ = new ArrangementGrid(session));
    column->addWidget(curve_ = new CurveView(session, *grid_));
    column->addWidget(sheet_ = new SoundSheet(session), 1);
    finder_ = new SoundFinder(session, this);
    connect(sheet_, &SoundSheet::finder_wanted, finder_, &SoundFinder::open_for);
    connect(sheet_, &SoundSheet::field_chosen, curve_, [this] { curve_->show_field(sheet_->chosen_field()); });
}

}  // namespace fw::app

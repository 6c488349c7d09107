// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desks.hpp"
#include "app/sound_finder.hpp"

#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace fw::app {

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
    column->addWidget(clip_ = new ClipView(session));
    clip_->hide();
    column->addWidget(sheet_ = new SoundSheet(session), 1);
    finder_ = new SoundFinder(session, this);
    connect(sheet_, &SoundSheet::finder_wanted, finder_, &SoundFinder::open_for);
    const auto show_clip = [this](ClipId clip) {
        clip_->show_clip(clip);
        clip_->setVisible(static_cast<bool>(clip));
        curve_->setVisible(!clip);
    };
    connect(grid_, &ArrangementGrid::clip_chosen, this, [this, show_clip] { show_clip(grid_->chosen_clip()); });
    connect(sheet_, &SoundSheet::field_chosen, curve_, [this, show_clip] {
        show_clip({});
        curve_->show_field(sheet_->chosen_field());
    });
}

}  // namespace fw::app

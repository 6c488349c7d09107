// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/tone_picture.hpp"

#include "app/painting.hpp"
#include "app/sheet_widgets.hpp"
#include "app/words.hpp"
#include "check/part_sound.hpp"
#include "sound/tone_curve.hpp"

#include <QHBoxLayout>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

constexpr double kRange_db = 18.0, kLowest_hz = 25.0, kHighest_hz = 18'000.0;

/// What a step does to a frequency, dB.
double db_at(const Step& step, double hz, double rate_hz) {
    std::vector<double> values;
    for (std::size_t f = 0; f < step.type->fields.size(); ++f) values.push_back(step.value(f));
    return step.type == &kFilter ? filter_db(values, hz, rate_hz) : equaliser_db(values, hz, rate_hz);
}

}  // namespace

TonePicture::TonePicture(Session& session, PartId part, StepId step, QWidget* parent) : QWidget(parent), session_(session), part_(part), step_(step) {
    setObjectName("tone_picture");
    setAccessibleName(tr("The step's curve over what the original asks for"));
    setToolTip(
        tr("What the step does, over what would bring the part's tone to the original's, by octave, as far as the mix tells. "
           "Level is left out: the fader is for that."));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* row = new QHBoxLayout;
    row->addStretch(1);
    auto* button = new QPushButton(tr("Match the original"));
    button->setObjectName("match_tone");
    const auto tell = [this, button] {
        const auto all = wanted();
        button->setEnabled(!all.empty());
        button->setToolTip(all.empty() ? tr("The mix does not tell of this part's tone: it is rendered and compared first, and must be the loudest somewhere")
                                       : tr("Sets shelves and bells so that the curve comes as near as it can to what the original asks for"));
    };
    tell();
    connect(button, &QPushButton::clicked, this, &TonePicture::match);
    row->addWidget(button);
    const Step* shown = find_step(session_.remake(), step_);
    button->setVisible(shown && shown->type == &kEqualiser);
    column->addLayout(row);
    column->addStretch(1);
    const auto follow = [this, tell] { tell(), update(); };
    connect(&session_, &Session::document_changed, this, follow);
    connect(&session_, &Session::report_changed, this, follow);
    connect(&theme_teller(), &ThemeTeller::changed, this, qOverload<>(&QWidget::update));
}

bool TonePicture::draws(const Step& step) { return step.type == &kEqualiser || step.type == &kFilter; }

std::vector<WantedGain> TonePicture::wanted() const {
    const auto sounds = session_.part_sounds();
    const auto of = session_.rebuild_document();
    const Step* then = of ? find_step(*of, step_) : nullptr;
    if (!sounds) return {};
    for (const PartSound& s : *sounds) {
        if (s.part != part_) continue;
        std::vector<WantedGain> all;
        // What was measured was heard through the equaliser as it was then; one that was not there yet did nothing.
        const bool did = then && then->on >= 0.5;
        for (const PartSound::Octave& o : s.octaves)
            all.push_back({o.hz, (did ? db_at(*then, o.hz, session_.transport().rate_hz()) : 0.0) - o.off_db, o.weight});
        return all;
    }
    return {};
}

void TonePicture::match() {
    const auto all = wanted();
    const EqualiserFit fit = fit_equaliser(all);
    const Remake& r = session_.remake();
    const Step* step = find_step(r, step_);
    if (!step || all.empty()) return;
    const auto from = session_.documents().document();
    session_.documents().end_gesture();
    for (const Parameter& p : step->type->fields) {
        const auto at = std::find_if(fit.fields.begin(), fit.fields.end(), [&](const auto& f) { return std::string_view(f.first) == p.id; });
        const double value = at == fit.fields.end() ? p.neutral : at->second;
        if (value == step->value(static_cast<std::size_t>(&p - step->type->fields.data()))) continue;
        Line line("field.set");
        session_.documents().run(name_owner(line, *from, step_).with("field", p.id).with("value", value_text(p, value)), "match tone");
        step = find_step(session_.remake(), step_);
    }
    session_.documents().end_gesture();
    emit session_.told(
        fit.fields.empty()
            ? tr("The tone is there already: nothing has to be turned.")
            : tr("By octave it was %1 dB off on the average and should be %2 dB off now.").arg(fit.before_db, 0, 'f', 1).arg(fit.after_db, 0, 'f', 1));
}

void TonePicture::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().ground);
    const Step* step = find_step(session_.remake(), step_);
    if (!step) return;
    constexpr int kHead = 28, kFoot = 16, kLeft = 46;
    const QRectF area(kLeft, kHead, width() - kLeft, height() - kHead - kFoot);
    const auto x_of = [&](double hz) { return area.left() + area.width() * std::log(hz / kLowest_hz) / std::log(kHighest_hz / kLowest_hz); };
    const auto y_of = [&](double db) { return area.center().y() - area.height() / 2 * std::clamp(db / kRange_db, -1.0, 1.0); };
    const auto all = wanted();
    p.setFont(text_font(8));
    p.setPen(theme().faint);
    paint_text(p, QRectF(0, 0, width() - 150, kHead), Qt::AlignVCenter,
               all.empty() ? tr("Its curve; what the original asks for is not known") : tr("Its curve over what the original asks for"));
    p.setFont(figure_font(7.5));
    for (const double db : {-12.0, 0.0, 12.0}) {
        p.setPen(theme().hairline);
        p.drawLine(QPointF(area.left(), y_of(db)), QPointF(area.right(), y_of(db)));
        p.setPen(theme().faint);
        p.drawText(QRectF(0, y_of(db) - 7, kLeft - 6, 14), Qt::AlignRight | Qt::AlignVCenter, QString("%1 dB").arg(db));
    }
    for (const double hz : {100.0, 1000.0, 10000.0})
        p.drawText(QRectF(x_of(hz) - 30, area.bottom(), 60, kFoot), Qt::AlignCenter, hz < 1000 ? tr("100 Hz") : tr("%1 kHz").arg(hz / 1000.0));
    p.setRenderHint(QPainter::Antialiasing);
    p.setCompositionMode(theme().overprint);
    // What is asked for is as wide as what it is told by: an octave. What the mix hardly tells is paler.
    double most = 0.0;
    for (const WantedGain& w : all) most = std::max(most, w.weight);
    for (const WantedGain& w : all) {
        const double left = x_of(std::max(kLowest_hz, w.hz / std::sqrt(2.0))), right = x_of(std::min(kHighest_hz, w.hz * std::sqrt(2.0)));
        p.fillRect(QRectF(QPointF(left, y_of(w.db) - 2.5), QPointF(right, y_of(w.db) + 2.5)),
                   with_alpha(theme().original, 90 + static_cast<int>(140.0 * w.weight / std::max(1e-9, most))));
    }
    QPolygonF curve;
    for (double x = area.left(); x <= area.right(); x += 2.0) {
        const double hz = kLowest_hz * std::pow(kHighest_hz / kLowest_hz, (x - area.left()) / area.width());
        // What leaves the picture leaves it: it is not drawn along its edge.
        curve << QPointF(x, area.center().y() - area.height() / 2 * db_at(*step, hz, session_.transport().rate_hz()) / kRange_db);
    }
    p.setClipRect(area);
    p.setPen(QPen(theme().rebuild, 2.0));
    p.drawPolyline(curve);
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/duck_picture.hpp"

#include "app/painting.hpp"
#include "app/sheet_widgets.hpp"
#include "model/edits/automation.hpp"

#include <QPainter>
#include <QPushButton>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr double kLong_s = 0.7;
}

DuckPicture::DuckPicture(Session& session, StepId duck, QWidget* parent) : QWidget(parent), session_(session), duck_(duck) {
    setObjectName("duck_picture");
    setAccessibleName(tr("What the duck does over what the original does"));
    setToolTip(
        tr("The level after a hit, in the section at the playhead: what the step does, over the original's level between 300 Hz and 2.5 kHz, where a kick "
           "has little, as the median of the section's hits. The original's is what all its elements do together."));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    like_ = new QPushButton(tr("Duck so"), this);
    like_->setObjectName("duck_like");
    like_->setProperty("compact", true);
    connect(like_, &QPushButton::clicked, this, &DuckPicture::match);
    connect(&jobs_, &JobQueue::failed, &session_, &Session::failed);
    connect(&session_, &Session::document_changed, this, &DuckPicture::follow);
    connect(&session_, &Session::analysis_changed, this, &DuckPicture::follow);
    connect(&session_, &Session::transport_changed, this, [this] {
        if (at_playhead() != shown_) follow();
    });
    connect(&theme_teller(), &ThemeTeller::changed, this, qOverload<>(&QWidget::update));
    follow();
}

std::vector<Ticks> DuckPicture::strokes() const {
    const Remake& r = session_.remake();
    const Step* step = find_step(r, duck_);
    if (!step) return {};
    if (step->trigger.part) return strokes_for(r, step->trigger);
    const Part* own = part_with(r, duck_);
    return own ? strokes_for(r, {own->id, -1}) : std::vector<Ticks>();
}

SectionId DuckPicture::at_playhead() const {
    const Song& song = *session_.remake().song;
    const int at = song.section_at(song.tempo.nearest_tick(session_.transport().position_s()));
    return at < 0 ? SectionId() : song.sections[static_cast<std::size_t>(at)].id;
}

Ticks DuckPicture::place() const {
    const Section* s = session_.remake().song->section(shown_);
    return s ? s->start : 0;
}

bool DuckPicture::lows_alone() const { return value_moved(session_.remake(), {duck_, "below"}, place()) < kDipLow_hz; }

const AfterStrokes* DuckPicture::original() const {
    const auto at = std::find_if(measured_.begin(), measured_.end(), [&](const auto& m) { return m.first == shown_; });
    return at == measured_.end() || lows_alone() ? nullptr : &at->second;
}

std::vector<double> DuckPicture::mine() const { return ducked_db(session_.remake(), duck_, place(), kLong_s); }

void DuckPicture::follow() {
    shown_ = at_playhead();
    like_->setEnabled(original() && original()->dip);
    like_->setToolTip(like_->isEnabled() ? tr("Gives the step the depth and the release of the original's dip in this section")
                                         : tr("The original does not dip here in a way that could be told from its notes"));
    update();
    const auto document = session_.documents().document();
    const auto sound = session_.recording().sound;
    if (!sound || session_.provisional()) return;
    std::vector<Ticks> all = strokes();
    if (measured_of_ && measured_of_->reference == document->reference && measured_of_->song->sections == document->song->sections &&
        measured_of_->song->tempo == document->song->tempo && measured_strokes_ == all)
        return;
    jobs_.run(
        "duck", tr("measuring the original's ducking"),
        [this, document, sound, all]() -> JobQueue::Work {
            return [this, document, sound, all](const Progress& progress) -> Result<JobQueue::Delivery> {
                return JobQueue::Delivery([this, document, all, found = after_strokes(*document, *sound, all, progress)]() mutable {
                    measured_of_ = document;
                    measured_strokes_ = std::move(all);
                    measured_ = std::move(found);
                    follow();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

void DuckPicture::match() {
    const AfterStrokes* there = original();
    if (!there || !there->dip) return;
    const double beats = there->dip->release_s * session_.remake().song->tempo.bpm_at(place()) / 60.0;
    auto& documents = session_.documents();
    documents.end_gesture();
    for (const auto& [field, value] : {std::pair("depth", there->dip->depth_db), std::pair("release", beats)}) {
        const Parameter& row = *find_field(session_.remake(), {duck_, field});
        Line line("field.set");
        name_owner(line, session_.remake(), duck_).with("field", field).with("value", value_text(row, clamped(row, value)));
        // Where the section has a value of its own, that is the one that is heard.
        const auto& settings = session_.remake().automation->settings;
        if (std::any_of(settings.begin(), settings.end(), [&](const SectionSetting& s) { return s.section == shown_ && s.field == FieldRef{duck_, field}; }))
            line.with("section", section_text(session_.remake(), shown_));
        documents.run(line, "duck so");
    }
    documents.end_gesture();
}

QString DuckPicture::title() const {
    const bool there_is = session_.remake().song->section(shown_) != nullptr;
    const QString where = there_is ? QString::fromStdString(section_text(session_.remake(), shown_)) : tr("Beside the sections");
    if (lows_alone()) return tr("%1: only the lows are ducked; in the original the kick covers them").arg(where);
    if (!ready()) return tr("%1: the original is being listened to").arg(where);
    const AfterStrokes* there = original();
    if (!there) return tr("%1: too few hits far enough apart to say what the original does").arg(where);
    if (!there->dip) return tr("%1: after %2 hits the original does not dip as a duck does").arg(where).arg(there->strokes);
    return tr("%1: after %2 hits the original dips by %3 dB, back within %4 ms")
        .arg(where)
        .arg(there->strokes)
        .arg(there->dip->depth_db, 0, 'f', 1)
        .arg(1000.0 * there->dip->release_s, 0, 'f', 0);
}

void DuckPicture::paintEvent(QPaintEvent*) {
    constexpr int kHead = 24, kFoot = 16, kLeft = 46;
    const QSize size = like_->sizeHint();
    like_->setGeometry(width() - size.width(), 0, size.width(), std::min(size.height(), kHead - 2));
    QPainter p(this);
    p.fillRect(rect(), theme().ground);
    p.setFont(text_font(8));
    p.setPen(theme().faint);
    paint_text(p, QRectF(0, 0, like_->x() - 8, kHead), Qt::AlignVCenter, title());
    const AfterStrokes* there = original();
    const std::vector<double> ours = mine();
    double deepest = there ? std::min(0.0, *std::min_element(there->db.begin(), there->db.end())) : 0.0;
    for (const double db : ours) deepest = std::min(deepest, db);
    const double each = deepest < -18.0 ? 12.0 : 6.0, lowest = -each * std::max(2.0, std::ceil((1.0 - deepest) / each)), highest = 6.0;
    const QRectF area(kLeft, kHead, width() - kLeft, height() - kHead - kFoot);
    const auto y_of = [&](double db) { return area.top() + area.height() * (highest - std::clamp(db, lowest, highest)) / (highest - lowest); };
    const auto x_of = [&](std::size_t step) { return area.left() + area.width() * static_cast<double>(step) * AfterStrokes::kStep_s / kLong_s; };
    p.setFont(figure_font(7.5));
    for (double db = 0.0; db >= lowest + 0.5 * each; db -= each) {
        p.setPen(theme().hairline);
        p.drawLine(QPointF(area.left(), y_of(db)), QPointF(area.right(), y_of(db)));
        p.setPen(theme().faint);
        p.drawText(QRectF(0, y_of(db) - 7, kLeft - 6, 14), Qt::AlignRight | Qt::AlignVCenter, db < 0.0 ? tr("−%1 dB").arg(-db) : tr("0 dB"));
    }
    for (int ms = 100; ms < 1000.0 * kLong_s; ms += 100) {
        const double x = x_of(static_cast<std::size_t>(ms / (1000.0 * AfterStrokes::kStep_s)));
        p.setPen(theme().hairline);
        p.drawLine(QPointF(x, area.bottom() - 3), QPointF(x, area.bottom()));
        p.setPen(theme().faint);
        p.drawText(QRectF(x - 30, area.bottom(), 60, kFoot), Qt::AlignCenter, tr("%1 ms").arg(ms));
    }
    p.setRenderHint(QPainter::Antialiasing);
    p.setClipRect(area);
    p.setCompositionMode(theme().overprint);
    if (there) {
        // From the level before the hit: what lies between is what is gone.
        QPolygonF shape{QPointF(area.left(), y_of(0.0))};
        for (std::size_t i = 0; i < there->db.size(); ++i) shape << QPointF(x_of(i), y_of(there->db[i]));
        shape << QPointF(x_of(there->db.size() - 1), y_of(0.0));
        p.setPen(Qt::NoPen);
        p.setBrush(with_alpha(theme().original, 150));
        p.drawPolygon(shape);
    }
    QPolygonF curve;
    for (std::size_t i = 0; i < ours.size(); ++i) curve << QPointF(x_of(i), y_of(ours[i]));
    p.setPen(QPen(theme().rebuild, 2.0));
    p.drawPolyline(curve);
}

}  // namespace fw::app

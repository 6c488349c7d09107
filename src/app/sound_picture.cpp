// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sound_picture.hpp"

#include "analysis/clearest.hpp"
#include "app/painting.hpp"
#include "base/pitch.hpp"
#include "fit/freed.hpp"
#include "fit/moments.hpp"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace fw::app {

SoundPicture::SoundPicture(Session& session, PartId part, LayerId layer, QWidget* parent) : QWidget(parent), session_(session), part_(part), layer_(layer) {
    setObjectName("sound_picture");
    setAccessibleName(tr("The layer's sound over the original's"));
    setToolTip(tr("A note at the moment in which the original shows the part most clearly: its spectrum, its level and its pitch over time, over the layer's"));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    connect(&session_, &Session::document_changed, this, &SoundPicture::follow);
    connect(&session_, &Session::analysis_changed, this, &SoundPicture::follow);
    connect(&theme_teller(), &ThemeTeller::changed, this, qOverload<>(&QWidget::update));
    follow();
}

void SoundPicture::follow() {
    const auto document = session_.documents().document();
    const Part *p = document->part(part_), *was = shown_ ? shown_->part(part_) : nullptr;
    const RecordingStore& recording = session_.recording();
    if (!p || !recording.analysis || !recording.sound || session_.provisional()) return;
    if (was && was->layers == p->layers && was->steps == p->steps) return;
    jobs_.run(
        "picture", tr("drawing a sound"),
        [this, document, analysis = recording.analysis, sound = recording.sound, part = part_, layer = layer_, note = note_]() -> JobQueue::Work {
            return [this, document, analysis, sound, part, layer, note](const Progress&) mutable -> Result<JobQueue::Delivery> {
                const Part& of = *document->part(part);
                const bool drums = of.role == PartRole::Drums;
                const auto l = std::find_if(of.layers.begin(), of.layers.end(), [&](const Layer& one) { return one.id == layer; });
                if (l == of.layers.end()) return JobQueue::Delivery([] {});
                const double tuning = document->song->tuning_cents;
                const auto key_of = [](const ClearMoment& m) { return m.pitch >= 0 ? m.pitch : drum_sound(m.kind).key; };
                const auto held_s = [](const ClearMoment& m) { return std::clamp(m.end_s - m.start_s, 0.15, 1.0); };
                Shown asked{analysis, of.role, of.name, l->low_key, l->high_key, tuning, {}, 0, {}};
                if (!note || !note->is_for(asked)) {
                    // Of drums the moment of a sound the layer plays.
                    const auto moments = clearest_moments(*analysis, asked.role, asked.name);
                    const auto moment =
                        std::find_if(moments.begin(), moments.end(), [&](const ClearMoment& m) { return key_of(m) >= l->low_key && key_of(m) <= l->high_key; });
                    if (moment == moments.end()) return JobQueue::Delivery([] {});
                    const Audio piece = freed(*sound, *analysis, *document, part, *moment, moment->start_s + held_s(*moment));
                    const LoneNote heard = moment_from(piece, key_of(*moment), 100, held_s(*moment), tuning);
                    asked.moment = *moment, asked.frames = heard.mono.size();
                    asked.curves = curves_of(heard.mono, SoundTarget::kRate, drums ? 0.0 : hertz_of(moment->pitch + tuning / 100.0));
                    note = std::make_shared<const Shown>(std::move(asked));
                }
                const ClearMoment m = note->moment;
                SoundCurves mine;
                if (const auto plays = played_alone(*document, part, key_of(m), 100, held_s(m), held_s(m) + 0.1, assets_beside(sound), layer))
                    mine = curves_of(std::span(*plays).first(std::min(plays->size(), note->frames)), SoundTarget::kRate,
                                     drums ? 0.0 : hertz_of(m.pitch + document->song->rebuild_tuning_cents() / 100.0));
                return JobQueue::Delivery([this, document, note, mine = std::move(mine), m]() mutable {
                    shown_ = document, note_ = note;
                    original_ = note->curves, mine_ = std::move(mine);
                    const Song& song = *document->song;
                    const Ticks at = song.tempo.nearest_tick(m.start_s);
                    moment_ = tr("%1 at %2")
                                  .arg(m.pitch >= 0 ? QString::fromStdString(note_name(m.pitch, song.flats_at(at))) : tr(drum_sound(m.kind).name),
                                       QString::fromStdString(song.meter.position(at).text()));
                    update();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

void SoundPicture::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().ground);
    p.setRenderHint(QPainter::Antialiasing);
    constexpr int kFoot = 16, kHead = 16;
    const int gap = 18, wide = (width() - 2 * gap) * 2 / 5, rest = (width() - 2 * gap - wide) / 2;
    const QRectF spectrum(0, kHead, wide, height() - kHead - kFoot), level(wide + gap, kHead, rest, height() - kHead - kFoot),
        pitch(wide + rest + 2 * gap, kHead, rest, height() - kHead - kFoot);
    p.setFont(text_font(8));
    const auto frame = [&](const QRectF& area, const QString& title, const QString& foot) {
        p.setPen(theme().hairline);
        p.drawLine(area.bottomLeft(), area.bottomRight());
        p.setPen(theme().faint);
        p.drawText(QRectF(area.left(), 0, area.width(), kHead), Qt::AlignLeft | Qt::AlignVCenter, title);
        p.drawText(QRectF(area.left(), area.bottom(), area.width(), kFoot), Qt::AlignLeft | Qt::AlignVCenter, foot);
    };
    const double seconds = SoundCurves::kStep_s * static_cast<double>(std::max<std::size_t>(2, std::max(original_.level_db.size(), mine_.level_db.size())));
    frame(spectrum, tr("Spectrum, 60 dB   %1").arg(moment_), QString());
    frame(level, tr("Level, 40 dB"), tr("0 to %1 ms").arg(1000.0 * seconds, 0, 'f', 0));
    frame(pitch, tr("Pitch, ±100 cents"), tr("noise %1 and %2").arg(percent_text(original_.noise), percent_text(mine_.noise)));
    if (original_.empty() && mine_.empty()) {
        p.setPen(theme().faint);
        p.drawText(
            rect(), Qt::AlignCenter,
            session_.recording().sound ? tr("The original shows this part nowhere clearly enough to draw its sound.") : tr("The sound is still being read."));
        return;
    }
    // Octaves of 100 Hz as marks.
    for (const double hz : {100.0, 1000.0, 10000.0}) {
        const double x = spectrum.left() + spectrum.width() * std::log2(hz / SoundCurves::kLowest_hz) / std::log2(18000.0 / SoundCurves::kLowest_hz);
        p.setPen(theme().hairline);
        p.drawLine(QPointF(x, spectrum.top()), QPointF(x, spectrum.bottom()));
        p.setPen(theme().faint);
        p.drawText(QRectF(x - 30, spectrum.bottom(), 60, kFoot), Qt::AlignCenter, hz < 1000 ? tr("100 Hz") : tr("%1 kHz").arg(hz / 1000.0));
    }
    p.setCompositionMode(theme().overprint);
    const auto area_of = [&](const QRectF& area, const std::vector<float>& db, double range, double share, const QBrush& ink) {
        if (db.empty()) return;
        QPolygonF shape;
        shape << area.bottomLeft();
        for (std::size_t i = 0; i < db.size(); ++i)
            shape << QPointF(area.left() + area.width() * share * static_cast<double>(i) / static_cast<double>(std::max<std::size_t>(1, db.size() - 1)),
                             area.bottom() - area.height() * std::clamp(1.0 + static_cast<double>(db[i]) / range, 0.0, 1.0));
        shape << QPointF(area.left() + area.width() * share, area.bottom());
        p.setPen(Qt::NoPen);
        p.setBrush(ink);
        p.drawPolygon(shape);
    };
    const QBrush theirs(with_alpha(theme().original, 190)), ours(with_alpha(theme().rebuild, 190));
    const auto length = [&](const SoundCurves& c) { return SoundCurves::kStep_s * static_cast<double>(c.level_db.size()) / seconds; };
    area_of(spectrum, original_.spectrum_db, 60.0, 1.0, theirs);
    area_of(spectrum, mine_.spectrum_db, 60.0, 1.0, ours);
    area_of(level, original_.level_db, 40.0, length(original_), theirs);
    area_of(level, mine_.level_db, 40.0, length(mine_), ours);
    p.setCompositionMode(QPainter::CompositionMode_SourceOver);
    p.setPen(theme().hairline);
    p.drawLine(QPointF(pitch.left(), pitch.center().y()), QPointF(pitch.right(), pitch.center().y()));
    const auto line_of = [&](const std::vector<float>& cents, const QColor& ink) {
        p.setPen(QPen(ink, 2.0));
        for (std::size_t i = 1; i < cents.size(); ++i) {
            if (std::isnan(cents[i]) || std::isnan(cents[i - 1])) continue;
            const auto at = [&](std::size_t k) {
                return QPointF(pitch.left() + pitch.width() * 0.05 * static_cast<double>(k) / seconds,
                               pitch.center().y() - pitch.height() / 2 * std::clamp(cents[k] / 100.0F, -1.0F, 1.0F));
            };
            p.drawLine(at(i - 1), at(i));
        }
    };
    line_of(original_.cents, theme().original);
    line_of(mine_.cents, theme().rebuild);
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/overprint_view.hpp"

#include "base/pitch.hpp"
#include "model/drums.hpp"

#include <QImage>
#include <QMouseEvent>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

constexpr double kLeft = 56, kTop = 18, kRight = 12, kLevels = 34, kShortest_s = 0.5;
constexpr int kLowest = 24, kHighest = 120;  // MIDI pitches shown
constexpr double kRange_db = 54.0;

/// How much ink a level asks for: 0 at kRange_db below the top.
int ink_of(double db, double top_db) { return static_cast<int>(std::lround(255.0 * std::clamp((db - top_db + kRange_db) / kRange_db, 0.0, 1.0))); }

}  // namespace

OverprintView::OverprintView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("overprint");
    setMinimumHeight(150);
    setMouseTracking(true);
    setToolTip(
        tr("Both sources printed over each other: dark where they agree, in one ink what only one has. Wheel: nearer or farther. Drag: move. Double click: the "
           "whole song."));
    still_.follow(*this, session_, {&Session::report_changed, &Session::document_changed, &Session::opened});
    connect(&session_, &Session::transport_changed, this, qOverload<>(&QWidget::update));
    connect(&session_, &Session::opened, this, [this] { show_span(0.0, 0.0); });
}

void OverprintView::show_what(What what) {
    what_ = what;
    still_.renew(*this);
}

void OverprintView::show_span(double from_s, double to_s) {
    const double all = std::max(1.0, session_.remake().reference.duration_s);
    if (to_s <= from_s) from_s = 0.0, to_s = all;
    const double length = std::clamp(to_s - from_s, kShortest_s, all);
    from_s_ = std::clamp(0.5 * (from_s + to_s) - 0.5 * length, 0.0, all - length);
    to_s_ = from_s_ + length;
    still_.renew(*this);
}

void OverprintView::mark(std::vector<Finding> findings, int chosen) {
    findings_ = std::move(findings);
    chosen_ = chosen;
    still_.renew(*this);
}

QRectF OverprintView::area() const { return QRectF(rect()).adjusted(kLeft, kTop, -kRight, -kLevels - 4); }
double OverprintView::x_at(double t) const { return area().left() + (t - from_s_) / std::max(1e-6, to_s_ - from_s_) * area().width(); }
double OverprintView::time_at(double x) const { return from_s_ + (x - area().left()) / std::max(1.0, area().width()) * (to_s_ - from_s_); }
double OverprintView::y_of(double pitch) const { return area().bottom() - (pitch - kLowest) / (kHighest - kLowest) * area().height(); }
double OverprintView::pitch_at(double y) const { return kLowest + (area().bottom() - y) / std::max(1.0, area().height()) * (kHighest - kLowest); }

QPointF OverprintView::mark_at(const Finding& f) const {
    if (f.role == PartRole::Drums || what_ == What::Hits) {
        const DrumSound* sound = drum_sound_of_key(std::max(f.pitch, f.expected_pitch));
        const auto& rows = drum_sounds();
        std::size_t row = 0;
        while (row + 1 < rows.size() && (!sound || rows[row].kind != sound->kind)) ++row;
        const double y =
            what_ == What::Hits ? area().bottom() - (static_cast<double>(row) + 0.5) / static_cast<double>(rows.size()) * area().height() : area().bottom() - 8;
        return {x_at(f.start_s), y};
    }
    const int pitch = f.pitch >= 0 ? f.pitch : f.expected_pitch;
    if (pitch >= 0) return {x_at(f.start_s), y_of(pitch)};
    if (f.center_hz > 0) return {x_at(f.start_s), y_of(69.0 + 12.0 * std::log2(f.center_hz / 440.0))};
    return {x_at(f.start_s), area().top() + 8};
}

void OverprintView::mousePressEvent(QMouseEvent* e) {
    constexpr double kNear = 7.0;
    int nearest = -1;
    double best = kNear;
    for (std::size_t i = 0; i < findings_.size(); ++i) {
        const QPointF d = mark_at(findings_[i]) - e->position();
        if (const double far = std::hypot(d.x(), d.y()); far < best) best = far, nearest = static_cast<int>(i);
    }
    if (nearest >= 0) {
        emit mark_chosen(nearest);
        return;
    }
    dragged_from_ = e->position();
    drag_from_s_ = from_s_;
}

void OverprintView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton) || !dragged_from_) return;
    const double length = to_s_ - from_s_, by = (dragged_from_->x() - e->position().x()) / std::max(1.0, area().width()) * length;
    show_span(drag_from_s_ + by, drag_from_s_ + by + length);
}

void OverprintView::mouseDoubleClickEvent(QMouseEvent*) { show_span(0.0, 0.0); }

void OverprintView::wheelEvent(QWheelEvent* e) {
    const double at = time_at(e->position().x()), factor = std::pow(0.8, e->angleDelta().y() / 120.0);
    show_span(at - (at - from_s_) * factor, at + (to_s_ - at) * factor);
    e->accept();
}

void OverprintView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    if (!session_.has_reference()) {
        p.fillRect(rect(), theme().ground);
        paint_empty(p, rect(), tr("Both sources appear here, printed over each other, once a recording is open."));
        return;
    }
    if (to_s_ <= from_s_) show_span(0.0, 0.0);
    still_.paint(p, *this, [this](QPainter& still) { paint_still(still); });
    const double x = x_at(session_.transport().position_s());
    if (x >= area().left() && x <= area().right()) {
        p.setPen(QPen(theme().text, 1.2));
        p.drawLine(QPointF(x, kTop - 4), QPointF(x, height() - 2));
    }
}

void OverprintView::paint_still(QPainter& p) const {
    p.fillRect(rect(), theme().ground);
    const Song& song = *session_.remake().song;
    const QRectF a = area();
    // Bars above, as many numbers as there is room for.
    p.setFont(figure_font(7.5));
    const Ticks from = song.tempo.nearest_tick(from_s_), to = song.tempo.nearest_tick(to_s_);
    const int first = std::max(1, song.meter.position(from).bar), last = song.meter.position(to).bar;
    const double bar_width = a.width() / std::max(1, last - first + 1);
    int every = 1;
    while (bar_width * every < 30) every *= 2;
    for (int bar = first; bar <= last + 1; ++bar) {
        const double x = x_at(song.tempo.seconds(song.meter.tick_of_bar(bar)));
        if (x < a.left() - 0.5 || x > a.right() + 0.5) continue;
        if (bar_width > 5 || bar % every == 1) {
            p.setPen(theme().hairline);
            p.drawLine(QPointF(x, kTop - 3), QPointF(x, a.bottom()));
        }
        if ((bar - 1) % every == 0 && x < a.right() - 12) {
            p.setPen(theme().faint);
            p.drawText(QRectF(x + 3, 2, 40, kTop - 4), Qt::AlignVCenter, QString::number(bar));
        }
    }
    switch (what_) {
        case What::Spectrum: paint_spectrum(p, false); break;
        case What::Left: paint_spectrum(p, true); break;
        case What::Notes: paint_notes(p); break;
        case What::Hits: paint_hits(p); break;
    }
    paint_levels(p);
    paint_marks(p);
}

void OverprintView::paint_marks(QPainter& p) const {
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.setClipRect(area().adjusted(-6, -6, 6, 6));
    for (std::size_t i = 0; i < findings_.size(); ++i) {
        if (findings_[i].start_s < from_s_ || findings_[i].start_s > to_s_) continue;
        const bool chosen = static_cast<int>(i) == chosen_;
        p.setPen(QPen(chosen ? theme().selection : theme().text, chosen ? 2.2 : 1.0));
        const double r = chosen ? 6.5 : 3.5;
        p.drawEllipse(mark_at(findings_[i]), r, r);
    }
    p.restore();
}

/// alpha_at: how much ink between two times at a pitch, 0..255.
template <class Ink>
const QImage& OverprintView::kept(Kept& where, const void* first, const void* second, QColor ink, Ink&& alpha_at) const {
    const QRectF a = area();
    const QSize size(std::max(1, static_cast<int>(a.width())), std::max(1, static_cast<int>(a.height())));
    const std::tuple of{what_, from_s_, to_s_, size, first, second, theme().night};
    if (where.of == of && !where.image.isNull()) return where.image;
    where.of = of;
    where.image = QImage(size, QImage::Format_ARGB32_Premultiplied);
    for (int y = 0; y < size.height(); ++y) {
        const double pitch = pitch_at(a.top() + y + 0.5);
        auto* line = reinterpret_cast<QRgb*>(where.image.scanLine(y));
        for (int x = 0; x < size.width(); ++x)
            line[x] = qPremultiply(qRgba(ink.red(), ink.green(), ink.blue(), alpha_at(time_at(a.left() + x), time_at(a.left() + x + 1), pitch)));
    }
    return where.image;
}

void OverprintView::paint_spectrum(QPainter& p, bool only_left) const {
    const SoundSummary& original = session_.recording().summary;
    const auto rebuild = session_.rebuild_summary();
    const QRectF a = area();
    p.setFont(figure_font(7.5));
    p.setPen(theme().faint);
    for (int pitch = 36; pitch < kHighest; pitch += 12)
        p.drawText(QRectF(4, y_of(pitch) - 7, kLeft - 10, 14), Qt::AlignVCenter | Qt::AlignRight, QString::fromStdString(note_name(pitch, false)));
    if (original.semitones.frames() == 0) {
        paint_empty(p, a, tr("The recording's sound is being read; it appears here in a moment."));
        return;
    }
    const auto report = session_.report();
    const double match_db = report ? report->sound.match_gain_db : 0.0;
    double top = SoundSummary::kFloor_db;
    for (std::size_t f = 0; f < original.semitones.frames(); f += 7)
        for (std::size_t s = 0; s < SoundSummary::kSemitones; ++s) top = std::max(top, original.db_at(f, s));
    top -= 6.0;  // the loudest moments may be all ink
    const auto loudest = [&](const ByteGrid& of, double gain_db) {
        return [&of, &original, gain_db, top](double from_s, double to_s, double pitch) {
            const int s = static_cast<int>(std::lround(pitch)) - SoundSummary::kLowestSemitone;
            if (s < 0 || s >= SoundSummary::kSemitones) return 0;
            const auto [f, next] = original.frames_between(from_s, to_s);
            int most = 0;
            for (std::size_t k = f; k < std::max(next, f + 1) && k < of.frames(); ++k)
                most = std::max<int>(most, of.cells()[k * SoundSummary::kSemitones + static_cast<std::size_t>(s)]);
            return ink_of(SoundSummary::kFloor_db + 0.5 * most + gain_db, top) * 220 / 255;
        };
    };
    p.save();
    p.setCompositionMode(theme().overprint);
    const void* sound = session_.recording().sound.get();
    const auto left = session_.left();
    if (!only_left || !left) p.drawImage(a.topLeft(), kept(original_, sound, nullptr, theme().original, loudest(original.semitones, 0.0)));
    else p.drawImage(a.topLeft(), kept(original_, sound, left.get(), theme().original, loudest(left->semitones, 0.0)));
    if (rebuild && !only_left) p.drawImage(a.topLeft(), kept(rebuild_, sound, rebuild.get(), theme().rebuild, loudest(rebuild->semitones, match_db)));
    p.restore();
    if (!rebuild) {
        p.setPen(theme().text);
        p.drawText(a.adjusted(8, 6, -8, -6), Qt::AlignTop | Qt::AlignRight, tr("the rebuild is being rendered…"));
    }
}

void OverprintView::paint_notes(QPainter& p) const {
    const auto analysis = session_.recording().analysis;
    const QRectF a = area();
    p.setFont(figure_font(7.5));
    p.setPen(theme().faint);
    for (int pitch = 36; pitch < kHighest; pitch += 12)
        p.drawText(QRectF(4, y_of(pitch) - 7, kLeft - 10, 14), Qt::AlignVCenter | Qt::AlignRight, QString::fromStdString(note_name(pitch, false)));
    if (!analysis || analysis->evidence->pitch_frames() == 0) return;
    const Evidence& e = *analysis->evidence;
    p.save();
    p.setCompositionMode(theme().overprint);
    p.drawImage(a.topLeft(), kept(original_, &e, nullptr, theme().original, [&e](double from_s, double to_s, double pitch) {
                    const int column = static_cast<int>(std::lround(pitch)) - Evidence::kLowestPitch;
                    if (column < 0 || column >= Evidence::kPitches) return 0;
                    float most = 0.0F;
                    const auto end = static_cast<std::size_t>(std::max(0.0, Evidence::pitch_frame(to_s))) + 1, c = static_cast<std::size_t>(column);
                    for (auto k = static_cast<std::size_t>(std::max(0.0, Evidence::pitch_frame(from_s))); k < std::min(end, e.pitch_frames()); ++k)
                        most = std::max({most, e.sounding.at(k, c), e.bass_sounding.at(k, c), e.lead_sounding.at(k, c)});
                    return static_cast<int>(210.0F * most);
                }));
    p.setClipRect(a);
    const Song& song = *session_.remake().song;
    const Ticks from = song.tempo.nearest_tick(time_at(a.left() - 2)), to = song.tempo.nearest_tick(time_at(a.right() + 2));
    for (const auto& part : session_.remake().parts) {
        if (part->role == PartRole::Drums) continue;
        const bool mine = ElementId(part->id) == session_.selection().element();
        for (const PlacedNote& n : session_.documents().placed_within(*part, from, to)) {
            const double x0 = x_at(song.tempo.seconds(n.note.start)), x1 = x_at(song.tempo.seconds(n.note.start + n.note.length));
            if (n.muted || x1 < a.left() || x0 > a.right()) continue;
            const double y = y_of(n.note.pitch), thick = std::max(2.0, a.height() / (kHighest - kLowest));
            p.fillRect(QRectF(x0, y - thick / 2, std::max(1.5, x1 - x0 - 1), thick), rebuild_hatch(mine ? 230 : 120));
        }
    }
    p.restore();
}

void OverprintView::paint_hits(QPainter& p) const {
    const auto analysis = session_.recording().analysis;
    const QRectF a = area();
    const auto& rows = drum_sounds();
    const double row = a.height() / static_cast<double>(rows.size());
    p.setFont(text_font(7.5));
    p.setPen(theme().faint);
    for (std::size_t i = 0; i < rows.size(); ++i)
        paint_text(p, QRectF(4, a.bottom() - row * static_cast<double>(i + 1), kLeft - 8, row), Qt::AlignVCenter | Qt::AlignRight, of_core(rows[i].name));
    if (!analysis) return;
    const Evidence& e = *analysis->evidence;
    p.save();
    p.setCompositionMode(theme().overprint);
    p.setClipRect(a);
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const double y = a.bottom() - row * static_cast<double>(i + 1);
        for (double x = a.left(); x < a.right(); x += 1.0) {
            float most = 0.0F;
            const auto f = static_cast<Eigen::Index>(std::max(0.0, Evidence::pulse_frame(time_at(x))));
            const auto end = static_cast<Eigen::Index>(std::max(0.0, Evidence::pulse_frame(time_at(x + 1)))) + 1;
            for (Eigen::Index k = f; k < std::min(end, e.pulse.rows()); ++k) most = std::max(most, e.pulse(k, pulse_column(rows[i].kind)));
            if (most > 0.05F) p.fillRect(QRectF(x, y + 2, 1, row - 4), with_alpha(theme().original, static_cast<int>(230.0F * most)));
        }
    }
    const Song& song = *session_.remake().song;
    const Ticks from = song.tempo.nearest_tick(time_at(a.left() - 2)), to = song.tempo.nearest_tick(time_at(a.right() + 2));
    for (const auto& part : session_.remake().parts) {
        if (part->role != PartRole::Drums) continue;
        for (const PlacedNote& n : session_.documents().placed_within(*part, from, to)) {
            const DrumSound* sound = drum_sound_of_key(n.note.pitch);
            if (n.muted || !sound) continue;
            for (std::size_t i = 0; i < rows.size(); ++i)
                if (rows[i].kind == sound->kind)
                    p.fillRect(QRectF(x_at(song.tempo.seconds(n.note.start)) - 1, a.bottom() - row * static_cast<double>(i + 1) + 2, 3, row - 4),
                               rebuild_hatch(230));
        }
    }
    p.restore();
}

void OverprintView::paint_levels(QPainter& p) const {
    const QRectF wave(area().left(), height() - kLevels - 1, area().width(), kLevels);
    const auto report = session_.report();
    p.setFont(text_font(7.5));
    p.setPen(theme().faint);
    p.drawText(QRectF(4, wave.top(), kLeft - 8, kLevels), Qt::AlignVCenter | Qt::AlignRight, session_.rebuild_is_current() ? tr("level") : tr("rendering"));
    const double gain = report ? std::pow(10.0, std::clamp(report->sound.match_gain_db, -24.0, 24.0) / 20.0) : 1.0;
    p.save();
    p.setCompositionMode(theme().overprint);
    paint_waveform(p, wave, session_.recording().peaks, from_s_, to_s_, with_alpha(theme().original, 170));
    paint_waveform(p, wave, session_.rebuild_peaks(), from_s_, to_s_, with_alpha(theme().rebuild, 170), static_cast<float>(gain));
    p.restore();
}

}  // namespace fw::app

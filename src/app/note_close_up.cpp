// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/close_up.hpp"

#include "app/doubt_walk.hpp"
#include "app/painting.hpp"
#include "base/pitch.hpp"
#include "model/edits/phrasing.hpp"

#include <QPainter>
#include <QStaticText>
#include <algorithm>
#include <array>
#include <cmath>

namespace fw::app {

NoteCloseUp::NoteCloseUp(Session& session, QWidget* parent) : CloseUp(session, parent) {
    setAccessibleName(tr("Close-up of notes"));
    setToolTip(
        tr("Double-click draws a note, drag moves it, its edges lengthen it; drag on nothing marks, with Shift as a lasso.\nAlt leaves the grid, Shift takes "
           "triplets of it. Below: velocities; a drag across them makes a ramp.\nAll that is done with chosen notes is in the menu Notes."));
    connect(&session_.walk(), &DoubtWalk::changed, this, [this] { still_.renew(*this); });
    connect(&session_.walk(), &DoubtWalk::shows, this, [this](double from_s, double to_s) {
        if (const Doubt* d = session_.walk().current(); d && isVisible()) show_stretch(from_s, to_s, d->shown.pitch);
    });
    connect(&session_, &Session::selection_changed, this, [this] {
        // Only another element brings another range: while one is edited its rows must not move under the hand.
        if (fitted_for_ != session_.selection().element()) fit_pitch();
    });
    connect(&session_, &Session::analysis_changed, this, [this] { fitted_for_.reset(); });
}

void NoteCloseUp::fit_pitch() {
    const Part* part = session_.selection().part();
    if (!part || part->role == PartRole::Drums) return;
    fitted_for_ = session_.selection().element();
    int low = 128, high = -1;
    for (const auto& p : part->patterns)
        for (const Note& n : p->notes) low = std::min(low, n.pitch), high = std::max(high, n.pitch);
    if (high < 0) low = 48, high = 72;
    while (high - low < 24) --low, ++high;
    low_pitch_ = std::max(21, low - 2);
    high_pitch_ = std::min(108, high + 2);
    still_.renew(*this);
}

double NoteCloseUp::y_of(int pitch) const {
    const QRect area = roll();
    const double row = static_cast<double>(area.height()) / (high_pitch_ - low_pitch_ + 1);
    return area.bottom() + 1 - (pitch - low_pitch_ + 1) * row;
}

int NoteCloseUp::pitch_at(double y) const {
    const QRect area = roll();
    const double row = static_cast<double>(area.height()) / (high_pitch_ - low_pitch_ + 1);
    return low_pitch_ + static_cast<int>(std::floor((area.bottom() + 1 - y) / row));
}

QImage NoteCloseUp::evidence_image(const QRect& area, const Evidence& e) const {
    const Part* part = session_.selection().part();
    const PartRole role = part ? part->role : PartRole::Other;
    const int rows = high_pitch_ - low_pitch_ + 1;
    const double a = Evidence::pitch_frame(time_at(area.left())), b = Evidence::pitch_frame(time_at(area.right()));
    const int columns = std::max(1, std::min(area.width(), static_cast<int>(b - a) * 2));
    QImage image(columns, rows, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    std::array<QRgb, 256> inks;  // by how opaque
    for (int i = 0; i < 256; ++i) inks[static_cast<std::size_t>(i)] = qPremultiply(with_alpha(theme().original, i).rgba());
    for (int row = 0; row < rows; ++row) {
        const int column = low_pitch_ + row - Evidence::kLowestPitch;
        if (column < 0 || column >= Evidence::kPitches) continue;
        const auto c = static_cast<std::size_t>(column);
        auto* line = reinterpret_cast<QRgb*>(image.scanLine(rows - 1 - row));
        for (int x = 0; x < columns; ++x) {
            const double f = a + (b - a) * x / columns;
            if (f < 0 || f >= static_cast<double>(e.pitch_frames())) continue;
            const auto frame = static_cast<std::size_t>(f);
            // Everything that sounds shows faintly, what the part's own line is likely to be shows strongly.
            float v = 0.45F * e.sounding.at(frame, c);
            if (role == PartRole::Bass) v = std::max(v, e.bass_sounding.at(frame, c));
            else if (role == PartRole::Lead) v = std::max(v, e.lead_sounding.at(frame, c));
            else v = std::max(v, 0.9F * e.sounding.at(frame, c));
            if (v >= 0.04F) line[x] = inks[static_cast<std::size_t>(std::min(1.0F, v * 0.75F) * 255.0F)];
        }
    }
    return image;
}

QString NoteCloseUp::ground_state() const {
    const Part* part = session_.selection().part();
    // Its number alone would not do: after an undo the next part may bear it, in another role.
    return QString("%1 %2 %3 %4").arg(low_pitch_).arg(high_pitch_).arg(part ? part->id.number : 0).arg(part ? static_cast<int>(part->role) : -1);
}

void NoteCloseUp::paint_ground(QPainter& p, const QRect&) {
    const QRect area = roll();
    paint_key(p, area, static_cast<double>(area.height()) / (high_pitch_ - low_pitch_ + 1));
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    if (const auto analysis = session_.recording().analysis) p.drawImage(area, evidence_image(area, *analysis->evidence));
}

double NoteCloseUp::y_of_velocity(int velocity) const {
    const QRect area = lane();
    return area.bottom() - 2 - (area.height() - 12) * velocity / 127.0;
}

void NoteCloseUp::show_stretch(double start_s, double end_s, int pitch) {
    constexpr double kAcross_s = 4.0;
    const double wide = width() - kLeft;
    if (wide / pixels_per_s_ > 3.0 * kAcross_s) pixels_per_s_ = wide / kAcross_s;
    show_from((start_s + std::min(end_s, start_s + kAcross_s)) / 2.0 - wide / pixels_per_s_ / 2.0);
    while (pitch < low_pitch_ && low_pitch_ > 21) --low_pitch_;
    while (pitch > high_pitch_ && high_pitch_ < 108) ++high_pitch_;
    still_.renew(*this);
}

void NoteCloseUp::paint_key(QPainter& p, const QRect& area, double row) const {
    const Remake& r = session_.remake();
    // Rows of the key's scale stay light, the others are tinted: where a note may well be shows without a word.
    const Key* key = r.song->key_at(tick_at(area.left()));
    p.setClipping(false);
    for (int pitch = low_pitch_; pitch <= high_pitch_; ++pitch) {
        const auto scale = key ? key->scale() : Key{}.scale();
        const bool inside = !key || std::find(scale.begin(), scale.end(), pitch_class(pitch)) != scale.end();
        if (!inside) p.fillRect(QRectF(area.left(), y_of(pitch), area.width(), row), with_alpha(theme().hairline, 70));
        if (key && pitch_class(pitch) == key->tonic) {
            p.setPen(theme().hairline);
            p.drawLine(QPointF(area.left(), y_of(pitch) + row), QPointF(area.right(), y_of(pitch) + row));
        }
        if (row >= 9 || pitch_class(pitch) == (key ? key->tonic : 0)) {
            p.setPen(inside ? theme().text : theme().faint);
            p.setFont(figure_font(std::clamp(row * 0.55, 6.5, 9.0)));
            p.drawText(QRectF(6, y_of(pitch), kLeft - 14, row), Qt::AlignVCenter | Qt::AlignRight,
                       QString::fromStdString(note_name(pitch, key && key->flats())));
        }
    }
    p.setClipRect(area);
    // The tones of the chord of the moment, as faint bands.
    for (const ChordEvent& c : r.song->chords) {
        const double x0 = std::max<double>(area.left(), x_of(c.start)), x1 = std::min<double>(area.right(), x_of(c.start + c.length));
        if (x1 <= x0) continue;
        const auto tones = c.chord.tones();
        for (int pitch = low_pitch_; pitch <= high_pitch_; ++pitch)
            if (std::find(tones.begin(), tones.end(), pitch_class(pitch)) != tones.end())
                p.fillRect(QRectF(x0, y_of(pitch) + row * 0.3, x1 - x0, row * 0.4), with_alpha(theme().faint, 26));
    }
}

void NoteCloseUp::paint_neighbours(QPainter& p, const QRect& area, double row) const {
    const Part* mine = session_.selection().part();
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(with_alpha(theme().rebuild, 80), 1));
    for (const auto& part : session_.remake().parts) {
        if (part.get() == mine || part->role == PartRole::Drums || part->mute) continue;
        for (const PlacedNote& n : notes_between(*part, area.left(), area.right())) {
            const double x0 = x_of(n.note.start), x1 = x_of(n.note.start + n.note.length);
            if (n.muted || x1 < area.left() || n.note.pitch < low_pitch_ || n.note.pitch > high_pitch_) continue;
            p.drawLine(QPointF(x0, y_of(n.note.pitch) + row - 1.5), QPointF(std::max(x0 + 2, x1 - 1), y_of(n.note.pitch) + row - 1.5));
        }
    }
}

void NoteCloseUp::paint_note(QPainter& p, const PlacedNote& n, double row) const {
    const Part& part = *session_.selection().part();
    const double x0 = x_of(n.note.start), x1 = x_of(n.note.start + n.note.length);
    const QRectF box(x0, y_of(n.note.pitch) + 1, std::max(3.0, x1 - x0 - 1), std::max(3.0, row - 2));
    // Loudness is the ink's strength; what the evidence doubts and nobody has accepted is drawn hollow.
    const auto report = session_.report();
    const bool doubtful = is_doubted(n, report ? report->right(part.id, n.ref()) : std::nullopt);
    const int alpha = n.muted ? 45 : 120 + n.note.velocity;
    if (doubtful || n.muted) {
        p.setBrush(n.muted ? QBrush(with_alpha(theme().rebuild, alpha), Qt::BDiagPattern) : QBrush(Qt::NoBrush));
        p.setPen(QPen(with_alpha(theme().rebuild, n.muted ? 110 : 255), 1.3, doubtful ? Qt::DashLine : Qt::SolidLine));
        p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
    } else {
        p.setPen(Qt::NoPen);
        p.setBrush(with_alpha(theme().rebuild, std::min(255, alpha)));
        p.drawRect(box);
    }
    if (n.note.roll->strokes > 1) {
        // Each stroke a line.
        p.setPen(QPen(theme().rebuild, 1.4));
        for (const Note& stroke : strokes_of(n.note)) p.drawLine(QPointF(x_of(stroke.start), box.top() - 2), QPointF(x_of(stroke.start), box.bottom() + 2));
    }
    if (!n.note.bend->empty()) {
        // The way its pitch goes, a row a semitone; the last pitch is held to the end.
        QPolygonF way;
        const double middle = y_of(n.note.pitch) + row / 2;
        for (const BendPoint& b : *n.note.bend) way << QPointF(x_of(n.note.start + std::min(b.tick, n.note.length)), middle - b.cents / 100.0 * row);
        way << QPointF(std::max(x1 - 1, way.back().x()), way.back().y());
        p.setRenderHint(QPainter::Antialiasing);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().rebuild, 1.6));
        p.drawPolyline(way);
        p.setRenderHint(QPainter::Antialiasing, false);
        if (left_out_of_tune(n.note) != 0.0 && n.note.origin != Origin::Heard) {
            p.setPen(theme().text);
            p.setFont(text_font(8, true));
            p.drawText(QRectF(x1 - 6, way.back().y() - 14, 14, 12), Qt::AlignCenter, "!");
        }
    }
    if (session_.selection().contains(n)) {
        p.setCompositionMode(QPainter::CompositionMode_SourceOver);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().selection, 2));
        p.drawRect(box.adjusted(-1, -1, 1, 1));
        p.setCompositionMode(theme().overprint);
    }
}

namespace {

/// What stands above a note the check doubts. Laid out once, since there may be hundreds.
const QStaticText& mark_of(FindingKind kind) {
    static const QStaticText missing("+"), extra("×"), wrong("↕"), early("→"), late("←");
    switch (kind) {
        case FindingKind::MissingNote: return missing;
        case FindingKind::ExtraNote: return extra;
        case FindingKind::WrongPitch: return wrong;
        case FindingKind::Early: return early;
        default: return late;
    }
}

}  // namespace

/// What the check doubts carries a mark above it; what may be missing is drawn where it would be.
void NoteCloseUp::paint_missing(QPainter& p, const QRect& area, double row) const {
    const double from_s = time_at(area.left()), to_s = time_at(area.right());
    p.setPen(QPen(theme().text, 1.2));
    p.setFont(text_font(9, true));
    if (const auto report = session_.report())
        for (const Finding& f : report->findings) {
            if (f.end_s < from_s || f.start_s > to_s || !f.listed() || f.element != session_.selection().element()) continue;
            if (is_of_whole_part(f)) continue;
            const int pitch = f.kind == FindingKind::MissingNote ? f.expected_pitch : f.pitch;
            if (pitch < low_pitch_ || pitch > high_pitch_) continue;
            const QStaticText& mark = mark_of(f.kind);
            p.drawStaticText(QPointF(x_at(f.start_s) + 6 - mark.size().width() / 2, y_of(pitch) - 6 - mark.size().height() / 2), mark);
        }
    for (const Doubt& d : session_.walk().doubts()) {
        if (d.note || d.end_s < from_s || d.start_s > to_s) continue;
        if (d.shown.pitch < low_pitch_ || d.shown.pitch > high_pitch_) continue;
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().original, 1.2, Qt::DotLine));
        p.drawRect(QRectF(x_at(d.start_s), y_of(d.shown.pitch) + 1, std::max(3.0, x_at(d.end_s) - x_at(d.start_s)), row - 2));
    }
    const Doubt* now = session_.walk().current();
    if (!now) return;
    // The one that is being looked at, and the pitch that is tried.
    const double x0 = x_at(now->start_s), x1 = std::max(x0 + 3.0, x_at(now->end_s));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme().selection, 1.6));
    p.drawRect(QRectF(x0, y_of(now->shown.pitch) + 1, x1 - x0, row - 2).adjusted(-3, -3, 3, 3));
    if (const auto tried = session_.walk().candidate()) {
        const int pitch = now->alternatives[*tried].pitch;
        p.setPen(QPen(theme().rebuild, 2, Qt::DotLine));
        p.drawRect(QRectF(x0, y_of(pitch) + 1, x1 - x0, row - 2));
    }
}

void NoteCloseUp::paint_lane(QPainter& p) const {
    const QRect area = lane();
    p.setClipping(false);
    p.setPen(theme().hairline);
    p.drawLine(0, area.top(), area.right(), area.top());
    p.setPen(theme().faint);
    p.setFont(text_font(8.5));
    p.drawText(QRectF(8, area.top(), kLeft - 16, area.height()), Qt::AlignVCenter | Qt::AlignRight, tr("velocity"));
    p.setClipRect(area);
    p.setCompositionMode(theme().overprint);
    for (const PlacedNote& n : notes_between(*session_.selection().part(), area.left() - 4, area.right())) {
        const double x = x_of(n.note.start);
        if (x < area.left() - 4) continue;
        const bool chosen = session_.selection().contains(n);
        const double y = y_of_velocity(n.note.velocity);
        p.setPen(QPen(with_alpha(chosen ? theme().selection : theme().rebuild, n.muted ? 70 : 220), chosen ? 2.4 : 1.6));
        p.drawLine(QPointF(x, area.bottom() - 2), QPointF(x, y));
        p.fillRect(QRectF(x - 2.5, y - 2, 5, 4), with_alpha(chosen ? theme().selection : theme().rebuild, n.muted ? 70 : 255));
    }
    p.setCompositionMode(QPainter::CompositionMode_SourceOver);
}

void NoteCloseUp::paint_content(QPainter& p, const QRect&) {
    const Part* part = session_.selection().part();
    if (!part) return;
    const QRect area = roll();
    const double row = static_cast<double>(area.height()) / (high_pitch_ - low_pitch_ + 1);
    p.setClipRect(area);
    p.setCompositionMode(theme().overprint);
    if (neighbours_) paint_neighbours(p, area, row);
    for (const PlacedNote& n : notes_between(*part, area.left(), area.right())) {
        if (x_of(n.note.start + n.note.length) < area.left() || n.note.pitch < low_pitch_ || n.note.pitch > high_pitch_) continue;
        paint_note(p, n, row);
    }
    p.setCompositionMode(QPainter::CompositionMode_SourceOver);
    paint_missing(p, area, row);
    paint_lane(p);
}

}  // namespace fw::app

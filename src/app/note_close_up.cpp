// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/close_up.hpp"

#include "app/painting.hpp"
#include "base/pitch.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr double kEdge = 6.0;  // pixels at a note's right end that lengthen it
}

NoteCloseUp::NoteCloseUp(Session& session, QWidget* parent) : CloseUp(session, parent) {
    setAccessibleName(tr("Close-up of notes"));
    setToolTip(
        "Double-click draws a note, drag moves it, its right edge lengthens it.\nDelete removes; ↑ ↓ transpose by a semitone, with Shift by an octave; ← → "
        "nudge; Q quantises; Shift+Q takes a note's bend off; Ctrl+A selects all.");
    connect(&session_, &Session::selection_changed, this, [this] {
        // Only another element brings another range: while one is edited its rows must not move under the hand.
        if (fitted_for_ != session_.selection().element()) fit_pitch();
    });
    connect(&session_, &Session::analysis_changed, this, [this] {
        image_key_.clear();
        fitted_for_.reset();
    });
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
    image_key_.clear();
    still_.renew(*this);
}

double NoteCloseUp::y_of(int pitch) const {
    const QRect area = content();
    const double row = static_cast<double>(area.height()) / (high_pitch_ - low_pitch_ + 1);
    return area.bottom() + 1 - (pitch - low_pitch_ + 1) * row;
}

int NoteCloseUp::pitch_at(double y) const {
    const QRect area = content();
    const double row = static_cast<double>(area.height()) / (high_pitch_ - low_pitch_ + 1);
    return low_pitch_ + static_cast<int>(std::floor((area.bottom() + 1 - y) / row));
}

const QImage& NoteCloseUp::evidence_image(const QRect& area) {
    const auto analysis = session_.recording().analysis;
    const Part* part = session_.selection().part();
    const QString key = QString("%1 %2 %3 %4 %5 %6 %7 %8 %9")
                            .arg(start_s_)
                            .arg(pixels_per_s_)
                            .arg(area.width())
                            .arg(area.height())
                            .arg(low_pitch_)
                            .arg(high_pitch_)
                            .arg(part ? part->id.number : 0)
                            .arg(theme().night)
                            .arg(analysis ? analysis->content_hash : 0);
    if (key == image_key_ || !analysis) return image_;
    image_key_ = key;
    const Evidence& e = *analysis->evidence;
    const PartRole role = part ? part->role : PartRole::Other;
    const int rows = high_pitch_ - low_pitch_ + 1;
    const double a = Evidence::pitch_frame(time_at(area.left())), b = Evidence::pitch_frame(time_at(area.right()));
    const int columns = std::max(1, std::min(area.width(), static_cast<int>(b - a) * 2));
    image_ = QImage(columns, rows, QImage::Format_ARGB32_Premultiplied);
    image_.fill(Qt::transparent);
    const QColor ink = theme().original;
    for (int x = 0; x < columns; ++x) {
        const double f = a + (b - a) * x / columns;
        if (f < 0 || f >= static_cast<double>(e.pitch_frames())) continue;
        const auto frame = static_cast<std::size_t>(f);
        for (int row = 0; row < rows; ++row) {
            const int column = low_pitch_ + row - Evidence::kLowestPitch;
            if (column < 0 || column >= Evidence::kPitches) continue;
            const auto c = static_cast<std::size_t>(column);
            // Everything that sounds shows faintly, what the part's own line is likely to be shows strongly.
            float v = 0.45F * e.sounding.at(frame, c);
            if (role == PartRole::Bass) v = std::max(v, e.bass_sounding.at(frame, c));
            else if (role == PartRole::Lead) v = std::max(v, e.lead_sounding.at(frame, c));
            else v = std::max(v, 0.9F * e.sounding.at(frame, c));
            if (v < 0.04F) continue;
            QColor shade = ink;
            shade.setAlphaF(std::min(1.0F, v * 0.75F));
            image_.setPixelColor(x, rows - 1 - row, shade);
        }
    }
    return image_;
}

void NoteCloseUp::paint_content(QPainter& p, const QRect& area) {
    const Part* part = session_.selection().part();
    if (!part) return;
    const Remake& r = session_.remake();
    const double row = static_cast<double>(area.height()) / (high_pitch_ - low_pitch_ + 1);
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
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(area, evidence_image(area));
    p.setCompositionMode(theme().overprint);
    const auto report = session_.report();
    for (const PlacedNote& n : placed_notes(*part)) {
        const double x0 = x_of(n.note.start), x1 = x_of(n.note.start + n.note.length);
        if (x1 < area.left() || x0 > area.right() || n.note.pitch < low_pitch_ || n.note.pitch > high_pitch_) continue;
        const QRectF box(x0, y_of(n.note.pitch) + 1, std::max(3.0, x1 - x0 - 1), std::max(3.0, row - 2));
        // Loudness is the ink's strength; a note the evidence doubts is drawn hollow.
        const int alpha = n.muted ? 60 : 120 + n.note.velocity;
        if (n.note.confidence < 0.5 && n.note.origin == Origin::Heard) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(with_alpha(theme().rebuild, 255), 1.3, Qt::DashLine));
            p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
        } else {
            p.setPen(Qt::NoPen);
            p.setBrush(with_alpha(theme().rebuild, std::min(255, alpha)));
            p.drawRect(box);
        }
        if (!n.note.bend.empty()) {
            // The way its pitch goes, a row a semitone; the last pitch is held to the end.
            QPolygonF way;
            const double middle = y_of(n.note.pitch) + row / 2;
            for (const BendPoint& b : n.note.bend) way << QPointF(x_of(n.note.start + std::min(b.tick, n.note.length)), middle - b.cents / 100.0 * row);
            way << QPointF(std::max(x1 - 1, way.back().x()), way.back().y());
            p.setRenderHint(QPainter::Antialiasing);
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(theme().rebuild, 1.6));
            p.drawPolyline(way);
            p.setRenderHint(QPainter::Antialiasing, false);
        }
        if (session_.selection().contains(n)) {
            p.setCompositionMode(QPainter::CompositionMode_SourceOver);
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(theme().selection, 2));
            p.drawRect(box.adjusted(-1, -1, 1, 1));
            p.setCompositionMode(theme().overprint);
        }
    }
    p.setCompositionMode(QPainter::CompositionMode_SourceOver);
    // What the check doubts carries a mark above it.
    if (report)
        for (const Finding& f : report->findings) {
            if (!f.listed() || f.element != session_.selection().element() || f.end_s < time_at(area.left()) || f.start_s > time_at(area.right())) continue;
            if (f.kind == FindingKind::Transposed || f.kind == FindingKind::Shifted) continue;  // of the part, not of a note
            const int pitch = f.kind == FindingKind::MissingNote ? f.expected_pitch : f.pitch;
            if (pitch < low_pitch_ || pitch > high_pitch_) continue;
            p.setPen(QPen(theme().text, 1.2));
            p.setFont(text_font(9, true));
            const QString mark = f.kind == FindingKind::MissingNote  ? "+"
                                 : f.kind == FindingKind::ExtraNote  ? "×"
                                 : f.kind == FindingKind::WrongPitch ? "↕"
                                 : f.kind == FindingKind::Early      ? "→"
                                                                     : "←";
            p.drawText(QRectF(x_at(f.start_s) - 2, y_of(pitch) - 12, 16, 12), Qt::AlignCenter, mark);
            if (f.kind == FindingKind::MissingNote) {
                p.setPen(QPen(theme().original, 1.2, Qt::DotLine));
                p.drawRect(QRectF(x_at(f.start_s), y_of(pitch) + 1, std::max(3.0, x_at(f.end_s) - x_at(f.start_s)), row - 2));
            }
        }
}

void NoteCloseUp::paint_pointer(QPainter& p, const QRect& area) {
    const Remake& r = session_.remake();
    const Key* key = r.song->key_at(tick_at(area.left()));
    if (!rubber_.isNull()) {
        p.setPen(QPen(theme().selection, 1, Qt::DashLine));
        p.setBrush(with_alpha(theme().selection, 18));
        p.drawRect(rubber_.normalized());
    }
    if (hover_.x() >= area.left() && area.contains(hover_.toPoint())) {
        p.setPen(theme().faint);
        p.setFont(figure_font(8));
        const Ticks t = tick_at(hover_.x());
        const QString text = QString("%1  %2").arg(QString::fromStdString(note_name(pitch_at(hover_.y()), key && key->flats())),
                                                   QString::fromStdString(r.song->meter.position(t).text()));
        p.drawText(area.adjusted(8, 4, -8, 0), Qt::AlignRight | Qt::AlignTop, text);
    }
}

std::optional<PlacedNote> NoteCloseUp::note_at(const QPointF& at) const {
    const Part* part = session_.selection().part();
    if (!part) return std::nullopt;
    std::optional<PlacedNote> found;
    const int pitch = pitch_at(at.y());
    for (const PlacedNote& n : placed_notes(*part))
        if (n.note.pitch == pitch && at.x() >= x_of(n.note.start) - 1 && at.x() <= std::max(x_of(n.note.start) + 4, x_of(n.note.start + n.note.length)) + 1)
            found = n;
    return found;
}

void NoteCloseUp::audition(int pitch, int velocity) {
    if (const Part* part = session_.selection().part()) session_.transport().player().audition(part->id, std::clamp(pitch, 0, 127), velocity);
}

void NoteCloseUp::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || ruler_press(e->pos())) return;
    setFocus();
    press_ = e->position();
    if (press_.x() < kLeft) {
        audition(pitch_at(press_.y()));
        return;
    }
    drag_ = Drag::Select;
    rubber_ = QRectF();
    if (const auto n = note_at(press_)) {
        const NoteRef ref = n->ref();
        std::vector<NoteRef> chosen = session_.selection().notes();
        const auto at = std::find(chosen.begin(), chosen.end(), ref);
        if (e->modifiers() & Qt::ControlModifier) {
            if (at == chosen.end()) chosen.push_back(ref);
            else chosen.erase(at);
        } else if (at == chosen.end()) {
            chosen = {ref};
        }
        session_.selection().select_notes(std::move(chosen));
        drag_ = press_.x() > x_of(n->note.start + n->note.length) - kEdge ? Drag::Lengthen : Drag::Move;
        drag_from_ = session_.documents().document();
        last_semitones_ = 0;
        audition(n->note.pitch, n->note.velocity);
    } else if (!(e->modifiers() & Qt::ControlModifier)) {
        session_.selection().select_notes({});
    }
}

void NoteCloseUp::mouseMoveEvent(QMouseEvent* e) {
    hover_ = e->position();
    const Part* part = session_.selection().part();
    if (!(e->buttons() & Qt::LeftButton) || !part || drag_ == Drag::None) {
        const auto n = note_at(hover_);
        setCursor(n ? (hover_.x() > x_of(n->note.start + n->note.length) - kEdge ? Qt::SizeHorCursor : Qt::SizeAllCursor) : Qt::ArrowCursor);
        update();
        return;
    }
    if (drag_ == Drag::Select) {
        rubber_ = QRectF(press_, hover_);
        std::vector<NoteRef> within;
        const QRectF box = rubber_.normalized();
        for (const PlacedNote& n : placed_notes(*part)) {
            const double y = y_of(n.note.pitch), row = y_of(n.note.pitch) - y_of(n.note.pitch + 1);
            if (box.intersects(QRectF(x_of(n.note.start), y, std::max(2.0, x_of(n.note.start + n.note.length) - x_of(n.note.start)), row)))
                within.push_back(n.ref());
        }
        session_.selection().select_notes(std::move(within));
        return;
    }
    if ((hover_ - press_).manhattanLength() < 3) return;
    // Always from the document the drag began with, so that there and back again is no change at all.
    const Ticks moved = tick_at(hover_.x()) - tick_at(press_.x());
    const Ticks step = e->modifiers() & Qt::AltModifier ? moved : snap(moved);
    if (drag_ == Drag::Lengthen) {
        session_.documents().run(session_.selection().on_notes("note.change", *drag_from_, part->id).with("lengthen", length_text(step)), "drag", drag_from_);
        return;
    }
    const int semitones = pitch_at(hover_.y()) - pitch_at(press_.y());
    if (semitones != last_semitones_) {
        last_semitones_ = semitones;
        if (const auto n = note_at(press_)) audition(n->note.pitch + semitones);
        else audition(pitch_at(hover_.y()));
    }
    session_.documents().run(
        session_.selection().on_notes("note.change", *drag_from_, part->id).with("move", length_text(step)).with("semitones", std::to_string(semitones)),
        "drag", drag_from_);
}

void NoteCloseUp::mouseReleaseEvent(QMouseEvent*) {
    session_.documents().end_gesture();
    drag_ = Drag::None;
    drag_from_.reset();
    rubber_ = QRectF();
    update();
}

void NoteCloseUp::mouseDoubleClickEvent(QMouseEvent* e) {
    const Part* part = session_.selection().part();
    if (!part || e->position().x() < kLeft || e->pos().y() < kRuler || note_at(e->position())) return;
    Note n;
    n.start = std::max<Ticks>(0, snap(tick_at(e->position().x()), true));
    n.length = grid_ > 0 ? grid_ : kTicksPerQuarter / 4;
    n.pitch = pitch_at(e->position().y());
    n.velocity = 96;
    session_.selection().draw_note(part->id, n);
    audition(n.pitch);
    session_.selection().select_notes({});
    drag_ = Drag::None;
}

void NoteCloseUp::wheelEvent(QWheelEvent* e) {
    if (!(e->modifiers() & Qt::ShiftModifier)) return CloseUp::wheelEvent(e);
    const int delta = e->angleDelta().y() + e->angleDelta().x();
    const int step = delta > 0 ? 2 : -2;
    if (low_pitch_ + step >= 21 && high_pitch_ + step <= 108) low_pitch_ += step, high_pitch_ += step;
    still_.renew(*this);
}

void NoteCloseUp::leaveEvent(QEvent*) {
    hover_ = {-1, -1};
    update();
}

void NoteCloseUp::delete_selected() {
    const Part* part = session_.selection().part();
    if (!part || session_.selection().notes().empty()) return;
    session_.documents().run(session_.selection().on_notes("note.remove", session_.remake(), part->id));
    session_.selection().select_notes({});
}

void NoteCloseUp::transpose_selected(int semitones) {
    const Part* part = session_.selection().part();
    if (!part || session_.selection().notes().empty()) return;
    for (const PlacedNote& n : placed_notes(*part))
        if (n.ref() == session_.selection().notes().front()) audition(n.note.pitch + semitones, n.note.velocity);
    session_.documents().run(session_.selection().on_notes("note.change", session_.remake(), part->id).with("semitones", std::to_string(semitones)));
}

void NoteCloseUp::nudge_selected(Ticks ticks) {
    const Part* part = session_.selection().part();
    if (part && !session_.selection().notes().empty()) session_.selection().nudge(part->id, ticks);
}

void NoteCloseUp::quantise_selected() {
    const Part* part = session_.selection().part();
    if (part && grid_ > 0 && !session_.selection().notes().empty())
        session_.documents().run(session_.selection().on_notes("note.quantise", session_.remake(), part->id).with("grid", length_text(grid_)));
}

void NoteCloseUp::straighten_selected() {
    const Part* part = session_.selection().part();
    if (!part) return;
    const auto notes = placed_notes(*part);
    const bool any = std::any_of(notes.begin(), notes.end(), [&](const PlacedNote& n) { return !n.note.bend.empty() && session_.selection().contains(n); });
    if (any) session_.documents().run(session_.selection().on_notes("note.straighten", session_.remake(), part->id));
}

void NoteCloseUp::select_all() {
    const Part* part = session_.selection().part();
    if (!part) return;
    std::vector<NoteRef> all;
    for (const PlacedNote& n : placed_notes(*part)) all.push_back(n.ref());
    session_.selection().select_notes(std::move(all));
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/arrangement_grid.hpp"

#include "app/place_sound.hpp"

#include <QContextMenuEvent>
#include <QDropEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

namespace fw::app {

namespace {
constexpr int kNames = 128, kHead = 40, kRowHeight = 36, kLeastRowHeight = 15, kClipRow = 20, kMostClipRows = 3;
constexpr double kRoom = 12.0 * kRowHeight;  // for the parts: where there are more their rows become lower
}  // namespace

ArrangementGrid::ArrangementGrid(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setAccessibleName(tr("Arrangement"));
    setToolTip(
        tr("Click a cell to mute or unmute the part in that section; drag it onto another section to play the same there; click a name to select the part.\n"
           "With the right button: what else can be done with a cell, a section or a clip. Sound files can be dropped here."));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFocusPolicy(Qt::StrongFocus);
    setAcceptDrops(true);
    connect(&jobs_, &JobQueue::failed, &session_, &Session::failed);
    connect(&session_, &Session::document_changed, this, [this] {
        if (clip_ && !session_.remake().clips->clip(clip_)) {
            clip_ = {};
            emit clip_chosen();
        }
        updateGeometry();
    });
    still_.follow(*this, session_, {&Session::document_changed, &Session::selection_changed, &Session::report_changed});
}

int ArrangementGrid::row_height() const {
    const auto parts = static_cast<double>(std::max<std::size_t>(1, session_.remake().parts.size()));
    return std::clamp(static_cast<int>(kRoom / parts), kLeastRowHeight, kRowHeight);
}

int ArrangementGrid::parts_bottom() const { return kHead + std::max(3 * kRowHeight, static_cast<int>(session_.remake().parts.size()) * row_height()); }

QSize ArrangementGrid::sizeHint() const {
    int lanes = 0;
    for (const ClipBox& box : clip_boxes()) lanes = std::max(lanes, box.lane + 1);
    return {400, parts_bottom() + 2 + (lanes > 0 ? lanes * kClipRow + 6 : 0)};
}

QRectF ArrangementGrid::cell_rect(int part, int section) const {
    const auto& sections = session_.remake().song->sections;
    if (section < 0 || section >= static_cast<int>(sections.size())) return {};
    // Columns as wide as their sections are long, but never too narrow for a letter.
    const auto wide = [](const Section& s) { return std::max<double>(2.0 * kTicksPerQuarter * 4, static_cast<double>(s.length)); };
    double total = 0.0, before = 0.0;
    for (std::size_t i = 0; i < sections.size(); ++i) {
        if (static_cast<int>(i) < section) before += wide(sections[i]);
        total += wide(sections[i]);
    }
    const double scale = (width() - kNames - 14) / std::max(1.0, total);
    const QRectF cell(kNames + before * scale, kHead + part * row_height(), wide(sections[static_cast<std::size_t>(section)]) * scale, row_height());
    return part >= 0 ? cell : QRectF(cell.left(), 0, cell.width(), kHead);
}

double ArrangementGrid::x_of(Ticks tick) const {
    const auto& sections = session_.remake().song->sections;
    if (sections.empty()) return kNames;
    for (int s = 0; s < static_cast<int>(sections.size()); ++s) {
        const Section& section = sections[static_cast<std::size_t>(s)];
        const QRectF column = cell_rect(0, s);
        if (tick < section.start) return column.left();
        if (tick < section.start + section.length)
            return column.left() + column.width() * static_cast<double>(tick - section.start) / static_cast<double>(std::max<Ticks>(1, section.length));
    }
    return cell_rect(0, static_cast<int>(sections.size()) - 1).right();
}

Ticks ArrangementGrid::tick_at(double x) const {
    const auto& sections = session_.remake().song->sections;
    for (int s = 0; s < static_cast<int>(sections.size()); ++s) {
        const Section& section = sections[static_cast<std::size_t>(s)];
        const QRectF column = cell_rect(0, s);
        if (x < column.left()) return section.start;
        if (x < column.right()) return section.start + static_cast<Ticks>((x - column.left()) / column.width() * static_cast<double>(section.length));
    }
    return sections.empty() ? 0 : sections.back().start + sections.back().length;
}

/// In order of time, each in the first lane in which nothing sounds any more, or the last one.
std::vector<ArrangementGrid::ClipBox> ArrangementGrid::clip_boxes() const {
    const Remake& r = session_.remake();
    const TempoMap& tempo = r.song->tempo;
    struct Span {
        const Clip* clip;
        Ticks place;
        double from_s, to_s;
    };
    std::vector<Span> spans;
    for (const Clip& c : r.clips->clips) {
        const Ticks place = clip_dragged_ == c.id ? clip_to_ : c.start;
        const double seconds = recipe_seconds(*r.song, *r.clips->asset(c.asset), c), at = tempo.seconds(place);
        spans.push_back({&c, place, c.ends_here ? at - seconds : at, c.ends_here ? at : at + seconds});
    }
    std::stable_sort(spans.begin(), spans.end(), [](const Span& a, const Span& b) { return a.from_s < b.from_s; });
    std::array<double, kMostClipRows> sounds_until{};
    sounds_until.fill(-1e9);
    std::vector<ClipBox> boxes;
    for (const Span& s : spans) {
        int lane = 0;
        while (lane + 1 < kMostClipRows && sounds_until[static_cast<std::size_t>(lane)] > s.from_s + 1e-6) ++lane;
        double& until = sounds_until[static_cast<std::size_t>(lane)];
        until = std::max(until, s.to_s);
        const Ticks other = tempo.nearest_tick(s.clip->ends_here ? s.from_s : s.to_s);
        const double left = x_of(std::min(s.place, other)), right = x_of(std::max(s.place, other));
        boxes.push_back({s.clip->id, {left, parts_bottom() + 4.0 + lane * kClipRow, std::max(14.0, right - left), kClipRow - 3.0}, lane});
    }
    return boxes;
}

QRectF ArrangementGrid::clip_rect(ClipId clip) const {
    for (const ClipBox& box : clip_boxes())
        if (box.clip == clip) return box.rect;
    return {};
}

Ticks ArrangementGrid::beat_at(Ticks tick) const {
    const MeterMap& meter = session_.remake().song->meter;
    return meter.at_bar(meter.position(tick).bar).beat_ticks();
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
        const QRectF head = cell_rect(kHeads, s);
        const Section& section = r.song->sections[static_cast<std::size_t>(s)];
        p.setPen(section.condensed_out ? theme().faint : theme().text);
        QFont letter = text_font(10, true);
        letter.setStrikeOut(section.condensed_out);
        p.setFont(letter);
        paint_text(p, QRectF(head.left() + 6, 4, head.width() - 8, 18), Qt::AlignVCenter, QString::fromStdString(section.label));
        p.setFont(text_font(8.5));
        p.setPen(theme().faint);
        paint_text(p, QRectF(head.left() + 6, 20, head.width() - 8, 16), Qt::AlignVCenter,
                   QString("%1 · %2").arg(QString::fromStdString(section.name)).arg(r.song->meter.position(section.start).bar));
    }
    for (int i = 0; i < static_cast<int>(r.parts.size()); ++i) {
        const Part& part = *r.parts[static_cast<std::size_t>(i)];
        const bool chosen = session_.selection().element() == ElementId(part.id);
        const QRectF row(0, kHead + i * row_height(), width(), row_height());
        if (chosen) p.fillRect(row, theme().raised);
        p.setPen(theme().hairline);
        p.drawLine(row.bottomLeft(), row.bottomRight());
        p.setPen(part.mute ? theme().faint : theme().text);
        p.setFont(text_font(9.5, chosen));
        const bool narrow = row_height() < kRowHeight;
        paint_text(p, narrow ? QRectF(12, row.top(), kNames - 20, row.height()) : QRectF(12, row.top() + 2, kNames - 20, 18), Qt::AlignVCenter,
                   QString::fromStdString(part.name));
        p.setFont(text_font(8));
        p.setPen(theme().faint);
        const Layer layer = part.layers.empty() ? Layer{} : part.layers.front();
        if (!narrow)
            paint_text(p, QRectF(12, row.top() + 18, kNames - 20, 15), Qt::AlignVCenter,
                       QString("%1 dB%2").arg(part.gain_db, 0, 'f', 1).arg(layer.patch.empty() ? QString() : ", " + QString::fromStdString(layer.patch)));
        for (int s = 0; s < static_cast<int>(r.song->sections.size()); ++s) {
            const Section& section = r.song->sections[static_cast<std::size_t>(s)];
            const QRectF cell = narrow ? cell_rect(i, s).adjusted(2, 1, -2, -2) : cell_rect(i, s).adjusted(2, 3, -2, -4);
            const Placement* placement = placement_in(part, section);
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
            const QRectF tag(cell.left() + 2, narrow ? cell.top() : cell.top() + 2,
                             std::min(cell.width() - 4, QFontMetricsF(p.font()).horizontalAdvance(letter) + 8), std::min(15.0, cell.height()));
            p.fillRect(tag, theme().ground);
            p.setPen(placement->muted ? theme().faint : theme().text);
            paint_text(p, tag.adjusted(3, 0, 0, 0), Qt::AlignVCenter, letter);
        }
    }
    // The cell that keys go to, and the one a drag would fill.
    p.setBrush(Qt::NoBrush);
    if (cell_ && cell_->part < static_cast<int>(r.parts.size()) && hasFocus()) {
        p.setPen(QPen(theme().text, 1));
        p.drawRect(cell_rect(cell_->part, cell_->section).adjusted(1, 2, -1, -3));
    }
    if (onto_ && dragged_ && *onto_ != *dragged_) {
        p.setPen(QPen(theme().rebuild, 2, Qt::DashLine));
        p.drawRect(cell_rect(onto_->part, onto_->section).adjusted(2, 3, -2, -4));
    }
    paint_clips(p);
}

void ArrangementGrid::paint_clips(QPainter& p) const {
    const Remake& r = session_.remake();
    if (r.clips->clips.empty()) return;
    p.setFont(text_font(9.5));
    p.setPen(theme().text);
    paint_text(p, QRectF(12, parts_bottom() + 4, kNames - 20, kClipRow - 2), Qt::AlignVCenter, tr("Clips"));
    p.setFont(text_font(8));
    const QFontMetricsF metrics(p.font());
    for (const auto& [id, box, lane] : clip_boxes()) {
        const Clip& c = *r.clips->clip(id);
        const Asset* asset = r.clips->asset(c.asset);
        const QColor ink = asset && asset->origin == AssetOrigin::Original ? theme().original : theme().rebuild;
        p.setPen(QPen(c.mute ? theme().hairline : ink, id == clip_ ? 2 : 1));
        p.setBrush(c.mute ? QBrush(Qt::NoBrush) : QBrush(with_alpha(ink, 34)));
        p.drawRect(box);
        p.setPen(c.mute ? theme().faint : theme().text);
        if (box.width() > 26)
            paint_text(p, box.adjusted(4, 0, -2, 0), Qt::AlignVCenter, metrics.elidedText(QString::fromStdString(c.name), Qt::ElideRight, box.width() - 6));
    }
}

std::optional<ArrangementGrid::Cell> ArrangementGrid::cell_at(const QPointF& at) const {
    const Remake& r = session_.remake();
    const int row = at.y() < kHead ? kHeads : static_cast<int>((at.y() - kHead) / row_height());
    if (at.y() < 0 || row >= static_cast<int>(r.parts.size())) return std::nullopt;
    for (int s = 0; s < static_cast<int>(r.song->sections.size()); ++s)
        if (cell_rect(row, s).contains(at)) return Cell{row, s};
    return row == kHeads ? std::nullopt : std::optional(Cell{row, -1});
}

ClipId ArrangementGrid::clip_at(const QPointF& at) const {
    ClipId found;
    for (const ClipBox& box : clip_boxes())
        if (box.rect.contains(at)) found = box.clip;
    return found;
}

void ArrangementGrid::choose(const Cell& cell) {
    cell_ = cell;
    if (std::exchange(clip_, ClipId())) emit clip_chosen();
    if (cell.part != kHeads) session_.selection().select_element(session_.remake().parts[static_cast<std::size_t>(cell.part)]->id);
    still_.renew(*this);
}

void ArrangementGrid::choose(ClipId clip) {
    clip_ = clip;
    cell_.reset();
    still_.renew(*this);
    emit clip_chosen();
}

void ArrangementGrid::move_clip(ClipId clip, Ticks to) {
    const Remake& r = session_.remake();
    if (r.clips->clip(clip)) run(Line("clip.move").with("clip", clip_text(r, clip)).with("to", place_text(r.song->meter, to)));
}

void ArrangementGrid::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    pressed_at_ = e->position();
    if (const ClipId clip = clip_at(e->position())) {
        clip_from_ = clip_to_ = session_.remake().clips->clip(clip)->start;
        clip_dragged_ = clip;
        choose(clip);
        return;
    }
    const auto cell = cell_at(e->position());
    if (!cell) return;
    if (cell->section < 0) {
        session_.selection().select_element(session_.remake().parts[static_cast<std::size_t>(cell->part)]->id);
        return;
    }
    choose(*cell);
    if (cell->part != kHeads) dragged_ = onto_ = cell;
}

/// A sound file becomes a clip at the beat it is dropped on. What else there is, the window opens.
void ArrangementGrid::dragEnterEvent(QDragEnterEvent* e) {
    const auto urls = e->mimeData()->urls();
    if (session_.has_reference() && urls.size() == 1 && urls.first().isLocalFile() && !urls.first().toLocalFile().endsWith(".fakturwerk"))
        e->acceptProposedAction();
}

void ArrangementGrid::dropEvent(QDropEvent* e) {
    const auto urls = e->mimeData()->urls();
    if (urls.isEmpty()) return;
    const Ticks at = tick_at(e->position().x()), beat = std::max<Ticks>(1, beat_at(at));
    place_sound(session_, urls.first().toLocalFile(), (at + beat / 2) / beat * beat);
    e->acceptProposedAction();
}

void ArrangementGrid::mouseMoveEvent(QMouseEvent* e) {
    if (clip_dragged_) {
        // To the nearest beat; with Shift to the nearest sixteenth.
        const Ticks by = tick_at(e->position().x()) - tick_at(pressed_at_.x());
        const Ticks grid = e->modifiers() & Qt::ShiftModifier ? kTicksPerQuarter / 4 : beat_at(clip_from_);
        const Ticks to = clip_from_ + static_cast<Ticks>(std::llround(static_cast<double>(by) / static_cast<double>(grid))) * grid;
        if (std::exchange(clip_to_, to) != to) still_.renew(*this);
        return;
    }
    if (!dragged_) return;
    const auto cell = cell_at(e->position());
    const auto onto = cell && cell->part == dragged_->part && cell->section >= 0 ? cell : dragged_;
    if (std::exchange(onto_, onto) != onto) still_.renew(*this);
}

void ArrangementGrid::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    still_.renew(*this);
    if (const ClipId clip = std::exchange(clip_dragged_, {})) {
        if (clip_to_ != clip_from_) move_clip(clip, clip_to_);
        return;
    }
    const Remake& r = session_.remake();
    const auto from = std::exchange(dragged_, std::nullopt), to = std::exchange(onto_, std::nullopt);
    if (!from || from->part >= static_cast<int>(r.parts.size())) return;
    if (!to || *to == *from) {
        mute(*from);
        return;
    }
    const auto section = [&](const Cell& c) { return section_text(r, r.song->sections[static_cast<std::size_t>(c.section)].id); };
    run(Line("part.play-as")
            .with("part", part_text(r, r.parts[static_cast<std::size_t>(from->part)]->id))
            .with("section", section(*to))
            .with("like", section(*from)));
}

void ArrangementGrid::contextMenuEvent(QContextMenuEvent* e) {
    if (!session_.has_reference()) return;
    QPoint at = e->globalPos();
    if (e->reason() == QContextMenuEvent::Keyboard) {
        if (!clip_ && !cell_) return;
        at = mapToGlobal((clip_ ? clip_rect(clip_) : cell_rect(cell_->part, cell_->section)).center().toPoint());
    } else if (const ClipId clip = clip_at(e->pos())) {
        choose(clip);
    } else if (const auto cell = cell_at(e->pos()); cell && cell->section >= 0) {
        choose(*cell);
    } else {
        return;
    }
    QMenu* menu = clip_ ? clip_menu(clip_) : cell_->part == kHeads ? head_menu(cell_->section) : cell_menu(cell_->part, cell_->section);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->popup(at);
}

bool ArrangementGrid::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip)
        if (const ClipId clip = clip_at(static_cast<QHelpEvent*>(e)->pos())) {
            const Remake& r = session_.remake();
            const Clip& c = *r.clips->clip(clip);
            QToolTip::showText(static_cast<QHelpEvent*>(e)->globalPos(),
                               tr("%1, %2 s long; drag it to another beat, with Shift to a sixteenth; Delete takes it away")
                                   .arg(QString::fromStdString(c.name))
                                   .arg(recipe_seconds(*r.song, *r.clips->asset(c.asset), c), 0, 'f', 2),
                               this);
            return true;
        }
    return QWidget::event(e);
}

void ArrangementGrid::focusInEvent(QFocusEvent* e) {
    still_.renew(*this);
    QWidget::focusInEvent(e);
}

void ArrangementGrid::focusOutEvent(QFocusEvent* e) {
    still_.renew(*this);
    QWidget::focusOutEvent(e);
}

void ArrangementGrid::keyPressEvent(QKeyEvent* e) {
    const bool plain = (e->modifiers() & ~(Qt::KeypadModifier | Qt::ShiftModifier)) == 0;
    if (!plain || !(clip_ ? key_on_clip(*e) : !(e->modifiers() & Qt::ShiftModifier) && key_on_cell(*e))) QWidget::keyPressEvent(e);
}

bool ArrangementGrid::key_on_clip(const QKeyEvent& e) {
    const auto boxes = clip_boxes();
    const auto at = std::find_if(boxes.begin(), boxes.end(), [&](const ClipBox& b) { return b.clip == clip_; });
    const Remake& r = session_.remake();
    if (at == boxes.end()) return false;
    const Ticks start = r.clips->clip(clip_)->start;
    const int along = (e.key() == Qt::Key_Right) - (e.key() == Qt::Key_Left);
    if (along != 0 && e.modifiers() & Qt::ShiftModifier) {
        move_clip(clip_, start + along * beat_at(start));
    } else if (along != 0) {
        if (along > 0 ? std::next(at) != boxes.end() : at != boxes.begin()) choose(std::next(at, along)->clip);
    } else if (e.key() == Qt::Key_Up && !r.parts.empty()) {
        const auto cell = cell_at({at->rect.center().x(), static_cast<double>(kHead) + (static_cast<double>(r.parts.size()) - 0.5) * row_height()});
        if (cell && cell->section >= 0) choose(*cell);
    } else if (e.key() == Qt::Key_Delete || e.key() == Qt::Key_Backspace) {
        run(Line("clip.remove").with("clip", clip_text(r, clip_)));
    } else {
        return false;
    }
    return true;
}

bool ArrangementGrid::key_on_cell(const QKeyEvent& e) {
    const Remake& r = session_.remake();
    const int parts = static_cast<int>(r.parts.size()), sections = static_cast<int>(r.song->sections.size());
    if (parts == 0 || sections == 0) return false;
    Cell cell = cell_.value_or(Cell{0, 0});
    cell.part = std::clamp(cell.part, kHeads, parts - 1), cell.section = std::clamp(cell.section, 0, sections - 1);
    const int along = (e.key() == Qt::Key_Right) - (e.key() == Qt::Key_Left), down = (e.key() == Qt::Key_Down) - (e.key() == Qt::Key_Up);
    const bool mutes = e.key() == Qt::Key_Return || e.key() == Qt::Key_Enter, leaves_out_key = e.key() == Qt::Key_Delete;
    if (along == 0 && down == 0 && !mutes && !leaves_out_key) return false;
    if (!cell_) {
        choose(cell);
    } else if (along != 0 || down != 0) {
        // Below the last part are the clips, above the first one the sections' heads.
        if (const auto boxes = clip_boxes(); cell.part + down >= parts && !boxes.empty()) {
            const double x = cell_rect(cell.part, cell.section).left();
            const auto near = std::find_if(boxes.begin(), boxes.end(), [&](const ClipBox& b) { return b.rect.right() > x; });
            choose(near == boxes.end() ? boxes.back().clip : near->clip);
        } else {
            choose(Cell{std::clamp(cell.part + down, kHeads, parts - 1), std::clamp(cell.section + along, 0, sections - 1)});
        }
    } else if (cell.part != kHeads) {
        mutes ? mute(cell) : leave_out(cell);
    }
    return true;
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/arrangement_grid.hpp"

#include "app/transition_menu.hpp"
#include "engine/print.hpp"

#include <QContextMenuEvent>
#include <QCryptographicHash>
#include <QDir>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QStandardPaths>
#include <QToolTip>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr int kNames = 128, kHead = 40, kRowHeight = 36, kClipRow = 20, kMostClipRows = 3;

/// The longest a placement of a part lasts in a section tells whether it plays there.
const Placement* placement_in(const Part& part, const Section& section) {
    const Placement* found = nullptr;
    for (const Placement& x : part.placements)
        if (x.start >= section.start && x.start < section.start + section.length) found = &x;
    return found;
}

}  // namespace

ArrangementGrid::ArrangementGrid(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setAccessibleName(tr("Arrangement"));
    setToolTip(
        tr("Click a cell to mute or unmute the part in that section; drag it onto another section to play the same there; click a name to select the part.\n"
           "With the right button: what else can be done with a cell, a section or a clip."));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFocusPolicy(Qt::StrongFocus);
    connect(&jobs_, &JobQueue::failed, &session_, &Session::failed);
    connect(&session_, &Session::document_changed, this, [this] {
        if (clip_ && !session_.remake().clips->clip(clip_)) clip_ = {};
        updateGeometry();
    });
    still_.follow(*this, session_, {&Session::document_changed, &Session::selection_changed, &Session::report_changed});
}

QSize ArrangementGrid::sizeHint() const {
    const auto rows = clip_rows();
    const int lanes = rows.empty() ? 0 : 1 + *std::max_element(rows.begin(), rows.end());
    return {400, kHead + std::clamp(static_cast<int>(session_.remake().parts.size()), 3, 12) * kRowHeight + 2 + (lanes > 0 ? lanes * kClipRow + 6 : 0)};
}

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

QRectF ArrangementGrid::head_rect(int section) const {
    QRectF head = cell_rect(0, section);
    head.setTop(0);
    head.setBottom(kHead);
    return head;
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

std::vector<int> ArrangementGrid::clip_rows() const {
    const Remake& r = session_.remake();
    std::vector<int> rows;
    std::vector<std::vector<std::pair<double, double>>> taken(kMostClipRows);
    for (const Clip& c : r.clips->clips) {
        const double seconds = recipe_seconds(*r.song, *r.clips->asset(c.asset), c), at = r.song->tempo.seconds(c.start);
        const std::pair<double, double> span = c.ends_here ? std::pair(at - seconds, at) : std::pair(at, at + seconds);
        int row = 0;
        while (row + 1 < kMostClipRows && std::any_of(taken[static_cast<std::size_t>(row)].begin(), taken[static_cast<std::size_t>(row)].end(),
                                                      [&](const auto& t) { return t.first < span.second - 1e-6 && span.first < t.second - 1e-6; }))
            ++row;
        taken[static_cast<std::size_t>(row)].push_back(span);
        rows.push_back(row);
    }
    return rows;
}

QRectF ArrangementGrid::clip_rect(ClipId clip) const {
    const Remake& r = session_.remake();
    const auto rows = clip_rows();
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const Clip& c = r.clips->clips[i];
        if (c.id != clip) continue;
        const double seconds = recipe_seconds(*r.song, *r.clips->asset(c.asset), c);
        const Ticks place = clip_dragged_ == clip ? clip_to_ : c.start;
        const double at = r.song->tempo.seconds(place);
        const Ticks other = r.song->tempo.nearest_tick(c.ends_here ? at - seconds : at + seconds);
        const double left = x_of(std::min(place, other)), right = x_of(std::max(place, other));
        return {left, static_cast<double>(kHead + std::clamp(static_cast<int>(r.parts.size()), 3, 12) * kRowHeight + 4 + rows[i] * kClipRow),
                std::max(14.0, right - left), kClipRow - 3.0};
    }
    return {};
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
            const QRectF tag(cell.left() + 2, cell.top() + 2, std::min(cell.width() - 4, QFontMetricsF(p.font()).horizontalAdvance(letter) + 8), 15);
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
    const double top = kHead + std::clamp(static_cast<int>(r.parts.size()), 3, 12) * kRowHeight + 4;
    p.setFont(text_font(9.5));
    p.setPen(theme().text);
    paint_text(p, QRectF(12, top, kNames - 20, kClipRow - 2), Qt::AlignVCenter, tr("Clips"));
    p.setFont(text_font(8));
    for (const Clip& c : r.clips->clips) {
        const Asset* asset = r.clips->asset(c.asset);
        const bool original = asset && asset->origin == AssetOrigin::Original;
        const QRectF box = clip_rect(c.id);
        const QColor ink = original ? theme().original : theme().rebuild;
        p.setPen(QPen(c.mute ? theme().hairline : ink, c.id == clip_ ? 2 : 1));
        p.setBrush(c.mute ? QBrush(Qt::NoBrush) : QBrush(with_alpha(ink, 34)));
        p.drawRect(box);
        p.setPen(c.mute ? theme().faint : theme().text);
        if (box.width() > 26)
            paint_text(p, box.adjusted(4, 0, -2, 0), Qt::AlignVCenter,
                       QFontMetricsF(p.font()).elidedText(QString::fromStdString(c.name), Qt::ElideRight, box.width() - 6));
    }
}

std::optional<ArrangementGrid::Cell> ArrangementGrid::cell_at(const QPointF& at) const {
    const Remake& r = session_.remake();
    const int row = static_cast<int>(std::floor((at.y() - kHead) / kRowHeight));
    if (at.y() < kHead || row < 0 || row >= static_cast<int>(r.parts.size())) return std::nullopt;
    for (int s = 0; s < static_cast<int>(r.song->sections.size()); ++s)
        if (cell_rect(row, s).contains(at)) return Cell{row, s};
    return Cell{row, -1};
}

int ArrangementGrid::head_at(const QPointF& at) const {
    for (int s = 0; s < static_cast<int>(session_.remake().song->sections.size()); ++s)
        if (head_rect(s).contains(at)) return s;
    return -1;
}

ClipId ArrangementGrid::clip_at(const QPointF& at) const {
    ClipId found;
    for (const Clip& c : session_.remake().clips->clips)
        if (clip_rect(c.id).contains(at)) found = c.id;
    return found;
}

void ArrangementGrid::choose(const Cell& cell) {
    cell_ = cell;
    clip_ = {};
    session_.selection().select_element(session_.remake().parts[static_cast<std::size_t>(cell.part)]->id);
    still_.renew(*this);
}

void ArrangementGrid::mute(const Cell& cell) {
    const Remake& r = session_.remake();
    const Part& part = *r.parts[static_cast<std::size_t>(cell.part)];
    const Section& section = r.song->sections[static_cast<std::size_t>(cell.section)];
    if (const Placement* x = placement_in(part, section))
        run(Line("part.mute-in").with("part", part_text(r, part.id)).with("section", section_text(r, section.id)).with("on", x->muted ? "off" : "on"));
}

void ArrangementGrid::leave_out(const Cell& cell) {
    const Remake& r = session_.remake();
    run(Line("part.leave-out")
            .with("part", part_text(r, r.parts[static_cast<std::size_t>(cell.part)]->id))
            .with("section", section_text(r, r.song->sections[static_cast<std::size_t>(cell.section)].id)));
}

void ArrangementGrid::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    pressed_at_ = e->position();
    if (const ClipId clip = clip_at(e->position())) {
        clip_ = clip_dragged_ = clip;
        cell_.reset();
        clip_from_ = clip_to_ = session_.remake().clips->clip(clip)->start;
        still_.renew(*this);
        return;
    }
    const auto cell = cell_at(e->position());
    if (!cell) return;
    if (cell->section >= 0) {
        choose(*cell);
        dragged_ = onto_ = cell;
    } else {
        session_.selection().select_element(session_.remake().parts[static_cast<std::size_t>(cell->part)]->id);
    }
}

void ArrangementGrid::mouseMoveEvent(QMouseEvent* e) {
    if (clip_dragged_) {
        // To the nearest beat; with Shift to the nearest sixteenth.
        const MeterMap& meter = session_.remake().song->meter;
        const Ticks by = tick_at(e->position().x()) - tick_at(pressed_at_.x());
        const Ticks grid = e->modifiers() & Qt::ShiftModifier ? kTicksPerQuarter / 4 : meter.at_bar(meter.position(clip_from_).bar).beat_ticks();
        const Ticks to = clip_from_ + static_cast<Ticks>(std::llround(static_cast<double>(by) / static_cast<double>(grid))) * grid;
        if (std::exchange(clip_to_, to) == to) return;
        still_.renew(*this);
        return;
    }
    if (!dragged_) return;
    const auto cell = cell_at(e->position());
    const auto onto = cell && cell->part == dragged_->part && cell->section >= 0 ? cell : dragged_;
    if (std::exchange(onto_, onto) == onto) return;
    still_.renew(*this);
}

void ArrangementGrid::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    const Remake& r = session_.remake();
    if (const ClipId clip = std::exchange(clip_dragged_, {})) {
        if (clip_to_ != clip_from_ && r.clips->clip(clip))
            run(Line("clip.move").with("clip", clip_text(r, clip)).with("to", place_text(r.song->meter, clip_to_)));
        still_.renew(*this);
        return;
    }
    const auto from = std::exchange(dragged_, std::nullopt), to = std::exchange(onto_, std::nullopt);
    still_.renew(*this);
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

QMenu* ArrangementGrid::cell_menu(int part_row, int column) {
    const Remake& r = session_.remake();
    const Part& part = *r.parts[static_cast<std::size_t>(part_row)];
    const Section& section = r.song->sections[static_cast<std::size_t>(column)];
    const std::string p = part_text(r, part.id), s = section_text(r, section.id);
    auto* menu = new QMenu(this);
    const Placement* here = placement_in(part, section);
    QAction* muted = menu->addAction(here && here->muted ? tr("Let it sound here") : tr("Mute it here"), this, [this, part_row, column] {
        mute({part_row, column});
    });
    muted->setEnabled(here);
    muted->setObjectName("cell_mute");
    QAction* out = menu->addAction(tr("Leave it out here"), this, [this, part_row, column] { leave_out({part_row, column}); });
    out->setEnabled(here);
    out->setObjectName("cell_leave_out");
    QMenu* as = menu->addMenu(tr("Play here what it plays in"));
    as->setObjectName("cell_play_as");
    for (const Section& other : r.song->sections) {
        if (other.id == section.id || !placement_in(part, other)) continue;
        const std::string like = section_text(r, other.id);
        as->addAction(QString::fromStdString(like), this,
                      [this, p, s, like] { run(Line("part.play-as").with("part", p).with("section", s).with("like", like)); });
    }
    as->setEnabled(!as->isEmpty());
    QMenu* fall = menu->addMenu(tr("Let it fall out at the end, for"));
    fall->setObjectName("cell_fall_out");
    fall->setEnabled(here);
    const Ticks end = section.start + section.length, bar = r.song->meter.at_bar(r.song->meter.position(end - 1).bar).bar_ticks();
    for (const auto& [name, length] : {std::pair(tr("a beat"), bar / std::max(1, r.song->meter.at_bar(r.song->meter.position(end - 1).bar).beats())),
                                       std::pair(tr("half a bar"), bar / 2), std::pair(tr("a bar"), bar)})
        fall->addAction(name, this, [this, p, from = place_text(r.song->meter, end - length), to = place_text(r.song->meter, end)] {
            run(Line("part.fall-out").with("part", p).with("from", from).with("to", to));
        });
    menu->addSeparator();
    for (const bool steps : {true, false}) {
        QAction* print = menu->addAction(steps ? tr("Print it here as sound, with its steps") : tr("Print it here as sound, without its steps"), this,
                                         [this, id = part.id, at = section.id, steps] { print_here(id, at, steps); });
        print->setEnabled(here);
        print->setObjectName(steps ? "cell_print" : "cell_print_dry");
        print->setToolTip(tr("The sound becomes a clip that can be reversed, chopped and stretched; the part is muted there and kept"));
    }
    return menu;
}

/// The sound lies in the remake file from then on, so that nothing depends on the file it is handed over in.
void ArrangementGrid::print_here(PartId part, SectionId at, bool steps) {
    const Remake& r = session_.remake();
    const Section* s = r.song->section(at);
    if (!s || !r.part(part)) return;
    jobs_.run("print", tr("printing %1").arg(QString::fromStdString(r.part(part)->name)),
              [this, document = session_.documents().document(), inputs = PlanInputs{session_.transport().rate_hz(), assets_beside(session_.recording().sound)},
               part, at, from = s->start, to = s->start + s->length, steps]() -> JobQueue::Work {
                  return [this, document, inputs, part, at, from, to, steps](const Progress& progress) -> Result<JobQueue::Delivery> {
                      const auto sound = print_part(*document, part, from, to, steps, inputs, progress);
                      if (!sound) return sound.error();
                      const QString folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/prints";
                      QDir().mkpath(folder);
                      const auto hash = QCryptographicHash::hash(
                          QByteArrayView(reinterpret_cast<const char*>(sound->samples.data()), static_cast<qsizetype>(sound->samples.size() * sizeof(float))),
                          QCryptographicHash::Sha1);
                      const std::string file = (folder + "/" + QString::fromLatin1(hash.toHex().left(16)) + ".wav").toStdString();
                      if (const auto written = write_audio(file, *sound); !written) return written.error();
                      return JobQueue::Delivery([this, part, at, file, seconds = sound->duration_s()] {
                          const Remake& now = session_.remake();
                          const Section* where = now.song->section(at);
                          const Part* what = now.part(part);
                          if (!where || !what) return;
                          const std::string section = section_text(now, at), player = part_text(now, part), name = what->name + " in " + section;
                          const QString key = "print";
                          auto& documents = session_.documents();
                          documents.end_gesture();
                          if (!documents.run(Line("clip.from-file")
                                                 .with("file", file)
                                                 .with("to", place_text(now.song->meter, where->start))
                                                 .with("seconds", QString::number(seconds, 'f', 4).toStdString())
                                                 .with("name", name),
                                             key))
                              return;
                          documents.run(Line("clip.keep").with("clip", clip_text(session_.remake(), session_.remake().clips->clips.back().id)).with("on", "on"),
                                        key);
                          documents.run(Line("part.mute-in").with("part", player).with("section", section).with("on", "on"), key);
                          documents.end_gesture();
                      });
                  };
              });
}

QMenu* ArrangementGrid::head_menu(int column) {
    const Remake& r = session_.remake();
    const Section& section = r.song->sections[static_cast<std::size_t>(column)];
    const std::string from = place_text(r.song->meter, section.start), to = place_text(r.song->meter, section.start + section.length);
    auto* menu = new QMenu(this);
    add_transitions(*menu, session_, section.start);
    menu->addSeparator();
    QMenu* stop = menu->addMenu(tr("Everything stops before it, for"));
    stop->setObjectName("head_stop");
    stop->setEnabled(section.start > 0);
    const auto& meter = r.song->meter.at_bar(r.song->meter.position(section.start - 1).bar);
    for (const auto& [name, length] :
         {std::pair(tr("a beat"), meter.beat_ticks()), std::pair(tr("half a bar"), meter.bar_ticks() / 2), std::pair(tr("a bar"), meter.bar_ticks())})
        stop->addAction(name, this, [this, from, before = place_text(r.song->meter, section.start - length)] {
            run(Line("part.fall-out").with("from", before).with("to", from));
        });
    menu->addAction(tr("Fill it with the original, its parts muted"), this,
                    [this, from, to] { run(Line("original.fill").with("from", from).with("to", to).with("alone", "on")); })
        ->setObjectName("head_fill");
    return menu;
}

QMenu* ArrangementGrid::clip_menu(ClipId id) {
    const Remake& r = session_.remake();
    const Clip& clip = *r.clips->clip(id);
    const std::string name = clip_text(r, id), recipe = recipe_text(clip.recipe);
    auto* menu = new QMenu(this);
    // Each is one more entry of its recipe, which stays to be changed.
    const auto more = [&](QMenu* to, const QString& text, const std::string& entry, const char* object = nullptr) {
        auto* action = to->addAction(text, this, [this, name, entry, recipe] {
            run(Line("clip.recipe").with("clip", name).with("recipe", recipe.empty() ? entry : recipe + ", " + entry));
        });
        if (object) action->setObjectName(object);
    };
    more(menu, tr("Reverse"), "reverse", "clip_reverse");
    QMenu* bars = menu->addMenu(tr("Stretch to"));
    for (const auto& [text, n] : {std::pair(tr("a beat"), "0.25"), std::pair(tr("half a bar"), "0.5"), std::pair(tr("1 bar"), "1"),
                                  std::pair(tr("2 bars"), "2"), std::pair(tr("4 bars"), "4"), std::pair(tr("8 bars"), "8")})
        more(bars, text, std::string("bars ") + n);
    QMenu* pitch = menu->addMenu(tr("Pitch"));
    for (const int semitones : {12, 7, 5, 2, 1, -1, -2, -5, -7, -12})
        more(pitch, tr("%1%2 semitones").arg(semitones > 0 ? "+" : "−").arg(std::abs(semitones)), "pitch " + std::to_string(semitones));
    QMenu* voice = menu->addMenu(tr("Pitch of a voice, its colour kept"));
    for (const int semitones : {12, 7, 5, -5, -7, -12})
        more(voice, tr("%1%2 semitones").arg(semitones > 0 ? "+" : "−").arg(std::abs(semitones)), "pitch " + std::to_string(semitones) + " 1");
    more(menu, tr("Fade in and out"), "fade 20 200");
    more(menu, tr("Slow to a stop at its end"), "stop 500", "clip_stop");
    QMenu* gates = menu->addMenu(tr("Gate"));
    for (const auto& [text, n] :
         {std::pair(tr("in eighths"), "2"), std::pair(tr("in triplets"), "3"), std::pair(tr("in sixteenths"), "4"), std::pair(tr("in thirty-seconds"), "8")})
        more(gates, text, std::string("gate ") + n + " 50%");
    more(menu, tr("Hold its beginning for 4 s"), "freeze 100 4000");
    QMenu* chop = menu->addMenu(tr("Chop into"));
    chop->setObjectName("clip_chop");
    for (const auto& [text, n] :
         {std::pair(tr("bars"), "1 bar"), std::pair(tr("quarters"), "1/4"), std::pair(tr("eighths"), "1/8"), std::pair(tr("sixteenths"), "1/16")})
        chop->addAction(text, this, [this, name, n = std::string(n)] { run(Line("clip.chop").with("clip", name).with("length", n)); });
    chop->setEnabled(!clip.ends_here);
    menu->addSeparator();
    menu->addAction(clip.mute ? tr("Let it sound") : tr("Mute"), this,
                    [this, name, mute = clip.mute] { run(Line("clip.mute").with("clip", name).with("on", mute ? "off" : "on")); });
    menu->addAction(tr("Take it away"), this, [this, name] { run(Line("clip.remove").with("clip", name)); })->setObjectName("clip_remove");
    return menu;
}

void ArrangementGrid::contextMenuEvent(QContextMenuEvent* e) {
    if (!session_.has_reference()) return;
    QMenu* menu = nullptr;
    QPoint at = e->globalPos();
    if (e->reason() == QContextMenuEvent::Keyboard) {
        if (clip_) menu = clip_menu(clip_), at = mapToGlobal(clip_rect(clip_).center().toPoint());
        else if (cell_)
            menu = cell_->part < 0 ? head_menu(cell_->section) : cell_menu(cell_->part, cell_->section),
            at = mapToGlobal(cell_rect(cell_->part, cell_->section).center().toPoint());
    } else if (const ClipId clip = clip_at(e->pos())) {
        menu = clip_menu(clip);
    } else if (const int head = head_at(e->pos()); head >= 0) {
        menu = head_menu(head);
    } else if (const auto cell = cell_at(e->pos()); cell && cell->section >= 0) {
        choose(*cell);
        menu = cell_menu(cell->part, cell->section);
    }
    if (!menu) return;
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
    const Remake& r = session_.remake();
    const int parts = static_cast<int>(r.parts.size()), sections = static_cast<int>(r.song->sections.size());
    if (clip_ && (e->key() == Qt::Key_Delete || e->key() == Qt::Key_Backspace)) {
        run(Line("clip.remove").with("clip", clip_text(r, clip_)));
        return;
    }
    const bool arrow = e->key() == Qt::Key_Left || e->key() == Qt::Key_Right || e->key() == Qt::Key_Up || e->key() == Qt::Key_Down;
    if (parts == 0 || sections == 0 || e->modifiers() & ~Qt::KeypadModifier ||
        !(arrow || e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter || e->key() == Qt::Key_Delete)) {
        QWidget::keyPressEvent(e);
        return;
    }
    Cell cell = cell_.value_or(Cell{});
    cell.part = std::clamp(cell.part, 0, parts - 1), cell.section = std::clamp(cell.section, 0, sections - 1);
    if (arrow) {
        if (cell_) {
            cell.section = std::clamp(cell.section + (e->key() == Qt::Key_Right) - (e->key() == Qt::Key_Left), 0, sections - 1);
            cell.part = std::clamp(cell.part + (e->key() == Qt::Key_Down) - (e->key() == Qt::Key_Up), 0, parts - 1);
        }
        choose(cell);
    } else if (!cell_) {
        choose(cell);
    } else if (e->key() == Qt::Key_Delete) {
        leave_out(cell);
    } else {
        mute(cell);
    }
}

}  // namespace fw::app

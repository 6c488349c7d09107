// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/clip_view.hpp"

#include "app/calm_combo.hpp"
#include "app/painting.hpp"
#include "app/time_axis.hpp"
#include "engine/beginnings.hpp"
#include "model/groove.hpp"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr int kNames = 128, kRight = 14, kTop = 27, kFoot = 6;
constexpr double kReach = 7.0;  // pixels within which a handle is taken hold of, and a sixteenth holds it
constexpr double kApart_ms = 10.0;

/// A handle put somewhere; those beside it become marks where they are, so that nothing beyond them moves.
void hold(std::vector<ClipView::Handle>& all, std::size_t i, double to_ms) {
    all[i].to_ms = to_ms, all[i].marked = true;
    if (i > 0) all[i - 1].marked = true;
    if (i + 1 < all.size()) all[i + 1].marked = true;
}

std::vector<WarpMark> marks_of(const std::vector<ClipView::Handle>& all) {
    std::vector<WarpMark> marks;
    for (const ClipView::Handle& h : all)
        if (h.marked) marks.push_back({h.from_ms, h.to_ms, {}});
    return marks;
}

}  // namespace

ClipView::ClipView(Session& session, QWidget* parent) : QWidget(parent), session_(session), listening_(session) {
    setFixedHeight(84);
    setObjectName("clip_view");
    setAccessibleName(tr("Clip"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setToolTip(
        tr("Drag what begins in the clip to where it should be heard; near a sixteenth it arrives there (Alt: freely). Double-click sets a handle, or puts a "
           "moved one back.\nKeys: ← → choose a handle, Shift+← → move it by 5 ms, Delete puts it back."));
    const auto button = [this](const char* object, const QString& text, const QString& tip) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(object);
        b->setToolTip(tip);
        b->setProperty("compact", true);
        return b;
    };
    hear_ = button("clip_hear", tr("Hear"), tr("Loop the clip's bars and play"));
    alone_ = button("clip_alone", tr("Only this take"), tr("Of the takes that lie over each other only this one sounds; in the loop only while that is on"));
    onto_ = button("clip_onto", tr("Bring all onto…"), tr("Moves everything that begins in the clip onto a grid or a groove"));
    far_ = new CalmCombo;
    far_->setParent(this);
    far_->setObjectName("clip_far");
    far_->setToolTip(tr("How far what begins in the clip is brought onto the grid or the groove"));
    for (const double share : {1.0, 0.75, 0.5, 0.25}) far_->addItem(tr("%1 of the way").arg(percent_text(share)), share);
    back_ = button("clip_back", tr("As it was"), tr("Takes all that was moved back"));
    connect(hear_, &QPushButton::clicked, this, &ClipView::hear);
    connect(alone_, &QPushButton::clicked, this, &ClipView::choose_take);
    connect(onto_, &QPushButton::clicked, this, [this] {
        QMenu* menu = onto_menu();
        menu->setAttribute(Qt::WA_DeleteOnClose);
        menu->popup(onto_->mapToGlobal(QPoint(0, onto_->height())));
    });
    connect(back_, &QPushButton::clicked, this,
            [this] { session_.documents().run(Line("clip.warp").with("clip", clip_text(session_.remake(), clip_)).with("marks", "")); });
    connect(&session_, &Session::document_changed, this, &ClipView::follow);
    connect(&theme_teller(), &ThemeTeller::changed, this, [this] { update(); });
}

void ClipView::show_clip(ClipId clip) {
    if (clip_ != clip) listened_.reset(), asked_.reset(), chosen_ = -1, dragging_ = false;
    clip_ = clip;
    follow();
}

std::optional<ClipView::Sound> ClipView::sound() const {
    const Clip* clip = shown();
    const Asset* asset = clip ? session_.remake().clips->asset(clip->asset) : nullptr;
    if (!asset) return {};
    const ClipTime time = clip_time(*session_.remake().song, clip->start);
    return Sound{*asset, before_warp(*clip), time.beat_s, time.bar_s};
}

void ClipView::follow() {
    const auto now = sound();
    if (!now) {
        listened_.reset(), asked_.reset();
    } else if (!asked_ || *asked_ != *now) {
        asked_ = now;
        listened_.reset();
        chosen_ = -1, dragging_ = false;
        listen();
    }
    const bool moved = now && !ending_marks(*shown()).empty();
    back_->setEnabled(moved);
    onto_->setEnabled(listened_ && !listened_->begins_s.empty());
    far_->setEnabled(onto_->isEnabled());
    hear_->setEnabled(now.has_value());
    alone_->setEnabled(now.has_value());
    update();
}

void ClipView::listen() {
    listening_.listen(clip_, tr("listening to the clip"), asked_->recipe, [this, of = *asked_](const Audio& sound) -> Result<JobQueue::Delivery> {
        return JobQueue::Delivery([this, listened = Listened{of, Peaks(sound), find_beginnings(sound)}]() mutable {
            if (asked_ != listened.of) return;
            listened_ = std::move(listened);
            follow();
        });
    });
}

double ClipView::begins_s() const {
    const Remake& r = session_.remake();
    return clip_begins_s(*r.song, *r.clips->asset(shown()->asset), *shown());
}

double ClipView::x_of(double ms) const { return kNames + (width() - kNames - kRight) * ms / std::max(1.0, long_ms()); }
double ClipView::ms_at(double x) const { return (x - kNames) * std::max(1.0, long_ms()) / (width() - kNames - kRight); }

std::vector<ClipView::Handle> ClipView::handles() const {
    std::vector<Handle> all;
    if (!listened_ || !shown()) return all;
    const auto marks = ending_marks(*shown());
    for (const WarpMark& m : marks) all.push_back({m.from_ms, m.to_ms, true});
    for (const double s : listened_->begins_s) {
        const double ms = 1000.0 * s;
        if (std::none_of(marks.begin(), marks.end(), [&](const WarpMark& m) { return std::abs(m.from_ms - ms) < kApart_ms; }))
            all.push_back({ms, warped_ms(marks, long_ms(), ms), false});
    }
    std::sort(all.begin(), all.end(), [](const Handle& a, const Handle& b) { return a.from_ms < b.from_ms; });
    return all;
}

QPointF ClipView::place_of(const Handle& handle) const { return {x_of(handle.to_ms), (kTop + height() - kFoot) / 2.0}; }

int ClipView::handle_at(const QPointF& at) const {
    const auto all = handles();
    int nearest = -1;
    double best = kReach;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (const double far = std::abs(x_of(all[i].to_ms) - at.x()); far < best) best = far, nearest = static_cast<int>(i);
    return nearest;
}

double ClipView::snapped(double ms) const {
    const Remake& r = session_.remake();
    const auto& tempo = r.song->tempo;
    Grid grid;
    const Ticks there = nearest_on(grid, r.song->meter, tempo.nearest_tick(begins_s() + ms / 1000.0)).at;
    const double on_ms = 1000.0 * (tempo.seconds(there) - begins_s());
    return std::abs(x_of(on_ms) - x_of(ms)) < kReach ? on_ms : ms;
}

double ClipView::kept_between(int handle, double ms) const {
    const auto all = handles();
    const auto i = static_cast<std::size_t>(handle);
    const double least = i > 0 ? all[i - 1].to_ms + kApart_ms : kApart_ms;
    const double most = i + 1 < all.size() ? all[i + 1].to_ms - kApart_ms : long_ms() - kApart_ms;
    return std::clamp(ms, least, std::max(least, most));
}

void ClipView::put(int handle, double to_ms, bool back) {
    auto all = handles();
    const auto i = static_cast<std::size_t>(handle);
    if (handle < 0 || i >= all.size()) return;
    if (back) {
        all[i].marked = false;
    } else {
        hold(all, i, to_ms);
    }
    std::vector<WarpMark> marks = marks_of(all);
    // Marks at which nothing is moved are worth nothing once none is moved.
    if (std::all_of(marks.begin(), marks.end(), [](const WarpMark& m) { return std::abs(m.from_ms - m.to_ms) < 0.05; })) marks.clear();
    session_.documents().run(Line("clip.warp").with("clip", clip_text(session_.remake(), clip_)).with("marks", marks_text(marks)));
}

void ClipView::hear() {
    if (!listened_ || !shown()) return;
    Transport& t = session_.transport();
    t.set_loop(std::max(0.0, begins_s()), begins_s() + listened_->peaks.duration_s());
    t.seek(t.loop_start());
    if (!t.player().playing()) session_.toggle_play();
}

void ClipView::choose_take() {
    if (!listened_ || !shown()) return;
    const Remake& r = session_.remake();
    Transport& t = session_.transport();
    Line line("clip.choose-take");
    line.with("clip", clip_text(r, clip_));
    if (t.player().looping() && t.loop_end() > begins_s() && t.loop_start() < begins_s() + listened_->peaks.duration_s()) {
        const auto place = [&](double at_s) { return fw::place_text(r.song->meter, std::max<Ticks>(0, r.song->tempo.nearest_tick(at_s))); };
        line.with("from", place(t.loop_start())).with("to", place(t.loop_end()));
    }
    session_.documents().run(line);
}

QMenu* ClipView::onto_menu() {
    auto* menu = new QMenu(this);
    for (const RetimeChoice& c : retime_choices(*session_.remake().song))
        menu->addAction(c.name, this, [this, c] {
            if (!listened_ || !shown()) return;
            session_.documents().run(retime_line(session_.remake(), clip_, listened_->begins_s, c, far_->currentData().toDouble()));
        });
    menu->setEnabled(listened_ && !listened_->begins_s.empty());
    return menu;
}

void ClipView::resizeEvent(QResizeEvent*) { place_buttons(); }

void ClipView::place_buttons() {
    int right = width() - kRight;
    for (QWidget* b : std::initializer_list<QWidget*>{back_, far_, onto_, alone_, hear_}) {
        const QSize size = b->sizeHint();
        b->setGeometry(right - size.width(), 1, size.width(), std::min(size.height(), kTop - 3));
        right -= size.width() + 6;
    }
}

void ClipView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().ground);
    p.setPen(theme().hairline);
    p.drawLine(0, 0, width(), 0);
    const Clip* clip = shown();
    if (!clip) return;
    const Remake& r = session_.remake();
    p.setFont(text_font(8.5));
    p.setPen(theme().text);
    paint_text(p, QRectF(12, 4, kNames - 20, 18), Qt::AlignVCenter, QString::fromStdString(clip->name));
    p.setPen(theme().faint);
    if (!listened_) {
        paint_text(p, QRectF(kNames, kTop, width() - kNames - kRight, height() - kTop - kFoot), Qt::AlignVCenter, tr("Listening to what begins in it …"));
        return;
    }
    auto all = handles();
    const auto moved = std::count_if(all.begin(), all.end(), [](const Handle& h) { return std::abs(h.to_ms - h.from_ms) > 0.05; });
    p.setFont(text_font(8));
    paint_text(p, QRectF(12, 24, kNames - 20, 16), Qt::AlignVCenter, all.size() == 1 ? tr("1 handle") : tr("%1 handles").arg(all.size()));
    if (moved > 0) paint_text(p, QRectF(12, 40, kNames - 20, 16), Qt::AlignVCenter, tr("%1 of them moved").arg(moved));
    if (all.empty())
        paint_text(p, QRectF(kNames, 2, width() / 2.0, 20), Qt::AlignVCenter, tr("Nothing that stands out begins in it: double-click sets a handle."));
    auto marks = ending_marks(*clip);
    if (dragging_ && chosen_ >= 0 && chosen_ < static_cast<int>(all.size())) {
        // As it will be: the neighbours hold what lies beyond them.
        hold(all, static_cast<std::size_t>(chosen_), dragged_to_ms_);
        marks = marks_of(all);
    }
    const QRectF area(kNames, kTop, width() - kNames - kRight, height() - kTop - kFoot);
    // Bars and beats where it stands.
    const auto& tempo = r.song->tempo;
    const TimeAxis axis = TimeAxis::of_seconds(*r.song, area.left(), area.width() / std::max(1e-3, listened_->peaks.duration_s()), begins_s());
    const Ticks first = std::max<Ticks>(0, tempo.nearest_tick(begins_s())), last = tempo.nearest_tick(begins_s() + listened_->peaks.duration_s());
    p.setFont(figure_font(7.5));
    for_each_bar(r, first, last + 1, [&](int bar, Ticks start, Ticks) {
        const Ticks beat = r.song->meter.at_bar(bar).beat_ticks();
        const Ticks end = start + r.song->meter.at_bar(bar).bar_ticks();
        for (Ticks t = start; t < end && t <= last; t += std::max<Ticks>(1, beat)) {
            const double x = axis.x_of(t);
            if (x < area.left() - 0.5 || x > area.right() + 0.5) continue;
            p.setPen(QPen(theme().hairline, t == start ? 1.6 : 1.0, t == start ? Qt::SolidLine : Qt::DotLine));
            p.drawLine(QPointF(x, t == start ? area.top() - 6 : area.top()), QPointF(x, area.bottom()));
            if (t == start && x < hear_->x() - 30) {
                p.setPen(theme().faint);
                p.drawText(QPointF(x + 3, area.top() - 4), QString::number(bar));
            }
        }
    });
    // The wave as it is heard: each pixel shows what sounds there after the warp.
    const Asset* asset = r.clips->asset(clip->asset);
    const QColor ink = asset && asset->origin == AssetOrigin::Original ? theme().original : theme().rebuild;
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setPen(clip->mute ? theme().hairline : with_alpha(ink, 170));
    float loudest = 1e-3F;
    for (const auto& [low, high] : listened_->peaks.cells())
        loudest = std::max({loudest, std::abs(static_cast<float>(low)) / 127.0F, static_cast<float>(high) / 127.0F});
    for (double x = area.left(); x < area.right(); x += 1.0) {
        const double from = unwarped_ms(marks, long_ms(), ms_at(x)), to = unwarped_ms(marks, long_ms(), ms_at(x + 1.0));
        const auto [low, high] = listened_->peaks.between(from / 1000.0, to / 1000.0);
        const double half = area.height() / 2.0 / loudest;
        p.drawLine(QPointF(x, area.center().y() - high * half), QPointF(x, area.center().y() - low * half));
    }
    p.setRenderHint(QPainter::Antialiasing);
    for (std::size_t i = 0; i < all.size(); ++i) {
        const double x = x_of(all[i].to_ms);
        const bool held = static_cast<int>(i) == chosen_;
        p.setPen(QPen(theme().text, held ? 1.8 : 1.0));
        p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
        p.setBrush(all[i].marked ? QBrush(theme().text) : QBrush(theme().ground));
        p.drawRect(QRectF(x - 3, area.top() - 3, 6, 6));
        if (!held) continue;
        const double by = all[i].to_ms - all[i].from_ms;
        p.setFont(figure_font(8));
        paint_text(p, QRectF(std::min(x + 6, hear_->x() - 190.0), 2, 180, 16), Qt::AlignVCenter,
                   QString("%1 · %2%3 ms")
                       .arg(QString::fromStdString(fw::place_text(r.song->meter, tempo.nearest_tick(begins_s() + all[i].to_ms / 1000.0))))
                       .arg(by < -0.05  ? "−"
                            : by > 0.05 ? "+"
                                        : "")
                       .arg(std::abs(by), 0, 'f', 1));
    }
}

void ClipView::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !listened_ || !shown()) return;
    chosen_ = handle_at(e->position());
    if (chosen_ >= 0) {
        const auto all = handles();
        dragged_to_ms_ = all[static_cast<std::size_t>(chosen_)].to_ms;
        grabbed_ms_ = ms_at(e->position().x()) - dragged_to_ms_;
    }
    update();
}

void ClipView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton)) {
        setCursor(listened_ && shown() && handle_at(e->position()) >= 0 ? Qt::SizeHorCursor : Qt::ArrowCursor);
        return;
    }
    if (chosen_ < 0 || !listened_ || !shown()) return;
    dragging_ = true;
    const double wanted = ms_at(e->position().x()) - grabbed_ms_;
    dragged_to_ms_ = kept_between(chosen_, e->modifiers() & Qt::AltModifier ? wanted : snapped(wanted));
    update();
}

void ClipView::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(dragging_, false) && chosen_ >= 0) put(chosen_, dragged_to_ms_);
    update();
}

void ClipView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !listened_ || !shown()) return;
    dragging_ = false;
    const auto all = handles();
    if (const int at = handle_at(e->position()); at >= 0) {
        if (all[static_cast<std::size_t>(at)].marked) put(at, 0.0, true);
        return;
    }
    const double to = ms_at(e->position().x());
    if (to < kApart_ms || to > long_ms() - kApart_ms) return;
    // Where it is: nothing is moved yet.
    auto marks = ending_marks(*shown());
    marks.push_back({unwarped_ms(marks, long_ms(), to), to, {}});
    std::sort(marks.begin(), marks.end(), [](const WarpMark& a, const WarpMark& b) { return a.from_ms < b.from_ms; });
    session_.documents().run(Line("clip.warp").with("clip", clip_text(session_.remake(), clip_)).with("marks", marks_text(marks)));
    chosen_ = handle_at(e->position());
}

void ClipView::contextMenuEvent(QContextMenuEvent* e) {
    if (!listened_ || !shown()) return;
    QMenu* menu = onto_menu();
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->popup(e->globalPos());
}

void ClipView::keyPressEvent(QKeyEvent* e) {
    const auto all = handles();
    const int along = (e->key() == Qt::Key_Right) - (e->key() == Qt::Key_Left);
    if (all.empty() || (along == 0 && e->key() != Qt::Key_Delete && e->key() != Qt::Key_Backspace)) return QWidget::keyPressEvent(e);
    const int last = static_cast<int>(all.size()) - 1;
    if (along != 0 && e->modifiers() & Qt::ShiftModifier) {
        if (chosen_ >= 0 && chosen_ <= last) put(chosen_, kept_between(chosen_, all[static_cast<std::size_t>(chosen_)].to_ms + 5.0 * along));
    } else if (along != 0) {
        chosen_ = chosen_ < 0 ? (along > 0 ? 0 : last) : std::clamp(chosen_ + along, 0, last);
    } else if (chosen_ >= 0 && chosen_ <= last && all[static_cast<std::size_t>(chosen_)].marked) {
        put(chosen_, 0.0, true);
    }
    update();
}

}  // namespace fw::app

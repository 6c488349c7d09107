// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/curve_view.hpp"
#include "app/words.hpp"

#include "app/desks.hpp"
#include "app/move_recorder.hpp"
#include "check/share.hpp"
#include "engine/clip_sound.hpp"
#include "fit/movement.hpp"

#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QToolButton>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr int kTop = 20, kFoot = 8;
constexpr double kReach = 8.0;  // pixels within which a point is taken hold of
}  // namespace

CurveView::CurveView(Session& session, const ArrangementGrid& grid, QWidget* parent) : QWidget(parent), session_(session), grid_(grid) {
    setFixedHeight(84);
    setAccessibleName(tr("Curve"));
    setObjectName("curve");
    setToolTip(tr("Click in a section to draw a point of the curve there; drag it; double-click takes it away; the right button chooses its shape."));
    connect(&session_, &Session::document_changed, this, [this] { show_field(field_); });
    record_ = new QToolButton(this);
    record_->setObjectName("record_moves");
    record_->setText(tr("Record moves"));
    record_->setCheckable(true);
    record_->setToolTip(
        tr("While the song plays, whatever number is dragged, turned by the wheel or stepped by keys in the sheet is kept as a curve (Ctrl+Alt+R)"));
    connect(record_, &QToolButton::toggled, &session_.moves(), &MoveRecorder::arm);
    connect(&session_.moves(), &MoveRecorder::changed, this, [this] { record_->setChecked(session_.moves().armed()); });
    connect(&session_, &Session::opened, this, [this] { record_->setVisible(session_.has_reference()); });
    record_->setVisible(session_.has_reference());
    follow_ = new QToolButton(this);
    follow_->setObjectName("follow_original");
    follow_->setText(tr("Follow the original"));
    follow_->setToolTip(
        tr("Draws a curve by which this moves as the element's share of the original does, as a start. The line behind the curve shows what that would be, "
           "at the beats in which the element is heard clearly enough; how high it lies as a whole is left as it is."));
    follow_->hide();
    connect(follow_, &QToolButton::clicked, this, &CurveView::follow_original);
    rests_.setSingleShot(true);
    rests_.setInterval(600);
    connect(&rests_, &QTimer::timeout, this, &CurveView::measure);
    connect(&session_, &Session::opened, this, [this] { show_field(field_); });
}

void CurveView::resizeEvent(QResizeEvent*) {
    record_->move(width() - record_->sizeHint().width() - 6, 1);
    follow_->move(record_->x() - follow_->sizeHint().width() - 6, 1);
}

void CurveView::show_field(std::optional<FieldRef> field) {
    field_ = std::move(field);
    row_ = field_ ? find_field(session_.remake(), *field_) : nullptr;
    if (asked_for_ != field_ || !row_ || (asked_of_ && asked_of_->reference != session_.remake().reference)) {
        asked_.clear();
        asked_for_.reset();
        asked_of_.reset();
        follow_->hide();
    }
    // What the field itself does along its curve changes nothing of what is asked of it; what parts and buses are does.
    const auto same = [](const Remake& a, const Remake& b) {
        return &*a.mixer == &*b.mixer &&
               std::equal(a.parts.begin(), a.parts.end(), b.parts.begin(), b.parts.end(), [](const auto& x, const auto& y) { return &*x == &*y; });
    };
    const bool follows = row_ && session_.has_reference() && !session_.provisional() && movement_of(session_.remake(), *field_);
    if (follows && (!asked_of_ || !same(*asked_of_, session_.remake()))) rests_.start();
    update();
}

/// What was not measured while nobody saw it is measured now.
void CurveView::showEvent(QShowEvent*) { show_field(field_); }

/// In the background, once the hand rests.
void CurveView::measure() {
    const auto sound = session_.recording().sound;
    const auto analysis = session_.recording().analysis;
    if (!isVisible() || !field_ || !row_ || !sound || !analysis || session_.provisional()) return;
    const auto document = session_.documents().document();
    const auto movement = movement_of(*document, *field_);
    if (!movement) return;
    jobs_.cancel("follow");
    jobs_.run(
        "follow", tr("measuring how the original moves"),
        [this, document, sound, analysis, field = *field_, movement = *movement]() -> JobQueue::Work {
            return [this, document, sound, analysis, field, movement](const Progress& progress) -> Result<JobQueue::Delivery> {
                const PartId part = part_of(*document, field.owner);
                const auto share = part ? share_of(*analysis, *document, ElementId(part)) : nullptr;
                auto asked =
                    asked_of(*document, field, movement, beat_moves(*document, *sound, field, movement, share, {44100.0, assets_beside(sound)}, progress));
                return JobQueue::Delivery([this, document, field, asked = std::move(asked)]() mutable {
                    if (field_ != field || document->reference != session_.remake().reference) return;
                    asked_ = std::move(asked);
                    asked_for_ = field, asked_of_ = document;
                    follow_->setVisible(!asked_.empty());
                    update();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

void CurveView::follow_original() {
    if (!row_ || asked_.empty() || asked_for_ != field_) return;
    const Remake& r = session_.remake();
    const auto points = followed(*row_, asked_);
    Line line("curve.lay");
    name_owner(line, r, field_->owner)
        .with("field", field_->field)
        .with("from", fw::place_text(r.song->meter, points.front().tick))
        .with("to", fw::place_text(r.song->meter, points.back().tick + kTicksPerQuarter))
        .with("points", points_text(r, *row_, 0, points));
    session_.documents().run(line);
}

/// In the original's ink: what following it would do. Beats that are not told are gaps.
void CurveView::paint_asked(QPainter& p) const {
    if (asked_.empty() || asked_for_ != field_) return;
    p.setPen(theme().original);
    p.setFont(text_font(7.5));
    paint_text(p, QRectF(12, 68, 112, 14), Qt::AlignTop, tr("as the original moves"));
    p.setPen(QPen(theme().original, 1.2));
    p.setBrush(Qt::NoBrush);
    QPolygonF way;
    const auto draw = [&] {
        if (!way.isEmpty()) p.drawPolyline(way);
        way.clear();
    };
    for (std::size_t i = 0; i < asked_.size(); ++i) {
        if (i > 0 && asked_[i].tick > asked_[i - 1].tick + kTicksPerQuarter) draw();
        // Each beat is a step: what was measured is of the whole beat. Beats that lie in no section have no place here.
        const QPointF from = place_of(asked_[i].tick, asked_[i].value), to = place_of(asked_[i].tick + kTicksPerQuarter - 1, asked_[i].value);
        if (from.x() < 0.0) continue;
        way << from;
        if (to.x() > from.x()) way << to;
    }
    draw();
}

int CurveView::section_at(double x) const {
    const auto& sections = session_.remake().song->sections;
    for (int s = 0; s < static_cast<int>(sections.size()); ++s) {
        const QRectF column = grid_.cell_rect(0, s);
        if (x >= column.left() && x < column.right()) return s;
    }
    return -1;
}

Ticks CurveView::tick_at(double x, int section) const {
    const Remake& r = session_.remake();
    const Section& s = r.song->sections[static_cast<std::size_t>(section)];
    const QRectF column = grid_.cell_rect(0, section);
    const double share = std::clamp((x - column.left()) / column.width(), 0.0, 1.0);
    const Ticks beat = r.song->meter.at_bar(1).beat_ticks();
    const Ticks snapped = std::llround(share * static_cast<double>(s.length) / static_cast<double>(beat)) * beat;
    return std::min(snapped, s.length - 1);
}

QPointF CurveView::place_of(Ticks tick, double value) const {
    const auto& sections = session_.remake().song->sections;
    const double y = height() - kFoot - (row_ ? position_of(*row_, value) : 0.0) * (height() - kTop - kFoot);
    for (int i = 0; i < static_cast<int>(sections.size()); ++i) {
        const Section& s = sections[static_cast<std::size_t>(i)];
        if (tick < s.start || tick > s.start + s.length) continue;
        if (tick == s.start + s.length && i + 1 < static_cast<int>(sections.size()) && sections[static_cast<std::size_t>(i + 1)].start == tick) continue;
        const QRectF column = grid_.cell_rect(0, i);
        return {column.left() + column.width() * static_cast<double>(tick - s.start) / static_cast<double>(s.length), y};
    }
    return {-1000.0, y};
}

double CurveView::value_at(double y) const { return fw::value_at(*row_, (height() - kFoot - y) / (height() - kTop - kFoot)); }

std::vector<CurvePoint> CurveView::points_of(int section) const {
    const Curve* c = find_curve(session_.remake(), *field_, session_.remake().song->sections[static_cast<std::size_t>(section)].id);
    return c ? c->points : std::vector<CurvePoint>();
}

int CurveView::point_at(const QPointF& at, int section) const {
    if (section < 0 || !row_) return -1;
    const Ticks start = session_.remake().song->sections[static_cast<std::size_t>(section)].start;
    int nearest = -1;
    double best = kReach;
    const auto points = points_of(section);
    for (std::size_t i = 0; i < points.size(); ++i) {
        const QPointF d = place_of(start + points[i].tick, points[i].value) - at;
        if (const double far = std::hypot(d.x(), d.y()); far < best) best = far, nearest = static_cast<int>(i);
    }
    return nearest;
}

void CurveView::set_points(int section, const std::vector<CurvePoint>& points, bool dragging) {
    const Remake& base = from_ ? *from_ : session_.remake();
    const Section& s = base.song->sections[static_cast<std::size_t>(section)];
    Line line("curve.set");
    name_owner(line, base, field_->owner)
        .with("field", field_->field)
        .with("section", section_text(base, s.id))
        .with("points", points_text(base, *row_, s.start, points));
    session_.documents().run(line, dragging ? "curve" : QString(), dragging ? from_ : nullptr);
}

void CurveView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().ground);
    p.setPen(theme().hairline);
    p.drawLine(0, 0, width(), 0);
    p.setFont(text_font(8.5));
    p.setPen(theme().faint);
    const Remake& r = session_.remake();
    if (!session_.has_reference() || !row_ || r.song->sections.empty()) {
        paint_text(p, QRectF(12, 2, width() - 24, height() - 4), Qt::AlignVCenter,
                   "Click a field's name in the sheet below: how it moves is drawn here, on the bars of the arrangement.");
        return;
    }
    p.setPen(theme().text);
    paint_text(p, QRectF(12, 4, 112, 32), Qt::AlignTop | Qt::TextWordWrap, QString::fromStdString(owner_name(r, field_->owner)));
    p.setPen(theme().faint);
    paint_text(p, QRectF(12, 36, 112, 16), Qt::AlignTop, row_->label);
    p.setFont(figure_font(7.5));
    paint_text(p, QRectF(12, 54, 112, 14), Qt::AlignTop, QString::fromStdString(value_text(*row_, *field_value(r, *field_))));
    p.setRenderHint(QPainter::Antialiasing);
    paint_asked(p);
    for (int i = 0; i < static_cast<int>(r.song->sections.size()); ++i) {
        const Section& s = r.song->sections[static_cast<std::size_t>(i)];
        const QRectF column = grid_.cell_rect(0, i);
        p.setPen(theme().hairline);
        p.drawLine(QPointF(column.left(), kTop - 8), QPointF(column.left(), height()));
        const Curve* curve = find_curve(r, *field_, s.id);
        const auto setting = std::find_if(r.automation->settings.begin(), r.automation->settings.end(),
                                          [&](const SectionSetting& x) { return x.field == *field_ && x.section == s.id; });
        const Curve* song = find_curve(r, *field_, {});
        QPolygonF way;
        constexpr int kPieces = 48;
        for (int k = 0; k <= kPieces; ++k) {
            const double t = static_cast<double>(s.length) * k / kPieces;
            const double v = value_moved(r, *field_, s.start + std::min(static_cast<Ticks>(t), s.length - 1));
            const double y = height() - kFoot - position_of(*row_, v) * (height() - kTop - kFoot);
            way << QPointF(column.left() + column.width() * k / kPieces, y);
        }
        const bool moved = curve || song || setting != r.automation->settings.end();
        p.setPen(QPen(moved ? theme().rebuild : theme().hairline, moved ? 1.8 : 1.0, moved ? Qt::SolidLine : Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(way);
        if (!curve) continue;
        p.setBrush(theme().ground);
        for (const CurvePoint& point : curve->points) p.drawEllipse(place_of(s.start + point.tick, point.value), 3.5, 3.5);
    }
    if (dragged_ >= 0 && in_section_ >= 0) {
        const auto now = points_of(in_section_);
        const Ticks start = r.song->sections[static_cast<std::size_t>(in_section_)].start;
        if (dragged_ < static_cast<int>(now.size())) {
            const CurvePoint& point = now[static_cast<std::size_t>(dragged_)];
            const QPointF at = place_of(start + point.tick, point.value);
            p.setPen(theme().text);
            p.setFont(figure_font(8));
            paint_text(p, QRectF(std::min(at.x() + 8, width() - 130.0), 2, 120, 16), Qt::AlignVCenter,
                       QString::fromStdString(value_text(*row_, point.value) + " at " + fw::place_text(r.song->meter, start + point.tick)));
        }
    }
}

void CurveView::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !row_) return;
    in_section_ = section_at(e->position().x());
    if (in_section_ < 0) return;
    dragged_ = point_at(e->position(), in_section_);
    if (dragged_ < 0) {
        CurvePoint made;
        made.tick = tick_at(e->position().x(), in_section_);
        made.value = value_at(e->position().y());
        auto points = points_of(in_section_);
        std::erase_if(points, [&](const CurvePoint& x) { return x.tick == made.tick; });
        points.insert(std::find_if(points.begin(), points.end(), [&](const CurvePoint& x) { return x.tick > made.tick; }), made);
        from_.reset();
        set_points(in_section_, points, false);
        dragged_ = point_at(e->position(), in_section_);
        if (dragged_ < 0)
            for (std::size_t i = 0; i < points.size(); ++i)
                if (points[i].tick == made.tick) dragged_ = static_cast<int>(i);
    }
    from_ = session_.documents().document();
    points_ = points_of(in_section_);
    session_.documents().end_gesture();
}

void CurveView::mouseMoveEvent(QMouseEvent* e) {
    if (dragged_ < 0 || in_section_ < 0 || !row_ || dragged_ >= static_cast<int>(points_.size())) return;
    auto points = points_;
    CurvePoint& held = points[static_cast<std::size_t>(dragged_)];
    // Between its neighbours: points do not pass one another under the hand.
    const Ticks before = dragged_ > 0 ? points[static_cast<std::size_t>(dragged_ - 1)].tick + 1 : 0;
    const Ticks after =
        dragged_ + 1 < static_cast<int>(points.size()) ? points[static_cast<std::size_t>(dragged_ + 1)].tick - 1 : std::numeric_limits<Ticks>::max();
    held.tick = std::clamp(tick_at(e->position().x(), in_section_), before, after);
    held.value = value_at(e->position().y());
    set_points(in_section_, points, true);
    update();
}

void CurveView::mouseReleaseEvent(QMouseEvent*) {
    dragged_ = -1;
    from_.reset();
    session_.documents().end_gesture();
    update();
}

void CurveView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!row_) return;
    const int section = section_at(e->position().x()), point = point_at(e->position(), section);
    dragged_ = -1;
    from_.reset();
    if (point < 0) return;
    auto points = points_of(section);
    points.erase(points.begin() + point);
    set_points(section, points, false);
}

void CurveView::reuse_in_repeats(int section) {
    const Remake& r = session_.remake();
    Line line("curve.reuse");
    name_owner(line, r, field_->owner).with("field", field_->field).with("section", section_text(r, r.song->sections[static_cast<std::size_t>(section)].id));
    session_.documents().run(line);
}

void CurveView::contextMenuEvent(QContextMenuEvent* e) {
    const int section = row_ ? section_at(e->pos().x()) : -1, point = point_at(QPointF(e->pos()), section);
    if (point < 0) return;
    QMenu menu(this);
    for (int s = 0; s < kShapes; ++s)
        connect(menu.addAction(tr("From here %1").arg(shape_name(static_cast<Shape>(s)))), &QAction::triggered, this, [this, section, point, s] {
            auto points = points_of(section);
            points[static_cast<std::size_t>(point)].shape = static_cast<Shape>(s);
            if (s == static_cast<int>(Shape::Curved)) points[static_cast<std::size_t>(point)].bend = 0.5;
            set_points(section, points, false);
        });
    menu.addSeparator();
    auto* reuse = menu.addAction(tr("The same in every repeat of this section"), this, [this, section] { reuse_in_repeats(section); });
    reuse->setObjectName("curve_reuse");
    menu.exec(e->globalPos());
}

}  // namespace fw::app

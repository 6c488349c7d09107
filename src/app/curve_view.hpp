// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/job_queue.hpp"
#include "app/painting.hpp"
#include "app/session.hpp"

#include <QTimer>
#include <QWidget>
#include <functional>

class QToolButton;

namespace fw::app {

class ArrangementGrid;

/// How one field moves, under the grid and on its bars. A press in a section adds a point to the section's curve or takes hold of one, a drag moves it, a
/// double-click takes it away.
class CurveView final : public QWidget {
    Q_OBJECT

public:
    CurveView(Session& session, const ArrangementGrid& grid, QWidget* parent = nullptr);
    /// Which field is shown; none for nothing.
    void show_field(std::optional<FieldRef> field);
    QPointF place_of(Ticks tick, double value) const;
    /// What of the original's movement the field would follow, beat by beat; empty until it is measured, and where nothing can be told.
    const std::vector<CurvePoint>& asked() const { return asked_; }
    /// Lays the curve by which ours moves as the original does.
    void follow_original();
    /// What the field does in a section it does in every section that repeats it.
    void reuse_in_repeats(int section);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

private:
    void measure();
    void paint_asked(QPainter& p) const;
    int section_at(double x) const;
    Ticks tick_at(double x, int section) const;
    double value_at(double y) const;
    /// The nearest point of a section's curve under the mouse; -1 for none.
    int point_at(const QPointF& at, int section) const;
    std::vector<CurvePoint> points_of(int section) const;
    void set_points(int section, const std::vector<CurvePoint>& points, bool dragging);
    Session& session_;
    const ArrangementGrid& grid_;
    std::optional<FieldRef> field_;
    const Parameter* row_ = nullptr;
    QToolButton *record_ = nullptr, *follow_ = nullptr;
    std::vector<CurvePoint> asked_;
    std::optional<FieldRef> asked_for_;
    std::shared_ptr<const Remake> asked_of_;  ///< the document it was measured with
    QTimer rests_;
    int dragged_ = -1, in_section_ = -1;
    std::shared_ptr<const Remake> from_;
    std::vector<CurvePoint> points_;  ///< while one is dragged: as they were
    JobQueue jobs_;
};

}  // namespace fw::app

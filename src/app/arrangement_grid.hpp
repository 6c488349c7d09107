// SPDX-License-Identifier: GPL-3.0-or-later
// What plays where: parts against sections, with the clips beneath them.
#pragma once

#include "app/job_queue.hpp"
#include "app/painting.hpp"
#include "app/session.hpp"

#include <QWidget>
#include <optional>

class QMenu;

namespace fw::app {

/// Parts × sections with pattern letters. A click mutes a cell or lets it sound; dragged onto another section of its row, the part plays the same there. Clips
/// stand at their time beneath, and are dragged to another. What else can be done stands in the menus of a cell, of a section's head and of a clip. By
/// keyboard: the arrows choose a cell, Return mutes it, Delete leaves it out, the menu key opens its menu.
class ArrangementGrid final : public QWidget {
    Q_OBJECT

public:
    explicit ArrangementGrid(Session& session, QWidget* parent = nullptr);
    QRectF cell_rect(int part, int section) const;
    QRectF head_rect(int section) const;
    QRectF clip_rect(ClipId clip) const;
    QSize sizeHint() const override;
    /// What can be done with a cell, a section's head, a clip. Owned by the caller's widget.
    QMenu* cell_menu(int part, int section);
    QMenu* head_menu(int section);
    QMenu* clip_menu(ClipId clip);
    bool busy() const { return jobs_.busy("print"); }

protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

private:
    struct Cell {
        int part = 0, section = 0;
        bool operator==(const Cell&) const = default;
    };
    void paint_still(QPainter& painter) const;
    void paint_clips(QPainter& painter) const;
    std::optional<Cell> cell_at(const QPointF& at) const;
    int head_at(const QPointF& at) const;  ///< -1: none
    ClipId clip_at(const QPointF& at) const;
    double x_of(Ticks tick) const;
    Ticks tick_at(double x) const;
    /// Which row beneath the parts each clip stands in, so that none hides another.
    std::vector<int> clip_rows() const;
    void mute(const Cell& cell);
    void leave_out(const Cell& cell);
    void choose(const Cell& cell);
    void print_here(PartId part, SectionId at, bool steps);
    bool run(const Line& line) { return session_.documents().run(line); }

    Session& session_;
    StillPicture still_;
    std::optional<Cell> cell_;  ///< chosen by keys or by the pointer
    std::optional<Cell> dragged_, onto_;
    ClipId clip_, clip_dragged_;
    QPointF pressed_at_;
    Ticks clip_from_ = 0, clip_to_ = 0;
    JobQueue jobs_;
};

}  // namespace fw::app

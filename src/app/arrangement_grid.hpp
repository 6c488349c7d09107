// SPDX-License-Identifier: GPL-3.0-or-later
// What plays where: parts against sections, with the clips beneath them.
#pragma once

#include "app/clip_listening.hpp"
#include "app/job_queue.hpp"
#include "app/painting.hpp"
#include "app/session.hpp"

#include <QWidget>
#include <optional>
#include <vector>

class QMenu;

namespace fw::app {

/// Parts × sections with pattern letters. A click mutes a cell or lets it sound; dragged onto another section of its row, the part plays the same there. Clips
/// stand at their time beneath, and are dragged to another. What else can be done stands in the menus of a cell, of a section's head and of a clip
/// (arrangement_menus.cpp). By keyboard: the arrows choose a cell, a head above or a clip beneath; Return mutes a cell, Delete takes away, Shift+← → moves a
/// clip by a beat, the menu key opens the menu.
class ArrangementGrid final : public QWidget {
    Q_OBJECT

public:
    static constexpr int kHeads = -1;  ///< the row of the sections' heads

    explicit ArrangementGrid(Session& session, QWidget* parent = nullptr);
    /// Of a part, or of kHeads, in a section.
    QRectF cell_rect(int part, int section) const;
    QRectF clip_rect(ClipId clip) const;
    QSize sizeHint() const override;
    /// What can be done with a cell, a section's head, a clip. Children of this widget; whoever opens one has it deleted.
    QMenu* cell_menu(int part, int section);
    QMenu* head_menu(int section);
    QMenu* clip_menu(ClipId clip);
    bool busy() const { return jobs_.busy("print"); }
    ClipId chosen_clip() const { return clip_; }
    void choose(ClipId clip);

signals:
    /// A clip was chosen, or none is any more.
    void clip_chosen();

protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

private:
    struct Cell {
        int part = 0, section = 0;  ///< a section of −1: the part's name
        bool operator==(const Cell&) const = default;
    };
    struct ClipBox {
        ClipId clip;
        QRectF rect;
        int lane = 0;
    };
    void paint_still(QPainter& painter) const;
    void paint_clips(QPainter& painter) const;
    int row_height() const;
    int parts_bottom() const;
    std::optional<Cell> cell_at(const QPointF& at) const;
    /// All clips from left to right, in lanes so that none hides another.
    std::vector<ClipBox> clip_boxes() const;
    ClipId clip_at(const QPointF& at) const;
    double x_of(Ticks tick) const;
    Ticks tick_at(double x) const;
    Ticks beat_at(Ticks tick) const;  ///< how long one is there
    bool key_on_cell(const QKeyEvent& event);
    bool key_on_clip(const QKeyEvent& event);
    void mute(const Cell& cell);
    void leave_out(const Cell& cell);
    void choose(const Cell& cell);
    void move_clip(ClipId clip, Ticks to);
    void print_here(PartId part, SectionId at, bool steps);
    bool run(const Line& line) { return session_.documents().run(line); }

    Session& session_;
    StillPicture still_;
    std::optional<Cell> cell_;  ///< chosen by keys or by the pointer; not with a clip
    ClipId clip_;
    std::optional<Cell> dragged_, onto_;
    ClipId clip_dragged_;
    QPointF pressed_at_;
    Ticks clip_from_ = 0, clip_to_ = 0;
    ClipListening listening_{session_};
    JobQueue jobs_;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/clip_listening.hpp"
#include "app/session.hpp"
#include "audio/peaks.hpp"
#include "engine/clip_sound.hpp"

#include <QWidget>
#include <vector>

class QMenu;
class QComboBox;
class QPushButton;

namespace fw::app {

/// The wave of one clip on the bars it stands on, re-timed by hand: what begins in it has a handle, which is dragged (near a sixteenth it arrives there, unless
/// Alt is held); the handles beside it stay, and what lies between is stretched. A double-click sets a handle where there is none, and puts one that was moved
/// back. By keyboard: ← → choose a handle, with Shift they move it by 5 ms, Delete puts it back.
class ClipView final : public QWidget {
    Q_OBJECT

public:
    /// Something in the clip that can be moved.
    struct Handle {
        double from_ms = 0.0, to_ms = 0.0;
        bool marked = false;  ///< a mark of the warp, not only something heard
    };

    explicit ClipView(Session& session, QWidget* parent = nullptr);
    void show_clip(ClipId clip);
    ClipId clip() const { return clip_; }
    /// Whether its sound has been listened to.
    bool ready() const { return listened_.has_value(); }
    std::vector<Handle> handles() const;
    QPointF place_of(const Handle& handle) const;
    /// A menu of what all its handles can be brought onto at once, as far as the box beside it says; a child of this, deleted by whoever opens it.
    QMenu* onto_menu();

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    /// What a listening was of.
    struct Sound {
        Asset asset;
        std::vector<RecipeEntry> recipe;
        double beat_s = 0.0, bar_s = 0.0;
        bool operator==(const Sound&) const = default;
    };
    struct Listened {
        Sound of;
        Peaks peaks;
        std::vector<double> begins_s;
    };
    const Clip* shown() const { return session_.remake().clips->clip(clip_); }
    std::optional<Sound> sound() const;
    void follow();
    void listen();
    void place_buttons();
    double long_ms() const { return 1000.0 * listened_->peaks.duration_s(); }
    /// When its sound begins, seconds of the song.
    double begins_s() const;
    double ms_at(double x) const;
    double x_of(double ms) const;
    int handle_at(const QPointF& at) const;
    /// Puts a handle there, its neighbours where they are; back: takes its mark away instead.
    void put(int handle, double to_ms, bool back = false);
    double snapped(double ms) const;
    double kept_between(int handle, double ms) const;
    void hear();
    void choose_take();

    Session& session_;
    ClipId clip_;
    std::optional<Listened> listened_;
    std::optional<Sound> asked_;
    QPushButton *onto_ = nullptr, *back_ = nullptr, *hear_ = nullptr, *alone_ = nullptr;
    QComboBox* far_ = nullptr;
    int chosen_ = -1;
    bool dragging_ = false;
    double grabbed_ms_ = 0.0, dragged_to_ms_ = 0.0;
    ClipListening listening_;
};

}  // namespace fw::app

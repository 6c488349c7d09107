// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"
#include "app/time_axis.hpp"

#include <QImage>
#include <QWidget>
#include <map>
#include <optional>
#include <set>

class QScrollBar;

namespace fw::app {

/// How bars are drawn, whatever they are counted as.
enum class DrawnBars { AsCounted, HalfTime, DoubleTime };

/// One element large, along a scrolling, zoomable ruler: bars above, seconds below. The base of the three close-ups.
///
/// Wheel scrolls in time, Ctrl+wheel zooms about the pointer, click in the ruler goes there. Time runs along recording
/// seconds, so that evidence is painted unwarped and bar lines fall where the original's bars fall.
class CloseUp : public QWidget {
    Q_OBJECT

public:
    explicit CloseUp(Session& session, QWidget* parent = nullptr);
    void show_from(double time_s);
    TimeAxis axis() const { return TimeAxis::of_seconds(*session_.remake().song, kLeft, pixels_per_s_, start_s_); }
    double x_at(double time_s) const { return axis().x_at(time_s); }
    double x_of(Ticks tick) const { return axis().x_of(tick); }
    double time_at(double x) const { return axis().time_at(x); }
    Ticks tick_at(double x) const { return axis().tick_at(x); }
    /// What strokes snap to: a step of 0 leaves them where they are.
    void set_grid(Ticks step, double swing = 0.5, bool onsets = false) {
        grid_ = step, swing_ = swing, onsets_ = onsets;
        still_.renew(*this);
    }
    Ticks grid() const { return grid_; }
    /// Draws two bars as one, or one as two.
    void draw_bars(DrawnBars bars) {
        drawn_bars_ = bars;
        still_.renew(*this);
    }
    /// Other parts are shown faintly beside the chosen one.
    void set_neighbours(bool shown) {
        neighbours_ = shown;
        still_.renew(*this);
    }
    void zoom(double factor, double about_x);
    static constexpr int kLeft = 84, kRuler = 24, kFoot = 18;

    /// The notes of a part that may show between two edges, and some that have ended before.
    std::span<const PlacedNote> notes_between(const Part& part, double left, double right) const {
        return session_.documents().placed_within(part, tick_at(left), tick_at(right));
    }

protected:
    /// What is heard, beneath the grid. It is painted anew only where the view, the song, the evidence or ground_state() is another.
    virtual void paint_ground(QPainter& p, const QRect& area) = 0;
    virtual QString ground_state() const { return {}; }
    /// What is written, above the grid.
    virtual void paint_content(QPainter& p, const QRect& area) = 0;
    /// What follows the pointer, over everything else.
    virtual void paint_pointer(QPainter&, const QRect&) {}
    void paintEvent(QPaintEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    /// Takes a press in the ruler; true when it did.
    bool ruler_press(const QPoint& p);
    QRect content() const { return {kLeft, kRuler, width() - kLeft, height() - kRuler - kFoot}; }
    /// Onto the grid, by what is held down: Alt leaves it where it is, Shift takes triplets of the grid. below: no later than it is.
    Ticks snap(Ticks tick, Qt::KeyboardModifiers held, bool below = false) const;
    /// A distance in whole steps of the grid, by what is held down.
    Ticks snap_distance(Ticks distance, Qt::KeyboardModifiers held) const;
    double end_s() const;
    bool begins_bar(int bar) const;

    Session& session_;
    StillPicture still_;
    double start_s_ = 0.0, pixels_per_s_ = 90.0;
    Ticks grid_ = kTicksPerQuarter / 4;
    double swing_ = 0.5;
    DrawnBars drawn_bars_ = DrawnBars::AsCounted;
    bool onsets_ = false;  ///< strokes snap to what was heard
    bool neighbours_ = true;

private:
    void paint_still(QPainter& p);
    const QPixmap& ground();
    /// The stretch in view, a quarter more at its end.
    std::pair<Ticks, Ticks> shown() const;
    void paint_grid(QPainter& p, const QRect& area) const;
    void paint_rulers(QPainter& p) const;

    QPixmap ground_;
    QString ground_seen_;       ///< what it was painted for,
    Shared<Song> ground_song_;  ///< in this song
};

/// A pitched part: pitch evidence behind in the original's ink, the user's notes on top in the rebuild's.
/// Draw with double-click, move by dragging, lengthen at either edge; Shift draws a lasso; the lane below holds velocities, a drag across it a ramp.
class NoteCloseUp final : public CloseUp {
    Q_OBJECT

public:
    explicit NoteCloseUp(Session& session, QWidget* parent = nullptr);
    double y_of(int pitch) const;
    int pitch_at(double y) const;
    static constexpr int kLane = 54;
    /// The height in the lane that stands for a velocity.
    double y_of_velocity(int velocity) const;
    void transpose_selected(int semitones);
    /// Brings a stretch of time into the middle, nearer if it is small.
    void show_stretch(double start_s, double end_s, int pitch);
    /// Brings the part's own range into view.
    void fit_pitch();
    std::optional<PlacedNote> note_at(const QPointF& p) const;
    /// A drag along a note draws the way its pitch goes, instead of moving it.
    void set_draws_pitch(bool on) { draws_pitch_ = on; }

protected:
    void paint_ground(QPainter& p, const QRect& area) override;
    QString ground_state() const override;
    void paint_content(QPainter& p, const QRect& area) override;
    void paint_pointer(QPainter& p, const QRect& area) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    enum class Drag { None, Move, Lengthen, Begin, Select, Lasso, Velocity, Pitch };
    /// Where notes lie, above the lane of velocities.
    QRect roll() const { return content().adjusted(0, 0, 0, -kLane); }
    QRect lane() const { return {content().left(), content().bottom() - kLane + 1, content().width(), kLane}; }
    void paint_key(QPainter& p, const QRect& area, double row) const;
    void paint_neighbours(QPainter& p, const QRect& area, double row) const;
    void paint_note(QPainter& p, const PlacedNote& note, double row) const;
    void paint_missing(QPainter& p, const QRect& area, double row) const;
    void paint_lane(QPainter& p) const;
    void drag_velocities(const QPointF& to);
    void drag_pitch(const QPointF& to, Qt::KeyboardModifiers held);
    Drag edge_at(const PlacedNote& note, double x) const;
    std::optional<Ticks> onset_near(double x, int pitch) const;
    Ticks snap_move(Ticks moved, Qt::KeyboardModifiers held) const;
    void audition(int pitch, int velocity = 96);
    QImage evidence_image(const QRect& area, const Evidence& evidence) const;

    Drag drag_ = Drag::None;
    QPointF press_;
    std::shared_ptr<const Remake> drag_from_;
    int last_semitones_ = 0;
    int low_pitch_ = 36, high_pitch_ = 84;
    std::optional<ElementId> fitted_for_;
    QPointF hover_{-1, -1};
    QRectF rubber_;
    QPolygonF lasso_;
    bool draws_pitch_ = false;
    std::optional<PlacedNote> bent_;       ///< the note whose pitch is being drawn
    std::map<Ticks, double> drawn_pitch_;  ///< cents, by ticks from its start
};

/// The drum part: a row per sound with its onset evidence behind, hits on top. Double-click adds or removes a hit; click hears it.
class DrumCloseUp final : public CloseUp {
    Q_OBJECT

public:
    explicit DrumCloseUp(Session& session, QWidget* parent = nullptr);
    QRectF row_rect(int row) const;  ///< row 0 at the bottom, in the order of drum_sounds()
    /// The keys of the rows, bottom first: the usual sounds, then what else the part plays.
    std::vector<int> rows() const;

protected:
    void paint_ground(QPainter& p, const QRect& area) override;
    QString ground_state() const override;
    void paint_content(QPainter& p, const QRect& area) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;

private:
    std::optional<PlacedNote> hit_at(const QPointF& p) const;
    int row_of(int key) const;
    void hear_row(double y);
    QPointF press_;
    int hovered_ = -1;             ///< the row whose name the pointer is on
    std::optional<bool> upright_;  ///< whether the drag changes velocity and not time, once it is known
    std::shared_ptr<const Remake> drag_from_;
};

/// Chords: boxes over chroma evidence. Click selects a chord for the facts panel, double-click asks for a name.
class ChordCloseUp final : public CloseUp {
    Q_OBJECT

public:
    explicit ChordCloseUp(Session& session, QWidget* parent = nullptr);
    Ticks selected_tick() const { return selected_; }
    void select_tick(Ticks tick);

signals:
    void chord_selected(fw::Ticks tick);
    void name_wanted(fw::Ticks tick);

protected:
    void paint_ground(QPainter& p, const QRect& area) override;
    void paint_content(QPainter& p, const QRect& area) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;

private:
    Ticks selected_ = 0;
};

}  // namespace fw::app

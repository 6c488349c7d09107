// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"
#include "app/time_axis.hpp"

#include <QImage>
#include <QWidget>
#include <optional>
#include <set>

class QScrollBar;

namespace fw::app {

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
    void set_grid(Ticks grid) {
        grid_ = grid;
        still_.renew(*this);
    }
    Ticks grid() const { return grid_; }
    void zoom(double factor, double about_x);
    static constexpr int kLeft = 84, kRuler = 24, kFoot = 18;

    /// Paints all anew; update() only what moves: playhead, loop and what follows the pointer.

protected:
    virtual void paint_content(QPainter& p, const QRect& area) = 0;
    /// What follows the pointer, over everything else.
    virtual void paint_pointer(QPainter&, const QRect&) {}
    void paintEvent(QPaintEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    /// Takes a press in the ruler; true when it did.
    bool ruler_press(const QPoint& p);
    QRect content() const { return {kLeft, kRuler, width() - kLeft, height() - kRuler - kFoot}; }
    /// Onto the grid nearest below, or nearest.
    Ticks snap(Ticks tick, bool floor = false) const;
    double end_s() const;

    void paint_still(QPainter& p);

    Session& session_;
    StillPicture still_;
    double start_s_ = 0.0, pixels_per_s_ = 90.0;
    Ticks grid_ = kTicksPerQuarter / 4;
};

/// A pitched part: pitch evidence behind in the original's ink, the user's notes on top in the rebuild's.
/// Draw with double-click, move by dragging, lengthen at the right edge, delete with Delete; arrows transpose and nudge.
class NoteCloseUp final : public CloseUp {
    Q_OBJECT

public:
    explicit NoteCloseUp(Session& session, QWidget* parent = nullptr);
    double y_of(int pitch) const;
    int pitch_at(double y) const;
    void delete_selected();
    void transpose_selected(int semitones);
    void nudge_selected(Ticks ticks);
    void quantise_selected();
    void straighten_selected();  ///< takes the bends off
    void select_all();
    /// Brings the part's own range into view.
    void fit_pitch();

protected:
    void paint_content(QPainter& p, const QRect& area) override;
    void paint_pointer(QPainter& p, const QRect& area) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    enum class Drag { None, Move, Lengthen, Select };
    std::optional<PlacedNote> note_at(const QPointF& p) const;
    void audition(int pitch, int velocity = 96);
    const QImage& evidence_image(const QRect& area);

    Drag drag_ = Drag::None;
    QPointF press_;
    std::shared_ptr<const Remake> drag_from_;
    int last_semitones_ = 0;
    int low_pitch_ = 36, high_pitch_ = 84;
    std::optional<ElementId> fitted_for_;
    QPointF hover_{-1, -1};
    QRectF rubber_;
    QImage image_;
    QString image_key_;
};

/// The drum part: a row per sound with its onset evidence behind, hits on top. Double-click adds or removes a hit; click hears it.
class DrumCloseUp final : public CloseUp {
    Q_OBJECT

public:
    explicit DrumCloseUp(Session& session, QWidget* parent = nullptr);
    QRectF row_rect(int row) const;  ///< row 0 at the bottom, in the order of drum_sounds()
    void delete_selected();
    void nudge_selected(Ticks ticks);
    void quantise_selected();

protected:
    void paint_content(QPainter& p, const QRect& area) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;

private:
    std::optional<PlacedNote> hit_at(const QPointF& p) const;
    QPointF press_;
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
    void paint_content(QPainter& p, const QRect& area) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;

private:
    Ticks selected_ = 0;
};

}  // namespace fw::app

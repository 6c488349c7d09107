// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"
#include "app/time_axis.hpp"

#include <QAbstractScrollArea>
#include <optional>
#include <vector>

namespace fw::app {

/// The song laid out in rows of one phrase, like lines of text: each section starts a new row, so that repeats line up and a
/// changed bar stands out. A row shows chords, the waveform with bars and beats, and thin strips of what plays by the evidence.
/// Bars of a repeat that differ from the section they repeat say in what; a repeat in another key says so beside its letter.
/// Click goes there, drag loops, dragging a bar line or beat below the waveform puts it where it belongs (with Shift all that follows goes along),
/// double-click on a chord's name selects the chord for relabelling, the wheel with Ctrl comes nearer.
class PageView final : public QAbstractScrollArea {
    Q_OBJECT

public:
    explicit PageView(Session& session, QWidget* parent = nullptr);

    struct Row {
        int section = -1;
        Ticks start = 0, end = 0;
        int top = 0;
        bool first_of_section = false;
    };
    const std::vector<Row>& rows() const { return rows_; }
    /// Bars in a row: 2, 4, 8, 16, or 0 for what suits the zoom.
    void set_phrase(int bars);
    int phrase() const { return phrase_; }
    int bars_per_row() const;
    /// Whether rows show strips of what plays.
    void show_strips(bool on);
    /// Where a beat can be taken hold of, on the ruler below the waveform.
    QPoint handle_of(Ticks beat) const;
    /// Place of a tick in the viewport; y is the middle of its row's waveform.
    QPoint point_of(Ticks tick) const;
    Ticks tick_at(const QPoint& p) const;
    /// Nearer by so many steps, or farther: from the whole song in one view to one phrase.
    void zoom(int steps);
    void zoom_to_usual();
    /// Scrolls so that a tick is in view.
    void show_tick(Ticks tick);

signals:
    void chord_chosen(fw::Ticks tick);
    /// The right button was pressed; the playhead is there by then.
    void menu_wanted(const QPoint& global);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    bool viewportEvent(QEvent* event) override;
    void scrollContentsBy(int dx, int dy) override;

private:
    void lay_out();
    double bar_width() const;
    Ticks bar_ticks(const Row& row) const;
    TimeAxis axis_of(const Row& row) const;
    void paint_row(QPainter& p, const Row& row) const;
    const Row* row_of(const QPoint& p) const;
    void follow_playhead();

    /// How high what a row shows is.
    struct Heights {
        int chords, wave, ruler, strips, gap;
        int row() const { return chords + wave + ruler + strips + gap; }
    };
    Heights heights() const;
    void zoom_to(double scale);
    int strip_count() const;
    void paint_strips(QPainter& p, const Row& row, const QRectF& area, const TimeAxis& axis) const;
    /// The beat whose handle is at a place, none for no.
    std::optional<Ticks> beat_at(const QPoint& p) const;

    Session& session_;
    StillPicture still_;
    std::vector<Row> rows_;
    QPoint press_, now_;
    bool pressed_ = false, dragged_ = false, strips_ = true;
    int phrase_ = 0;
    double scale_ = 1.0;
    std::optional<Ticks> held_;  ///< the beat being dragged
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"
#include "app/time_axis.hpp"

#include <QAbstractScrollArea>
#include <vector>

namespace fw::app {

/// The song laid out in rows of one phrase, like lines of text: each section starts a new row, so that repeats line up and a
/// changed bar stands out. A row shows the waveform, beats, bars, sections and chords.
/// Bars of a repeat that differ from the section they repeat carry that bar's number after ≠; resting there tells what differs.
/// Click goes there, drag loops, double-click on a chord's name selects the chord for relabelling.
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
    static constexpr int kBarsPerRow = 8;
    /// Place of a tick in the viewport; y is the middle of its row's waveform.
    QPoint point_of(Ticks tick) const;
    Ticks tick_at(const QPoint& p) const;

signals:
    void chord_chosen(fw::Ticks tick);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
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

    Session& session_;
    StillPicture still_;
    std::vector<Row> rows_;
    QPoint press_;
    bool pressed_ = false, dragged_ = false;
};

}  // namespace fw::app

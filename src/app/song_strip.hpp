// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"
#include "app/time_axis.hpp"

#include <QWidget>

namespace fw::app {

/// The whole reference once across the window: waveform, sections, playhead, loop and a match cell per bar.
/// Click goes there, drag loops, double-click on a section loops it.
class SongStrip final : public QWidget {
    Q_OBJECT

public:
    explicit SongStrip(Session& session, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {800, 92}; }
    TimeAxis axis() const;
    double heard_at(double x) const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;

private:
    void paint_still(QPainter& p);

    Session& session_;
    StillPicture still_;
    double press_x_ = -1.0;
    bool dragged_ = false;
};

}  // namespace fw::app

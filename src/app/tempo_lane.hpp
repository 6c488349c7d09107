// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"

#include <QWidget>

namespace fw::app {

/// The tempo along the whole song: of every beat, of the areas in which it is steady with how far beats lie from it, and where there is none. Click goes there.
class TempoLane final : public QWidget {
    Q_OBJECT

public:
    explicit TempoLane(Session& session, QWidget* parent = nullptr);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

private:
    void paint_still(QPainter& p) const;
    double duration() const;
    Session& session_;
    StillPicture still_;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDoubleSpinBox>

namespace fw::app {

/// A number with its unit: type it, step it with the arrow keys, or drag it up and down with the mouse.
class NumberField final : public QDoubleSpinBox {
    Q_OBJECT

public:
    NumberField(double value, double low, double high, double step, const QString& suffix, int decimals, QWidget* parent = nullptr);
    /// While the mouse drags it: then whoever owns it must let it live.
    bool in_hand() const { return pressed_; }

signals:
    /// The mouse has let go of it.
    void let_go();

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    double pressed_value_ = 0.0;
    double press_y_ = 0.0;
    bool dragging_ = false, pressed_ = false;
};

}  // namespace fw::app

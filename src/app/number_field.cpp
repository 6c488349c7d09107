// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/number_field.hpp"

#include "app/theme.hpp"

#include <QLineEdit>
#include <QMouseEvent>
#include <cmath>
#include <utility>

namespace fw::app {

namespace {
constexpr double kPixelsPerStep = 4.0;
}

NumberField::NumberField(double value, double low, double high, double step, const QString& suffix, int decimals, QWidget* parent) : QDoubleSpinBox(parent) {
    setButtonSymbols(QAbstractSpinBox::NoButtons);
    setRange(low, high);
    setDecimals(decimals);
    setSingleStep(step);
    setValue(value);
    setSuffix(suffix);
    setFont(figure_font(9));
    setAlignment(Qt::AlignRight);
    setFocusPolicy(Qt::StrongFocus);
    setKeyboardTracking(false);
    lineEdit()->setCursor(Qt::SizeVerCursor);
    lineEdit()->installEventFilter(this);
}

bool NumberField::eventFilter(QObject* watched, QEvent* event) {
    if (watched == lineEdit()) {
        if (event->type() == QEvent::MouseButtonPress) {
            pressed_ = true;
            dragging_ = false;
            press_y_ = static_cast<QMouseEvent*>(event)->globalPosition().y();
            pressed_value_ = value();
        } else if (event->type() == QEvent::MouseMove && pressed_) {
            const double moved = press_y_ - static_cast<QMouseEvent*>(event)->globalPosition().y();
            dragging_ = dragging_ || std::abs(moved) > kPixelsPerStep;
            if (dragging_) {
                setValue(pressed_value_ + std::round(moved / kPixelsPerStep) * singleStep());
                return true;
            }
        } else if (event->type() == QEvent::MouseButtonRelease) {
            const bool dragged = std::exchange(dragging_, false);
            pressed_ = false;
            emit let_go();
            if (dragged) {
                lineEdit()->deselect();
                return true;
            }
        }
    }
    return QDoubleSpinBox::eventFilter(watched, event);
}

void NumberField::wheelEvent(QWheelEvent* event) { hasFocus() ? QDoubleSpinBox::wheelEvent(event) : event->ignore(); }

}  // namespace fw::app

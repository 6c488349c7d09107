// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QWheelEvent>

namespace fw::app {

/// A combo box that does not change under a scrolling wheel unless it has the focus.
class CalmCombo : public QComboBox {
public:
    CalmCombo() { setFocusPolicy(Qt::StrongFocus); }

protected:
    void wheelEvent(QWheelEvent* e) override { hasFocus() ? QComboBox::wheelEvent(e) : e->ignore(); }
};

}  // namespace fw::app

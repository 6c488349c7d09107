// SPDX-License-Identifier: GPL-3.0-or-later
// Small things the lines of a sound sheet are made of.
#pragma once

#include "model/remake.hpp"

#include <QMenu>
#include <QPushButton>
#include <QString>
#include <QToolButton>

namespace fw::app {

inline QString words(const std::string& text) { return QString::fromStdString(text); }

inline QToolButton* small_button(const QString& text, const QString& tip, const QString& object = {}) {
    auto* b = new QToolButton;
    b->setText(text);
    b->setToolTip(tip);
    b->setAutoRaise(true);
    b->setFixedSize(24, 22);
    if (!object.isEmpty()) b->setObjectName(object);
    return b;
}

inline QPushButton* menu_button(const QString& text, const QString& tip, const QString& object, QMenu* menu) {
    auto* b = new QPushButton(text);
    b->setToolTip(tip);
    b->setObjectName(object);
    menu->setParent(b, menu->windowFlags());
    b->setMenu(menu);
    return b;
}

/// What a layer sounds with: a patch, a program, a file or a piece of sound of the remake's own.
QString layer_name(const Remake& remake, const Layer& layer);

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
// Small things the lines of a sound sheet are made of.
#pragma once

#include "model/remake.hpp"
#include "sound/plug_ins/plug_ins.hpp"

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

/// A menu of plug-ins of one kind; chosen: what one that is chosen does.
template <class Types, class Chosen>
void list_plug_ins(QMenu* menu, const Types& types, const QString& none, const Chosen& chosen) {
    menu->clear();
    menu->setToolTipsVisible(true);
    for (const auto* type : types) {
        auto* a = menu->addAction(words(type->label));
        a->setToolTip(words(type->help));
        QObject::connect(a, &QAction::triggered, menu, [chosen, type] { chosen(*type); });
    }
    if (!menu->isEmpty()) return;
    const QString lost = QObject::tr("The plug-ins of this machine could not be looked through");
    menu->addAction(plug_ins_looked_through() ? none : lost)->setEnabled(false);
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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/command_registry.hpp"

#include <QMenu>
#include <QWidget>
#include <cassert>

namespace fw::app {

void CommandRegistry::add(WindowCommand command) {
    assert(!actions_.contains(command.id) && "an id means one command");
    auto* a = new QAction(command.text, this);
    a->setShortcut(command.keys);
    if (!command.help.isEmpty()) a->setToolTip(command.help);
    if (command.where == WindowCommand::Where::CloseUps) a->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    a->setCheckable(static_cast<bool>(command.checked));
    connect(a, &QAction::triggered, this, command.run);
    actions_[command.id] = a;
    commands_.push_back(std::move(command));
}

QAction* CommandRegistry::action(const std::string& id) const {
    const auto found = actions_.find(id);
    return found == actions_.end() ? nullptr : found->second;
}

void CommandRegistry::fill(QMenu& menu, std::initializer_list<const char*> ids) const {
    for (const char* id : ids) {
        if (!*id) menu.addSeparator();
        else if (QAction* a = action(id)) menu.addAction(a);
        else assert(false && "a menu names a command there is not");
    }
}

void CommandRegistry::attach(QWidget& widget, WindowCommand::Where where) const {
    for (const WindowCommand& c : commands_)
        if (c.where == where) widget.addAction(action(c.id));
}

QString CommandRegistry::with_keys(const QString& sentence, const std::string& id) const {
    const QAction* a = action(id);
    return a && !a->shortcut().isEmpty() ? QString("%1 (%2)").arg(sentence, a->shortcut().toString(QKeySequence::NativeText)) : sentence;
}

QString CommandRegistry::sentence(const std::string& id) const {
    for (const WindowCommand& c : commands_)
        if (id == c.id) return c.help.isEmpty() ? QString(c.text).remove('&') : c.help;
    return {};
}

void CommandRegistry::refresh() const {
    for (const WindowCommand& c : commands_) {
        QAction* a = action(c.id);
        if (c.enabled) a->setEnabled(c.enabled());
        if (c.says) a->setText(c.says());
        if (c.checked) a->setChecked(c.checked());
    }
}

}  // namespace fw::app

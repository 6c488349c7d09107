// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QKeySequence>
#include <QObject>
#include <QString>
#include <functional>
#include <initializer_list>
#include <map>
#include <string>
#include <vector>

class QMenu;
class QWidget;

namespace fw::app {

/// Something the window does at a key, from a menu or a button.
struct WindowCommand {
    enum class Where {
        Everywhere,
        CloseUps  ///< elsewhere its keys keep their usual meaning
    };
    const char* id;  ///< "listen.play"
    QString text;    ///< as in a menu, with its mnemonic
    QKeySequence keys;
    std::function<void()> run;
    Where where = Where::Everywhere;
    QString help = {};                   ///< a sentence, where the text does not say it all
    std::function<bool()> enabled = {};  ///< always, where it is not given
    std::function<QString()> says = {};  ///< its text, where that changes
    std::function<bool()> checked = {};  ///< whether it is on, for one that is switched
};

/// All of them: what menus, buttons' tooltips and the list of shortcuts are made of, so that a key is written down once.
///
/// Lives in the window's thread.
class CommandRegistry final : public QObject {
public:
    explicit CommandRegistry(QObject* parent = nullptr) : QObject(parent) {}

    void add(WindowCommand command);
    /// Null for an id there is not.
    QAction* action(const std::string& id) const;
    const std::vector<WindowCommand>& all() const { return commands_; }
    /// Puts commands into a menu; an empty id is a line between them.
    void fill(QMenu& menu, std::initializer_list<const char*> ids) const;
    /// Keys of commands of a place work in this widget and what it holds.
    void attach(QWidget& widget, WindowCommand::Where where) const;
    /// "Play or stop (Space)".
    QString with_keys(const QString& sentence, const std::string& id) const;
    /// What a command does: its help, or its text.
    QString sentence(const std::string& id) const;
    /// Asks all for their state and text.
    void refresh() const;

private:
    std::vector<WindowCommand> commands_;
    std::map<std::string, QAction*> actions_;
};

}  // namespace fw::app

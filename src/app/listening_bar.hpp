// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <QWidget>

class QButtonGroup;
class QCheckBox;
class QLabel;
class QPushButton;

namespace fw::app {

class CommandRegistry;
class LensPanel;
class NumberField;

/// Play, stop, loop, position, speed, source, lens, click, loudness match, level meters of both, and the device sound goes to.
class ListeningBar final : public QWidget {
    Q_OBJECT

public:
    ListeningBar(Session& session, const CommandRegistry& commands, QWidget* parent = nullptr);
    /// Opens or closes what holds lenses, clicks and remembered places.
    void toggle_panel();
    LensPanel* panel() const { return panel_; }

private:
    void follow();
    void tick();

    class Meters;
    Session& session_;
    QPushButton *play_ = nullptr, *loop_ = nullptr, *lens_ = nullptr, *click_ = nullptr;
    LensPanel* panel_ = nullptr;
    QLabel *place_ = nullptr, *time_ = nullptr;
    NumberField* speed_ = nullptr;
    QButtonGroup* sources_ = nullptr;
    QCheckBox* match_ = nullptr;
    Meters* meters_ = nullptr;
};

}  // namespace fw::app

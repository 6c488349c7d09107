// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <QFrame>
#include <span>

class QButtonGroup;
class QCheckBox;
class QVBoxLayout;

namespace fw::app {

class CommandRegistry;
class NumberField;

/// A lens as the window offers it, in the panel, a menu and at a key.
struct LensRow {
    LensKind kind;
    const char *text, *tip, *command, *keys;
};
std::span<const LensRow> lens_rows();

/// What opens above the listening bar: the lenses, the clicks, and the places that are remembered.
class LensPanel final : public QFrame {
    Q_OBJECT

public:
    LensPanel(Session& session, const CommandRegistry& commands, QWidget* parent);
    /// Opens with its lower left corner at a place of the screen.
    void open_above(const QPoint& corner);
    /// A lens's name as the window writes it: "small speaker", "around A3".
    static QString title(const Lens& lens);

private:
    void follow();
    void list_spots();
    void set_click();
    /// Sets a lens with the numbers that stand here.
    void set_lens(LensKind kind);

    Session& session_;
    QButtonGroup* lenses_ = nullptr;
    NumberField *low_ = nullptr, *high_ = nullptr, *pitch_ = nullptr, *level_ = nullptr;
    QCheckBox *on_ = nullptr, *count_in_ = nullptr;
    QButtonGroup* between_ = nullptr;
    QVBoxLayout* spots_ = nullptr;
    bool following_ = false;
};

}  // namespace fw::app

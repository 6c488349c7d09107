// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <QFrame>

class QCheckBox;
class QComboBox;

namespace fw::app {

class NumberField;

/// How a part is made of the chords: what it has of them, how they are laid out, when they are struck. Every change is heard and is one step with the others
/// until the panel is closed.
class DerivePanel final : public QFrame {
    Q_OBJECT

public:
    DerivePanel(Session& session, PartId part, QWidget* parent = nullptr);

private:
    void apply();
    void follow();

    Session& session_;
    PartId part_;
    std::shared_ptr<const Remake> from_;  ///< before it was opened: what all changes start from
    QComboBox *kind_ = nullptr, *voicing_ = nullptr, *inversion_ = nullptr, *every_ = nullptr, *every_at_end_ = nullptr, *way_ = nullptr, *tone_ = nullptr,
              *low_ = nullptr;
    NumberField *share_ = nullptr, *strum_ = nullptr, *octaves_ = nullptr, *velocity_ = nullptr, *slope_ = nullptr;
    QCheckBox* linked_ = nullptr;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"
#include "app/tryout.hpp"

#include <QTimer>
#include <optional>
#include <vector>

namespace fw::app {

/// What is moved by mouse, wheel or keys while the song plays becomes a curve, where it is armed: heard at once, thinned when it is let go, one step of undo
/// with all that was moved in one go.
///
/// Lives in the window's thread.
class MoveRecorder final : public QObject {
    Q_OBJECT

public:
    explicit MoveRecorder(Session& session);
    bool armed() const { return armed_; }
    void arm(bool on);
    /// A field is at another value now. True where that was recorded; else whoever moved it sets the field.
    bool moved(const FieldRef& field, const Parameter& row, double value);
    /// What a field is while it is being recorded; nothing at other times.
    std::optional<double> held(const FieldRef& field) const;
    /// Nothing more of this move will come.
    void let_go();

signals:
    void changed();

private:
    bool lay(Ticks to, const std::vector<CurvePoint>& points);
    Ticks heard() const;
    Session& session_;
    Tryout tried_;
    QTimer quiet_;  ///< until keys and wheel, which do not say so, have let go
    bool armed_ = false;
    std::optional<FieldRef> field_;
    const Parameter* row_ = nullptr;
    std::vector<CurvePoint> points_;
};

}  // namespace fw::app

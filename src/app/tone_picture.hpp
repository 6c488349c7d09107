// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"
#include "fit/fit_equaliser.hpp"

#include <QWidget>

namespace fw::app {

/// An equaliser's or a filter's curve in our ink over what the original asks of its part in the original's: where both lie on each other the tones agree. For
/// an equaliser a button brings the curve there.
class TonePicture final : public QWidget {
    Q_OBJECT

public:
    TonePicture(Session& session, PartId part, StepId step, QWidget* parent = nullptr);
    /// Whether there is a picture of a step.
    static bool draws(const Step& step);
    QSize sizeHint() const override { return {400, 116}; }
    /// What the curve should be, by frequency; empty where it is not known.
    std::vector<WantedGain> wanted() const;

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void match();
    Session& session_;
    PartId part_;
    StepId step_;
};

}  // namespace fw::app

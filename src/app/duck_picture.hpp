// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"
#include "check/kick_dips.hpp"

#include <QWidget>

class QPushButton;

namespace fw::app {

/// What a Duck step does to the level after a hit, in our ink, over what the original's level does after the hits that set it off, in the original's; in the
/// section at the playhead. Where the original dips there, a button makes the step do the same.
class DuckPicture final : public QWidget {
    Q_OBJECT

public:
    DuckPicture(Session& session, StepId duck, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {400, 124}; }
    /// Whether the original has been listened to.
    bool ready() const { return measured_of_ != nullptr; }
    /// Of the original in the section that is shown; null where nothing can be said of it.
    const AfterStrokes* original() const;
    /// Of the step there, in the same steps of time.
    std::vector<double> mine() const;

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    std::vector<Ticks> strokes() const;
    SectionId at_playhead() const;
    /// Where the section that is shown begins.
    Ticks place() const;
    /// Whether it ducks only what lies where the original's kick covers what it does.
    bool lows_alone() const;
    void follow();
    void match();
    QString title() const;

    Session& session_;
    StepId duck_;
    QPushButton* like_ = nullptr;
    SectionId shown_;  ///< the one at the playhead when the picture was last looked after; all that is said is of it
    std::shared_ptr<const Remake> measured_of_;
    std::vector<Ticks> measured_strokes_;
    std::vector<std::pair<SectionId, AfterStrokes>> measured_;
    JobQueue jobs_;
};

}  // namespace fw::app

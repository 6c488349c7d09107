// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <QWidget>

namespace fw::app {

class CommandRegistry;
class PageView;
class TempoLane;

/// The page of the reference with what it shows, and the tempo along the song.
class SurveyDesk final : public QWidget {
    Q_OBJECT

public:
    SurveyDesk(Session& session, const CommandRegistry& commands, QWidget* parent = nullptr);
    PageView* page() const { return page_; }
    TempoLane* lane() const { return lane_; }

private:
    PageView* page_ = nullptr;
    TempoLane* lane_ = nullptr;
};

}  // namespace fw::app

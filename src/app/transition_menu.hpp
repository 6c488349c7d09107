// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

class QMenu;

namespace fw::app {

/// What leads into a place and what comes out of it, each with how long it is to be, added to a menu. The menu must not outlive the session.
void add_transitions(QMenu& menu, Session& session, Ticks place);
/// What a kind of transition is called.
QString transition_name(Transition kind);

}  // namespace fw::app

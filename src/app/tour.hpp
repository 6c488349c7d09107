// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/main_window.hpp"

#include <QString>

namespace fw::app {

/// Does the whole job through the real window once the recording is drafted: takes a picture of every desk into folder/,
/// delivers the mix and the check report there, and quits the application with 0, or 1 where something failed.
void start_tour(MainWindow& window, const QString& folder);

}  // namespace fw::app

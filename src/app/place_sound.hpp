// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

namespace fw::app {

/// Puts a sound file into the song as a clip that begins at a place. What is wrong with the file is told in a sentence. True where it stands there then.
bool place_sound(Session& session, const QString& path, Ticks at);

}  // namespace fw::app

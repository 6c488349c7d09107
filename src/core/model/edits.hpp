// SPDX-License-Identifier: GPL-3.0-or-later
// All edits: pure functions from one remake to the next. An edit that does not apply (no such part, nothing there) returns the document unchanged.
// All are thread-safe.
#pragma once

#include "model/edits/arrangement.hpp"
#include "model/edits/automation.hpp"
#include "model/edits/chord_parts.hpp"
#include "model/edits/clips.hpp"
#include "model/edits/condense.hpp"
#include "model/edits/follow_line.hpp"
#include "model/edits/macros.hpp"
#include "model/edits/notebook.hpp"
#include "model/edits/notes.hpp"
#include "model/edits/parts.hpp"
#include "model/edits/patterns.hpp"
#include "model/edits/phrasing.hpp"
#include "model/edits/sections.hpp"
#include "model/edits/song.hpp"
#include "model/edits/sound.hpp"
#include "model/edits/time.hpp"

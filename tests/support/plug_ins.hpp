// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdlib>

namespace fw::test {

/// Lets this process see the plug-ins made for tests and no others; to be called before any is asked for.
inline void see_made_plug_ins() { ::setenv("LV2_PATH", FW_PLUG_INS_DIR, 1); }

}  // namespace fw::test

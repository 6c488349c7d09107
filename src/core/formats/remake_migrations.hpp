// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>

namespace fw {

/// Thrown where a file's JSON is not what its version says; caught in remake_from_json.
struct DamagedRemake {};

/// Brings the JSON of an older version of the remake format to the next, and so on to the one this program reads. A version's step is never changed
/// again; tests/fixtures keeps a file of each.
void migrate_remake(nlohmann::ordered_json& remake, int version);

}  // namespace fw

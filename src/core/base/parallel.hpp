// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <functional>

namespace fw {

/// Runs job(0) … job(count-1) on as many threads as the machine has cores, and returns when all are done.
/// The first exception thrown by a job stops the handing out of further jobs and is thrown again here.
/// Jobs must not depend on their order; results written to slots of their own are then the same on every machine.
void parallel_for(std::size_t count, const std::function<void(std::size_t)>& job);

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>

namespace fw {

/// What the Equaliser step does to a frequency at a sample rate, dB: of values in the order of kEqualiser.fields, all of them. From the filters themselves, so
/// that a drawn curve is what is heard. hz from 0 up to half the rate. Pure, thread-safe.
double equaliser_db(std::span<const double> values, double hz, double sample_rate_hz);
/// The same of the Filter step, of values in the order of kFilter.fields.
double filter_db(std::span<const double> values, double hz, double sample_rate_hz);

}  // namespace fw

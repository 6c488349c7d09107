// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/sound.hpp"

#include <string>
#include <vector>

namespace fw {

/// Where parts and other buses meet: steps of its own, then its level and pan, then another bus or the master.
struct Bus {
    BusId id{};
    std::string name;
    std::vector<Step> steps;
    double gain_db = 0.0;
    double pan = 0.0;
    BusId output{};  ///< none: the master
    Unknown unknown{};
    bool operator==(const Bus&) const = default;
};

/// The whole: its steps, its level, then the limiter that keeps what leaves below full scale.
struct Master {
    std::vector<Step> steps;
    double gain_db = 0.0;
    Unknown unknown{};
    bool operator==(const Master&) const = default;
};

struct Mixer {
    std::vector<Bus> buses;
    Master master;
    Unknown unknown{};
    bool operator==(const Mixer&) const = default;

    const Bus* bus(BusId id) const;
    /// Whether what goes into one bus comes to the other, by itself or through others; a bus comes to itself. False where a way goes round in a circle.
    bool leads(BusId from, BusId to) const;
};

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
// Places, lengths and things as people say them, read and written.
#pragma once

#include "model/remake.hpp"

#include <optional>
#include <string>
#include <string_view>

namespace fw {

/// "5" is bar 5, "5.3" its third beat, "5.3.240" 240 ticks behind that; "verse 2" where the second section of that name or letter begins; "12.5s" and
/// "1:23.5" seconds of the recording; "the and of 2 in 7", "beat 3 of bar 5", "the a of one in 9" as it is counted aloud. Nothing where it is none of these.
std::optional<Ticks> parse_place(const Remake& remake, std::string_view text);
/// The shortest of "5", "5.3", "5.3.240".
std::string place_text(const MeterMap& meter, Ticks tick);

/// "12.345s": a place in the recording, for parse_place.
std::string seconds_text(double time_s);

/// A length: "2 bars", "3 beats", "1/8", "240 ticks"; negative ones with a minus, for moves. A bar is as long as the first one.
std::optional<Ticks> parse_length(const Remake& remake, std::string_view text);
std::string length_text(Ticks length);  ///< "3/8", else "133 ticks"

/// By name or letter, with a number where there are several: "verse", "verse 2", "B"; "#3" is the third of all.
const Section* find_section(const Remake& remake, std::string_view text);
std::string section_text(const Remake& remake, SectionId section);
/// By name, upper or lower case; "Lead #2" is the second of that name.
const Part* find_part(const Remake& remake, std::string_view text);
std::string part_text(const Remake& remake, PartId part);
const Bus* find_bus(const Remake& remake, std::string_view text);
std::string bus_text(const Remake& remake, BusId bus);
const Clip* find_clip(const Remake& remake, std::string_view text);
std::string clip_text(const Remake& remake, ClipId clip);

/// Whether two texts are the same but for upper and lower case of ASCII letters.
bool same_words(std::string_view a, std::string_view b);

}  // namespace fw

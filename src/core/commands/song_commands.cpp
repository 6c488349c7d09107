// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "base/pitch.hpp"
#include "model/limits.hpp"

namespace fw {

namespace {

Key key_of(const std::string& text) {
    const auto space = text.find(' ');
    const auto tonic = parse_pitch_class(text.substr(0, space));
    const auto mode = parse_mode(space == std::string::npos ? "major" : text.substr(space + 1));
    if (!tonic || !mode) throw Refused{"\"" + text + "\" is no key: say D dorian or Bb major"};
    return {*tonic, *mode};
}

constexpr Argument kAt[] = {{"at", "a place: 5, 5.3, verse 2 or 12.5s"}};
constexpr Argument kKey[] = {{"key", "as D dorian"}, {"area", "which key of the song, from 1", false}};
constexpr Argument kNewKey[] = {{"key", "as D dorian"}, {"from", "a bar: where it begins"}};
constexpr Argument kArea[] = {{"area", "which key of the song, from 1"}};
constexpr Argument kCents[] = {{"cents", "above A4 = 440 Hz"}};
constexpr Argument kStandard[] = {{"on", "on: A4 = 440 Hz; off: as the recording"}};
constexpr Argument kChord[] = {{"at", "a place"}, {"chord", "as Dm7, G/B or N.C."}};
const Command kCommands[] = {
    {"key.set", "Set key", "Sets the key, or one of several.", kKey, false,
     [](const Call& c) {
         const int most = std::max<int>(1, static_cast<int>(c.remake.song->keys.size()));
         return set_key(c.remake, static_cast<std::size_t>(c.has("area") ? c.whole("area", 1, most) : 1) - 1, key_of(c.text("key")));
     }},
    {"key.add", "Key from here", "Another key from a bar on, up to the next one.", kNewKey, false,
     [](const Call& c) { return add_key(c.remake, c.remake.song->meter.position(c.place("from")).bar, key_of(c.text("key"))); }},
    {"key.remove", "Take key away", "Takes one of several keys away; the one before it goes on.", kArea, false,
     [](const Call& c) {
         if (c.remake.song->keys.size() < 2) throw Refused{"it is the only key there is"};
         return remove_key(c.remake, static_cast<std::size_t>(c.whole("area", 1, static_cast<int>(c.remake.song->keys.size()))) - 1);
     }},
    {"tuning.set", "Set tuning", "Says how far the recording lies above A4 = 440 Hz.", kCents, false,
     [](const Call& c) { return set_tuning(c.remake, c.number("cents", -limits::kTuningCents, limits::kTuningCents)); }},
    {"tuning.standard", "Rebuild at 440 Hz", "Lets the rebuild stand at A4 = 440 Hz, or follow the recording's tuning.", kStandard, false,
     [](const Call& c) { return set_at_440(c.remake, c.on("on")); }},
    {"chord.set", "Set chord", "Sets the chord at a place.", kChord, false,
     [](const Call& c) {
         const auto chord = parse_chord(c.text("chord"));
         if (!chord) throw Refused{"\"" + c.text("chord") + "\" is not a chord this program knows: try names such as Dm7, Gsus4, F#m7b5 or G/B"};
         return set_chord(c.remake, c.place("at"), *chord);
     }},
    {"chord.split", "Split chord", "Cuts the chord at a place in two.", kAt, false, [](const Call& c) { return split_chord(c.remake, c.place("at")); }},
};

}  // namespace

std::span<const Command> song_commands() { return kCommands; }

}  // namespace fw

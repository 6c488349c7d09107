// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "base/pitch.hpp"
#include "model/chord_words.hpp"
#include "model/describe.hpp"
#include "model/edits/chord_parts.hpp"
#include "model/limits.hpp"

#include <algorithm>

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
constexpr Argument kChord[] = {
    {"at", "a place"}, {"chord", "as Dm7, G/B, ii7, bVII or N.C."}, {"length", "over which stretch; else the chord that is there", false}};
constexpr Argument kChords[] = {{"at", "a place: where the first begins"},
                                {"chords", "as \"Dm7 G7 | C . | N.C.\": a bar between bars, shared evenly; a dot goes on"}};
constexpr Argument kCopyChords[] = {
    {"from", "a place"}, {"to", "to before a place"}, {"at", "where they begin again"}, {"times", "how often; else once", false}};
constexpr Argument kVoice[] = {{"at", "a place"},
                               {"pitches", "as \"D3 A3 F4\"", false},
                               {"layout", "or close, drop_2, drop_2_4 or open", false},
                               {"inversion", "of a layout: 0 to 4", false},
                               {"low", "of a layout: as C3, the lowest note lies in the octave above", false}};
constexpr Argument kExtend[] = {{"at", "a place"}, {"up", "on: a third more on top; off: one fewer"}};

Chord chord_of(const Call& c, Ticks at, const std::string& text) {
    const Key* key = c.remake.song->key_at(at);
    if (const auto chord = parse_chord_in(key ? *key : Key{}, text)) return *chord;
    throw Refused{"\"" + text + "\" is not a chord this program knows: try names such as Dm7, Gsus4, F#m7b5 or G/B, or degrees such as ii7"};
}

/// Chords between bars, as they stand on a lead sheet.
Remake enter_chords(const Call& c) {
    Remake next = c.remake;
    const MeterMap& meter = c.remake.song->meter;
    const Ticks first = c.place("at");
    int bar = meter.position(first).bar;
    std::string all = c.text("chords") + "|";
    std::vector<std::string> words;
    bool any = false;
    std::optional<Chord> last;
    const auto put = [&](Ticks start, Ticks end, const Chord& chord) { next = put_chord(next, start, end - start, chord), any = true; };
    std::string word;
    for (const char ch : all) {
        if (ch != '|' && ch != ' ') {
            word += ch;
            continue;
        }
        if (!word.empty()) words.push_back(std::exchange(word, {}));
        if (ch != '|' || words.empty()) continue;
        const Ticks from = std::max(first, meter.tick_of_bar(bar)), to = meter.tick_of_bar(bar + 1), share = (to - from) / static_cast<Ticks>(words.size());
        for (std::size_t i = 0; i < words.size(); ++i) {
            const Ticks start = from + share * static_cast<Ticks>(i);
            if (words[i] == ".") {
                if (!last) throw Refused{"the first chord cannot be a dot: there is none that goes on"};
            } else {
                last = chord_of(c, start, words[i]);
            }
            // A dot within its bar makes the chord longer; over a bar line it is written again.
            std::size_t end = i + 1;
            while (end < words.size() && words[end] == ".") ++end;
            put(start, end == words.size() ? to : from + share * static_cast<Ticks>(end), *last);
            i = end - 1;
        }
        words.clear();
        ++bar;
    }
    if (!any) throw Refused{"there is no chord to enter"};
    return next;
}

/// One chord's own layout: given pitch by pitch, or laid out anew, or, with nothing said, given up.
Remake voice(const Call& c) {
    const Ticks at = c.place("at");
    const auto& chords = c.remake.song->chords;
    const auto chord = std::find_if(chords.begin(), chords.end(), [&](const ChordEvent& e) { return at >= e.start && at < e.start + e.length; });
    if (chord == chords.end() || chord->chord.none()) throw Refused{"there is no chord there"};
    std::vector<int> pitches;
    if (c.has("pitches")) {
        for (const auto& words : entries_of(c.text("pitches")))
            for (const std::string& word : words) pitches.push_back(c.pitch_of(word));
        if (pitches.size() > limits::kVoices) throw Refused{"a chord is laid out in " + std::to_string(limits::kVoices) + " pitches at most"};
    } else if (c.has("layout") || c.has("inversion")) {
        const auto voicing = c.has("layout") ? static_cast<Voicing>(word_of(c, "layout", names::kVoicings)) : Voicing::Close;
        pitches = laid_out(chord->chord, voicing, c.has("inversion") ? c.whole("inversion", 0, 4) : 0, c.has("low") ? c.pitch("low") : 48);
    }
    return voice_chord(c.remake, at, std::move(pitches));
}

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
         const Ticks at = c.place("at");
         const Chord chord = chord_of(c, at, c.text("chord"));
         if (!c.has("length")) return set_chord(c.remake, at, chord);
         if (c.length("length") < 1) throw Refused{"a chord has to have a length"};
         return put_chord(c.remake, at, c.length("length"), chord);
     }},
    {"chord.enter", "Enter chords", "Writes chords bar by bar from a place on.", kChords, false, enter_chords},
    {"chord.copy", "Copy chords", "Writes the chords of a stretch again at another place.", kCopyChords, false,
     [](const Call& c) {
         const Ticks from = c.place("from"), to = c.place("to");
         if (to <= from) throw Refused{"the stretch has no length"};
         const int times = c.has("times") ? c.whole("times", 1, 1000) : 1;
         const auto& chords = c.remake.song->chords;
         const auto count = std::count_if(chords.begin(), chords.end(), [&](const ChordEvent& e) { return e.start >= from && e.start < to; });
         if (count == 0) throw Refused{"no chord begins there"};
         if (static_cast<std::size_t>(count) * static_cast<std::size_t>(times) > limits::kChords)
             throw Refused{"that would be more chords than a remake may hold"};
         return copy_chords(c.remake, from, to, c.place("at"), times);
     }},
    {"chord.extend", "Extend chord", "Gives the chord at a place a third more on top, or one fewer.", kExtend, false,
     [](const Call& c) {
         const Ticks at = c.place("at");
         for (const ChordEvent& e : c.remake.song->chords)
             if (at >= e.start && at < e.start + e.length) {
                 const Key* key = c.remake.song->key_at(at);
                 return set_chord(c.remake, at, extended(key ? *key : Key{}, e.chord, c.on("up")));
             }
         throw Refused{"there is no chord there"};
     }},
    {"chord.voice", "Lay out chord", "Lays one chord out in pitches of its own, in all parts that are made of the chords.", kVoice, false, voice},
    {"chord.split", "Split chord", "Cuts the chord at a place in two.", kAt, false, [](const Call& c) { return split_chord(c.remake, c.place("at")); }},
};

}  // namespace

std::span<const Command> song_commands() { return kCommands; }

}  // namespace fw

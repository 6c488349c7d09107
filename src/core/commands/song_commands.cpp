// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "base/pitch.hpp"
#include "model/describe.hpp"

#include <charconv>

namespace fw {

namespace {

Key key_of(const std::string& text) {
    const auto space = text.find(' ');
    const auto tonic = parse_pitch_class(text.substr(0, space));
    const auto mode = parse_mode(space == std::string::npos ? "major" : text.substr(space + 1));
    if (!tonic || !mode) throw Refused{"\"" + text + "\" is no key: say D dorian or Bb major"};
    return {*tonic, *mode};
}

constexpr Argument kFactor[] = {{"factor", "the new tempo over the old: 2, 0.5, 1.5"}};
constexpr Argument kAt[] = {{"at", "a place: 5, 5.3, verse 2 or 12.5s"}};
constexpr Argument kRemark[] = {{"kind", "question, intended or faint"},
                                {"element", "its name, or tempo, key, sections, chords"},
                                {"at", "a place: 5, 5.3, verse 2 or 12.5s"},
                                {"length", "how long the place is: 1/4, 2 bars", false},
                                {"words", "what there is to say", false}};
constexpr Argument kNoRemark[] = {{"kind", "question, intended or faint"}, {"element", "which"}, {"at", "where it begins"}};
constexpr Argument kMeter[] = {{"meter", "as 4/4, 3/4 or 6/8"}};
constexpr Argument kKey[] = {{"key", "as D dorian"}, {"area", "which key of the song, from 1", false}};
constexpr Argument kRename[] = {{"section", "which"}, {"name", "its new name"}};
constexpr Argument kCopy[] = {{"section", "which"}, {"to", "where the copy begins: a place"}};
constexpr Argument kChord[] = {{"at", "a place"}, {"chord", "as Dm7, G/B or N.C."}};
constexpr Argument kElement[] = {{"element", "its name, or tempo, key, sections, chords"},
                                 {"state", "open, draft, confirmed or left out", false},
                                 {"question", "an open question; empty takes it away", false},
                                 {"intended", "a difference that is meant; empty takes it away", false}};
constexpr Argument kRow[] = {{"name", "what the row is called"}};

RemarkKind remark_kind(const Call& c) {
    for (std::size_t i = 0; i < names::kRemarks.size(); ++i)
        if (c.text("kind") == names::kRemarks[i]) return static_cast<RemarkKind>(i);
    throw Refused{"\"" + c.text("kind") + "\" is no kind of remark: say question, intended or faint"};
}

const Command kCommands[] = {
    {"tempo.reread", "Read at another tempo", "Counts the same music at another tempo; nothing moves in recording time.", kFactor, false,
     [](const Call& c) { return reread_tempo(c.remake, c.number("factor", 0.1, 10.0)); }},
    {"tempo.downbeat", "Set downbeat", "Makes the beat nearest to a place the first of a bar.", kAt, false,
     [](const Call& c) { return set_downbeat(c.remake, c.remake.song->tempo.seconds(c.place("at"))); }},
    {"meter.set", "Set meter", "Counts all bars in one meter.", kMeter, false,
     [](const Call& c) {
         const std::string text = c.text("meter");
         int above = 0, below = 0;
         const auto slash = text.find('/');
         if (slash != std::string::npos) {
             std::from_chars(text.data(), text.data() + slash, above);
             std::from_chars(text.data() + slash + 1, text.data() + text.size(), below);
         }
         const Remake next = set_meter(c.remake, above, below);
         const auto& first = next.song->meter.changes().front();
         if (first.numerator != above || first.denominator != below) throw Refused{"\"" + text + "\" is no meter"};
         return next;
     }},
    {"key.set", "Set key", "Sets the key, or one of several.", kKey, false,
     [](const Call& c) {
         const int most = std::max<int>(1, static_cast<int>(c.remake.song->keys.size()));
         return set_key(c.remake, static_cast<std::size_t>(c.has("area") ? c.whole("area", 1, most) : 1) - 1, key_of(c.text("key")));
     }},
    {"section.rename", "Rename section", "Gives a section another name.", kRename, false,
     [](const Call& c) { return rename_section(c.remake, c.section().id, c.text("name")); }},
    {"section.copy", "Copy section", "Plays what a section plays once more, with its clips, curves and settings, in the place of what is there.", kCopy, false,
     [](const Call& c) { return copy_section(c.remake, c.section().id, c.place("to")); }},
    {"chord.set", "Set chord", "Sets the chord at a place.", kChord, false,
     [](const Call& c) {
         const auto chord = parse_chord(c.text("chord"));
         if (!chord) throw Refused{"\"" + c.text("chord") + "\" is not a chord this program knows: try names such as Dm7, Gsus4, F#m7b5 or G/B"};
         return set_chord(c.remake, c.place("at"), *chord);
     }},
    {"chord.split", "Split chord", "Cuts the chord at a place in two.", kAt, false, [](const Call& c) { return split_chord(c.remake, c.place("at")); }},
    {"element.note", "Note on element", "Says what there is to say of an element.", kElement, false,
     [](const Call& c) {
         const ElementId id = c.element();
         ElementState now = c.remake.element(id);
         if (c.has("state")) {
             int i = 0;
             while (i < kStates && c.text("state") != state_name(static_cast<State>(i))) ++i;
             if (i == kStates) throw Refused{"\"" + c.text("state") + "\" is no state: say open, draft, confirmed or left out"};
             now.state = static_cast<State>(i);
         }
         if (c.has("question")) now.question = c.text("question");
         if (c.has("intended")) now.intended = c.text("intended");
         return set_element(c.remake, id, now);
     }},
    {"remark.add", "Remark", "Says something about a place: an open question, a difference that is meant, something faint.", kRemark, false,
     [](const Call& c) {
         Remark m{
             remark_kind(c), c.element(), c.place("at"), c.has("length") ? c.length("length") : kTicksPerQuarter, c.has("words") ? c.text("words") : "", {}};
         return add_remark(c.remake, std::move(m));
     }},
    {"remark.remove", "Take remark back", "Takes back what was said about a place.", kNoRemark, false,
     [](const Call& c) {
         Remake next = remove_remark(c.remake, remark_kind(c), c.element(), c.place("at"));
         if (next.notebook->remarks.size() == c.remake.notebook->remarks.size()) throw Refused{"nothing of that kind is said of that place"};
         return next;
     }},
    {"row.add", "Add row", "Adds a row of your own to the ledger.", kRow, false, [](const Call& c) { return add_row(c.remake, c.text("name")); }},
    {"row.remove", "Remove row", "Takes a row of your own out of the ledger.", kRow, false,
     [](const Call& c) {
         for (const OwnRow& r : c.remake.notebook->rows)
             if (same_words(r.name, c.text("name"))) return remove_row(c.remake, r.id);
         throw Refused{"there is no row \"" + c.text("name") + "\""};
     }},
};

}  // namespace

std::span<const Command> song_commands() { return kCommands; }

}  // namespace fw

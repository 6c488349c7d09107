// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "model/describe.hpp"
#include "model/limits.hpp"

namespace fw {

namespace {

constexpr Argument kAdd[] = {
    {"name", "what it is called"},           {"role", "bass, lead, chords, drums or other", false}, {"source", "synth, drum_kit or soundfont", false},
    {"patch", "one of the source's", false}, {"program", "of a SoundFont, 0 to 127", false},        {"file", "a SoundFont", false}};
constexpr Argument kPart[] = {{"part", "which"}};
constexpr Argument kRename[] = {{"part", "which"}, {"name", "its new name"}};
constexpr Argument kSwitch[] = {{"part", "which"}, {"on", "on or off"}};
constexpr Argument kCell[] = {{"part", "which"}, {"section", "where"}, {"on", "on or off"}};
constexpr Argument kPlayAs[] = {{"part", "which"}, {"section", "where"}, {"like", "the section in which it plays that"}};
constexpr Argument kTurns[] = {{"part", "which plays first"}, {"with", "the other"}, {"section", "where"}};
constexpr Argument kLeaveOut[] = {{"part", "which"}, {"section", "where"}};
constexpr Argument kFollow[] = {{"part", "the bass"},
                                {"of", "the part it follows"},
                                {"pitch", "own: its notes, an octave or more below; roots: its rhythm with the chords' lowest tones", false},
                                {"sound", "of drums: which, as Kick", false},
                                {"from", "a place; without it the whole song", false},
                                {"to", "to before a place", false},
                                {"low", "where the octave begins it is brought into: E1", false}};
constexpr Argument kFallOut[] = {{"part", "which; without it all of them", false}, {"from", "a place"}, {"to", "a place"}};
constexpr Argument kNewRival[] = {{"part", "which"}, {"name", "what the part goes on as"}};
constexpr Argument kRival[] = {{"part", "which"}, {"rival", "its name, or its number from 1"}};
constexpr Argument kPatterns[] = {{"part", "which"},
                                  {"bars", "how long a pattern is: 1 to 64; else what needs the fewest notes", false},
                                  {"near", "as 1/32: what is nearer is the same note", false},
                                  {"timing", "even: as most repeats have it; keep: each its own", false}};
constexpr Argument kSpread[] = {{"part", "which"},
                                {"from", "a place: where the stretch begins"},
                                {"length", "as 1 bar: how long it is"},
                                {"to", "places where it plays again, each with the notes it lacks there: 9, 13 -5.3/G2, 17"},
                                {"with", "notes there are besides: ticks from the stretch's beginning, pitch, ticks of length, velocity", false}};
constexpr Argument kPlace[] = {{"part", "which"}, {"pattern", "its letter"}, {"at", "a place: where it plays once more"}};
constexpr Argument kDerive[] = {{"part", "which"},
                                {"kind", "block, lowest, roots, top, arpeggio or tone"},
                                {"linked", "on: it follows when chords change; off: its notes are its own", false},
                                {"voicing", "close, drop_2, drop_2_4 or open", false},
                                {"inversion", "0 to 4, or smooth: the shortest way from chord to chord", false},
                                {"low", "as C3: the lowest note lies in the octave above", false},
                                {"high", "as C5: the highest", false},
                                {"tone", "of kind tone: 1, 3, 5, 7 or 9", false},
                                {"every", "as 1/8: from stroke to stroke; else once a chord", false},
                                {"every_at_end", "as 1/16: to which an arpeggio's rate changes until the chord ends", false},
                                {"share", "of the time to the next stroke that is held", false},
                                {"strum", "milliseconds from tone to tone; negative from above", false},
                                {"way", "of an arpeggio: up, down, up_down, down_up or random", false},
                                {"octaves", "1 to 4 that an arpeggio goes through", false},
                                {"velocity", "1 to 127", false},
                                {"slope", "how much harder each higher tone is played", false}};

Remake derive(const Call& c) {
    Derivation how;
    const bool bass = c.text("kind") == "lowest" || c.text("kind") == "roots";
    how.kind = static_cast<FromChords>(word_of(c, "kind", names::kFromChords, 1));
    how.linked = !c.has("linked") || c.on("linked");
    if (bass) how.low = 28, how.high = 52;
    if (how.kind == FromChords::Top) how.low = 55, how.high = 81;
    if (c.has("voicing")) how.voicing = static_cast<Voicing>(word_of(c, "voicing", names::kVoicings));
    if (c.has("inversion")) how.inversion = c.text("inversion") == "smooth" ? -1 : c.whole("inversion", 0, 4);
    if (c.has("low")) how.low = c.pitch("low");
    if (c.has("high")) how.high = c.pitch("high");
    if (how.high < how.low + 11) how.high = std::min(127, how.low + 11);
    if (c.has("tone")) how.tone = c.whole("tone", 1, 9);
    if (c.has("every")) how.every = static_cast<int>(std::min<Ticks>(c.length("every"), limits::kGrooveStep));
    if (c.has("every_at_end")) how.every_at_end = static_cast<int>(std::min<Ticks>(c.length("every_at_end"), limits::kGrooveStep));
    if (how.every < 0 || how.every_at_end < 0) throw Refused{"strokes cannot come before each other"};
    if (c.has("share")) how.length = c.number("share", 0.05, 1.0);
    if (c.has("strum")) how.strum_ms = c.number("strum", -500.0, 500.0);
    if (c.has("way")) how.way = static_cast<ArpeggioWay>(word_of(c, "way", names::kWays));
    if (c.has("octaves")) how.octaves = c.whole("octaves", 1, 4);
    if (c.has("velocity")) how.velocity = c.whole("velocity", 1, 127);
    if (c.has("slope")) how.slope = c.whole("slope", -60, 60);
    if (c.remake.song->chords.empty()) throw Refused{"there are no chords to make it from"};
    if (c.part().role == PartRole::Drums) throw Refused{"drums are not made of chords"};
    return derive_part(c.remake, c.part().id, how);
}

/// A stretch at other places, with what is fewer and more there.
Remake spread(const Call& c) {
    const Part& part = c.part();
    const Ticks from = c.place("from"), length = c.length("length");
    if (length < 1) throw Refused{"the stretch has no length"};
    const auto placed = placed_notes(part);
    std::vector<Repeat> places;
    for (const auto& words : entries_of(c.text("to"))) {
        if (words.empty()) continue;
        const auto at = parse_place(c.remake, words.front());
        if (!at) throw Refused{"\"" + words.front() + "\" is no place: say a bar, as 9"};
        Repeat repeat{*at, {}, {}};
        for (std::size_t i = 1; i < words.size(); ++i) {
            const auto note = std::find_if(placed.begin(), placed.end(), [&](const PlacedNote& n) { return "-" + note_text(c.remake, n) == words[i]; });
            if (note == placed.end()) throw Refused{"the part \"" + part.name + "\" has no note \"" + words[i].substr(1) + "\""};
            repeat.left_out.push_back(note->ref());
        }
        places.push_back(std::move(repeat));
    }
    if (places.empty()) throw Refused{"it does not say where: to=\"9, 13\""};
    if (c.has("with"))
        for (Note& n : notes_written(c, "with", from, Origin::Drawn)) {
            const auto place =
                std::find_if(places.begin(), places.end(), [&](const Repeat& r) { return n.start >= r.at - length / 16 && n.start < r.at + length; });
            if (place == places.end()) throw Refused{"a note that is to be there besides lies in none of the places"};
            place->added.push_back(std::move(n));
        }
    Remake next = spread_stretch(c.remake, part.id, from, length, std::move(places));
    if (next == c.remake) throw Refused{"nothing would change"};
    return next;
}

const Pattern& pattern_of(const Call& c) {
    for (const auto& p : c.part().patterns)
        if (p->letter == c.text("pattern")) return *p;
    throw Refused{"the part \"" + c.part().name + "\" has no pattern \"" + c.text("pattern") + "\""};
}

std::size_t rival_of(const Call& c) {
    const Part& p = c.part();
    const std::string wanted = c.text("rival");
    for (std::size_t i = 0; i < p.rivals.size(); ++i)
        if (same_words(p.rivals[i]->version_name, wanted) || wanted == std::to_string(i + 1)) return i;
    throw Refused{p.rivals.empty() ? "the part \"" + p.name + "\" has no rival" : "there is no rival \"" + wanted + "\" of the part \"" + p.name + "\""};
}

Remake switched(const Call& c, bool Part::*member) {
    return with_part(c.remake, c.part().id, [&](Part& p) { p.*member = c.on("on"); });
}

const Command kCommands[] = {
    {"part.add", "Add part", "Adds a part with one layer and nothing to play yet.", kAdd, false,
     [](const Call& c) {
         PartRole role = PartRole::Other;
         if (c.has("role")) {
             int i = 0;
             while (i < kPartRoles && c.text("role") != part_role_name(static_cast<PartRole>(i))) ++i;
             if (i == kPartRoles) throw Refused{"\"" + c.text("role") + "\" is no role: say bass, lead, chords, drums or other"};
             role = static_cast<PartRole>(i);
         }
         return add_part(c.remake, c.text("name"), role, new_layer(c, role == PartRole::Drums ? kDrumKit : kSynth));
     }},
    {"part.remove", "Remove part", "Takes a part out.", kPart, false, [](const Call& c) { return remove_part(c.remake, c.part().id); }},
    {"part.rename", "Rename part", "Gives a part another name.", kRename, false,
     [](const Call& c) {
         if (c.text("name").empty()) throw Refused{"a part has to have a name"};
         return with_part(c.remake, c.part().id, [&](Part& p) { p.name = c.text("name"); });
     }},
    {"part.mute", "Mute part", "Mutes a part or lets it sound.", kSwitch, false, [](const Call& c) { return switched(c, &Part::mute); }},
    {"part.solo", "Solo part", "Lets only this part (and others that are soloed) sound.", kSwitch, false,
     [](const Call& c) { return switched(c, &Part::solo); }},
    {"part.mute-in", "Mute in section", "Mutes what a part plays in one section, or lets it sound.", kCell, false,
     [](const Call& c) { return mute_cell(c.remake, c.part().id, c.section().id, c.on("on")); }},
    {"part.play-as", "Play as in another section", "Lets a part play in a section what it plays in another, in the place of what it plays there.", kPlayAs,
     false,
     [](const Call& c) {
         const Section &to = c.section(), &like = c.section("like");
         if (to.id == like.id) throw Refused{"it is the same section"};
         if (!placement_in(c.part(), like)) throw Refused{"\"" + c.part().name + "\" plays nothing in " + section_text(c.remake, like.id)};
         return play_as(c.remake, c.part().id, to.id, like.id);
     }},
    {"part.leave-out", "Leave out of section", "Takes away what a part plays in one section.", kLeaveOut, false,
     [](const Call& c) {
         if (!placement_in(c.part(), c.section())) throw Refused{"it plays nothing there"};
         return leave_out(c.remake, c.part().id, c.section().id);
     }},
    {"part.take-turns", "Take turns", "Lets two parts take turns bar by bar in a section.", kTurns, false,
     [](const Call& c) {
         if (c.part().id == c.part("with").id) throw Refused{"a part takes turns with another one"};
         return take_turns(c.remake, c.part().id, c.part("with").id, c.section().id);
     }},
    {"part.fall-out", "Fall out", "Takes away what a part, or every part, plays between two places: a stop, a drop-out, the end of a phrase.", kFallOut, false,
     [](const Call& c) {
         const Ticks from = c.place("from"), to = c.place("to");
         if (to <= from) throw Refused{"the second place has to come after the first"};
         Remake next = c.remake;
         for (const auto& p : c.remake.parts)
             if (!c.has("part") || p->id == c.part().id) next = fall_out(next, p->id, from, to);
         return next;
     }},
    {"parts.clear-mutes", "Clear solos and mutes", "Lets all parts sound.", {}, false, [](const Call& c) { return clear_mutes_and_solos(c.remake); }},
    {"pattern.find", "Find patterns", "Folds what repeats into patterns, with variants where a repeat differs.", kPatterns, false,
     [](const Call& c) {
         Folding how;
         if (c.has("bars")) how.bars = c.whole("bars", 1, 64);
         if (c.has("near")) how.near = c.length("near");
         if (how.near < 0) throw Refused{"nothing is nearer than nothing"};
         constexpr std::array kTiming{"even", "keep"};
         how.keep_timing = c.has("timing") && word_of(c, "timing", kTiming) == 1;
         if (placed_notes(c.part()).empty()) throw Refused{"the part \"" + c.part().name + "\" plays nothing yet"};
         return find_patterns(c.remake, c.part().id, how);
     }},
    {"pattern.spread", "Spread stretch", "Plays a stretch again at other places, in place of what stood there.", kSpread, false, spread},
    {"pattern.place", "Place pattern", "Plays a pattern once more at another place.", kPlace, false,
     [](const Call& c) {
         Remake next = place_pattern(c.remake, c.part().id, pattern_of(c).id, c.place("at"));
         if (next == c.remake) throw Refused{"the part plays something there already"};
         return next;
     }},
    {"part.derive", "Make from chords", "Lets a part play what is made of the chords: all tones, the lowest, roots, tops, an arpeggio, one tone.", kDerive,
     false, derive},
    {"part.follow", "Follow another part", "Lets a bass play what another part plays, low and one note at a time, or its rhythm on the chords' lowest tones.",
     kFollow, false,
     [](const Call& c) {
         const Part& line = c.part("of");
         if (line.id == c.part().id) throw Refused{"a part follows another one"};
         FollowLine how;
         constexpr std::array kPitches{"own", "roots"};
         how.roots = c.has("pitch") && word_of(c, "pitch", kPitches) == 1;
         if (c.has("from") != c.has("to")) throw Refused{"it says from or to only: say both, or neither for the whole song"};
         if (c.has("from")) how.from = c.place("from"), how.to = c.place("to");
         if (c.has("from") && how.to <= how.from) throw Refused{"the second place has to come after the first"};
         if (c.has("low")) how.low = c.pitch("low");
         if (c.has("sound")) how.sound = c.pitch("sound");
         if (line.role == PartRole::Drums && !how.roots) throw Refused{"drums have no line to follow: say pitch=roots"};
         if (how.roots && c.remake.song->chords.empty()) throw Refused{"there are no chords whose roots it could play"};
         const auto struck = struck_notes(line);
         if (std::none_of(struck.begin(), struck.end(), [&](const PlacedNote& n) {
                 return !n.muted && (!how.sound || n.note.pitch == *how.sound) && n.note.start >= how.from && (how.to <= 0 || n.note.start < how.to);
             }))
             throw Refused{"the part \"" + line.name + "\" plays nothing to follow there"};
         return follow_line(c.remake, c.part().id, line.id, how);
     }},
    {"part.unlink", "Cut the link to the chords", "The part's notes become its own: they no longer follow the chords.", kPart, false,
     [](const Call& c) {
         if (!c.part().derived.linked) throw Refused{"the part \"" + c.part().name + "\" is not linked to the chords"};
         return unlink_part(c.remake, c.part().id);
     }},
    {"rival.add", "Keep a rival", "Keeps the part as it is as a rival and goes on with a copy of it.", kNewRival, false,
     [](const Call& c) { return add_rival(c.remake, c.part().id, c.text("name")); }},
    {"rival.choose", "Choose rival", "Lets a rival be the part; what was the part becomes a rival.", kRival, false,
     [](const Call& c) { return choose_rival(c.remake, c.part().id, rival_of(c)); }},
    {"rival.remove", "Remove rival", "Gives up a rival.", kRival, false, [](const Call& c) { return remove_rival(c.remake, c.part().id, rival_of(c)); }},
};

}  // namespace

std::span<const Command> part_commands() { return kCommands; }

}  // namespace fw

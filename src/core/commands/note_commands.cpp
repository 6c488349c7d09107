// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "model/limits.hpp"

namespace fw {

namespace {

/// The arguments that say which notes.
constexpr std::array kSome{Argument{"part", "which"},
                           Argument{"notes", "which notes, by place and pitch: 5.3.12/F2,5.4/G2", false},
                           Argument{"from", "or all from a place on", false},
                           Argument{"to", "to before a place", false},
                           Argument{"pitch", "of those only this pitch", false},
                           Argument{"reach", "everywhere its pattern plays, or here", false}};

/// Those and some more.
template <std::size_t N>
constexpr std::array<Argument, kSome.size() + N> some_and(const Argument (&more)[N]) {
    std::array<Argument, kSome.size() + N> all{};
    for (std::size_t i = 0; i < all.size(); ++i) all[i] = i < kSome.size() ? kSome[i] : more[i - kSome.size()];
    return all;
}

constexpr Argument kAdd[] = {{"part", "which"},
                             {"at", "a place"},
                             {"pitch", "a note (C4) or a drum sound"},
                             {"length", "as 1/8", false},
                             {"velocity", "1 to 127", false},
                             {"reach", "everywhere its pattern plays, or here", false}};
constexpr Argument kWrite[] = {{"part", "which"},
                               {"at", "a place the notes are counted from"},
                               {"notes", "\"0 F2 240 96, 240 G2 240 90\": ticks, pitch, ticks of length, velocity, and bends as 120:-50"},
                               {"origin", "drawn, played or imported", false},
                               {"reach", "everywhere its pattern plays, or here", false}};
constexpr auto kSwitched = some_and({{"on", "on or off"}});
constexpr auto kChange = some_and({{"move", "later by a length; negative earlier", false},
                                   {"ms", "later by milliseconds; negative earlier", false},
                                   {"semitones", "up; negative down", false},
                                   {"lengthen", "by a length; negative shorter", false},
                                   {"times", "how many times as long: 2, 0.5", false},
                                   {"velocity", "harder by so much; negative softer", false}});
constexpr auto kQuantise = some_and({{"grid", "as 1/16, 1/8T for triplets, 1/8. dotted, 1/20 for five a quarter", false},
                                     {"groove", "or a groove, by name", false},
                                     {"swing", "0.5 straight to 0.75", false},
                                     {"strength", "0 to 1", false},
                                     {"window", "what is farther off stays: as 1/32", false},
                                     {"dynamics", "0 to 1: towards the groove's velocities", false}});
constexpr auto kLock = some_and({{"to", "another part"},
                                 {"sound", "of its notes only this sound or pitch", false},
                                 {"window", "as 1/16: what is farther off stays", false},
                                 {"strength", "0 to 1", false}});
constexpr auto kHumanise = some_and(
    {{"range", "how far at most, as 1/64", false}, {"velocity", "how much at most, 0 to 60", false}, {"seed", "another number, another throw", false}});
constexpr auto kAt = some_and({{"at", "a place"}});
constexpr auto kSpace = some_and({{"share", "of the time to the next, 0.05 to 1", false}, {"gap", "as 1/64: what is left free before the next", false}});
constexpr auto kSteps = some_and({{"steps", "of the key's scale, up; negative down"}});
constexpr auto kDouble = some_and({{"semitones", "12 for the octave above"}});
constexpr auto kSendTo = some_and({{"into", "another part"}, {"keep", "on: they stay where they are, too", false}});
constexpr auto kRate = some_and({{"times", "2 for twice as fast, 0.5 for half as fast"}});
constexpr auto kRamp = some_and({{"first", "velocity of the first, 1 to 127"}, {"last", "of the last", false}});
constexpr auto kGrace = some_and({{"semitones", "from the note: -1 from below"}, {"length", "as 1/32", false}});
constexpr auto kCopy = some_and({{"by", "how much later, as 1 bar", false},
                                 {"at", "or where the first of them goes", false},
                                 {"times", "how often", false},
                                 {"until", "or as often as begins before a place", false},
                                 {"into", "another part", false},
                                 {"semitones", "up; negative down", false}});
constexpr auto kGlide = some_and({{"time", "as 1/16: how long it takes", false}, {"shape", "even, late or early", false}});
constexpr auto kVibrato = some_and({{"depth", "cents to either side", false}, {"rate", "Hz", false}, {"delay", "as 1/8", false}});
constexpr auto kBend = some_and({{"points", "\"0:-100 240:0\": ticks from the note's start, and cents"}});
constexpr auto kRoll = some_and({{"strokes", "how often it is struck; 1 for once"},
                                 {"apart", "as 1/32 or ms=30", false},
                                 {"ms", "or milliseconds from one to the next", false},
                                 {"first", "velocity of the first", false},
                                 {"rise", "semitones up to the last", false},
                                 {"leads_in", "on: its place is the last stroke's, as of a flam", false}});
constexpr Argument kGroove[] = {{"name", "what it is called"}, {"step", "as 1/16"}, {"steps", "\"+12/96 0 -5/80\": ticks off the grid and velocity"}};
constexpr auto kTake = some_and({{"name", "what it is called"}, {"step", "as 1/16", false}, {"bars", "how long until it repeats", false}});
constexpr Argument kGrooveName[] = {{"name", "which groove"}};

Ticks length_or(const Call& c, const char* name, Ticks otherwise, Ticks least = 0) {
    const Ticks length = c.has(name) ? c.length(name) : otherwise;
    if (length < least) throw Refused{std::string(name) + " is too short"};
    return length;
}

/// Milliseconds at the place of the first of some notes, as ticks.
Ticks ticks_of_ms(const Call& c, const NoteRefs& notes, double ms) {
    const auto meant = notes_meant(c.part(), notes);
    const Ticks at = meant.empty() ? 0 : meant.front().note.start;
    return c.remake.song->tempo.nearest_tick(c.remake.song->tempo.seconds(at) + ms / 1000.0) - at;
}

Remake copy(const Call& c) {
    const auto refs = c.notes(c.part());
    const auto notes = notes_meant(c.part(), refs);
    Ticks by = c.has("by") ? c.length("by") : 0;
    if (c.has("at")) by = c.place("at") - notes.front().note.start;
    if (!c.has("by") && !c.has("at")) throw Refused{"it does not say where: by=LENGTH or at=PLACE"};
    int times = c.has("times") ? c.whole("times", 1, 10000) : 1;
    if (c.has("until")) {
        if (by < 1) throw Refused{"copies up to a place have to go later"};
        times = static_cast<int>((c.place("until") - 1 - notes.front().note.start) / by);
        if (times < 1) throw Refused{"not one copy begins before that place"};
    }
    if (notes.size() * static_cast<std::size_t>(times) > limits::kSoundingNotes) throw Refused{"that would be more notes than a remake may play"};
    return copy_notes(c.remake, c.part().id, refs, c.has("into") ? c.part("into").id : c.part().id, by, times,
                      c.has("semitones") ? c.whole("semitones", -127, 127) : 0, c.reach());
}

Remake roll(const Call& c) {
    const auto refs = c.notes(c.part());
    Roll roll;
    roll.strokes = c.whole("strokes", 1, limits::kStrokesANote);
    roll.apart = c.has("ms") ? ticks_of_ms(c, refs, c.number("ms", 1.0, 5000.0)) : length_or(c, "apart", kTicksPerQuarter / 8);
    if (roll.apart < 1) throw Refused{"strokes have to be apart"};
    const auto meant = notes_meant(c.part(), refs);
    roll.first_velocity = c.has("first") ? c.whole("first", 1, 127) : meant.empty() ? roll.first_velocity : meant.front().note.velocity;
    if (c.has("rise")) roll.semitones = c.number("rise", -24.0, 24.0);
    if (c.has("leads_in")) roll.leads_in = c.on("leads_in");
    return roll_notes(c.remake, c.part().id, refs, roll, c.reach());
}

GlideShape shape_of(const Call& c) {
    const std::string shape = c.text("shape", "even");
    if (shape == "even") return GlideShape::Even;
    if (shape == "late") return GlideShape::Late;
    if (shape == "early") return GlideShape::Early;
    throw Refused{"\"" + shape + "\" is no shape: say even, late or early"};
}

Remake with_groove(const Remake& remake, Groove groove) {
    if (groove.name.empty()) throw Refused{"a groove has to have a name"};
    Remake next = remake;
    auto& all = next.song.edit().grooves;
    std::erase_if(all, [&](const Groove& g) { return same_words(g.name, groove.name); });
    all.push_back(std::move(groove));
    return next;
}

Remake bend(const Call& c) {
    std::vector<BendPoint> points;
    for (const auto& words : entries_of(c.text("points")))
        for (const std::string& word : words) {
            points.push_back(bend_point(word));
            if (points.back().tick < 0 || (points.size() > 1 && points.back().tick <= points[points.size() - 2].tick))
                throw Refused{"the points of a bend do not stand in order of time from the note's start on"};
        }
    if (points.empty()) throw Refused{"there is no point to bend through: note.straighten takes bends off"};
    if (points.size() > limits::kBendsANote) throw Refused{"a note is bent through " + std::to_string(limits::kBendsANote) + " points at most"};
    return bend_notes(c.remake, c.part().id, c.notes(c.part()), points, c.reach());
}

Remake write(const Call& c) {
    Origin origin = Origin::Drawn;
    if (const std::string from = c.text("origin", "drawn"); from == "played") origin = Origin::Played;
    else if (from == "imported") origin = Origin::Imported;
    else if (from != "drawn") throw Refused{"\"" + from + "\" is no origin: say drawn, played or imported"};
    std::vector<Beside> notes;
    for (Note& n : notes_written(c, "notes", c.place("at"), origin)) notes.push_back({{}, std::move(n)});
    if (notes.empty()) throw Refused{"there is no note to write"};
    return add_beside(c.remake, c.part().id, notes, c.reach());
}

int groove_step(const Call& c, const char* otherwise) {
    const auto step = parse_length(c.remake, c.text("step", otherwise));
    if (!step || *step < 1 || *step > limits::kGrooveStep) throw Refused{"\"" + c.text("step") + "\" is no step: say 1/16"};
    return static_cast<int>(*step);
}

const Command kCommands[] = {
    {"note.add", "Draw note", "Adds a note.", kAdd, false,
     [](const Call& c) {
         Note n;
         n.start = c.place("at");
         n.pitch = c.pitch("pitch");
         n.length = c.has("length") ? c.length("length") : kTicksPerQuarter / 4;
         n.velocity = c.has("velocity") ? c.whole("velocity", 1, 127) : n.velocity;
         if (n.length < 1) throw Refused{"a note has to have a length"};
         return add_note(c.remake, c.part().id, n, c.reach());
     }},
    {"note.write", "Write notes", "Adds notes counted from a place: what was copied, played or read.", kWrite, false, write},
    {"note.remove", "Delete notes", "Takes notes away.", kSome, false,
     [](const Call& c) { return remove_notes(c.remake, c.part().id, c.notes(c.part()), c.reach()); }},
    {"note.change", "Change notes", "Moves, transposes, lengthens notes and plays them harder or softer.", kChange, false,
     [](const Call& c) {
         NoteChange by;
         const auto notes = c.notes(c.part());
         if (c.has("move")) by.move = c.length("move");
         if (c.has("ms")) by.move += ticks_of_ms(c, notes, c.number("ms", -10000.0, 10000.0));
         if (c.has("semitones")) by.semitones = c.whole("semitones", -127, 127);
         if (c.has("lengthen")) by.lengthen = c.length("lengthen");
         if (c.has("times")) by.times = c.number("times", 0.01, 100.0);
         if (c.has("velocity")) by.velocity = c.whole("velocity", -126, 126);
         return change_notes(c.remake, c.part().id, notes, by, c.reach());
     }},
    {"note.quantise", "Quantise notes", "Moves notes onto a grid or a groove; flams keep together.", kQuantise, false,
     [](const Call& c) {
         Quantising how;
         how.grid = c.grid();
         if (c.has("strength")) how.strength = c.number("strength", 0.0, 1.0);
         how.window = length_or(c, "window", 0);
         if (c.has("dynamics")) how.dynamics = c.number("dynamics", 0.0, 1.0);
         return quantise_notes(c.remake, c.part().id, c.notes(c.part()), how, c.reach());
     }},
    {"note.lock", "Lock notes", "Moves notes onto those of another part: a bass onto the kick.", kLock, false,
     [](const Call& c) {
         std::vector<Ticks> places;
         for (const PlacedNote& n : struck_notes(c.part("to")))
             if (!n.muted && (!c.has("sound") || n.note.pitch == c.pitch("sound"))) places.push_back(n.note.start);
         if (places.empty()) throw Refused{"the part \"" + c.part("to").name + "\" plays nothing to lock to"};
         return lock_notes(c.remake, c.part().id, c.notes(c.part()), std::move(places), length_or(c, "window", kTicksPerQuarter / 4),
                           c.has("strength") ? c.number("strength", 0.0, 1.0) : 1.0, c.reach());
     }},
    {"note.humanise", "Humanise notes", "Moves notes and changes their velocities by chance, the same for the same seed.", kHumanise, false,
     [](const Call& c) {
         return humanise_notes(c.remake, c.part().id, c.notes(c.part()), length_or(c, "range", kTicksPerQuarter / 64),
                               c.has("velocity") ? c.whole("velocity", 0, 60) : 8,
                               c.has("seed") ? static_cast<std::uint32_t>(c.whole("seed", 0, 1'000'000)) : 1U, c.reach());
     }},
    {"note.split", "Split notes", "Cuts notes at a place.", kAt, false,
     [](const Call& c) { return split_notes(c.remake, c.part().id, c.notes(c.part()), c.place("at"), c.reach()); }},
    {"note.join", "Join notes", "Makes one note of those of each pitch.", kSome, false,
     [](const Call& c) { return join_notes(c.remake, c.part().id, c.notes(c.part()), c.reach()); }},
    {"note.space", "Space notes", "Lets notes end before the next begin: all the way for legato, a share of it for detached, a gap for breath.", kSpace, false,
     [](const Call& c) {
         return space_notes(c.remake, c.part().id, c.notes(c.part()), c.has("share") ? c.number("share", 0.05, 1.0) : 1.0, length_or(c, "gap", 0), c.reach());
     }},
    {"note.cut-overlaps", "Cut overlaps", "Ends notes where the next of the part begins.", kSome, false,
     [](const Call& c) { return cut_overlaps(c.remake, c.part().id, c.notes(c.part()), c.reach()); }},
    {"note.step", "Move along the scale", "Moves notes by steps of the key's scale.", kSteps, false,
     [](const Call& c) { return step_notes(c.remake, c.part().id, c.notes(c.part()), c.whole("steps", -60, 60), c.reach()); }},
    {"note.double", "Double notes", "Adds notes once more, an octave or another interval away.", kDouble, false,
     [](const Call& c) { return double_notes(c.remake, c.part().id, c.notes(c.part()), c.whole("semitones", -60, 60), c.reach()); }},
    {"note.rate", "Play at another rate", "Plays notes in another time, twice as fast or half as fast, from where the first of them begins.", kRate, false,
     [](const Call& c) { return rate_notes(c.remake, c.part().id, c.notes(c.part()), c.number("times", 0.125, 8.0), c.reach()); }},
    {"note.ramp", "Set velocities", "Sets velocities, or lets them go from one to another.", kRamp, false,
     [](const Call& c) {
         const int first = c.whole("first", 1, 127);
         return ramp_notes(c.remake, c.part().id, c.notes(c.part()), first, c.has("last") ? c.whole("last", 1, 127) : first, c.reach());
     }},
    {"note.grace", "Add grace notes", "A short, soft note before each.", kGrace, false,
     [](const Call& c) {
         return grace_notes(c.remake, c.part().id, c.notes(c.part()), c.whole("semitones", -24, 24), length_or(c, "length", kTicksPerQuarter / 8, 1),
                            c.reach());
     }},
    {"note.copy", "Copy notes", "Adds notes once more at another place, over and over or in another part.", kCopy, false, copy},
    {"note.send", "Send notes to another part", "Lets another part play notes, in the place of this one or besides: a line split over two sounds.", kSendTo,
     false,
     [](const Call& c) {
         const auto notes = c.notes(c.part());
         const Part& into = c.part("into");
         if (into.id == c.part().id) throw Refused{"they are in that part already"};
         if ((into.role == PartRole::Drums) != (c.part().role == PartRole::Drums)) throw Refused{"notes of drums mean nothing elsewhere, nor others on drums"};
         return send_notes(c.remake, c.part().id, notes, into.id, c.has("keep") && c.on("keep"), c.reach());
     }},
    {"note.glide", "Glide", "Lets each note glide into the next.", kGlide, false,
     [](const Call& c) {
         return glide_notes(c.remake, c.part().id, c.notes(c.part()), length_or(c, "time", kTicksPerQuarter / 4, 1), shape_of(c), c.reach());
     }},
    {"note.vibrato", "Vibrato", "A wave of the pitch.", kVibrato, false,
     [](const Call& c) {
         return vibrato_notes(c.remake, c.part().id, c.notes(c.part()), c.has("depth") ? c.number("depth", 0.0, 200.0) : 25.0,
                              c.has("rate") ? c.number("rate", 0.5, 12.0) : 5.5, length_or(c, "delay", kTicksPerQuarter / 4), c.reach());
     }},
    {"note.bend", "Bend notes", "Gives notes a curve of their pitch.", kBend, false, bend},
    {"note.straighten", "Straighten pitch", "Takes the bends off notes.", kSome, false,
     [](const Call& c) { return straighten_notes(c.remake, c.part().id, c.notes(c.part()), c.reach()); }},
    {"note.roll", "Roll", "Strikes a note several times: a flam, a roll, a build-up.", kRoll, false, roll},
    {"note.mute", "Mute notes", "Mutes notes or lets them sound.", kSwitched, false,
     [](const Call& c) { return mute_notes(c.remake, c.part().id, c.notes(c.part()), c.on("on"), c.reach()); }},
    {"note.accept", "Accept notes", "Says that notes are right, or takes that back.", kSwitched, false,
     [](const Call& c) { return accept_notes(c.remake, c.part().id, c.notes(c.part()), c.on("on"), c.reach()); }},
    {"groove.add", "Add groove", "Adds a groove, or puts one of the same name aside.", kGroove, false,
     [](const Call& c) {
         const auto steps = parse_groove_steps(c.text("steps"));
         if (!steps) throw Refused{"\"" + c.text("steps") + "\" are no steps: say \"+12/96 0 -5/80\""};
         Groove g;
         g.name = c.text("name");
         g.step = groove_step(c, "1/16");
         g.steps = *steps;
         return with_groove(c.remake, std::move(g));
     }},
    {"groove.take", "Take groove", "Takes the feel of notes of a part: how far off the grid and how hard each step is played.", kTake, false,
     [](const Call& c) {
         std::vector<Struck> strokes;
         for (const PlacedNote& n : notes_meant(c.part(), c.notes(c.part()))) strokes.push_back({n.note.start, n.note.velocity});
         return with_groove(c.remake,
                            take_groove(c.text("name"), strokes, c.remake.song->meter, groove_step(c, "1/16"), c.has("bars") ? c.whole("bars", 1, 16) : 1));
     }},
    {"groove.remove", "Remove groove", "Gives up a groove.", kGrooveName, false,
     [](const Call& c) {
         if (!find_groove(*c.remake.song, c.text("name"))) throw Refused{"there is no groove \"" + c.text("name") + "\""};
         Remake next = c.remake;
         std::erase_if(next.song.edit().grooves, [&](const Groove& g) { return same_words(g.name, c.text("name")); });
         return next;
     }},
};

}  // namespace

std::span<const Command> note_commands() { return kCommands; }

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "model/limits.hpp"

#include <charconv>
#include <cmath>

namespace fw {

namespace {

constexpr Argument kAt[] = {{"at", "a place: 5, 5.3, verse 2 or 12.5s"}};
constexpr Argument kFactor[] = {{"factor", "the new tempo over the old: 2, 0.5, 1.5"}};
constexpr Argument kLater[] = {{"by", "how much later in the recording: 1/8, -1/8"}};
constexpr Argument kReading[] = {{"factor", "the new tempo over the old: 2, 0.5, 1.5"},
                                 {"later", "how much later beats are counted then: 1/8, -1/4", false},
                                 {"meter", "as 4/4 or 12/8", false}};
constexpr Argument kBeats[] = {{"beats", "how many before the first full bar"}};
constexpr Argument kBpm[] = {{"bpm", "quarters a minute, as 97.3"}};
constexpr Argument kPinned[] = {{"at", "a beat: 5 or 5.3"}, {"time", "where it lies, in seconds"}, {"reach", "near or all: what follows it", false}};
constexpr Argument kStretch[] = {{"from", "a place"}, {"to", "a place"}};
constexpr Argument kTimes[] = {{"from", "a beat: where the first lies"}, {"times", "seconds of one beat after the other, with spaces between"}};
constexpr Argument kMap[] = {{"beats", "ticks and seconds in turn, with spaces between"}, {"meters", "bar and meter in turn: 1 4/4 9 3/4", false}};
constexpr Argument kCount[] = {{"from", "a bar"}, {"to", "the bar behind the last one"}, {"bars", "how many they are in truth"}};
constexpr Argument kMeter[] = {{"meter", "as 4/4, 3/4 or 6/8"},
                               {"from", "a bar: the meter holds from there to the next change; all bars where it is not said", false}};
constexpr Argument kFree[] = {{"from", "a place"}, {"length", "2 bars, 3 beats, 1/4"}};

MeterMap::Change meter_of(const std::string& text) {
    MeterMap::Change c{1, 0, 0};
    const auto slash = text.find('/');
    if (slash != std::string::npos) {
        std::from_chars(text.data(), text.data() + slash, c.numerator);
        std::from_chars(text.data() + slash + 1, text.data() + text.size(), c.denominator);
    }
    const MeterMap::Change taken = MeterMap({c}).changes().front();
    if (taken.numerator != c.numerator || taken.denominator != c.denominator) throw Refused{"\"" + text + "\" is no meter"};
    return c;
}

std::vector<double> numbers_of(const std::string& text) {
    std::vector<double> numbers;
    for (const auto& entry : entries_of(text))
        for (const std::string& word : entry) {
            double n = 0.0;
            const auto [end, bad] = std::from_chars(word.data(), word.data() + word.size(), n);
            if (bad != std::errc{} || end != word.data() + word.size() || !std::isfinite(n)) throw Refused{"\"" + word + "\" is no number"};
            numbers.push_back(n);
        }
    return numbers;
}

/// What an edit made of the document, unless it could not do it.
Remake done(const Call& c, Remake next, const char* otherwise) {
    if (next == c.remake) throw Refused{otherwise};
    return next;
}

BeatReach reach_of(const Call& c) {
    const std::string text = c.text("reach", "near");
    if (text != "near" && text != "all") throw Refused{"\"" + text + "\" says nothing of what follows: say near or all"};
    return text == "all" ? BeatReach::All : BeatReach::Near;
}

Remake with_map(const Call& c) {
    const auto beats = numbers_of(c.text("beats"));
    std::vector<TempoMap::Anchor> anchors;
    for (std::size_t i = 0; i + 1 < beats.size(); i += 2) {
        if (std::abs(beats[i]) > static_cast<double>(limits::kFarthestTick)) throw Refused{"a beat lies farther away than any song is long"};
        if (!anchors.empty() && (beats[i] <= static_cast<double>(anchors.back().tick) || beats[i + 1] <= anchors.back().time_s))
            throw Refused{"its beats do not stand in order of time"};
        anchors.push_back({static_cast<Ticks>(std::llround(beats[i])), beats[i + 1]});
    }
    if (anchors.size() < 2 || beats.size() % 2) throw Refused{"a map needs two beats at least, ticks and seconds in turn"};
    MeterMap meter = c.remake.song->meter;
    if (c.has("meters")) {
        std::vector<MeterMap::Change> changes;
        for (const auto& entry : entries_of(c.text("meters")))
            for (std::size_t i = 0; i + 1 < entry.size(); i += 2) {
                MeterMap::Change change = meter_of(entry[i + 1]);
                const auto [end, bad] = std::from_chars(entry[i].data(), entry[i].data() + entry[i].size(), change.bar);
                if (bad != std::errc{} || change.bar < 1 || change.bar > limits::kBars) throw Refused{"\"" + entry[i] + "\" is no bar"};
                changes.push_back(change);
            }
        meter = MeterMap(std::move(changes));
    }
    return take_beat_map(c.remake, TempoMap(std::move(anchors)), meter);
}

const Command kCommands[] = {
    {"tempo.reread", "Read at another tempo", "Counts the same music at another tempo; nothing moves in recording time.", kFactor, false,
     [](const Call& c) { return reread_tempo(c.remake, c.number("factor", 0.1, 10.0)); }},
    {"tempo.downbeat", "Set downbeat", "Makes the beat nearest to a place the first of a bar.", kAt, false,
     [](const Call& c) { return set_downbeat(c.remake, c.remake.song->tempo.seconds(c.place("at"))); }},
    {"tempo.read", "Take reading", "Counts the same music at another tempo, from other beats and in another meter at once; no note moves in time.", kReading,
     false,
     [](const Call& c) {
         const MeterMap::Change meter = c.has("meter") ? meter_of(c.text("meter")) : MeterMap::Change{1, 0, 0};
         return take_reading(c.remake, c.number("factor", 0.1, 10.0), c.has("later") ? c.length("later") : 0, meter.numerator, meter.denominator);
     }},
    {"tempo.shift", "Shift beats", "Counts every beat so much later in the recording; no note moves in time.", kLater, false,
     [](const Call& c) { return shift_beats(c.remake, c.length("by")); }},
    {"tempo.upbeat", "Set upbeat", "Says how many beats come before the first full bar.", kBeats, false,
     [](const Call& c) { return set_upbeat(c.remake, c.whole("beats", 0, c.remake.song->meter.changes().front().beats() - 1)); }},
    {"tempo.set", "Set tempo", "One tempo throughout, from the first beat or the first pinned one; no note moves in time.", kBpm, false,
     [](const Call& c) { return set_tempo(c.remake, c.number("bpm", limits::kSlowestBpm, limits::kFastestBpm)); }},
    {"tempo.pin", "Move beat", "Puts a beat where it lies in the recording; its neighbours follow up to the next pinned beat.", kPinned, false,
     [](const Call& c) {
         return done(c,
                     pin_beat(c.remake, c.place("at"), c.number("time", -limits::kOutside_s, c.remake.reference.duration_s + limits::kOutside_s), reach_of(c)),
                     "the beat would pass a neighbour that holds: let go of that one's pin first, or move it less");
     }},
    {"tempo.unpin", "Let go of beat", "Takes a beat's pin away; the beat stays where it is.", kAt, false,
     [](const Call& c) { return done(c, unpin_beat(c.remake, c.place("at")), "no beat is pinned there"); }},
    {"tempo.beats", "Place beats", "Puts beats at these times, one after the other; what is behind goes on from the last one.", kTimes, false,
     [](const Call& c) {
         return done(c, place_beats(c.remake, c.place("from"), numbers_of(c.text("times"))),
                     "two times at least have to be said, each later than the one before");
     }},
    {"tempo.steady", "Make tempo steady", "Counts a stretch at one tempo from end to end; no note moves in time.", kStretch, false,
     [](const Call& c) {
         if (c.place("to") <= c.place("from")) throw Refused{"its end does not come after its beginning"};
         return make_steady(c.remake, c.place("from"), c.place("to"));
     }},
    {"tempo.map", "Take beat map", "Takes another map of beats and meters altogether; no note moves in time.", kMap, false, with_map},
    {"bars.count", "Count bars anew", "Counts a stretch as more bars or fewer; what follows keeps its time.", kCount, false,
     [](const Call& c) {
         const MeterMap& meter = c.remake.song->meter;
         const int from = meter.position(c.place("from")).bar, to = meter.position(c.place("to")).bar;
         if (to <= from) throw Refused{"its end does not come after its beginning"};
         return count_bars(c.remake, from, to, c.whole("bars", 1, limits::kBars));
     }},
    {"meter.set", "Set meter", "Counts all bars in one meter, or those from a bar on.", kMeter, false,
     [](const Call& c) {
         const MeterMap::Change meter = meter_of(c.text("meter"));
         if (!c.has("from")) return set_meter(c.remake, meter.numerator, meter.denominator);
         return change_meter(c.remake, c.remake.song->meter.position(c.place("from")).bar, meter.numerator, meter.denominator);
     }},
    {"free.mark", "Mark free time", "Says that a stretch has no pulse: clicks are silent there.", kFree, false,
     [](const Call& c) { return mark_free_time(c.remake, c.place("from"), c.length("length")); }},
    {"free.clear", "Clear free time", "Says that there is a pulse after all.", kAt, false,
     [](const Call& c) { return done(c, clear_free_time(c.remake, c.place("at")), "there is no free time"); }},
};

}  // namespace

std::span<const Command> time_commands() { return kCommands; }

}  // namespace fw

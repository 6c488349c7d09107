// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "base/files.hpp"
#include "model/describe.hpp"

namespace fw {

namespace {

constexpr Argument kRemark[] = {{"kind", "question, intended, faint, clearest, seen or dismissed"},
                                {"element", "its name, or tempo, key, sections, chords"},
                                {"at", "a place: 5, 5.3, verse 2 or 12.5s"},
                                {"length", "how long the place is: 1/4, 2 bars", false},
                                {"words", "what there is to say", false}};
constexpr Argument kNoRemark[] = {{"kind", "question, intended, faint, clearest, seen or dismissed"}, {"element", "which"}, {"at", "where it begins"}};
constexpr Argument kElement[] = {{"element", "its name, or tempo, key, sections, chords"},
                                 {"state", "open, draft, confirmed or left out", false},
                                 {"question", "an open question; empty takes it away", false},
                                 {"intended", "a difference that is meant; empty takes it away", false},
                                 {"reason", "why it is close enough or left out; empty takes it away", false},
                                 {"budget", "how many minutes it may take; 0: no end", false}};
constexpr Argument kRow[] = {{"name", "what the row is called"}};

constexpr Argument kSpot[] = {
    {"name", "what it is called"}, {"at", "a place"}, {"length", "how long the loop is: 1/4, 2 bars", false}, {"lens", "through which it is heard", false}};
constexpr Argument kName[] = {{"name", "which"}};
constexpr Argument kPicture[] = {{"file", "the picture's file"}, {"words", "what it shows", false}};
constexpr Argument kPictureWords[] = {{"picture", "its place in the list, from 1"}, {"words", "what it shows; empty takes the words away"}};
constexpr Argument kWhichPicture[] = {{"picture", "its place in the list, from 1"}};
constexpr Argument kWords[] = {{"words", "what was found out; empty takes it away"}};

RemarkKind remark_kind(const Call& c) {
    for (std::size_t i = 0; i < names::kRemarks.size(); ++i)
        if (c.text("kind") == names::kRemarks[i]) return static_cast<RemarkKind>(i);
    throw Refused{"\"" + c.text("kind") + "\" is no kind of remark: say " + either(names::kRemarks, [](const char* n) { return n; })};
}

/// The place in the list, from 0, of the picture that is meant.
std::size_t which_picture(const Call& c) {
    const auto count = static_cast<int>(c.remake.notebook->pictures.size());
    if (count == 0) throw Refused{"there is no picture"};
    return static_cast<std::size_t>(c.whole("picture", 1, count) - 1);
}

const Command kCommands[] = {
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
         if (c.has("reason")) now.reason = c.text("reason");
         if (c.has("budget")) now.budget_min = c.number("budget", 0.0, 10000.0);
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
    {"spot.add", "Remember place", "Remembers a place, a loop and a lens under a name.", kSpot, false,
     [](const Call& c) {
         if (c.text("name").empty()) throw Refused{"a place to come back to has to have a name"};
         return add_spot(c.remake, {c.text("name"), c.place("at"), c.has("length") ? c.length("length") : kTicksPerQuarter, c.text("lens", ""), {}});
     }},
    {"spot.remove", "Forget place", "Forgets a remembered place.", kName, false,
     [](const Call& c) {
         Remake next = remove_spot(c.remake, c.text("name"));
         if (next.notebook->spots.size() == c.remake.notebook->spots.size()) throw Refused{"no place is called so"};
         return next;
     }},
    {"research.set", "Note on the record", "Writes down what was found out about the record.", kWords, false,
     [](const Call& c) { return set_research(c.remake, c.text("words")); }},
    {"picture.add", "Picture of the record", "Keeps a picture of how the record was made.", kPicture, false,
     [](const Call& c) {
         constexpr std::uint64_t kMostBytes = 32ULL << 20;
         const auto file = read_file(c.text("file"), kMostBytes);
         if (!file) throw Refused{"there is no file " + c.text("file") + " that can be read, of at most 32 MB"};
         return add_picture(c.remake, {c.text("words", ""), c.text("file"), std::string(file->begin(), file->end()), {}});
     }},
    {"picture.describe", "Words of a picture", "Says what a picture of the record shows.", kPictureWords, false,
     [](const Call& c) {
         Remake next = c.remake;
         next.notebook.edit().pictures[which_picture(c)].words = c.text("words");
         return next;
     }},
    {"picture.remove", "Remove picture", "Takes a picture of the record away.", kWhichPicture, false,
     [](const Call& c) { return remove_picture(c.remake, which_picture(c)); }},
};

}  // namespace

std::span<const Command> notebook_commands() { return kCommands; }

}  // namespace fw

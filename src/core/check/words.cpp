// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/words.hpp"

#include "base/pitch.hpp"
#include "model/drums.hpp"

#include <cctype>
#include <cmath>
#include <cstdio>

namespace fw {

namespace {

bool drums(const Finding& f) { return f.role == PartRole::Drums; }

std::string hit_name(int key) {
    const DrumSound* sound = drum_sound_of_key(key);
    return sound ? sound->name : "a hit";
}

/// A note, or a hit of drums.
std::string sound_name(const Finding& f, int pitch) { return drums(f) ? hit_name(pitch) : note_name(pitch, f.flats); }

/// "an octave too high".
std::string interval(double semitones) {
    const long by = std::lround(std::abs(semitones));
    const std::string size = by % 12 == 0 ? (by == 12 ? "an octave" : std::to_string(by / 12) + " octaves")
                             : by == 1    ? "a semitone"
                                          : std::to_string(by) + " semitones";
    return size + (semitones > 0 ? " too high" : " too low");
}

std::string whole(double value) { return std::to_string(std::lround(std::abs(value))); }

/// "2.5 times", "40 %".
std::string times_words(double times) {
    char text[32];
    if (times >= 1.0) std::snprintf(text, sizeof text, "%.1f times", times);
    else std::snprintf(text, sizeof text, "%.0f %%", 100.0 * times);
    return text;
}

template <class... Rules>
struct Each : Rules... {
    using Rules::operator()...;
};
template <class... Rules>
Each(Rules...) -> Each<Rules...>;

}  // namespace

std::string finding_message(const Finding& f) {
    switch (f.kind) {
        case FindingKind::MissingNote: return "the original has " + sound_name(f, f.expected_pitch) + ", " + f.name + " has no such note.";
        case FindingKind::MissingHit: return "the original has " + sound_name(f, f.expected_pitch) + ", " + f.name + " has no such hit.";
        case FindingKind::ExtraNote: return f.name + " plays " + sound_name(f, f.pitch) + ", which is not heard in the original.";
        case FindingKind::ExtraHit: return sound_name(f, f.pitch) + " is hit, which is not heard in the original.";
        case FindingKind::WrongPitch: return f.name + " plays " + sound_name(f, f.pitch) + ", the original " + sound_name(f, f.expected_pitch) + ".";
        case FindingKind::Early:
        case FindingKind::Late: {
            const std::string when = whole(f.size) + " ms " + (f.kind == FindingKind::Early ? "early." : "late.");
            return drums(f) ? hit_name(f.pitch) + " falls " + when : f.name + " plays " + sound_name(f, f.pitch) + " " + when;
        }
        case FindingKind::WrongChord: return "the rebuild says " + f.chord.name(f.flats) + ", the original sounds like " + f.expected_chord.name(f.flats) + ".";
        case FindingKind::MissingElement:
            if (f.expected_pitch >= 0) return "The original has " + whole(f.size) + " hits of " + hit_name(f.expected_pitch) + ", " + f.name + " has none.";
            return "The original has " + std::string(drums(f) ? "drums" : "a " + f.name) + ", the rebuild has no such part.";
        case FindingKind::Transposed: return f.name + " is written " + interval(f.size) + ".";
        case FindingKind::Shifted: return f.name + " is written " + whole(f.size) + " ms " + (f.size > 0 ? "late" : "early") + " throughout.";
        case FindingKind::Level:
            if (f.element)
                return f.name + " is some " + whole(f.size) + " dB " + (f.size > 0 ? "louder" : "softer") + " than in the original, as far as the mix tells.";
            return "The rebuild is " + whole(f.size) + " dB " + (f.size > 0 ? "louder" : "softer") + " than the original" +
                   (f.place.empty() ? "." : ", at matched loudness of the whole.");
        case FindingKind::Width:
            return "In the " + f.band + " the rebuild is " + whole(f.size) + " dB " + (f.size > 0 ? "wider" : "narrower") + " than the original.";
        case FindingKind::Envelope:
            return "After strokes the rebuild dies away " + whole(f.size) + " dB " + (f.size > 0 ? "less" : "more") + " than the original.";
        case FindingKind::Noise:
            return "What never stops is " + whole(f.size) + " dB " + (f.size > 0 ? "louder" : "softer") + " in the rebuild, at matched loudness.";
        case FindingKind::Peak: {
            char db[48];
            std::snprintf(db, sizeof db, "%+.1f", f.size);
            return "The rebuild peaks at " + std::string(db) + " dB true peak, above full scale.";
        }
        case FindingKind::Balance:
            return f.name + " is farther to the " + (f.size > 0 ? "right" : "left") + " than in the original, by " + whole(f.size) +
                   " % of the way, as far as the mix tells.";
        case FindingKind::TooShort:
        case FindingKind::TooLong: return "The notes of " + f.name + " are heard some " + times_words(f.size) + " as long as they are written.";
        case FindingKind::Silent: return f.name + " is muted or silent: nothing of it is heard.";
        case FindingKind::Tone: break;
    }
    char hz[40];
    std::snprintf(hz, sizeof hz, "%.0f Hz", f.center_hz);
    if (f.element)
        return f.name + " is some " + whole(f.size) + " dB " + (f.size > 0 ? "louder" : "softer") + " around " + hz +
               " than in the original, at its own level.";
    return std::string("Around ") + hz + " the rebuild is " + whole(f.size) + " dB " + (f.size > 0 ? "louder" : "softer") +
           " than the original, at matched loudness.";
}

std::string finding_sentence(const Finding& f) {
    std::string text = f.place.empty() ? finding_message(f) : f.place + ": " + finding_message(f);
    text[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text[0])));
    return text;
}

std::string remedy_words(const Finding& f) {
    const std::string what = drums(f) ? "hit" : "note";
    return std::visit(Each{[&](const remedy::SetPitch& r) { return "set the pitch to " + note_name(r.pitch, f.flats); },
                           [&](const remedy::MoveNote& r) { return "move the " + what + (r.by > 0 ? " later" : " earlier"); },
                           [&](const remedy::DeleteNote&) { return "delete the " + what + ", or mark the difference as intended"; },
                           [&](const remedy::AddNote& r) { return drums(f) ? std::string("add the hit") : "add " + note_name(r.note.pitch, f.flats); },
                           [&](const remedy::SetChord& r) { return "set the chord to " + r.chord.name(f.flats); },
                           [&](const remedy::AddPart&) { return std::string(f.expected_pitch >= 0 ? "write its hits" : "add the part"); },
                           [](const remedy::LowerBand&) { return std::string("lower the parts that fill this band"); },
                           [](const remedy::TransposePart& r) {
                               return "transpose the part " + std::to_string(std::abs(r.semitones)) + " semitone" + (std::abs(r.semitones) == 1 ? "" : "s") +
                                      (r.semitones > 0 ? " up" : " down");
                           },
                           [](const remedy::ShiftPart& r) { return std::string("move the part ") + (r.by > 0 ? "later" : "earlier"); },
                           [](const remedy::LengthenPart& r) { return "make its notes " + times_words(r.times) + " as long"; },
                           [&](const remedy::ChangeLevel& r) {
                               return std::string("bring the ") + (f.element ? "part " : "master ") + whole(r.db) + " dB " + (r.db > 0 ? "up" : "down");
                           },
                           [](const remedy::Unmute&) { return std::string("unmute the part"); }, [](const remedy::ByEar& r) { return r.what; },
                           [](const remedy::RaiseBand&) { return std::string("raise or add a part in this band"); }},
                      f.remedy);
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "check/sound_summary.hpp"
#include "model/remake.hpp"

#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace fw {

enum class FindingKind {
    MissingNote,
    ExtraNote,
    WrongPitch,
    Early,
    Late,
    MissingHit,
    ExtraHit,
    WrongChord,
    MissingElement,
    Tone,
    Transposed,  ///< a whole part
    Shifted,     ///< a whole part, in time
    Level,
    Width,
    Envelope,  ///< how sound dies away after strokes
    Noise,     ///< the bed of what never stops
    Peak,
    Balance,   ///< how far to one side a part is
    Silent,    ///< a part that is written and not heard
    TooShort,  ///< the notes of a whole part
    TooLong
};
const char* finding_kind_name(FindingKind kind);   ///< as in the JSON: "missing_note"
const char* finding_cause_name(FindingKind kind);  ///< what lies behind it: "pitch", "time", "missing", "extra", "part", "chord", "sound"

/// What would mend a finding; each can be applied (remedy.hpp) but those of sound, which are for the ear.
namespace remedy {
struct SetPitch {
    NoteRef note;
    int pitch = 0;
};
struct MoveNote {
    NoteRef note;
    Ticks by = 0;  ///< later
};
struct DeleteNote {
    NoteRef note;
};
struct AddNote {
    Note note;  ///< in song time
};
struct SetChord {
    Ticks at = 0;
    Chord chord;
};
struct AddPart {
    PartRole role = PartRole::Other;
};
struct LowerBand {};
struct RaiseBand {};
struct TransposePart {
    int semitones = 0;  ///< up
};
struct ShiftPart {
    Ticks by = 0;  ///< later
};
struct LengthenPart {
    double times = 1.0;  ///< as long as they are
};
struct ChangeLevel {
    double db = 0.0;
};
struct Unmute {};
struct ByEar {
    std::string what;  ///< "narrow what plays there"
};
}  // namespace remedy
using Remedy =
    std::variant<remedy::RaiseBand, remedy::LowerBand, remedy::AddPart, remedy::SetPitch, remedy::MoveNote, remedy::DeleteNote, remedy::AddNote,
                 remedy::SetChord, remedy::TransposePart, remedy::ShiftPart, remedy::LengthenPart, remedy::ChangeLevel, remedy::Unmute, remedy::ByEar>;

/// One difference between the rebuild and what the evidence says, as values; words.hpp says it.
struct Finding {
    FindingKind kind = FindingKind::MissingNote;
    std::optional<ElementId> element;  ///< none: the whole mix, or a part that is not there
    std::string name;                  ///< of the element
    PartRole role = PartRole::Other;   ///< of the part concerned
    bool flats = false;                ///< how notes are spelled there
    double start_s = 0.0, end_s = 0.0;
    int bar = 0;
    double beat = 0.0;                    ///< from 1, to a thousandth, always less than the bar's beats plus one
    std::string place;                    ///< "bar 3 beat 2½"; empty for the whole song
    int pitch = -1, expected_pitch = -1;  ///< -1 where it does not apply
    Chord chord, expected_chord;
    double center_hz = 0.0;  ///< of a band of tone or width
    std::string band;        ///< of width: "low", "body", "presence", "air"
    double size = 0.0;
    std::string unit;
    double audible = 0.5;     ///< how much it is heard, 0..1, by the original's level there; findings stand in order of this and of how sure they are
    double confidence = 0.0;  ///< that the difference is real: of those called 0.8, some 80 in 100 are (docs/accuracy.md)
    Remedy remedy;
    /// Sure enough to be worked through; the others are counted as "perhaps".
    bool listed() const { return confidence >= 0.5; }
};

/// What a match says, each 0 (chance) to 1, or nothing where there is nothing to compare.
struct Match {
    std::optional<double> notes;  ///< how much of what is written is heard there, and of what is surely heard is written
    std::optional<double> sound;  ///< how near level, tone and width are
    std::optional<double> known;  ///< how much of it the evidence is clear about
};

struct ElementMatch {
    ElementId id;
    std::string name, kind;                         ///< kind: tempo, key, sections, chords, part
    Match match;                                    ///< notes of parts; of what the analysis itself decided only how sure that is
    std::string measures;                           ///< what the figure says, in words
    std::vector<std::optional<double>> bars;        ///< the notes figure per bar from bar 1
    std::vector<std::optional<double>> sections{};  ///< and per section of the song
    double share = 0.0;                             ///< of the whole's notes figure that it makes up, 0..1
};

struct ToneBand {
    double center_hz = 0.0, original_db = 0.0, rebuild_db = 0.0;
};

struct WidthBand {
    std::string band;
    double original = 0.0, rebuild = 0.0;  ///< side's share of the energy, 0 mono … 0.5 unrelated sides
};

/// How a section sounds against the same stretch of the original.
struct SectionSound {
    std::string name;
    double from_s = 0.0, to_s = 0.0;
    int bar = 1;
    std::optional<double> sound;  ///< as Match::sound; nothing where the original is silent
    double level_db = 0.0;        ///< rebuild against original once the whole is matched
};

/// What a report says of sound.
struct SoundReport {
    std::vector<ToneBand> tone;  ///< third octaves; empty without sound
    std::vector<WidthBand> width;
    std::vector<SectionSound> sections;
    double original_lufs = 0.0, rebuild_lufs = 0.0, match_gain_db = 0.0;
    double original_peak_db = 0.0, rebuild_peak_db = 0.0;    ///< true peak
    double original_noise_db = 0.0, rebuild_noise_db = 0.0;  ///< the bed, the rebuild's at matched loudness
};

/// How likely a written note, or stroke, is right.
struct NoteRight {
    NoteRef note;
    double right = 1.0;  ///< the probability that it is played there, at that pitch
};

struct CheckReport {
    Match match;  ///< of the whole: parts weighed by how much of them is in the original
    std::vector<ElementMatch> elements;
    std::vector<Finding> findings;                      ///< worst first: how sure by how audible
    std::vector<std::optional<double>> bars, sections;  ///< the notes figure of the whole per bar from bar 1, and per section
    SoundReport sound;
    std::map<PartId, std::vector<NoteRight>> notes;  ///< of what can be judged, ascending by note; of a roll its least likely stroke

    /// Nothing where it was not judged.
    std::optional<double> right(PartId part, const NoteRef& note) const;
};

/// Compares a remake with the evidence's own probabilities, not with decisions drawn from it: what is written against what is heard there, and what is surely
/// heard against what is written. A part that is wrong as a whole — in pitch, in time — is one finding. With the summaries of both sounds given, tone, width
/// and loudness too. Tempo, key, sections and chords, which the analysis decided, take no part in the match: they say how sure they are. What is not built
/// has no figure; what is muted is missing. Elements whose difference is marked as intended, and those left out, give no findings and are not counted.
/// Pure, thread-safe; well under a second for a song.
CheckReport check(const Remake& remake, const Analysis& analysis, const SoundSummary* original = nullptr, const SoundSummary* rebuild = nullptr);

/// Whether a finding is about sound and not about what is written.
bool is_of_sound(const Finding& finding);
/// Whether it is about a part, or a drum's sound, all along, and not about a place in it.
bool is_of_whole_part(const Finding& finding);
/// How much a finding is heard, 0..1: what concerns a whole part or the whole mix all along, a note by what sounds around its pitch. original may be null.
double audible(const Finding& finding, const SoundSummary* original);
/// Worst first, as a report has them.
void put_in_order(std::vector<Finding>& findings);

/// Which difference of sound a finding is, whatever its size: "tone 794 Hz", "width air", "loudness of Bass".
std::string sound_title(const Finding& finding);
/// Whether the user said that this difference of sound is meant: of its part, which may be left out, too; or by an intended remark on the sections, at its
/// place, that begins with its title, as "tone 794 Hz: …".
bool sound_is_meant(const Remake& remake, const Finding& finding);

/// Takes over what an earlier report said of sound, for the time until it is compared anew; but for what is meant by now.
void keep_sound(const Remake& remake, const CheckReport& from, CheckReport& report);

}  // namespace fw

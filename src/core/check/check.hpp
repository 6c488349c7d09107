// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "check/sound_summary.hpp"
#include "model/remake.hpp"

#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace fw {

enum class FindingKind { MissingNote, ExtraNote, WrongPitch, Early, Late, MissingHit, ExtraHit, WrongChord, MissingElement, Tone };
const char* finding_kind_name(FindingKind kind);  ///< as in the JSON: "missing_note"

/// What would mend a finding; each can be applied (remedy.hpp) but the last three, which are for the ear.
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
}  // namespace remedy
using Remedy = std::variant<remedy::RaiseBand, remedy::LowerBand, remedy::AddPart, remedy::SetPitch, remedy::MoveNote, remedy::DeleteNote, remedy::AddNote,
                            remedy::SetChord>;

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
    double center_hz = 0.0;  ///< of a band of tone
    double size = 0.0;
    std::string unit;
    double confidence = 0.0;  ///< that the difference is real
    Remedy remedy;
};

struct ElementMatch {
    ElementId id;
    std::string name, kind;    ///< kind: tempo, key, sections, chords, part
    double match = 0.0;        ///< 0..1
    std::string measures;      ///< what the figure says, in words
    std::vector<double> bars;  ///< per bar from bar 1; -1 where there is nothing to compare
};

struct ToneBand {
    double center_hz = 0.0, original_db = 0.0, rebuild_db = 0.0;
};

struct WidthBand {
    std::string band;
    double original = 0.0, rebuild = 0.0;  ///< side's share of the energy, 0 mono … 0.5 unrelated sides
};

struct CheckReport {
    double match = 0.0;  ///< mean of the elements' figures
    std::vector<ElementMatch> elements;
    std::vector<Finding> findings;  ///< worst first
    std::vector<ToneBand> tone;     ///< third octaves; empty without sound
    std::vector<WidthBand> width;
    double original_lufs = 0.0, rebuild_lufs = 0.0, match_gain_db = 0.0;
};

/// Compares a remake with the evidence: notes and hits both ways, chords against chroma, beats against pulse. With the summaries of both
/// sounds given, tone, width and loudness too. Pure, thread-safe; well under a second for a song.
/// Elements whose difference is marked as intended give a figure and no findings.
CheckReport check(const Remake& remake, const Analysis& analysis, const SoundSummary* original = nullptr, const SoundSummary* rebuild = nullptr);

}  // namespace fw

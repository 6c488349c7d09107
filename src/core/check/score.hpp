// SPDX-License-Identifier: GPL-3.0-or-later
// What sounds in a rebuild, and everything heard in its recording, laid out for being held against each other.
#pragma once

#include "analysis/analysis.hpp"

#include <utility>
#include <vector>

namespace fw {

/// A note, or a stroke of a drum sound, as a part has it, in seconds of the recording.
struct Written {
    double onset_s = 0.0, end_s = 0.0;
    int pitch = 0;  ///< of a stroke the key by which its sound is told (sound_key)
};

struct WrittenPart {
    bool drums = false;
    std::vector<Written> notes;  ///< in order of time
};

/// The key a drum sound is told by: General MIDI keys of the same sound are one.
int sound_key(int key);

/// How far a written note, or stroke, may lie from the heard one that it stands for, in seconds.
constexpr double reach_s(bool drums) { return drums ? 0.08 : 0.12; }

/// When each key is begun.
class Onsets {
public:
    Onsets() = default;
    explicit Onsets(std::vector<std::pair<int, double>> key_and_time_s);
    /// How often a key begins between two times, both included.
    int count(int key, double from_s, double to_s) const;
    /// How often it begins at all.
    int count(int key) const { return count(key, -1e9, 1e9); }
    int size() const { return static_cast<int>(all_.size()); }

private:
    std::vector<std::pair<int, double>> all_;
};

/// All that sounds in a rebuild. Immutable once made.
class Score {
public:
    /// bars_s: where each bar begins, and where the last one ends.
    Score(std::vector<WrittenPart> parts, std::vector<double> bars_s);
    const std::vector<WrittenPart>& parts() const { return parts_; }
    /// The same with other notes in one part.
    Score with(std::size_t part, std::vector<Written> notes) const;
    const Onsets& of(std::size_t part) const { return by_part_[part]; }
    const Onsets& pitched() const { return pitched_; }  ///< of all parts but drums
    const Onsets& struck() const { return struck_; }    ///< of drums
    /// How many notes (strokes) of any key begin within a time of another.
    int together(bool drums, double at_s, double within_s) const;
    /// How many notes (not strokes) sound at a time.
    int sounding(double at_s) const;
    /// Whether a note of a pitch began a while before a time and is held beyond it.
    bool held(int pitch, double at_s) const;
    /// When a pitch is begun next after a time, by whichever part but drums; infinity where never.
    double begun_next_s(int pitch, double after_s) const;
    /// In what share of the bars 1, 2, 4, 8 and 16 before and after it a key begins at the same place: 0..1.
    double repeated(const Onsets& among, int key, double onset_s) const;

private:
    std::vector<WrittenPart> parts_;
    std::vector<double> bars_s_, pitched_at_, struck_at_, ends_at_;
    std::vector<std::vector<Written>> of_pitch_;  ///< notes of all parts, by pitch and time
    std::vector<Onsets> by_part_;
    Onsets pitched_, struck_;
};

/// Something heard: a note, or a stroke by the key of its sound.
struct Heard {
    double start_s = 0.0, end_s = 0.0;
    int key = 0, velocity = 0;
    double confidence = 0.0;
};

/// All that may have been heard, in order of time, and what it was told from.
struct Hearing {
    explicit Hearing(const Analysis& analysis);
    const Evidence& evidence;
    std::vector<Heard> notes, strokes;
    const std::vector<Heard>& of(bool drums) const { return drums ? strokes : notes; }
};

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
// The decoders that turn evidence into drafts. Each is a pure, thread-safe function in a file of its own, where its method and source are told.
#pragma once

#include "analysis/analysis.hpp"

#include <array>

namespace fw {

/// beats.cpp — beats of the felt pulse, in seconds, ascending. Empty where nothing pulses.
struct BeatOptions {
    double lowest_bpm = 45.0, highest_bpm = 230.0;
    double neutral = 0.05;  ///< evidence above this speaks for a beat, below it against one
    double leaning = 2.5;   ///< cost per beat of lying an octave away from walking pace
};
std::vector<double> track_beats(const Frames& pulse, const Progress& progress = {}, const BeatOptions& options = {});

/// counting.cpp — puts right what only shows over the whole song: breaks counted aside of the beat, stretches counted at half or twice
/// the tempo of the rest. fit_tempo does this first.
void keep_count(std::vector<double>& beats, const Frames& pulse);
/// Beats of one tempo over from_s .. to_s, counted on from a stretch in which the interval is known, which the evidence on the way makes more precise.
std::vector<double> count_on(std::pair<double, double> stretch_s, double interval_s, double from_s, double to_s, const Frames& pulse);
/// Stretches of at least four beats and three seconds in which hardly a beat is borne out, though the song has a pulse elsewhere.
std::vector<std::pair<double, double>> find_free_time(const std::vector<double>& beats, const Frames& pulse);

/// tempo.cpp — fits steady tempos to beats; snaps the beats of steady stretches onto the fit.
TempoEstimate fit_tempo(std::vector<double>& beats, const Frames& pulse);

/// meter.cpp — bars from the downbeat evidence at the beats.
struct Bars {
    std::vector<Beat> beats;
    std::vector<MeterChange> meter;
};
/// clues: per beat, how much speaks for a bar line there, see bar_line_clues; may be empty.
Bars find_bars(const std::vector<double>& beats, const Frames& pulse, const std::vector<double>& clues = {});
/// What speaks for a bar line at each beat besides the network, in nats: a change of chroma from the two beats before to the two
/// after, a new bass note, and a change of what plays.
std::vector<double> bar_line_clues(const Evidence& evidence, const std::vector<double>& beats);

/// swing.cpp — how far the second of each pair of notes lies behind the middle.
Swing measure_swing(const std::vector<Beat>& beats, const std::vector<double>& onsets_s);

/// notes.cpp — notes of all pitches together, and single lines. Thresholds are probabilities, set by training/tune.cpp.
struct NoteOptions {
    float note = 0.50F;   ///< an onset judged so opens a note (note_judge.hpp; docs/accuracy.md tells how it was chosen)
    float carry = 0.28F;  ///< a note ends where it sounds less
};
struct LineOptions {
    float move = 5.0F;           ///< cost of leaving a pitch, in log-odds
    float favour = 2.00F;        ///< leaning towards sound against silence
    float struck = 0.15F;        ///< an onset within a held pitch strikes it anew,
    float struck_share = 0.55F;  ///< if it also reaches this share of what most changes of pitch show
    float least = 0.20F;         ///< notes of less confidence are dropped,
    double shortest_s = 0.08;    ///< and so are shorter ones: a line has no specks, but
    float grace = 0.45F;         ///< a grace note of this confidence stays
    double phrase_share = 0.60;  ///< phrases are dropped whose middle confidence is less than this share of the line's upper quartile
};
std::vector<HeardNote> decode_notes(const Evidence& evidence, const NoteOptions& options = {});
std::vector<HeardNote> decode_line(const Evidence& evidence, PartRole role);
std::vector<HeardNote> decode_line(const Evidence& evidence, PartRole role, const LineOptions& options);
/// velocities.cpp — velocities of the notes of one part, in order of time: 90 for what is usual at a pitch, in stretches of four minutes and
/// of at least eight notes. What differs from it is partly other parts, so a third of the difference is kept. Pure, thread-safe.
void tell_velocities(const Evidence& evidence, std::vector<HeardNote>& part);
/// Deals the notes out to parts: bass, lead, chords and other.
std::vector<HeardPart> deal_parts(const Evidence& evidence, std::vector<HeardNote>& notes);

/// bends.cpp — gives the notes of a single line their bend curves, from the recording itself: glides, scoops and vibrato of 35 cents and
/// more in notes of 0.17 s and more, up to three semitones about the note. Throws Cancelled.
void hear_bends(const MonoSignal& signal, double tuning_cents, std::vector<HeardNote>& line, const Progress& progress = {});

/// The way the pitch of one note goes that somebody asks about: as above, and told also where it stays beside the note, 8 cents and more, as one point; no
/// point where it is straight and in tune. Nothing where it is not heard clearly there, is another note, or lasts less than 0.17 s.
std::optional<std::vector<HeardBend>> hear_pitch(const MonoSignal& signal, double tuning_cents, const HeardNote& note);

/// feel.cpp — timing and strength of each drum at each step of the bar; places with fewer than three strokes are left out.
Feel measure_feel(const std::vector<Beat>& beats, const std::vector<MeterChange>& meter, const std::vector<Hit>& hits);

/// drum_sounds.cpp — a song's own sound of a drum, learnt from its clear strokes, and how far each stroke can be that sound.
struct Stroke {
    std::size_t frame;  ///< of Evidence::pulse and Evidence::spectra
    float evidence;     ///< 0..1
};
struct DrumLikeness {
    float weight = 0.0F;   ///< log-odds for each unit of likeness; 0 where strokes are not compared
    float power = 1.0F;    ///< a band counts by its share of the sound's power, to this exponent
    float lacking = 0.2F;  ///< share of the sound that need not be heard
    float softer = 0.0F;   ///< a stroke softer than the usual clear one by so much (natural logarithm of the power) is as likely as before
};
/// How much louder or softer than in the usual clear stroke the sound can be in each stroke, as natural logarithm of the power, -4..2.
/// Clear are strokes near `clearest`, the evidence that the clearest tenth reaches; stretches of four minutes are learnt on their own, and
/// one with fewer than five clear strokes gets -how.softer, which leaves strokes as likely as they were. Empty where nothing could be learnt.
/// Strokes in order of time. Pure, thread-safe.
std::vector<float> likeness(const ByteGrid& spectra, const std::vector<Stroke>& strokes, float clearest, const DrumLikeness& how);

/// How loud each stroke of one drum is against the middle one of its stretch of four minutes, as natural logarithm of the power: the middle
/// of what is heard against the drum's own sound, over the bands where it stands out of the song; `bright` looks at the highest bands only,
/// as hats need. At most 0.8; 0 where fewer than five strokes tell. Strokes in order of time. Pure, thread-safe.
std::vector<float> loudness(const ByteGrid& spectra, const std::vector<Stroke>& strokes, bool bright);

/// drums.cpp — hits of every drum sound. With beats given, a hit is also judged by what the same place of the bars around it shows.
struct DrumOptions {
    /// Probability a hit must reach: kick, snare, clap, rim, closed hat, open hat, tom, crash, ride, percussion.
    std::array<float, kDrumKinds> threshold{0.20F, 0.15F, 0.20F, 0.25F, 0.15F, 0.40F, 0.20F, 0.20F, 0.20F, 0.40F};
    float repetition = 0.8F;  ///< weight of the other bars, in log-odds
    /// Kick, snare, rim, tom and crash are told by their sound in this song; the noise of hats, and of claps laid over snares, tells little.
    std::array<DrumLikeness, kDrumKinds> likeness{{/* kick */ {.weight = 2.5F, .power = 1.0F, .lacking = 0.2F, .softer = 0.7F},
                                                   /* snare */ {.weight = 0.7F, .power = 0.5F, .lacking = 0.05F, .softer = 0.6F},
                                                   /* clap */ {},
                                                   /* rim */ {.weight = 0.7F, .power = 0.5F, .lacking = 0.05F, .softer = 0.6F},
                                                   /* closed hat */ {},
                                                   /* open hat */ {},
                                                   /* tom */ {.weight = 1.5F, .power = 1.0F, .lacking = 0.2F, .softer = 1.0F},
                                                   /* crash */ {.weight = 0.8F, .power = 0.5F, .lacking = 0.05F, .softer = 0.6F},
                                                   /* ride */ {},
                                                   /* percussion */ {}}};
    /// Where the sound could not be learnt, a hit must reach this share of what the clearest tenth of the song's strokes of that drum reach.
    std::array<float, kDrumKinds> relative{0.3F, 0.4F, 0.4F, 0.4F};
    float slack = 0.0F;            ///< log-odds by which a stroke may fall short of its threshold and is kept all the same
    float kick_with_bass = 0.45F;  ///< that share for a kick where a bass note begins with it, in any case: a plucked bass resembles a kick
};
std::vector<Hit> decode_drums(const Evidence& evidence, const std::vector<Beat>& beats = {}, const DrumOptions& options = {});

/// chords.cpp — one chord per stretch of beats.
std::vector<ChordSpan> decode_chords(const Evidence& evidence, const std::vector<Beat>& beats);
/// Chroma 0..1 of a stretch of time, C first: what the chord decoder and the chroma backdrop look at.
std::array<float, 12> chroma_of(const Evidence& evidence, double start_s, double end_s);

/// How well a chord fits what is heard in a stretch of time, and the chord that fits better, if any.
struct ChordComparison {
    double agreement = 0.0;  ///< 0..1
    Chord better;            ///< none where nothing fits better
    double advantage = 0.0;  ///< of the better one, in the cosine of chroma to template
};
ChordComparison compare_chord(const Evidence& evidence, double start_s, double end_s, const Chord& chord);

/// keys.cpp — keys with modes over time.
std::vector<KeySpan> decode_keys(const std::vector<HeardNote>& notes, const std::vector<HeardPart>& parts, const std::vector<ChordSpan>& chords,
                                 const std::vector<SectionSpan>& sections, const std::vector<Beat>& beats, double duration_s);

/// sections.cpp — sections in whole bars, with repeats.
std::vector<SectionSpan> find_sections(const Evidence& evidence, const std::vector<Beat>& beats, const std::vector<Hit>& drums, double duration_s);

/// changes.cpp — where every part and drum enters and leaves, in whole bars; a rest of one bar does not count as leaving.
std::vector<Presence> find_presence(const std::vector<HeardPart>& parts, const std::vector<Hit>& drums, const std::vector<Beat>& beats, double duration_s);
/// Fills in the differences of every section that repeats another. What was found on one side counts as missing on the other only
/// where the evidence speaks against it there, too.
void find_differences(std::vector<SectionSpan>& sections, const Evidence& evidence, const std::vector<HeardPart>& parts, const std::vector<Hit>& drums,
                      const std::vector<ChordSpan>& chords, const std::vector<Beat>& beats, double duration_s);

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
// The decoders on evidence made in code: what the networks would say of a perfectly clear recording, with chosen troubles.
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <set>

namespace fw {

namespace {

void spike(Frames& pulse, double time_s, int column, float strength = 0.9F) {
    const double f = Evidence::pulse_frame(time_s);
    for (Eigen::Index i = std::max<Eigen::Index>(0, static_cast<Eigen::Index>(f) - 2); i <= std::min<Eigen::Index>(pulse.rows() - 1, static_cast<Eigen::Index>(f) + 3); ++i)
        pulse(i, column) = std::max(pulse(i, column), strength * static_cast<float>(std::exp(-std::pow(static_cast<double>(i) - f, 2))));
}

/// Pulse evidence with beats at given times, every n-th a downbeat starting with the given one.
Frames pulse_of(const std::vector<double>& beats, int per_bar, int first_downbeat = 0) {
    Frames pulse = Frames::Constant(static_cast<Eigen::Index>(Evidence::pulse_frame(beats.back() + 2.0)), kPulseColumns, 0.01F);
    for (std::size_t i = 0; i < beats.size(); ++i) {
        spike(pulse, beats[i], kBeat);
        if ((static_cast<int>(i) - first_downbeat) % per_bar == 0) spike(pulse, beats[i], kDownbeat);
    }
    return pulse;
}

std::vector<double> steady_beats(double bpm, int count, double start = 0.6) {
    std::vector<double> out;
    for (int i = 0; i < count; ++i) out.push_back(start + i * 60.0 / bpm);
    return out;
}

/// Over the time the truth covers: the tracker goes on counting into the silence, and the analysis trims that.
double f_measure(const std::vector<double>& truth, std::vector<double> found, double tolerance) {
    std::erase_if(found, [&](double f) { return f > truth.back() + 0.1 || f < truth.front() - 0.1; });
    std::size_t hits = 0;
    for (const double t : truth)
        for (const double f : found)
            if (std::abs(t - f) <= tolerance) {
                ++hits;
                break;
            }
    return 2.0 * static_cast<double>(hits) / static_cast<double>(truth.size() + found.size());
}

Evidence silent_evidence(double seconds) {
    Evidence e;
    e.duration_s = seconds;
    const auto frames = static_cast<std::size_t>(Evidence::pitch_frame(seconds)) + 1;
    for (ByteGrid* g : {&e.sounding, &e.onset, &e.bass_sounding, &e.bass_onset, &e.lead_sounding, &e.lead_onset, &e.level}) *g = ByteGrid(frames, Evidence::kPitches);
    e.pulse = Frames::Constant(static_cast<Eigen::Index>(Evidence::pulse_frame(seconds)) + 1, kPulseColumns, 0.01F);
    e.bands = Frames::Constant(e.pulse.rows(), 3, 0.2F);
    return e;
}

void sound(ByteGrid& sounding, ByteGrid& onset, double start_s, double end_s, int pitch) {
    const auto column = static_cast<std::size_t>(pitch - Evidence::kLowestPitch);
    const auto a = static_cast<std::size_t>(std::lround(Evidence::pitch_frame(start_s))), b = static_cast<std::size_t>(Evidence::pitch_frame(end_s));
    for (std::size_t f = a; f < b && f < sounding.frames(); ++f) sounding.set(f, column, 0.9F);
    onset.set(a, column, 0.9F);
    if (a > 0) onset.set(a - 1, column, 0.3F);
    onset.set(a + 1, column, 0.3F);
}

void play(Evidence& e, double start_s, double end_s, int pitch) {
    sound(e.sounding, e.onset, start_s, end_s, pitch);
    for (auto f = static_cast<std::size_t>(Evidence::pitch_frame(start_s)); f < static_cast<std::size_t>(Evidence::pitch_frame(end_s)); ++f) e.level.set(f, static_cast<std::size_t>(pitch - Evidence::kLowestPitch), 0.7F);
}

std::vector<Beat> four_four(double bpm, int bars, double start = 0.5) {
    std::vector<Beat> out;
    for (int i = 0; i < bars * 4; ++i) out.push_back({start + i * 60.0 / bpm, i / 4 + 1, i % 4 + 1});
    return out;
}

}  // namespace

class BeatTempos : public testing::TestWithParam<double> {};
TEST_P(BeatTempos, AreFoundToAHundredthOfABpm) {
    const auto truth = steady_beats(GetParam(), 120);
    const Frames pulse = pulse_of(truth, 4);
    auto beats = track_beats(pulse);
    const TempoEstimate tempo = fit_tempo(beats, pulse);
    EXPECT_NEAR(tempo.bpm, GetParam(), 0.01);
    EXPECT_TRUE(tempo.steady);
    EXPECT_GE(f_measure(truth, beats, 0.02), 0.98);
}
INSTANTIATE_TEST_SUITE_P(Steady, BeatTempos, testing::Values(61.37, 84.0, 97.3, 120.0, 140.55, 174.2));

TEST(Beats, FollowATempoThatDrifts) {
    std::vector<double> truth{0.5};
    for (int i = 0; i < 200; ++i) truth.push_back(truth.back() + 0.5 * (1.0 + 0.05 * std::sin(i / 25.0)));
    const Frames pulse = pulse_of(truth, 4);
    auto beats = track_beats(pulse);
    const TempoEstimate tempo = fit_tempo(beats, pulse);
    EXPECT_FALSE(tempo.steady);
    EXPECT_GE(f_measure(truth, beats, 0.03), 0.97);
}

TEST(Beats, AChangeOfTempoIsTwoStretches) {
    auto truth = steady_beats(97.3, 160);
    for (int i = 1; i <= 60; ++i) truth.push_back(truth[159] + i * 60.0 / 110.6);
    const Frames pulse = pulse_of(truth, 4);
    auto beats = track_beats(pulse);
    const TempoEstimate tempo = fit_tempo(beats, pulse);
    ASSERT_EQ(tempo.segments.size(), 2u);
    EXPECT_NEAR(tempo.segments[0].bpm, 97.3, 0.03);
    EXPECT_NEAR(tempo.segments[1].bpm, 110.6, 0.05);
    EXPECT_NEAR(tempo.segments[1].start_s, truth[159], 1.3);
}

TEST(Beats, FreeTimeBetweenSteadyStretchesIsToldAndCountedThrough) {
    auto truth = steady_beats(110, 60);
    const double gap_from = truth.back(), gap_to = gap_from + 8.0;
    for (int i = 0; i < 60; ++i) truth.push_back(gap_to + i * 60.0 / 110);
    const Frames pulse = pulse_of(truth, 4);
    auto beats = track_beats(pulse);
    const TempoEstimate tempo = fit_tempo(beats, pulse);
    ASSERT_EQ(tempo.free_time.size(), 1u);
    EXPECT_NEAR(tempo.free_time[0].first, gap_from, 1.2);
    EXPECT_NEAR(tempo.free_time[0].second, gap_to, 1.2);
    EXPECT_GT(std::count_if(beats.begin(), beats.end(), [&](double b) { return b > gap_from + 0.3 && b < gap_to - 0.3; }), 5);
}

TEST(Beats, ASteadySongHasNoFreeTime) {
    auto beats = steady_beats(110, 60);
    beats.erase(beats.begin() + 20, beats.begin() + 22);  // two silent beats are a rest
    const Frames pulse = pulse_of(beats, 4);
    auto found = track_beats(pulse);
    EXPECT_TRUE(fit_tempo(found, pulse).free_time.empty());
}

TEST(Beats, SilentEvidenceHasNoPulse) {
    EXPECT_TRUE(track_beats(Frames::Constant(5000, kPulseColumns, 0.01F)).empty());
    EXPECT_TRUE(track_beats(Frames(0, kPulseColumns)).empty());
    std::vector<double> none;
    EXPECT_EQ(fit_tempo(none, Frames(0, kPulseColumns)).bpm, 0.0);
}

TEST(Beats, StopWhenToldTo) {
    Progress progress;
    progress.cancel();
    EXPECT_THROW(track_beats(pulse_of(steady_beats(120, 60), 4), progress), Cancelled);
}

class Meters : public testing::TestWithParam<std::pair<int, int>> {};
TEST_P(Meters, AreCountedFromTheRightBeat) {
    const auto [per_bar, upbeats] = GetParam();
    const auto beats = steady_beats(110, per_bar * 20);
    const Bars bars = find_bars(beats, pulse_of(beats, per_bar, upbeats));
    ASSERT_FALSE(bars.meter.empty());
    EXPECT_EQ(bars.meter.back().numerator, per_bar);
    int right = 0;
    for (std::size_t i = 0; i < beats.size(); ++i) right += (bars.beats[i].beat == 1) == ((static_cast<int>(i) - upbeats) % per_bar == 0);
    EXPECT_GE(right, static_cast<int>(beats.size()) - 2);
}
INSTANTIATE_TEST_SUITE_P(All, Meters, testing::Values(std::pair{4, 0}, std::pair{3, 0}, std::pair{4, 1}, std::pair{3, 2}, std::pair{5, 0}, std::pair{7, 0}, std::pair{6, 0}));

TEST(MetersTest, BeatsThatSplitInThreeMakeSixEight) {
    const auto beats = steady_beats(70, 60);
    Frames pulse = pulse_of(beats, 2);
    for (std::size_t i = 0; i + 1 < beats.size(); ++i)
        for (int k = 0; k < 3; ++k) spike(pulse, beats[i] + k * (beats[i + 1] - beats[i]) / 3, kHatClosed);
    const Bars bars = find_bars(beats, pulse);
    EXPECT_EQ(bars.meter[0].numerator, 6);
    EXPECT_EQ(bars.meter[0].denominator, 8);
}

TEST(SwingTest, IsMeasuredToAPercent) {
    for (const double ratio : {0.5, 0.57, 0.62, 0.667}) {
        const auto beats = four_four(97, 20);
        std::vector<double> onsets;
        std::mt19937 random(3);
        std::normal_distribution<double> jitter(0.0, 0.003);
        for (std::size_t i = 0; i + 1 < beats.size(); ++i) {
            const double step = beats[i + 1].time_s - beats[i].time_s;
            for (const double half : {0.0, 0.5}) onsets.push_back(beats[i].time_s + half * step + jitter(random)), onsets.push_back(beats[i].time_s + (half + 0.5 * ratio) * step + jitter(random));
        }
        std::sort(onsets.begin(), onsets.end());
        const Swing swing = measure_swing(beats, onsets);
        EXPECT_NEAR(swing.ratio, ratio, 0.01);
        EXPECT_EQ(swing.subdivision, 16);
    }
}

TEST(Notes, AreWrittenDownWithOnsetLengthAndPitch) {
    Evidence e = silent_evidence(10);
    play(e, 1.0, 1.5, 60);
    play(e, 1.0, 2.0, 64);
    play(e, 1.5, 2.0, 60);  // struck again without a gap
    const auto notes = decode_notes(e);
    ASSERT_EQ(notes.size(), 3u);
    EXPECT_EQ(notes[0].pitch, 60);
    EXPECT_NEAR(notes[0].onset_s, 1.0, 0.015);
    EXPECT_NEAR(notes[0].duration_s, 0.5, 0.05);
    EXPECT_NEAR(notes[1].duration_s, 1.0, 0.05);
    EXPECT_NEAR(notes[2].onset_s, 1.5, 0.015);
    EXPECT_GT(notes[0].confidence, 0.7);
}

TEST(Notes, ALineIsOneNoteAtATimeAndRestsStaySilent) {
    Evidence e = silent_evidence(10);
    sound(e.lead_sounding, e.lead_onset, 1.0, 1.6, 72);
    sound(e.lead_sounding, e.lead_onset, 1.6, 2.0, 74);
    sound(e.lead_sounding, e.lead_onset, 5.0, 5.5, 71);
    const auto line = decode_line(e, Role::Lead);
    ASSERT_EQ(line.size(), 3u);
    for (std::size_t i = 1; i < line.size(); ++i) EXPECT_GE(line[i].onset_s + 1e-6, line[i - 1].onset_s + line[i - 1].duration_s - 0.06);
    EXPECT_NEAR(line[2].onset_s, 5.0, 0.03);
    EXPECT_LT(line[1].onset_s + line[1].duration_s, 2.2) << "a lead that pauses is silent";
    EXPECT_TRUE(decode_line(e, Role::Bass).empty());
}

TEST(Notes, AGraceNoteStaysAndASpeckDoesNot) {
    Evidence e = silent_evidence(6);
    sound(e.lead_sounding, e.lead_onset, 1.0, 1.08, 71);  // leans on the next
    sound(e.lead_sounding, e.lead_onset, 1.08, 1.8, 72);
    sound(e.lead_sounding, e.lead_onset, 3.0, 3.06, 60);  // alone
    const auto line = decode_line(e, Role::Lead);
    ASSERT_EQ(line.size(), 2u);
    EXPECT_EQ(line[0].pitch, 71);
    EXPECT_NEAR(line[0].onset_s, 1.0, 0.03);
    EXPECT_EQ(line[1].pitch, 72);
}

TEST(Notes, AnOctaveThatMayBeAPartialIsLessCertain) {
    Evidence e = silent_evidence(6);
    play(e, 1.0, 2.0, 48);
    play(e, 1.0, 1.9, 60);   // with it, no louder, gone before it
    play(e, 3.0, 4.0, 48);
    play(e, 3.5, 4.5, 60);   // by itself
    const auto notes = decode_notes(e);
    ASSERT_EQ(notes.size(), 4u);
    const auto sure = [&](double onset, int pitch) {
        for (const HeardNote& n : notes)
            if (n.pitch == pitch && std::abs(n.onset_s - onset) < 0.05) return n.confidence;
        return 0.0;
    };
    EXPECT_GT(sure(3.5, 60), 0.8);
    EXPECT_LT(sure(1.0, 60), 0.8 * sure(3.5, 60));
    EXPECT_GT(sure(1.0, 60), 0.0);
    EXPECT_GT(sure(1.0, 48), 0.8);
}

TEST(Drums, FlamsAndRollsKeepEveryStroke) {
    Evidence e = silent_evidence(8);
    spike(e.pulse, 1.0, kSnare);
    spike(e.pulse, 1.040, kSnare);
    for (int i = 0; i < 16; ++i) spike(e.pulse, 3.0 + i * 0.0625, kSnare);  // thirty-seconds at 120
    const auto hits = decode_drums(e);
    ASSERT_EQ(hits.size(), 18u);
    EXPECT_NEAR(hits[1].time_s - hits[0].time_s, 0.040, 0.012);
    for (std::size_t i = 3; i < hits.size(); ++i) EXPECT_NEAR(hits[i].time_s - hits[i - 1].time_s, 0.0625, 0.012);
}

TEST(Drums, OneStrokeIsOneSoundUnlessTwoAreSure) {
    Evidence e = silent_evidence(6);
    spike(e.pulse, 1.0, kSnare, 0.9F);
    spike(e.pulse, 1.0, kRim, 0.45F);   // resembles it
    spike(e.pulse, 2.0, kSnare, 0.9F);
    spike(e.pulse, 2.01, kClap, 0.9F);  // laid over it
    spike(e.pulse, 3.0, kKick, 0.9F);
    spike(e.pulse, 3.0, kTom, 0.5F);    // another drum of the kit
    const auto hits = decode_drums(e);
    const auto at = [&](double time_s) {
        std::set<DrumKind> kinds;
        for (const Hit& h : hits)
            if (std::abs(h.time_s - time_s) < 0.03) kinds.insert(h.kind);
        return kinds;
    };
    EXPECT_EQ(hits.size(), 5u);
    EXPECT_EQ(at(1.0), (std::set{DrumKind::Snare}));
    EXPECT_EQ(at(2.0), (std::set{DrumKind::Snare, DrumKind::Clap}));
    EXPECT_EQ(at(3.0), (std::set{DrumKind::Kick, DrumKind::Tom}));
}

TEST(Drums, EachSoundIsFoundAtItsTime) {
    Evidence e = silent_evidence(10);
    for (int i = 0; i < 8; ++i) spike(e.pulse, 1.0 + i * 0.5, i % 2 ? kSnare : kKick);
    spike(e.pulse, 1.0, kHatClosed);
    const auto hits = decode_drums(e);
    ASSERT_EQ(hits.size(), 9u);
    int kicks = 0;
    for (const Hit& h : hits) kicks += h.kind == DrumKind::Kick;
    EXPECT_EQ(kicks, 4);
    for (const Hit& h : hits) EXPECT_NEAR(std::remainder(h.time_s - 1.0, 0.5), 0.0, 0.006);
}

class ChordKinds : public testing::TestWithParam<const char*> {};
TEST_P(ChordKinds, AreNamedFromTheirTones) {
    const Chord chord = *parse_chord(GetParam());
    Evidence e = silent_evidence(20);
    const auto beats = four_four(120, 8);
    for (const Beat& b : beats) {
        for (const int pc : chord.tones()) play(e, b.time_s, b.time_s + 0.48, 60 + pc);
        sound(e.bass_sounding, e.bass_onset, b.time_s, b.time_s + 0.48, 36 + chord.root);
    }
    const auto spans = decode_chords(e, beats);
    ASSERT_EQ(spans.size(), 1u);
    EXPECT_EQ(spans[0].chord.label(), chord.label());
    EXPECT_EQ(spans[0].alternatives.size(), 3u);
    const ChordComparison same = compare_chord(e, 1.0, 4.0, chord);
    EXPECT_GT(same.agreement, 0.95);
    EXPECT_LT(compare_chord(e, 1.0, 4.0, Chord{(chord.root + 6) % 12, chord.kind, (chord.root + 6) % 12}).agreement, 0.6);
}
INSTANTIATE_TEST_SUITE_P(All, ChordKinds, testing::Values("C", "Dm", "G7", "Fmaj7", "Dm7", "Bdim", "Ebaug", "F#m7b5", "Asus4"));

TEST(Chords, ChangeOnTheBeatWhereTheTonesChange) {
    Evidence e = silent_evidence(20);
    const auto beats = four_four(120, 8);
    for (std::size_t i = 0; i < beats.size(); ++i)
        for (const int pc : parse_chord(i / 8 % 2 ? "G" : "Dm")->tones()) play(e, beats[i].time_s, beats[i].time_s + 0.48, 60 + pc);
    const auto spans = decode_chords(e, beats);
    ASSERT_EQ(spans.size(), 4u);
    EXPECT_NEAR(spans[1].start_s, beats[8].time_s, 1e-6);
    EXPECT_EQ(spans[1].chord.label(), "G:maj");
    EXPECT_TRUE(decode_chords(e, {}).empty());
}

TEST(Drums, FaintKicksCountOnlyWhereNoneAreClear) {
    // Beside clear kicks faint ones are plucks of a bass; in a song whose kicks are all faint they are its kicks.
    for (const bool clear : {true, false}) {
        Evidence e = silent_evidence(22);
        for (int i = 0; i < 40; ++i) spike(e.pulse, 1.0 + i * 0.5, kKick, i % 2 || !clear ? 0.35F : 0.9F);
        const auto hits = decode_drums(e);
        const auto kicks = std::count_if(hits.begin(), hits.end(), [](const Hit& h) { return h.kind == DrumKind::Kick; });
        EXPECT_EQ(kicks, clear ? 20 : 40);
    }
}

TEST(FeelTest, TellsWhereEachDrumFallsAndHowHard) {
    const auto beats = four_four(100, 16, 1.0);
    std::vector<Hit> hits;
    for (std::size_t b = 0; b < beats.size(); ++b) {
        const double step = 60.0 / 100 / 4;
        // A kick ahead on every one, a snare behind on two and four, and a soft swung hat on the last sixteenth.
        if (beats[b].beat == 1) hits.push_back({beats[b].time_s - 0.012 + (b % 8 ? 0.002 : -0.002), DrumKind::Kick, 110, 0.9});
        if (beats[b].beat % 2 == 0) hits.push_back({beats[b].time_s + 0.018, DrumKind::Snare, 95, 0.9});
        hits.push_back({beats[b].time_s + 3.2 * step, DrumKind::HatClosed, 50, 0.9});
    }
    hits.push_back({beats[5].time_s, DrumKind::Crash, 100, 0.9});  // once is no habit
    std::sort(hits.begin(), hits.end(), [](const Hit& a, const Hit& b) { return a.time_s < b.time_s; });
    const Feel feel = measure_feel(beats, {{1, 4, 4}}, hits);
    EXPECT_EQ(feel.steps_per_bar, 16);
    ASSERT_EQ(feel.drums.size(), 3u);
    const auto& kick = feel.drums[0].steps;
    ASSERT_EQ(kick.size(), 1u);
    EXPECT_EQ(kick[0].step, 0);
    EXPECT_EQ(kick[0].count, 16);
    EXPECT_NEAR(kick[0].offset_ms, -12.0, 2.1);
    EXPECT_NEAR(kick[0].velocity, 110.0, 1e-9);
    const auto& snare = feel.drums[1].steps;
    ASSERT_EQ(snare.size(), 2u);
    EXPECT_EQ(snare[0].step, 4);
    EXPECT_EQ(snare[1].step, 12);
    EXPECT_NEAR(snare[0].offset_ms, 18.0, 0.01);
    EXPECT_NEAR(snare[0].spread_ms, 0.0, 0.01);
    const auto& hat = feel.drums[2].steps;
    ASSERT_EQ(hat.size(), 4u);
    EXPECT_EQ(hat[0].step, 3);
    EXPECT_NEAR(hat[0].offset_ms, 30.0, 0.01);
}

TEST(Keys, TellModesApartByTheStepsThatDiffer) {
    for (const auto& [name, key] : {std::pair{"dorian", Key{2, Mode::Dorian}}, {"minor", Key{9, Mode::Minor}}, {"major", Key{7, Mode::Major}}, {"mixolydian", Key{4, Mode::Mixolydian}}}) {
        std::vector<HeardNote> notes;
        const auto scale = key.scale();
        double t = 0.0;
        for (int round = 0; round < 16; ++round)
            for (const int step : {0, 2, 4, 0, 1, 3, 5, 6, 4, 0}) {
                notes.push_back({t, 0.25, 60 + (scale[static_cast<std::size_t>(step)] - key.tonic + 12) % 12 + key.tonic, 90, 0.9});
                t += 0.25;
            }
        const HeardPart bass{Role::Bass, "Bass", {{0.0, t, 36 + key.tonic, 90, 0.9}}};
        const auto spans = decode_keys(notes, {bass}, {}, {}, {}, t);
        ASSERT_EQ(spans.size(), 1u) << name;
        EXPECT_EQ(spans[0].key, key) << name << " heard as " << spans[0].key.name();
    }
}

TEST(Keys, ARepeatedSectionInAnotherKeyKeepsItsModeAndWhereItRests) {
    // Sixteen bars that begin and rest on D with the white keys, then the second eight of them a tone higher.
    const auto beats = four_four(120, 24, 0.0);
    const int roots[] = {2, 2, 7, 2, 2, 2, 0, 7, 5, 5, 2, 2, 5, 0, 7, 2};
    std::vector<HeardNote> notes;
    std::vector<ChordSpan> chords;
    HeardPart bass{Role::Bass, "Bass", {}};
    for (int bar = 0; bar < 24; ++bar) {
        const int up = bar < 16 ? 0 : 2, root = roots[bar < 16 ? bar : bar - 8] + up, third = root - up == 2 ? 3 : 4;
        const double t = 2.0 * bar;
        for (const int tone : {0, third, 7}) notes.push_back({t, 1.9, 60 + root + tone, 90, 0.9});
        for (const int step : {9, 11, 2, 4}) notes.push_back({t + 0.3 * step / 2, 0.2, 72 + (step + up) % 12, 80, 0.9});
        bass.notes.push_back({t, 1.9, 36 + root, 90, 0.9});
        chords.push_back({t, t + 2.0, Chord{root % 12, third == 3 ? 1 : 0, root % 12}, 0.9, {}});
    }
    const std::vector<SectionSpan> sections{{0, 16, 1, 8, "A", "verse", -1, 0.9}, {16, 32, 9, 8, "B", "chorus", -1, 0.9}, {32, 48, 17, 8, "B", "chorus", 1, 0.9}};
    const auto spans = decode_keys(notes, {bass}, chords, sections, beats, 48.0);
    ASSERT_EQ(spans.size(), 2u);
    EXPECT_EQ(spans[0].key.name(), "D dorian");
    EXPECT_EQ(spans[1].key.name(), "E dorian");
    EXPECT_NEAR(spans[1].start_s, 32.0, 1e-9);
}

TEST(Sections, RepeatsGetTheSameLetterAndBoundariesFallOnBars) {
    Evidence e = silent_evidence(80);
    const auto beats = four_four(120, 32, 0.5);
    const char* verse[] = {"Dm", "Dm", "G", "G", "C", "C", "Am", "Am"};
    const char* chorus[] = {"F", "C", "Bb", "F", "Eb", "Bb", "F", "C"};
    for (std::size_t i = 0; i < beats.size(); ++i) {
        const std::size_t bar = i / 4, section = bar / 8;
        for (const int pc : parse_chord((section % 2 ? chorus : verse)[bar % 8])->tones()) play(e, beats[i].time_s, beats[i].time_s + 0.48, 60 + pc);
        for (Eigen::Index f = static_cast<Eigen::Index>(Evidence::pulse_frame(beats[i].time_s)); f < static_cast<Eigen::Index>(Evidence::pulse_frame(beats[i].time_s + 0.5)); ++f) e.bands.row(f).setConstant(section % 2 ? 0.8F : 0.4F);
    }
    const auto sections = find_sections(e, beats, std::vector<Hit>{}, 65.0);
    ASSERT_EQ(sections.size(), 4u);
    for (std::size_t i = 0; i < 4; ++i) {
        EXPECT_EQ(sections[i].start_bar, static_cast<int>(i) * 8 + 1);
        EXPECT_EQ(sections[i].bars, 8);
    }
    EXPECT_EQ(sections[0].label, sections[2].label);
    EXPECT_EQ(sections[1].label, sections[3].label);
    EXPECT_NE(sections[0].label, sections[1].label);
    EXPECT_EQ(sections[2].repeat_of, 0);
}

TEST(Presence, TellsEntriesAndExitsInBarsAndBridgesARestOfOne) {
    const auto beats = four_four(120, 16);
    const auto at = [](int bar) { return 0.5 + (bar - 1) * 2.0; };
    HeardPart bass{Role::Bass, "Bass", {}};
    for (const int bar : {5, 6, 8, 9}) bass.notes.push_back({at(bar), 0.5, 38, 90, 0.9}), bass.notes.push_back({at(bar) + 1, 0.5, 38, 90, 0.9});
    HeardPart lead{Role::Lead, "Lead", {{at(11) - 0.02, 5.0, 72, 90, 0.9}, {at(14), 0.5, 74, 90, 0.9}}};
    std::vector<Hit> hits;
    for (int bar = 1; bar <= 12; ++bar) hits.push_back({at(bar), DrumKind::Kick, 100, 0.9});
    const auto found = find_presence({bass, lead}, hits, beats, 32.5);
    ASSERT_EQ(found.size(), 3u);
    EXPECT_EQ(found[0].element, "kick");
    EXPECT_EQ(found[0].start_bar, 1);
    EXPECT_EQ(found[0].bars, 12);
    EXPECT_EQ(found[1].element, "Bass");
    EXPECT_EQ(found[1].start_bar, 5);
    EXPECT_EQ(found[1].bars, 5);
    EXPECT_NEAR(found[1].start_s, at(5), 1e-9);
    EXPECT_NEAR(found[1].end_s, at(10), 1e-9);
    EXPECT_EQ(found[2].element, "Lead");
    EXPECT_EQ(found[2].start_bar, 11) << "a pickup belongs to the bar it leads into";
    EXPECT_EQ(found[2].bars, 4) << "a held note plays on";
}

class Repeats : public testing::TestWithParam<int> {};
TEST_P(Repeats, AreComparedBarByBarAndOnlyWhatIsSureIsTold) {
    const int up = GetParam();  // the repeat lies this much higher
    const auto beats = four_four(120, 8);
    const auto at = [](int bar) { return 0.5 + (bar - 1) * 2.0; };
    Evidence e = silent_evidence(17);
    HeardPart bass{Role::Bass, "Bass", {}};
    std::vector<Hit> hits;
    for (int bar = 1; bar <= 8; ++bar)
        for (int beat = 0; beat < 4; ++beat) {
            const double t = at(bar) + beat * 0.5;
            const int pitch = 38 + beat + (bar > 4 ? up : 0);
            if (bar != 7 || beat != 2) bass.notes.push_back({t, 0.4, pitch, 90, 0.9}), play(e, t, t + 0.4, pitch);
            if (bar == 6 && beat == 3) {
                spike(e.pulse, t, kSnare, 0.2F);  // not found, yet not surely missing: not told
                continue;
            }
            hits.push_back({t, beat % 2 ? DrumKind::Snare : DrumKind::Kick, 100, 0.9});
            spike(e.pulse, t, beat % 2 ? kSnare : kKick);
        }
    hits.push_back({at(8) + 1.25, DrumKind::Kick, 100, 0.9});
    spike(e.pulse, at(8) + 1.25, kKick);
    std::sort(hits.begin(), hits.end(), [](const Hit& a, const Hit& b) { return a.time_s < b.time_s; });
    std::vector<SectionSpan> sections{{at(1), at(5), 1, 4, "A", "verse", -1, 0.9}, {at(5), at(9), 5, 4, "A", "verse", 0, 0.9}};
    find_differences(sections, e, {bass}, hits, {}, beats, 16.5);
    EXPECT_TRUE(sections[0].differences.empty());
    ASSERT_EQ(sections[1].differences.size(), 2u);
    const BarDifference &rest = sections[1].differences[0], &kick = sections[1].differences[1];
    EXPECT_EQ(rest.bar, 7);
    EXPECT_EQ(rest.of_bar, 3);
    EXPECT_EQ(rest.element, "Bass");
    EXPECT_EQ(rest.missing, 1);
    EXPECT_EQ(rest.added, 0);
    EXPECT_EQ(kick.bar, 8);
    EXPECT_EQ(kick.element, "kick");
    EXPECT_EQ(kick.missing, 0);
    EXPECT_EQ(kick.added, 1);
}
INSTANTIATE_TEST_SUITE_P(Transposed, Repeats, testing::Values(0, 2, -1));

}  // namespace fw

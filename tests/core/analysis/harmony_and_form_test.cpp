// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/made_evidence.hpp"

#include <gtest/gtest.h>
#include <random>

namespace fw {

using namespace test;

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

TEST(Chords, AThirdHeardBothWaysIsTheOneOfTheKey) {
    // The major third of a distorted bare fifth is its fifth partial: it must not turn A minor into A major amid C major.
    const auto beats = four_four(120, 16);
    const auto third_of_a = [&](float natural, float sharp) {
        Evidence e = silent_evidence(36);
        for (std::size_t i = 0; i < beats.size(); ++i) {
            const double from = beats[i].time_s, to = from + 0.48;
            const std::size_t bar = i / 4 % 4;
            for (const int pc : parse_chord(std::array{"C", "Am", "F", "G"}[bar])->tones())
                if (bar != 1 || pc != 0) play(e, from, to, 60 + pc);
            if (bar != 1) continue;
            play(e, from, to, 72, natural);
            play(e, from, to, 73, sharp);
        }
        return decode_chords(e, beats)[1].chord.label();
    };
    EXPECT_EQ(third_of_a(0.45F, 0.5F), "A:min");
    EXPECT_EQ(third_of_a(0.0F, 0.9F), "A:maj");  // heard clearly, a foreign tone is believed
}

TEST(Chords, ATailTooFaintToNameAgreesWithNoChord) {
    Evidence e = silent_evidence(8);
    for (const int pitch : {50, 57, 62}) play(e, 0.0, 2.0, pitch);
    play(e, 4.0, 8.0, 62, 0.2F);
    EXPECT_LT(compare_chord(e, 0.0, 2.0, Chord{}).agreement, 0.5);
    EXPECT_EQ(compare_chord(e, 4.0, 7.9, Chord{}).agreement, 1.0);
    EXPECT_TRUE(compare_chord(e, 4.0, 7.9, Chord{}).better.none());
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
    for (const auto& [name, key] : {std::pair{"dorian", Key{2, Mode::Dorian}},
                                    {"minor", Key{9, Mode::Minor}},
                                    {"major", Key{7, Mode::Major}},
                                    {"mixolydian", Key{4, Mode::Mixolydian}}}) {
        std::vector<HeardNote> notes;
        const auto scale = key.scale();
        double t = 0.0;
        for (int round = 0; round < 16; ++round)
            for (const int step : {0, 2, 4, 0, 1, 3, 5, 6, 4, 0}) {
                notes.push_back({t, 0.25, 60 + (scale[static_cast<std::size_t>(step)] - key.tonic + 12) % 12 + key.tonic, 90, 0.9});
                t += 0.25;
            }
        const HeardPart bass{PartRole::Bass, "Bass", {{0.0, t, 36 + key.tonic, 90, 0.9}}};
        const auto spans = decode_keys(notes, {bass}, {}, {}, {}, t);
        ASSERT_EQ(spans.size(), 1u) << name;
        EXPECT_EQ(spans[0].key, key) << name << " heard as " << spans[0].key.name();
    }
}

TEST(Keys, AStepThatOnlyOneOfTwoKeysHasTellsThemApart) {
    // The common steps and the bass lean towards B flat; but it is E that sounds, though seldom, and E flat never.
    const std::pair<int, double> shares[] = {{0, 12.2}, {2, 26.2}, {4, 5.0}, {5, 19.1}, {6, 2.0}, {7, 9.8}, {9, 12.1}, {10, 14.0}};
    std::vector<HeardNote> notes;
    HeardPart bass{PartRole::Bass, "Bass", {}};
    for (int round = 0; round < 4; ++round) {
        double t = 16.0 * round;
        for (const auto& [step, share] : shares) {
            notes.push_back({t, 0.05 * share, 60 + step, 90, 0.9});
            t += 0.05 * share;
        }
        bass.notes.push_back({16.0 * round, 4.0, 46, 90, 0.9});
        bass.notes.push_back({16.0 * round + 4, 2.0, 41, 90, 0.9});
    }
    const auto spans = decode_keys(notes, {bass}, {}, {}, {}, 64.0);
    ASSERT_EQ(spans.size(), 1u);
    EXPECT_EQ(spans[0].key.name(), "F major");
}

TEST(Keys, ARepeatedSectionInAnotherKeyKeepsItsModeAndWhereItRests) {
    // Sixteen bars that begin and rest on D with the white keys, then the second eight of them a tone higher.
    const auto beats = four_four(120, 24, 0.0);
    const int roots[] = {2, 2, 7, 2, 2, 2, 0, 7, 5, 5, 2, 2, 5, 0, 7, 2};
    std::vector<HeardNote> notes;
    std::vector<ChordSpan> chords;
    HeardPart bass{PartRole::Bass, "Bass", {}};
    for (int bar = 0; bar < 24; ++bar) {
        const int up = bar < 16 ? 0 : 2, root = roots[bar < 16 ? bar : bar - 8] + up, third = root - up == 2 ? 3 : 4;
        const double t = 2.0 * bar;
        for (const int tone : {0, third, 7}) notes.push_back({t, 1.9, 60 + root + tone, 90, 0.9});
        for (const int step : {9, 11, 2, 4}) notes.push_back({t + 0.3 * step / 2, 0.2, 72 + (step + up) % 12, 80, 0.9});
        bass.notes.push_back({t, 1.9, 36 + root, 90, 0.9});
        chords.push_back({t, t + 2.0, Chord{root % 12, third == 3 ? 1 : 0, root % 12}, 0.9, {}});
    }
    const std::vector<SectionSpan> sections{
        {0, 16, 1, 8, "A", "verse", -1, 0.9}, {16, 32, 9, 8, "B", "chorus", -1, 0.9}, {32, 48, 17, 8, "B", "chorus", 1, 0.9}};
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
        for (Eigen::Index f = static_cast<Eigen::Index>(Evidence::pulse_frame(beats[i].time_s));
             f < static_cast<Eigen::Index>(Evidence::pulse_frame(beats[i].time_s + 0.5)); ++f)
            e.bands.row(f).setConstant(section % 2 ? 0.8F : 0.4F);
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
    HeardPart bass{PartRole::Bass, "Bass", {}};
    for (const int bar : {5, 6, 8, 9}) bass.notes.push_back({at(bar), 0.5, 38, 90, 0.9}), bass.notes.push_back({at(bar) + 1, 0.5, 38, 90, 0.9});
    HeardPart lead{PartRole::Lead, "Lead", {{at(11) - 0.02, 5.0, 72, 90, 0.9}, {at(14), 0.5, 74, 90, 0.9}}};
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
    HeardPart bass{PartRole::Bass, "Bass", {}};
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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/made_evidence.hpp"

#include <gtest/gtest.h>
#include <set>

namespace fw {

using namespace test;

namespace {

/// Spectra in which a sound of the given bands rises at a time and fades within a tenth of a second.
void sounds(Evidence& e, double time_s, std::size_t first_band, std::size_t last_band, float level) {
    const auto frame = static_cast<std::size_t>(std::lround(Evidence::pulse_frame(time_s)));
    for (std::size_t t = 0; t < 9 && frame + t < e.spectra.frames(); ++t)
        for (std::size_t b = first_band; b <= last_band; ++b)
            e.spectra.set(frame + t, b, std::max(e.spectra.at(frame + t, b), level - 0.05F * static_cast<float>(t)));
}

double on_a_frame(double time_s) { return Evidence::pulse_time(std::round(Evidence::pulse_frame(time_s))); }

bool has(const std::vector<Hit>& hits, DrumKind kind, double time_s) {
    return std::any_of(hits.begin(), hits.end(), [&](const Hit& h) { return h.kind == kind && std::abs(h.time_s - time_s) < 0.03; });
}

}  // namespace

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

TEST(Notes, EndWhereTheyAreLetGoAndNotWhereTheRoomFallsSilent) {
    Evidence e = silent_evidence(10);
    // Held for half a second, shaken for a moment in between, and then fading over what the room leaves.
    const auto rings = [&](ByteGrid& sounding, ByteGrid& onset, std::size_t pitch) {
        sound(sounding, onset, 1.0, 1.5, static_cast<int>(pitch));
        const std::size_t column = pitch - Evidence::kLowestPitch, end = static_cast<std::size_t>(Evidence::pitch_frame(1.5));
        sounding.set(end - 10, column, 0.5F);
        for (std::size_t f = 0; f < 30; ++f) sounding.set(end + f, column, 0.55F - 0.005F * static_cast<float>(f));
    };
    rings(e.sounding, e.onset, 40);
    rings(e.bass_sounding, e.bass_onset, 40);
    for (const auto& heard : {decode_notes(e), decode_line(e, PartRole::Bass)}) {
        ASSERT_EQ(heard.size(), 1u);
        EXPECT_NEAR(heard[0].onset_s + heard[0].duration_s, 1.5, 0.03);
    }
}

TEST(Notes, ALineIsOneNoteAtATimeAndRestsStaySilent) {
    Evidence e = silent_evidence(10);
    sound(e.lead_sounding, e.lead_onset, 1.0, 1.6, 72);
    sound(e.lead_sounding, e.lead_onset, 1.6, 2.0, 74);
    sound(e.lead_sounding, e.lead_onset, 5.0, 5.5, 71);
    const auto line = decode_line(e, PartRole::Lead);
    ASSERT_EQ(line.size(), 3u);
    for (std::size_t i = 1; i < line.size(); ++i) EXPECT_GE(line[i].onset_s + 1e-6, line[i - 1].onset_s + line[i - 1].duration_s - 0.06);
    EXPECT_NEAR(line[2].onset_s, 5.0, 0.03);
    EXPECT_LT(line[1].onset_s + line[1].duration_s, 2.2) << "a lead that pauses is silent";
    EXPECT_TRUE(decode_line(e, PartRole::Bass).empty());
}

TEST(Notes, AHeldPitchIsStruckAnewOnlyByStrokesAsClearAsTheLinesOthers) {
    const auto struck_twice_at = [](float strength) {
        Evidence e = silent_evidence(20);
        for (int i = 0; i < 12; ++i) sound(e.bass_sounding, e.bass_onset, 1.0 + i, 1.9 + i, 36 + i % 5);  // the line's clear strokes reach .9
        sound(e.bass_sounding, e.bass_onset, 15.0, 17.0, 40);
        e.bass_onset.set(static_cast<std::size_t>(std::lround(Evidence::pitch_frame(16.0))), 40 - Evidence::kLowestPitch, strength);
        return decode_line(e, PartRole::Bass).size();
    };
    EXPECT_EQ(struck_twice_at(0.85F), 14u);
    EXPECT_EQ(struck_twice_at(0.35F), 13u) << "a swell within a held note is no stroke";
}

TEST(Notes, AnotherPartPlayingWhileTheLeadPausesIsNotTheLead) {
    Evidence e = silent_evidence(60);
    const auto faintly = [&](double start_s, double end_s, int pitch) {
        const auto column = static_cast<std::size_t>(pitch - Evidence::kLowestPitch);
        const auto a = static_cast<std::size_t>(std::lround(Evidence::pitch_frame(start_s))), b = static_cast<std::size_t>(Evidence::pitch_frame(end_s));
        for (std::size_t f = a; f < b; ++f) e.lead_sounding.set(f, column, 0.45F);
        e.lead_onset.set(a, column, 0.4F);
    };
    for (int i = 0; i < 24; ++i) faintly(1.0 + i * 0.5, 1.4 + i * 0.5, 60 + i % 3);
    for (int i = 0; i < 60; ++i) {
        if (i % 10 == 7) faintly(20.0 + i * 0.5, 20.4 + i * 0.5, 72 + i % 5);  // a soft note of its own
        else sound(e.lead_sounding, e.lead_onset, 20.0 + i * 0.5, 20.4 + i * 0.5, 72 + i % 5);
    }
    const auto line = decode_line(e, PartRole::Lead);
    EXPECT_EQ(line.size(), 60u);
    for (const HeardNote& n : line) EXPECT_GT(n.onset_s, 19.0) << "the lead has not entered yet";
    LineOptions all;
    all.phrase_share = 0.0;
    EXPECT_EQ(decode_line(e, PartRole::Lead, all).size(), 84u) << "there is something to drop";
}

TEST(Notes, AGraceNoteStaysAndASpeckDoesNot) {
    Evidence e = silent_evidence(6);
    sound(e.lead_sounding, e.lead_onset, 1.0, 1.08, 71);  // leans on the next
    sound(e.lead_sounding, e.lead_onset, 1.08, 1.8, 72);
    sound(e.lead_sounding, e.lead_onset, 3.0, 3.06, 60);  // alone
    const auto line = decode_line(e, PartRole::Lead);
    ASSERT_EQ(line.size(), 2u);
    EXPECT_EQ(line[0].pitch, 71);
    EXPECT_NEAR(line[0].onset_s, 1.0, 0.03);
    EXPECT_EQ(line[1].pitch, 72);
}

TEST(Notes, AnOctaveThatMayBeAPartialIsLessCertain) {
    Evidence e = silent_evidence(6);
    play(e, 1.0, 2.0, 48);
    play(e, 1.0, 1.9, 60);  // with it, no louder, gone before it
    play(e, 3.0, 4.0, 48);
    play(e, 3.5, 4.5, 60);  // by itself
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

TEST(Notes, TheBassKeepsItsLeapsAndItsRests) {
    Evidence e = silent_evidence(30);
    const auto bass = [&](double onset_s, int pitch) {
        play(e, onset_s, onset_s + 0.4, pitch);
        sound(e.bass_sounding, e.bass_onset, onset_s, onset_s + 0.4, pitch);
    };
    for (int i = 0; i < 16; ++i)
        if (i != 7) bass(1.0 + 0.5 * i, i % 4 == 3 ? 46 : 36);
    play(e, 4.5, 4.9, 46);    // a leap the bass evidence misses
    play(e, 4.5, 4.9, 60);    // above it the chords
    play(e, 12.0, 12.4, 46);  // the bass rests: something else
    for (int i = 0; i < 4; ++i) bass(16.0 + 0.5 * i, 36);
    play(e, 18.0, 18.4, 52);                        // higher than this bass goes
    for (const double late : {20.0, 21.0, 22.0}) {  // the line has the stroke a little earlier than the notes do
        sound(e.bass_sounding, e.bass_onset, late, late + 0.3, 36);
        play(e, late + 0.09, late + 0.3, 36);
    }
    auto notes = decode_notes(e);
    const auto parts = deal_parts(e, notes);
    ASSERT_FALSE(parts.empty());
    ASSERT_EQ(parts[0].role, PartRole::Bass);
    const auto at = [&](double onset_s) {
        for (const HeardNote& n : parts[0].notes)
            if (std::abs(n.onset_s - onset_s) < 0.05) return n.pitch;
        return 0;
    };
    EXPECT_EQ(parts[0].notes.size(), 23u);
    EXPECT_EQ(at(4.5), 46);
    EXPECT_EQ(at(12.0), 0);
    EXPECT_EQ(at(18.0), 0);
    for (std::size_t i = 0; i + 1 < parts[0].notes.size(); ++i)
        EXPECT_LE(parts[0].notes[i].onset_s + parts[0].notes[i].duration_s, parts[0].notes[i + 1].onset_s + 1e-9);
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
    spike(e.pulse, 1.0, kRim, 0.45F);  // resembles it
    spike(e.pulse, 2.0, kSnare, 0.9F);
    spike(e.pulse, 2.01, kClap, 0.9F);  // laid over it
    spike(e.pulse, 3.0, kKick, 0.9F);
    spike(e.pulse, 3.0, kTom, 0.5F);  // another drum of the kit
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

TEST(Drums, AFaintKickUnderABassNoteIsTakenForThePluck) {
    Evidence e = silent_evidence(20);
    for (int i = 0; i < 16; ++i) spike(e.pulse, 1.0 + i, kKick, 0.9F);
    spike(e.pulse, on_a_frame(3.5), kKick, 0.38F);  // by itself
    spike(e.pulse, on_a_frame(5.5), kKick, 0.38F);  // with a bass note
    sound(e.bass_sounding, e.bass_onset, 5.5, 6.0, 40);
    const auto hits = decode_drums(e);
    const auto at = [&](double time_s) { return std::any_of(hits.begin(), hits.end(), [&](const Hit& h) { return std::abs(h.time_s - time_s) < 0.03; }); };
    EXPECT_EQ(hits.size(), 17u);
    EXPECT_TRUE(at(3.5));
    EXPECT_FALSE(at(5.5));
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

TEST(Drums, FaintKicksCountOnlyWhereNoneAreClear) {
    // Beside clear kicks faint ones are plucks of a bass; in a song whose kicks are all faint they are its kicks.
    for (const bool clear : {true, false}) {
        Evidence e = silent_evidence(22);
        for (int i = 0; i < 40; ++i) spike(e.pulse, 1.0 + i * 0.5, kKick, i % 2 || !clear ? 0.27F : 0.99F);
        const auto hits = decode_drums(e);
        const auto kicks = std::count_if(hits.begin(), hits.end(), [](const Hit& h) { return h.kind == DrumKind::Kick; });
        EXPECT_EQ(kicks, clear ? 20 : 40);
    }
}

TEST(Drums, AreToldByTheSoundTheyHaveInThisSong) {
    for (const auto& [kind, column] : {std::pair{DrumKind::Kick, kKick}, std::pair{DrumKind::Snare, kSnare}}) {
        Evidence e = silent_evidence(30);
        e.spectra = ByteGrid(static_cast<std::size_t>(e.pulse.rows()), MelSpectra::kBands);
        for (int i = 0; i < 20; ++i) {
            spike(e.pulse, on_a_frame(1.0 + i), column, 0.9F);
            sounds(e, 1.0 + i, 2, 20, 0.8F);
        }
        spike(e.pulse, on_a_frame(3.5), column, 0.12F);  // faint, but the same sound
        sounds(e, 3.5, 2, 20, 0.8F);
        spike(e.pulse, on_a_frame(5.5), column, 0.12F);  // the same under a louder noise
        sounds(e, 5.5, 2, 20, 0.8F);
        sounds(e, 5.5, 10, 63, 0.95F);
        spike(e.pulse, on_a_frame(7.5), column, 0.12F);  // faint and without most of its bands
        sounds(e, 7.5, 2, 6, 0.8F);
        spike(e.pulse, on_a_frame(9.5), column, 0.12F);  // faint, and noise that leaves no room for most of it
        sounds(e, 9.5, 18, 63, 0.9F);
        const auto hits = decode_drums(e);
        EXPECT_TRUE(has(hits, kind, 1.0));
        EXPECT_TRUE(has(hits, kind, 3.5));
        EXPECT_TRUE(has(hits, kind, 5.5));
        EXPECT_FALSE(has(hits, kind, 7.5));
        EXPECT_FALSE(has(hits, kind, 9.5));
    }
}

TEST(Drums, LikenessIsLoudnessAgainstTheClearStrokesAndUnknownWithoutThem) {
    ByteGrid spectra(static_cast<std::size_t>(Evidence::pulse_frame(700.0)), MelSpectra::kBands);
    const DrumLikeness how{1.0F, 1.0F, 0.2F, 0.5F};
    std::vector<Stroke> strokes;
    const auto strike = [&](double time_s, float evidence, float level) {
        const auto frame = static_cast<std::size_t>(Evidence::pulse_frame(time_s));
        for (std::size_t t = 0; t < 5; ++t)
            for (std::size_t b = 0; b < 16; ++b) spectra.set(frame + t, b, level);
        strokes.push_back({frame, evidence});
    };
    for (int i = 0; i < 8; ++i) strike(1.0 + i, 0.9F, 0.8F);
    strike(9.0, 0.2F, 0.7F);                                    // a tenth of the scale is 10^0.4 in power
    for (int i = 0; i < 4; ++i) strike(500.0 + i, 0.9F, 0.6F);  // far away, and too few to learn from
    const auto alike = likeness(spectra, strokes, 0.9F, how);
    ASSERT_EQ(alike.size(), strokes.size());
    EXPECT_NEAR(alike[0], 0.0F, 0.05F);
    EXPECT_NEAR(alike[8], -0.4F * std::log(10.0F), 0.05F);
    for (std::size_t i = 9; i < alike.size(); ++i) EXPECT_EQ(alike[i], -how.softer);
    EXPECT_TRUE(likeness(spectra, {strokes.begin() + 9, strokes.end()}, 0.9F, how).empty());
    EXPECT_TRUE(likeness(ByteGrid(), strokes, 0.9F, how).empty());
}

TEST(Drums, VelocityTellsHowHardTheSoundIsStruckWhateverElseSounds) {
    for (const auto& [kind, column, first, last] :
         {std::tuple{DrumKind::Kick, kKick, 2, 20}, std::tuple{DrumKind::Snare, kSnare, 12, 40}, std::tuple{DrumKind::HatClosed, kHatClosed, 46, 63}}) {
        Evidence e = silent_evidence(44);
        e.spectra = ByteGrid(static_cast<std::size_t>(e.pulse.rows()), MelSpectra::kBands);
        for (int i = 0; i < 20; ++i) {
            spike(e.pulse, on_a_frame(1.0 + 2 * i), column);
            sounds(e, 1.0 + 2 * i, static_cast<std::size_t>(first), static_cast<std::size_t>(last), i % 4 == 3 ? 0.65F : 0.8F);
            // Another drum over the half of its bands with every fifth stroke.
            if (i % 5 == 4) sounds(e, 1.0 + 2 * i, kind == DrumKind::Kick ? 14 : 0, kind == DrumKind::Kick ? 40 : static_cast<std::size_t>(first) + 6, 0.9F);
        }
        const auto hits = decode_drums(e);
        ASSERT_EQ(hits.size(), 20u) << drum_sound(kind).id;
        for (std::size_t i = 0; i < hits.size(); ++i) {
            const bool soft = i % 4 == 3;
            if (soft && i % 5 == 4) continue;  // covered and soft: what is heard says little
            EXPECT_NEAR(hits[i].velocity, soft ? 100 * std::pow(10.0, -4 * 0.15 / 5) : 100, 4) << drum_sound(kind).id << " " << i;
        }
    }
    Evidence few = silent_evidence(10);
    for (int i = 0; i < 3; ++i) spike(few.pulse, 1.0 + i, kKick);
    for (const Hit& h : decode_drums(few)) EXPECT_EQ(h.velocity, 100) << "nothing to compare with";
}

TEST(Notes, VelocitiesCompareTheStrokesOfAPartAndNotItsPitches) {
    Evidence e = silent_evidence(40);
    std::vector<HeardNote> part;
    const auto strike = [&](double time_s, int pitch, float level) {
        part.push_back({time_s, 0.4, pitch, 0, 0.9});
        const auto begin = static_cast<std::size_t>(std::lround(Evidence::pitch_frame(time_s)));
        for (const int partial : {0, 12, 19, 24})
            for (std::size_t f = begin; f < begin + 10; ++f) e.level.set(f, static_cast<std::size_t>(pitch + partial - Evidence::kLowestPitch), level);
    };
    for (int i = 0; i < 30; ++i) strike(1.0 + i, i % 2 ? 74 : 48, (i % 2 ? 0.4F : 0.7F) + (i % 10 == 6 ? 0.1F : i % 10 == 3 ? -0.1F : 0.0F));
    // Another part stands over two of a note's partials.
    for (const int partial : {12, 24})
        for (std::size_t f = 0; f < 10; ++f)
            e.level.set(static_cast<std::size_t>(std::lround(Evidence::pitch_frame(2.0))) + f, static_cast<std::size_t>(74 + partial - Evidence::kLowestPitch),
                        0.9F);
    tell_velocities(e, part);
    for (std::size_t i = 0; i < part.size(); ++i) {
        const int velocity = part[i].velocity;
        if (i == 1) {
            EXPECT_LT(velocity, 120) << "half of what is covered counts";
        } else {
            EXPECT_NEAR(velocity, i % 10 == 6 ? 100 : i % 10 == 3 ? 81 : 90, 4) << i;
        }
    }
    part.resize(4);
    tell_velocities(e, part);
    for (const HeardNote& n : part) EXPECT_EQ(n.velocity, 90) << "too few to compare";
}

}  // namespace fw

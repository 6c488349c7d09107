// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/note_judge.hpp"

#include "analysis/weights.hpp"
#include "support/made_evidence.hpp"

#include <gtest/gtest.h>

using namespace fw;
using namespace fw::test;

namespace {

/// A tune of eight pitches, two notes a second.
Evidence tune(double seconds = 20) {
    Evidence e = silent_evidence(seconds);
    for (int i = 0; 0.5 * i + 1.5 < seconds; ++i)
        play(e, 0.5 + 0.5 * i, 0.9 + 0.5 * i, std::array{60, 62, 64, 65, 67, 65, 64, 72}[static_cast<std::size_t>(i % 8)]);
    return e;
}

/// The judgement of the entry at a time and pitch; negative where there is none.
float judged_at(const Evidence& e, double time_s, int pitch) {
    const auto entries = note_entries(e);
    const auto judged = judge_entries(e, entries);
    for (std::size_t i = 0; i < entries.size(); ++i)
        if (static_cast<int>(entries[i].pitch) + Evidence::kLowestPitch == pitch &&
            std::abs(Evidence::pitch_time(static_cast<double>(entries[i].frame)) - time_s) < 0.05)
            return judged[i];
    return -1.0F;
}

}  // namespace

TEST(NoteJudge, WasTrainedOnTheCluesThatAreTold) {
    const auto layers = load_network(judge_weights());
    ASSERT_EQ(layers.size(), 1u);
    EXPECT_EQ(layers.front().inputs, kNoteClues);
    EXPECT_EQ(layers.front().outputs, 1);
}

TEST(NoteJudge, SeesPeaksOfTheOnsetAboveSomethingThatSounds) {
    Evidence e = silent_evidence(6);
    play(e, 1.0, 1.5, 60);
    play(e, 3.0, 3.5, 57, 0.1F);  // an onset, but nothing to speak of sounds
    play(e, 2.0, 2.5, 48);
    const auto entries = note_entries(e);
    ASSERT_EQ(entries.size(), 2u);  // pitch by pitch
    EXPECT_EQ(entries[0].pitch, 48u - Evidence::kLowestPitch);
    EXPECT_NEAR(Evidence::pitch_time(static_cast<double>(entries[1].frame)), 1.0, 0.02);
    EXPECT_TRUE(note_entries(Evidence{}).empty());
}

TEST(NoteJudge, BelievesEveryClearNoteOfOneVoiceAlone) {
    const Evidence e = tune();
    const auto entries = note_entries(e);
    ASSERT_EQ(entries.size(), 37u);
    for (const float p : judge_entries(e, entries)) EXPECT_GT(p, 0.5F);
}

TEST(NoteJudge, DoubtsWhatBeginsWithTheOctaveBelowMoreThanWhatBeginsOverIt) {
    const auto upper = [](double lower_onset_s) {
        Evidence e = tune();
        play(e, lower_onset_s, 8.4, 76);
        play(e, 8.0, 8.4, 88, 0.45F);
        return judged_at(e, 8.0, 88);
    };
    ASSERT_GE(upper(8.0), 0.0F);
    EXPECT_LT(upper(8.0), upper(7.0));
}

TEST(NoteJudge, TrustsAFaintNoteMoreWhereTheSongPlaysItsPitch) {
    Evidence e = tune();
    for (const int pitch : {64, 66}) {
        sound(e.sounding, e.onset, 18.2, 18.6, pitch, 0.35F);
        for (auto f = static_cast<std::size_t>(Evidence::pitch_frame(18.2)); f < static_cast<std::size_t>(Evidence::pitch_frame(18.6)); ++f)
            e.level.set(f, static_cast<std::size_t>(pitch - Evidence::kLowestPitch), 0.4F);
    }
    EXPECT_GT(judged_at(e, 18.2, 64), judged_at(e, 18.2, 66));
}

TEST(NoteJudge, JudgesAnEveningInPiecesAsItWouldAtOnce) {
    // More entries than are judged at once; each looks only at its surroundings and at the whole song.
    Evidence e = tune(2400);
    const auto entries = note_entries(e);
    ASSERT_GT(entries.size(), 4096u);
    const auto judged = judge_entries(e, entries);
    ASSERT_EQ(judged.size(), entries.size());
    const auto song = song_clarity(e, entries);
    const std::array some{entries[10], entries[4100]};
    const Frames clues = note_clues(e, some, song);
    for (Eigen::Index k = 0; k < 2; ++k) {
        const Convolution sum = load_network(judge_weights()).front();
        float odds = sum.bias[0];
        for (int c = 0; c < kNoteClues; ++c) odds += sum.weights[sum.weight_at(0, c, 0, 0)] * clues(c, k);
        EXPECT_NEAR(judged[k == 0 ? 10 : 4100], sigmoid(odds), 1e-5F);
    }
}

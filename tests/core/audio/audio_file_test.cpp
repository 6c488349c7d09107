// SPDX-License-Identifier: GPL-3.0-or-later
#include "audio/audio_file.hpp"

#include "audio/peaks.hpp"
#include "dsp/constants.hpp"
#include "support/float_wav.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <sndfile.h>
#include <sys/stat.h>
#include <fstream>
#include <limits>

namespace fw {

using test::write_float_wav;

namespace {
using test::TemporaryFolder;

ErrorCode code_of(const std::filesystem::path& path) {
    const auto r = read_mono(path);
    EXPECT_FALSE(r);
    return r ? ErrorCode::Count_ : r.error().code;
}
}  // namespace

TEST(ReadAudio, GivesBackWhatWasWrittenInEveryFormat) {
    const TemporaryFolder folder;
    const Audio tone = test::sine(440, 1.5);
    for (const auto& [name, tolerance] : {std::pair{"a.wav", 1e-6F}, {"a.flac", 1e-6F}, {"a.ogg", 0.05F}}) {
        ASSERT_TRUE(write_audio(folder / name, tone));
        const auto back = read_audio(folder / name);
        ASSERT_TRUE(back) << name;
        ASSERT_EQ(back->frames(), tone.frames()) << name;
        float worst = 0;
        for (std::size_t i = 5000; i < tone.samples.size() - 5000; ++i) worst = std::max(worst, std::abs(back->samples[i] - tone.samples[i]));
        EXPECT_LT(worst, tolerance) << name;
    }
}

TEST(ReadAudio, BadFilesGetTheErrorThatFits) {
    const TemporaryFolder folder;
    EXPECT_EQ(code_of(folder / "none.wav"), ErrorCode::FileMissing);
    EXPECT_EQ(code_of(folder.path()), ErrorCode::NotAFile);
    ASSERT_EQ(::mkfifo((folder / "pipe.wav").c_str(), 0600), 0);
    EXPECT_EQ(code_of(folder / "pipe.wav"), ErrorCode::NotAFile);
    EXPECT_EQ(code_of("/dev/zero"), ErrorCode::NotAFile);
    std::ofstream(folder / "empty.wav").close();
    EXPECT_EQ(code_of(folder / "empty.wav"), ErrorCode::AudioEmpty);
    std::ofstream(folder / "text.wav") << std::string(5000, 'x');
    EXPECT_EQ(code_of(folder / "text.wav"), ErrorCode::NotAudio);
    write_float_wav(folder / "nothing.wav", Audio{44100, 2, {}, {}});
    EXPECT_EQ(code_of(folder / "nothing.wav"), ErrorCode::AudioEmpty);
    write_float_wav(folder / "short.wav", test::sine(440, 0.2));
    EXPECT_EQ(code_of(folder / "short.wav"), ErrorCode::AudioTooShort);
    write_float_wav(folder / "silent.wav", test::sine(440, 3.0, 44100, 2, 0.0F));
    EXPECT_EQ(code_of(folder / "silent.wav"), ErrorCode::AudioSilent);
}

TEST(ReadAudio, EveryRateAndChannelCountArrivesAtTheAnalysisRate) {
    const TemporaryFolder folder;
    for (const auto& [rate, channels] : {std::pair{8000, 1}, {22050, 2}, {48000, 2}, {96000, 1}, {192000, 2}, {44100, 6}}) {
        write_float_wav(folder / "a.wav", test::sine(440, 2.0, rate, channels));
        const auto mono = read_mono(folder / "a.wav");
        ASSERT_TRUE(mono) << rate;
        EXPECT_NEAR(mono->duration_s(), 2.0, 0.002) << rate;
        EXPECT_EQ(mono->source_channels, channels);
        std::vector<float> middle(4410);
        mono->copy(22050, middle);
        double energy = 0;
        for (const float s : middle) energy += s * s;
        EXPECT_NEAR(std::sqrt(energy / 4410), 0.5 / std::numbers::sqrt2, 0.01) << rate;
    }
}

TEST(ReadAudio, SamplesThatAreNoNumbersAreSilence) {
    const TemporaryFolder folder;
    Audio a = test::sine(440, 2.0);
    for (std::size_t i = 1000; i < 1100; ++i) a.samples[i] = i % 2 ? std::numeric_limits<float>::quiet_NaN() : std::numeric_limits<float>::infinity();
    write_float_wav(folder / "nan.wav", a);
    const auto back = read_audio(folder / "nan.wav");
    ASSERT_TRUE(back);
    for (const float s : back->samples) ASSERT_TRUE(std::isfinite(s));
    EXPECT_EQ(back->samples[1050], 0.0F);
    const auto mono = read_mono(folder / "nan.wav");
    ASSERT_TRUE(mono);
    EXPECT_TRUE(std::isfinite(mono->integrated_lufs));
}

TEST(ReadAudio, ATruncatedFlacGivesWhatCanBeReadAndSaysSo) {
    const TemporaryFolder folder;
    test::write_truncated(folder / "whole.flac", test::sine(440, 6.0), 0.5);
    const auto back = read_audio(folder / "whole.flac");
    ASSERT_TRUE(back);
    EXPECT_EQ(back->remarks, std::vector{ErrorCode::AudioDamaged});
    EXPECT_NEAR(back->duration_s(), 3.0, 0.5);
}

TEST(ReadAudio, TheSameSoundHasTheSameHashInAnyContainerAndAnotherSoundAnother) {
    const TemporaryFolder folder;
    const Audio tone = test::sine(440, 1.5);
    ASSERT_TRUE(write_audio(folder / "a.wav", tone));
    // Packed without loss, as an archiver would: the same integers in another container.
    SF_INFO info{};
    SNDFILE* in = sf_open((folder / "a.wav").c_str(), SFM_READ, &info);
    std::vector<int> samples(static_cast<std::size_t>(info.frames * info.channels));
    sf_readf_int(in, samples.data(), info.frames);
    sf_close(in);
    SF_INFO packed{0, info.samplerate, info.channels, SF_FORMAT_FLAC | SF_FORMAT_PCM_24, 0, 0};
    SNDFILE* out = sf_open((folder / "a.flac").c_str(), SFM_WRITE, &packed);
    sf_writef_int(out, samples.data(), info.frames);
    sf_close(out);
    ASSERT_TRUE(write_audio(folder / "b.wav", test::sine(441, 1.5)));
    EXPECT_EQ(read_mono(folder / "a.wav")->content_hash, read_mono(folder / "a.flac")->content_hash);
    EXPECT_NE(read_mono(folder / "a.wav")->content_hash, read_mono(folder / "b.wav")->content_hash);
    EXPECT_EQ(read_mono(folder / "a.wav")->content_hash, make_mono(*read_audio(folder / "a.wav"), "a")->content_hash) << "streamed or whole";
}

TEST(ReadRecording, GivesWhatReadingTheSoundAndTheSignalApartWouldGive) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_audio(folder / "a.wav", test::sine(440, 9.0)));  // several blocks, the last one short
    const auto both = read_recording(folder / "a.wav");
    ASSERT_TRUE(both);
    const auto sound = read_audio(folder / "a.wav");
    const auto mono = read_mono(folder / "a.wav");
    EXPECT_EQ(both->sound.samples, sound->samples);
    EXPECT_EQ(both->mono.samples, mono->samples);
    EXPECT_EQ(both->mono.content_hash, mono->content_hash);
    EXPECT_EQ(both->mono.integrated_lufs, mono->integrated_lufs);
    EXPECT_EQ(both->mono.source_channels, sound->channels);
}

TEST(ReadRecording, TellsWhatIsWrongWithAFileInBothAndRefusesSilence) {
    const TemporaryFolder folder;
    test::write_truncated(folder / "cut.flac", test::sine(440, 6.0), 0.5);
    const auto cut = read_recording(folder / "cut.flac");
    ASSERT_TRUE(cut);
    EXPECT_EQ(cut->sound.remarks, std::vector{ErrorCode::AudioDamaged});
    EXPECT_EQ(cut->mono.remarks, cut->sound.remarks);
    ASSERT_TRUE(write_audio(folder / "silent.wav", Audio{44100, 1, std::vector<float>(88200), {}}));
    EXPECT_EQ(read_recording(folder / "silent.wav").error().code, ErrorCode::AudioSilent);
    EXPECT_EQ(read_recording(folder / "none.wav").error().code, ErrorCode::FileMissing);
    Progress progress;
    progress.cancel();
    EXPECT_EQ(read_recording(folder / "cut.flac", progress).error().code, ErrorCode::Cancelled);
}

TEST(ReadAudio, StopsWhenToldTo) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_audio(folder / "a.wav", test::sine(440, 20)));
    Progress progress;
    progress.cancel();
    const auto r = read_mono(folder / "a.wav", progress);
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::Cancelled);
}

TEST(ReadAudio, AFlacThatStatesMoreThanAnyDiskHoldsIsRefusedAtOnce) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_audio(folder / "a.flac", test::sine(440, 2.0)));
    std::fstream file(folder / "a.flac", std::ios::in | std::ios::out | std::ios::binary);
    // The lower half of byte 21 and the next four hold the length in 36 bits (RFC 9639).
    file.seekg(21);
    const int mixed = file.get() | 0x0F;
    file.seekp(21);
    file.put(static_cast<char>(mixed)).put(static_cast<char>(0xFF)).put(static_cast<char>(0xFF)).put(static_cast<char>(0xFF)).put(static_cast<char>(0xFF));
    file.close();
    EXPECT_EQ(code_of(folder / "a.flac"), ErrorCode::AudioTooLong);
}

TEST(ReadAudio, WhatIsTooLongIsFoundOutThoughTheFileDoesNotSaySo) {
    const TemporaryFolder folder;
    // Seven hours at the lowest rate, in a file with holes: it takes no room on the disk.
    SF_INFO info{0, 4000, 1, SF_FORMAT_WAV | SF_FORMAT_PCM_U8, 0, 0};
    SNDFILE* out = sf_open((folder / "a.wav").c_str(), SFM_WRITE, &info);
    sf_close(out);
    std::filesystem::resize_file(folder / "a.wav", 7 * 3600 * 4000);
    std::fstream file(folder / "a.wav", std::ios::in | std::ios::out | std::ios::binary);
    for (const int at : {4, 40}) {  // the lengths of the file and of its sound, as a recorder that was switched off leaves them
        file.seekp(at);
        file.write("\xFF\xFF\xFF\xFF", 4);
    }
    file.close();
    EXPECT_EQ(code_of(folder / "a.wav"), ErrorCode::AudioTooLong);
}

TEST(WriteAudio, TheEndingSaysTheFormatInCapitalsTooAndAnUnknownOneIsRefused) {
    const TemporaryFolder folder;
    const Audio tone = test::sine(440, 1.5);
    ASSERT_TRUE(write_audio(folder / "a.FLAC", tone));
    ASSERT_TRUE(write_audio(folder / "a.Wav", tone));
    const auto head = [&](const char* name) {
        std::ifstream in(folder / name, std::ios::binary);
        std::string four(4, ' ');
        in.read(four.data(), 4);
        return four;
    };
    EXPECT_EQ(head("a.FLAC"), "fLaC");
    EXPECT_EQ(head("a.Wav"), "RIFF");
    for (const char* name : {"a.mp3", "a", "a.wav.bak", "a.aiff"}) {
        const auto refused = write_audio(folder / name, tone);
        ASSERT_FALSE(refused) << name;
        EXPECT_EQ(refused.error().code, ErrorCode::EndingUnknown) << name;
        EXPECT_FALSE(std::filesystem::exists(folder / name)) << name;
    }
}

TEST(WriteAudio, AFolderThatIsNotThereIsNamedAndNothingIsLeft) {
    const auto r = write_audio("/nowhere/at/all.wav", test::sine(440, 1));
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::FolderUnwritable);
    EXPECT_EQ(r.error().subject, "/nowhere/at");
}

TEST(LoudnessTest, ASineAtMinus23DbfsReadsMinus23Lufs) {
    // EBU Tech 3341, case 1: a 1 kHz stereo sine at -23 dBFS per channel reads -23.0 LUFS.
    const auto mono = make_mono(test::sine(1000, 20, 48000, 2, static_cast<float>(std::pow(10.0, -23.0 / 20))), "tone");
    ASSERT_TRUE(mono);
    EXPECT_NEAR(mono->integrated_lufs, -23.0, 0.1);
}

TEST(PeaksTest, SoundThatComesInPiecesGivesTheSamePeaksAsTheWhole) {
    const Audio a = test::sine(50, 1.0, 44100, 2, 0.25F);
    const Peaks whole(a);
    Peaks pieces(44100, 2);
    for (std::size_t at = 0; at < a.samples.size(); at += 694) pieces.add(std::span(a.samples).subspan(at, std::min<std::size_t>(694, a.samples.size() - at)));
    EXPECT_EQ(pieces.duration_s(), whole.duration_s());
    for (double t = 0; t < 1.0; t += 0.003) EXPECT_EQ(pieces.between(t, t + 0.003), whole.between(t, t + 0.003)) << t;
}

TEST(PeaksTest, GivesTheExtremesOfAStretchAndZeroOutside) {
    Audio a = test::sine(50, 1.0, 44100, 1, 0.25F);
    a.samples[22050] = -0.9F;
    const Peaks peaks(a);
    const auto [low, high] = peaks.between(0.49, 0.51);
    EXPECT_NEAR(low, -0.9F, 0.01F);
    EXPECT_NEAR(high, 0.25F, 0.01F);
    EXPECT_EQ(peaks.between(2.0, 3.0), (std::pair{0.0F, 0.0F}));
    EXPECT_TRUE(Peaks().empty());
}

}  // namespace fw

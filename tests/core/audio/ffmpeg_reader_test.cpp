// SPDX-License-Identifier: GPL-3.0-or-later
// Compressed files and files made to lead a reader astray.
#include "audio/ffmpeg_reader.hpp"

#include "support/encoded.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <fstream>

namespace fw {

namespace {

using test::encode;
using test::TemporaryFolder;

/// Rising zero crossings of the left channel between two times: the pitch in hertz times the seconds.
int crossings(const Audio& a, double from_s, double to_s) {
    int count = 0;
    const auto step = static_cast<std::size_t>(a.channels);
    for (auto f = static_cast<std::size_t>(from_s * a.sample_rate_hz) + 1; f < static_cast<std::size_t>(to_s * a.sample_rate_hz) && f < a.frames(); ++f)
        count += a.samples[(f - 1) * step] < 0 && a.samples[f * step] >= 0;
    return count;
}

bool remarked(const Audio& a, ErrorCode code) { return std::find(a.remarks.begin(), a.remarks.end(), code) != a.remarks.end(); }

}  // namespace

TEST(FfmpegReader, ReadsWhatLibsndfileCannot) {
    const TemporaryFolder folder;
    encode(folder / "tone.aac", "adts", AV_CODEC_ID_AAC, 440, 3.0);
    encode(folder / "tone.mp3", "mp3", AV_CODEC_ID_MP3, 440, 3.0);
    encode(folder / "tone.m4a", "mp4", AV_CODEC_ID_AAC, 440, 3.0);
    for (const char* name : {"tone.aac", "tone.mp3", "tone.m4a"}) {
        const auto audio = read_audio(folder / name);
        ASSERT_TRUE(audio) << name;
        EXPECT_EQ(audio->sample_rate_hz, 44100);
        EXPECT_EQ(audio->channels, 2);
        EXPECT_NEAR(audio->duration_s(), 3.0, 0.1) << name;
        EXPECT_TRUE(audio->remarks.empty()) << name;
        EXPECT_NEAR(crossings(*audio, 1.0, 2.0), 440, 2) << name;
    }
}

TEST(FfmpegReader, HealthyOpusIsNotCalledDamaged) {
    const TemporaryFolder folder;
    encode(folder / "tone.opus", "ogg", AV_CODEC_ID_OPUS, 440, 3.1, 48000);
    const auto audio = read_audio(folder / "tone.opus");
    ASSERT_TRUE(audio);
    EXPECT_TRUE(audio->remarks.empty());
    EXPECT_NEAR(audio->duration_s(), 3.1, 0.1);
}

TEST(FfmpegReader, MpegInAWavIsHealthyAndWhenBrokenPrintsNothing) {
    const TemporaryFolder folder;
    encode(folder / "tone.wav", "wav", AV_CODEC_ID_MP3, 440, 4.0);
    const auto audio = read_audio(folder / "tone.wav");
    ASSERT_TRUE(audio);
    EXPECT_TRUE(audio->remarks.empty());
    EXPECT_NEAR(audio->duration_s(), 4.0, 0.1);
    std::string bytes = test::bytes_of(folder / "tone.wav");
    for (std::size_t at = 300; at < bytes.size(); at += 97) bytes[at] = static_cast<char>(bytes[at] ^ 0x5A);
    for (const char* name : {"bad.wav", "bad.mp3"}) {
        std::ofstream(folder / name, std::ios::binary) << (std::string(name) == "bad.wav" ? bytes : bytes.substr(bytes.find("data") + 8));
        testing::internal::CaptureStderr();
        (void)read_audio(folder / name);
        EXPECT_EQ(testing::internal::GetCapturedStderr(), "") << name << ": a library never prints";
    }
}

TEST(FfmpegReader, RefusesWhatIsNoSoundAtAll) {
    const TemporaryFolder folder;
    std::ofstream(folder / "a.bin") << std::string(20000, '\x7f');
    auto file = open_file(folder / "a.bin");
    ASSERT_TRUE(file);
    EXPECT_EQ(open_with_ffmpeg(std::move(*file), "a.bin"), nullptr);
}

TEST(FfmpegReader, ACutFileGivesWhatIsThere) {
    const TemporaryFolder folder;
    encode(folder / "tone.aac", "adts", AV_CODEC_ID_AAC, 440, 4.0);
    std::filesystem::resize_file(folder / "tone.aac", std::filesystem::file_size(folder / "tone.aac") / 2);
    const auto audio = read_audio(folder / "tone.aac");
    ASSERT_TRUE(audio);
    EXPECT_NEAR(audio->duration_s(), 2.0, 0.5);
}

TEST(JoinedFiles, AChangeOfChannelsOrRateOnTheWayIsConvertedAndSaidSo) {
    const TemporaryFolder folder;
    struct Kind {
        const char *container, *ending;
        AVCodecID codec;
    };
    for (const Kind& kind : {Kind{"mp3", ".mp3", AV_CODEC_ID_MP3}, Kind{"adts", ".aac", AV_CODEC_ID_AAC}})
        for (const auto& [second_rate, first_channels, second_channels] :
             {std::tuple{44100, 2, 1}, {44100, 1, 2}, {48000, 2, 2}, {22050, 2, 1}, {44100, 2, 2}}) {
            encode(folder / "one", kind.container, kind.codec, 440, 3.0, 44100, first_channels);
            encode(folder / "two", kind.container, kind.codec, 880, 3.0, second_rate, second_channels);
            const auto joined = folder / (std::string("joined") + kind.ending);
            test::join(joined, {folder / "one", folder / "two"});
            const auto audio = read_audio(joined);
            const std::string what =
                std::string(kind.ending) + " " + std::to_string(second_rate) + " " + std::to_string(first_channels) + std::to_string(second_channels);
            ASSERT_TRUE(audio) << what;
            EXPECT_EQ(audio->channels, first_channels) << what;
            EXPECT_EQ(audio->sample_rate_hz, 44100) << what;
            EXPECT_NEAR(audio->duration_s(), 6.0, 0.3) << what;
            EXPECT_NEAR(crossings(*audio, 1.0, 2.0), 440, 3) << what;
            EXPECT_NEAR(crossings(*audio, 4.0, 5.0), 880, 3) << what;
            EXPECT_EQ(remarked(*audio, ErrorCode::AudioChanges), second_rate != 44100 || first_channels != second_channels) << what;
            EXPECT_TRUE(read_mono(joined)) << what;
        }
}

TEST(JoinedFiles, FlacAndOggFilesJoinedNeverCrashAndGiveAtLeastTheirBeginning) {
    const TemporaryFolder folder;
    for (const char* ending : {".flac", ".ogg", ".wav"}) {
        ASSERT_TRUE(write_audio(folder / (std::string("one") + ending), test::sine(440, 2.0, 44100, 2)));
        ASSERT_TRUE(write_audio(folder / (std::string("two") + ending), test::sine(440, 2.0, 48000, 1)));
        const auto joined = folder / (std::string("joined") + ending);
        test::join(joined, {folder / (std::string("one") + ending), folder / (std::string("two") + ending)});
        const auto audio = read_audio(joined);
        ASSERT_TRUE(audio) << ending;
        EXPECT_GE(audio->duration_s(), 1.9) << ending;
        EXPECT_EQ(audio->channels, 2) << ending;
    }
}

TEST(DisguisedFiles, APlayListOpensNoOtherFile) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_audio(folder / "secret.wav", test::sine(440, 3.0)));
    const std::string other = (folder / "secret.wav").string();
    const std::string concat = "ffconcat version 1.0\nfile '" + other + "'\n",
                      hls = "#EXTM3U\n#EXT-X-TARGETDURATION:3\n#EXTINF:3,\n" + other + "\n#EXT-X-ENDLIST\n";
    for (const std::string& text : {concat, hls, std::string("v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=audio 5004 RTP/AVP 0\n")})
        for (const char* name : {"list.wav", "list.mp3", "list.m3u8"}) {
            std::ofstream(folder / name) << text;
            const auto audio = read_audio(folder / name);
            ASSERT_FALSE(audio) << name << text;
            EXPECT_EQ(audio.error().code, ErrorCode::NotAudio);
        }
}

TEST(DisguisedFiles, ANameWithAColonOrWithoutUtf8IsRead) {
    const TemporaryFolder folder;
    for (const char* name : {"http:song.mp3", "a:b", "pipe:0", "caf\xE9.mp3", "100 %d.mp3"}) {
        encode(folder / "plain", "mp3", AV_CODEC_ID_MP3, 440, 2.0);
        std::filesystem::rename(folder / "plain", folder / name);
        EXPECT_TRUE(read_audio(folder / name)) << name;
    }
}

}  // namespace fw

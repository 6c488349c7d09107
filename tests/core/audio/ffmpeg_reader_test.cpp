// SPDX-License-Identifier: GPL-3.0-or-later
// What libsndfile cannot read: an AAC file made here with FFmpeg's own encoder.
#include "audio/ffmpeg_reader.hpp"

#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <fstream>

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
}

namespace fw {

namespace {

void write_aac(const std::filesystem::path& path, double hz, double seconds) {
    AVFormatContext* format = nullptr;
    ASSERT_GE(avformat_alloc_output_context2(&format, nullptr, "adts", path.c_str()), 0);
    const AVCodec* codec = avcodec_find_encoder(AV_CODEC_ID_AAC);
    ASSERT_TRUE(codec);
    AVCodecContext* encoder = avcodec_alloc_context3(codec);
    encoder->sample_rate = 44100;
    encoder->sample_fmt = AV_SAMPLE_FMT_FLTP;
    encoder->bit_rate = 128000;
    av_channel_layout_default(&encoder->ch_layout, 2);
    ASSERT_GE(avcodec_open2(encoder, codec, nullptr), 0);
    AVStream* stream = avformat_new_stream(format, nullptr);
    avcodec_parameters_from_context(stream->codecpar, encoder);
    ASSERT_GE(avio_open(&format->pb, path.c_str(), AVIO_FLAG_WRITE), 0);
    ASSERT_GE(avformat_write_header(format, nullptr), 0);
    AVFrame* frame = av_frame_alloc();
    frame->nb_samples = encoder->frame_size;
    frame->format = encoder->sample_fmt;
    av_channel_layout_copy(&frame->ch_layout, &encoder->ch_layout);
    av_frame_get_buffer(frame, 0);
    AVPacket* packet = av_packet_alloc();
    const auto drain = [&] {
        while (avcodec_receive_packet(encoder, packet) == 0) av_interleaved_write_frame(format, packet);
    };
    for (int at = 0; at < static_cast<int>(seconds * 44100); at += encoder->frame_size) {
        av_frame_make_writable(frame);
        for (int i = 0; i < encoder->frame_size; ++i)
            for (int c = 0; c < 2; ++c)
                reinterpret_cast<float*>(frame->data[c])[i] = 0.4F * static_cast<float>(std::sin(2 * std::numbers::pi * hz * (at + i) / 44100));
        frame->pts = at;
        avcodec_send_frame(encoder, frame);
        drain();
    }
    avcodec_send_frame(encoder, nullptr);
    drain();
    av_write_trailer(format);
    avio_closep(&format->pb);
    av_packet_free(&packet);
    av_frame_free(&frame);
    avcodec_free_context(&encoder);
    avformat_free_context(format);
}

}  // namespace

TEST(FfmpegReader, ReadsWhatLibsndfileCannot) {
    const test::TemporaryFolder folder;
    write_aac(folder / "tone.aac", 440, 3.0);
    const auto audio = read_audio(folder / "tone.aac");
    ASSERT_TRUE(audio);
    EXPECT_EQ(audio->sample_rate_hz, 44100);
    EXPECT_EQ(audio->channels, 2);
    EXPECT_NEAR(audio->duration_s(), 3.0, 0.1);
    int crossings = 0;
    for (std::size_t f = 44100; f < 88200; ++f) crossings += audio->samples[2 * f - 2] < 0 && audio->samples[2 * f] >= 0;
    EXPECT_NEAR(crossings, 440, 2);
}

TEST(FfmpegReader, RefusesWhatIsNoSoundAtAll) {
    const test::TemporaryFolder folder;
    std::ofstream(folder / "a.bin") << std::string(20000, '\x7f');
    EXPECT_EQ(open_with_ffmpeg(folder / "a.bin"), nullptr);
    EXPECT_EQ(open_with_ffmpeg(folder / "none.m4a"), nullptr);
}

TEST(FfmpegReader, ACutFileGivesWhatIsThere) {
    const test::TemporaryFolder folder;
    write_aac(folder / "tone.aac", 440, 4.0);
    std::filesystem::resize_file(folder / "tone.aac", std::filesystem::file_size(folder / "tone.aac") / 2);
    const auto audio = read_audio(folder / "tone.aac");
    ASSERT_TRUE(audio);
    EXPECT_NEAR(audio->duration_s(), 2.0, 0.5);
}

}  // namespace fw

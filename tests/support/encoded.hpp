// SPDX-License-Identifier: GPL-3.0-or-later
// Compressed files made in code with FFmpeg's own encoders.
#pragma once

#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <numbers>
#include <string>
#include <vector>

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
}

namespace fw::test {

/// Making a file in code cannot fail but by a mistake in the code.
inline void need(bool done) {
    if (!done) std::abort();
}

/// A sine in a container ("adts", "mp3", "ogg", "mp4" …) as an encoder makes it.
inline void encode(const std::filesystem::path& path, const char* container, AVCodecID id, double hz, double seconds, int rate = 44100, int channels = 2) {
    av_log_set_level(AV_LOG_QUIET);
    AVFormatContext* format = nullptr;
    need(avformat_alloc_output_context2(&format, nullptr, container, path.c_str()) >= 0);
    const AVCodec* codec = avcodec_find_encoder(id);
    need(codec != nullptr);
    AVCodecContext* encoder = avcodec_alloc_context3(codec);
    encoder->sample_rate = rate;
    encoder->sample_fmt = codec->sample_fmts[0];
    encoder->bit_rate = 128000;
    encoder->strict_std_compliance = FF_COMPLIANCE_EXPERIMENTAL;
    if (format->oformat->flags & AVFMT_GLOBALHEADER) encoder->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    av_channel_layout_default(&encoder->ch_layout, channels);
    need(avcodec_open2(encoder, codec, nullptr) >= 0);
    AVStream* stream = avformat_new_stream(format, nullptr);
    avcodec_parameters_from_context(stream->codecpar, encoder);
    stream->time_base = {1, rate};
    need(avio_open(&format->pb, path.c_str(), AVIO_FLAG_WRITE) >= 0);
    need(avformat_write_header(format, nullptr) >= 0);
    AVFrame* frame = av_frame_alloc();
    frame->nb_samples = encoder->frame_size > 0 ? encoder->frame_size : 1024;
    frame->format = encoder->sample_fmt;
    frame->sample_rate = rate;
    av_channel_layout_copy(&frame->ch_layout, &encoder->ch_layout);
    need(av_frame_get_buffer(frame, 0) >= 0);
    AVPacket* packet = av_packet_alloc();
    const auto drain = [&] {
        while (avcodec_receive_packet(encoder, packet) == 0) {
            av_packet_rescale_ts(packet, encoder->time_base, stream->time_base);
            packet->stream_index = stream->index;
            av_interleaved_write_frame(format, packet);
        }
    };
    const auto sample = static_cast<AVSampleFormat>(frame->format);
    for (int at = 0; at < static_cast<int>(seconds * rate); at += frame->nb_samples) {
        av_frame_make_writable(frame);
        for (int i = 0; i < frame->nb_samples; ++i) {
            const double v = 0.4 * std::sin(2 * std::numbers::pi * hz * (at + i) / rate);
            for (int c = 0; c < channels; ++c) {
                const int plane = av_sample_fmt_is_planar(sample) ? c : 0, place = av_sample_fmt_is_planar(sample) ? i : i * channels + c;
                switch (av_get_packed_sample_fmt(sample)) {
                    case AV_SAMPLE_FMT_FLT: reinterpret_cast<float*>(frame->data[plane])[place] = static_cast<float>(v); break;
                    case AV_SAMPLE_FMT_S32: reinterpret_cast<std::int32_t*>(frame->data[plane])[place] = static_cast<std::int32_t>(v * 2147483000.0); break;
                    default: reinterpret_cast<std::int16_t*>(frame->data[plane])[place] = static_cast<std::int16_t>(v * 32000); break;
                }
            }
        }
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

inline std::string bytes_of(const std::filesystem::path& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

/// Files one behind the other in one, as careless tools join them.
inline void join(const std::filesystem::path& to, const std::vector<std::filesystem::path>& parts) {
    std::ofstream out(to, std::ios::binary);
    for (const auto& part : parts) out << bytes_of(part);
}

}  // namespace fw::test

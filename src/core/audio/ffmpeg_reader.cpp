// SPDX-License-Identifier: GPL-3.0-or-later
#include "audio/ffmpeg_reader.hpp"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/channel_layout.h>
#include <libswresample/swresample.h>
}

#include <algorithm>

namespace fw {

namespace {

class FfmpegReader final : public AudioReader {
public:
    ~FfmpegReader() override {
        swr_free(&resampler_);
        av_frame_free(&frame_);
        av_packet_free(&packet_);
        avcodec_free_context(&codec_);
        avformat_close_input(&format_);
    }

    bool open(const std::string& name) {
        av_log_set_level(AV_LOG_QUIET);  // a library never prints; the error value tells
        if (avformat_open_input(&format_, name.c_str(), nullptr, nullptr) < 0 || avformat_find_stream_info(format_, nullptr) < 0) return false;
        const AVCodec* decoder = nullptr;
        stream_ = av_find_best_stream(format_, AVMEDIA_TYPE_AUDIO, -1, -1, &decoder, 0);
        if (stream_ < 0 || !decoder) return false;
        codec_ = avcodec_alloc_context3(decoder);
        const AVStream* stream = format_->streams[stream_];
        if (!codec_ || avcodec_parameters_to_context(codec_, stream->codecpar) < 0 || avcodec_open2(codec_, decoder, nullptr) < 0) return false;
        if (codec_->sample_rate <= 0 || codec_->ch_layout.nb_channels <= 0) return false;
        rate_ = codec_->sample_rate;
        channels_ = codec_->ch_layout.nb_channels;
        if (stream->duration > 0) stated_ = av_rescale_q(stream->duration, stream->time_base, AVRational{1, rate_});
        if (swr_alloc_set_opts2(&resampler_, &codec_->ch_layout, AV_SAMPLE_FMT_FLT, rate_, &codec_->ch_layout, codec_->sample_fmt, rate_, 0, nullptr) < 0)
            return false;
        packet_ = av_packet_alloc();
        frame_ = av_frame_alloc();
        return swr_init(resampler_) >= 0 && packet_ && frame_;
    }

    int sample_rate_hz() const override { return rate_; }
    int source_channels() const override { return channels_; }
    std::int64_t stated_frames() const override { return stated_; }
    bool damaged() const override { return damaged_; }

protected:
    std::size_t read_raw(std::span<float> out) override {
        const auto channels = static_cast<std::size_t>(channels_);
        const std::size_t wanted = out.size() / channels * channels;
        while (pending_.size() - taken_ < wanted && decode()) {
        }
        const std::size_t got = std::min(wanted, pending_.size() - taken_);
        std::copy_n(pending_.begin() + static_cast<std::ptrdiff_t>(taken_), got, out.begin());
        taken_ += got;
        if (taken_ == pending_.size()) {
            pending_.clear();
            taken_ = 0;
        }
        return got / channels;
    }

private:
    bool decode() {
        for (;;) {
            const int got = avcodec_receive_frame(codec_, frame_);
            if (got == 0) {
                const std::size_t at = pending_.size();
                pending_.resize(at + static_cast<std::size_t>(frame_->nb_samples) * static_cast<std::size_t>(channels_));
                auto* target = reinterpret_cast<std::uint8_t*>(pending_.data() + at);
                const int n = swr_convert(resampler_, &target, frame_->nb_samples, const_cast<const std::uint8_t**>(frame_->extended_data), frame_->nb_samples);
                pending_.resize(at + static_cast<std::size_t>(std::max(0, n)) * static_cast<std::size_t>(channels_));
                av_frame_unref(frame_);
                return true;
            }
            if (got != AVERROR(EAGAIN)) return false;
            const int read = av_read_frame(format_, packet_);
            if (read < 0) {
                if (read != AVERROR_EOF) damaged_ = true;
                if (drained_) return false;
                drained_ = true;
                avcodec_send_packet(codec_, nullptr);
                continue;
            }
            if (packet_->stream_index == stream_ && avcodec_send_packet(codec_, packet_) < 0) damaged_ = true;
            av_packet_unref(packet_);
        }
    }

    AVFormatContext* format_ = nullptr;
    AVCodecContext* codec_ = nullptr;
    SwrContext* resampler_ = nullptr;
    AVPacket* packet_ = nullptr;
    AVFrame* frame_ = nullptr;
    int stream_ = -1, rate_ = 0, channels_ = 0;
    std::int64_t stated_ = 0;
    bool damaged_ = false, drained_ = false;
    std::vector<float> pending_;
    std::size_t taken_ = 0;
};

}  // namespace

std::unique_ptr<AudioReader> open_with_ffmpeg(const std::filesystem::path& path) {
    auto reader = std::make_unique<FfmpegReader>();
    if (!reader->open(path.string())) return nullptr;
    return reader;
}

}  // namespace fw

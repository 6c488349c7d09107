// SPDX-License-Identifier: GPL-3.0-or-later
#include "audio/ffmpeg_reader.hpp"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/channel_layout.h>
#include <libswresample/swresample.h>
}

#include <unistd.h>
#include <algorithm>
#include <cerrno>

namespace fw {

namespace {

/// The containers that hold one recording of their own. Play lists, scripts, devices and collections of pictures are not among them.
constexpr const char* kContainers =
    "aac,ac3,aiff,amr,ape,asf,au,avi,caf,dsf,dts,dtshd,eac3,flac,flv,gsm,ircam,latm,loas,matroska,mlp,mov,mp3,mp4,mpc,mpc8,mpeg,mpegts,nistsphere,nut,"
    "oga,ogg,oma,rm,shn,sox,tak,truehd,tta,voc,w64,wav,webm,wv,xwma";
constexpr int kIoBytes = 1 << 16;

int deny(AVFormatContext*, AVIOContext**, const char*, int, AVDictionary**) { return AVERROR(EPERM); }

int read_bytes(void* file, std::uint8_t* into, int count) {
    for (;;) {
        const ::ssize_t got = ::read(static_cast<FileHandle*>(file)->get(), into, static_cast<std::size_t>(count));
        if (got > 0) return static_cast<int>(got);
        if (got == 0) return AVERROR_EOF;
        if (errno != EINTR) return AVERROR(errno);
    }
}

std::int64_t seek_bytes(void* file, std::int64_t to, int whence) {
    const auto& handle = *static_cast<FileHandle*>(file);
    if (whence & AVSEEK_SIZE) return static_cast<std::int64_t>(size_of(handle));
    const auto at = ::lseek(handle.get(), to, whence & ~AVSEEK_FORCE);
    return at < 0 ? AVERROR(errno) : at;
}

class FfmpegReader final : public AudioReader {
public:
    explicit FfmpegReader(FileHandle file) : file_(std::move(file)) {}
    ~FfmpegReader() override {
        swr_free(&resampler_);
        av_channel_layout_uninit(&layout_);
        av_channel_layout_uninit(&now_layout_);
        av_frame_free(&frame_);
        av_packet_free(&packet_);
        avcodec_free_context(&codec_);
        avformat_close_input(&format_);
        if (io_) av_freep(&io_->buffer);
        avio_context_free(&io_);
    }

    bool open(const std::string& name) {
        av_log_set_level(AV_LOG_QUIET);  // a library never prints; the error value tells
        // Our own descriptor, so that a colon in a name is no protocol and nothing but this file is ever read.
        auto* buffer = static_cast<unsigned char*>(av_malloc(kIoBytes));
        io_ = buffer ? avio_alloc_context(buffer, kIoBytes, 0, &file_, read_bytes, nullptr, seek_bytes) : nullptr;
        format_ = avformat_alloc_context();
        if (!io_ || !format_) return false;
        format_->pb = io_;
        format_->io_open = deny;
        AVDictionary* options = nullptr;
        av_dict_set(&options, "format_whitelist", kContainers, 0);
        const int opened = avformat_open_input(&format_, name.c_str(), nullptr, &options);
        av_dict_free(&options);
        if (opened < 0 || avformat_find_stream_info(format_, nullptr) < 0) return false;
        const AVCodec* decoder = nullptr;
        stream_ = av_find_best_stream(format_, AVMEDIA_TYPE_AUDIO, -1, -1, &decoder, 0);
        if (stream_ < 0 || !decoder) return false;
        codec_ = avcodec_alloc_context3(decoder);
        const AVStream* stream = format_->streams[stream_];
        if (!codec_ || avcodec_parameters_to_context(codec_, stream->codecpar) < 0 || avcodec_open2(codec_, decoder, nullptr) < 0) return false;
        if (codec_->sample_rate <= 0 || codec_->ch_layout.nb_channels <= 0) return false;
        rate_ = codec_->sample_rate;
        if (!copy_layout(layout_, codec_->ch_layout)) return false;
        if (stream->duration > 0) stated_ = std::max<std::int64_t>(0, av_rescale_q(stream->duration, stream->time_base, AVRational{1, rate_}));
        length_is_known_ = stated_ > 0 && format_->duration_estimation_method == AVFMT_DURATION_FROM_STREAM;
        packet_ = av_packet_alloc();
        frame_ = av_frame_alloc();
        return packet_ && frame_;
    }

    int sample_rate_hz() const override { return rate_; }
    int source_channels() const override { return layout_.nb_channels; }
    std::int64_t stated_frames() const override { return stated_; }
    bool damaged() const override { return damaged_; }
    bool changes() const override { return changes_; }

protected:
    std::size_t read_raw(std::span<float> out) override {
        const auto channels = static_cast<std::size_t>(layout_.nb_channels);
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
        done_ += static_cast<std::int64_t>(got / channels);
        // Encoders pad and headers round: only what lacks more than a second was cut.
        if (got < wanted && length_is_known_ && done_ + rate_ < stated_) damaged_ = true;
        return got / channels;
    }

private:
    /// A layout without an order, as some files state, is taken for the usual one of so many channels.
    static bool copy_layout(AVChannelLayout& to, const AVChannelLayout& from) {
        av_channel_layout_uninit(&to);
        if (from.nb_channels <= 0) return false;
        if (from.order == AV_CHANNEL_ORDER_UNSPEC) {
            av_channel_layout_default(&to, from.nb_channels);
            return true;
        }
        return av_channel_layout_copy(&to, &from) >= 0;
    }

    /// Sets the converter up for what the frame holds; false where that cannot be converted.
    bool suit(const AVFrame& frame) {
        if (frame.sample_rate <= 0 || frame.ch_layout.nb_channels <= 0) return false;
        const bool same_layout = now_layout_.nb_channels == frame.ch_layout.nb_channels &&
                                 (frame.ch_layout.order == AV_CHANNEL_ORDER_UNSPEC || av_channel_layout_compare(&now_layout_, &frame.ch_layout) == 0);
        if (resampler_ && same_layout && frame.sample_rate == now_rate_ && frame.format == now_format_) return true;
        if (resampler_) {
            changes_ = true;
            convert(nullptr, 0);  // what the old converter still holds comes first
        }
        swr_free(&resampler_);
        now_rate_ = frame.sample_rate;
        now_format_ = frame.format;
        if (!copy_layout(now_layout_, frame.ch_layout)) return false;
        if (swr_alloc_set_opts2(&resampler_, &layout_, AV_SAMPLE_FMT_FLT, rate_, &now_layout_, static_cast<AVSampleFormat>(now_format_), now_rate_, 0,
                                nullptr) < 0 ||
            swr_init(resampler_) < 0) {
            swr_free(&resampler_);
            return false;
        }
        // A first frame that is not what the header said is converted to what the header said: that was told already.
        changes_ = changes_ || now_rate_ != rate_ || av_channel_layout_compare(&now_layout_, &layout_) != 0;
        return true;
    }

    /// Converts so many samples, or with null what is held back, and adds them to what is pending.
    void convert(const std::uint8_t** data, int count) {
        const int room = swr_get_out_samples(resampler_, count);
        if (room <= 0) return;
        const auto channels = static_cast<std::size_t>(layout_.nb_channels);
        const std::size_t at = pending_.size();
        pending_.resize(at + static_cast<std::size_t>(room) * channels);
        auto* target = reinterpret_cast<std::uint8_t*>(pending_.data() + at);
        const int made = swr_convert(resampler_, &target, room, data, count);
        if (made < 0) damaged_ = true;
        pending_.resize(at + static_cast<std::size_t>(std::max(0, made)) * channels);
    }

    bool decode() {
        for (;;) {
            const int got = avcodec_receive_frame(codec_, frame_);
            if (got == 0) {
                if (suit(*frame_)) convert(const_cast<const std::uint8_t**>(frame_->extended_data), frame_->nb_samples);
                else damaged_ = true;
                av_frame_unref(frame_);
                return true;
            }
            if (got == AVERROR_EOF) {
                if (resampler_) convert(nullptr, 0);
                swr_free(&resampler_);
                return false;
            }
            if (got != AVERROR(EAGAIN)) damaged_ = true;
            if (drained_) return false;
            const int read = av_read_frame(format_, packet_);
            if (read < 0) {
                if (read != AVERROR_EOF) damaged_ = true;
                drained_ = true;
                avcodec_send_packet(codec_, nullptr);
                continue;
            }
            if (packet_->stream_index == stream_ && avcodec_send_packet(codec_, packet_) < 0) damaged_ = true;
            av_packet_unref(packet_);
        }
    }

    FileHandle file_;
    AVIOContext* io_ = nullptr;
    AVFormatContext* format_ = nullptr;
    AVCodecContext* codec_ = nullptr;
    SwrContext* resampler_ = nullptr;
    AVPacket* packet_ = nullptr;
    AVFrame* frame_ = nullptr;
    AVChannelLayout layout_{}, now_layout_{};  // as it is given out; as the converter takes it
    int stream_ = -1, rate_ = 0, now_rate_ = 0, now_format_ = -1;
    std::int64_t stated_ = 0, done_ = 0;
    bool length_is_known_ = false, damaged_ = false, changes_ = false, drained_ = false;
    std::vector<float> pending_;
    std::size_t taken_ = 0;
};

}  // namespace

std::unique_ptr<AudioReader> open_with_ffmpeg(FileHandle file, const std::string& name) {
    auto reader = std::make_unique<FfmpegReader>(std::move(file));
    if (!reader->open(name)) return nullptr;
    return reader;
}

}  // namespace fw

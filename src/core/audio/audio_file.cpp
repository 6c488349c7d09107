// SPDX-License-Identifier: GPL-3.0-or-later
#include "audio/audio_file.hpp"

#include "audio/ffmpeg_reader.hpp"
#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "base/guard.hpp"
#include "base/time.hpp"
#include "dsp/constants.hpp"

#include <ebur128.h>
#include <sndfile.h>
#include <soxr.h>
#include <unistd.h>
#include <xxhash.h>
#include <algorithm>
#include <array>
#include <cctype>
#include <cerrno>
#include <cmath>
#include <future>
#include <new>
#include <optional>
#include <string_view>

namespace fw {

namespace {

constexpr std::size_t kBlockFrames = 1 << 17;

class SndfileReader final : public AudioReader {
public:
    /// The file as long as the reader lives, which is given it back where it is none of libsndfile's.
    explicit SndfileReader(FileHandle& file) : bytes_(std::move(file)) {
        // Through functions of our own: given a descriptor, libsndfile looks for other files beside it, and loses it when it fails.
        SF_VIRTUAL_IO io{};
        io.get_filelen = [](void* user) { return static_cast<sf_count_t>(size_of(*static_cast<FileHandle*>(user))); };
        io.seek = [](sf_count_t to, int whence, void* user) -> sf_count_t { return ::lseek(static_cast<FileHandle*>(user)->get(), to, whence); };
        io.tell = [](void* user) -> sf_count_t { return ::lseek(static_cast<FileHandle*>(user)->get(), 0, SEEK_CUR); };
        io.read = [](void* into, sf_count_t count, void* user) -> sf_count_t {
            sf_count_t done = 0;
            while (done < count) {
                const ::ssize_t got = ::read(static_cast<FileHandle*>(user)->get(), static_cast<char*>(into) + done, static_cast<std::size_t>(count - done));
                if (got < 0 && errno == EINTR) continue;
                if (got <= 0) break;
                done += got;
            }
            return done;
        };
        io.write = [](const void*, sf_count_t, void*) -> sf_count_t { return 0; };
        file_ = sf_open_virtual(&io, SFM_READ, &info_, &bytes_);
        if (!file_) file = std::move(bytes_);
    }
    ~SndfileReader() override {
        if (file_) sf_close(file_);
    }
    bool is_open() const { return file_ && info_.channels > 0 && info_.samplerate > 0; }
    int sample_rate_hz() const override { return info_.samplerate; }
    int source_channels() const override { return info_.channels; }
    std::int64_t stated_frames() const override { return info_.frames == SF_COUNT_MAX ? 0 : std::max<sf_count_t>(0, info_.frames); }
    bool damaged() const override { return damaged_; }

protected:
    std::size_t read_raw(std::span<float> out) override {
        const auto wanted = static_cast<sf_count_t>(out.size() / static_cast<std::size_t>(info_.channels));
        const sf_count_t got = std::max<sf_count_t>(0, sf_readf_float(file_, out.data(), wanted));
        done_ += got;
        // An Ogg file's length is counted from its last page, so a cut one states no more than it holds; of Opus it counts what is trimmed, too.
        const bool states_truly = (info_.format & SF_FORMAT_TYPEMASK) != SF_FORMAT_OGG;
        if (got < wanted && (sf_error(file_) != SF_ERR_NO_ERROR || (states_truly && done_ < stated_frames()))) damaged_ = true;
        return static_cast<std::size_t>(got);
    }

private:
    FileHandle bytes_;
    SNDFILE* file_ = nullptr;
    SF_INFO info_{};
    sf_count_t done_ = 0;
    bool damaged_ = false;
};

/// Whether a file begins as MPEG audio does, by itself or in a WAV. FFmpeg reads that: the decoder libsndfile uses for it prints its complaints to
/// standard error, and calls the end of a whole file damage.
bool holds_mpeg(const FileHandle& file) {
    std::array<char, 4096> head{};
    const ::ssize_t got = ::pread(file.get(), head.data(), head.size(), 0);
    const std::string_view bytes(head.data(), static_cast<std::size_t>(std::max<::ssize_t>(0, got)));
    const auto byte = [&](std::size_t at) { return at < bytes.size() ? static_cast<unsigned char>(bytes[at]) : 0U; };
    if (bytes.starts_with("ID3") || (byte(0) == 0xFF && (byte(1) & 0xE0U) == 0xE0U)) return true;
    if (!bytes.starts_with("RIFF") && !bytes.starts_with("RF64")) return false;
    const auto format = bytes.find("fmt ");
    if (format == std::string_view::npos) return false;
    const unsigned tag = byte(format + 8) | byte(format + 9) << 8;
    return tag == 0x50 || tag == 0x55;  // WAVE_FORMAT_MPEG and WAVE_FORMAT_MPEGLAYER3 of RFC 2361
}

}  // namespace

Result<std::unique_ptr<AudioReader>> AudioReader::open(const std::filesystem::path& path) {
    const std::string name = path.string();
    auto file = open_file(path);
    if (!file) return file.error();
    if (size_of(*file) == 0) return Error{ErrorCode::AudioEmpty, name, "zero bytes"};
    std::unique_ptr<AudioReader> reader;
    if (!holds_mpeg(*file))
        if (auto opened = std::make_unique<SndfileReader>(*file); opened->is_open()) reader = std::move(opened);
    if (!reader && *file && ::lseek(file->get(), 0, SEEK_SET) == 0) reader = open_with_ffmpeg(std::move(*file), path.filename().string());
    if (!reader) return Error{ErrorCode::NotAudio, name, {}};
    if (reader->source_channels() > 32) return Error{ErrorCode::AudioTooManyChannels, name, {}};
    if (reader->sample_rate_hz() < 4000 || reader->sample_rate_hz() > 768000) return Error{ErrorCode::AudioRateOutOfRange, name, {}};
    if (reader->stated_frames() / reader->sample_rate_hz() >= kLongestRecording_s) return Error{ErrorCode::AudioTooLong, name, {}};
    return reader;
}

std::size_t AudioReader::read(std::span<float> out) {
    const auto wide = static_cast<std::size_t>(source_channels()), narrow = static_cast<std::size_t>(channels());
    raw_.resize(out.size() / narrow * wide);
    const std::size_t got = read_raw(raw_);
    // Files from broken tools hold NaN or infinity; one such sample would silence every spectrum it touches. Nearly all blocks hold none,
    // and a count without a branch finds that out several samples at a time.
    const std::span<float> heard = std::span(raw_).first(got * wide);
    int outside = 0;
    for (const float s : heard) outside += !(std::abs(s) <= 8.0F);
    if (outside)
        for (float& s : heard) {
            if (!std::isfinite(s)) not_finite_ = true;
            s = std::isfinite(s) ? std::clamp(s, -8.0F, 8.0F) : 0.0F;
        }
    if (wide == narrow) {
        std::copy(heard.begin(), heard.end(), out.begin());
        return got;
    }
    const float scale = 1.0F / (1.0F + 0.7071F * static_cast<float>(wide - narrow));
    for (std::size_t f = 0; f < got; ++f) {
        const float* frame = &raw_[f * wide];
        float rest = 0.0F;
        for (std::size_t c = 2; c < wide; ++c) rest += frame[c];
        for (std::size_t c = 0; c < narrow; ++c) out[f * narrow + c] = scale * (frame[c] + 0.7071F * rest);
    }
    return got;
}

std::vector<ErrorCode> AudioReader::remarks() const {
    std::vector<ErrorCode> out;
    if (damaged()) out.push_back(ErrorCode::AudioDamaged);
    if (changes()) out.push_back(ErrorCode::AudioChanges);
    if (not_finite_) out.push_back(ErrorCode::AudioNotFinite);
    if (source_channels() > 2) out.push_back(ErrorCode::AudioManyChannels);
    if (sample_rate_hz() <= 16000) out.push_back(ErrorCode::AudioLowRate);
    if (sample_rate_hz() > 96000) out.push_back(ErrorCode::AudioHighRate);
    return out;
}

namespace {

/// Opens a file and reads it to the end, block by block; while one block is decoded the one before is used on another thread. `begin` gets the reader
/// and returns what uses the blocks; `end` makes the result of it.
template <typename T, typename Begin, typename End>
Result<T> stream(const std::filesystem::path& path, const Progress& progress, const Begin& begin, const End& end) {
    return guarded("reading " + path.string(), [&]() -> Result<T> {
        auto opened = AudioReader::open(path);
        if (!opened) return opened.error();
        AudioReader& reader = **opened;
        auto use = begin(reader);
        const auto channels = static_cast<std::size_t>(reader.channels());
        std::array<std::vector<float>, 2> blocks;
        for (auto& block : blocks) block.resize(kBlockFrames * channels);
        std::future<void> in_use;  // after the blocks, so that it has ended before they go
        const auto total = static_cast<double>(reader.stated_frames());
        const auto most = static_cast<std::size_t>(static_cast<std::int64_t>(kLongestRecording_s) * reader.sample_rate_hz());
        std::size_t done = 0;
        for (std::size_t turn = 0;; turn ^= 1) {
            const std::size_t got = reader.read(blocks[turn]);
            if (in_use.valid()) in_use.get();
            if (!got) break;
            done += got;
            if (done > most) return Error{ErrorCode::AudioTooLong, path.string(), {}};
            in_use = std::async(std::launch::async, [&use, block = std::span<const float>(blocks[turn]).first(got * channels)] { use(block); });
            progress.report(total > 0 ? std::min(1.0, static_cast<double>(done) / total) : 0.0, "reading the recording");
        }
        return end(reader);
    });
}

/// Sound to be filled from a reader.
Audio begun(const AudioReader& reader) {
    Audio audio{reader.sample_rate_hz(), reader.channels(), {}, {}};
    // The stated length is a hint from the file, and a hostile file may state anything: room for ten minutes at most is made on its word.
    audio.samples.reserve(static_cast<std::size_t>(std::min<std::int64_t>(reader.stated_frames(), std::int64_t{600} * 48000) * audio.channels));
    return audio;
}

}  // namespace

Result<Audio> read_audio(const std::filesystem::path& path, const Progress& progress) {
    Audio audio;
    return stream<Audio>(
        path, progress,
        [&](const AudioReader& reader) {
            audio = begun(reader);
            return [&](std::span<const float> block) { audio.samples.insert(audio.samples.end(), block.begin(), block.end()); };
        },
        [&](const AudioReader& reader) -> Result<Audio> {
            audio.remarks = reader.remarks();
            if (audio.frames() == 0) return Error{ErrorCode::AudioEmpty, path.string(), {}};
            return std::move(audio);
        });
}

double MonoSignal::duration_s() const { return static_cast<double>(samples.size()) / kAnalysisRate; }

void MonoSignal::copy(std::ptrdiff_t first, std::span<float> out) const {
    const auto size = static_cast<std::ptrdiff_t>(samples.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const std::ptrdiff_t s = first + static_cast<std::ptrdiff_t>(i);
        out[i] = s >= 0 && s < size ? static_cast<float>(samples[static_cast<std::size_t>(s)]) * (2.0F / 32767.0F) : 0.0F;
    }
}

namespace {

/// Turns blocks of interleaved sound into a MonoSignal: mixes, measures loudness, hashes and resamples as they come.
class MonoMaker {
public:
    MonoMaker(int rate, int channels) : channels_(static_cast<std::size_t>(channels)), ratio_(kAnalysisRate / rate) {
        const soxr_quality_spec_t quality = soxr_quality_spec(SOXR_HQ, 0);
        resampler_ = soxr_create(rate, kAnalysisRate, 1, nullptr, nullptr, &quality, nullptr);
        loudness_ = ebur128_init(static_cast<unsigned>(channels), static_cast<unsigned long>(rate), EBUR128_MODE_I);
        hash_ = XXH3_createState();
        if (!resampler_ || !hash_) throw std::bad_alloc();
        XXH3_64bits_reset(hash_);
        result_.source_rate_hz = rate;
    }
    ~MonoMaker() {
        soxr_delete(resampler_);
        if (loudness_) ebur128_destroy(&loudness_);
        XXH3_freeState(hash_);
    }
    MonoMaker(const MonoMaker&) = delete;
    MonoMaker& operator=(const MonoMaker&) = delete;

    void add(std::span<const float> interleaved, bool last) {
        const std::size_t frames = interleaved.size() / channels_;
        frames_ += frames;
        if (loudness_) ebur128_add_frames_float(loudness_, interleaved.data(), frames);
        XXH3_64bits_update(hash_, interleaved.data(), interleaved.size_bytes());
        mono_.resize(frames);
        for (std::size_t f = 0; f < frames; ++f) {
            float sum = 0.0F;
            for (std::size_t c = 0; c < channels_; ++c) sum += interleaved[f * channels_ + c];
            mono_[f] = sum / static_cast<float>(channels_);
        }
        out_.resize(static_cast<std::size_t>(static_cast<double>(frames) * ratio_) + 64);
        std::size_t taken = 0, made = 0;
        do {
            std::size_t used = 0;
            const std::size_t left = mono_.size() - taken;
            // No input at all tells the resampler to give out what it holds.
            if (soxr_process(resampler_, last && left == 0 ? nullptr : mono_.data() + taken, left, &used, out_.data(), out_.size(), &made)) break;
            taken += used;
            for (const float s : std::span(out_).first(made)) {
                peak_ = std::max(peak_, std::abs(s));
                result_.samples.push_back(static_cast<std::int16_t>(std::lrint(std::clamp(s * 0.5F, -1.0F, 1.0F) * 32767.0F)));
            }
        } while (taken < mono_.size() || made == out_.size() || (last && made > 0));
    }

    Result<MonoSignal> finish(const std::string& name, const AudioReader& reader) { return finish(name, reader.source_channels(), reader.remarks()); }

    Result<MonoSignal> finish(const std::string& name, int source_channels, std::vector<ErrorCode> remarks) {
        add({}, true);
        result_.source_channels = source_channels;
        result_.remarks = std::move(remarks);
        result_.source_duration_s = static_cast<double>(frames_) / result_.source_rate_hz;
        if (frames_ == 0) return Error{ErrorCode::AudioEmpty, name, {}};
        if (result_.source_duration_s < 1.0) return Error{ErrorCode::AudioTooShort, name, {}};
        if (peak_ < 1e-4F) return Error{ErrorCode::AudioSilent, name, {}};
        double lufs = -70.0;
        if (loudness_ && ebur128_loudness_global(loudness_, &lufs) == EBUR128_SUCCESS) result_.integrated_lufs = std::max(-70.0, lufs);
        result_.content_hash = XXH3_64bits_digest(hash_);
        return std::move(result_);
    }

private:
    std::size_t channels_;
    double ratio_;
    soxr_t resampler_ = nullptr;
    ebur128_state* loudness_ = nullptr;
    XXH3_state_t* hash_ = nullptr;
    std::vector<float> mono_, out_;
    std::size_t frames_ = 0;
    float peak_ = 0.0F;
    MonoSignal result_;
};

}  // namespace

Result<MonoSignal> read_mono(const std::filesystem::path& path, const Progress& progress, const std::function<void(const SoundFormat&)>& begin,
                             const std::function<void(std::span<const float>)>& also) {
    std::optional<MonoMaker> maker;
    return stream<MonoSignal>(
        path, progress,
        [&](const AudioReader& reader) {
            maker.emplace(reader.sample_rate_hz(), reader.channels());
            if (begin) begin({reader.sample_rate_hz(), reader.channels(), reader.stated_frames()});
            return [&](std::span<const float> block) {
                maker->add(block, false);
                if (also) also(block);
            };
        },
        [&](const AudioReader& reader) { return maker->finish(path.string(), reader); });
}

Result<Recording> read_recording(const std::filesystem::path& path, const Progress& progress) {
    Audio audio;
    std::optional<MonoMaker> maker;
    return stream<Recording>(
        path, progress,
        [&](const AudioReader& reader) {
            audio = begun(reader);
            maker.emplace(reader.sample_rate_hz(), reader.channels());
            return [&](std::span<const float> block) {
                audio.samples.insert(audio.samples.end(), block.begin(), block.end());
                maker->add(block, false);
            };
        },
        [&](const AudioReader& reader) -> Result<Recording> {
            audio.remarks = reader.remarks();
            auto mono = maker->finish(path.string(), reader);
            if (!mono) return mono.error();
            return Recording{std::move(audio), std::move(*mono)};
        });
}

Result<MonoSignal> make_mono(const Audio& audio, const std::string& name, const Progress& progress) {
    if (audio.channels <= 0 || audio.sample_rate_hz <= 0) return Error{ErrorCode::AudioEmpty, name, {}};
    return guarded("reading " + name, [&]() -> Result<MonoSignal> {
        MonoMaker maker(audio.sample_rate_hz, audio.channels);
        const std::size_t step = kBlockFrames * static_cast<std::size_t>(audio.channels);
        for (std::size_t at = 0; at < audio.samples.size(); at += step) {
            maker.add(std::span(audio.samples).subspan(at, std::min(step, audio.samples.size() - at)), false);
            progress.report(static_cast<double>(at) / static_cast<double>(audio.samples.size()), "reading the recording");
        }
        return maker.finish(name, audio.channels, audio.remarks);
    });
}

Status write_audio(const std::filesystem::path& path, int sample_rate_hz, int channels, std::int64_t frames,
                   const std::function<bool(const SoundSink&)>& make) {
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    SF_INFO info{};
    info.samplerate = sample_rate_hz;
    info.channels = channels;
    const bool beyond_wav = frames * channels * 3 > std::int64_t{4'000'000'000};
    if (ending == ".wav") info.format = (beyond_wav ? SF_FORMAT_RF64 : SF_FORMAT_WAV) | SF_FORMAT_PCM_24;
    else if (ending == ".flac") info.format = SF_FORMAT_FLAC | SF_FORMAT_PCM_24;
    else if (ending == ".ogg") info.format = SF_FORMAT_OGG | SF_FORMAT_VORBIS;
    else return Error{ErrorCode::EndingUnknown, path.string(), {}};
    return write_atomically(path, [&](int fd) {
        const auto close = [](SNDFILE* f) { return f ? sf_close(f) : 0; };
        std::unique_ptr<SNDFILE, decltype(close)> file(sf_open_fd(fd, SFM_WRITE, &info, SF_FALSE), close);
        if (!file) return false;
        sf_command(file.get(), SFC_SET_CLIPPING, nullptr, SF_TRUE);
        const bool made = make([&](std::span<const float> block) {
            const auto count = static_cast<sf_count_t>(block.size()) / channels;
            return sf_writef_float(file.get(), block.data(), count) == count;
        });
        return sf_close(file.release()) == 0 && made;
    });
}

Status write_audio(const std::filesystem::path& path, const Audio& audio) {
    return write_audio(path, audio.sample_rate_hz, audio.channels, static_cast<std::int64_t>(audio.frames()), [&](const SoundSink& sink) {
        const std::size_t step = (std::size_t{1} << 16) * static_cast<std::size_t>(audio.channels);
        for (std::size_t at = 0; at < audio.samples.size(); at += step)
            if (!sink(std::span(audio.samples).subspan(at, std::min(step, audio.samples.size() - at)))) return false;
        return true;
    });
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/progress.hpp"
#include "base/result.hpp"

#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace fw {

/// Sound in memory: interleaved float samples, full scale ±1.
struct Audio {
    int sample_rate_hz = 0;
    int channels = 0;
    std::vector<float> samples;
    std::vector<ErrorCode> remarks;  ///< what a user should know about it, as AudioReader::remarks tells

    std::size_t frames() const noexcept { return channels > 0 ? samples.size() / static_cast<std::size_t>(channels) : 0; }
    double duration_s() const noexcept { return sample_rate_hz > 0 ? static_cast<double>(frames()) / sample_rate_hz : 0.0; }
};

/// Reads a sound file piece by piece: libsndfile first, FFmpeg's libraries for MP3 and what that cannot read. Gives one or two
/// channels: further ones are added to both at -3 dB, scaled so that nothing clips. Samples that are not finite come out as silence. Errors of open:
/// those of open_file, NotAudio, AudioEmpty, AudioTooManyChannels, AudioRateOutOfRange, AudioTooLong (over kLongestRecording_s by what the file states). Not
/// thread-safe.
class AudioReader {
public:
    static Result<std::unique_ptr<AudioReader>> open(const std::filesystem::path& path);
    virtual ~AudioReader() = default;

    virtual int sample_rate_hz() const = 0;
    virtual int source_channels() const = 0;
    int channels() const { return source_channels() < 2 ? source_channels() : 2; }
    /// Length in frames as the file states it; 0 where it does not say.
    virtual std::int64_t stated_frames() const = 0;
    /// Fills at most out.size()/channels frames; returns the frames read, 0 at the end.
    std::size_t read(std::span<float> out);
    /// What a user should know about the file, in sentences (AudioDamaged, AudioChanges, AudioNotFinite, AudioManyChannels, AudioLowRate,
    /// AudioHighRate); complete once everything was read.
    std::vector<ErrorCode> remarks() const;

protected:
    /// Fills at most out.size()/source_channels frames; returns the frames read, 0 at the end.
    virtual std::size_t read_raw(std::span<float> out) = 0;
    /// True once reading ended before the stated length or in an error.
    virtual bool damaged() const = 0;
    /// True once channels, rate or sample format changed on the way.
    virtual bool changes() const { return false; }

private:
    std::vector<float> raw_;
    bool not_finite_ = false;
};

/// Reads a whole file.
Result<Audio> read_audio(const std::filesystem::path& path, const Progress& progress = {});

/// Mono sound at the analysis rate (22 050 Hz), two bytes a sample so that two hours fit in memory.
/// Range ±2, resolution -90 dB below full scale.
struct MonoSignal {
    std::vector<std::int16_t> samples;
    int source_rate_hz = 0;
    int source_channels = 0;
    double source_duration_s = 0.0;
    double integrated_lufs = 0.0;    ///< ITU-R BS.1770-4, of the source
    std::uint64_t content_hash = 0;  ///< XXH3 of the samples as AudioReader gives them: the same music gives the same hash in any container
    std::vector<ErrorCode> remarks;  ///< as in Audio

    double duration_s() const;
    /// Copies samples first .. first+out.size()-1, silence outside.
    void copy(std::ptrdiff_t first, std::span<float> out) const;
};

/// What a file says of its sound before any of it is read.
struct SoundFormat {
    int sample_rate_hz = 0, channels = 0;
    std::int64_t stated_frames = 0;  ///< 0 where it does not say
};

/// Streams a file into a MonoSignal; memory does not grow with the file beyond the result. Refuses what is too short (under a second) or silent.
/// For what else wants to be made of the sound at the same time: `begin` is told what comes, then `also` gets every block, on another thread.
Result<MonoSignal> read_mono(const std::filesystem::path& path, const Progress& progress = {}, const std::function<void(const SoundFormat&)>& begin = {},
                             const std::function<void(std::span<const float> interleaved)>& also = {});
/// A file's sound and the signal the analysis listens to, made while the file is decoded. Refuses what read_mono refuses.
struct Recording {
    Audio sound;
    MonoSignal mono;
};
Result<Recording> read_recording(const std::filesystem::path& path, const Progress& progress = {});
/// A MonoSignal from sound already in memory; name stands for the file in messages.
Result<MonoSignal> make_mono(const Audio& audio, const std::string& name, const Progress& progress = {});

/// Takes interleaved samples in order; false once no more can be taken.
using SoundSink = std::function<bool(std::span<const float> interleaved)>;

/// Writes sound as it is made, in the format the name's ending says (in capitals or not): .wav (24 bit, RF64 beyond 4 GB), .flac (24 bit) or .ogg; any
/// other is refused (EndingUnknown). `make` hands its sound to the sink, block by block, and may throw. frames: how many will come, at least about.
/// Whole or not at all, as write_atomically.
Status write_audio(const std::filesystem::path& path, int sample_rate_hz, int channels, std::int64_t frames, const std::function<bool(const SoundSink&)>& make);
Status write_audio(const std::filesystem::path& path, const Audio& audio);

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
// One recorded sound, played faster and slower. Between samples by cubic Hermite interpolation; what is played more than an octave above its root loses no
// highs, which then fold back.
#include "audio/audio_file.hpp"
#include "base/pitch.hpp"
#include "sound/catalogue.hpp"
#include "sound/envelope.hpp"
#include "sound/smoothed.hpp"
#include "sound/svf.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

constexpr double kLongest_s = 120.0;

enum Field {
    kRoot,
    kTune,
    kStart,
    kLength,
    kReverse,
    kLoop,
    kLoopStart,
    kCrossfade,
    kOneShot,
    kPlay,
    kGlide,
    kAttack,
    kDecay,
    kSustain,
    kRelease,
    kCutoff,
    kResonance,
    kVelocity,
    kCount
};
constexpr std::array<const char*, 2> kPlays{"poly", "mono"};
constexpr const char *kSoundGroup = "Sound", *kLoopGroup = "Loop", *kPlayGroup = "Playing", *kShapeGroup = "Level and filter";
constexpr std::array<Parameter, kCount> kFields{{
    {"root", "Root", Unit::Pitch, 0.0, 127.0, 60.0, Scale::Whole, 1.0, false, "The key at which the sound has its own pitch", {}, kSoundGroup},
    {"tune", "Tune", Unit::Cents, -100.0, 100.0, 0.0, Scale::Linear, 1.0, true, "Up or down besides", {}, kSoundGroup},
    {"start", "Start", Unit::Share, 0.0, 0.99, 0.0, Scale::Linear, 0.005, false, "Where in the sound a note begins", {}, kSoundGroup},
    {"length", "Length", Unit::Share, 0.01, 1.0, 1.0, Scale::Linear, 0.005, false, "How much of what comes from there on is played", {}, kSoundGroup},
    {"reverse", "Reverse", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "From its end to its beginning", {}, kSoundGroup},
    {"loop", "Loop", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "A held note goes round in its later part instead of ending", {}, kLoopGroup},
    {"loop_start", "Loop start", Unit::Share, 0.0, 0.99, 0.5, Scale::Linear, 0.005, false, "Where in what is played the round begins", {}, kLoopGroup},
    {"crossfade", "Crossfade", Unit::Share, 0.0, 0.5, 0.1, Scale::Linear, 0.01, false, "How much of the round leads over into its beginning", {}, kLoopGroup},
    {"one_shot", "One-shot", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "Plays to its end, however short the note", {}, kPlayGroup},
    {"play", "Voices", Unit::None, 0.0, 1.0, 0.0, Scale::Choice, 1.0, false, "Mono: each note cuts the one before", kPlays, kPlayGroup},
    {"glide_ms", "Glide", Unit::Milliseconds, 0.0, 3000.0, 0.0, Scale::Linear, 5.0, true, "From note to note, where they are mono", {}, kPlayGroup},
    {"attack_ms", "Attack", Unit::Milliseconds, 0.5, 5000.0, 1.0, Scale::Logarithmic, 0.05, true, "Until a note is at its loudest", {}, kShapeGroup},
    {"decay_ms", "Decay", Unit::Milliseconds, 5.0, 10000.0, 500.0, Scale::Logarithmic, 0.05, true, "From there to what is held", {}, kShapeGroup},
    {"sustain", "Sustain", Unit::Share, 0.0, 1.0, 1.0, Scale::Linear, 0.02, true, "What is held", {}, kShapeGroup},
    {"release_ms", "Release", Unit::Milliseconds, 1.0, 10000.0, 60.0, Scale::Logarithmic, 0.05, true, "Until it is silent after its end", {}, kShapeGroup},
    {"cutoff", "Cutoff", Unit::Hertz, 20.0, 20000.0, 20000.0, Scale::Logarithmic, 0.02, true, "A low-pass; fully open it is not there", {}, kShapeGroup},
    {"resonance", "Resonance", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "How much it rings at the cutoff", {}, kShapeGroup},
    {"velocity", "Velocity", Unit::Share, 0.0, 1.0, 0.8, Scale::Linear, 0.02, true, "How far soft notes are softer", {}, kPlayGroup},
}};

/// Stereo, with two samples of silence on either side for the interpolation.
struct Recorded {
    static constexpr std::size_t kEdge = 2;
    std::vector<float> left, right;
    double rate_hz = 44100.0;
    std::size_t frames() const { return left.size() - 2 * kEdge; }
    void make_room(std::size_t frames) { left.assign(frames + 2 * kEdge, 0.0F), right.assign(frames + 2 * kEdge, 0.0F); }
};

/// What sounds until a file is chosen: a struck bar at C4.
Recorded struck_bar() {
    Recorded r;
    r.make_room(static_cast<std::size_t>(r.rate_hz * 1.5));
    for (std::size_t i = 0; i < r.frames(); ++i) {
        const double t = static_cast<double>(i) / r.rate_hz, turn = 2.0 * std::numbers::pi * hertz_of(60) * t;
        const double s = (0.5 * std::exp(-3.0 * t) * std::sin(turn) + 0.15 * std::exp(-9.0 * t) * std::sin(4.0 * turn)) * std::min(1.0, t / 0.001);
        r.left[i + Recorded::kEdge] = r.right[i + Recorded::kEdge] = static_cast<float>(s);
    }
    return r;
}

Recorded recorded_of(const Audio& audio) {
    Recorded r;
    r.rate_hz = audio.sample_rate_hz;
    r.make_room(audio.frames());
    const auto channels = static_cast<std::size_t>(audio.channels);
    for (std::size_t i = 0; i < r.frames(); ++i) {
        r.left[i + Recorded::kEdge] = audio.samples[i * channels];
        r.right[i + Recorded::kEdge] = audio.samples[i * channels + (channels > 1 ? 1 : 0)];
    }
    return r;
}

Result<Recorded> read_recorded(const std::string& path) {
    const auto reader = AudioReader::open(path);
    if (!reader) return reader.error();
    AudioReader& in = **reader;
    const auto channels = static_cast<std::size_t>(in.channels());
    const auto most = static_cast<std::size_t>(kLongest_s * in.sample_rate_hz());
    Audio audio{in.sample_rate_hz(), in.channels(), {}, {}};
    std::vector<float> block(4096 * channels);
    while (const std::size_t got = in.read(block)) {
        audio.samples.insert(audio.samples.end(), block.begin(), block.begin() + static_cast<std::ptrdiff_t>(got * channels));
        if (audio.frames() > most) return Error{ErrorCode::SampleTooLong, path, {}};
    }
    return recorded_of(audio);
}

float between(const std::vector<float>& x, std::size_t at, float f) noexcept {
    const float a = x[at - 1], b = x[at], c = x[at + 1], d = x[at + 2];
    return b + 0.5F * f * (c - a + f * (2.0F * a - 5.0F * b + 4.0F * c - d + f * (3.0F * (b - c) + d - a)));
}

struct Voice {
    VoiceId id = 0;
    int key = 0;
    bool active = false, held = false, cut = false;
    double at = 0.0, cents = 0.0;  ///< frames from where a note begins
    double glide = 0.0, glide_step = 0.0;
    float gain = 0.0F, fade = 1.0F;
    Envelope<kSlice> level;
    Svf filter;
};

class Sampler final : public Processor {
public:
    Sampler(Recorded sound, const SourceSpec& spec, double rate) : sound_(std::move(sound)), rate_(rate), tuning_cents_(spec.tuning_cents), smoothed_(rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    double tail_s() const noexcept override { return 10.0; }
    bool idle() const noexcept override {
        return std::none_of(voices_.begin(), voices_.end(), [](const Voice& v) { return v.active; });
    }
    void note_on(VoiceId id, int key, int velocity) noexcept override {
        const bool mono = smoothed_.target(kPlay) >= 0.5;
        double from = 0.0;
        if (mono)
            for (Voice& v : voices_)
                if (v.active && !v.cut) v.cut = true, from = 100.0 * (v.key - key) + v.glide;
        Voice* voice = &voices_.front();
        for (Voice& v : voices_) {
            if (!v.active) {
                voice = &v;
                break;
            }
            if (v.held != voice->held ? !v.held : v.at > voice->at) voice = &v;  // released ones go first, then the oldest
        }
        const auto depth = smoothed_.target(kVelocity), glide_ms = smoothed_.target(kGlide);
        *voice = Voice{};
        voice->id = id, voice->key = key, voice->active = voice->held = true;
        voice->gain = static_cast<float>(1.0 - depth + depth * std::pow(velocity / 127.0, 1.5));
        if (mono && glide_ms >= 1.0 && from != 0.0) voice->glide = from, voice->glide_step = std::abs(from) / (glide_ms / 1000.0 * rate_);
        shape(*voice);
        voice->level.start();
    }
    void note_off(VoiceId id) noexcept override {
        if (smoothed_.target(kOneShot) >= 0.5) return;
        for (Voice& v : voices_)
            if (v.id == id && v.active) v.held = false, v.level.stop();
    }
    void bend(VoiceId id, double cents) noexcept override {
        for (Voice& v : voices_)
            if (v.active && v.id == id) v.cents = cents;
    }
    void reset() noexcept override {
        for (Voice& v : voices_) v = Voice{};
        smoothed_.reset();
    }
    void process(Stereo io, Stereo) noexcept override {
        const bool changed = smoothed_.advance(io.size());
        for (Voice& v : voices_)
            if (v.active) {
                if (changed) shape(v);
                render(v, io);
            }
    }

private:
    void shape(Voice& v) noexcept {
        v.level.set(smoothed_.target(kAttack), smoothed_.target(kDecay), smoothed_.target(kSustain), smoothed_.target(kRelease), 0.25, rate_);
    }

    void render(Voice& v, Stereo io) noexcept {
        const double frames = static_cast<double>(sound_.frames()), first = smoothed_.target(kStart) * frames;
        const double length = std::max(2.0, (frames - first) * smoothed_.target(kLength));
        const bool loops = smoothed_.target(kLoop) >= 0.5, reversed = smoothed_.target(kReverse) >= 0.5;
        const double round_at = length * smoothed_.target(kLoopStart), round = std::max(2.0, length - round_at);
        const double blend = std::min(round * smoothed_.target(kCrossfade), round_at);  // the lead-in is what stands before the round
        const double step =
            std::exp2((v.key - smoothed_.target(kRoot)) / 12.0 + (smoothed_[kTune] + v.cents + v.glide + tuning_cents_) / 1200.0) * sound_.rate_hz / rate_;
        if (v.glide != 0.0) v.glide = std::copysign(std::max(0.0, std::abs(v.glide) - v.glide_step * static_cast<double>(io.size())), v.glide);
        const auto place = [&](double at) { return first + (reversed ? length - at : at); };
        const auto cut = static_cast<float>(std::exp(-1.0 / (0.002 * rate_)));
        Envelope<kSlice>::Stretch level;
        v.level.next(io.size(), level);
        std::array<float, kSlice> left{}, right{};
        std::size_t made = 0;
        for (; made < io.size(); ++made) {
            if (loops)
                while (v.at >= length) v.at -= round;
            // A sound that ends where it is not silent is let down over its last two milliseconds.
            const double rest = (length - v.at) / step;
            if (!loops && rest <= 0.0) {
                v.active = false;
                break;
            }
            auto [l, r] = heard(place(v.at));
            if (const double into = v.at - (length - blend); loops && blend >= 1.0 && into > 0.0) {
                const auto share = static_cast<float>(into / blend);
                const auto [next_left, next_right] = heard(place(v.at - round));
                l += share * (next_left - l), r += share * (next_right - r);
            }
            if (v.cut) v.fade *= cut;
            const float gain = v.gain * v.fade * level[made] * (loops ? 1.0F : static_cast<float>(std::min(1.0, rest / (0.002 * rate_))));
            left[made] = gain * l;
            right[made] = gain * r;
            v.at += step;
        }
        if (smoothed_[kCutoff] < 19500.0) {
            v.filter.low_pass(smoothed_[kCutoff], 0.5 / (1.0 - 0.95 * smoothed_[kResonance]) + 0.207, rate_);
            v.filter.process({std::span(left).first(made), std::span(right).first(made)});
        }
        for (std::size_t i = 0; i < made; ++i) io.left[i] += left[i], io.right[i] += right[i];
        if (v.level.idle() || v.fade < 1e-4F) v.active = false;
    }
    std::pair<float, float> heard(double frame) const noexcept {
        const double clipped = std::clamp(frame, 0.0, static_cast<double>(sound_.frames()));
        const auto whole = static_cast<std::size_t>(clipped);
        const auto f = static_cast<float>(clipped - static_cast<double>(whole));
        const std::size_t at = std::min(whole + Recorded::kEdge, sound_.left.size() - 3);
        return {between(sound_.left, at, f), between(sound_.right, at, f)};
    }

    Recorded sound_;
    double rate_, tuning_cents_;
    Smoothed<kCount> smoothed_;
    std::array<Voice, 32> voices_{};
};

const std::vector<std::string>& no_patches() {
    static const std::vector<std::string> none;
    return none;
}

}  // namespace

const SourceType kSampler{"sampler",
                          "Sampler",
                          "A sound file across the keys",
                          kFields,
                          no_patches,
                          [](const std::string&, std::size_t field) { return kFields[field].neutral; },
                          [](const SourceSpec& spec, double rate) -> Result<std::unique_ptr<Processor>> {
                              if (spec.sound) return std::unique_ptr<Processor>(std::make_unique<Sampler>(recorded_of(*spec.sound), spec, rate));
                              if (spec.file.empty()) return std::unique_ptr<Processor>(std::make_unique<Sampler>(struck_bar(), spec, rate));
                              auto sound = read_recorded(spec.file);
                              if (!sound) return sound.error();
                              return std::unique_ptr<Processor>(std::make_unique<Sampler>(std::move(*sound), spec, rate));
                          }};

}  // namespace fw

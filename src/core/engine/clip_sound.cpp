// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/clip_sound.hpp"

#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "engine/offline.hpp"
#include "engine/transition.hpp"
#include "engine/voice_mending.hpp"
#include "model/recipe.hpp"

#include <rubberband/RubberBandStretcher.h>
#include <sys/mman.h>
#include <algorithm>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

Audio span_of(const Audio& whole, double start_s, double end_s) {
    Audio out{whole.sample_rate_hz, whole.channels, {}, {}};
    const auto channels = static_cast<std::size_t>(whole.channels);
    const auto frame = [&](double s) { return std::min(whole.frames(), static_cast<std::size_t>(std::llround(std::max(0.0, s) * whole.sample_rate_hz))); };
    const std::size_t a = frame(start_s), b = std::max(a, frame(end_s));
    out.samples.assign(whole.samples.begin() + static_cast<std::ptrdiff_t>(a * channels), whole.samples.begin() + static_cast<std::ptrdiff_t>(b * channels));
    return out;
}

/// Reads only the span.
Result<Audio> read_span(const std::filesystem::path& path, double start_s, double end_s) {
    auto reader = AudioReader::open(path);
    if (!reader) return reader.error();
    Audio out{(*reader)->sample_rate_hz(), (*reader)->channels(), {}, {}};
    const auto channels = static_cast<std::size_t>(out.channels);
    const auto first = static_cast<std::size_t>(std::llround(std::max(0.0, start_s) * out.sample_rate_hz)),
               last = static_cast<std::size_t>(std::llround(std::max(0.0, end_s) * out.sample_rate_hz));
    std::vector<float> block(4096 * channels);
    std::size_t at = 0;
    while (at < last) {
        const std::size_t got = (*reader)->read(block);
        if (got == 0) break;
        const std::size_t from = std::clamp(first, at, at + got) - at, to = std::clamp(last, at, at + got) - at;
        out.samples.insert(out.samples.end(), block.begin() + static_cast<std::ptrdiff_t>(from * channels),
                           block.begin() + static_cast<std::ptrdiff_t>(to * channels));
        at += got;
    }
    return out;
}

/// From the remake's own copy where there is one, else from the file; or made.
Result<Audio> read_asset(const Asset& asset) {
    if (asset.made.kind != Transition::None) {
        constexpr double kMade_hz = 48000.0;
        return transition_sound(asset.made, asset.end_s - asset.start_s, kMade_hz);
    }
    if (asset.bytes->empty()) return read_span(asset.path, asset.start_s, asset.end_s);
    // Readers take files; this one is in memory alone.
    const FileHandle file(::memfd_create("asset", MFD_CLOEXEC));
    if (!file || !write_all(file.get(), asset.bytes->data(), asset.bytes->size())) return Error{ErrorCode::OutOfMemory, "reading " + asset.name, {}};
    return read_span("/proc/self/fd/" + std::to_string(file.get()), asset.start_s, asset.end_s);
}

/// A piece of the original that was freed of its neighbours lies in a file of its own.
bool in_recording(const Asset& asset) { return asset.origin == AssetOrigin::Original && asset.path.empty(); }

void fade(Audio& a, double in_ms, double out_ms) {
    const std::size_t frames = a.frames();
    const auto length = [&](double ms) { return std::min(frames, static_cast<std::size_t>(ms / 1000.0 * a.sample_rate_hz)); };
    const std::size_t in = length(in_ms), out = length(out_ms);
    const auto gain = [](std::size_t i, std::size_t n) {
        return static_cast<float>(0.5 - 0.5 * std::cos(std::numbers::pi * (static_cast<double>(i) + 0.5) / static_cast<double>(n)));
    };
    for (std::size_t i = 0; i < in; ++i) a.samples[2 * i] *= gain(i, in), a.samples[2 * i + 1] *= gain(i, in);
    for (std::size_t i = 0; i < out; ++i) a.samples[2 * (frames - 1 - i)] *= gain(i, out), a.samples[2 * (frames - 1 - i) + 1] *= gain(i, out);
}

void stretch(Audio& a, double ratio, double semitones, bool formants = false) {
    // At a tenth and below the library reads behind its own buffers (valgrind; at a quarter it does not): what is squeezed more is squeezed again.
    constexpr double kLeast = 0.25;
    while (ratio < kLeast && a.frames() > 0) {
        stretch(a, kLeast, 0.0);
        ratio /= kLeast;
    }
    if (a.frames() == 0 || (ratio == 1.0 && semitones == 0.0)) return;
    using Stretcher = RubberBand::RubberBandStretcher;
    Stretcher stretcher(static_cast<std::size_t>(a.sample_rate_hz), 2,
                        Stretcher::OptionProcessOffline | Stretcher::OptionThreadingNever | Stretcher::OptionChannelsTogether | Stretcher::OptionEngineFiner |
                            (formants ? Stretcher::OptionFormantPreserved : Stretcher::OptionFormantShifted),
                        ratio, std::exp2(semitones / 12.0));
    const std::size_t frames = a.frames();
    std::vector<float> left(frames), right(frames);
    for (std::size_t i = 0; i < frames; ++i) left[i] = a.samples[2 * i], right[i] = a.samples[2 * i + 1];
    const float* in[2] = {left.data(), right.data()};
    stretcher.setExpectedInputDuration(frames);
    constexpr std::size_t kBlock = 1024;
    stretcher.setMaxProcessSize(kBlock);
    stretcher.study(in, frames, true);
    a.samples.clear();
    std::vector<float> l(kBlock), r(kBlock);
    for (std::size_t at = 0; at < frames; at += kBlock) {
        const float* block[2] = {left.data() + at, right.data() + at};
        stretcher.process(block, std::min(kBlock, frames - at), at + kBlock >= frames);
        while (stretcher.available() > 0) {
            float* out[2] = {l.data(), r.data()};
            const std::size_t got = stretcher.retrieve(out, std::min(kBlock, static_cast<std::size_t>(stretcher.available())));
            for (std::size_t i = 0; i < got; ++i) a.samples.push_back(l[i]), a.samples.push_back(r[i]);
        }
    }
}

/// Each stretch between two marks by itself, so that what is struck at a mark is heard there to the sample: a stretcher that is told of all of them at once is
/// up to 5 ms off. Cuts lie just before the marks and are faded over, where a stroke has not begun yet.
void warp(Audio& a, const std::vector<WarpMark>& marks) {
    constexpr double kJoin_s = 0.004;
    const double rate = a.sample_rate_hz;
    const std::size_t frames = a.frames(), join = static_cast<std::size_t>(kJoin_s * rate);
    struct Cut {
        std::size_t from, to;
    };
    std::vector<Cut> cuts{{0, 0}};
    const auto add = [&](double from, double to) {
        // What is left of a stretch has to be more than its joint.
        const auto least = [&](std::size_t before) { return static_cast<double>(before + 2 * join); };
        if (from < least(cuts.back().from) || to < least(cuts.back().to)) return;
        if (from > static_cast<double>(frames) - 2.0 * static_cast<double>(join) || to > static_cast<double>(frames) - 2.0 * static_cast<double>(join)) return;
        cuts.push_back({static_cast<std::size_t>(from), static_cast<std::size_t>(to)});
    };
    for (const WarpMark& m : marks)
        add(std::round(m.from_ms / 1000.0 * rate) - static_cast<double>(join), std::round(m.to_ms / 1000.0 * rate) - static_cast<double>(join));
    if (cuts.size() < 2) return;
    cuts.push_back({frames, frames});
    Audio out{a.sample_rate_hz, 2, std::vector<float>(2 * frames, 0.0F), {}};
    for (std::size_t i = 0; i + 1 < cuts.size(); ++i) {
        const bool last = i + 2 == cuts.size();
        const std::size_t over = last ? 0 : join, is = cuts[i + 1].from + over - cuts[i].from, wanted = cuts[i + 1].to + over - cuts[i].to;
        Audio piece{a.sample_rate_hz, 2, {}, {}};
        piece.samples.assign(a.samples.begin() + static_cast<std::ptrdiff_t>(2 * cuts[i].from),
                             a.samples.begin() + static_cast<std::ptrdiff_t>(2 * (cuts[i].from + is)));
        if (is != wanted) stretch(piece, static_cast<double>(wanted) / static_cast<double>(is), 0.0);
        piece.samples.resize(2 * wanted, 0.0F);
        for (std::size_t k = 0; k < wanted; ++k) {
            float gain = 1.0F;
            const auto way = [&](std::size_t at) {
                return static_cast<float>(0.5 - 0.5 * std::cos(std::numbers::pi * (static_cast<double>(at) + 0.5) / static_cast<double>(join)));
            };
            if (i > 0 && k < join) gain *= way(k);
            if (!last && k + join >= wanted) gain *= way(wanted - 1 - k);
            for (std::size_t c = 0; c < 2; ++c) out.samples[2 * (cuts[i].to + k) + c] += gain * piece.samples[2 * k + c];
        }
    }
    a = std::move(out);
}

/// Both sides as strong as their mean, as far as asked. A side that has next to nothing is given the other's sound: no gain brings it back.
void even_sides(Audio& a, double strength) {
    constexpr double kSilent = 1e-6;  // of the other's power
    double power[2] = {0.0, 0.0};
    for (std::size_t i = 0; i < a.samples.size(); ++i) power[i % 2] += static_cast<double>(a.samples[i]) * static_cast<double>(a.samples[i]);
    const double strong = std::max(power[0], power[1]), weak = std::min(power[0], power[1]);
    if (strong <= 0.0 || strength <= 0.0) return;
    const std::size_t stronger = power[0] >= power[1] ? 0 : 1;
    if (weak < kSilent * strong) {
        // As loud together as it was on one side.
        const auto keeps = static_cast<float>(1.0 - strength * (1.0 - std::numbers::sqrt2 / 2.0)),
                   gets = static_cast<float>(strength * std::numbers::sqrt2 / 2.0);
        for (std::size_t f = 0; f < a.frames(); ++f) {
            const float s = a.samples[2 * f + stronger];
            a.samples[2 * f + stronger] = keeps * s;
            a.samples[2 * f + 1 - stronger] = gets * s;
        }
        return;
    }
    const double mean = 0.5 * (strong + weak);
    float gains[2];
    for (std::size_t c = 0; c < 2; ++c) gains[c] = static_cast<float>(std::pow(mean / power[c], 0.5 * strength));
    for (std::size_t i = 0; i < a.samples.size(); ++i) a.samples[i] *= gains[i % 2];
}

/// Read slower and slower until it stands: the speed falls evenly from 1 to 0, so the stretch it takes from the sound is half as long as it lasts.
void stop(Audio& a, double over_ms) {
    const std::size_t frames = a.frames();
    const double over = std::min(over_ms / 1000.0 * a.sample_rate_hz, 2.0 * static_cast<double>(frames));
    if (over < 2.0) return;
    const double from = static_cast<double>(frames) - 0.5 * over;
    Audio out{a.sample_rate_hz, 2, {}, {}};
    out.samples.assign(a.samples.begin(), a.samples.begin() + 2 * static_cast<std::ptrdiff_t>(from));
    for (double t = 1.0 - (from - std::floor(from)); t < over; t += 1.0) {
        const double at = from + t - 0.5 * t * t / over;
        const auto i = static_cast<std::size_t>(at);
        const auto part = static_cast<float>(at - static_cast<double>(i));
        for (std::size_t c = 0; c < 2; ++c) {
            const float here = i < frames ? a.samples[2 * i + c] : 0.0F, next = i + 1 < frames ? a.samples[2 * (i + 1) + c] : 0.0F;
            out.samples.push_back(here + part * (next - here));
        }
    }
    a = std::move(out);
    fade(a, 0.0, 5.0);
}

/// Opens so often a beat and is shut between, without clicks.
void gate(Audio& a, double each_s, double open) {
    constexpr double kEdge_s = 0.002;
    const double each = each_s * a.sample_rate_hz, edge = std::min(kEdge_s * a.sample_rate_hz, 0.25 * each * std::min(open, 1.0 - open));
    if (each < 8.0) return;
    for (std::size_t i = 0; i < a.frames(); ++i) {
        const double in = std::fmod(static_cast<double>(i), each), shut = open * each;
        const double gain = std::clamp(std::min(in, shut - in) / std::max(1.0, edge), 0.0, 1.0);
        a.samples[2 * i] *= static_cast<float>(gain), a.samples[2 * i + 1] *= static_cast<float>(gain);
    }
}

/// A moment held: grains of it laid over each other at places that are never the same twice, so that nothing repeats (asynchronous granular synthesis, Roads,
/// "Introduction to Granular Synthesis", Computer Music Journal, 1988).
void freeze(Audio& a, double at_ms, double for_ms) {
    constexpr double kGrain_s = 0.18, kAround_s = 0.04;
    constexpr std::size_t kOverlap = 6;
    const double rate = a.sample_rate_hz;
    const std::size_t frames = a.frames(), grain = std::min(frames, static_cast<std::size_t>(kGrain_s * rate)),
                      length = static_cast<std::size_t>(for_ms / 1000.0 * rate);
    if (grain < 16 || length == 0) return;
    std::vector<float> out(2 * length, 0.0F);
    std::uint32_t state = 2463534242U;
    const auto chance = [&] {
        state ^= state << 13, state ^= state >> 17, state ^= state << 5;
        return static_cast<double>(state >> 8) / 16777216.0;
    };
    const std::size_t hop = grain / kOverlap;
    // Grains whose phases do not agree add by their power.
    const double gain = 1.0 / std::sqrt(0.375 * kOverlap);
    for (std::ptrdiff_t at = -static_cast<std::ptrdiff_t>(grain); at < static_cast<std::ptrdiff_t>(length); at += static_cast<std::ptrdiff_t>(hop)) {
        const double middle = at_ms / 1000.0 * rate + (2.0 * chance() - 1.0) * kAround_s * rate;
        const auto from = static_cast<std::size_t>(std::clamp(middle - 0.5 * static_cast<double>(grain), 0.0, static_cast<double>(frames - grain)));
        for (std::size_t i = 0; i < grain; ++i) {
            const std::ptrdiff_t to = at + static_cast<std::ptrdiff_t>(i);
            if (to < 0 || to >= static_cast<std::ptrdiff_t>(length)) continue;
            const auto window =
                static_cast<float>(gain * (0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * (static_cast<double>(i) + 0.5) / static_cast<double>(grain))));
            for (std::size_t c = 0; c < 2; ++c) out[2 * static_cast<std::size_t>(to) + c] += window * a.samples[2 * (from + i) + c];
        }
    }
    a.samples = std::move(out);
    fade(a, 5.0, 5.0);
}

}  // namespace

AssetLoader assets_from_files(std::filesystem::path original) {
    return [original = std::move(original)](const Asset& asset) -> Result<Audio> {
        return in_recording(asset) ? read_span(original, asset.start_s, asset.end_s) : read_asset(asset);
    };
}

AssetLoader assets_beside(std::shared_ptr<const Audio> original) {
    return [original = std::move(original)](const Asset& asset) -> Result<Audio> {
        if (!in_recording(asset)) return read_asset(asset);
        if (!original) return Error{ErrorCode::ReferenceGone, asset.name, {}};
        return span_of(*original, asset.start_s, asset.end_s);
    };
}

ClipTime clip_time(const Song& song, Ticks at) { return {song.tempo.seconds(at + kTicksPerQuarter) - song.tempo.seconds(at), bar_seconds(song, at)}; }

Audio follow_recipe(Audio sound, const std::vector<RecipeEntry>& recipe, double sample_rate_hz, const ClipTime& time) {
    Audio a = at_rate(std::move(sound), sample_rate_hz);
    for (const RecipeEntry& e : recipe) {
        if (e.on < 0.5) continue;
        switch (e.treatment) {
            case Treatment::Trim: a = span_of(a, e.first / 1000.0, e.second / 1000.0); break;
            case Treatment::Gain:
                for (float& s : a.samples) s *= static_cast<float>(std::pow(10.0, e.first / 20.0));
                break;
            case Treatment::Fade: fade(a, e.first, e.second); break;
            case Treatment::Reverse:
                for (std::size_t i = 0, n = a.frames(); i < n / 2; ++i)
                    for (std::size_t c = 0; c < 2; ++c) std::swap(a.samples[2 * i + c], a.samples[2 * (n - 1 - i) + c]);
                break;
            case Treatment::Pitch: stretch(a, 1.0, e.first, e.second >= 0.5); break;
            case Treatment::Stretch: stretch(a, e.first, 0.0); break;
            case Treatment::Bars: {
                const double is_s = static_cast<double>(a.frames()) / a.sample_rate_hz;
                if (is_s > 0.0) stretch(a, std::clamp(e.first * time.bar_s / is_s, rows::kStretch[0].low, rows::kStretch[0].high), 0.0);
                break;
            }
            case Treatment::Stop: stop(a, e.first); break;
            case Treatment::Gate: gate(a, time.beat_s / e.first, e.second); break;
            case Treatment::Freeze: freeze(a, e.first, e.second); break;
            case Treatment::Clean: lower_noise(a, e.first); break;
            case Treatment::Tune: centre_notes(a, e.first, e.second); break;
            case Treatment::Warp: warp(a, e.marks); break;
            case Treatment::Even: even_sides(a, e.first); break;
            case Treatment::Speed: a = at_speed(std::move(a), e.first); break;
        }
    }
    return a;
}

}  // namespace fw

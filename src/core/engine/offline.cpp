// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/offline.hpp"

#include "base/guard.hpp"

#include <soxr.h>
#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

bool render_offline(const Plan& plan, const RenderRange& range, const SoundSink& sink, const Progress& progress) {
    Crew crew(Crew::further_cores());
    PlanRenderer renderer(&crew);
    renderer.set_what(range.what);
    renderer.adopt(&plan);
    renderer.seek(range.from);
    const auto total = static_cast<std::size_t>(std::max<std::int64_t>(0, range.end(plan) - range.from));
    constexpr std::size_t kBlock = 1024;
    std::array<float, kBlock> left, right;
    std::array<float, 2 * kBlock> both;
    for (std::size_t at = 0; at < total; at += kBlock) {
        const std::size_t count = std::min(kBlock, total - at);
        renderer.render({std::span(left).first(count), std::span(right).first(count)});
        for (std::size_t i = 0; i < count; ++i) both[2 * i] = left[i], both[2 * i + 1] = right[i];
        if (!sink(std::span<const float>(both).first(2 * count))) return false;
        if (at % (kBlock * 64) != 0) continue;
        if (auto failure = plan.failure()) throw Failed(*failure);
        progress.report(static_cast<double>(at) / static_cast<double>(total), "rendering");
    }
    if (auto failure = plan.failure()) throw Failed(*failure);
    return true;
}

Result<Audio> render_offline(const Plan& plan, const RenderRange& range, const Progress& progress) {
    return guarded("the rendering", [&]() -> Result<Audio> {
        Audio audio{static_cast<int>(std::lround(plan.sample_rate_hz)), 2, {}, {}};
        audio.samples.reserve(static_cast<std::size_t>(std::max<std::int64_t>(1, range.end(plan) - range.from)) * 2);
        const auto keep = [&](std::span<const float> block) {
            audio.samples.insert(audio.samples.end(), block.begin(), block.end());
            return true;
        };
        render_offline(plan, range, keep, progress);
        return audio;
    });
}

Status render_to_file(const Plan& plan, const RenderRange& range, const std::filesystem::path& path, const Progress& progress) {
    return guarded("the rendering", [&] {
        return write_audio(path, static_cast<int>(std::lround(plan.sample_rate_hz)), 2, range.end(plan) - range.from,
                           [&](const SoundSink& sink) { return render_offline(plan, range, sink, progress); });
    });
}

namespace {

std::vector<float> resampled(const std::vector<float>& stereo, double from_hz, double to_hz) {
    const std::size_t frames = stereo.size() / 2;
    std::vector<float> out(static_cast<std::size_t>(std::ceil(static_cast<double>(frames) * to_hz / from_hz)) * 2 + 64);
    const soxr_quality_spec_t quality = soxr_quality_spec(SOXR_HQ, 0);
    std::size_t made = 0;
    soxr_oneshot(from_hz, to_hz, 2, stereo.data(), frames, nullptr, out.data(), out.size() / 2, &made, nullptr, &quality, nullptr);
    out.resize(made * 2);
    return out;
}

}  // namespace

Audio at_speed(Audio stereo, double times) {
    if (stereo.frames() > 0 && times != 1.0) stereo.samples = resampled(stereo.samples, stereo.sample_rate_hz * times, stereo.sample_rate_hz);
    return stereo;
}

Audio at_rate(Audio audio, double sample_rate_hz) {
    if (audio.channels == 2 && audio.sample_rate_hz == static_cast<int>(std::lround(sample_rate_hz))) return audio;
    Audio out{static_cast<int>(std::lround(sample_rate_hz)), 2, {}, audio.remarks};
    const std::size_t frames = audio.frames();
    std::vector<float> stereo(frames * 2);
    for (std::size_t f = 0; f < frames; ++f)
        for (std::size_t c = 0; c < 2; ++c) stereo[2 * f + c] = audio.samples[f * static_cast<std::size_t>(audio.channels) + (audio.channels > 1 ? c : 0)];
    if (audio.sample_rate_hz == out.sample_rate_hz || frames == 0) {
        out.samples = std::move(stereo);
        return out;
    }
    out.samples = resampled(stereo, audio.sample_rate_hz, sample_rate_hz);
    return out;
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/plan.hpp"

#include <ebur128.h>
#include <soxr.h>
#include <algorithm>
#include <cmath>

namespace fw {

Result<Audio> render_offline(const Plan& plan, const Progress& progress, int only_part) {
    PlanRenderer renderer(plan.sample_rate_hz);
    renderer.adopt(&plan);
    renderer.seek(0);
    Limiter limiter(plan.sample_rate_hz);
    const auto total = static_cast<std::size_t>(std::max<std::int64_t>(1, plan.end_frame));
    const std::size_t skip = only_part == 0 ? limiter.latency() : 0;
    Audio audio{static_cast<int>(std::lround(plan.sample_rate_hz)), 2, {}, {}};
    audio.samples.resize(total * 2);
    std::vector<float> left(512), right(512);
    try {
        for (std::size_t at = 0; at < total + skip; at += left.size()) {
            renderer.render(left, right, only_part);
            if (only_part == 0) limiter.process(left, right);
            for (std::size_t i = 0; i < left.size(); ++i) {
                if (at + i < skip || at + i >= total + skip) continue;
                audio.samples[2 * (at + i - skip)] = left[i];
                audio.samples[2 * (at + i - skip) + 1] = right[i];
            }
            if (at % (left.size() * 64) == 0) progress.report(std::min(1.0, static_cast<double>(at) / static_cast<double>(total)), "rendering");
        }
    } catch (const Cancelled&) {
        return Error{ErrorCode::Cancelled, "the rendering", {}};
    }
    return audio;
}

double loudness_of(const Audio& audio) {
    if (audio.channels <= 0 || audio.frames() == 0) return -70.0;
    ebur128_state* state = ebur128_init(static_cast<unsigned>(audio.channels), static_cast<unsigned long>(audio.sample_rate_hz), EBUR128_MODE_I);
    if (!state) return -70.0;
    double lufs = -70.0;
    ebur128_add_frames_float(state, audio.samples.data(), audio.frames());
    ebur128_loudness_global(state, &lufs);
    ebur128_destroy(&state);
    return std::isfinite(lufs) ? std::max(-70.0, lufs) : -70.0;
}

Audio at_rate(const Audio& audio, double sample_rate_hz) {
    Audio out{static_cast<int>(std::lround(sample_rate_hz)), 2, {}, audio.remarks};
    const std::size_t frames = audio.frames();
    std::vector<float> stereo(frames * 2);
    for (std::size_t f = 0; f < frames; ++f)
        for (std::size_t c = 0; c < 2; ++c) stereo[2 * f + c] = audio.samples[f * static_cast<std::size_t>(audio.channels) + (audio.channels > 1 ? c : 0)];
    if (audio.sample_rate_hz == out.sample_rate_hz || frames == 0) {
        out.samples = std::move(stereo);
        return out;
    }
    const double ratio = sample_rate_hz / audio.sample_rate_hz;
    out.samples.resize(static_cast<std::size_t>(std::ceil(static_cast<double>(frames) * ratio)) * 2 + 64);
    const soxr_quality_spec_t quality = soxr_quality_spec(SOXR_HQ, 0);
    std::size_t made = 0;
    soxr_oneshot(audio.sample_rate_hz, sample_rate_hz, 2, stereo.data(), frames, nullptr, out.samples.data(), out.frames(), &made, nullptr, &quality, nullptr);
    out.samples.resize(made * 2);
    return out;
}

}  // namespace fw

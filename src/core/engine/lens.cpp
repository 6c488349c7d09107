// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/lens.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>

namespace fw {

namespace {
constexpr std::array kNames{"whole",  "low",   "body",          "air",   "band",    "tonal",       "percussive",
                            "centre", "sides", "small speaker", "pitch", "element", "loudspeakers"};
constexpr double kFade_s = 0.01;
constexpr int kPartials = 4;
constexpr double kAround = 1.5;  // semitones to either side of a pitch

/// A size that covers about as much time at any rate.
std::size_t scaled(std::size_t size_at_44, double rate) {
    while (rate > 66'000.0) size_at_44 *= 2, rate /= 2.0;
    return size_at_44;
}

std::optional<double> number_of(std::string_view text) {
    double n = 0.0;
    const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), n);
    if (bad != std::errc{} || end != text.data() + text.size() || !(n > 0.0) || n > 1e5) return std::nullopt;
    return n;
}
}  // namespace

const char* lens_name(LensKind kind) { return kNames[static_cast<std::size_t>(kind)]; }

std::string lens_text(const Lens& lens) {
    char numbers[64] = "";
    if (lens.kind == LensKind::Band) std::snprintf(numbers, sizeof numbers, " %.6g %.6g", lens.low_hz, lens.high_hz);
    if (lens.kind == LensKind::Pitch) std::snprintf(numbers, sizeof numbers, " %.6g", lens.pitch_hz);
    return lens_name(lens.kind) + std::string(numbers);
}

std::optional<Lens> parse_lens(std::string_view text) {
    Lens lens;
    for (std::size_t k = 0; k < kNames.size(); ++k)
        if (const auto kind = static_cast<LensKind>(k); text == kNames[k] && kind != LensKind::Band && kind != LensKind::Pitch) {
            lens.kind = kind;
            return lens;
        }
    const auto space = text.find(' ');
    if (space == std::string_view::npos) return std::nullopt;
    const std::string_view kind = text.substr(0, space), rest = text.substr(space + 1);
    if (kind == "pitch") {
        const auto hz = number_of(rest);
        if (!hz) return std::nullopt;
        lens.kind = LensKind::Pitch;
        lens.pitch_hz = *hz;
        return lens;
    }
    const auto second = rest.find(' ');
    if (kind != "band" || second == std::string_view::npos) return std::nullopt;
    const auto low = number_of(rest.substr(0, second)), high = number_of(rest.substr(second + 1));
    if (!low || !high || *low >= *high) return std::nullopt;
    lens.kind = LensKind::Band;
    lens.low_hz = *low;
    lens.high_hz = *high;
    return lens;
}

/// One lens at work.
struct LensFilter::Path {
    explicit Path(double rate) : rate_hz(rate), quick(scaled(2048, rate), rate), fine(scaled(4096, rate), rate), left(kLargestBlock), right(kLargestBlock) {}

    const Lens* lens = nullptr;
    double rate_hz;
    std::array<Svf, 2 * kPartials> filters;
    std::size_t count = 0;
    SpectralLens quick, fine;
    SpectralLens* spectral = nullptr;
    std::vector<float> left, right;
    /// Of Loudspeakers: the lows on their way to the other ear, frame after frame.
    static constexpr double kAcross_hz = 700.0, kAcross_s = 0.0003;
    std::array<float, 64> far_left{}, far_right{};
    std::size_t far_at = 0;

    bool whole() const noexcept { return !lens || lens->kind == LensKind::Whole; }
    std::size_t latency() const noexcept { return spectral ? spectral->latency_frames() : 0; }

    void low_pass(double hz) noexcept {
        if (hz >= 0.45 * rate_hz) return;
        filters[count++].low_pass(hz, 0.5412, rate_hz);
        filters[count++].low_pass(hz, 1.3066, rate_hz);
    }
    void high_pass(double hz) noexcept {
        filters[count++].high_pass(hz, 0.5412, rate_hz);
        filters[count++].high_pass(hz, 1.3066, rate_hz);
    }
    void reset() noexcept {
        for (Svf& f : filters) f.reset();
        if (spectral) spectral->reset();
        far_left.fill(0.0F), far_right.fill(0.0F);
        far_at = 0;
    }
    void begin(const Lens* next) noexcept {
        lens = next;
        count = 0;
        spectral = nullptr;
        const auto by = [&](SpectralLens& s, Mask mask, const Share* share = nullptr) {
            s.set(mask, share);
            spectral = &s;
        };
        switch (lens ? lens->kind : LensKind::Whole) {
            case LensKind::Whole: break;
            case LensKind::Low: low_pass(kLowEdge_hz); break;
            case LensKind::Body: high_pass(kLowEdge_hz), low_pass(kBodyEdge_hz); break;
            case LensKind::Air: high_pass(kAirEdge_hz); break;
            case LensKind::Band: high_pass(lens->low_hz), low_pass(lens->high_hz); break;
            case LensKind::Tonal: by(quick, Mask::Tonal); break;
            case LensKind::Percussive: by(quick, Mask::Percussive); break;
            case LensKind::Centre: by(quick, Mask::Centre); break;
            case LensKind::Sides: by(quick, Mask::Sides); break;
            case LensKind::Speaker:
                high_pass(250.0);
                filters[count++].low_pass(8000.0, 0.7071, rate_hz);
                filters[count++].bell(1500.0, 0.8, 4.0, rate_hz);
                break;
            case LensKind::Loudspeakers: filters[count++].low_pass(kAcross_hz, 0.5, rate_hz); break;
            case LensKind::Pitch:
                for (int k = 0; k < kPartials; ++k) {
                    const double hz = std::min(0.45 * rate_hz, lens->pitch_hz * (k + 1)), q = 1.0 / (std::exp2(kAround / 12.0) - std::exp2(-kAround / 12.0));
                    filters[count++].band_pass(hz, q, rate_hz);
                    filters[count++].band_pass(hz, q, rate_hz);
                }
                break;
            case LensKind::Element: by(fine, Mask::Share, lens->share.get()); break;
        }
        reset();
    }
    /// Takes a share of each side's lows and gives it to the other, a little later: what both sides have alike stays as it is.
    void across(std::span<float> l, std::span<float> r) noexcept {
        constexpr float kShare = 0.35F;
        const auto low_l = std::span(left).first(l.size()), low_r = std::span(right).first(r.size());
        std::copy(l.begin(), l.end(), low_l.begin());
        std::copy(r.begin(), r.end(), low_r.begin());
        filters[0].process({low_l, low_r});
        const auto late = std::clamp<std::size_t>(static_cast<std::size_t>(std::lround(kAcross_s * rate_hz)), 1, far_left.size() - 1);
        for (std::size_t i = 0; i < l.size(); ++i) {
            const std::size_t then = (far_at + far_left.size() - late) % far_left.size();
            far_left[far_at] = low_l[i], far_right[far_at] = low_r[i];
            l[i] += kShare * (far_right[then] - low_l[i]);
            r[i] += kShare * (far_left[then] - low_r[i]);
            far_at = (far_at + 1) % far_left.size();
        }
    }
    void process(std::span<float> l, std::span<float> r, std::int64_t frame) noexcept {
        if (whole()) return;
        if (spectral) return spectral->process(l, r, frame);
        if (lens->kind == LensKind::Pitch) {
            // Side by side: each partial through its own band.
            const auto in_l = std::span(left).first(l.size()), in_r = std::span(right).first(r.size());
            std::array<float, kLargestBlock> keep_l, keep_r;
            std::copy(l.begin(), l.end(), keep_l.begin());
            std::copy(r.begin(), r.end(), keep_r.begin());
            std::fill(l.begin(), l.end(), 0.0F);
            std::fill(r.begin(), r.end(), 0.0F);
            for (std::size_t k = 0; k + 1 < count; k += 2) {
                if (lens->pitch_hz * static_cast<double>(k / 2 + 1) > 0.4 * rate_hz) break;
                std::copy_n(keep_l.begin(), l.size(), in_l.begin());
                std::copy_n(keep_r.begin(), r.size(), in_r.begin());
                filters[k].process({in_l, in_r});
                filters[k + 1].process({in_l, in_r});
                for (std::size_t i = 0; i < l.size(); ++i) l[i] += in_l[i], r[i] += in_r[i];
            }
            return;
        }
        if (lens->kind == LensKind::Loudspeakers) return across(l, r);
        for (std::size_t f = 0; f < count; ++f) filters[f].process({l, r});
        if (lens->kind == LensKind::Speaker)
            for (std::size_t i = 0; i < l.size(); ++i) l[i] = r[i] = 0.5F * (l[i] + r[i]);
    }
};

LensFilter::LensFilter(double sample_rate_hz)
    : paths_{std::make_unique<Path>(sample_rate_hz), std::make_unique<Path>(sample_rate_hz)},
      left_(kLargestBlock),
      right_(kLargestBlock),
      rate_(sample_rate_hz) {}

LensFilter::~LensFilter() = default;

void LensFilter::change(const Lens* lens) noexcept {
    paths_[1 - now_]->begin(lens);
    changing_ = true;
    warm_ = 0;
    fade_ = 0.0F;
}

void LensFilter::jump(const Lens* lens) noexcept {
    changing_ = false;
    paths_[now_]->begin(lens);
}

void LensFilter::settle() noexcept {
    if (!changing_) return;
    now_ = 1 - now_;
    changing_ = false;
}

void LensFilter::reset() noexcept {
    for (auto& p : paths_) p->reset();
    warm_ = 0;
}

std::size_t LensFilter::latency_frames() const noexcept { return paths_[now_]->latency(); }

void LensFilter::process(std::span<float> left, std::span<float> right, std::int64_t frame) noexcept {
    if (!changing_) return paths_[now_]->process(left, right, frame);
    const auto l = std::span(left_).first(left.size()), r = std::span(right_).first(right.size());
    std::copy(left.begin(), left.end(), l.begin());
    std::copy(right.begin(), right.end(), r.begin());
    paths_[now_]->process(left, right, frame);
    Path& next = *paths_[1 - now_];
    next.process(l, r, frame);
    const auto ramp = static_cast<float>(1.0 / (kFade_s * rate_));
    // Only what it lets through of a whole stretch is heard, not how it fills.
    const std::size_t full = next.latency() + next.latency() / 2;
    for (std::size_t i = 0; i < left.size(); ++i) {
        if (warm_ < full) {
            ++warm_;
            continue;
        }
        fade_ = std::min(1.0F, fade_ + ramp);
        left[i] += fade_ * (l[i] - left[i]);
        right[i] += fade_ * (r[i] - right[i]);
    }
    if (fade_ >= 1.0F) settle();
}

}  // namespace fw

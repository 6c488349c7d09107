// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/sound_summary.hpp"

#include "dsp/fft.hpp"

#include <ebur128.h>
#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace fw {

namespace {

/// Spectra long enough to tell semitones from about 100 Hz on, at any rate.
std::size_t size_at(int rate_hz) {
    std::size_t size = 8192;
    while (static_cast<double>(size) < 0.165 * rate_hz) size *= 2;
    return size;
}

/// Adds up the bins of bands that do not change.
class Bands {
public:
    Bands(const std::vector<std::pair<double, double>>& hz, double bin_hz, std::size_t bins) {
        for (const auto& [low, high] : hz) {
            Band band;
            for (auto k = static_cast<std::size_t>(std::max(1.0, std::floor(low / bin_hz))); k < bins && (static_cast<double>(k) - 0.5) * bin_hz < high; ++k) {
                const double shared = std::min(high, (static_cast<double>(k) + 0.5) * bin_hz) - std::max(low, (static_cast<double>(k) - 0.5) * bin_hz);
                if (band.shares.empty()) band.first = k;
                band.shares.push_back(static_cast<float>(std::max(0.0, shared / bin_hz)));
            }
            bands_.push_back(std::move(band));
        }
    }
    double power(std::size_t band, const std::vector<float>& bins) const {
        const Band& b = bands_[band];
        double sum = 0.0;
        for (std::size_t k = 0; k < b.shares.size(); ++k) sum += bins[b.first + k] * b.shares[k];
        return sum;
    }

private:
    struct Band {
        std::size_t first = 0;
        std::vector<float> shares;
    };
    std::vector<Band> bands_;
};

double hz_of(double semitone) { return 440.0 * std::exp2((semitone - 69.0) / 12.0); }

std::vector<std::pair<double, double>> semitone_bands() {
    std::vector<std::pair<double, double>> out;
    for (int s = 0; s < SoundSummary::kSemitones; ++s) {
        const double at = SoundSummary::kLowestSemitone + s;
        out.emplace_back(hz_of(at - 0.5), hz_of(at + 0.5));
    }
    return out;
}

std::vector<std::pair<double, double>> width_ranges() {
    std::vector<std::pair<double, double>> out;
    for (const auto& range : SoundSummary::width_bands()) out.emplace_back(range.low_hz, range.high_hz);
    return out;
}

/// The true peak of a channel (ITU-R BS.1770-4, annex 2: four times the rate by a windowed sinc). Between samples none is higher than the highest around times
/// the filter's gain: where that is below the peak so far nothing need be worked out, which is nearly everywhere.
class TruePeak {
public:
    TruePeak() {
        for (int phase = 1; phase < 4; ++phase) {
            double gain = 0.0;
            for (int tap = 0; tap < kTaps; ++tap) {
                const double at = tap - (kTaps / 2 - 1) - phase / 4.0, x = std::numbers::pi * at;
                const double window = 0.5 + 0.5 * std::cos(x / (kTaps / 2 + 0.5));
                taps_[static_cast<std::size_t>(phase - 1)][static_cast<std::size_t>(tap)] =
                    static_cast<float>(std::abs(at) < 1e-9 ? 1.0 : std::sin(x) / x * window);
                gain += std::abs(static_cast<double>(taps_[static_cast<std::size_t>(phase - 1)][static_cast<std::size_t>(tap)]));
            }
            most_gain_ = std::max(most_gain_, static_cast<float>(gain));
        }
    }
    void add(float x) noexcept {
        // Twice in a row, so that the last kTaps always lie side by side.
        last_[at_] = last_[at_ + kTaps] = x;
        at_ = at_ + 1 == kTaps ? 0 : at_ + 1;
        const float high = std::abs(x);
        if (high > peak_) peak_ = high;
        if (high * most_gain_ > peak_) ask_ = kTaps;
        if (ask_ == 0) return;
        --ask_;
        for (const auto& phase : taps_) {
            float sum = 0.0F;
            for (std::size_t t = 0; t < kTaps; ++t) sum += phase[t] * last_[at_ + t];
            peak_ = std::max(peak_, std::abs(sum));
        }
    }
    float peak() const noexcept { return peak_; }

private:
    static constexpr int kTaps = 12;
    std::array<std::array<float, kTaps>, 3> taps_{};
    std::array<float, 2 * kTaps> last_{};
    float most_gain_ = 1.0F, peak_ = 0.0F;
    std::size_t at_ = 0;
    int ask_ = 0;
};

double decibels(double power) { return 10.0 * std::log10(std::max(power, 1e-11)); }

}  // namespace

const std::array<SoundSummary::WidthRange, SoundSummary::kWidthBands>& SoundSummary::width_bands() {
    static const std::array<WidthRange, kWidthBands> bands{
        {{"low", 20.0, 150.0}, {"body", 150.0, 800.0}, {"presence", 800.0, 4000.0}, {"air", 4000.0, 16000.0}}};
    return bands;
}

double SoundSummary::db_at(std::size_t frame, std::size_t semitone) const { return kFloor_db + 0.5 * semitones.cells()[frame * kSemitones + semitone]; }

std::pair<std::size_t, std::size_t> SoundSummary::frames_between(double from_s, double to_s) const {
    const auto all = semitones.frames();
    const auto frame = [&](double s) { return static_cast<std::size_t>(std::clamp(std::round(s / kFrame_s), 0.0, static_cast<double>(all))); };
    return {frame(from_s), frame(to_s)};
}

double SoundSummary::between(const std::vector<double>& power, double low_hz, double high_hz) const {
    const double bin = static_cast<double>(sample_rate_hz) / static_cast<double>(size);
    double sum = 0.0;
    for (std::size_t k = 1; k < power.size(); ++k) {
        // Low bands are narrower than a bin.
        const double shared = std::min(high_hz, (static_cast<double>(k) + 0.5) * bin) - std::max(low_hz, (static_cast<double>(k) - 0.5) * bin);
        if (shared > 0) sum += power[k] * shared / bin;
    }
    return sum;
}

struct SoundMeter::State {
    State(int rate_hz, int channel_count)
        : rate(rate_hz),
          channels(static_cast<std::size_t>(channel_count)),
          size(size_at(rate_hz)),
          hop(static_cast<std::size_t>(std::lround(rate_hz * SoundSummary::kFrame_s))),
          per_level(static_cast<std::size_t>(std::lround(rate_hz * SoundSummary::kLevel_s))),
          loudness(ebur128_init(static_cast<unsigned>(channel_count), static_cast<unsigned long>(rate_hz), EBUR128_MODE_I)),
          fft(size),
          window(hann_window(size)),
          held(size * 2),
          powers{std::vector<float>(fft.bins()), std::vector<float>(fft.bins())},
          mid(fft.bins(), 0.0),
          side(fft.bins(), 0.0),
          in_semitones(semitone_bands(), static_cast<double>(rate_hz) / static_cast<double>(size), fft.bins()),
          in_ranges(width_ranges(), static_cast<double>(rate_hz) / static_cast<double>(size), fft.bins()),
          middle(fft.bins()),
          cross(fft.bins()) {}
    ~State() {
        if (loudness) ebur128_destroy(&loudness);
    }
    State(const State&) = delete;
    State& operator=(const State&) = delete;

    /// Adds the spectra of what is held, from the oldest frame on.
    void take_spectra() {
        const float scale = 4.0F / static_cast<float>(size);
        for (std::size_t which = 0; which < 2; ++which) {
            auto in = fft.input();
            for (std::size_t k = 0; k < size; ++k) {
                const std::size_t at = 2 * ((frames + k) & (size - 1));
                const float l = held[at], r = held[at + 1];
                in[k] = 0.5F * (which == 0 ? l + r : l - r) * window[k] * scale;
            }
            const auto out = fft.transform();
            auto& into = which == 0 ? mid : side;
            for (std::size_t k = 0; k < out.size(); ++k) {
                powers[which][k] = std::norm(out[k]);
                into[k] += static_cast<double>(powers[which][k]);
                // Left is mid and side together: |M|² + |S|² + 2 Re(M·S*); of which the last, once both are there.
                if (which == 0) middle[k] = out[k];
                else cross[k] = (middle[k] * std::conj(out[k])).real();
            }
        }
        auto& shares = width.emplace_back();
        for (std::size_t b = 0; b < SoundSummary::kWidthBands; ++b) {
            const double apart = in_ranges.power(b, powers[1]);
            shares[b] = static_cast<float>(apart);
            shares[SoundSummary::kWidthBands + b] = static_cast<float>(apart + in_ranges.power(b, powers[0]));
        }
        for (std::size_t s = 0; s < SoundSummary::kSemitones; ++s) {
            const double all = in_semitones.power(s, powers[0]) + in_semitones.power(s, powers[1]), db = decibels(all);
            left.push_back(
                static_cast<std::uint8_t>(all > 1e-11 ? std::clamp(std::lround(255.0 * (0.5 + in_semitones.power(s, cross) / all)), 0L, 255L) : 128L));
            semitones.push_back(static_cast<std::uint8_t>(std::clamp(std::lround(2.0 * (db - SoundSummary::kFloor_db)), 0L, 255L)));
        }
    }

    int rate;
    std::size_t channels, size, hop, per_level;
    ebur128_state* loudness;
    RealFft fft;
    std::unique_ptr<float[]> window;
    std::vector<float> held;  // the last `size` frames, left and right, as a ring
    std::array<std::vector<float>, 2> powers;
    std::vector<double> mid, side;
    Bands in_semitones, in_ranges;
    std::vector<std::uint8_t> semitones, left;
    std::vector<std::complex<float>> middle;
    std::vector<float> cross;
    std::vector<std::array<float, 2 * SoundSummary::kWidthBands>> width;
    std::vector<float> level;
    double squares = 0.0;
    std::array<TruePeak, 2> peaks;
    std::size_t frames = 0;
    std::size_t to_level = per_level, to_spectra = size / 2;  ///< frames until the next
};

SoundMeter::SoundMeter(int rate, int channels) : state_(std::make_unique<State>(rate, channels)) {}
SoundMeter::~SoundMeter() = default;
SoundMeter::SoundMeter(SoundMeter&&) noexcept = default;
SoundMeter& SoundMeter::operator=(SoundMeter&&) noexcept = default;

void SoundMeter::add(std::span<const float> sound) {
    State& s = *state_;
    if (s.loudness) ebur128_add_frames_float(s.loudness, sound.data(), sound.size() / s.channels);
    const std::size_t mask = s.size - 1;  // a power of two
    for (std::size_t f = 0; f < sound.size() / s.channels; ++f) {
        const std::size_t at = 2 * (s.frames & mask);
        const float l = sound[f * s.channels], r = sound[f * s.channels + (s.channels > 1 ? 1 : 0)];
        s.held[at] = l;
        s.held[at + 1] = r;
        s.peaks[0].add(l);
        if (s.channels > 1) s.peaks[1].add(r);
        s.squares += 0.5 * (static_cast<double>(l) * l + static_cast<double>(r) * r);
        ++s.frames;
        if (--s.to_level == 0) {
            s.level.push_back(static_cast<float>(s.squares / static_cast<double>(s.per_level)));
            s.squares = 0.0;
            s.to_level = s.per_level;
        }
        // Frame k is heard around k · hop: the ring begins empty, half a spectrum before the sound.
        if (--s.to_spectra == 0) {
            s.take_spectra();
            s.to_spectra = s.hop;
        }
    }
}

SoundSummary SoundMeter::summary() {
    State& s = *state_;
    SoundSummary out;
    out.sample_rate_hz = s.rate;
    out.size = s.size;
    out.duration_s = static_cast<double>(s.frames) / s.rate;
    double lufs = -70.0;
    if (s.loudness && s.frames > 0) ebur128_loudness_global(s.loudness, &lufs);
    out.lufs = std::isfinite(lufs) ? std::max(-70.0, lufs) : -70.0;
    out.peak_db = std::max(SoundSummary::kFloor_db, 20.0 * std::log10(static_cast<double>(std::max(s.peaks[0].peak(), s.peaks[1].peak())) + 1e-9));
    if (s.width.empty()) {  // shorter than half a spectrum: silence stands behind it
        s.frames = 0;
        s.take_spectra();
    }
    for (auto* power : {&s.mid, &s.side})
        for (double& p : *power) p /= static_cast<double>(s.width.size());
    out.mid = std::move(s.mid);
    out.side = std::move(s.side);
    out.semitones = ByteGrid(s.width.size(), SoundSummary::kSemitones);
    out.semitones.cells() = std::move(s.semitones);
    out.left = ByteGrid(s.width.size(), SoundSummary::kSemitones);
    out.left.cells() = std::move(s.left);
    out.width = std::move(s.width);
    out.level = std::move(s.level);
    return out;
}

SoundSummary summarise(const Audio& audio) {
    SoundMeter meter(audio.sample_rate_hz, audio.channels);
    meter.add(audio.samples);
    return meter.summary();
}

SoundSummary summarise(const Plan& plan, const RenderRange& range, const Progress& progress) {
    SoundMeter meter(static_cast<int>(std::lround(plan.sample_rate_hz)), 2);
    render_offline(
        plan, range,
        [&](std::span<const float> block) {
            meter.add(block);
            return true;
        },
        progress);
    return meter.summary();
}

const std::vector<double>& third_octave_centers_hz() {
    static const std::vector<double> centers = [] {
        std::vector<double> list;
        for (int i = -16; i <= 12; ++i) list.push_back(1000.0 * std::exp2(i / 3.0));
        return list;
    }();
    return centers;
}

std::vector<double> third_octaves_db(const SoundSummary& s) {
    std::vector<double> out;
    for (const double hz : third_octave_centers_hz()) {
        const double low = hz * std::exp2(-1.0 / 6), high = hz * std::exp2(1.0 / 6);
        out.push_back(10.0 * std::log10(s.between(s.mid, low, high) + s.between(s.side, low, high) + 1e-12));
    }
    return out;
}

std::vector<double> third_octaves_db(const SoundSummary& s, double from_s, double to_s) {
    const auto [from, to] = s.frames_between(from_s, to_s);
    std::vector<double> out;
    for (const double hz : third_octave_centers_hz()) {
        double power = 0.0;
        const double center = 69.0 + 12.0 * std::log2(hz / 440.0) - SoundSummary::kLowestSemitone;
        const int first = std::max(0, static_cast<int>(std::ceil(center - 2.0))),
                  last = std::min(SoundSummary::kSemitones, static_cast<int>(std::ceil(center + 2.0)));
        for (std::size_t f = from; f < to; ++f)
            for (int k = first; k < last; ++k) power += std::pow(10.0, s.db_at(f, static_cast<std::size_t>(k)) / 10.0);
        out.push_back(decibels(to > from ? power / static_cast<double>(to - from) : 0.0));
    }
    return out;
}

double level_db(const SoundSummary& s, double from_s, double to_s) {
    const auto at = [&](double t) { return static_cast<std::size_t>(std::clamp(t / SoundSummary::kLevel_s, 0.0, static_cast<double>(s.level.size()))); };
    double sum = 0.0;
    for (std::size_t i = at(from_s); i < at(to_s); ++i) sum += static_cast<double>(s.level[i]);
    return decibels(at(to_s) > at(from_s) ? sum / static_cast<double>(at(to_s) - at(from_s)) : 0.0);
}

std::array<double, SoundSummary::kWidthBands> width_of(const SoundSummary& s, double from_s, double to_s) {
    const auto [from, to] = s.frames_between(from_s, to_s);
    std::array<double, SoundSummary::kWidthBands> out{};
    for (std::size_t b = 0; b < out.size(); ++b) {
        double apart = 0.0, all = 0.0;
        for (std::size_t f = from; f < to; ++f) apart += static_cast<double>(s.width[f][b]), all += static_cast<double>(s.width[f][out.size() + b]);
        out[b] = all > 1e-12 ? apart / all : 0.0;
    }
    return out;
}

double noise_bed_db(const SoundSummary& s) {
    constexpr float kDigitalSilence = 1e-11F;
    std::vector<float> sounding;
    for (const float l : s.level)
        if (l > kDigitalSilence) sounding.push_back(l);
    if (sounding.empty()) return SoundSummary::kFloor_db;
    const auto at = sounding.begin() + static_cast<std::ptrdiff_t>(sounding.size() / 20);
    std::nth_element(sounding.begin(), at, sounding.end());
    return decibels(static_cast<double>(*at));
}

std::vector<double> decay_after(const SoundSummary& s, std::span<const double> strokes_s) {
    constexpr std::size_t kSteps = 40, kBeginning = 3;
    std::vector<double> sum(kSteps, 0.0);
    double weight = 0.0;
    for (const double t : strokes_s) {
        const auto at = static_cast<std::size_t>(std::max(0.0, t / SoundSummary::kLevel_s));
        if (at + kSteps >= s.level.size()) continue;
        double loud = 0.0;
        for (std::size_t k = 0; k < kBeginning; ++k) loud += static_cast<double>(s.level[at + k]) / kBeginning;
        if (loud < 1e-9) continue;
        const double w = std::sqrt(loud);
        for (std::size_t k = 0; k < kSteps; ++k) sum[k] += w * decibels(static_cast<double>(s.level[at + k]) / loud);
        weight += w;
    }
    if (weight <= 0.0) return {};
    for (double& v : sum) v /= weight;
    return sum;
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
// How well each processor does what it says, at four rates: one row a signal and setting, as a table for docs/quality.md.
#include "base/pitch.hpp"
#include "dsp/fft.hpp"
#include "engine/lens.hpp"
#include "sound/catalogue.hpp"
#include "support/rendering.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <functional>
#include <numbers>
#include <string>
#include <vector>

namespace {

using namespace fw;
using Samples = std::vector<float>;

constexpr std::size_t kSize = 1 << 16;

double db(double ratio) { return 20.0 * std::log10(std::max(1e-12, ratio)); }

/// A sine whose period divides the transform, so that what is not its partial is not its spectrum either.
double whole_hz(double hz, double rate) { return std::round(hz * kSize / rate) * rate / kSize; }

Samples sine(double hz, double rate, double level, std::size_t frames = 2 * kSize) {
    Samples x(frames);
    for (std::size_t i = 0; i < frames; ++i) x[i] = static_cast<float>(level * std::sin(2 * std::numbers::pi * hz * static_cast<double>(i) / rate));
    return x;
}

Samples through(Processor& p, Samples x) {
    Samples right = x;
    test::run(p, x, right);
    return x;
}

std::vector<double> spectrum_of(const Samples& x, std::size_t from, bool window = false) {
    RealFft fft(kSize);
    const auto w = hann_window(kSize);
    for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = x[from + i] * (window ? w[i] : 1.0F);
    std::vector<double> out;
    for (const auto& bin : fft.transform()) out.push_back(std::abs(bin));
    return out;
}

double gain_db(const StepType& type, double rate, const std::vector<std::pair<const char*, double>>& set, double hz, double level = 0.25) {
    auto p = type.make(rate);
    for (const auto& [field, value] : set) p->set(*index_of_field(type.fields, field), value);
    hz = whole_hz(hz, rate);
    const Samples in = sine(hz, rate, level);
    const auto bin = static_cast<std::size_t>(std::lround(hz * kSize / rate));
    return db(spectrum_of(through(*p, in), kSize)[bin] / spectrum_of(in, kSize)[bin]);
}

/// Energy that is no partial of hz against that which is, dB.
double aliasing_db(const Samples& x, double hz, double rate) {
    const auto power = spectrum_of(x, kSize);
    const auto base = static_cast<std::size_t>(std::lround(hz * kSize / rate));
    double partials = 0, rest = 0;
    for (std::size_t k = 8; k < power.size(); ++k) (k % base == 0 ? partials : rest) += power[k] * power[k];
    return 0.5 * db(rest / partials);
}

double fundamental_hz(const Samples& x, std::size_t from, double near_hz, double rate) {
    const auto s = spectrum_of(x, from, true);
    const auto at = static_cast<std::size_t>(near_hz * kSize / rate);
    std::size_t top = at;
    for (std::size_t k = at * 9 / 10; k <= at * 11 / 10 + 1; ++k)
        if (s[k] > s[top]) top = k;
    const double l = std::log(s[top - 1]), c = std::log(s[top]), r = std::log(s[top + 1]);
    return (static_cast<double>(top) + 0.5 * (l - r) / (l - 2 * c + r)) * rate / kSize;
}

double pitch_error_cents(const SourceType& type, const SourceSpec& spec, int key, double rate) {
    auto p = test::make_source(type, spec, rate);
    p->note_on(1, key, 100);
    Samples left(3 * kSize, 0.0F), right = left;
    test::run(*p, left, right);
    return 1200.0 * std::log2(fundamental_hz(left, kSize / 4, hertz_of(key), rate) / hertz_of(key));
}

/// What a step makes of one sample of 1.
Samples impulse_through(const StepType& type, double rate, const std::vector<std::pair<const char*, double>>& set, double seconds) {
    auto p = type.make(rate);
    for (const auto& [field, value] : set) p->set(*index_of_field(type.fields, field), value);
    Samples x(static_cast<std::size_t>(seconds * rate) / kSlice * kSlice, 0.0F);
    x[0] = 1.0F;
    return through(*p, x);
}

double delay_error_ms(double rate) {
    const Samples x = impulse_through(kDelay, rate, {{"time", 0.25}, {"feedback", 0.0}, {"mix", 1.0}, {"low_hz", 20.0}, {"high_hz", 20000.0}}, 0.5);
    const auto top = std::max_element(x.begin(), x.end(), [](float a, float b) { return std::abs(a) < std::abs(b); });
    return 1000.0 * static_cast<double>(top - x.begin()) / rate - 250.0;
}

double resonator_error_cents(double rate) {
    Samples x = impulse_through(kResonator, rate, {{"pitch", 57.0}, {"decay_s", 4.0}, {"damp_hz", 12000.0}, {"mix", 1.0}}, 0.1 + 3.0 * kSize / rate);
    return 1200.0 * std::log2(fundamental_hz(x, static_cast<std::size_t>(0.05 * rate), 220.0, rate) / 220.0);
}

double gate_range_error_db(double rate) {
    return gain_db(kGate, rate, {{"threshold", -30.0}, {"range", 40.0}, {"hold_ms", 0.0}, {"release_ms", 20.0}}, 1000.0, 0.002) + 40.0;
}

/// The sawtooth alone, held open; drive: into the filter, dB.
double saw_aliasing_db(double hz, double rate, double drive = 0.0) {
    auto p = test::make_source(kSynth, {"Bright lead", 0, {}, false, 0.0}, rate);
    const auto set = [&](const char* field, double value) { p->set(*index_of_field(kSynth.fields, field), value); };
    for (const char* off : {"second_level", "sweep", "tracking", "resonance", "vibrato", "noise"}) set(off, 0.0);
    set("sustain", 1.0), set("decay_ms", 5.0), set("cutoff", 20000.0), set("filter_drive", drive);
    const double key = 69.0 + 12.0 * std::log2(whole_hz(hz, rate) / 440.0);
    p->note_on(1, static_cast<int>(std::lround(key)), 100);
    p->bend(1, (key - std::round(key)) * 100.0);
    Samples left(2 * kSize, 0.0F), right = left;
    test::run(*p, left, right);
    return aliasing_db(left, whole_hz(hz, rate), rate);
}

double compressor_error_db(double rate) {
    double worst = 0.0;
    for (double level_db = -40.0; level_db <= 0.0; level_db += 2.0) {
        const double is = gain_db(kCompressor, rate, {{"threshold", -20.0}, {"ratio", 4.0}, {"attack_ms", 0.5}, {"release_ms", 500.0}, {"knee", 0.0}}, 1000.0,
                                  std::pow(10.0, level_db / 20.0));
        worst = std::max(worst, std::abs(is + std::max(0.0, level_db + 20.0) * 0.75));
    }
    return worst;
}

double reverb_error_percent(const StepType& type, double rate) {
    auto p = type.make(rate);
    for (const auto& [field, value] : {std::pair{"decay_s", 2.0}, {"mix", 1.0}, {"low", 1.0}, {"damp_hz", 20000.0}})
        if (const auto at = index_of_field(type.fields, field)) p->set(*at, value);
    const auto second = static_cast<std::size_t>(rate);
    Samples x(3 * second, 0.0F);
    std::uint32_t noise = 1;
    for (std::size_t i = 0; i < second / 20; ++i) noise = noise * 1664525u + 1013904223u, x[i] = static_cast<float>(noise >> 8) / 16777216.0F - 0.5F;
    x = through(*p, x);
    const auto level = [&](double at) {
        double sum = 0;
        const auto from = static_cast<std::size_t>(at * rate);
        for (std::size_t i = from; i < from + second / 10; ++i) sum += static_cast<double>(x[i]) * x[i];
        return 0.5 * db(sum);
    };
    return (-60.0 / ((level(1.4) - level(0.4)) / 1.0) / 2.0 - 1.0) * 100.0;
}

double limiter_overshoot_db(double rate) {
    auto p = kLimiter.make(rate);
    p->set(*index_of_field(kLimiter.fields, "gain"), 12.0);
    Samples x(4 * static_cast<std::size_t>(rate));
    for (std::size_t i = 0; i < x.size(); ++i)
        x[i] = static_cast<float>(std::sin(0.05 * static_cast<double>(i)) * (0.2 + 0.8 * static_cast<double>(i % 9973) / 9973.0));
    x = through(*p, x);
    float peak = 0.0F;
    for (const float s : x) peak = std::max(peak, std::abs(s));
    return db(peak) + 1.0;
}

double duck_error_db(double rate) {
    auto p = kDuck.make(rate);
    p->note_on(1, 36, 100);
    Samples x(static_cast<std::size_t>(rate * 0.008), 0.5F);
    x = through(*p, x);  // past the attack of 3 ms, before the hold of 10 ms is over
    return db(x.back() / 0.5) + 6.0;
}

double note_late_ms(double rate) {
    auto p = test::make_source(kSoundFont, {{}, 0, {}, false, 0.0}, rate);
    Samples left(static_cast<std::size_t>(rate), 0.0F), right = left;
    const auto before = static_cast<std::size_t>(rate * 0.1) / kSlice * kSlice;
    test::run(*p, std::span(left).first(before), std::span(right).first(before));
    p->note_on(1, 69, 127);
    test::run(*p, std::span(left).subspan(before), std::span(right).subspan(before));
    const auto first = std::find_if(left.begin(), left.end(), [](float s) { return std::abs(s) > 1e-6F; });
    return (static_cast<double>(first - left.begin()) - static_cast<double>(before)) / rate * 1000.0;
}

struct Row {
    const char *what, *signal, *unit;
    std::function<double(double rate)> measure;
};

}  // namespace

/// A sine of one frequency through a lens: its level there in dB, once it has filled.
double lens_gain_db(Lens lens, double rate, double hz, float left = 0.5F, float right = 0.5F) {
    LensFilter filter(rate);
    filter.jump(&lens);
    std::vector<float> l, r;
    for (int f = 0; f < static_cast<int>(1.5 * rate); ++f) {
        const auto v = static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * f / rate));
        l.push_back(left * v), r.push_back(right * v);
    }
    double in = 0.0, out = 0.0;
    for (std::size_t f = l.size() / 2; f < l.size(); ++f) in += static_cast<double>(l[f]) * l[f];
    for (std::size_t at = 0; at + 128 <= l.size(); at += 128)
        filter.process(std::span(l).subspan(at, 128), std::span(r).subspan(at, 128), static_cast<std::int64_t>(at));
    for (std::size_t f = l.size() / 2; f < l.size() / 128 * 128; ++f) out += static_cast<double>(l[f]) * l[f];
    return 10.0 * std::log10(out / in + 1e-12);
}
Lens lens(LensKind kind) {
    Lens l;
    l.kind = kind;
    return l;
}
double lens_lag_ms(LensKind kind, double rate) {
    const Lens l = lens(kind);
    LensFilter filter(rate);
    filter.jump(&l);
    return 1000.0 * static_cast<double>(filter.latency_frames()) / rate;
}

int main() {
    const std::vector<Row> rows{
        {"Equaliser", "bell +6 dB at 1 kHz, Q 1: gain there off by", "dB",
         [](double r) {
             return gain_db(kEqualiser, r, {{"mid", 6.0}, {"mid_hz", 1000.0}}, 1000.0) - 6.0;
         }},
        {"Equaliser", "bell −12 dB at 12 kHz, Q 4: gain there off by", "dB",
         [](double r) {
             return gain_db(kEqualiser, r, {{"top", -12.0}, {"top_hz", 12000.0}, {"top_q", 4.0}}, 12000.0) + 12.0;
         }},
        {"Equaliser", "low shelf +6 dB at 120 Hz: gain at 25 Hz off by", "dB",
         [](double r) {
             return gain_db(kEqualiser, r, {{"low", 6.0}}, 25.0) - 6.0;
         }},
        {"Equaliser", "all neutral: gain at 10 kHz", "dB", [](double r) { return gain_db(kEqualiser, r, {}, 10000.0); }},
        {"Filter", "low-pass at 2 kHz: gain there off −3.01 dB by", "dB",
         [](double r) {
             return gain_db(kFilter, r, {{"cutoff", 2000.0}}, 2000.0) + 3.01;
         }},
        {"Filter", "the same, steep: 1 to 2 octaves above falls by", "dB",
         [](double r) {
             return gain_db(kFilter, r, {{"cutoff", 500.0}, {"steep", 1.0}}, 2000.0) - gain_db(kFilter, r, {{"cutoff", 500.0}, {"steep", 1.0}}, 1000.0);
         }},
        {"Drive", "5 kHz at −6 dBFS, drive 18 dB: aliasing", "dB",
         [](double r) {
             auto p = kDrive.make(r);
             p->set(0, 18.0);
             const double hz = whole_hz(5000.0, r);
             return aliasing_db(through(*p, sine(hz, r, 0.5)), hz, r);
         }},
        {"Drive", "1 kHz at −40 dBFS, drive 0 dB, output 0 dB: gain", "dB",
         [](double r) {
             return gain_db(kDrive, r, {{"drive", 0.0}, {"level", 0.0}}, 1000.0, 0.01);
         }},
        {"Compressor", "threshold −20 dB, 4 : 1, no knee, 1 kHz at −40 to 0 dBFS: worst error of the curve", "dB", compressor_error_db},
        {"Reverb", "decay 2 s: decay off by", "%", [](double r) { return reverb_error_percent(kReverb, r); }},
        {"Plate", "decay 2 s: decay off by", "%", [](double r) { return reverb_error_percent(kPlate, r); }},
        {"Spring", "decay 2 s: decay off by", "%", [](double r) { return reverb_error_percent(kSpring, r); }},
        {"Cabinet", "an octave above its end of 5 kHz", "dB", [](double r) { return gain_db(kCabinet, r, {}, 10000.0); }},
        {"Transient", "nothing to shape, at its lower edge of 200 Hz: gain", "dB",
         [](double r) {
             return gain_db(kTransient, r, {{"attack", 0.0}, {"low_hz", 200.0}, {"high_hz", 3000.0}}, 200.0);
         }},
        {"Limiter", "12 dB into a ceiling of −1 dB: above it by", "dB", limiter_overshoot_db},
        {"Duck", "6 dB: depth off by", "dB", duck_error_db},
        {"Three-band compressor", "at its lower edge of 200 Hz, −40 dBFS, nothing to even out: gain", "dB",
         [](double r) { return gain_db(kThreeBands, r, {}, 200.0, 0.01); }},
        {"Three-band compressor", "the same at its upper edge of 2.5 kHz", "dB", [](double r) { return gain_db(kThreeBands, r, {}, 2500.0, 0.01); }},
        {"Delay", "a quarter of a second: off by", "ms", delay_error_ms},
        {"Resonator", "A3: pitch off by", "cents", resonator_error_cents},
        {"Gate", "range 40 dB, −54 dBFS under a threshold of −30 dB: depth off by", "dB", gate_range_error_db},
        {"Lens low", "at its edge of 150 Hz: off −3.01 dB by", "dB", [](double r) { return lens_gain_db(lens(LensKind::Low), r, kLowEdge_hz) + 3.01; }},
        {"Lens low", "an octave above its edge", "dB", [](double r) { return lens_gain_db(lens(LensKind::Low), r, 2.0 * kLowEdge_hz); }},
        {"Lens air", "an octave below its edge of 5 kHz", "dB", [](double r) { return lens_gain_db(lens(LensKind::Air), r, 0.5 * kAirEdge_hz); }},
        {"Lens sides", "what is alike in both sides: left of it", "dB", [](double r) { return lens_gain_db(lens(LensKind::Sides), r, 700.0); }},
        {"Lens centre", "what is on the left only: left of it", "dB", [](double r) { return lens_gain_db(lens(LensKind::Centre), r, 700.0, 0.5F, 0.0F); }},
        {"Lens percussive", "a held tone: left of it", "dB", [](double r) { return lens_gain_db(lens(LensKind::Percussive), r, 700.0); }},
        {"Lens centre, sides", "comes later by", "ms", [](double r) { return lens_lag_ms(LensKind::Centre, r); }},
        {"Lens tonal, percussive", "comes later by", "ms", [](double r) { return lens_lag_ms(LensKind::Tonal, r); }},
        {"Lens of an element", "comes later by", "ms", [](double r) { return lens_lag_ms(LensKind::Element, r); }},
        {"Synth", "sub bass, A1: pitch off by", "cents",
         [](double r) {
             return pitch_error_cents(kSynth, {"Sub bass", 0, {}, false, 0.0}, 33, r);
         }},
        {"Synth", "organ, A6: pitch off by", "cents",
         [](double r) {
             return pitch_error_cents(kSynth, {"Organ", 0, {}, false, 0.0}, 93, r);
         }},
        {"Synth", "saw at 440 Hz, filter open: aliasing", "dB", [](double r) { return saw_aliasing_db(440.0, r); }},
        {"Synth", "saw at 2.5 kHz, filter open: aliasing", "dB", [](double r) { return saw_aliasing_db(2500.0, r); }},
        {"Synth", "saw at 440 Hz, drive 12 dB, filter open: aliasing", "dB", [](double r) { return saw_aliasing_db(440.0, r, 12.0); }},
        {"SoundFont", "flute, A5: pitch off by", "cents",
         [](double r) {
             return pitch_error_cents(kSoundFont, {{}, 73, {}, false, 0.0}, 81, r);
         }},
        {"SoundFont", "piano, A4: first sound after its note", "ms", note_late_ms},
    };
    std::printf("| processor | signal and setting | 44.1 kHz | 48 kHz | 96 kHz | 192 kHz |\n| --- | --- | --- | --- | --- | --- |\n");
    for (const Row& row : rows) {
        std::printf("| %s | %s |", row.what, row.signal);
        for (const double rate : {44100.0, 48000.0, 96000.0, 192000.0})
            std::printf(" %.*f %s |", std::string(row.unit) == "dB" ? 2 : 1, row.measure(rate) + 0.0, row.unit);
        std::printf("\n");
    }
    return 0;
}

// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/readings.hpp"

#include "analysis/decoders.hpp"
#include "analysis/network.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

/// The evidence along time, as far as readings go by it.
class Ground {
public:
    explicit Ground(const Evidence& e) : e_(e) {
        const std::size_t steps = e.pitch_frames() ? static_cast<std::size_t>(e.duration_s / kStep_s) : 0;
        for (std::size_t i = 0; i < steps; ++i) {
            const double t = static_cast<double>(i) * kStep_s;
            const auto before = chroma_of(e, std::max(0.0, t - kAround_s), t - 0.03), after = chroma_of(e, t + 0.03, t + kAround_s);
            double dot = 1e-9, aa = 1e-9, bb = 1e-9;
            for (std::size_t c = 0; c < 12; ++c) dot += before[c] * after[c], aa += before[c] * before[c], bb += after[c] * after[c];
            change_.push_back(t < kAround_s ? 0.0 : 1.0 - dot / std::sqrt(aa * bb));
        }
    }
    double drums(double t) const {
        if (!e_.pulse_frames()) return 0.0;
        const auto f = static_cast<Eigen::Index>(std::clamp(std::lround(Evidence::pulse_frame(t)), 2L, static_cast<long>(e_.pulse.rows()) - 3));
        const auto around = e_.pulse.middleRows(f - 2, 5);
        return std::max(around.col(pulse_column(DrumKind::Kick)).maxCoeff(), around.col(pulse_column(DrumKind::Snare)).maxCoeff());
    }
    double bass(double t) const {
        if (!e_.pitch_frames()) return 0.0;
        const auto centre = std::lround(Evidence::pitch_frame(t));
        double most = 0.0;
        for (long f = std::max(0L, centre - 2); f <= std::min(static_cast<long>(e_.pitch_frames()) - 1, centre + 2); ++f)
            for (std::size_t p = 0; p < 40; ++p) most = std::max<double>(most, e_.bass_onset.at(static_cast<std::size_t>(f), p));
        return most;
    }
    double change(double t) const {
        if (change_.empty()) return 0.0;
        const auto i = std::clamp(std::lround(t / kStep_s), 1L, static_cast<long>(change_.size()) - 2);
        return std::max({change_[static_cast<std::size_t>(i - 1)], change_[static_cast<std::size_t>(i)], change_[static_cast<std::size_t>(i + 1)]});
    }
    double duration_s() const { return e_.duration_s; }

private:
    static constexpr double kStep_s = 0.05, kAround_s = 0.6;
    const Evidence& e_;
    std::vector<double> change_;
};

/// Of what is on the places against what is half-way between them, and how much of it there is.
std::optional<double> fit_of(const std::vector<double>& on, const std::vector<double>& between, double usual) {
    if (on.size() < 4) return std::nullopt;
    double a = 0.0, b = 0.0;
    for (const double x : on) a += x / static_cast<double>(on.size());
    for (const double x : between) b += x / static_cast<double>(std::max<std::size_t>(1, between.size()));
    if (a + b < 0.02) return std::nullopt;  // nothing of the kind is heard
    const double clear = a / (a + b), there = std::min(1.0, a / usual);
    return 2.0 * clear * there / (clear + there + 1e-9);
}

Reading judge(const Song& song, const Ground& ground) {
    Reading r;
    r.bpm = song.tempo.bpm_at(song.tempo.anchors().front().tick);
    std::vector<double> drums, drums_off, bass, bass_off, lines, others;
    const Ticks last = song.tempo.nearest_tick(ground.duration_s());
    Ticks t = song.tempo.anchors().front().tick;
    // From the first beat line on, wherever the anchors begin.
    const Ticks first_beat = song.meter.at_bar(1).beat_ticks();
    t = (t + first_beat - 1) / first_beat * first_beat;
    for (; t < last;) {
        const BarPosition place = song.meter.position(t);
        const Ticks beat = song.meter.at_bar(place.bar).beat_ticks();
        if (!song.is_free(t)) {
            const double on_s = song.tempo.seconds(t), off_s = song.tempo.seconds(t + beat / 2);
            drums.push_back(ground.drums(on_s)), drums_off.push_back(ground.drums(off_s));
            bass.push_back(ground.bass(on_s)), bass_off.push_back(ground.bass(off_s));
            (place.beat == 1 ? lines : others).push_back(ground.change(on_s));
        }
        t += beat;
    }
    r.drums = fit_of(drums, drums_off, 0.5);
    r.bass = fit_of(bass, bass_off, 0.4);
    r.harmony = fit_of(lines, others, 0.4);
    double sum = 0.0, weight = 0.0;
    const auto add = [&](const std::optional<double>& v, double w) {
        if (v) sum += w * *v, weight += w;
    };
    add(r.drums, 0.5), add(r.harmony, 0.3), add(r.bass, 0.2);
    const MeterMap::Change& meter = song.meter.at_bar(1);
    const double octaves = std::log2(std::max(1.0, r.bpm * kTicksPerQuarter / static_cast<double>(meter.beat_ticks())) / 115.0);
    r.fit = (weight > 0.0 ? sum / weight : 0.0) * std::exp(-0.5 * octaves * octaves);
    return r;
}

/// The song as a reading counts it.
Song counted(const Song& song, double factor, Ticks later, int numerator, int denominator) {
    Song s = song;
    s.tempo = song.tempo.reread(factor, -later);
    if (numerator > 0) s.meter = MeterMap({{1, numerator, denominator}});
    s.free_time.clear();
    for (FreeTime f : song.free_time) {
        f.start = std::llround(static_cast<double>(f.start) * factor) - later;
        f.length = std::max<Ticks>(1, std::llround(static_cast<double>(f.length) * factor));
        s.free_time.push_back(f);
    }
    return s;
}

}  // namespace

std::vector<Reading> readings(const Song& song, const Evidence& evidence) {
    const Ground ground(evidence);
    std::vector<Reading> all;
    const MeterMap::Change meter = song.meter.changes().front();
    const bool triple = meter.beat_ticks() == kTicksPerQuarter * 3 / 2;
    const auto judged = [&](double factor, Ticks later, int numerator, int denominator, std::string words) {
        Reading r = judge(counted(song, factor, later, numerator, denominator), ground);
        r.factor = factor;
        r.later = later;
        r.numerator = numerator;
        r.denominator = denominator;
        r.words = std::move(words);
        return r;
    };
    const Reading present = judged(1.0, 0, 0, 0, "as it is");
    struct Choice {
        double factor;
        const char* words;
    };
    constexpr std::array<Choice, 6> kFactors{{{0.5, "half"}, {2.0, "double"}, {1.5, "3/2"}, {2.0 / 3.0, "2/3"}, {4.0 / 3.0, "4/3"}, {0.75, "3/4"}}};
    for (const Choice& choice : kFactors) {
        if (present.bpm * choice.factor < 25.0 || present.bpm * choice.factor > 320.0) continue;
        // From the part of a beat and the beat of the bar that fit it best.
        // Whole and half beats are likelier than thirds and quarters, which have to fit clearly better.
        constexpr double kOddPart = 0.06;
        std::optional<Reading> best;
        double most = 0.0;
        const Ticks beat = meter.beat_ticks();
        for (const int part : {0, 3, 4, 6, 8, 9})
            for (int place = 0; place < meter.beats(); ++place) {
                Reading r = judged(choice.factor, part * beat / 12 + place * beat, 0, 0, choice.words);
                const double worth = r.fit - (part % 6 ? kOddPart : 0.0);
                if (!best || worth > most + 1e-3) most = worth, best = std::move(r);
            }
        all.push_back(std::move(*best));
    }
    all.push_back(judged(1.0, meter.beat_ticks() / 2, 0, 0, "half a beat later"));
    all.push_back(judged(1.0, -meter.beat_ticks() / 2, 0, 0, "half a beat earlier"));
    if (triple) all.push_back(judged(2.0 / 3.0, 0, meter.beats(), 4, "straight"));
    else all.push_back(judged(1.5, 0, 3 * meter.beats(), 8, "triplets"));
    std::stable_sort(all.begin(), all.end(), [](const Reading& a, const Reading& b) { return a.fit > b.fit; });
    all.insert(all.begin(), present);
    return all;
}

std::vector<double> beats_as_heard(const Song& song, const Evidence& evidence, Ticks from, Ticks to) {
    constexpr float kShown = 0.2F;
    std::vector<double> beats;
    const auto reach = std::lround(Evidence::pulse_frame(0.06));
    for (Ticks t = from; t <= to; t += song.meter.at_bar(song.meter.position(t).bar).beat_ticks()) {
        double time_s = song.tempo.seconds(t);
        const auto f = std::lround(Evidence::pulse_frame(time_s)), first = std::max(0L, f - reach),
                   last = std::min(static_cast<long>(evidence.pulse.rows()) - 1, f + reach);
        if (last > first) {
            Eigen::Index at = 0;
            const auto shown = evidence.pulse.col(kBeat).segment(first, last - first + 1);
            if (shown.maxCoeff(&at) > kShown) {
                // Between frames by the peak and its neighbours.
                double frame = static_cast<double>(first + at);
                if (at > 0 && at + 1 < shown.size()) {
                    const double a = shown(at - 1), b = shown(at), c = shown(at + 1), bend = a - 2.0 * b + c;
                    if (bend < 0.0) frame += std::clamp(0.5 * (a - c) / bend, -0.5, 0.5);
                }
                time_s = Evidence::pulse_time(frame);
            }
        }
        if (beats.empty() || time_s > beats.back() + 0.02) beats.push_back(time_s);
        else beats.push_back(beats.back() + 0.02);
    }
    return beats;
}

std::optional<TapMeaning> meaning_of_taps(const Song& song, const Evidence& evidence, const std::vector<double>& times_s) {
    constexpr double kUnsteady = 0.10, kSimple = 0.05;
    if (times_s.size() < 4) return std::nullopt;
    std::vector<double> steps;
    for (std::size_t i = 1; i < times_s.size(); ++i) steps.push_back(times_s[i] - times_s[i - 1]);
    const double usual = median(steps);
    if (!(usual > 0.1) || usual > 4.0) return std::nullopt;
    // A tap left out counts on; one that does not belong is not taken.
    double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0, at = 0.0;
    std::vector<std::pair<double, double>> taken;
    for (std::size_t i = 0; i < times_s.size(); ++i) {
        if (i > 0) {
            const double beats = steps[i - 1] / usual;
            if (std::abs(beats - std::round(beats)) > 0.3 || beats < 0.5) continue;
            at += std::round(beats);
        }
        taken.emplace_back(at, times_s[i]);
    }
    if (taken.size() < 4) return std::nullopt;
    for (const auto& [x, y] : taken) n += 1, sx += x, sy += y, sxx += x * x, sxy += x * y;
    const double interval = (n * sxy - sx * sy) / (n * sxx - sx * sx), first = (sy - interval * sx) / n;
    double spread = 0.0;
    for (const auto& [x, y] : taken) spread += std::pow(y - first - interval * x, 2) / n;
    if (!(interval > 0.1) || std::sqrt(spread) > kUnsteady * interval) return std::nullopt;

    TapMeaning meaning;
    const double middle_s = first + interval * at / 2.0;
    const Ticks here = song.tempo.nearest_tick(middle_s);
    const Ticks beat = song.meter.at_bar(song.meter.position(here).bar).beat_ticks();
    meaning.tapped_bpm = 60.0 / interval * static_cast<double>(beat) / kTicksPerQuarter;
    // The tempo as it is counted there, over the stretch of the taps.
    const double present = (song.tempo.ticks(first + interval * at) - song.tempo.ticks(first)) / at / static_cast<double>(beat);  // present beats a tap
    double nearest = 1.0, off = 1e9;
    for (const double f : {0.25, 1.0 / 3.0, 0.5, 2.0 / 3.0, 0.75, 1.0, 4.0 / 3.0, 1.5, 2.0, 3.0, 4.0})
        if (const double d = std::abs(std::log(f * present)); d < off) off = d, nearest = f;
    if (off < kSimple) {
        meaning.factor = nearest;
        // Where the taps fall between the beats of that reading: halves, thirds and quarters, by what most say; a hand's lag of a twelfth is none.
        const TempoMap tempo = song.tempo.reread(nearest, 0);
        double c = 0.0, s = 0.0;
        for (const auto& [x, y] : taken) {
            const double phase = 2.0 * M_PI * tempo.ticks(y) / static_cast<double>(beat);
            c += std::cos(phase), s += std::sin(phase);
        }
        const double phase = std::atan2(s, c) / (2.0 * M_PI);
        double best = 0.0, least = 1e9;
        for (const double p : {0.0, 0.25, 1.0 / 3.0, 0.5, 2.0 / 3.0, 0.75}) {
            double d = std::abs(std::remainder(phase - p, 1.0));
            // Simple places are likelier than quarters and thirds.
            d += p == 0.0 ? 0.0 : p == 0.5 ? 0.02 : 0.06;
            if (d < least) least = d, best = p;
        }
        meaning.later = std::llround(best * static_cast<double>(beat));
        return meaning;
    }
    meaning.beats_s = count_on({first, first + interval * at}, interval, 0.0, evidence.duration_s, evidence.pulse);
    return meaning;
}

}  // namespace fw

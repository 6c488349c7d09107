// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/left_over.hpp"

#include "base/pitch.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace fw {

namespace {

constexpr std::size_t kBands = 9, kBand = 12;  // octaves, from 26 Hz on
/// What the ear weighs at the middle of each octave, dB (IEC 61672-1, A).
constexpr std::array<double, kBands> kWeight_db{-36.0, -24.0, -14.0, -7.5, -2.5, 0.2, 1.3, 0.6, -3.5};

double power(double db) { return std::pow(10.0, db / 10.0); }
double decibels(double p) { return 10.0 * std::log10(std::max(p, 1e-12)); }
double hz_of(double semitone) { return 440.0 * std::exp2((semitone + SoundSummary::kLowestSemitone - 69.0) / 12.0); }

/// Both sounds cell by cell: the original's power, and what of it is left.
class Cells {
public:
    Cells(const SoundSummary& original, const SoundSummary& rebuild, double match_db) : a_(original.semitones), b_(rebuild.semitones), match_(power(match_db)) {
        for (std::size_t step = 1; step < power_.size(); ++step) power_[step] = power(SoundSummary::kFloor_db + 0.5 * static_cast<double>(step));
    }
    std::size_t frames() const { return a_.frames(); }
    double original(std::size_t f, std::size_t s) const { return power_[a_.cells()[f * SoundSummary::kSemitones + s]]; }
    double left(std::size_t f, std::size_t s) const {
        std::uint8_t there = 0;
        for (std::size_t g = f == 0 ? 0 : f - 1; g <= f + 1 && g < b_.frames(); ++g)
            for (std::size_t t = s == 0 ? 0 : s - 1; t <= s + 1 && t < SoundSummary::kSemitones; ++t)
                there = std::max(there, b_.cells()[g * SoundSummary::kSemitones + t]);
        return std::max(0.0, original(f, s) - power_[there] * match_);
    }

private:
    const ByteGrid &a_, &b_;
    double match_;
    std::array<double, 256> power_{};  ///< of each step of half a decibel; the lowest is nothing
};

struct Sum {
    double all = 0.0, left = 0.0;
    std::array<double, kBand> of_pitch{};
    std::size_t there = 0, frames = 0;  ///< frames in which most of it is left, of all
};

Sum sum_of(const Cells& cells, std::size_t from, std::size_t to, std::size_t band) {
    constexpr double kMostly = 0.875;  // 9 dB above the rebuild
    Sum sum;
    for (std::size_t f = from; f < to; ++f) {
        double all = 0.0, left = 0.0;
        for (std::size_t k = 0; k < kBand && band * kBand + k < SoundSummary::kSemitones; ++k) {
            const double l = cells.left(f, band * kBand + k);
            all += cells.original(f, band * kBand + k);
            left += l;
            sum.of_pitch[k] += l;
        }
        sum.all += all, sum.left += left, sum.there += left > kMostly * all, ++sum.frames;
    }
    return sum;
}

/// The pitch that stands out of what is left, if one does.
int outstanding(const Sum& sum, std::size_t band) {
    constexpr double kShare = 0.35;
    const auto most = std::max_element(sum.of_pitch.begin(), sum.of_pitch.end());
    if (*most < kShare * sum.left) return -1;
    return SoundSummary::kLowestSemitone + static_cast<int>(band * kBand + static_cast<std::size_t>(most - sum.of_pitch.begin()));
}

std::string hz_words(double hz) {
    char text[32];
    if (hz < 1000.0) std::snprintf(text, sizeof text, "%.0f Hz", std::round(hz / 5.0) * 5.0);
    else std::snprintf(text, sizeof text, "%.1f kHz", hz / 1000.0);
    return text;
}

std::string bars_words(int first, int bars) {
    return bars <= 1 ? "bar " + std::to_string(first) : "bars " + std::to_string(first) + " to " + std::to_string(first + bars - 1);
}

std::string percent(double share) { return std::to_string(std::lround(100.0 * share)) + " %"; }

}  // namespace

LeftOver left_over(const Remake& remake, const SoundSummary& original, const SoundSummary& rebuild, double match_db) {
    constexpr double kMostly = 0.5, kWorthALook_db = -40.0, kThroughout = 0.6, kFaint_db = -18.0, kFaintest_db = -55.0;
    constexpr std::size_t kMoments = 12;
    LeftOver out;
    const Cells cells(original, rebuild, match_db);
    double whole = 0.0;  // mean weighed power of the original
    out.semitones = ByteGrid(cells.frames(), SoundSummary::kSemitones);
    for (std::size_t f = 0; f < cells.frames(); ++f) {
        double all = 0.0, left = 0.0;
        for (std::size_t s = 0; s < SoundSummary::kSemitones; ++s) {
            const double o = cells.original(f, s);
            const double l = cells.left(f, s);
            all += o, left += l;
            if (l > 0.0)
                out.semitones.cells()[f * SoundSummary::kSemitones + s] =
                    static_cast<std::uint8_t>(std::clamp(std::lround(2.0 * (decibels(l) - SoundSummary::kFloor_db)), 0L, 255L));
            whole += o * power(kWeight_db[std::min(s / kBand, kBands - 1)]) / static_cast<double>(cells.frames());
        }
        out.share.push_back(static_cast<float>(all > 1e-9 ? left / all : 0.0));
    }
    if (whole <= 1e-10) return out;
    const auto& song = *remake.song;
    const auto moment = [&](int bar, int bars, std::size_t band, const Sum& sum) {
        LeftMoment m;
        m.from_s = song.tempo.seconds(song.meter.tick_of_bar(bar));
        m.to_s = song.tempo.seconds(song.meter.tick_of_bar(bar + bars));
        m.bar = bar, m.bars = bars;
        m.low_hz = hz_of(static_cast<double>(band * kBand) - 0.5), m.high_hz = hz_of(static_cast<double>(band * kBand + kBand) - 0.5);
        m.share = sum.all > 0.0 ? sum.left / sum.all : 0.0;
        m.below_db = decibels(sum.left / static_cast<double>(std::max<std::size_t>(1, sum.frames)) * power(kWeight_db[band]) / whole);
        m.pitch = outstanding(sum, band);
        return m;
    };
    const auto frames_of = [&](int bar, int bars) {
        return original.frames_between(song.tempo.seconds(song.meter.tick_of_bar(bar)), song.tempo.seconds(song.meter.tick_of_bar(bar + bars)));
    };
    const int last = std::max(1, song.meter.position(remake.end_tick() - 1).bar);
    std::vector<LeftMoment> all;
    for (int bar = 1; bar <= last; ++bar) {
        const auto [from, to] = frames_of(bar, 1);
        for (std::size_t band = 0; band < kBands; ++band) {
            const LeftMoment m = moment(bar, 1, band, sum_of(cells, from, to, band));
            if (m.share >= kMostly && m.below_db >= kWorthALook_db) all.push_back(m);
        }
    }
    std::stable_sort(all.begin(), all.end(), [](const LeftMoment& a, const LeftMoment& b) { return a.below_db > b.below_db; });
    for (const LeftMoment& m : all) {
        // What goes on in the next bar is the same thing.
        const bool told = std::any_of(out.moments.begin(), out.moments.end(),
                                      [&](const LeftMoment& t) { return std::abs(t.low_hz - m.low_hz) < 1.0 && std::abs(t.bar - m.bar) <= 1; });
        if (!told && out.moments.size() < kMoments) out.moments.push_back(m);
    }
    for (const Section& s : song.sections) {
        const int bar = song.meter.position(s.start).bar, bars = std::max(1, song.meter.position(s.start + s.length - 1).bar - bar + 1);
        const auto [from, to] = frames_of(bar, bars);
        for (std::size_t band = 0; band < kBands; ++band) {
            const Sum sum = sum_of(cells, from, to, band);
            if (static_cast<double>(sum.there) < kThroughout * static_cast<double>(std::max<std::size_t>(1, sum.frames))) continue;
            const LeftMoment m = moment(bar, bars, band, sum);
            if (m.below_db < kFaint_db && m.below_db > kFaintest_db) out.faint.push_back(m);
        }
    }
    std::stable_sort(out.faint.begin(), out.faint.end(), [](const LeftMoment& a, const LeftMoment& b) { return a.below_db > b.below_db; });
    return out;
}

std::string left_words(const LeftMoment& m, bool flats) {
    return bars_words(m.bar, m.bars) + ", " + hz_words(m.low_hz) + " to " + hz_words(m.high_hz) + ": " + percent(m.share) + " is not rebuilt, " +
           (m.pitch >= 0 ? "around " + note_name(m.pitch, flats) : std::string("rather noise than a note")) + ", " +
           (m.below_db >= -0.5 ? std::string("as loud as the whole") : std::to_string(std::lround(-m.below_db)) + " dB below the whole");
}

std::vector<NextStep> what_next(const Remake& remake, const CheckReport& report, const LeftOver* left) {
    constexpr std::size_t kMost = 8;
    std::vector<NextStep> steps;
    const auto& song = *remake.song;
    const auto seconds = [&](int bar) { return song.tempo.seconds(song.meter.tick_of_bar(bar)); };
    for (const Finding& f : report.findings)
        if (f.listed() && is_of_whole_part(f))
            steps.push_back({f.element, f.start_s, f.end_s, 0.9 * f.confidence,
                             f.kind == FindingKind::MissingElement && !f.element ? "Build a part for the " + f.name : ""});
    for (const ElementMatch& e : report.elements) {
        if (e.kind != "part" || !e.match.notes || e.share <= 0.0) continue;
        // The four bars in a row that agree least: where to begin.
        constexpr std::size_t kRun = 4;
        double worst = 2.0;
        std::size_t at = 0;
        for (std::size_t b = 0; b < e.bars.size(); ++b) {
            double sum = 0.0, count = 0.0;
            for (std::size_t k = b; k < std::min(e.bars.size(), b + kRun); ++k)
                if (e.bars[k]) sum += *e.bars[k], count += 1.0;
            if (count > 0.0 && sum / count < worst) worst = sum / count, at = b;
        }
        if (worst > 1.0) continue;
        const double stake = (1.0 - *e.match.notes) * e.share;
        if (stake < 0.01) continue;
        steps.push_back({e.id, seconds(static_cast<int>(at) + 1), seconds(static_cast<int>(at + kRun) + 1), stake,
                         e.name + ": notes " + percent(*e.match.notes) + ", least in " + bars_words(static_cast<int>(at) + 1, kRun)});
    }
    double length = 0.0;
    for (const SectionSound& s : report.sound.sections) length += s.to_s - s.from_s;
    for (const SectionSound& s : report.sound.sections)
        if (s.sound && *s.sound < 0.85)
            steps.push_back(
                {{}, s.from_s, s.to_s, 0.5 * (1.0 - *s.sound) * (s.to_s - s.from_s) / std::max(1.0, length), "Sound " + percent(*s.sound) + " in " + s.name});
    if (left)
        for (std::size_t i = 0; i < std::min<std::size_t>(3, left->moments.size()); ++i) {
            const LeftMoment& m = left->moments[i];
            steps.push_back({{},
                             m.from_s,
                             m.to_s,
                             0.25 * m.share * std::min(1.0, power(m.below_db)),
                             "Left in " + left_words(m, song.flats_at(song.meter.tick_of_bar(m.bar)))});
        }
    for (NextStep& s : steps)
        if (s.words.empty())
            for (const Finding& f : report.findings)
                if (f.element == s.element && f.start_s == s.from_s && f.end_s == s.to_s) {
                    s.words = f.kind == FindingKind::Silent           ? f.name + " is not heard"
                              : f.kind == FindingKind::MissingElement ? f.name + " lacks a sound"
                              : f.kind == FindingKind::TooShort       ? f.name + " is too short throughout"
                              : f.kind == FindingKind::TooLong        ? f.name + " is too long throughout"
                                                                      : f.name + " is off as a whole";
                    break;
                }
    std::stable_sort(steps.begin(), steps.end(), [](const NextStep& a, const NextStep& b) { return a.weight > b.weight; });
    if (steps.size() > kMost) steps.resize(kMost);
    return steps;
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
// Tone as long-term average spectra in third octaves (IEC 61260 centres), width as the side's share of mid and side energy, all at matched loudness.
#include "check/compare_sound.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

constexpr double kLevel_db = 3.0, kTone_db = 6.0, kWidth_db = 6.0, kDecay_db = 3.0, kNoise_db = 6.0;  // what is told
constexpr double kHeard_db = 45.0;                                                                    // below the loudest band nothing is
constexpr double kLost_db = 12.0;  // so far off in level or tone nothing is left of a likeness
constexpr double kSilent_lufs = -69.0;

/// 1 where no one would hear a difference, 0 where nothing is left of it.
double near(double difference, double unheard, double lost) { return std::clamp(1.0 - (std::abs(difference) - unheard) / (lost - unheard), 0.0, 1.0); }

/// How sure a difference of sound is: the farther beyond what is told, the surer.
double sure_beyond(double size, double told) { return std::clamp(0.5 + 0.5 * (std::abs(size) - told) / told, 0.5, 0.95); }

/// A share of side energy as side against mid, within what is heard of it.
double side_db(double share) { return std::clamp(10.0 * std::log10((share + 1e-4) / (1.0 - share + 1e-4)), -24.0, 24.0); }

struct Heard {
    double level_db = 0.0;
    std::vector<double> tone_db;
    std::array<double, SoundSummary::kWidthBands> width{};
};

/// The figure of a stretch; the worst of level, tone and width decides nothing alone.
double figure(const Heard& original, const Heard& rebuild, double match_db, double level_off_db) {
    const double loudest = *std::max_element(original.tone_db.begin(), original.tone_db.end());
    double tone = 0.0, bands = 0.0, width = 0.0;
    for (std::size_t i = 0; i < original.tone_db.size(); ++i) {
        if (original.tone_db[i] < loudest - kHeard_db) continue;
        tone += near(rebuild.tone_db[i] + match_db - original.tone_db[i], 1.5, kLost_db), bands += 1.0;
    }
    for (std::size_t b = 0; b < original.width.size(); ++b)
        width += near(rebuild.width[b] - original.width[b], 0.03, 0.3) / static_cast<double>(original.width.size());
    return near(level_off_db, 1.0, kLost_db) * std::sqrt((bands > 0 ? tone / bands : 0.0) * width);
}

/// The widest run of third octaves that differ the same way by what is told, in two neighbours at least: its loudest difference.
struct ToneRun {
    std::size_t band = 0;
    double db = 0.0;
};
std::vector<ToneRun> tone_runs(const std::vector<double>& original, const std::vector<double>& difference) {
    const double quietest = *std::max_element(original.begin(), original.end()) - kHeard_db;
    std::vector<ToneRun> runs;
    for (std::size_t i = 0; i < difference.size();) {
        const auto differs = [&](std::size_t k) { return std::abs(difference[k]) >= kTone_db && (original[k] > quietest || difference[k] > 0.0); };
        if (!differs(i)) {
            ++i;
            continue;
        }
        ToneRun run{i, difference[i]};
        std::size_t end = i;
        for (; end < difference.size() && differs(end) && (difference[end] > 0) == (difference[i] > 0); ++end)
            if (std::abs(difference[end]) > std::abs(run.db)) run = {end, difference[end]};
        if (end - i >= 2) runs.push_back(run);
        i = end;
    }
    return runs;
}

class Comparison {
public:
    Comparison(const SoundSummary& original, const SoundSummary& rebuild, const SoundPlaces& places, CheckReport& report)
        : a_(original), b_(rebuild), places_(places), r_(report) {}

    void run() {
        r_.sound.original_lufs = a_.lufs;
        r_.sound.rebuild_lufs = b_.lufs;
        r_.sound.match_gain_db = a_.lufs - b_.lufs;
        r_.sound.original_peak_db = a_.peak_db;
        r_.sound.rebuild_peak_db = b_.peak_db;
        const Heard a{a_.lufs, third_octaves_db(a_), width_of(a_, 0.0, a_.duration_s)}, b{b_.lufs, third_octaves_db(b_), width_of(b_, 0.0, b_.duration_s)};
        for (std::size_t i = 0; i < a.tone_db.size(); ++i) r_.sound.tone.push_back({third_octave_centers_hz()[i], a.tone_db[i], b.tone_db[i]});
        for (std::size_t i = 0; i < a.width.size(); ++i) r_.sound.width.push_back({SoundSummary::width_bands()[i].name, a.width[i], b.width[i]});
        if (a_.lufs <= kSilent_lufs) return;
        if (b_.lufs <= kSilent_lufs) {
            r_.match.sound = 0.0;
            for (const auto& s : places_.sections) r_.sound.sections.push_back({s.name, s.from_s, s.to_s, s.bar, 0.0, 0.0});
            return;
        }
        r_.match.sound = figure(a, b, r_.sound.match_gain_db, r_.sound.match_gain_db);
        if (std::abs(r_.sound.match_gain_db) > kLevel_db)
            add(FindingKind::Level, -r_.sound.match_gain_db, 0.95).remedy = remedy::ChangeLevel{r_.sound.match_gain_db};
        tone_difference_ = differences(a, b, r_.sound.match_gain_db);
        tell_tone(a.tone_db, tone_difference_, nullptr);
        for (std::size_t i = 0; i < a.width.size(); ++i) width_difference_[i] = side_db(b.width[i]) - side_db(a.width[i]);
        tell_width(a, width_difference_, nullptr);
        tell_decay();
        tell_noise();
        tell_peak();
        for (const auto& s : places_.sections) section(s);
    }

private:
    static std::vector<double> differences(const Heard& a, const Heard& b, double match_db) {
        std::vector<double> out;
        for (std::size_t i = 0; i < a.tone_db.size(); ++i) out.push_back(b.tone_db[i] + match_db - a.tone_db[i]);
        return out;
    }

    void section(const SoundPlaces::Section& s) {
        const Heard a{level_db(a_, s.from_s, s.to_s), third_octaves_db(a_, s.from_s, s.to_s), width_of(a_, s.from_s, s.to_s)},
            b{level_db(b_, s.from_s, s.to_s), third_octaves_db(b_, s.from_s, s.to_s), width_of(b_, s.from_s, s.to_s)};
        const double off = b.level_db + r_.sound.match_gain_db - a.level_db;
        constexpr double kNothing_db = -75.0;
        if (a.level_db < kNothing_db) {
            r_.sound.sections.push_back({s.name, s.from_s, s.to_s, s.bar, {}, off});
            return;
        }
        r_.sound.sections.push_back({s.name, s.from_s, s.to_s, s.bar, figure(a, b, r_.sound.match_gain_db - off, off), off});
        if (std::abs(off) > kLevel_db)
            at_section(add(FindingKind::Level, off, sure_beyond(off, kLevel_db)), s).remedy =
                remedy::ByEar{off > 0 ? "lower what plays here" : "raise what plays here"};
        if (std::abs(off) > 20.0) return;  // nothing to compare the tone of
        auto tone = differences(a, b, r_.sound.match_gain_db - off);
        for (std::size_t i = 0; i < tone.size(); ++i) tone[i] -= tone_difference_[i];  // what is so everywhere is told once
        tell_tone(a.tone_db, tone, &s);
        auto width = width_difference_;
        for (std::size_t i = 0; i < width.size(); ++i) width[i] = side_db(b.width[i]) - side_db(a.width[i]) - width_difference_[i];
        tell_width(a, width, &s);
    }

    void tell_tone(const std::vector<double>& original, const std::vector<double>& difference, const SoundPlaces::Section* s) {
        for (const ToneRun& run : tone_runs(original, difference)) {
            Finding& f = add(FindingKind::Tone, run.db, sure_beyond(run.db, kTone_db));
            f.center_hz = third_octave_centers_hz()[run.band];
            if (run.db > 0) f.remedy = remedy::LowerBand{};
            else f.remedy = remedy::RaiseBand{};
            if (s) at_section(f, *s);
        }
    }

    /// Only of bands in which the original has something to be wide.
    void tell_width(const Heard& a, const std::array<double, SoundSummary::kWidthBands>& difference, const SoundPlaces::Section* s) {
        constexpr double kFaint_db = 30.0;
        const double loudest = *std::max_element(a.tone_db.begin(), a.tone_db.end());
        for (std::size_t i = 0; i < difference.size(); ++i) {
            const auto& range = SoundSummary::width_bands()[i];
            double level = -200.0;
            for (std::size_t k = 0; k < a.tone_db.size(); ++k)
                if (third_octave_centers_hz()[k] >= range.low_hz && third_octave_centers_hz()[k] < range.high_hz) level = std::max(level, a.tone_db[k]);
            if (std::abs(difference[i]) <= kWidth_db || level < loudest - kFaint_db) continue;
            Finding& f = add(FindingKind::Width, difference[i], sure_beyond(difference[i], kWidth_db));
            f.center_hz = std::sqrt(range.low_hz * range.high_hz);
            f.band = range.name;
            f.remedy = remedy::ByEar{difference[i] > 0 ? "narrow what plays there, or pan it less" : "widen or pan what plays there"};
            if (s) at_section(f, *s);
        }
    }

    void tell_decay() {
        const auto a = decay_after(a_, places_.strokes_s), b = decay_after(b_, places_.strokes_s);
        constexpr std::size_t kFrom = 10;  // the first tenth of a second is the stroke itself
        if (a.size() <= kFrom || b.size() != a.size()) return;
        double difference = 0.0;
        for (std::size_t k = kFrom; k < a.size(); ++k) difference += (b[k] - a[k]) / static_cast<double>(a.size() - kFrom);
        if (std::abs(difference) <= kDecay_db) return;
        add(FindingKind::Envelope, difference, sure_beyond(difference, kDecay_db)).remedy =
            remedy::ByEar{difference > 0 ? "shorten releases or room" : "lengthen releases, or add room"};
    }

    void tell_noise() {
        constexpr double kUnheard_db = -75.0;
        const double a = noise_bed_db(a_), b = noise_bed_db(b_) + r_.sound.match_gain_db;
        r_.sound.original_noise_db = a;
        r_.sound.rebuild_noise_db = b;
        if (std::max(a, b) < kUnheard_db || std::abs(b - a) <= kNoise_db) return;
        const double size = std::max(b, kUnheard_db - 15.0) - std::max(a, kUnheard_db - 15.0);
        add(FindingKind::Noise, size, std::min(0.7, sure_beyond(size, kNoise_db))).remedy =
            remedy::ByEar{size > 0 ? "lower what never stops, or shorten releases" : "add what never stops: room, noise, a held layer"};
    }

    void tell_peak() {
        constexpr double kOver_db = 0.0;
        if (b_.peak_db <= kOver_db || b_.peak_db <= a_.peak_db + 0.5) return;
        add(FindingKind::Peak, b_.peak_db, 0.95).remedy = remedy::ByEar{"lower the master, or limit it"};
    }

    Finding& add(FindingKind kind, double db, double sure) {
        Finding& f = r_.findings.emplace_back();
        f.kind = kind;
        f.name = "mix";
        f.end_s = a_.duration_s;
        f.bar = 1;
        f.beat = 1;
        f.size = db;
        f.unit = "dB";
        f.confidence = sure;
        return f;
    }

    static Finding& at_section(Finding& f, const SoundPlaces::Section& s) {
        f.start_s = s.from_s;
        f.end_s = s.to_s;
        f.bar = s.bar;
        f.place = s.name;
        return f;
    }

    const SoundSummary &a_, &b_;
    const SoundPlaces& places_;
    CheckReport& r_;
    std::vector<double> tone_difference_;
    std::array<double, SoundSummary::kWidthBands> width_difference_{};
};

}  // namespace

SoundPlaces sound_places(const Remake& remake, const Analysis& analysis) {
    SoundPlaces places;
    const auto& song = *remake.song;
    for (const Section& s : song.sections) {
        const int bar = song.meter.position(s.start).bar;
        places.sections.push_back({"bars " + std::to_string(bar) + " to " + std::to_string(song.meter.position(s.start + s.length - 1).bar) + ", " + s.name,
                                   song.tempo.seconds(s.start), song.tempo.seconds(s.start + s.length), bar});
    }
    for (const Hit& h : analysis.drums)
        if (h.kind == DrumKind::Kick || h.kind == DrumKind::Snare) places.strokes_s.push_back(h.time_s);
    if (places.strokes_s.empty())
        for (const HeardNote& n : analysis.notes) places.strokes_s.push_back(n.onset_s);
    return places;
}

void compare_sound(const SoundSummary& original, const SoundSummary& rebuild, const SoundPlaces& places, CheckReport& report) {
    Comparison(original, rebuild, places, report).run();
}

}  // namespace fw

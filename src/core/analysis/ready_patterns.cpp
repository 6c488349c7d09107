// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/ready_patterns.hpp"

#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

constexpr std::array kPatterns{
    ReadyPattern{"Backbeat, eighths", 16, 0.5, "X.......x.......", "....X.......X...", "x.x.x.x.x.x.x.x.", "................"},
    ReadyPattern{"Backbeat, pushed kick", 16, 0.5, "X.....x.x.......", "....X.......X...", "x.x.x.x.x.x.x.x.", "................"},
    ReadyPattern{"Backbeat, busy kick", 16, 0.5, "X..x..x.x.x.....", "....X.......X...", "x.x.x.x.x.x.x.x.", "................"},
    ReadyPattern{"Backbeat, sixteenths", 16, 0.5, "X.......x.x.....", "....X.......X...", "xoxoxoxoxoxoxoxo", "................"},
    ReadyPattern{"Swung sixteenths", 16, 0.6, "X.....x..xx.....", "....X.......X...", "xoxoxoxoxoxoxoxo", "................"},
    ReadyPattern{"Ghost notes", 16, 0.5, "X.x....x..x.....", "....X..o.o..X..o", "x.x.x.x.x.x.x.x.", "................"},
    ReadyPattern{"Four on the floor", 16, 0.5, "X...X...X...X...", "....x.......x...", "..x...x...x...x.", "..x...x...x...x."},
    ReadyPattern{"Four on the floor, sixteenths", 16, 0.5, "X...X...X...X...", "....x.......x...", "xoxoxoxoxoxoxoxo", "................"},
    ReadyPattern{"Half time", 16, 0.5, "X.......x.......", "........X.......", "x.x.x.x.x.x.x.x.", "................"},
    ReadyPattern{"Half time, triplet hats", 12, 0.5, "X.....x..x..", "......X.....", "x.xx.xx.xx.x", "............"},
    ReadyPattern{"One drop", 16, 0.5, "........X.......", "........X.......", "x.x.x.x.x.x.x.x.", "................"},
    ReadyPattern{"Shuffle", 12, 0.5, "X.....X.....", "...X.....X..", "x.xx.xx.xx.x", "............"},
    ReadyPattern{"Waltz-like three on four", 12, 0.5, "X...........", "...x..x..x..", "x..x..x..x..", "............"},
    ReadyPattern{"Broken beat", 16, 0.5, "X.x.......x..x..", "....X..o.o..X...", "x.x.x.x.x.x.x.x.", "................"},
    ReadyPattern{"Dotted kick", 16, 0.5, "X..x..x.X..x..x.", "....X.......X...", "..x...x...x...x.", "................"},
    ReadyPattern{"Snare on every beat", 16, 0.5, "X...x...X...x...", "x...x...x...x...", "x.x.x.x.x.x.x.x.", "................"},
    ReadyPattern{"Quarters and rim", 16, 0.5, "X.......X.......", "....x.......x...", "x...x...x...x...", "................"},
    ReadyPattern{"Clave two-three", 16, 0.5, "X.......X.......", "..x.x...x..x..x.", "x.x.x.x.x.x.x.x.", "................"},
};

constexpr std::array kFills{
    ReadyPattern{"Snare on the last beat", 16, 0.5, "X.......x.......", "....X.......xxxx", "x.x.x.x.x.x.....", "................"},
    ReadyPattern{"Snare through half a bar", 16, 0.5, "X.......x...x...", "....X...xxxxxxxx", "x.x.x.x.........", "................"},
    ReadyPattern{"Snare build", 16, 0.5, "X...X...X...X...", "o.o.o.o.xxxxXXXX", "................", "................"},
    ReadyPattern{"Toms on the last beat", 16, 0.5, "X.......x.......", "....X...........", "x.x.x.x.x.x.....", "................", "............XXxx"},
    ReadyPattern{"Toms through half a bar", 16, 0.5, "X.......x...x...", "....X...........", "x.x.x.x.........", "................", "........XxxxXxxx"},
    ReadyPattern{"Pushed snare", 16, 0.5, "X.......x.......", "....X.....x.X..x", "x.x.x.x.x.x.x...", "................"},
    ReadyPattern{"Kick and snare in turn", 16, 0.5, "X.......X.X.X.X.", "....X....x.x.x.x", "x.x.x.x.........", "................"},
    ReadyPattern{"Triplets down the toms", 12, 0.5, "X.....x.....", "...X........", "x.xx.x......", "............", "......XxxXxx"},
    ReadyPattern{"Stop on the third beat", 16, 0.5, "X.......X.......", "....X...........", "x.x.x.x.........", "................"},
};

int velocity_of(char letter) { return letter == 'X' ? 112 : letter == 'x' ? 92 : letter == 'o' ? 52 : 0; }

/// How alike yes-or-no and probabilities are: the correlation of the two.
double correlation(const std::vector<double>& a, const std::vector<double>& b) {
    const auto n = static_cast<double>(a.size());
    double ma = 0.0, mb = 0.0, ab = 0.0, aa = 0.0, bb = 0.0;
    for (std::size_t i = 0; i < a.size(); ++i) ma += a[i] / n, mb += b[i] / n;
    for (std::size_t i = 0; i < a.size(); ++i) ab += (a[i] - ma) * (b[i] - mb), aa += (a[i] - ma) * (a[i] - ma), bb += (b[i] - mb) * (b[i] - mb);
    return aa > 1e-9 && bb > 1e-9 ? ab / std::sqrt(aa * bb) : 0.0;
}

}  // namespace

std::span<const ReadyPattern> ready_patterns() { return kPatterns; }

std::vector<Note> notes_of(const ReadyPattern& p) {
    std::vector<Note> out;
    const Ticks step = 4 * kTicksPerQuarter / p.steps;
    const std::pair<std::string_view, DrumKind> sounds[] = {
        {p.kick, DrumKind::Kick}, {p.snare, DrumKind::Snare}, {p.hat, DrumKind::HatClosed}, {p.open_hat, DrumKind::HatOpen}, {p.tom, DrumKind::Tom}};
    for (const auto& [text, kind] : sounds)
        for (std::size_t i = 0; i < text.size(); ++i) {
            const int velocity = velocity_of(text[i]);
            // Where a hat is open it is not closed.
            if (velocity == 0 || (kind == DrumKind::HatClosed && velocity_of(p.open_hat[i]) > 0)) continue;
            Note n;
            n.start = static_cast<Ticks>(i) * step + (i % 2 ? static_cast<Ticks>(std::llround((2.0 * p.swing - 1.0) * static_cast<double>(step))) : 0);
            n.length = kTicksPerQuarter / 8;
            n.pitch = drum_sound(kind).key;
            n.velocity = velocity;
            out.push_back(n);
        }
    sort_notes(out);
    return out;
}

namespace {

std::vector<PatternFit> fits_of(std::span<const ReadyPattern> patterns, const Evidence& e, const TempoMap& tempo, const MeterMap& meter, int first_bar,
                                int last_bar) {
    constexpr double kWithin_s = 0.035, kHeardAtAll = 0.15, kSurely = 0.45;
    constexpr Ticks kBar = 4 * kTicksPerQuarter;
    std::vector<PatternFit> out;
    for (const ReadyPattern& p : patterns) {
        const Ticks step = kBar / p.steps;
        const std::array<std::string_view, 4> texts{p.kick, p.snare, p.hat, p.tom};
        constexpr std::array kKinds{DrumKind::Kick, DrumKind::Snare, DrumKind::HatClosed, DrumKind::Tom};
        double sum = 0.0, sounds = 0.0;
        bool any = false;
        for (std::size_t s = 0; s < texts.size(); ++s) {
            std::vector<double> says, heard;
            double loudest = 0.0;
            if (texts[s].empty()) continue;
            for (int bar = first_bar; bar <= last_bar; ++bar) {
                if (meter.at_bar(bar).bar_ticks() != kBar) continue;
                any = true;
                // Between the steps, too, where nothing is struck: a hat on every step says something only against those.
                for (int half = 0; half < 2 * p.steps; ++half) {
                    const int i = half / 2;
                    const bool between = half % 2 != 0;
                    const Ticks swung = i % 2 ? static_cast<Ticks>(std::llround((2.0 * p.swing - 1.0) * static_cast<double>(step))) : 0;
                    const Ticks tick = meter.tick_of_bar(bar) + i * step + (between ? step / 2 : 0) + swung;
                    const double at = tempo.seconds(tick), within_s = std::min(kWithin_s, (tempo.seconds(tick + step) - at) / 5.0);
                    float best = 0.0F;
                    const auto a = static_cast<Eigen::Index>(std::max(0.0, std::floor(Evidence::pulse_frame(at - within_s)))),
                               b = std::min<Eigen::Index>(e.pulse.rows() - 1, static_cast<Eigen::Index>(std::ceil(Evidence::pulse_frame(at + within_s))));
                    for (Eigen::Index f = a; f <= b; ++f) {
                        best = std::max(best, e.pulse(f, pulse_column(kKinds[s])));
                        if (kKinds[s] == DrumKind::HatClosed) best = std::max(best, e.pulse(f, pulse_column(DrumKind::HatOpen)));
                    }
                    says.push_back(!between && velocity_of(texts[s][static_cast<std::size_t>(i)]) > 0 ? 1.0 : 0.0);
                    heard.push_back(std::min(1.0, best / kSurely));
                    loudest = std::max<double>(loudest, best);
                }
            }
            if (says.empty() || loudest < kHeardAtAll) continue;
            sum += std::max(0.0, correlation(says, heard));
            sounds += 1.0;
        }
        if (any && sounds > 0.0) out.push_back({&p, sum / sounds});
    }
    std::stable_sort(out.begin(), out.end(), [](const PatternFit& a, const PatternFit& b) { return a.fit > b.fit; });
    return out;
}

/// How alike two bars are by what is heard of kick, snare, hat and toms on sixteenths.
double likeness(const Evidence& e, const Song& song, int bar, int other) {
    std::vector<double> a, b;
    const auto heard = [&](int of, int step, DrumKind kind) {
        const Ticks length = song.meter.at_bar(of).bar_ticks();
        const double at = song.tempo.seconds(song.meter.tick_of_bar(of) + length * step / 16);
        float best = 0.0F;
        for (auto f = static_cast<Eigen::Index>(std::max(0.0, Evidence::pulse_frame(at - 0.03)));
             f <= static_cast<Eigen::Index>(Evidence::pulse_frame(at + 0.03)); ++f)
            if (f < e.pulse.rows()) best = std::max(best, e.pulse(f, pulse_column(kind)));
        return static_cast<double>(best);
    };
    for (const DrumKind kind : {DrumKind::Kick, DrumKind::Snare, DrumKind::HatClosed, DrumKind::Tom})
        for (int step = 0; step < 16; ++step) a.push_back(heard(bar, step, kind)), b.push_back(heard(other, step, kind));
    return correlation(a, b);
}

}  // namespace

std::vector<PatternFit> fit_patterns(const Evidence& e, const TempoMap& tempo, const MeterMap& meter, int first_bar, int last_bar) {
    return fits_of(kPatterns, e, tempo, meter, first_bar, last_bar);
}

std::span<const ReadyPattern> ready_fills() { return kFills; }

std::vector<FillPlace> fill_places(const Evidence& e, const Song& song) {
    constexpr double kOther = 0.87;
    std::vector<FillPlace> out;
    for (std::size_t i = 1; i < song.sections.size(); ++i) {
        const int bar = song.meter.position(song.sections[i].start).bar - 1;
        if (bar < 2) continue;
        auto fits = fits_of(kFills, e, song.tempo, song.meter, bar, bar);
        if (fits.empty()) continue;
        out.push_back({bar, fits.front(), likeness(e, song, bar, bar - 1) < kOther});
    }
    return out;
}

}  // namespace fw

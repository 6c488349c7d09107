// SPDX-License-Identifier: GPL-3.0-or-later
// Sections in whole bars: novelty along the diagonal of a self-similarity matrix (Foote, ICME 2000) and repetition of earlier
// bars (Goto, ICASSP 2003), joined by dynamic programming that favours lengths music is made in.
#include "analysis/decoders.hpp"

#include "analysis/network.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace fw {

namespace {

using Chroma = std::array<float, 12>;
constexpr double kSectionCost = 0.7, kLengthWeight = 0.55, kRepeatGain = 0.25, kNoveltyGain = 2.5;
constexpr int kTexture = 9;  // three band levels, six drum counts

struct Bar {
    double start_s = 0.0, end_s = 0.0;
    int number = 1;
    Chroma first{}, second{};  // chroma of each half
    std::array<float, kTexture> texture{};
};

float cosine(const Chroma& a, const Chroma& b, int up) {
    float dot = 0, aa = 1e-6F, bb = 1e-6F;
    for (int c = 0; c < 12; ++c) {
        const float x = a[static_cast<std::size_t>(c)], y = b[static_cast<std::size_t>((c + up) % 12)];
        dot += x * y, aa += x * x, bb += y * y;
    }
    return dot / std::sqrt(aa * bb);
}

float harmony_alike(const Bar& a, const Bar& b, int up = 0) {
    // Chroma always share something; what lies above the usual overlap tells.
    const float mean = 0.5F * (cosine(a.first, b.first, up) + cosine(a.second, b.second, up));
    return std::clamp((mean - 0.5F) * 2.0F, 0.0F, 1.0F);
}

float texture_alike(const Bar& a, const Bar& b) {
    float distance = 0;
    for (std::size_t i = 0; i < kTexture; ++i) distance += std::abs(a.texture[i] - b.texture[i]) * (i < 3 ? 1.5F : 0.5F);
    return std::exp(-1.6F * distance);
}

float alike(const Bar& a, const Bar& b) { return 0.55F * harmony_alike(a, b) + 0.45F * texture_alike(a, b); }

double length_cost(std::size_t bars) {
    switch (bars) {
        case 8: return 0.0;
        case 4: return 0.15;
        case 16: return 0.6;
        case 12:
        case 6: return 0.5;
        case 2:
        case 10:
        case 14: return 0.9;
        default: return bars % 2 == 0 ? 1.1 : 1.5 + (bars < 4 ? 0.5 : 0.0);
    }
}

}  // namespace

std::vector<SectionSpan> find_sections(const Evidence& e, const std::vector<Beat>& beats, const std::vector<Hit>& drums, double duration_s) {
    std::vector<Bar> bars;
    for (std::size_t i = 0; i < beats.size(); ++i)
        if (beats[i].beat == 1 || i == 0) {
            if (!bars.empty()) bars.back().end_s = beats[i].time_s;
            bars.push_back({beats[i].time_s, duration_s, beats[i].bar, {}, {}, {}});
        }
    if (bars.empty()) return {};
    if (bars.size() >= 2) bars.back().end_s = std::min(duration_s, bars.back().start_s + (bars[bars.size() - 2].end_s - bars[bars.size() - 2].start_s));
    const std::size_t n = bars.size();
    float loudest = 1e-3F;
    for (Bar& bar : bars) {
        const double middle = 0.5 * (bar.start_s + bar.end_s);
        bar.first = chroma_of(e, bar.start_s, middle);
        bar.second = chroma_of(e, middle, bar.end_s);
        const auto a = static_cast<Eigen::Index>(std::clamp(Evidence::pulse_frame(bar.start_s), 0.0, static_cast<double>(e.bands.rows() - 1)));
        const auto b =
            std::max<Eigen::Index>(a + 1, static_cast<Eigen::Index>(std::min(Evidence::pulse_frame(bar.end_s), static_cast<double>(e.bands.rows()))));
        for (int k = 0; k < 3; ++k) {
            bar.texture[static_cast<std::size_t>(k)] = e.bands.col(k).segment(a, b - a).mean();
            loudest = std::max(loudest, bar.texture[static_cast<std::size_t>(k)]);
        }
        for (const Hit& h : drums) {
            if (h.time_s < bar.start_s - 0.03 || h.time_s >= bar.end_s - 0.03) continue;
            const std::size_t k = h.kind == DrumKind::Kick        ? 3
                                  : h.kind == DrumKind::Snare     ? 4
                                  : h.kind == DrumKind::HatClosed ? 5
                                  : h.kind == DrumKind::HatOpen   ? 6
                                  : h.kind == DrumKind::Ride      ? 7
                                                                  : 8;
            bar.texture[k] = std::min(1.0F, bar.texture[k] + (k == 5 || k == 7 ? 0.125F : 0.25F));
        }
    }
    for (Bar& bar : bars)
        for (std::size_t k = 0; k < 3; ++k) bar.texture[k] /= loudest;

    // Novelty at each bar line: how much the bars before and after differ across, against how alike they are among themselves.
    std::vector<double> novelty(n + 1, 0.0);
    for (std::size_t t = 1; t < n; ++t) {
        const std::size_t reach = std::min<std::size_t>({4, t, n - t});
        double across = 0, within = 0;
        for (std::size_t i = 1; i <= reach; ++i)
            for (std::size_t j = 0; j < reach; ++j) across += alike(bars[t - i], bars[t + j]);
        // A bar is always like itself, which says nothing: only different bars are compared.
        for (std::size_t i = 0; i < reach; ++i)
            for (std::size_t j = 0; j < reach; ++j)
                if (i != j) within += 0.5 * (alike(bars[t - 1 - i], bars[t - 1 - j]) + alike(bars[t + i], bars[t + j]));
        const double pairs = static_cast<double>(reach * (reach - 1));
        novelty[t] = reach > 1 ? (within / pairs - across / static_cast<double>(reach * reach)) * static_cast<double>(reach) / 4.0 : 0.0;
    }
    // How well bars a .. a+length-1 repeat an earlier or later stretch, at any transposition up to a minor third.
    const auto stretch_alike = [&](std::size_t a, std::size_t b, std::size_t length, int up) {
        double sum = 0;
        for (std::size_t i = 0; i < length; ++i) sum += harmony_alike(bars[a + i], bars[b + i], up) * (up == 0 ? 1.0 : 0.94);
        return sum / static_cast<double>(length);
    };
    const auto best_repeat = [&](std::size_t a, std::size_t length) {
        double best = 0;
        if (length < 4) return best;
        for (std::size_t b = 0; b + length <= n; ++b) {
            if (b + length > a && b < a + length) continue;
            for (const int up : {0, 1, 2, 10, 11}) best = std::max(best, stretch_alike(a, b, length, up));
        }
        return best;
    };
    constexpr std::size_t kLongest = 16;
    std::vector<double> value(n + 1, -std::numeric_limits<double>::infinity());
    std::vector<std::size_t> cut(n + 1, 0);
    value[0] = 0.0;
    for (std::size_t b = 1; b <= n; ++b)
        for (std::size_t length = 1; length <= std::min(kLongest, b); ++length) {
            const std::size_t a = b - length;
            if (value[a] < -1e100) continue;
            const double repeat = n <= 400 ? best_repeat(a, length) : 0.0;
            double v = value[a] - kSectionCost - length_cost(length) * kLengthWeight + kRepeatGain * static_cast<double>(length) * std::max(0.0, repeat - 0.55);
            if (b < n) v += kNoveltyGain * novelty[b];
            if (v > value[b]) {
                value[b] = v;
                cut[b] = a;
            }
        }
    std::vector<std::pair<std::size_t, std::size_t>> stretches;
    for (std::size_t b = n; b > 0; b = cut[b]) stretches.emplace_back(cut[b], b);
    std::reverse(stretches.begin(), stretches.end());

    std::vector<SectionSpan> sections;
    std::vector<double> energy;
    char next_label = 'A';
    for (std::size_t s = 0; s < stretches.size(); ++s) {
        const auto [a, b] = stretches[s];
        SectionSpan span;
        span.start_s = bars[a].start_s;
        span.end_s = bars[b - 1].end_s;
        span.start_bar = bars[a].number;
        span.bars = static_cast<int>(b - a);
        span.confidence = std::clamp(0.4 + novelty[a], 0.1, 1.0);
        double best = 0.0;
        for (std::size_t r = 0; r < s; ++r) {
            const auto [c, d] = stretches[r];
            const std::size_t length = std::min(b - a, d - c);
            if (std::max(b - a, d - c) > 2 * length) continue;
            for (const int up : {0, 1, 2, 10, 11}) {
                double texture = 0;
                for (std::size_t i = 0; i < length; ++i) texture += texture_alike(bars[a + i], bars[c + i]);
                const double v = 0.75 * stretch_alike(a, c, length, up) + 0.25 * texture / static_cast<double>(length);
                if (v > best + 0.01) {
                    best = v;
                    span.repeat_of = sections[r].repeat_of >= 0 ? sections[r].repeat_of : static_cast<int>(r);
                }
            }
        }
        if (best < 0.66) span.repeat_of = -1;
        else span.confidence = std::clamp(best, 0.1, 1.0);
        if (span.repeat_of >= 0) span.label = sections[static_cast<std::size_t>(span.repeat_of)].label;
        else span.label = next_label <= 'Z' ? std::string(1, next_label++) : "Z";
        double level = 0;
        for (std::size_t i = a; i < b; ++i)
            level += (bars[i].texture[0] + bars[i].texture[1] + bars[i].texture[2] + bars[i].texture[3] + bars[i].texture[4]) / static_cast<double>(b - a);
        energy.push_back(level);
        sections.push_back(std::move(span));
    }
    // Names: the ends by place, what repeats loudest is the chorus, the other repeats the verse, a thin once-only stretch the break.
    std::array<double, 26> group_energy{};
    std::array<int, 26> group_size{};
    for (std::size_t s = 0; s < sections.size(); ++s) {
        const auto g = static_cast<std::size_t>(sections[s].label[0] - 'A');
        group_energy[g] += energy[s];
        ++group_size[g];
    }
    int chorus = -1;
    for (int g = 0; g < 26; ++g) {
        const auto i = static_cast<std::size_t>(g);
        if (group_size[i] >= 2 &&
            (chorus < 0 || group_energy[i] / group_size[i] >= group_energy[static_cast<std::size_t>(chorus)] / group_size[static_cast<std::size_t>(chorus)]))
            chorus = g;
    }
    double mean = 0;
    for (const double v : energy) mean += v / static_cast<double>(energy.size());
    for (std::size_t s = 0; s < sections.size(); ++s) {
        const int g = sections[s].label[0] - 'A';
        const bool once = group_size[static_cast<std::size_t>(g)] == 1;
        if (s == 0 && sections.size() > 2 && (once || energy[s] < 0.8 * mean)) sections[s].name = "intro";
        else if (s + 1 == sections.size() && sections.size() > 2 && (once || energy[s] < 0.9 * mean)) sections[s].name = "outro";
        else if (g == chorus) sections[s].name = "chorus";
        else if (!once) sections[s].name = "verse";
        else sections[s].name = energy[s] < 0.85 * mean ? "break" : "bridge";
    }
    return sections;
}

}  // namespace fw

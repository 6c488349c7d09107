// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/clearest.hpp"

#include "analysis/network.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

/// How much the evidence says sounds in a stretch: all pitches together, but for those of one note and its partials.
double pitched(const Evidence& e, double from_s, double to_s, int pitch) {
    double sum = 0.0;
    for (int p = Evidence::kLowestPitch; p < Evidence::kLowestPitch + Evidence::kPitches; ++p) {
        bool own = false;
        for (const int partial : {0, 12, 19, 24, 28, 31, 36}) own |= pitch >= 0 && std::abs(p - pitch - partial) <= (partial ? 1 : 0);
        if (!own) sum += e.mean(e.sounding, from_s, to_s, p);
    }
    return sum;
}

/// Strokes in a stretch, but for one sound at one time.
double struck(const Evidence& e, double from_s, double to_s, int column) {
    double sum = 0.0;
    const auto a = std::max(0L, std::lround(Evidence::pulse_frame(from_s))),
               b = std::min(static_cast<long>(e.pulse.rows()) - 1, std::lround(Evidence::pulse_frame(to_s)));
    if (b <= a) return 0.0;
    for (int c = 0; c < kDrumKinds; ++c)
        if (c != column) sum += e.pulse.col(c).segment(a, b - a + 1).maxCoeff();
    return sum;
}

std::vector<ClearMoment> best(std::vector<ClearMoment> all, std::size_t most) {
    constexpr double kApart_s = 1.0;
    std::stable_sort(all.begin(), all.end(), [](const ClearMoment& a, const ClearMoment& b) { return a.alone > b.alone; });
    std::vector<ClearMoment> kept;
    for (const ClearMoment& m : all) {
        if (kept.size() == most) break;
        if (std::none_of(kept.begin(), kept.end(), [&](const ClearMoment& k) { return std::abs(k.start_s - m.start_s) < kApart_s && k.kind == m.kind; }))
            kept.push_back(m);
    }
    return kept;
}

void add_strokes(const Analysis& a, DrumKind kind, std::vector<ClearMoment>& all) {
    const Evidence& e = *a.evidence;
    for (const Hit& h : a.drums) {
        if (h.kind != kind || h.confidence < 0.4) continue;
        const double end_s = h.time_s + 0.25;
        const double others = pitched(e, h.time_s, end_s, -1) + struck(e, h.time_s - 0.03, h.time_s + 0.2, static_cast<int>(kind));
        all.push_back({h.time_s, end_s, -1, kind, h.confidence / (h.confidence + others)});
    }
}

}  // namespace

std::vector<ClearMoment> clearest_moments(const Analysis& a, PartRole role, const std::string& name, std::size_t most) {
    std::vector<ClearMoment> all;
    if (!a.evidence || !a.evidence->pitch_frames()) return all;
    const Evidence& e = *a.evidence;
    if (role == PartRole::Drums) {
        for (int k = 0; k < kDrumKinds; ++k) add_strokes(a, static_cast<DrumKind>(k), all);
        return best(std::move(all), most);
    }
    constexpr double kShortest_s = 0.15, kLongest_s = 1.0;
    for (const HeardPart& part : a.parts) {
        if (!part.is_of(role, name)) continue;
        for (const HeardNote& n : part.notes) {
            if (n.duration_s < kShortest_s || n.confidence < 0.4) continue;
            const double end_s = n.onset_s + std::min(n.duration_s, kLongest_s);
            const double others = pitched(e, n.onset_s, end_s, n.pitch) + struck(e, n.onset_s - 0.03, end_s, -1);
            // A longer note tells more of its sound.
            const double worth = n.confidence * std::sqrt(std::min(1.0, n.duration_s / 0.5));
            all.push_back({n.onset_s, end_s, n.pitch, {}, worth / (worth + others)});
        }
    }
    return best(std::move(all), most);
}

}  // namespace fw

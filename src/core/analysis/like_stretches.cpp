// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/like_stretches.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

constexpr double kClear = 0.35;   // from which a note says something where it was transcribed
constexpr double kAbsent = 0.12;  // below it nothing is heard
constexpr double kHeard = 0.6, kSurelyHeard = 0.75;
constexpr double kAlike = 0.6;
constexpr double kWithin_s = 0.06;
constexpr Ticks kEarly = kTicksPerQuarter / 8;  // what begins so little ahead of a bar belongs to it

/// What the evidence says of one part.
class Ear {
public:
    Ear(const Analysis& analysis, const Song& song, PartRole role) : e_(*analysis.evidence), song_(song), role_(role) {
        const auto add = [&](double time_s, double length_s, int pitch, int velocity, double confidence) {
            Note n;
            n.start = song.tempo.nearest_tick(time_s);
            n.length = std::max<Ticks>(1, song.tempo.nearest_tick(time_s + length_s) - n.start);
            n.pitch = pitch;
            n.velocity = velocity;
            n.confidence = confidence;
            n.origin = Origin::Heard;
            heard_.push_back(n);
        };
        if (role == PartRole::Drums)
            for (const Hit& h : analysis.drums) add(h.time_s, 0.05, drum_sound(h.kind).key, h.velocity, h.confidence);
        else
            for (const HeardPart& p : analysis.parts)
                if (p.role == role)
                    for (const HeardNote& n : p.notes) add(n.onset_s, n.duration_s, n.pitch, n.velocity, n.confidence);
        sort_notes(heard_);
    }

    /// What was heard and decided to be this part's, from a place to before another.
    std::vector<Note> between(Ticks from, Ticks to) const {
        const auto begin = std::lower_bound(heard_.begin(), heard_.end(), from, [](const Note& n, Ticks t) { return n.start < t; });
        const auto end = std::lower_bound(begin, heard_.end(), to, [](const Note& n, Ticks t) { return n.start < t; });
        return {begin, end};
    }

    /// How clearly a note is heard that begins at a place.
    double of(Ticks at, int pitch) const {
        const double time_s = song_.tempo.seconds(at);
        if (role_ == PartRole::Drums) {
            const DrumSound* sound = drum_sound_of_key(pitch);
            if (!sound) return 0.0;
            float best = 0.0F;
            const auto a = std::max<Eigen::Index>(0, static_cast<Eigen::Index>(Evidence::pulse_frame(time_s - kWithin_s)));
            const auto b = std::min<Eigen::Index>(e_.pulse.rows() - 1, static_cast<Eigen::Index>(std::ceil(Evidence::pulse_frame(time_s + kWithin_s))));
            for (Eigen::Index f = a; f <= b; ++f) best = std::max(best, e_.pulse(f, pulse_column(sound->kind)));
            return static_cast<double>(best);
        }
        if (pitch < Evidence::kLowestPitch || pitch >= Evidence::kLowestPitch + Evidence::kPitches) return 0.0;
        const auto column = static_cast<std::size_t>(pitch - Evidence::kLowestPitch);
        const ByteGrid& own = role_ == PartRole::Bass ? e_.bass_onset : role_ == PartRole::Lead ? e_.lead_onset : e_.onset;
        float best = 0.0F;
        const auto a = static_cast<std::size_t>(std::max(0.0, Evidence::pitch_frame(time_s - kWithin_s)));
        const auto b = std::min(own.frames(), static_cast<std::size_t>(std::max(0.0, Evidence::pitch_frame(time_s + kWithin_s))) + 1);
        for (std::size_t f = a; f < b; ++f) best = std::max({best, own.at(f, column), 0.8F * e_.onset.at(f, column)});
        return static_cast<double>(best);
    }

private:
    const Evidence& e_;
    const Song& song_;
    PartRole role_;
    std::vector<Note> heard_;
};

bool same_note(const Note& a, const Note& b, Ticks moved) { return a.pitch == b.pitch && std::abs(a.start + moved - b.start) <= kTicksPerQuarter / 6; }

bool is_users_word(const Note& n) { return n.origin != Origin::Heard || n.accepted; }

}  // namespace

std::vector<LikeStretch> like_stretches(const Analysis& analysis, const Song& song, const Part& part, Ticks from, Ticks length) {
    if (!analysis.evidence || length < 1) return {};
    const Ear ear(analysis, song, part.role);
    const auto placed = placed_notes(part);
    const auto written = [&](Ticks a, Ticks b) {
        const auto begin = std::lower_bound(placed.begin(), placed.end(), a - kEarly, [](const PlacedNote& n, Ticks t) { return n.note.start < t; });
        const auto end = std::lower_bound(begin, placed.end(), b - kEarly, [](const PlacedNote& n, Ticks t) { return n.note.start < t; });
        return std::pair(begin, end);
    };
    struct Clear {
        PlacedNote note;
        double heard;
    };
    std::vector<Clear> clear;
    const auto [first, last] = written(from, from + length);
    for (auto n = first; n != last; ++n)
        if (const double heard = ear.of(n->note.start, n->note.pitch); !n->muted && heard >= kClear) clear.push_back({*n, std::min(1.0, heard)});
    if (clear.empty()) return {};
    // What was heard in the stretch itself and is not written there was decided against.
    std::vector<Note> refused;
    for (const Note& h : ear.between(from - kEarly, from + length - kEarly))
        if (std::none_of(first, last, [&](const PlacedNote& n) { return same_note(n.note, h, 0); })) refused.push_back(h);

    const MeterMap& meter = song.meter;
    const Ticks bar = meter.at_bar(meter.position(from).bar).bar_ticks(), into = from - meter.tick_of_bar(meter.position(from).bar);
    const int last_bar = meter.position(song.tempo.nearest_tick(analysis.duration_s)).bar;
    std::vector<LikeStretch> all;
    for (int b = 1; b <= last_bar; ++b) {
        const Ticks at = meter.tick_of_bar(b) + into, moved = at - from;
        if (meter.at_bar(b).bar_ticks() != bar || (at < from + length && from < at + length)) continue;
        LikeStretch like{at, 0.0, {}, {}};
        double same = 0.0;
        for (const Clear& c : clear) {
            const double there = ear.of(c.note.note.start + moved, c.note.note.pitch);
            same += std::min(1.0, there / c.heard);
            if (there < kAbsent) like.missing.push_back(c.note.ref());
        }
        double besides = 0.0;
        for (const Note& h : ear.between(at - kEarly, at + length - kEarly)) {
            if (h.confidence < kHeard || std::any_of(first, last, [&](const PlacedNote& n) { return same_note(n.note, h, moved); }) ||
                std::any_of(refused.begin(), refused.end(), [&](const Note& n) { return same_note(n, h, moved); }))
                continue;
            besides += 1.0;
            if (h.confidence >= kSurelyHeard) like.more.push_back(h);
        }
        like.alike = 2.0 * same / (static_cast<double>(clear.size()) + same + besides);
        if (like.alike < kAlike) continue;
        const auto [begin, end] = written(at, at + length);
        for (auto n = begin; n != end; ++n)
            if (is_users_word(n->note) && std::none_of(first, last, [&](const PlacedNote& w) { return same_note(w.note, n->note, moved); }) &&
                std::none_of(like.more.begin(), like.more.end(), [&](const Note& m) { return same_note(m, n->note, 0); }))
                like.more.push_back(n->note);
        sort_notes(like.more);
        all.push_back(std::move(like));
    }
    // Of those that overlap the most alike, the earlier of two that are as alike.
    std::vector<std::size_t> order(all.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return all[a].alike > all[b].alike; });
    std::vector<LikeStretch> out;
    for (const std::size_t i : order)
        if (std::none_of(out.begin(), out.end(), [&](const LikeStretch& o) { return all[i].at < o.at + length && o.at < all[i].at + length; }))
            out.push_back(std::move(all[i]));
    std::sort(out.begin(), out.end(), [](const LikeStretch& a, const LikeStretch& b) { return a.at < b.at; });
    return out;
}

}  // namespace fw

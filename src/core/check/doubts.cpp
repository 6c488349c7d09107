// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/doubts.hpp"

#include "base/pitch.hpp"
#include "model/drums.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

constexpr double kTogether_s = 0.08;

double share_of(double log_odds) { return 1.0 / (1.0 + std::exp(-log_odds)); }

/// By how much a neighbour is heard for what it is not: what a listener confuses first.
double nearness(int semitones) {
    switch (std::abs(semitones)) {
        case 1: return 0.8;
        case 12: return 0.8;
        case 2: return 0.5;
        case 5:
        case 7:
        case 3:
        case 4: return 0.3;
        default: return -0.02 * std::abs(semitones);
    }
}

/// What sounds of a part around a time, by pitch.
bool plays(const Remake& r, const std::vector<PlacedNote>& notes, int pitch, double start_s, bool begins) {
    const Ticks from = r.song->tempo.nearest_tick(start_s - kTogether_s), to = r.song->tempo.nearest_tick(start_s + kTogether_s);
    // The longest notes of a song last some bars: looked for among those that begin within.
    constexpr Ticks kLong = 8 * 4 * kTicksPerQuarter;
    const auto first =
        std::lower_bound(notes.begin(), notes.end(), begins ? from : from - kLong, [](const PlacedNote& n, Ticks t) { return n.note.start < t; });
    for (auto n = first; n != notes.end() && n->note.start <= to; ++n) {
        if (n->muted || n->note.pitch != pitch) continue;
        if (n->note.start >= from || (!begins && n->note.start + n->note.length > (from + to) / 2)) return true;
    }
    return false;
}

/// All parts' notes, each once.
struct Played {
    explicit Played(const Remake& r) {
        for (const auto& p : r.parts) parts.emplace_back(p.get(), placed_notes(*p));
    }
    std::vector<std::pair<const Part*, std::vector<PlacedNote>>> parts;
};

std::vector<Alternative> pitches_there(const Remake& r, const Evidence& e, const Played& played, PartId part, double start_s, double end_s, int pitch,
                                       bool is_written) {
    constexpr std::size_t kMost = 5;
    constexpr double kLeast = -3.0;  // log-odds: what is heard less is not offered
    const Written here{start_s, std::max(end_s, start_s + 0.05), pitch};
    std::vector<std::pair<double, Alternative>> all;
    for (int p = std::max(Evidence::kLowestPitch, pitch - 24); p <= std::min(Evidence::kLowestPitch + Evidence::kPitches - 1, pitch + 24); ++p) {
        const bool own = p == pitch;
        Alternative a{p, 0.0, own && is_written, {}};
        bool mine = false;
        for (const auto& [other, notes] : played.parts) {
            if (other->role == PartRole::Drums) continue;
            if (other->id == part) mine = !own && plays(r, notes, p, start_s, true);
            else if (a.also.empty() && plays(r, notes, p, start_s, true)) a.also = other->name;
        }
        if (mine) continue;
        const double heard = pitch_heard(e, here, p).both();
        if (!own && heard < kLeast) continue;
        a.heard = share_of(heard);
        all.emplace_back(heard + nearness(p - pitch) - (a.also.empty() ? 0.0 : 1.5), std::move(a));
    }
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<Alternative> out;
    for (auto& [rank, a] : all)
        if (out.size() < kMost || a.pitch == pitch) out.push_back(std::move(a));
    return out;
}

Masked masked_by(const Remake& r, const Played& played, double start_s, int pitch) {
    int around = 0;
    bool octave = false, twelfth = false;
    for (const auto& [part, notes] : played.parts) {
        if (part->role == PartRole::Drums) continue;
        for (const int below : {12, 24, 36}) octave = octave || plays(r, notes, pitch - below, start_s, false);
        twelfth = twelfth || plays(r, notes, pitch - 19, start_s, false);
        for (int p = pitch - 9; p <= pitch + 16; ++p)
            if (p != pitch && plays(r, notes, p, start_s, false)) ++around;
    }
    return octave ? Masked::ByItsOctave : twelfth ? Masked::ByItsTwelfth : around >= 3 ? Masked::UnderAChord : Masked::Not;
}

std::vector<Alternative> sounds_there(const Remake& r, const Evidence& e, const Played& played, PartId part, double time_s, int key, bool is_written) {
    std::vector<Alternative> out;
    for (const DrumSound& sound : drum_sounds()) {
        const int k = sound.key;
        const bool own = k == sound_key(key);
        bool mine = false;
        for (const auto& [other, notes] : played.parts)
            if (other->id == part && !own) mine = plays(r, notes, k, time_s, true);
        if (mine) continue;
        out.push_back({k, share_of(stroke_heard(e, {time_s, time_s + 0.1, k}).own), own && is_written, {}});
    }
    std::stable_sort(out.begin(), out.end(), [](const Alternative& a, const Alternative& b) { return a.heard > b.heard; });
    constexpr std::size_t kMost = 4;
    std::vector<Alternative> best;
    for (Alternative& a : out)
        if (best.size() < kMost || a.written) best.push_back(std::move(a));
    return best;
}

}  // namespace

bool is_doubted(const PlacedNote& n, std::optional<double> right, double less_than) {
    if (n.muted || n.note.accepted || n.note.origin == Origin::Drawn || n.note.origin == Origin::Played) return false;
    if (!right) return n.note.origin == Origin::Heard && n.note.confidence < 0.5;
    return *right < less_than;
}

void look_closer(const Remake& r, const Evidence& evidence, Doubt& d) {
    const Part* part = r.part(d.part);
    if (!part) return;
    const Played played(r);
    const bool written = d.note.has_value();
    if (part->role == PartRole::Drums) {
        d.alternatives = sounds_there(r, evidence, played, d.part, d.start_s, d.shown.pitch, written);
        return;
    }
    d.alternatives = pitches_there(r, evidence, played, d.part, d.start_s, d.end_s, d.shown.pitch, written);
    d.masked = masked_by(r, played, d.start_s, d.shown.pitch);
}

std::vector<Doubt> doubts(const Remake& r, const CheckReport& report, PartId id, double less_than) {
    const Part* part = r.part(id);
    return part ? doubts(r, report, *part, placed_notes(*part), less_than) : std::vector<Doubt>();
}

std::vector<Doubt> doubts(const Remake& r, const CheckReport& report, const Part& part, const std::vector<PlacedNote>& notes, double less_than) {
    const PartId id = part.id;
    const bool drums = part.role == PartRole::Drums;
    std::vector<Doubt> out;
    const auto meant = [&](Ticks at) {
        const auto& remarks = r.notebook->remarks;
        return std::any_of(remarks.begin(), remarks.end(), [&](const Remark& m) {
            return m.kind == RemarkKind::Intended && m.element == ElementId(id) && at >= m.start && at < m.start + m.length;
        });
    };
    for (const PlacedNote& n : notes) {
        const auto right = report.right(id, n.ref());
        if (!right || !is_doubted(n, right, less_than) || meant(n.note.start)) continue;
        Doubt d;
        d.part = id;
        d.note = n.ref();
        d.shown = n.note;
        d.start_s = r.song->tempo.seconds(n.note.start);
        d.end_s = drums ? d.start_s + 0.1 : r.song->tempo.seconds(n.note.start + n.note.length);
        d.right = *right;
        out.push_back(std::move(d));
    }
    const auto written = static_cast<std::ptrdiff_t>(out.size());
    for (const Finding& f : report.findings) {
        const auto* add = std::get_if<remedy::AddNote>(&f.remedy);
        if (!add || f.element != ElementId(id) || f.confidence < 1.0 - less_than - 0.2) continue;
        const auto& remarks = r.notebook->remarks;
        const std::string name = note_name(add->note.pitch, false);
        if (std::any_of(remarks.begin(), remarks.end(), [&](const Remark& m) {
                return m.kind == RemarkKind::Dismissed && m.element == ElementId(id) && m.words == name &&
                       std::abs(m.start - add->note.start) < kTicksPerQuarter / 4;
            }))
            continue;
        Doubt d;
        d.part = id;
        d.shown = add->note;
        d.start_s = f.start_s, d.end_s = f.end_s;
        d.right = 1.0 - f.confidence;
        out.push_back(std::move(d));
    }
    // What is written stands in order of time already.
    const auto before = [](const Doubt& a, const Doubt& b) { return a.start_s < b.start_s; };
    std::stable_sort(out.begin() + written, out.end(), before);
    std::inplace_merge(out.begin(), out.begin() + written, out.end(), before);
    return out;
}

}  // namespace fw

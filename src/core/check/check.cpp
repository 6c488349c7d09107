// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/check.hpp"

#include "analysis/decoders.hpp"
#include "analysis/network.hpp"
#include "base/pitch.hpp"
#include "check/compare_sound.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

namespace fw {

const char* finding_kind_name(FindingKind kind) {
    static constexpr std::array kNames{"missing_note", "extra_note", "wrong_pitch", "early",           "late",
                                       "missing_hit",  "extra_hit",  "wrong_chord", "missing_element", "tone"};
    return kNames[static_cast<std::size_t>(kind)];
}

namespace {

constexpr double kSameOnset_s = 0.05;  // the tolerance the field scores transcriptions with
constexpr double kOffTime_s = 0.035;   // beyond this a listener hears a note beside its place
constexpr double kHeard = 0.35, kSurelyHeard = 0.6;

/// Sums of agreement per bar.
class BarTally {
public:
    explicit BarTally(std::size_t bars) : sum_(bars, 0.0), weight_(bars, 0.0) {}
    void add(int bar, double agreement, double weight = 1.0) {
        if (bar < 1 || static_cast<std::size_t>(bar) > sum_.size()) return;
        sum_[static_cast<std::size_t>(bar - 1)] += agreement * weight;
        weight_[static_cast<std::size_t>(bar - 1)] += weight;
        total_ += agreement * weight;
        all_ += weight;
    }
    double match() const { return all_ > 0 ? total_ / all_ : 1.0; }
    std::vector<double> bars() const {
        std::vector<double> out;
        for (std::size_t i = 0; i < sum_.size(); ++i) out.push_back(weight_[i] > 0 ? sum_[i] / weight_[i] : -1.0);
        return out;
    }

private:
    std::vector<double> sum_, weight_;
    double total_ = 0.0, all_ = 0.0;
};

/// "bar 3 beat 2½": to the quarter of a beat, which may be the next bar's first.
std::string place_text(const MeterMap& meter, Ticks tick) {
    BarPosition p = meter.position(tick);
    const Ticks beat = meter.at_bar(p.bar).beat_ticks();
    Ticks quarters = (4 * p.tick + beat / 2) / beat;
    if (quarters == 4) {
        p = meter.position(tick - p.tick + beat);
        quarters = 0;
    }
    constexpr std::array kParts{"", "¼", "½", "¾"};
    return "bar " + std::to_string(p.bar) + " beat " + std::to_string(p.beat) + kParts[static_cast<std::size_t>(quarters)];
}

class Checker {
public:
    Checker(const Remake& remake, const Analysis& analysis)
        : r_(remake),
          a_(analysis),
          e_(*analysis.evidence),
          bars_(static_cast<std::size_t>(std::max(1, remake.song->meter.position(remake.end_tick() - 1).bar))) {}

    CheckReport run() {
        tempo();
        key();
        sections();
        chords();
        std::set<PartRole> roles;
        for (const auto& part : r_.parts) roles.insert(part->role);
        for (const auto& part : r_.parts) part->role == PartRole::Drums ? drums(*part) : notes(*part);
        for (const PartRole role : {PartRole::Bass, PartRole::Lead, PartRole::Drums})
            if (!roles.contains(role) && heard_role(role)) {
                Finding f;
                f.kind = FindingKind::MissingElement;
                f.name = part_role_name(role);
                f.role = role;
                f.end_s = a_.duration_s;
                f.bar = 1;
                f.beat = 1;
                f.size = 1;
                f.unit = "part";
                f.confidence = 0.6;
                f.remedy = remedy::AddPart{role};
                report_.findings.push_back(std::move(f));
            }
        double sum = 0.0;
        for (const ElementMatch& m : report_.elements) sum += m.match;
        report_.match = report_.elements.empty() ? 0.0 : sum / static_cast<double>(report_.elements.size());
        return std::move(report_);
    }

private:
    bool heard_role(PartRole role) const {
        if (role == PartRole::Drums) return a_.drums.size() > 8;
        for (const HeardPart& p : a_.parts)
            if (p.role == role) return p.notes.size() > 8;
        return false;
    }

    int bar_of(double time_s) const { return r_.song->meter.position(r_.song->tempo.nearest_tick(time_s)).bar; }

    void element(ElementId id, const char* kind, const BarTally& tally, const char* measures) {
        report_.elements.push_back({id, r_.element_name(id), kind, tally.match(), measures, tally.bars()});
    }

    /// Fills in place and element and keeps the finding, unless the user marked the element's difference as intended.
    void add(Finding f, ElementId id) {
        const ElementState state = r_.element(id);
        if (!state.intended.empty() || state.state == State::LeftOut) return;
        const Ticks tick = r_.song->tempo.nearest_tick(f.start_s);
        const BarPosition p = r_.song->meter.position(tick);
        f.element = id;
        f.name = r_.element_name(id);
        f.flats = r_.song->flats_at(tick);
        f.bar = p.bar;
        f.beat = p.beat + std::floor(1000.0 * static_cast<double>(p.tick) / static_cast<double>(r_.song->meter.at_bar(p.bar).beat_ticks())) / 1000.0;
        f.place = place_text(r_.song->meter, tick);
        report_.findings.push_back(std::move(f));
    }

    void tempo() {
        BarTally tally(bars_);
        // Beats of the document's own map must fall on beats that were heard, whichever reading of the tempo is in use.
        const Ticks beat = r_.song->meter.at_bar(1).beat_ticks();
        std::vector<double> heard;
        for (const Beat& b : a_.beats) heard.push_back(b.time_s);
        const Ticks end = r_.song->tempo.nearest_tick(a_.beats.empty() ? 0.0 : a_.beats.back().time_s);
        for (Ticks t = r_.song->tempo.anchors().front().tick; t <= end; t += beat) {
            const double s = r_.song->tempo.seconds(t);
            const auto at = std::lower_bound(heard.begin(), heard.end(), s);
            double distance = 1.0;
            if (at != heard.end()) distance = std::min(distance, *at - s);
            if (at != heard.begin()) distance = std::min(distance, s - *(at - 1));
            // Between two heard beats (a double-time reading) the halfway point counts as a beat, too.
            if (at != heard.end() && at != heard.begin()) distance = std::min(distance, std::abs(s - 0.5 * (*at + *(at - 1))));
            tally.add(r_.song->meter.position(t).bar, distance <= 0.03 ? 1.0 : 0.0);
        }
        element(ElementId::tempo(), "tempo", tally, "beats of the tempo map within 30 ms of beats heard in the original");
    }

    void key() {
        BarTally tally(bars_);
        for (const HeardNote& n : a_.notes) {
            const Key* key = r_.song->key_at(r_.song->tempo.nearest_tick(n.onset_s));
            if (!key) continue;
            const auto scale = key->scale();
            const bool inside = std::find(scale.begin(), scale.end(), pitch_class(n.pitch)) != scale.end();
            tally.add(bar_of(n.onset_s), inside ? 1.0 : 0.0, n.duration_s * n.confidence);
        }
        element(ElementId::key(), "key", tally, "time of the notes heard that lies in the scale of the key");
    }

    void sections() {
        BarTally tally(bars_);
        for (const Section& s : r_.song->sections) {
            double nearest = 1e9;
            for (const SectionSpan& h : a_.sections) nearest = std::min(nearest, std::abs(h.start_s - r_.song->tempo.seconds(s.start)));
            const double bar_s = r_.song->tempo.seconds(s.start + r_.song->meter.at_bar(1).bar_ticks()) - r_.song->tempo.seconds(s.start);
            tally.add(r_.song->meter.position(s.start).bar, nearest <= bar_s * 1.05 ? 1.0 : 0.0);
        }
        element(ElementId::sections(), "sections", tally, "section starts within a bar of those heard");
    }

    void chords() {
        BarTally tally(bars_);
        for (const ChordEvent& c : r_.song->chords) {
            const double start = r_.song->tempo.seconds(c.start), end = r_.song->tempo.seconds(c.start + c.length);
            const ChordComparison found = compare_chord(e_, start, end, c.chord);
            for (Ticks t = c.start; t < c.start + c.length; t += kTicksPerQuarter) tally.add(r_.song->meter.position(t).bar, found.agreement);
            if (found.better.none() || found.advantage < 0.07) continue;
            Finding f;
            f.kind = FindingKind::WrongChord;
            f.start_s = start;
            f.end_s = end;
            f.size = static_cast<double>(c.length) / kTicksPerQuarter;
            f.unit = "beats";
            f.confidence = std::min(0.95, 0.4 + 3.0 * found.advantage);
            f.chord = c.chord;
            f.expected_chord = found.better;
            f.remedy = remedy::SetChord{c.start, found.better};
            add(std::move(f), ElementId::chords());
        }
        element(ElementId::chords(), "chords", tally, "how well each chord's tones fit the chroma heard under it");
    }

    /// How strongly a pitch is heard to begin near a time and to sound after it, 0..1, from any part's evidence.
    double heard_at(double onset_s, double end_s, int pitch) const {
        if (pitch < Evidence::kLowestPitch || pitch >= Evidence::kLowestPitch + Evidence::kPitches) return 0.0;
        const auto column = static_cast<std::size_t>(pitch - Evidence::kLowestPitch);
        const auto frames = static_cast<double>(e_.pitch_frames() - 1);
        const auto a = static_cast<std::size_t>(std::clamp(std::floor(Evidence::pitch_frame(onset_s - kSameOnset_s)), 0.0, frames));
        const auto b = static_cast<std::size_t>(std::clamp(std::ceil(Evidence::pitch_frame(onset_s + kSameOnset_s)), 0.0, frames));
        float onset = 0.0F;
        for (std::size_t f = a; f <= b; ++f) onset = std::max({onset, e_.onset.at(f, column), e_.bass_onset.at(f, column), e_.lead_onset.at(f, column)});
        const double until = std::clamp(end_s, onset_s + 0.05, onset_s + 0.4);
        const float sounding = std::max({e_.mean(e_.sounding, onset_s + 0.02, until, pitch), e_.mean(e_.bass_sounding, onset_s + 0.02, until, pitch),
                                         e_.mean(e_.lead_sounding, onset_s + 0.02, until, pitch)});
        return std::max(0.5 * (onset + sounding), 0.8 * static_cast<double>(sounding));
    }

    void notes(const Part& part) {
        const ElementId id = part.id;
        BarTally tally(bars_);
        const auto mine = placed_notes(part);
        std::set<std::pair<int, double>> own_notes;  // pitch, onset
        for (const PlacedNote& n : mine) own_notes.emplace(n.note.pitch, r_.song->tempo.seconds(n.note.start));
        // The heard note of this pitch nearest in time: first in the part's own line, then among all notes.
        const auto near_heard = [&](double onset_s, int pitch, double reach) {
            const HeardNote* best = nullptr;
            const auto search = [&](const std::vector<HeardNote>& notes) {
                auto at = std::lower_bound(notes.begin(), notes.end(), onset_s - reach, [](const HeardNote& n, double t) { return n.onset_s < t; });
                for (; at != notes.end() && at->onset_s <= onset_s + reach; ++at)
                    if (at->pitch == pitch && (!best || std::abs(at->onset_s - onset_s) < std::abs(best->onset_s - onset_s))) best = &*at;
            };
            for (const HeardPart& heard : a_.parts)
                if (heard.role == part.role) search(heard.notes);
            if (!best) search(a_.notes);
            return best;
        };
        for (const PlacedNote& p : mine) {
            if (p.muted) continue;
            const double start = r_.song->tempo.seconds(p.note.start), end = r_.song->tempo.seconds(p.note.start + p.note.length);
            const double heard = heard_at(start, end, p.note.pitch);
            const HeardNote* twin = near_heard(start, p.note.pitch, 0.12);
            tally.add(r_.song->meter.position(p.note.start).bar, twin ? 1.0 : std::min(1.0, heard / kSurelyHeard));
            Finding f;
            f.start_s = start;
            f.end_s = end;
            f.pitch = p.note.pitch;
            f.role = part.role;
            if (twin) {
                const double off = start - twin->onset_s;
                if (std::abs(off) <= kOffTime_s) continue;
                f.kind = off < 0 ? FindingKind::Early : FindingKind::Late;
                f.size = std::abs(off) * 1000.0;
                f.unit = "ms";
                f.confidence = 0.5 + 0.4 * twin->confidence;
                f.remedy = remedy::MoveNote{p.ref(), r_.song->tempo.nearest_tick(twin->onset_s) - p.note.start};
                add(std::move(f), id);
                continue;
            }
            if (heard >= kHeard) continue;
            int better = -1;
            double best = kSurelyHeard - 0.1;
            for (const int step : {-1, 1, -2, 2, -12, 12, -3, 3, -4, 4, -5, 5, -7, 7}) {
                const double v = heard_at(start, end, p.note.pitch + step);
                const auto other = own_notes.lower_bound({p.note.pitch + step, start - 0.06});
                const bool own = other != own_notes.end() && other->first == p.note.pitch + step && other->second < start + 0.06;
                if (!own && v > best + (better >= 0 ? 0.1 : 0.0)) best = v, better = p.note.pitch + step;
            }
            if (better >= 0) {
                f.kind = FindingKind::WrongPitch;
                f.expected_pitch = better;
                f.size = std::abs(better - p.note.pitch);
                f.unit = "semitones";
                f.confidence = std::clamp(best - heard + 0.2, 0.0, 0.98);
                f.remedy = remedy::SetPitch{p.ref(), better};
            } else {
                f.kind = FindingKind::ExtraNote;
                f.size = static_cast<double>(p.note.length) / kTicksPerQuarter;
                f.unit = "beats";
                f.confidence = std::clamp(0.9 - heard * 1.5, 0.1, 0.9);
                f.remedy = remedy::DeleteNote{p.ref()};
            }
            add(std::move(f), id);
        }
        missing_notes(part, id, tally);
        element(id, "part", tally, "notes of the part heard in the original, and notes heard there that the part has");
    }

    Remedy added(double start_s, double end_s, int pitch, int velocity, double confidence) const {
        Note n;
        n.start = r_.song->tempo.nearest_tick(start_s);
        n.length = std::max<Ticks>(kTicksPerQuarter / 16, r_.song->tempo.nearest_tick(end_s) - n.start);
        n.pitch = pitch;
        n.velocity = velocity;
        n.confidence = confidence;
        return remedy::AddNote{n};
    }

    /// Notes the analysis heard in this part's role and no part of the rebuild has.
    void missing_notes(const Part& part, ElementId id, BarTally& tally) {
        const PartRole role = part.role;
        // Where several parts share a role the first one answers for what is missing.
        for (const auto& other : r_.parts) {
            if (other->role != part.role) continue;
            if (other->id != part.id) return;
            break;
        }
        if (all_notes_.empty())
            for (const auto& p : r_.parts)
                if (p->role != PartRole::Drums)
                    for (const PlacedNote& n : placed_notes(*p))
                        if (!n.muted) all_notes_.emplace(n.note.pitch, r_.song->tempo.seconds(n.note.start));
        for (const HeardPart& heard : a_.parts) {
            if (heard.role != role) continue;
            for (const HeardNote& n : heard.notes) {
                const auto at = all_notes_.lower_bound({n.pitch, n.onset_s - 0.12});
                const bool there = at != all_notes_.end() && at->first == n.pitch && at->second <= n.onset_s + 0.12;
                tally.add(bar_of(n.onset_s), there ? 1.0 : 0.0, n.confidence);
                if (there || n.confidence < kSurelyHeard) continue;
                Finding f;
                f.kind = FindingKind::MissingNote;
                f.start_s = n.onset_s;
                f.end_s = n.onset_s + n.duration_s;
                f.pitch = f.expected_pitch = n.pitch;
                f.size = (r_.song->tempo.ticks(f.end_s) - r_.song->tempo.ticks(f.start_s)) / kTicksPerQuarter;
                f.unit = "beats";
                f.confidence = n.confidence;
                f.role = part.role;
                f.remedy = added(f.start_s, f.end_s, n.pitch, 96, n.confidence);
                add(std::move(f), id);
            }
        }
    }

    void drums(const Part& part) {
        const ElementId id = part.id;
        BarTally tally(bars_);
        std::vector<char> played(a_.drums.size(), 0);
        for (const PlacedNote& p : placed_notes(part)) {
            const DrumSound* sound = drum_sound_of_key(p.note.pitch);
            if (p.muted || !sound) continue;
            const double start = r_.song->tempo.seconds(p.note.start);
            std::ptrdiff_t twin = -1;
            const auto near = std::lower_bound(a_.drums.begin(), a_.drums.end(), start - 0.08, [](const Hit& h, double t) { return h.time_s < t; });
            for (auto h = static_cast<std::size_t>(near - a_.drums.begin()); h < a_.drums.size() && a_.drums[h].time_s < start + 0.08; ++h)
                if (a_.drums[h].kind == sound->kind && std::abs(a_.drums[h].time_s - start) < 0.08 && !played[h] &&
                    (twin < 0 || std::abs(a_.drums[h].time_s - start) < std::abs(a_.drums[static_cast<std::size_t>(twin)].time_s - start)))
                    twin = static_cast<std::ptrdiff_t>(h);
            Finding f;
            f.start_s = start;
            f.end_s = start + 0.1;
            f.pitch = p.note.pitch;
            f.role = part.role;
            if (twin >= 0) {
                const Hit& hit = a_.drums[static_cast<std::size_t>(twin)];
                played[static_cast<std::size_t>(twin)] = 1;
                tally.add(r_.song->meter.position(p.note.start).bar, 1.0);
                const double off = start - hit.time_s;
                if (std::abs(off) <= kOffTime_s) continue;
                f.kind = off < 0 ? FindingKind::Early : FindingKind::Late;
                f.size = std::abs(off) * 1000.0;
                f.unit = "ms";
                f.confidence = 0.5 + 0.4 * hit.confidence;
                f.remedy = remedy::MoveNote{p.ref(), r_.song->tempo.nearest_tick(hit.time_s) - p.note.start};
                add(std::move(f), id);
                continue;
            }
            const int column = pulse_column(sound->kind);
            float heard = 0.0F;
            const auto centre = static_cast<Eigen::Index>(std::lround(Evidence::pulse_frame(start)));
            for (Eigen::Index i = std::max<Eigen::Index>(0, centre - 4); i <= std::min<Eigen::Index>(e_.pulse.rows() - 1, centre + 4); ++i)
                heard = std::max(heard, e_.pulse(i, column));
            tally.add(r_.song->meter.position(p.note.start).bar, std::min(1.0, heard / kSurelyHeard));
            if (heard >= kHeard) continue;
            f.kind = FindingKind::ExtraHit;
            f.size = p.note.velocity;
            f.unit = "velocity";
            f.confidence = std::clamp(0.9 - 1.5 * static_cast<double>(heard), 0.1, 0.9);
            f.remedy = remedy::DeleteNote{p.ref()};
            add(std::move(f), id);
        }
        for (std::size_t h = 0; h < a_.drums.size(); ++h) {
            if (played[h]) continue;
            const Hit& hit = a_.drums[h];
            tally.add(bar_of(hit.time_s), 0.0, hit.confidence);
            if (hit.confidence < kSurelyHeard) continue;
            Finding f;
            f.kind = FindingKind::MissingHit;
            f.start_s = hit.time_s;
            f.end_s = hit.time_s + 0.1;
            f.expected_pitch = drum_sound(hit.kind).key;
            f.size = hit.velocity;
            f.unit = "velocity";
            f.confidence = hit.confidence;
            f.role = part.role;
            f.remedy = added(f.start_s, f.end_s, f.expected_pitch, hit.velocity, hit.confidence);
            add(std::move(f), id);
        }
        element(id, "part", tally, "hits of the part heard in the original, and hits heard there that the part has");
    }

    const Remake& r_;
    const Analysis& a_;
    const Evidence& e_;
    std::size_t bars_;
    std::set<std::pair<int, double>> all_notes_;
    CheckReport report_;
};

}  // namespace

CheckReport check(const Remake& remake, const Analysis& analysis, const SoundSummary* original, const SoundSummary* rebuild) {
    CheckReport report = Checker(remake, analysis).run();
    if (original && rebuild) compare_sound(*original, *rebuild, report);
    // By whole hundredths, so that what is equally sure stands in order of time; comparing within a tolerance would be no order at all.
    const auto hundredths = [](const Finding& f) { return std::lround(f.confidence * 100.0); };
    std::stable_sort(report.findings.begin(), report.findings.end(), [&](const Finding& a, const Finding& b) {
        return hundredths(a) != hundredths(b) ? hundredths(a) > hundredths(b) : a.start_s < b.start_s;
    });
    return report;
}

}  // namespace fw

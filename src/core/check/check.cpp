// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/check.hpp"

#include "analysis/decoders.hpp"
#include "base/ranks.hpp"
#include "check/compare_sound.hpp"
#include "check/judge.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

namespace fw {

const char* finding_kind_name(FindingKind kind) {
    static constexpr std::array kNames{"missing_note", "extra_note",      "wrong_pitch", "early",      "late",    "missing_hit", "extra_hit",
                                       "wrong_chord",  "missing_element", "tone",        "transposed", "shifted", "level"};
    return kNames[static_cast<std::size_t>(kind)];
}

const char* finding_cause_name(FindingKind kind) {
    static constexpr std::array kNames{"missing", "extra", "pitch", "time", "time", "missing", "extra", "chord", "part", "sound", "part", "part", "sound"};
    return kNames[static_cast<std::size_t>(kind)];
}

namespace {

constexpr double kTwin_s = 0.12, kTwinStroke_s = 0.08;  // how far a written note may lie from the heard one that it stands for
constexpr double kSurelyHeard = 0.91;                   // what is heard less surely and not written proves little
constexpr double kPerhapsHeard = 0.6;
constexpr double kPerhaps = 0.2;  // below, a suspicion is not worth a word
constexpr double kOffTime_s = 0.02, kOffTimeDeviations = 3.0;
// Shares of right ones that look wrong all the same, on the songs the judge was fitted on: beyond the limit of time; surely heard and not written.
constexpr double kStray = 0.012, kUnwritten = 0.01;
// What is told by decisions drawn from the evidence is never surer than this, however much of a part stands out: such a part is one that is badly heard.
constexpr double kMostOfTime = 0.68, kMostOfMissing = 0.7;

/// How much of what is written is right and of what is surely heard is written, bar by bar.
class BarTally {
public:
    explicit BarTally(std::size_t bars) : bars_(bars) {}
    void written(int bar, double right) { add(bar, {right, 1.0, 0.0, 0.0}); }
    void heard(int bar, double there, double weight) { add(bar, {0.0, 0.0, there * weight, weight}); }
    std::optional<double> match() const { return all_.figure(); }
    std::vector<std::optional<double>> bars() const {
        std::vector<std::optional<double>> out;
        for (const Sums& s : bars_) out.push_back(s.figure());
        return out;
    }
    double weight() const { return all_.written + all_.heard; }

private:
    struct Sums {
        double right = 0.0, written = 0.0, there = 0.0, heard = 0.0;
        /// Their harmonic mean; what there is none of says nothing.
        std::optional<double> figure() const {
            if (written <= 0.0 && heard <= 0.0) return std::nullopt;
            const double p = written > 0.0 ? right / written : 0.0, r = heard > 0.0 ? there / heard : p;
            if (written <= 0.0) return 0.0;
            return p + r > 0.0 ? 2.0 * p * r / (p + r) : 0.0;
        }
    };
    void add(int bar, Sums s) {
        const auto to = [&](Sums& into) { into.right += s.right, into.written += s.written, into.there += s.there, into.heard += s.heard; };
        to(all_);
        if (bar >= 1 && static_cast<std::size_t>(bar) <= bars_.size()) to(bars_[static_cast<std::size_t>(bar - 1)]);
    }
    std::vector<Sums> bars_;
    Sums all_;
};

/// How often a note that the draft took over with a confidence is right: measured on the development corpus, see docs/accuracy.md.
double draft_right(double confidence) {
    constexpr std::array<std::pair<double, double>, 5> kMeasured{{{0.0, 0.0}, {0.5, 0.45}, {0.7, 0.68}, {0.9, 0.95}, {1.0, 0.99}}};
    for (std::size_t i = 1; i < kMeasured.size(); ++i)
        if (confidence <= kMeasured[i].first) {
            const double way = (confidence - kMeasured[i - 1].first) / (kMeasured[i].first - kMeasured[i - 1].first);
            return kMeasured[i - 1].second + way * (kMeasured[i].second - kMeasured[i - 1].second);
        }
    return kMeasured.back().second;
}

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
        decided(ElementId::tempo(), "tempo", r_.song->tempo_confidence, "how sure the tempo is; it takes no part in the match");
        decided(ElementId::key(), "key", r_.song->keys.empty() ? 0.0 : r_.song->keys.front().confidence, "how sure the key is; it takes no part in the match");
        decided(ElementId::sections(), "sections", mean(a_.sections, [](const SectionSpan& s) { return s.confidence; }),
                "how sure the sections are; they take no part in the match");
        chords();
        std::set<PartRole> roles;
        for (const auto& part : r_.parts)
            if (!silent(*part)) roles.insert(part->role);
        for (const auto& part : r_.parts) check_part(*part);
        for (const PartRole role : {PartRole::Bass, PartRole::Lead, PartRole::Drums})
            if (!roles.contains(role) && heard_role(role)) missing_element(role);
        whole();
        return std::move(report_);
    }

private:
    template <class T, class Of>
    static double mean(const std::vector<T>& all, Of&& of) {
        double sum = 0.0;
        for (const T& x : all) sum += of(x);
        return all.empty() ? 0.0 : sum / static_cast<double>(all.size());
    }

    bool heard_role(PartRole role) const {
        if (role == PartRole::Drums) return a_.drums.size() > 8;
        for (const HeardPart& p : a_.parts)
            if (p.role == role) return p.notes.size() > 8;
        return false;
    }

    /// Nothing of it is to be heard, whatever is written.
    bool silent(const Part& part) const {
        constexpr double kInaudible_db = -50.0;
        const bool soloed = std::any_of(r_.parts.begin(), r_.parts.end(), [](const auto& p) { return p->solo; });
        const bool all_off = std::none_of(part.layers.begin(), part.layers.end(), [](const Layer& l) { return l.on >= 0.5 && l.gain_db > kInaudible_db; });
        return part.mute || (soloed && !part.solo) || part.gain_db < kInaudible_db || all_off;
    }

    bool counted(ElementId id) const {
        const ElementState state = r_.element(id);
        return state.intended.empty() && state.state != State::LeftOut;
    }

    void missing_element(PartRole role) {
        Finding f;
        f.kind = FindingKind::MissingElement;
        f.name = part_role_name(role);
        f.role = role;
        f.end_s = a_.duration_s;
        f.bar = 1;
        f.beat = 1;
        f.size = 1;
        f.unit = "part";
        f.confidence = 0.9;
        f.remedy = remedy::AddPart{role};
        report_.findings.push_back(std::move(f));
    }

    /// Of the whole: each part by how much of it there is.
    void whole() {
        double sum = 0.0, weight = 0.0, known = 0.0, known_weight = 0.0;
        for (const auto& [element, w] : weights_) {
            const Match& m = report_.elements[element].match;
            if (m.notes) sum += *m.notes * w, weight += w;
            if (m.known) known += *m.known * w, known_weight += w;
        }
        if (weight > 0.0) report_.match.notes = sum / weight;
        if (known_weight > 0.0) report_.match.known = known / known_weight;
    }

    void decided(ElementId id, const char* kind, double sure, const char* measures) {
        report_.elements.push_back({id, r_.element_name(id), kind, {{}, {}, sure}, measures, std::vector<std::optional<double>>(bars_)});
    }

    int bar_of(double time_s) const { return r_.song->meter.position(r_.song->tempo.nearest_tick(time_s)).bar; }

    void element(const Part& part, const BarTally& tally, std::optional<double> known, std::string measures) {
        const ElementId id = part.id;
        report_.elements.push_back({id, r_.element_name(id), "part", {tally.match(), {}, known}, std::move(measures), tally.bars()});
        if (counted(id)) weights_.emplace_back(report_.elements.size() - 1, tally.weight());
    }

    /// Fills in place and element and keeps the finding, unless the user marked the element's difference as intended.
    void add(Finding f, ElementId id) {
        if (!counted(id) || f.confidence < kPerhaps) return;
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

    void chords() {
        std::vector<double> agreement;
        for (const ChordEvent& c : r_.song->chords) {
            const double start = r_.song->tempo.seconds(c.start), end = r_.song->tempo.seconds(c.start + c.length);
            const ChordComparison found = compare_chord(e_, start, end, c.chord);
            agreement.push_back(found.agreement);
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
        decided(ElementId::chords(), "chords", mean(agreement, [](double v) { return v; }),
                "how well the chords' tones fit the chroma; they take no part in the match");
    }

    std::vector<Written> written(const std::vector<PlacedNote>& notes) const {
        std::vector<Written> out;
        for (const PlacedNote& n : notes)
            if (!n.muted) out.push_back({r_.song->tempo.seconds(n.note.start), r_.song->tempo.seconds(n.note.start + n.note.length), n.note.pitch});
        return out;
    }

    /// Tells what is wrong with a part as a whole; then its notes need not be told one by one.
    bool as_a_whole(const Part& part, const std::vector<Written>& notes) {
        Finding f;
        f.role = part.role;
        f.start_s = notes.front().onset_s;
        f.end_s = notes.back().end_s;
        f.confidence = 0.9;
        if (const auto late = shifted_by(e_, notes, part.role == PartRole::Drums)) {
            f.kind = FindingKind::Shifted;
            f.size = *late * 1000.0;
            f.unit = "ms";
            f.remedy = remedy::ShiftPart{r_.song->tempo.nearest_tick(notes.front().onset_s - *late) - r_.song->tempo.nearest_tick(notes.front().onset_s)};
        } else if (const auto by = part.role == PartRole::Drums ? std::nullopt : transposed_by(e_, notes)) {
            f.kind = FindingKind::Transposed;
            f.size = *by;
            f.unit = "semitones";
            f.remedy = remedy::TransposePart{-*by};
        } else {
            return false;
        }
        add(std::move(f), part.id);
        return true;
    }

    /// How many in a hundred that stand out are real, where of right ones so large a share stands out, too.
    static double beyond_usual(std::size_t standing_out, std::size_t all, double usual) {
        constexpr double kFew = 8.0;
        const double share = (static_cast<double>(standing_out) + kFew * usual) / (static_cast<double>(all) + kFew);
        return std::clamp(1.0 - usual / share, 0.0, 1.0);
    }

    /// Something heard: a note, or a stroke by the key of its sound.
    struct Heard {
        double start_s = 0.0, end_s = 0.0;
        int key = 0, velocity = 0;
        double confidence = 0.0;
    };
    static Heard heard(const HeardNote& n) { return {n.onset_s, n.onset_s + n.duration_s, n.pitch, 96, n.confidence}; }
    static Heard heard(const Hit& h) { return {h.time_s, h.time_s + 0.1, drum_sound(h.kind).key, h.velocity, h.confidence}; }
    template <class T>
    static std::vector<Heard> heard(const std::vector<T>& all) {
        std::vector<Heard> out;
        for (const T& x : all) out.push_back(heard(x));
        return out;
    }
    /// By what a written key is compared with what is heard: of drums the key its sound is told by.
    static int key_of(int pitch, bool drums) {
        const DrumSound* sound = drums ? drum_sound_of_key(pitch) : nullptr;
        return sound ? sound->key : pitch;
    }
    static double reach_s(bool drums) { return drums ? kTwinStroke_s : kTwin_s; }

    /// Where each written note is early or late against the part's own usual place.
    void timing(const Part& part, const std::vector<PlacedNote>& notes, const std::vector<Heard>& all, bool drums) {
        struct Twin {
            const PlacedNote* note;
            double off_s, sure;
        };
        std::vector<Twin> twins;
        std::vector<double> offs, away;
        for (const PlacedNote& p : notes) {
            if (p.muted) continue;
            const double start = r_.song->tempo.seconds(p.note.start), reach = reach_s(drums);
            const Heard* nearest = nullptr;
            auto at = std::lower_bound(all.begin(), all.end(), start - reach, [](const Heard& h, double t) { return h.start_s < t; });
            for (; at != all.end() && at->start_s <= start + reach; ++at)
                if (at->key == key_of(p.note.pitch, drums) && (!nearest || std::abs(at->start_s - start) < std::abs(nearest->start_s - start))) nearest = &*at;
            if (nearest) twins.push_back({&p, start - nearest->start_s, nearest->confidence}), offs.push_back(start - nearest->start_s);
        }
        if (offs.size() < 4) return;
        const double usual = median(offs);
        for (const double o : offs) away.push_back(std::abs(o - usual));
        const double limit = std::max(kOffTime_s, kOffTimeDeviations * 1.48 * median(away));
        std::sort(away.begin(), away.end());
        for (const Twin& twin : twins) {
            const Note& n = twin.note->note;
            const double by = twin.off_s - usual;
            if (std::abs(by) <= limit) continue;
            Finding f;
            f.kind = by < 0 ? FindingKind::Early : FindingKind::Late;
            f.role = part.role;
            f.start_s = r_.song->tempo.seconds(n.start);
            f.end_s = r_.song->tempo.seconds(n.start + n.length);
            f.pitch = n.pitch;
            f.size = std::abs(by) * 1000.0;
            f.unit = "ms";
            const auto as_far = static_cast<std::size_t>(away.end() - std::lower_bound(away.begin(), away.end(), std::abs(by) - 1e-9));
            const double real = beyond_usual(as_far, offs.size(), kStray * std::exp(1.0 - std::abs(by) / limit));
            f.confidence = std::min(kMostOfTime, real * (0.7 + 0.3 * twin.sure));
            f.remedy = remedy::MoveNote{twin.note->ref(), r_.song->tempo.nearest_tick(f.start_s - by) - n.start};
            add(std::move(f), part.id);
        }
    }

    /// How far a part's notes may be believed right because nothing speaks against them: where hardly any is heard, nothing does.
    double believed(const std::vector<Written>& notes, bool drums) const {
        constexpr double kEnough = 0.25;
        return notes.size() < 4 ? 1.0 : std::min(1.0, heard_above_chance(e_, notes, drums) / kEnough);
    }

    /// A part's notes or strokes: what is written against what is heard there, and what is surely heard against what is written.
    void check_part(const Part& part) {
        const bool drums = part.role == PartRole::Drums;
        BarTally tally(bars_);
        const auto mine = placed_notes(part);
        const auto notes = written(mine);
        const auto none = std::vector<std::optional<double>>(bars_);
        if (notes.empty()) {
            report_.elements.push_back({part.id, part.name, "part", {}, "nothing is written yet", none});
            return;
        }
        if (silent(part)) {
            for (const PlacedNote& p : mine) tally.written(r_.song->meter.position(p.note.start).bar, 0.0);
            return element(part, tally, {}, "the part is muted or silent: nothing of it is heard");
        }
        const auto wrong = probably_wrong(e_, notes, drums);
        const double belief = believed(notes, drums);
        const bool whole = as_a_whole(part, notes);
        std::set<std::pair<int, double>> own_notes;  // pitch, onset
        for (const Written& n : notes) own_notes.emplace(n.pitch, n.onset_s);
        double clear = 0.0;
        std::set<std::string> unjudged;
        std::size_t at = 0;
        for (const PlacedNote& p : mine) {
            if (p.muted) continue;
            const Written& n = notes[at];
            const auto w = wrong[at++];
            if (!w) {
                const DrumSound* sound = drum_sound_of_key(n.pitch);
                unjudged.insert(sound ? sound->name : "other sounds");
                continue;
            }
            clear += *w < 0.1 || *w > 0.9 ? 1.0 : 0.0;
            const double right = p.note.origin == Origin::Heard ? std::min(1.0 - *w, draft_right(p.note.confidence)) : 1.0 - *w;
            tally.written(r_.song->meter.position(p.note.start).bar, belief * right);
            if (!whole) suspect(part, p, n, *w, own_notes);
        }
        if (!whole) timing(part, mine, drums ? heard(a_.drums) : heard(a_.notes), drums);
        missing(part, tally, whole);
        std::string measures = drums ? "hits of the part heard in the original, and hits surely heard there that are written; 0 % is chance"
                                     : "notes of the part heard in the original, and notes surely heard there that are written; 0 % is chance";
        for (const std::string& s : unjudged) measures += (s == *unjudged.begin() ? "; not judged, because not clearly heard in this recording: " : ", ") + s;
        element(part, tally, belief * clear / static_cast<double>(notes.size()), std::move(measures));
    }

    /// A written note that is probably wrong: at another pitch, or not there at all.
    void suspect(const Part& part, const PlacedNote& p, const Written& n, double wrong, const std::set<std::pair<int, double>>& own_notes) {
        if (wrong < kPerhaps) return;
        const bool drums = part.role == PartRole::Drums;
        Finding f;
        f.role = part.role;
        f.start_s = n.onset_s;
        f.end_s = drums ? n.onset_s + 0.1 : n.end_s;
        f.pitch = n.pitch;
        f.confidence = wrong;
        if (const auto better = drums ? std::nullopt : heard_instead(n, own_notes)) {
            f.kind = FindingKind::WrongPitch;
            f.expected_pitch = *better;
            f.size = std::abs(*better - n.pitch);
            f.unit = "semitones";
            f.remedy = remedy::SetPitch{p.ref(), *better};
        } else {
            f.kind = drums ? FindingKind::ExtraHit : FindingKind::ExtraNote;
            f.size = drums ? p.note.velocity : static_cast<double>(p.note.length) / kTicksPerQuarter;
            f.unit = drums ? "velocity" : "beats";
            f.remedy = remedy::DeleteNote{p.ref()};
        }
        add(std::move(f), part.id);
    }

    /// The pitch nearest to a written one, semitones and octaves first, that is clearly heard there and that the part does not have.
    std::optional<int> heard_instead(const Written& n, const std::set<std::pair<int, double>>& own_notes) const {
        std::optional<int> better;
        double best = 0.4;
        for (const int step : {-1, 1, -2, 2, -12, 12, -3, 3, -4, 4, -5, 5, -7, 7}) {
            Written there = n;
            there.pitch += step;
            const auto c = written_clues(e_, there);
            const double heard = 0.5 * (c[0] + c[1]);
            const auto other = own_notes.lower_bound({there.pitch, n.onset_s - 0.06});
            const bool own = other != own_notes.end() && other->first == there.pitch && other->second < n.onset_s + 0.06;
            if (!own && heard > best + (better ? 0.8 : 0.0)) best = heard, better = there.pitch;
        }
        return better;
    }

    Remedy added(const Heard& h) const {
        Note n;
        n.start = r_.song->tempo.nearest_tick(h.start_s);
        n.length = std::max<Ticks>(kTicksPerQuarter / 16, r_.song->tempo.nearest_tick(h.end_s) - n.start);
        n.pitch = h.key;
        n.velocity = h.velocity;
        n.confidence = h.confidence;
        return remedy::AddNote{n};
    }

    /// What is surely heard in this part's role and no part of the rebuild has: notes, or strokes.
    void missing(const Part& part, BarTally& tally, bool whole) {
        const bool drums = part.role == PartRole::Drums;
        // Where several parts share a role the first one answers for what is missing.
        for (const auto& other : r_.parts) {
            if (other->role != part.role || silent(*other)) continue;
            if (other->id != part.id) return;
            break;
        }
        std::set<std::pair<int, double>> played;
        for (const auto& p : r_.parts)
            if ((p->role == PartRole::Drums) == drums && !silent(*p))
                for (const Written& n : written(placed_notes(*p))) played.emplace(key_of(n.pitch, drums), n.onset_s);
        std::vector<Heard> all;
        if (drums) all = heard(a_.drums);
        for (const HeardPart& h : a_.parts)
            if (!drums && h.role == part.role)
                for (const HeardNote& n : h.notes) all.push_back(heard(n));
        std::vector<Heard> unwritten;
        std::size_t sure = 0;
        for (const Heard& h : all) {
            const auto at = played.lower_bound({h.key, h.start_s - reach_s(drums)});
            const bool there = at != played.end() && at->first == h.key && at->second <= h.start_s + reach_s(drums);
            if (h.confidence >= kSurelyHeard) tally.heard(bar_of(h.start_s), there ? 1.0 : 0.0, h.confidence), ++sure;
            if (!there && h.confidence >= kPerhapsHeard) unwritten.push_back(h);
        }
        if (whole) return;
        for (const Heard& h : unwritten) {
            Finding f;
            f.kind = drums ? FindingKind::MissingHit : FindingKind::MissingNote;
            f.role = part.role;
            f.start_s = h.start_s;
            f.end_s = h.end_s;
            f.expected_pitch = h.key;
            if (!drums) f.pitch = h.key;
            f.size = drums ? h.velocity : (r_.song->tempo.ticks(h.end_s) - r_.song->tempo.ticks(h.start_s)) / kTicksPerQuarter;
            f.unit = drums ? "velocity" : "beats";
            f.confidence = missing_sure(h.confidence, unwritten, sure);
            f.remedy = added(h);
            add(std::move(f), part.id);
        }
    }

    /// How often something heard with a confidence and not written is missing indeed: seldomer than it is there, for the rest of the song is written.
    /// unwritten: all that is; sure: how much is surely heard.
    static double missing_sure(double confidence, const std::vector<Heard>& unwritten, std::size_t sure) {
        if (confidence < kSurelyHeard) return kPerhaps + 0.29 * (confidence - kPerhapsHeard) / (kSurelyHeard - kPerhapsHeard);
        const auto as_sure =
            static_cast<std::size_t>(std::count_if(unwritten.begin(), unwritten.end(), [&](const Heard& h) { return h.confidence >= confidence; }));
        const double real = beyond_usual(as_sure, sure, kUnwritten * std::exp(-(confidence - kSurelyHeard) / 0.03));
        return std::max(0.45, kMostOfMissing * real);
    }

    const Remake& r_;
    const Analysis& a_;
    const Evidence& e_;
    std::size_t bars_;
    std::vector<std::pair<std::size_t, double>> weights_;  ///< elements that count, and how much of them there is
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

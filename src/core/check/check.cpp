// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/check.hpp"

#include "analysis/decoders.hpp"
#include "check/bar_tally.hpp"
#include "check/compare_sound.hpp"
#include "check/judge.hpp"
#include "check/part_findings.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

namespace fw {

namespace {

constexpr double kSurelyHeard = 0.91;  // what is heard less surely and not written proves little
constexpr double kPerhaps = 0.08;      // below, a suspicion is not worth a word
constexpr double kOffTime_s = 0.02;    // what is nearer in time is in time

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
          bars_(static_cast<std::size_t>(std::max(1, remake.song->meter.position(remake.end_tick() - 1).bar))),
          all_(bars_) {}

    CheckReport run() {
        decided(ElementId::tempo(), "tempo", r_.song->tempo_confidence, "how sure the tempo is; it takes no part in the match");
        decided(ElementId::key(), "key", r_.song->keys.empty() ? 0.0 : r_.song->keys.front().confidence, "how sure the key is; it takes no part in the match");
        decided(ElementId::sections(), "sections", mean(a_.sections, [](const SectionSpan& s) { return s.confidence; }),
                "how sure the sections are; they take no part in the match");
        chords();
        std::set<PartRole> roles;
        for (const auto& part : r_.parts)
            if (!silent(*part)) roles.insert(part->role);
        find_filled();
        find_sounding();
        score_.emplace(score());
        const Hearing hearing(a_);
        const auto whole_parts = wrong_as_a_whole(hearing, *score_);
        for (std::size_t i = 0; i < sounding_.size(); ++i) sounding_[i].whole = whole_parts[i], sounding_[i].lengths = heard_lengths(hearing, *score_, i);
        const Judgement judgement = judge(hearing, *score_);
        for (const auto& part : r_.parts) check_part(*part, judgement);
        suspicions(judgement);
        for (const PartRole role : {PartRole::Bass, PartRole::Lead, PartRole::Drums})
            if (!roles.contains(role) && unplayed_role(role)) report_.findings.push_back(missing_part(role, a_.duration_s));
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

    /// Whether something in a role is heard all along and no part plays it, whatever the parts are called.
    bool unplayed_role(PartRole role) const {
        constexpr std::size_t kOften = 8;
        constexpr double kPlayed = 0.4;
        if (role == PartRole::Drums) return a_.drums.size() > kOften && score_->struck().size() == 0;
        for (const HeardPart& p : a_.parts) {
            if (p.role != role || p.notes.size() <= kOften) continue;
            const auto played = std::count_if(p.notes.begin(), p.notes.end(), [&](const HeardNote& n) {
                return score_->pitched().count(n.pitch, n.onset_s - reach_s(false), n.onset_s + reach_s(false)) > 0;
            });
            return static_cast<double>(played) < kPlayed * static_cast<double>(p.notes.size());
        }
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

    /// Of the whole: each part by how much of it there is.
    void whole() {
        double sum = 0.0, weight = 0.0, known = 0.0, known_weight = 0.0;
        for (const auto& [element, w] : weights_) {
            const Match& m = report_.elements[element].match;
            if (m.notes) sum += *m.notes * w, weight += w;
            if (m.known) known += *m.known * w, known_weight += w;
        }
        for (const auto& [element, w] : weights_)
            if (report_.elements[element].match.notes && weight > 0.0) report_.elements[element].share = w / weight;
        if (weight > 0.0) report_.match.notes = sum / weight;
        report_.bars = all_.bars();
        report_.sections = by_section(all_);
        if (known_weight > 0.0) report_.match.known = known / known_weight;
    }

    void decided(ElementId id, const char* kind, double sure, const char* measures) {
        report_.elements.push_back({id, r_.element_name(id), kind, {{}, {}, sure}, measures, std::vector<std::optional<double>>(bars_)});
    }

    std::vector<std::optional<double>> by_section(const BarTally& tally) const {
        std::vector<std::optional<double>> out;
        for (const Section& s : r_.song->sections)
            out.push_back(tally.between(r_.song->meter.position(s.start).bar, r_.song->meter.position(s.start + s.length - 1).bar + 1));
        return out;
    }

    int bar_of(double time_s) const { return r_.song->meter.position(r_.song->tempo.nearest_tick(time_s)).bar; }

    void element(const Part& part, const BarTally& tally, std::optional<double> known, std::string measures) {
        const ElementId id = part.id;
        report_.elements.push_back({id, r_.element_name(id), "part", {tally.match(), {}, known}, std::move(measures), tally.bars(), by_section(tally)});
        if (!counted(id)) return;
        weights_.emplace_back(report_.elements.size() - 1, tally.weight());
        all_.add(tally);
    }

    /// Whether nothing is to be compared at a place: the user meant it to differ, or put the original there.
    bool spared(ElementId id, double time_s) const {
        const Ticks tick = r_.song->tempo.nearest_tick(time_s);
        const auto& remarks = r_.notebook->remarks;
        return std::any_of(filled_.begin(), filled_.end(), [&](const auto& span) { return time_s >= span.first && time_s < span.second; }) ||
               std::any_of(remarks.begin(), remarks.end(),
                           [&](const Remark& m) { return m.kind == RemarkKind::Intended && m.element == id && tick >= m.start && tick < m.start + m.length; });
    }

    /// Where the original itself stands in the rebuild, at its own time: there is nothing to compare.
    void find_filled() {
        constexpr double kOwnTime_s = 0.05;
        for (const Clip& c : r_.clips->clips) {
            const Asset* asset = r_.clips->asset(c.asset);
            if (!asset || c.mute || c.ends_here || asset->origin != AssetOrigin::Original) continue;
            const double at = r_.song->tempo.seconds(c.start);
            if (std::abs(at - asset->start_s) < kOwnTime_s) filled_.emplace_back(at, at + asset->end_s - asset->start_s);
        }
    }

    /// Fills in place and element and keeps the finding, unless the user marked the element's difference as intended.
    void add(Finding f, ElementId id) {
        if (!counted(id) || f.confidence < kPerhaps) return;
        if (!is_of_whole_part(f) && spared(id, f.start_s)) return;
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

    /// A part that sounds: what is written of it, and what is wrong with it as a whole.
    struct Sounding {
        const Part* part = nullptr;
        std::vector<PlacedNote> notes;
        WrittenPart written;  ///< note by note the same
        WholePart whole;
        std::optional<HeardLengths> lengths;
        bool drums() const { return written.drums; }
    };

    void find_sounding() {
        for (const auto& part : r_.parts) {
            Sounding s;
            s.part = part.get();
            s.written.drums = part->role == PartRole::Drums;
            if (silent(*part)) continue;
            for (const PlacedNote& n : struck_notes(*part)) {
                if (n.muted) continue;
                s.notes.push_back(n);
                const double end = r_.song->tempo.seconds(n.note.start + n.note.length);
                s.written.notes.push_back({r_.song->tempo.seconds(n.note.start), end, s.drums() ? sound_key(n.note.pitch) : n.note.pitch});
            }
            if (s.notes.empty()) continue;
            sounding_.push_back(std::move(s));
        }
    }

    Score score() const {
        std::vector<WrittenPart> parts;
        for (const Sounding& s : sounding_) parts.push_back(s.written);
        std::vector<double> bars;
        for (int bar = 1; bar <= static_cast<int>(bars_) + 1; ++bar) bars.push_back(r_.song->tempo.seconds(r_.song->meter.tick_of_bar(bar)));
        return {std::move(parts), std::move(bars)};
    }

    /// How far a part's notes may be believed right because nothing speaks against them: where hardly any is heard, nothing does.
    double believed(const WrittenPart& part) const {
        constexpr double kEnough = 0.25;
        return part.notes.size() < 4 ? 1.0 : std::min(1.0, heard_above_chance(e_, part) / kEnough);
    }

    /// The figures of a part, and what is wrong with it note by note.
    void check_part(const Part& part, const Judgement& judgement) {
        const auto mine = std::find_if(sounding_.begin(), sounding_.end(), [&](const Sounding& s) { return s.part == &part; });
        BarTally tally(bars_);
        if (mine == sounding_.end()) {
            const auto notes = placed_notes(part);
            for (const PlacedNote& p : notes)
                if (!p.muted) tally.written(r_.song->meter.position(p.note.start).bar, 0.0);
            if (tally.weight() > 0.0) {
                add(silent_part(part, a_.duration_s), part.id);
                return element(part, tally, {}, "the part is muted or silent: nothing of it is heard");
            }
            report_.elements.push_back({part.id, part.name, "part", {}, "nothing is written yet", std::vector<std::optional<double>>(bars_)});
            return;
        }
        const Sounding& s = *mine;
        const auto& verdicts = judgement.written[static_cast<std::size_t>(mine - sounding_.begin())];
        const double belief = believed(s.written);
        constexpr double kTransposed = 0.1;  // of the notes of a part that is off as a whole hardly one is right
        double clear = 0.0, asked = 0.0;
        std::set<std::string> unjudged;
        std::vector<NoteRight> judged;
        // Then its notes need not be told one by one.
        if (auto f = off_as_a_whole(*r_.song, part.role, s.written, s.whole, s.lengths)) add(std::move(*f), part.id);
        for (std::size_t i = 0; i < s.notes.size(); ++i) {
            const PlacedNote& p = s.notes[i];
            if (spared(part.id, s.written.notes[i].onset_s)) continue;
            asked += 1.0;
            if (!verdicts[i].wrong) {
                const DrumSound* sound = drum_sound_of_key(p.note.pitch);
                unjudged.insert(sound ? sound->name : "other sounds");
                continue;
            }
            const double w = *verdicts[i].wrong;
            clear += w < 0.1 || w > 0.9 ? 1.0 : 0.0;
            double right = p.note.origin == Origin::Heard ? std::min(1.0 - w, draft_right(p.note.confidence)) : 1.0 - w;
            if (s.whole.up) right = std::min(right, kTransposed);
            if (std::abs(verdicts[i].late_s) > kOffTime_s) right *= 1.0 - verdicts[i].untimely;
            tally.written(r_.song->meter.position(p.note.start).bar, belief * right);
            judged.push_back({p.ref(), right});
        }
        keep(part.id, std::move(judged));
        surely_heard(s, tally);
        for (const Unwritten& u : s.drums() ? judgement.strokes : judgement.notes)
            if (u.missing >= kPerhaps && !spared(part.id, u.heard.start_s) && should_have(u.heard, s.drums()) == &part)
                tally.heard(bar_of(u.heard.start_s), 0.0, u.missing);
        std::string measures = s.drums() ? "hits of the part heard in the original, and hits surely heard there that are written; 0 % is chance"
                                         : "notes of the part heard in the original, and notes surely heard there that are written; 0 % is chance";
        for (const std::string& name : unjudged)
            measures += (name == *unjudged.begin() ? "; not judged, because not clearly heard in this recording: " : ", ") + name;
        element(part, tally, belief * clear / std::max(1.0, asked), std::move(measures));
    }

    void keep(PartId part, std::vector<NoteRight> judged) {
        std::sort(judged.begin(), judged.end(), [](const NoteRight& a, const NoteRight& b) { return a.note != b.note ? a.note < b.note : a.right < b.right; });
        judged.erase(std::unique(judged.begin(), judged.end(), [](const NoteRight& a, const NoteRight& b) { return a.note == b.note; }), judged.end());
        report_.notes.emplace(part, std::move(judged));
    }

    /// Of what is surely heard in a part's role: is it written? Where several parts share a role the first one answers for it.
    void surely_heard(const Sounding& s, BarTally& tally) const {
        for (const Sounding& other : sounding_) {
            if (other.part->role != s.part->role) continue;
            if (&other != &s) return;
            break;
        }
        const double reach = reach_s(s.drums());
        const auto ask = [&](int key, double at_s, double confidence) {
            if (confidence < kSurelyHeard || spared(s.part->id, at_s)) return;
            const Onsets& played = s.drums() ? score_->struck() : score_->pitched();
            tally.heard(bar_of(at_s), played.count(key, at_s - reach, at_s + reach) ? 1.0 : 0.0, confidence);
        };
        if (s.drums())
            for (const Hit& h : a_.drums) ask(drum_sound(h.kind).key, h.time_s, h.confidence);
        for (const HeardPart& h : a_.parts)
            if (!s.drums() && h.role == s.part->role)
                for (const HeardNote& n : h.notes) ask(n.pitch, n.onset_s, n.confidence);
    }

    /// Drum sounds that are heard again and again and of which not a stroke is written: one finding each.
    std::set<int> find_missing_sounds() {
        constexpr int kOften = 8;
        constexpr double kSurelyOfAll = 0.3;
        std::set<int> keys;
        const Part* drums = nullptr;
        for (const Sounding& s : sounding_)
            if (s.drums() && !drums) drums = s.part;
        if (!drums) return keys;
        for (const DrumKind kind : {DrumKind::Kick, DrumKind::Snare, DrumKind::HatClosed}) {
            const int key = drum_sound(kind).key;
            int all = 0, sure = 0;
            for (const Hit& h : a_.drums)
                if (h.kind == kind) ++all, sure += h.confidence >= kSurelyHeard;
            if (score_->struck().count(key) > 0 || sure < kOften || sure < kSurelyOfAll * all) continue;
            keys.insert(key);
            add(missing_sound(key, all, a_.duration_s), drums->id);
        }
        return keys;
    }

    /// What may be missing and no finding speaks of yet.
    struct Missing {
        Unwritten what;
        bool told = false;
    };

    /// All suspicions, one finding each: a note that is wrong where another is missing was meant to be that one.
    void suspicions(const Judgement& judgement) {
        const auto missing_sounds = find_missing_sounds();
        const auto candidates = [&](const std::vector<Unwritten>& all, bool drums) {
            std::vector<Missing> out;
            for (const Unwritten& u : all)
                if ((u.missing >= kPerhaps / 2 || u.heard.confidence >= kSurelyHeard) && !explained(u.heard, drums)) out.push_back({u});
            return out;
        };
        auto notes = candidates(judgement.notes, false);
        const auto strokes = candidates(judgement.strokes, true);
        for (std::size_t p = 0; p < sounding_.size(); ++p) {
            const Sounding& s = sounding_[p];
            if (s.whole.wrong()) continue;
            for (std::size_t i = 0; i < s.notes.size(); ++i) {
                const Verdict& v = judgement.written[p][i];
                const bool untimely = std::abs(v.late_s) > kOffTime_s && v.untimely >= kPerhaps;
                if (untimely && v.untimely > v.wrong.value_or(0.0)) off_time(s, i, v);
                else if (v.wrong.value_or(0.0) >= kPerhaps) wrong(s, i, *v.wrong, notes);
            }
        }
        for (const Missing& m : notes)
            if (!m.told) missing(m.what, false);
        for (const Missing& m : strokes)
            if (!missing_sounds.contains(m.what.heard.key)) missing(m.what, true);
    }

    /// Whether a part that is off as a whole would have it once it is put right.
    bool explained(const Heard& h, bool drums) const {
        const double reach = reach_s(drums);
        return std::any_of(sounding_.begin(), sounding_.end(), [&](const Sounding& s) {
            if (!s.whole.wrong() || s.drums() != drums) return false;
            const double at = h.start_s + s.whole.late_s.value_or(0.0);
            return score_->of(static_cast<std::size_t>(&s - sounding_.data())).count(h.key + s.whole.up.value_or(0), at - reach, at + reach) > 0;
        });
    }

    Finding about(const Sounding& s, std::size_t i) const {
        Finding f;
        f.role = s.part->role;
        f.start_s = s.written.notes[i].onset_s;
        f.end_s = s.drums() ? f.start_s + 0.1 : s.written.notes[i].end_s;
        f.pitch = s.notes[i].note.pitch;
        return f;
    }

    void off_time(const Sounding& s, std::size_t i, const Verdict& v) {
        Finding f = about(s, i);
        f.kind = v.late_s < 0 ? FindingKind::Early : FindingKind::Late;
        f.size = std::abs(v.late_s) * 1000.0;
        f.unit = "ms";
        f.confidence = v.untimely;
        f.remedy = remedy::MoveNote{s.notes[i].ref(), r_.song->tempo.nearest_tick(f.start_s - v.late_s) - s.notes[i].note.start};
        add(std::move(f), s.part->id);
    }

    /// A written note that is probably wrong: at another pitch, or not there at all.
    void wrong(const Sounding& s, std::size_t i, double probability, std::vector<Missing>& unwritten) {
        const PlacedNote& p = s.notes[i];
        Finding f = about(s, i);
        f.confidence = probability;
        if (const auto better = s.drums() ? std::nullopt : heard_instead(s.written.notes[i], unwritten)) {
            f.kind = FindingKind::WrongPitch;
            f.expected_pitch = *better;
            f.size = std::abs(*better - p.note.pitch);
            f.unit = "semitones";
            f.remedy = remedy::SetPitch{p.ref(), *better};
        } else {
            f.kind = s.drums() ? FindingKind::ExtraHit : FindingKind::ExtraNote;
            f.size = s.drums() ? p.note.velocity : static_cast<double>(p.note.length) / kTicksPerQuarter;
            f.unit = s.drums() ? "velocity" : "beats";
            f.remedy = remedy::DeleteNote{p.ref()};
        }
        add(std::move(f), s.part->id);
    }

    /// The pitch that is heard instead of a written one and that nobody plays: what is missing there, or else what is clearly heard, semitones and octaves
    /// first.
    std::optional<int> heard_instead(const Written& n, std::vector<Missing>& unwritten) const {
        constexpr double kTogether_s = 0.08;
        Missing* instead = nullptr;
        auto at =
            std::lower_bound(unwritten.begin(), unwritten.end(), n.onset_s - kTogether_s, [](const Missing& m, double t) { return m.what.heard.start_s < t; });
        for (; at != unwritten.end() && at->what.heard.start_s <= n.onset_s + kTogether_s; ++at)
            if (!at->told && std::abs(at->what.heard.key - n.pitch) <= 12 && (!instead || at->what.missing > instead->what.missing)) instead = &*at;
        if (instead) {
            instead->told = true;
            return instead->what.heard.key;
        }
        std::optional<int> better;
        double best = 0.4;
        for (const int step : {-1, 1, -2, 2, -12, 12, -3, 3, -4, 4, -5, 5, -7, 7}) {
            if (score_->pitched().count(n.pitch + step, n.onset_s - kTogether_s, n.onset_s + kTogether_s)) continue;
            const double heard = pitch_heard(e_, n, n.pitch + step).both();
            if (heard > best + (better ? 0.8 : 0.0)) best = heard, better = n.pitch + step;
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

    /// The part that should have what is missing: the one that plays nearest to it, in pitch and in time; of drums the first.
    const Part* should_have(const Heard& h, bool drums) const {
        constexpr double kFarAway = 14.0, kPerSecond = 4.0;  // semitones
        const Sounding* best = nullptr;
        double least = kFarAway;
        for (const Sounding& s : sounding_) {
            if (s.drums() != drums) continue;
            if (drums) return s.part;
            const auto& notes = s.written.notes;
            const auto next = std::lower_bound(notes.begin(), notes.end(), h.start_s, [](const Written& n, double t) { return n.onset_s < t; });
            const auto around = next - notes.begin();
            constexpr std::ptrdiff_t kNeighbours = 12;
            for (std::ptrdiff_t k = std::max<std::ptrdiff_t>(0, around - kNeighbours);
                 k < std::min(static_cast<std::ptrdiff_t>(notes.size()), around + kNeighbours); ++k) {
                const Written& n = notes[static_cast<std::size_t>(k)];
                const double far = std::abs(n.pitch - h.key) + kPerSecond * std::abs(n.onset_s - h.start_s);
                if (far < least) least = far, best = &s;
            }
        }
        return best ? best->part : nullptr;
    }

    void missing(const Unwritten& u, bool drums) {
        const Heard& h = u.heard;
        const Part* part = should_have(h, drums);
        if (!part) return;
        Finding f;
        f.kind = drums ? FindingKind::MissingHit : FindingKind::MissingNote;
        f.role = part->role;
        f.start_s = h.start_s;
        f.end_s = h.end_s;
        f.expected_pitch = h.key;
        if (!drums) f.pitch = h.key;
        f.size = drums ? h.velocity : (r_.song->tempo.ticks(h.end_s) - r_.song->tempo.ticks(h.start_s)) / kTicksPerQuarter;
        f.unit = drums ? "velocity" : "beats";
        f.confidence = std::max(u.missing, h.confidence >= kSurelyHeard ? kPerhaps : 0.0);  // what is surely heard is at least worth a second look
        f.remedy = added(h);
        add(std::move(f), part->id);
    }

    const Remake& r_;
    const Analysis& a_;
    const Evidence& e_;
    std::size_t bars_;
    std::vector<std::pair<double, double>> filled_;  ///< seconds
    BarTally all_;
    std::vector<Sounding> sounding_;
    std::optional<Score> score_;
    std::vector<std::pair<std::size_t, double>> weights_;  ///< elements that count, and how much of them there is
    CheckReport report_;
};

}  // namespace

std::optional<double> CheckReport::right(PartId part, const NoteRef& note) const {
    const auto mine = notes.find(part);
    if (mine == notes.end()) return std::nullopt;
    const auto at = std::lower_bound(mine->second.begin(), mine->second.end(), note, [](const NoteRight& a, const NoteRef& n) { return a.note < n; });
    if (at == mine->second.end() || at->note != note) return std::nullopt;
    return at->right;
}

CheckReport check(const Remake& remake, const Analysis& analysis, const SoundSummary* original, const SoundSummary* rebuild) {
    CheckReport report = Checker(remake, analysis).run();
    if (original && rebuild) {
        compare_sound(*original, *rebuild, sound_places(remake, analysis), report);
        std::erase_if(report.findings, [&](const Finding& f) { return is_of_sound(f) && sound_is_meant(remake, f); });
    }
    for (Finding& f : report.findings) f.audible = audible(f, original);
    put_in_order(report.findings);
    return report;
}

}  // namespace fw

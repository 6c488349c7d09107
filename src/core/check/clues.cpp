// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/clues.hpp"

#include "analysis/network.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace fw {

namespace {

constexpr double kSameOnset_s = 0.05, kSameStroke_s = 0.04;
constexpr double kTogether_s = 0.06;  // notes written at one time

double odds(double p) { return std::log((p + 0.002) / (1.002 - p)); }

bool in_range(const Evidence& e, int pitch) {
    return pitch >= Evidence::kLowestPitch && pitch < Evidence::kLowestPitch + Evidence::kPitches && e.pitch_frames() > 0;
}

double onset_between(const Evidence& e, double from_s, double to_s, int pitch) {
    if (!in_range(e, pitch)) return 0.0;
    const auto column = static_cast<std::size_t>(pitch - Evidence::kLowestPitch);
    const auto frames = static_cast<double>(e.pitch_frames() - 1);
    const auto frame = [&](double f) { return static_cast<std::size_t>(std::clamp(f, 0.0, frames)); };
    double best = 0.0;
    const std::size_t first = frame(std::floor(Evidence::pitch_frame(from_s))), last = frame(std::ceil(Evidence::pitch_frame(to_s)));
    for (std::size_t f = first; f <= last; ++f)
        best = std::max<double>(best, std::max({e.onset.at(f, column), e.bass_onset.at(f, column), e.lead_onset.at(f, column)}));
    return best;
}

struct Span {
    double from_s, until_s;
};
Span beginning(const Written& n) { return {n.onset_s + 0.02, std::clamp(n.end_s, n.onset_s + 0.06, n.onset_s + 0.4)}; }

double level_of(const Evidence& e, const Written& n, int pitch) {
    const Span s = beginning(n);
    return in_range(e, pitch) ? e.mean(e.level, s.from_s, s.until_s, pitch) : 0.0;
}

/// Sounds that are the same to a listener who is asked whether there was one: how far a hat was open is another question.
DrumKind family(DrumKind k) { return k == DrumKind::HatOpen ? DrumKind::HatClosed : k == DrumKind::Clap || k == DrumKind::Rim ? DrumKind::Snare : k; }

int pitch_class(int pitch) { return ((pitch % 12) + 12) % 12; }

/// The clearest stroke of a sound between two times, and of any.
StrokeHeard stroke_between(const Evidence& e, double from_s, double to_s, const DrumSound* sound) {
    const auto first = static_cast<Eigen::Index>(std::floor(Evidence::pulse_frame(from_s))),
               last = static_cast<Eigen::Index>(std::ceil(Evidence::pulse_frame(to_s)));
    double own = 0.0, any = 0.0;
    for (Eigen::Index f = std::max<Eigen::Index>(0, first); f <= std::min<Eigen::Index>(e.pulse.rows() - 1, last); ++f)
        for (int k = 0; k < kDrumKinds; ++k) {
            const auto kind = static_cast<DrumKind>(k);
            const double p = e.pulse(f, pulse_column(kind));
            any = std::max(any, p);
            if (sound && family(sound->kind) == family(kind)) own = std::max(own, p);
        }
    return {odds(own), odds(any)};
}

/// Whether any pitch is struck near a time.
double struck_near(const Evidence& e, double at_s) {
    constexpr double kNear_s = 0.008;
    double best = 0.0;
    for (auto f = static_cast<Eigen::Index>(std::floor(Evidence::pulse_frame(at_s - kNear_s))); f <= std::ceil(Evidence::pulse_frame(at_s + kNear_s)); ++f)
        if (f >= 0 && f < e.pulse.rows()) best = std::max<double>(best, e.pulse(f, kPitchedOnset));
    return odds(best);
}

/// The middle of some values, drawn towards what is usual where they are few.
double middle(const std::vector<double>& values, double usual, double few) {
    const auto n = static_cast<double>(values.size());
    return values.empty() ? usual : (median(values) * n + usual * few) / (n + few);
}
constexpr double kUsualClarity = 1.0, kFew = 4.0;

/// The surest of what may have been heard where a note is written; a nearer one rather than a farther.
const Heard* twin_of(const std::vector<Heard>& all, const Written& n, double within_s, int& candidates) {
    constexpr double kPerSecond = 40.0;  // log-odds
    const Heard* best = nullptr;
    double best_sure = 0.0;
    auto at = std::lower_bound(all.begin(), all.end(), n.onset_s - within_s, [](const Heard& h, double t) { return h.start_s < t; });
    for (; at != all.end() && at->start_s <= n.onset_s + within_s; ++at) {
        if (at->key != n.pitch) continue;
        const double sure = odds(at->confidence) - kPerSecond * std::abs(at->start_s - n.onset_s);
        ++candidates;
        if (!best || sure > best_sure) best = &*at, best_sure = sure;
    }
    return best;
}

double twin_odds(const std::vector<Heard>& all, const Written& n, double within_s) {
    int candidates = 0;
    const Heard* twin = twin_of(all, n, within_s, candidates);
    return odds(twin ? twin->confidence : 0.0);
}

/// Fills an array of clues in the order they are told.
template <std::size_t N>
class Teller {
public:
    explicit Teller(Clues<N>& into) : into_(into) {}
    Teller& operator<<(double clue) {
        into_.at(at_++) = clue;
        return *this;
    }

private:
    Clues<N>& into_;
    std::size_t at_ = 0;
};

}  // namespace

PitchHeard pitch_heard(const Evidence& e, const Written& n, int pitch) {
    if (!in_range(e, pitch)) return {odds(0.0), odds(0.0), 0.0};
    const Span s = beginning(n);
    const double sounding = std::max({e.mean(e.sounding, s.from_s, s.until_s, pitch), e.mean(e.bass_sounding, s.from_s, s.until_s, pitch),
                                      e.mean(e.lead_sounding, s.from_s, s.until_s, pitch)});
    return {odds(onset_between(e, n.onset_s - kSameOnset_s, n.onset_s + kSameOnset_s, pitch)), odds(sounding), 10.0 * level_of(e, n, pitch)};
}

StrokeHeard stroke_heard(const Evidence& e, const Written& hit) {
    return stroke_between(e, hit.onset_s - kSameStroke_s, hit.onset_s + kSameStroke_s, drum_sound_of_key(hit.pitch));
}

double clearest_between(const Evidence& e, bool drums, int key, double from_s, double to_s) {
    return drums ? stroke_between(e, from_s, to_s, drum_sound_of_key(key)).own : odds(onset_between(e, from_s, to_s, key));
}

std::vector<Clues<kNoteLooks>> note_looks(const Hearing& hearing, const Score& score, std::size_t part) {
    const Evidence& e = hearing.evidence;
    const auto& notes = score.parts()[part].notes;
    std::vector<PitchHeard> own;
    std::vector<double> clear;
    std::map<int, std::pair<double, double>> at_pitch;  // the sum of clarities of a pitch, and how many
    for (const Written& n : notes) {
        own.push_back(pitch_heard(e, n, n.pitch));
        clear.push_back(own.back().clarity());
        at_pitch[n.pitch].first += clear.back(), at_pitch[n.pitch].second += 1.0;
    }
    const double usual = middle(clear, kUsualClarity, kFew);
    constexpr double kUnheard = -1.0;
    const auto unheard = std::count_if(clear.begin(), clear.end(), [](double c) { return c < kUnheard; });
    const Onsets& pitched = score.pitched();
    std::vector<Clues<kNoteLooks>> out(notes.size());
    // The pitch classes written within three seconds, by all parts, counted as a window that moves along.
    constexpr double kNear_s = 3.0;
    std::vector<std::pair<double, int>> by_time;
    for (const WrittenPart& p : score.parts())
        for (const Written& n : p.notes)
            if (!p.drums) by_time.emplace_back(n.onset_s, pitch_class(n.pitch));
    std::sort(by_time.begin(), by_time.end());
    std::array<double, 12> near{};
    double near_all = 0.0;
    std::size_t from = 0, to = 0;
    for (std::size_t i = 0; i < notes.size(); ++i) {
        const Written& n = notes[i];
        for (; to < by_time.size() && by_time[to].first < n.onset_s + kNear_s; ++to) near[static_cast<std::size_t>(by_time[to].second)] += 1.0, near_all += 1.0;
        for (; from < to && by_time[from].first < n.onset_s - kNear_s; ++from) near[static_cast<std::size_t>(by_time[from].second)] -= 1.0, near_all -= 1.0;
        const PitchHeard &c = own[i], below = pitch_heard(e, n, n.pitch - 12), above = pitch_heard(e, n, n.pitch + 12);
        Teller tell(out[i]);
        tell << c.onset << c.sounding << c.level << below.clarity() << above.clarity() << c.level - std::max(below.level, above.level);
        tell << clear[i] << c.onset * c.sounding / 10.0 << usual << std::min(0.0, clear[i] - usual);
        // What the part's other notes of this pitch are like: a voice that is masked is masked again and again.
        const auto& [sum, count] = at_pitch[n.pitch];
        const double alike = (sum - clear[i] + 2.0 * usual) / (count - 1.0 + 2.0);
        tell << alike << std::min(0.0, clear[i] - alike);
        // What is heard beside it that nobody plays: a semitone, a whole tone, an octave, anything else within an octave away.
        std::array<double, 4> instead;
        instead.fill(-10.0);
        for (int step = -12; step <= 12; ++step) {
            if (step == 0 || pitched.count(n.pitch + step, n.onset_s - kTogether_s, n.onset_s + kTogether_s)) continue;
            double& most = instead[std::abs(step) == 1 ? 0U : std::abs(step) == 2 ? 1U : std::abs(step) == 12 ? 2U : 3U];
            most = std::max(most, (step == -12 ? below : step == 12 ? above : pitch_heard(e, n, n.pitch + step)).both());
        }
        for (const double most : instead) tell << most;
        for (const int step : {-12, 12, -1, 1}) tell << std::min(1, pitched.count(n.pitch + step, n.onset_s - kSameOnset_s, n.onset_s + kSameOnset_s));
        tell << std::min(2, pitched.count(n.pitch, n.onset_s - kSameOnset_s, n.onset_s + kSameOnset_s) - 1);
        tell << std::log(near[static_cast<std::size_t>(pitch_class(n.pitch))] / (near_all + 1.0) + 0.01);
        tell << std::log(count / static_cast<double>(notes.size()));
        tell << 10.0 * (level_of(e, n, n.pitch) - std::max(level_of(e, n, n.pitch - 1), level_of(e, n, n.pitch + 1)));
        tell << std::log(n.end_s - n.onset_s + 0.02);
        tell << score.repeated(score.of(part), n.pitch, n.onset_s);
        tell << twin_odds(hearing.notes, n, kTogether_s);
        // What may hide it: its own pitch or an octave below already sounding, much else.
        tell << score.held(n.pitch, n.onset_s) << score.held(n.pitch - 12, n.onset_s) << std::min(12, score.sounding(n.onset_s + 0.02));
        // The more of a part goes unheard, the less it says that this is.
        const double deaf = (static_cast<double>(unheard) - (clear[i] < kUnheard ? 1.0 : 0.0) + 0.2) / (static_cast<double>(notes.size()) + 1.0);
        tell << deaf << deaf * std::min(0.0, clear[i] - kUnheard);
    }
    return out;
}

std::vector<std::optional<Clues<kStrokeLooks>>> stroke_looks(const Hearing& hearing, const Score& score, std::size_t part) {
    constexpr double kMostlyHeard = 0.8;
    const auto& hits = score.parts()[part].notes;
    std::vector<std::optional<Clues<kStrokeLooks>>> out(hits.size());
    std::map<DrumKind, std::vector<std::size_t>> by_sound;
    for (std::size_t i = 0; i < hits.size(); ++i)
        if (const DrumSound* sound = drum_sound_of_key(hits[i].pitch)) by_sound[family(sound->kind)].push_back(i);
    for (const auto& [kind, those] : by_sound) {
        std::vector<StrokeHeard> heard;
        std::vector<double> own;
        for (const std::size_t i : those) heard.push_back(stroke_heard(hearing.evidence, hits[i])), own.push_back(heard.back().own);
        const auto clear = static_cast<double>(std::count_if(own.begin(), own.end(), [](double o) { return o > -1.0; }));
        if (clear < kMostlyHeard * static_cast<double>(own.size())) continue;
        const double usual = middle(own, kUsualClarity, kFew);
        for (std::size_t k = 0; k < those.size(); ++k) {
            const Written& hit = hits[those[k]];
            const StrokeHeard& c = heard[k];
            const double twin = twin_odds(hearing.strokes, hit, reach_s(true));
            Teller tell(out[those[k]].emplace());
            tell << c.own << c.any << usual << std::min(0.0, c.own - usual) << twin << std::max(c.own, twin);
            tell << score.repeated(score.of(part), hit.pitch, hit.onset_s) << score.together(true, hit.onset_s, 0.03) - 1;
            tell << std::log(static_cast<double>(those.size()) / static_cast<double>(hits.size()));
        }
    }
    return out;
}

std::vector<Twin> find_twins(const Hearing& hearing, const Score& score) {
    std::vector<Twin> twins;
    for (std::size_t p = 0; p < score.parts().size(); ++p) {
        const WrittenPart& part = score.parts()[p];
        for (std::size_t i = 0; i < part.notes.size(); ++i) {
            Twin t{p, i};
            if (const Heard* h = twin_of(hearing.of(part.drums), part.notes[i], reach_s(part.drums), t.candidates)) {
                t.off_s = part.notes[i].onset_s - h->start_s;
                t.sure = h->confidence;
                twins.push_back(t);
            }
        }
    }
    return twins;
}

std::vector<double> usual_offsets(const Score& score, const std::vector<Twin>& twins) {
    std::vector<std::vector<double>> of(score.parts().size());
    for (const Twin& t : twins) of[t.part].push_back(t.off_s);
    std::vector<double> usual;
    for (auto& offs : of) usual.push_back(offs.size() < 4 ? 0.0 : median(std::move(offs)));
    return usual;
}

std::vector<Clues<kTimingLooks>> timing_looks(const Hearing& hearing, const Score& score, const std::vector<Twin>& twins) {
    constexpr double kBeside_s = 1.0, kAtOnce_s = 0.012, kMost = 10.0;
    constexpr std::ptrdiff_t kNeighbours = 5;
    const Evidence& e = hearing.evidence;
    const auto usual = usual_offsets(score, twins);
    const auto written = [&](const Twin& t) -> const Written& { return score.parts()[t.part].notes[t.note]; };
    std::vector<std::vector<double>> away(usual.size());
    for (const Twin& t : twins) away[t.part].push_back(std::abs(t.off_s - usual[t.part]));
    std::vector<double> spread;
    for (auto& a : away) spread.push_back(a.empty() ? 0.0 : median(a));
    std::vector<std::pair<double, std::size_t>> by_time;
    std::map<std::pair<std::size_t, int>, std::vector<std::size_t>> by_key;
    for (std::size_t i = 0; i < twins.size(); ++i)
        by_time.emplace_back(written(twins[i]).onset_s, i), by_key[{twins[i].part, written(twins[i]).pitch}].push_back(i);
    std::sort(by_time.begin(), by_time.end());
    const auto hundredths = [&](double s) { return std::min(kMost, 100.0 * std::abs(s)); };
    std::vector<Clues<kTimingLooks>> out(twins.size());
    for (std::size_t i = 0; i < twins.size(); ++i) {
        const Twin& t = twins[i];
        const Written& n = written(t);
        std::vector<double> at_once, beside, near, alike;
        auto at = std::lower_bound(by_time.begin(), by_time.end(), std::pair(n.onset_s - kBeside_s, std::size_t{0}));
        for (; at != by_time.end() && at->first < n.onset_s + kBeside_s; ++at) {
            if (at->second == i) continue;
            beside.push_back(twins[at->second].off_s);
            if (std::abs(at->first - n.onset_s) < kAtOnce_s) at_once.push_back(twins[at->second].off_s);
        }
        const auto self = static_cast<std::ptrdiff_t>(i);
        for (std::ptrdiff_t k = std::max<std::ptrdiff_t>(0, self - kNeighbours);
             k <= std::min(static_cast<std::ptrdiff_t>(twins.size()) - 1, self + kNeighbours); ++k)
            if (k != self && twins[static_cast<std::size_t>(k)].part == t.part) near.push_back(twins[static_cast<std::size_t>(k)].off_s);
        const auto& same = by_key[{t.part, n.pitch}];
        const auto mine = std::lower_bound(same.begin(), same.end(), i) - same.begin();
        constexpr std::ptrdiff_t kSameKeys = 16;
        for (std::ptrdiff_t k = std::max<std::ptrdiff_t>(0, mine - kSameKeys); k < std::min(static_cast<std::ptrdiff_t>(same.size()), mine + kSameKeys + 1);
             ++k)
            if (k != mine) alike.push_back(twins[same[static_cast<std::size_t>(k)]].off_s);
        const double by = hundredths(t.off_s - usual[t.part]), usually = 100.0 * spread[t.part];
        Teller tell(out[i]);
        tell << by << by * by / 10.0 << std::min(by, 3.0) << std::min(by, 5.0) << usually << by / (1.0 + usually);
        double least = by;
        std::array<double, 4> beyond{};
        std::size_t k = 0;
        for (const auto* those : {&at_once, &near, &alike, &beside})
            beyond[k] = hundredths(t.off_s - middle(*those, usual[t.part], 2.0)), least = std::min(least, beyond[k]), ++k;
        for (const double b : beyond) tell << b;
        for (const double b : beyond) tell << std::min(b, 3.0);
        const double before = mine > 0 ? n.onset_s - written(twins[same[static_cast<std::size_t>(mine - 1)]]).onset_s : 1.0;
        tell << least << odds(t.sure) << std::min(t.candidates, 3) - 1 << std::min(before, 0.5) << std::min(n.end_s - n.onset_s, 1.0);
        const bool drums = score.parts()[t.part].drums;
        constexpr double kNear_s = 0.008;
        const auto clear_at = [&](double s) {
            return drums ? stroke_heard(e, {s, s + 0.1, n.pitch}).own : clearest_between(e, false, n.pitch, s - kNear_s, s + kNear_s);
        };
        tell << struck_near(e, n.onset_s) << struck_near(e, n.onset_s - t.off_s) << clear_at(n.onset_s) << clear_at(n.onset_s - t.off_s);
    }
    return out;
}

std::vector<Heard> unwritten(const Hearing& hearing, const Score& score, bool drums) {
    const double reach = reach_s(drums);
    const Onsets& there = drums ? score.struck() : score.pitched();
    std::vector<Heard> out;
    for (const Heard& h : hearing.of(drums))
        if (!there.count(h.key, h.start_s - reach, h.start_s + reach)) out.push_back(h);
    return out;
}

std::vector<Clues<kUnwrittenNoteLooks>> unwritten_note_looks(const Hearing& hearing, const Score& score, const std::vector<Heard>& notes) {
    const Onsets& pitched = score.pitched();
    std::vector<Clues<kUnwrittenNoteLooks>> out(notes.size());
    for (std::size_t i = 0; i < notes.size(); ++i) {
        const Heard& h = notes[i];
        const Evidence& e = hearing.evidence;
        const Written n{h.start_s, h.end_s, h.key};
        const PitchHeard c = pitch_heard(e, n, h.key), below = pitch_heard(e, n, h.key - 12), above = pitch_heard(e, n, h.key + 12);
        Teller tell(out[i]);
        tell << odds(h.confidence) << std::min(2.0, h.end_s - h.start_s) << c.onset << c.sounding << c.level << below.clarity() << above.clarity()
             << c.level - std::max(below.level, above.level);
        const double repeated = score.repeated(pitched, h.key, h.start_s);
        // Of what is written it may be a partial, or the other way round.
        for (const int step : {-12, -19, -24, -28, 12, 19, -7, 7, -1, 1, -5, 5})
            tell << std::min(1, pitched.count(h.key + step, h.start_s - kTogether_s, h.start_s + kTogether_s));
        tell << std::min(1, pitched.count(h.key, h.start_s - 1.0, h.start_s)) << std::min(1, pitched.count(h.key - 12, h.start_s - 0.6, h.start_s));
        tell << std::min(8, score.together(false, h.start_s, kTogether_s)) << repeated;
        tell << std::log((pitched.count(h.key) + 0.5) / (pitched.size() + 10.0)) << (h.key - 60) / 12.0 << std::max(c.onset, odds(h.confidence))
             << odds(h.confidence) * repeated;
    }
    return out;
}

std::vector<Clues<kUnwrittenStrokeLooks>> unwritten_stroke_looks(const Hearing& hearing, const Score& score, const std::vector<Heard>& strokes) {
    const Onsets& struck = score.struck();
    std::map<int, std::vector<double>> heard_of;  // odds of the twins of what is written of a sound
    for (const WrittenPart& part : score.parts())
        for (const Written& n : part.notes)
            if (part.drums) heard_of[n.pitch].push_back(twin_odds(hearing.strokes, n, reach_s(true)));
    std::map<int, double> usual;
    for (const auto& [key, all] : heard_of) usual[key] = middle(all, kUsualClarity, kFew);
    std::vector<Clues<kUnwrittenStrokeLooks>> out(strokes.size());
    for (std::size_t i = 0; i < strokes.size(); ++i) {
        const Heard& h = strokes[i];
        const StrokeHeard c = stroke_heard(hearing.evidence, {h.start_s, h.end_s, h.key});
        const DrumSound* sound = drum_sound_of_key(h.key);
        int kin = 0;  // another sound of the family that is written there
        for (const DrumSound& other : drum_sounds())
            if (sound && other.kind != sound->kind && family(other.kind) == family(sound->kind))
                kin = std::max(kin, struck.count(other.key, h.start_s - reach_s(true), h.start_s + reach_s(true)));
        const double repeated = score.repeated(struck, h.key, h.start_s);
        const auto known = usual.find(h.key);
        Teller tell(out[i]);
        tell << odds(h.confidence) << c.own << (known == usual.end() ? 0.0 : odds(h.confidence) - known->second) << std::min(1, kin)
             << std::min(3, score.together(true, h.start_s, 0.03)) << repeated;
        tell << std::log((struck.count(h.key) + 0.5) / (struck.size() + 10.0)) << h.velocity / 100.0 << odds(h.confidence) * repeated;
    }
    return out;
}

}  // namespace fw

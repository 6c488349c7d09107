// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/fit_sound.hpp"

#include "audio/mono.hpp"
#include "base/parallel.hpp"
#include "fit/lone_sound.hpp"
#include "sound/no_denormals.hpp"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <iterator>
#include <mutex>
#include <nlopt.hpp>
#include <optional>
#include <random>

namespace fw {

namespace {

/// How much of what a search may take is used up: of its time, or of the sounds it may hear. From any thread.
class Budget {
public:
    explicit Budget(std::pair<double, int> of) : Budget(of.first, of.second) {}
    Budget(double seconds, int hearings) : seconds_(seconds), hearings_(hearings), begun_(Clock::now()) {}
    void heard() { ++heard_; }
    /// 0..1
    double left() const {
        const double used =
            hearings_ > 0 ? static_cast<double>(heard_.load()) / hearings_ : std::chrono::duration<double>(Clock::now() - begun_).count() / seconds_;
        return std::clamp(1.0 - used, 0.0, 1.0);
    }
    /// An equal part of what is left, for one of so many at a time, so many after each other.
    std::pair<double, int> part(int at_a_time, int after_each_other) const {
        const double each = left() / after_each_other;
        return {std::max(0.01, each * seconds_), hearings_ > 0 ? std::max(1, static_cast<int>(each * hearings_ / at_a_time)) : 0};
    }

private:
    using Clock = std::chrono::steady_clock;
    double seconds_;
    int hearings_;
    Clock::time_point begun_;
    std::atomic<int> heard_{0};
};

// What is searched: what a single note can tell. Key tracking, glides and LFOs it cannot.
constexpr const char* kOfSynth[] = {
    "wave",      "octave_up",    "fine",      "pulse",        "unison",     "unison_detune",   "second_wave",    "second_level",  "interval",
    "detune",    "second_pulse", "sub_wave",  "sub_level",    "sub_octave", "noise",           "noise_low",      "noise_high",    "filter",
    "slope",     "cutoff",       "resonance", "filter_drive", "sweep",      "sweep_attack_ms", "sweep_decay_ms", "sweep_sustain", "sweep_curve",
    "attack_ms", "decay_ms",     "sustain",   "release_ms",   "curve",      "punch",           "punch_ms"};
constexpr const char* kOfDrum[] = {"pitch_hz", "drop",      "drop_ms",    "skin",     "decay_ms", "hold",      "modes", "modes_kind", "modes_ms",
                                   "noise",    "noise_low", "noise_high", "noise_ms", "bursts",   "bursts_ms", "click", "drive"};
constexpr const char* kOfSample[] = {"tune", "start", "attack_ms", "decay_ms", "sustain", "release_ms", "cutoff", "resonance"};

std::span<const char* const> searched(const SourceType& type) {
    if (&type == &kDrumVoice) return kOfDrum;
    if (&type == &kSampler) return kOfSample;
    return kOfSynth;
}

/// A point of the search: where each searched field stands on its scale, 0..1.
using Point = std::vector<double>;

class Search {
public:
    Search(const LoneNote& moment, const FitSource& source, const FitWish& wish, const Progress& progress,
           const std::function<void(const FittedSound&)>& better)
        : moment_(moment),
          target_(moment.mono),
          source_(source),
          rows_(source.type->fields),
          wish_(wish),
          progress_(progress),
          better_(better),
          budget_(wish.seconds, wish.hearings) {
        for (const char* id : searched(*source.type)) {
            if (std::string_view(id) == "second_level") second_ = fields_.size();
            if (std::string_view(id) == "wave") wave_ = fields_.size();
            fields_.push_back(*index_of_field(rows_, id));
        }
    }

    std::vector<FittedSound> run() {
        std::vector<Tried> all = starts();
        evolve(all);
        polish(all);
        std::vector<FittedSound> some;
        constexpr std::size_t kShaped = 6, kKept = 3;
        // The nearest, and what sounds unlike those before it.
        constexpr double kDiffers = 1.0;
        const auto like_one = [&](const std::vector<float>& plays, const std::vector<std::vector<float>>& heard) {
            const SoundTarget mine(plays);
            return std::any_of(heard.begin(), heard.end(), [&](const std::vector<float>& h) { return mine.distance_to(h).total() < kDiffers; });
        };
        std::vector<std::vector<float>> heard;
        for (const Tried& t : all) {
            FittedSound sound = sound_of(t);
            auto plays = played(moment_, sound, source_);
            if (like_one(plays, heard)) continue;
            heard.push_back(plays);
            if (wish_.equaliser) shape_tone(sound, plays);
            match_level(sound, plays);
            some.push_back(std::move(sound));
            if (some.size() == kShaped) break;
        }
        // What an earlier search found is not lost to a worse one.
        for (FittedSound f : wish_.from) {
            f.distance = target_.distance_to(played(moment_, f, source_));
            some.push_back(std::move(f));
        }
        std::stable_sort(some.begin(), some.end(), [](const FittedSound& a, const FittedSound& b) { return a.distance.total() < b.distance.total(); });
        // Behind an equaliser two of them may have become alike.
        std::vector<FittedSound> out;
        heard.clear();
        for (FittedSound& sound : some) {
            auto plays = played(moment_, sound, source_);
            if (like_one(plays, heard)) continue;
            heard.push_back(std::move(plays));
            out.push_back(std::move(sound));
            if (out.size() == kKept) break;
        }
        return out;
    }

private:
    static constexpr std::size_t kFewest = 36;  ///< sounds to begin with
    static constexpr double kFirstStep = 0.12;
    static constexpr int kLongestDescent = 1500;  ///< hearings
    struct Tried {
        std::string patch;
        Point at;
        SoundDistance distance;
        double total = 1e9;
    };

    bool over() const { return budget_.left() <= 0.0 || progress_.cancelled(); }
    void tell() const {
        if (!progress_.cancelled()) progress_.report(1.0 - budget_.left(), "fitting the sound");
    }

    FittedSound sound_of(const Tried& t) const {
        FittedSound s{t.patch, {}, t.distance};
        for (const auto& set : source_.settings)
            if (std::find(fields_.begin(), fields_.end(), set.first) == fields_.end()) s.settings.push_back(set);
        for (std::size_t i = 0; i < fields_.size(); ++i) {
            const double value = value_at(rows_[fields_[i]], t.at[i]);
            if (value != source_.type->value_in(t.patch, fields_[i])) s.settings.emplace_back(fields_[i], value);
        }
        std::sort(s.settings.begin(), s.settings.end());
        return s;
    }

    Point point_of(const std::string& patch, const std::vector<std::pair<std::size_t, double>>& settings) const {
        Point at;
        for (const std::size_t f : fields_) {
            double value = source_.type->value_in(patch, f);
            for (const auto& [field, set] : settings)
                if (field == f) value = set;
            at.push_back(position_of(rows_[f], value));
        }
        return at;
    }

    void hear(Tried& t) {
        budget_.heard();
        t.distance = target_.distance_to(played(moment_, sound_of(t), source_));
        t.total = t.distance.total();
        const std::lock_guard lock(telling_);
        if (t.total < best_ - 1e-9) {
            best_ = t.total;
            if (better_) {
                FittedSound sound = sound_of(t);
                match_level(sound, played(moment_, sound, source_));
                better_(sound);
            }
        }
    }

    /// The patch's trim moved by what the levels differ.
    void match_level(FittedSound& sound, const std::vector<float>& plays) const {
        const auto energy = [](const std::vector<float>& x) {
            double sum = 1e-12;
            for (const float s : x) sum += static_cast<double>(s * s);
            return sum;
        };
        const auto trim = index_of_field(rows_, "trim");
        if (!trim) return;
        const double db = source_.type->value_in(sound.patch, *trim) + 10.0 * std::log10(energy(moment_.mono) / energy(plays));
        std::erase_if(sound.settings, [&](const auto& s) { return s.first == *trim; });
        sound.settings.emplace_back(*trim, clamped(rows_[*trim], db));
        std::sort(sound.settings.begin(), sound.settings.end());
    }

    /// An equaliser behind it where that is worth a step; plays: what it sounds like, with it in the end. Worth is what it wins in the distance and in third
    /// octaves over the whole moment together: the distance alone asks above all when a tone is there.
    void shape_tone(FittedSound& sound, std::vector<float>& plays) const {
        constexpr double kWorth_db = 0.33;
        FittedSound shaped = sound;
        for (const auto& [id, value] : fit_equaliser(tone_asked(plays, moment_.mono, SoundTarget::kRate)).fields)
            shaped.tone.emplace_back(*index_of_field(kEqualiser.fields, id), value);
        if (shaped.tone.empty()) return;
        std::sort(shaped.tone.begin(), shaped.tone.end());
        auto now = played(moment_, shaped, source_);
        shaped.distance = target_.distance_to(now);
        const auto off = [&](const SoundDistance& d, const std::vector<float>& x) {
            return d.total() + third_octave_difference_db(x, moment_.mono, SoundTarget::kRate);
        };
        if (off(shaped.distance, now) > off(sound.distance, plays) - kWorth_db) return;
        sound = std::move(shaped);
        plays = std::move(now);
    }

    void hear_all(std::vector<Tried>& some) {
        parallel_for(some.size(), [&](std::size_t i) {
            const NoDenormals guard;
            if (!over()) hear(some[i]);
        });
    }

    static void sort(std::vector<Tried>& all) {
        std::stable_sort(all.begin(), all.end(), [](const Tried& a, const Tried& b) { return a.total < b.total; });
    }

    std::vector<Tried> starts() {
        std::vector<Tried> all;
        for (const FittedSound& f : wish_.from) all.push_back({f.patch, point_of(f.patch, f.settings), {}, 1e9});
        for (const std::string& patch : source_.type->patches()) all.push_back({patch, point_of(patch, source_.settings), {}, 1e9});
        if (source_.type->patches().empty()) all.push_back({source_.spec.patch, point_of(source_.spec.patch, source_.settings), {}, 1e9});
        // Where there are few to begin with, others like them.
        std::mt19937 dice(wish_.seed);
        const auto chance = [&] { return static_cast<double>(dice() >> 8) / 16777216.0; };
        for (std::size_t known = all.size(); all.size() < kFewest;) {
            Tried like = all[static_cast<std::size_t>(dice()) % known];
            for (double& x : like.at)
                if (chance() < 0.4) x = std::clamp(x + 0.6 * (chance() - 0.5), 0.0, 1.0);
            all.push_back(std::move(like));
        }
        hear_all(all);
        sort(all);
        std::erase_if(all, [](const Tried& t) { return t.total >= 1e9; });
        return all;
    }

    /// Populations to breed: of the patches nearest; where there is a wave to choose, one for each of them. What a wrong wave lacks can be made good for by
    /// half by everything else, and then nothing leads away from it.
    std::vector<std::vector<Tried>> populations(const std::vector<Tried>& all) {
        constexpr std::size_t kAll = 36, kOfOneWave = 18;
        const auto nearest = [](std::vector<Tried>& some, std::size_t most) { some.resize(std::min(some.size(), most)); };
        std::vector<std::vector<Tried>> out;
        if (!wave_) {
            nearest(out.emplace_back(all), kAll);
            return out;
        }
        const Parameter& row = rows_[fields_[*wave_]];
        for (const double wave : leaps(row)) {
            const double at = position_of(row, wave);
            std::vector<Tried> own, others;
            for (const Tried& t : all) (t.at[*wave_] == at ? own : others).push_back(t);
            nearest(own, kOfOneWave);
            nearest(others, kOfOneWave - own.size());
            for (Tried& t : others) t.at[*wave_] = at, t.total = 1e9;
            hear_all(others);
            std::move(others.begin(), others.end(), std::back_inserter(own));
            std::erase_if(own, [](const Tried& t) { return t.total >= 1e9; });
            sort(own);
            out.push_back(std::move(own));
        }
        return out;
    }

    /// What is good of several comes together in one. Of several populations the best of each goes down its slope besides: by so much a wave is known.
    void evolve(std::vector<Tried>& all) {
        constexpr double kShareOfTime = 0.5, kShareOfDescents = 0.4;
        auto some = populations(all);
        const double begun = budget_.left(), each = kShareOfTime / static_cast<double>(some.size());
        for (std::size_t i = 0; i < some.size(); ++i) breed(some[i], begun * (1.0 - each * static_cast<double>(i + 1)), wish_.seed + static_cast<unsigned>(i));
        if (some.size() > 1) {
            const auto [seconds, hearings] = budget_.part(2, static_cast<int>(some.size() + 1) / 2);
            const std::pair share(seconds * kShareOfDescents, static_cast<int>(hearings * kShareOfDescents));
            parallel_for(some.size(), [&](std::size_t i) {
                const NoDenormals guard;
                Budget budget(share);
                if (!some[i].empty() && !over()) some[i].push_back(descended(some[i].front(), budget, kFirstStep));
            });
        }
        for (const auto& population : some) all.insert(all.end(), population.begin(), population.end());
        sort(all);
    }

    /// Differential evolution (Storn & Price, 1997) until so much of the budget is left or nothing is won any more. The first wave stays; other kinds and waves
    /// are places on their scales like everything else.
    void breed(std::vector<Tried>& all, double until_left, unsigned seed) {
        if (all.size() < 4) return;
        std::mt19937 dice(seed);
        const auto pick = [&](std::size_t n) { return static_cast<std::size_t>(dice()) % n; };
        const auto chance = [&] { return static_cast<double>(dice() >> 8) / 16777216.0; };
        double before = 1e9;
        int still = 0;
        while (budget_.left() > until_left && !over() && still < 25) {
            tell();
            std::vector<Tried> next;
            for (const Tried& t : all) {
                const Tried &best = all[pick(std::max<std::size_t>(2, all.size() / 6))], &one = all[pick(all.size())], &other = all[pick(all.size())];
                // Another patch's fields that are not searched may come along.
                Tried made{chance() < 0.15 ? best.patch : t.patch, t.at, {}, 1e9};
                const double far = 0.4 + 0.5 * chance(), share = chance() < 0.5 ? 0.9 : 0.3;
                const std::size_t sure = pick(made.at.size());
                for (std::size_t i = 0; i < made.at.size(); ++i)
                    if (i != wave_ && (i == sure || chance() < share)) {
                        double x = t.at[i] + far * (best.at[i] - t.at[i]) + far * (one.at[i] - other.at[i]);
                        if (chance() < 0.03) x = chance();
                        // What would leave the range lands between where it was and the range's end.
                        made.at[i] = x < 0.0 ? chance() * t.at[i] : x > 1.0 ? 1.0 - chance() * (1.0 - t.at[i]) : x;
                    }
                next.push_back(std::move(made));
            }
            hear_all(next);
            for (std::size_t i = 0; i < all.size(); ++i)
                if (next[i].total < all[i].total) all[i] = std::move(next[i]);
            sort(all);
            still = all.front().total < before - 0.01 ? 0 : still + 1;
            before = std::min(before, all.front().total);
        }
    }

    /// Sbplx from the nearest that differ, each with a share of the time that is left.
    void polish(std::vector<Tried>& all) {
        constexpr std::size_t kPolished = 4;
        std::vector<Tried> some;
        for (const Tried& t : all) {
            const auto near = [&](const Tried& s) {
                double sum = 0.0;
                for (std::size_t i = 0; i < s.at.size(); ++i) sum += std::abs(s.at[i] - t.at[i]);
                return sum < 0.02 * static_cast<double>(s.at.size());
            };
            if (some.size() < kPolished && std::none_of(some.begin(), some.end(), near)) some.push_back(t);
        }
        const auto each = budget_.part(2, 2);
        parallel_for(some.size(), [&](std::size_t i) {
            const NoDenormals guard;
            if (progress_.cancelled()) return;
            Budget budget(each);
            some[i] = polished(some[i], budget);
        });
        all.insert(all.end(), some.begin(), some.end());
        sort(all);
    }

    /// Where a field may leap to at once: all its choices, intervals that are heard as one tone, a voice gone or there.
    static std::vector<double> leaps(const Parameter& row) {
        std::vector<double> out;
        if (row.scale == Scale::Choice || row.scale == Scale::Whole)
            for (double v = row.low; v <= row.high; v += 1.0) out.push_back(v);
        if (std::string_view(row.id) == "interval") out = {-24.0, -12.0, 0.0, 7.0, 12.0, 19.0, 24.0, 28.0, 36.0};
        if (std::string_view(row.id) == "second_level" || std::string_view(row.id) == "sub_level" || std::string_view(row.id) == "noise") out = {0.0, 0.3, 0.8};
        return out;
    }

    /// A descent without derivatives from a sound, by what is no choice; step: how far it looks at first.
    Tried descended(const Tried& from, Budget& budget, double step) {
        std::vector<std::size_t> moving;
        std::vector<double> x;
        for (std::size_t i = 0; i < fields_.size(); ++i) {
            const Scale scale = rows_[fields_[i]].scale;
            if (scale != Scale::Choice && scale != Scale::Switch && scale != Scale::Whole) moving.push_back(i), x.push_back(from.at[i]);
        }
        nlopt::opt search(nlopt::LN_SBPLX, static_cast<unsigned>(moving.size()));
        struct Call {
            Search* search;
            Tried now, best;
            const std::vector<std::size_t>* moving;
            Budget* budget;
            nlopt::opt* opt;
        } call{this, from, from, &moving, &budget, &search};
        search.set_lower_bounds(0.0);
        search.set_upper_bounds(1.0);
        search.set_initial_step(step);
        search.set_maxeval(kLongestDescent);
        search.set_ftol_abs(0.002);
        search.set_min_objective(
            [](const std::vector<double>& at, std::vector<double>&, void* data) {
                auto& c = *static_cast<Call*>(data);
                for (std::size_t i = 0; i < at.size(); ++i) c.now.at[(*c.moving)[i]] = std::clamp(at[i], 0.0, 1.0);
                c.search->hear(c.now);
                c.budget->heard();
                if (c.now.total < c.best.total) c.best = c.now;
                if (c.budget->left() <= 0.0 || c.search->progress_.cancelled()) c.opt->force_stop();
                return c.now.total;
            },
            &call);
        double value = 0.0;
        try {
            search.optimize(x, value);
        } catch (const std::exception&) {
            // Stopped, or no step is small enough to help: what was found on the way counts.
        }
        return call.best;
    }

    /// Descents and, between them, choices one by one.
    Tried polished(const Tried& from, Budget& budget) {
        Tried best = from;
        const auto over = [&] { return budget.left() <= 0.0 || progress_.cancelled(); };
        double step = kFirstStep;
        while (!over()) {
            const double before = best.total;
            best = descended(best, budget, step);
            for (std::size_t i = 0; i < fields_.size() && !over(); ++i) {
                const Parameter& row = rows_[fields_[i]];
                const Point was = best.at;
                for (const double v : leaps(row)) {
                    Tried other{best.patch, was, {}, 1e9};
                    other.at[i] = position_of(row, v);
                    if (other.at[i] == was[i]) continue;
                    // A voice that is not there may be what is wanted: then it comes in as it leaps.
                    for (const double level : {-1.0, 0.5}) {
                        Tried louder = other;
                        if (level >= 0.0 && std::string_view(row.id) == "interval") louder.at[second_] = level;
                        else if (level >= 0.0) break;
                        hear(louder);
                        budget.heard();
                        if (louder.total < best.total) best = std::move(louder);
                    }
                }
            }
            step = step > 0.02 ? 0.5 * step : kFirstStep;
            if (before - best.total < 0.005 && step >= kFirstStep) break;
        }
        return best;
    }

    const LoneNote& moment_;
    SoundTarget target_;
    const FitSource& source_;
    std::span<const Parameter> rows_;
    const FitWish& wish_;
    const Progress& progress_;
    const std::function<void(const FittedSound&)>& better_;
    Budget budget_;
    std::vector<std::size_t> fields_;
    std::size_t second_ = 0;           ///< where the second oscillator's level stands among them
    std::optional<std::size_t> wave_;  ///< and the first one's wave; drums and samples have none
    std::mutex telling_;
    double best_ = 1e9;
};

void equalise(std::vector<float>& mono, const std::vector<std::pair<std::size_t, double>>& fields) {
    const auto equaliser = kEqualiser.make(SoundTarget::kRate);
    for (const auto& [field, value] : fields) equaliser->set(field, value);
    equaliser->reset();
    std::vector<float> other = mono;
    for (std::size_t at = 0; at < mono.size(); at += kSlice) {
        const std::size_t some = std::min(kSlice, mono.size() - at);
        equaliser->process({std::span(mono).subspan(at, some), std::span(other).subspan(at, some)}, {});
    }
}

}  // namespace

std::vector<float> played(const LoneNote& moment, const FittedSound& sound, const FitSource& source) {
    SourceSpec spec = source.spec;
    spec.patch = sound.patch;
    spec.tuning_cents = moment.tuning_cents;
    const double length_s = static_cast<double>(moment.mono.size()) / SoundTarget::kRate;
    auto mono = mono_of(struck(*source.type, spec, sound.settings, {moment.key, moment.velocity, moment.held_s, length_s}));
    mono.resize(moment.mono.size());
    if (!sound.tone.empty()) equalise(mono, sound.tone);
    return mono;
}

std::vector<FittedSound> fit_sound(const LoneNote& moment, const FitSource& source, const FitWish& wish, const Progress& progress,
                                   const std::function<void(const FittedSound&)>& better) {
    if (std::none_of(moment.mono.begin(), moment.mono.end(), [](float s) { return std::abs(s) > 1e-5F; })) return {};
    Search search(moment, source, wish, progress, better);
    return search.run();
}

}  // namespace fw

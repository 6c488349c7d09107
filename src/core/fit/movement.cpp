// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/movement.hpp"

#include "dsp/fft.hpp"
#include "engine/lens.hpp"
#include "engine/offline.hpp"
#include "model/edits.hpp"
#include "model/edits/phrasing.hpp"
#include "model/fields.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

namespace fw {

namespace {

constexpr std::size_t kWindow = 2048, kLeastBeats = 4;
constexpr double kLowest_hz = 100.0, kSounds_db = 36.0;  // below its loudest beat a sound is taken for silent
constexpr double kHardlyHeard = 0.05;                    // octaves of brightness for one of a cutoff
constexpr double kOff = 0.04;                            // of the field's scale

double db_of(double power) { return 10.0 * std::log10(std::max(power, 1e-12)); }

/// Sums stereo sound up by beats as it comes.
class BeatMeter {
public:
    BeatMeter(const Remake& remake, double rate) : rate_(rate), spectrum_(kWindow) {
        const TempoMap& tempo = remake.song->tempo;
        const double end_s = remake.reference.duration_s;
        for (Ticks t = 0; t == 0 || edges_.back() < end_s; t += kTicksPerQuarter) edges_.push_back(tempo.seconds(t));
        sums_.resize(edges_.size() - 1);
        mono_.reserve(kWindow);
    }
    /// frame: where the first lies in the recording; they come in order.
    void add(std::span<const float> left, std::span<const float> right, std::int64_t frame) {
        for (std::size_t i = 0; i < left.size(); ++i) {
            const double time = static_cast<double>(frame + static_cast<std::int64_t>(i)) / rate_;
            while (beat_ + 1 < edges_.size() && time >= edges_[beat_ + 1]) ++beat_;
            const float middle = 0.5F * (left[i] + right[i]), side = 0.5F * (left[i] - right[i]);
            if (time >= edges_.front() && beat_ < sums_.size()) {
                sums_[beat_].middle += middle * middle;
                sums_[beat_].sides += side * side;
            }
            mono_.push_back(middle);
            if (mono_.size() == kWindow / 2) look();
        }
    }
    std::vector<BeatSound> done() const {
        std::vector<BeatSound> all = sums_;
        for (std::size_t b = 0; b < all.size(); ++b) {
            const double frames = std::max(1.0, (edges_[b + 1] - edges_[b]) * rate_);
            all[b].middle /= frames, all[b].sides /= frames, all[b].high /= frames, all[b].octaves /= frames;
        }
        return all;
    }

private:
    /// Where the power of half a window lies, added to the beat its end is in.
    void look() {
        const auto in = spectrum_.input();
        for (std::size_t i = 0; i < kWindow; ++i) {
            const float sample = i < kWindow / 2 ? before_[i] : mono_[i - kWindow / 2];
            in[i] = sample * static_cast<float>(0.5 - 0.5 * std::cos(2.0 * M_PI * (static_cast<double>(i) + 0.5) / kWindow));
        }
        const auto bins = spectrum_.transform();
        const double width = rate_ / kWindow;
        if (beat_ < sums_.size())
            for (std::size_t k = static_cast<std::size_t>(std::ceil(kLowest_hz / width)); k < bins.size(); ++k) {
                // Weighed by the square of its frequency, as if a string's partials were all of one strength: else the lowest ones decide alone.
                const double power = static_cast<double>(std::norm(bins[k])) * std::pow(static_cast<double>(k) * width / kLowest_hz, 2.0);
                sums_[beat_].high += power;
                sums_[beat_].octaves += power * std::log2(static_cast<double>(k) * width / kLowest_hz);
            }
        std::copy(mono_.begin(), mono_.end(), before_.begin());
        mono_.clear();
    }

    double rate_;
    RealFft spectrum_;
    std::vector<double> edges_;  ///< seconds
    std::vector<BeatSound> sums_;
    std::vector<float> mono_;
    std::array<float, kWindow / 2> before_{};
    std::size_t beat_ = 0;
};

/// Fed in order, through an element's share or without.
class SharedMeter {
public:
    SharedMeter(const Remake& remake, double rate, const std::shared_ptr<const Share>& share) : meter_(remake, rate), filter_(rate), shared_(share != nullptr) {
        if (shared_) lens_.kind = LensKind::Element, lens_.share = share;
        filter_.jump(&lens_);
        filter_.reset();
        late_ = shared_ ? static_cast<std::int64_t>(filter_.latency_frames()) : 0;
    }
    void add(std::span<float> left, std::span<float> right) {
        for (std::size_t i = 0; i < left.size(); ++i) energy_ += static_cast<double>(left[i] * left[i] + right[i] * right[i]);
        for (std::size_t at = 0; at < left.size(); at += LensFilter::kLargestBlock) {
            const std::size_t n = std::min(LensFilter::kLargestBlock, left.size() - at);
            if (shared_) filter_.process(left.subspan(at, n), right.subspan(at, n), frame_);
            meter_.add(left.subspan(at, n), right.subspan(at, n), frame_ - late_);
            frame_ += static_cast<std::int64_t>(n);
        }
    }
    std::vector<BeatSound> done() {
        std::vector<float> rest(2 * static_cast<std::size_t>(late_), 0.0F);
        add(std::span(rest).first(static_cast<std::size_t>(late_)), std::span(rest).last(static_cast<std::size_t>(late_)));
        return meter_.done();
    }
    /// Mean power a second of all that was fed, through the share or not.
    double power() const { return energy_ / static_cast<double>(std::max<std::int64_t>(1, frame_)); }

private:
    BeatMeter meter_;
    LensFilter filter_;
    Lens lens_;
    bool shared_;
    std::int64_t late_ = 0, frame_ = 0;
    double energy_ = 0.0;
};

struct Heard {
    std::vector<BeatSound> beats;
    double power = 0.0;  ///< mean, without the share
};

Heard played(const Remake& remake, const PlanInputs& inputs, const RenderRange& range, const std::shared_ptr<const Share>& share, const Progress& progress) {
    const auto plan = compile_plan(remake, inputs);
    SharedMeter meter(remake, plan->sample_rate_hz, share);
    std::vector<float> left, right;
    render_offline(
        *plan, range,
        [&](std::span<const float> block) {
            left.clear(), right.clear();
            for (std::size_t i = 0; i + 1 < block.size(); i += 2) left.push_back(block[i]), right.push_back(block[i + 1]);
            meter.add(left, right);
            return true;
        },
        progress);
    auto beats = meter.done();
    return {std::move(beats), meter.power()};
}

Heard recorded(const Remake& remake, const Audio& recording, const std::shared_ptr<const Share>& share, const Progress& progress) {
    const auto channels = static_cast<std::size_t>(recording.channels);
    SharedMeter meter(remake, recording.sample_rate_hz, share);
    constexpr std::size_t kBlock = 65536;
    std::vector<float> left, right;
    for (std::size_t at = 0; at < recording.frames(); at += kBlock) {
        left.clear(), right.clear();
        for (std::size_t i = at; i < std::min(recording.frames(), at + kBlock); ++i) {
            left.push_back(recording.samples[i * channels]);
            right.push_back(recording.samples[i * channels + (channels > 1 ? 1 : 0)]);
        }
        meter.add(left, right);
        progress.report(static_cast<double>(at) / static_cast<double>(recording.frames()), "listening to how it moves");
    }
    auto beats = meter.done();
    return {std::move(beats), meter.power()};
}

double power(const BeatSound& b) { return b.middle + b.sides; }

double loudest(std::span<const BeatSound> beats) {
    double most = -120.0;
    for (const BeatSound& b : beats) most = std::max(most, b.level_db());
    return most;
}

double median(std::vector<double> v) {
    std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
    return v[v.size() / 2];
}

}  // namespace

std::optional<Movement> movement_of(const Remake& remake, const FieldRef& field) {
    const bool of_part = std::holds_alternative<PartId>(field.owner) || std::holds_alternative<LayerId>(field.owner);
    const StepId* id = std::get_if<StepId>(&field.owner);
    const bool of_master = std::holds_alternative<MasterRef>(field.owner);
    if (field.field == "level" && (of_part || of_master)) return Movement::Level;
    const Step* step = id && part_with(remake, *id) ? find_step(remake, *id) : nullptr;
    if (field.field == "cutoff" && (std::holds_alternative<LayerId>(field.owner) || (step && step->type == &kFilter))) return Movement::Brightness;
    if (field.field == "width" && step && step->type == &kWidth) return Movement::Width;
    return std::nullopt;
}

double BeatSound::level_db() const { return db_of(middle + sides); }
double BeatSound::brightness() const { return high > 0.0 ? octaves / high : 0.0; }
double BeatSound::sides_db() const { return middle > 0.0 ? std::max(-60.0, db_of(sides / middle)) : -60.0; }

BeatMoves beat_moves(const Remake& remake, const Audio& recording, const FieldRef& field, Movement movement, const std::shared_ptr<const Share>& share,
                     const PlanInputs& inputs, const Progress& progress) {
    const PartId part = part_of(remake, field.owner);
    const Progress listening = progress.stretch(0.0, 0.4), alone = progress.stretch(0.4, part ? 0.6 : 1.0), muted = progress.stretch(0.6, 1.0);
    Heard original = recorded(remake, recording, share, listening);
    // What is soloed while one works is soloed for the ear, not for the comparison.
    Remake all = remake;
    for (auto& p : all.parts)
        if (p->solo) p.edit().solo = false;
    RenderRange range;
    if (part) range.what = RenderWhat::of(part);
    Heard ours = played(all, inputs, range, share, alone);
    BeatMoves moves{std::move(original.beats), std::move(ours.beats), {}, {}};
    if (!part) return moves;
    if (movement == Movement::Brightness)
        moves.higher = played(changed_everywhere(all, field, [](double hz) { return 2.0 * hz; }), inputs, range, share, alone).beats;
    Remake rest = std::move(all);
    for (auto& p : rest.parts)
        if (p->id == part) p.edit().mute = true;
    Heard others = played(rest, inputs, {}, share, muted);
    const double together = ours.power + others.power, match = together > 0.0 ? original.power / together : 0.0;
    for (BeatSound& b : others.beats) b.middle *= match, b.sides *= match, b.high *= match, b.octaves *= match;
    moves.others = std::move(others.beats);
    return moves;
}

std::vector<CurvePoint> asked_of(const Remake& remake, const FieldRef& field, Movement movement, const BeatMoves& moves) {
    const Parameter* row = find_field(remake, field);
    if (!row) return {};
    std::vector<BeatSound> original = moves.original;
    const auto& ours = moves.ours;
    std::vector<bool> clear(original.size(), true);
    for (std::size_t b = 0; b < std::min(original.size(), moves.others.size()); ++b) {
        const BeatSound& other = moves.others[b];
        clear[b] = power(other) < 0.5 * power(original[b]);
        const auto take = [&](double& from, double what) { from = std::max(0.0, from - what); };
        take(original[b].middle, other.middle), take(original[b].sides, other.sides);
        take(original[b].high, other.high), take(original[b].octaves, other.octaves);
    }
    const double heard_from = std::max(-80.0, loudest(original) - kSounds_db), played_from = std::max(-80.0, loudest(ours) - kSounds_db);
    std::vector<std::size_t> beats;
    std::vector<double> off;
    for (std::size_t b = 0; b < std::min(original.size(), ours.size()); ++b) {
        if (!clear[b] || original[b].level_db() < heard_from || ours[b].level_db() < played_from) continue;
        beats.push_back(b);
        off.push_back(movement == Movement::Level        ? original[b].level_db() - ours[b].level_db()
                      : movement == Movement::Brightness ? original[b].brightness() - ours[b].brightness()
                                                         : original[b].sides_db() - ours[b].sides_db());
    }
    if (beats.size() < kLeastBeats) return {};
    const double mostly = median(off);
    double heard = 1.0;  // octaves for an octave
    if (movement == Movement::Brightness) {
        std::vector<double> by;
        for (const std::size_t b : beats)
            if (b < moves.higher.size()) by.push_back(moves.higher[b].brightness() - ours[b].brightness());
        heard = by.empty() ? 0.0 : median(by);
        if (heard < kHardlyHeard) return {};
    }
    std::vector<CurvePoint> points;
    for (std::size_t i = 0; i < beats.size(); ++i) {
        // Neighbours are beats that follow one another: beyond a rest there is nothing to smooth with.
        const bool before = i > 0 && beats[i - 1] + 1 == beats[i], after = i + 1 < beats.size() && beats[i + 1] == beats[i] + 1;
        const double d = (before && after ? median({off[i - 1], off[i], off[i + 1]}) : off[i]) - mostly;
        const Ticks tick = static_cast<Ticks>(beats[i]) * kTicksPerQuarter;
        const double now = value_moved(remake, field, tick);
        const double value = movement == Movement::Level
                                 ? now + d
                                 : now * (movement == Movement::Brightness ? std::exp2(std::clamp(d / heard, -4.0, 4.0)) : std::pow(10.0, d / 20.0));
        points.push_back({tick, clamped(*row, value)});
    }
    return points;
}

std::vector<CurvePoint> followed(const Parameter& row, const std::vector<CurvePoint>& asked) {
    constexpr double kScale = 1000.0;
    std::vector<BendPoint> drawn;
    for (const CurvePoint& p : asked) drawn.push_back({p.tick, kScale * position_of(row, p.value)});
    std::vector<CurvePoint> few;
    for (const BendPoint& p : thinned(drawn, kScale * kOff)) few.push_back({p.tick, value_at(row, p.cents / kScale)});
    return few;
}

}  // namespace fw

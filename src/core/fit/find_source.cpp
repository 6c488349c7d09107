// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/find_source.hpp"

#include "audio/mono.hpp"
#include "base/guard.hpp"
#include "base/parallel.hpp"
#include "commands/call.hpp"
#include "dsp/constant_q.hpp"
#include "dsp/fft.hpp"
#include "dsp/log_bands.hpp"
#include "engine/clip_sound.hpp"
#include "model/places.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <complex>
#include <cstdio>
#include <filesystem>

namespace fw {

namespace {

constexpr double kLongest_s = 16.0, kShortest_s = 2.0, kFrame_s = ConstantQ::kHop / 22050.0, kSlowest = 0.5, kFastest = 2.0;
constexpr double kRise_s = 0.002;
constexpr int kGather = 4;       // frames in one of the first look
constexpr int kMostShift = 36;   // thirds of a semitone
constexpr double kStep = 0.012;  // of speeds in the first look, as a share
constexpr int kPerSemitone = ConstantQ::kBinsPerSemitone, kPitches = ConstantQ::kPitches, kBins = ConstantQ::kBins;
using Spectrum = std::vector<std::complex<float>>;

/// What stands out of a recording's spectra at each moment: what each third of a semitone has more than four semitones to either side of it.
Frames outstanding(const MonoSignal& signal, const Progress& progress) {
    const ConstantQ transform(0.0);
    const std::size_t frames = signal.samples.size() / ConstantQ::kHop + 1, piece = 512, pieces = (frames + piece - 1) / piece;
    Frames all(static_cast<Eigen::Index>(frames), kBins);
    std::vector<float> samples(signal.samples.size());
    signal.copy(0, samples);
    parallel_for(pieces, [&](std::size_t i) {
        progress.checkpoint();
        const std::size_t first = i * piece, count = std::min(piece, frames - first);
        all.middleRows(static_cast<Eigen::Index>(first), static_cast<Eigen::Index>(count)) =
            transform.analyse(samples, static_cast<std::ptrdiff_t>(first), count);
    });
    constexpr int kAround = 4 * kPerSemitone;
    std::vector<double> sums(kBins + 1);
    for (Eigen::Index f = 0; f < all.rows(); ++f) {
        for (int b = 0; b < kBins; ++b) sums[static_cast<std::size_t>(b) + 1] = sums[static_cast<std::size_t>(b)] + static_cast<double>(all(f, b));
        for (int b = 0; b < kBins; ++b) {
            const int low = std::max(0, b - kAround), high = std::min(kBins, b + kAround + 1);
            const double mean = (sums[static_cast<std::size_t>(high)] - sums[static_cast<std::size_t>(low)]) / (high - low);
            all(f, b) = std::max(0.0F, all(f, b) - static_cast<float>(mean));
        }
    }
    return all;
}

/// Some frames as one, less what there is over two seconds: chords that stay say little of where they are.
Frames moving(const Frames& all, int gather) {
    const Eigen::Index rows = (all.rows() + gather - 1) / gather;
    Frames gathered = Frames::Zero(rows, kBins);
    for (Eigen::Index f = 0; f < all.rows(); ++f) gathered.row(f / gather) += all.row(f) / static_cast<float>(gather);
    const auto around = std::max<Eigen::Index>(1, static_cast<Eigen::Index>(std::llround(1.0 / (kFrame_s * gather))));
    Frames out(rows, kBins);
    Eigen::RowVectorXf sum = Eigen::RowVectorXf::Zero(kBins);
    Eigen::Index from = 0, to = 0;
    for (Eigen::Index f = 0; f < rows; ++f) {
        while (to < std::min(rows, f + around + 1)) sum += gathered.row(to++);
        while (from < f - around) sum -= gathered.row(from++);
        out.row(f) = gathered.row(f) - sum / static_cast<float>(to - from);
    }
    return out;
}

/// Semitones of thirds, each with its neighbours, counted from a third.
Frames semitones(const Frames& thirds, int from) {
    Frames out = Frames::Zero(thirds.rows(), kPitches);
    for (int p = 0; p < kPitches; ++p)
        for (int k = -1; k <= 1; ++k)
            if (const int b = kPerSemitone * p + 1 + from + k; b >= 0 && b < kBins) out.col(p) += thirds.col(b);
    return out;
}

/// So many rows as there are after a change of speed, between the ones there are.
Frames faster(const Frames& frames, double speed) {
    const auto rows = static_cast<Eigen::Index>(std::llround(static_cast<double>(frames.rows()) * speed));
    Frames out(rows, frames.cols());
    for (Eigen::Index f = 0; f < rows; ++f) {
        const double at = std::min(static_cast<double>(f) / speed, static_cast<double>(frames.rows() - 1));
        const auto i = static_cast<Eigen::Index>(at);
        const auto part = static_cast<float>(at - static_cast<double>(i));
        out.row(f) = (1.0F - part) * frames.row(i) + part * frames.row(std::min(i + 1, frames.rows() - 1));
    }
    return out;
}

struct Look {
    double likeness = -1.0, at = 0.0;  // at: frames of the source
    double speed = 1.0;
    int shift = 0;  // thirds of a semitone
};

/// Every speed and pitch at its best place. stands_out: the best of all against the others.
std::vector<Look> first_look(const Frames& query, const Frames& source, const Progress& progress) {
    const Frames ours = semitones(source, 0);
    const auto longest = static_cast<std::size_t>(std::ceil(static_cast<double>(query.rows()) * kFastest)) + 2;
    std::size_t size = 64;
    while (size < static_cast<std::size_t>(ours.rows()) + longest) size *= 2;
    const std::size_t bins = size / 2 + 1;
    std::vector<Spectrum> of_source(kPitches, Spectrum(bins));
    std::vector<double> energy(static_cast<std::size_t>(ours.rows()) + 1, 0.0);
    for (Eigen::Index f = 0; f < ours.rows(); ++f)
        energy[static_cast<std::size_t>(f) + 1] = energy[static_cast<std::size_t>(f)] + static_cast<double>(ours.row(f).squaredNorm());
    {
        RealFft fft(size);
        for (int p = 0; p < kPitches; ++p) {
            std::fill(fft.input().begin(), fft.input().end(), 0.0F);
            for (Eigen::Index f = 0; f < ours.rows(); ++f) fft.input()[static_cast<std::size_t>(f)] = ours(f, p);
            const auto out = fft.transform();
            std::copy(out.begin(), out.end(), of_source[static_cast<std::size_t>(p)].begin());
        }
    }
    std::vector<double> speeds;
    for (double v = kSlowest; v <= kFastest * (1.0 + 0.5 * kStep); v *= 1.0 + kStep) speeds.push_back(v);
    std::vector<std::vector<Look>> found(speeds.size());
    std::atomic<std::size_t> done{0};
    parallel_for(speeds.size(), [&](std::size_t v) {
        RealFft fft(size);
        InverseRealFft back(size);
        std::vector<Spectrum> of_query(kPitches, Spectrum(bins));
        for (int k = -1; k <= 1; ++k) {
            progress.checkpoint();
            const Frames meant = faster(semitones(query, k), speeds[v]);
            const double norm = std::sqrt(static_cast<double>(meant.squaredNorm()));
            const auto rows = static_cast<std::size_t>(meant.rows());
            if (norm <= 0.0 || rows < 4 || static_cast<Eigen::Index>(rows) > ours.rows()) continue;
            for (int p = 0; p < kPitches; ++p) {
                std::fill(fft.input().begin(), fft.input().end(), 0.0F);
                for (std::size_t f = 0; f < rows; ++f) fft.input()[f] = meant(static_cast<Eigen::Index>(f), p);
                const auto out = fft.transform();
                std::copy(out.begin(), out.end(), of_query[static_cast<std::size_t>(p)].begin());
            }
            for (int m = -kMostShift / kPerSemitone; m <= kMostShift / kPerSemitone; ++m) {
                const int shift = kPerSemitone * m + k;
                if (std::abs(shift) > kMostShift) continue;
                Eigen::Map<Eigen::ArrayXcf> sum(back.input().data(), static_cast<Eigen::Index>(bins));
                sum.setZero();
                for (int p = std::max(0, -m); p < std::min(kPitches, kPitches - m); ++p) {
                    const Eigen::Map<const Eigen::ArrayXcf> a(of_source[static_cast<std::size_t>(p)].data(), static_cast<Eigen::Index>(bins));
                    const Eigen::Map<const Eigen::ArrayXcf> b(of_query[static_cast<std::size_t>(p + m)].data(), static_cast<Eigen::Index>(bins));
                    sum += a * b.conjugate();
                }
                const auto over = back.transform();
                Look best;
                for (std::size_t t = 0; t + rows <= static_cast<std::size_t>(ours.rows()); ++t) {
                    const double there = energy[t + rows] - energy[t];
                    if (there <= 1e-6 * energy.back()) continue;
                    const double likeness = static_cast<double>(over[t]) / static_cast<double>(size) / norm / std::sqrt(there);
                    if (likeness > best.likeness) best = {likeness, static_cast<double>(t), speeds[v], shift};
                }
                if (best.likeness > -1.0) found[v].push_back(best);
            }
        }
        progress.report(0.35 + 0.5 * static_cast<double>(++done) / static_cast<double>(speeds.size()), "laying them over each other");
    });
    std::vector<Look> all;
    for (const auto& f : found) all.insert(all.end(), f.begin(), f.end());
    return all;
}

/// How far the best lies above all that are other than it, in deviations of their middle half.
double stands_out(const std::vector<Look>& all, const Look& best) {
    std::vector<double> others;
    for (const Look& l : all)
        if (std::abs(std::log(l.speed / best.speed)) > 0.05 || std::abs(l.shift - best.shift) > 3) others.push_back(l.likeness);
    if (others.size() < 100) return 0.0;
    std::sort(others.begin(), others.end());
    const auto at = [&](double share) { return others[static_cast<std::size_t>(share * static_cast<double>(others.size() - 1))]; };
    return (best.likeness - at(0.5)) / std::max(1e-6, (at(0.75) - at(0.25)) / 1.349);
}

/// Where a parabola through three values is highest, −1 … 1 from the middle one.
double top_of(double before, double here, double after) {
    const double bend = before - 2.0 * here + after;
    return bend < 0.0 ? std::clamp(0.5 * (before - after) / bend, -1.0, 1.0) : 0.0;
}

/// Likeness of the stretch at a place between frames, a speed and a shift.
double likeness_at(const Frames& query, const Frames& source, double at, double speed, double shift) {
    double both = 0.0, mine = 0.0, theirs = 0.0;
    const int low = static_cast<int>(std::floor(shift));
    const auto share = static_cast<float>(shift - low);
    const int first = std::max(0, std::max(-low, -low - 1) + 1), last = std::min(kBins, kBins - low - 1);
    const int wide = last - first;
    for (Eigen::Index f = 0; f < query.rows(); ++f) {
        const double t = at + static_cast<double>(f) * speed;
        const auto i = static_cast<Eigen::Index>(std::floor(t));
        if (i < 0 || i + 1 >= source.rows()) continue;
        const auto part = static_cast<float>(t - static_cast<double>(i));
        const Eigen::RowVectorXf there = (1.0F - part) * source.row(i).segment(first, wide) + part * source.row(i + 1).segment(first, wide);
        const Eigen::RowVectorXf here = (1.0F - share) * query.row(f).segment(first + low, wide) + share * query.row(f).segment(first + low + 1, wide);
        both += static_cast<double>(here.dot(there)), mine += static_cast<double>(here.squaredNorm()), theirs += static_cast<double>(there.squaredNorm());
    }
    return mine > 0.0 && theirs > 0.0 ? both / std::sqrt(mine * theirs) : -1.0;
}

struct Close {
    double likeness = -1.0, at = 0.0, speed = 1.0, shift = 0.0;
};

/// From the first look on, one figure after the other in smaller and smaller steps.
Close closer(const Frames& query, const Frames& source, const Look& from, const Progress& progress) {
    Close best{-1.0, from.at * kGather, from.speed, static_cast<double>(from.shift)};
    best.likeness = likeness_at(query, source, best.at, best.speed, best.shift);
    const double middle = 0.5 * static_cast<double>(query.rows());
    double by_time = 4.0, by_speed = 0.006, by_shift = 0.5;
    for (int round = 0; round < 6; ++round) {
        progress.checkpoint();
        const Close start = best;
        for (int v = -3; v <= 3; ++v)
            for (int t = -4; t <= 4; ++t) {
                Close tried = start;
                tried.speed = start.speed * (1.0 + v * by_speed);
                // About the middle, so that the speed does not move the whole.
                tried.at = start.at + middle * (start.speed - tried.speed) + t * by_time;
                tried.likeness = likeness_at(query, source, tried.at, tried.speed, tried.shift);
                if (tried.likeness > best.likeness) best = tried;
            }
        const Close there = best;
        for (int s = -2; s <= 2; ++s) {
            Close tried = there;
            tried.shift = there.shift + s * by_shift;
            tried.likeness = likeness_at(query, source, tried.at, tried.speed, tried.shift);
            if (tried.likeness > best.likeness) best = tried;
        }
        by_time *= 0.4, by_speed *= 0.4, by_shift *= 0.5;
    }
    return best;
}

/// How much louder its bands become from one moment to the next, every 2 ms.
Frames rises(const std::vector<float>& mono, double rate) {
    constexpr std::size_t kSize = 512, kBands = 10;
    const auto hop = static_cast<std::size_t>(kRise_s * rate);
    RealFft fft(kSize);
    const auto window = hann_window(kSize);
    const LogBands bands(kBands, 80.0, 9000.0, kSize, rate);
    const std::size_t frames = mono.size() / hop;
    Frames levels(static_cast<Eigen::Index>(frames), static_cast<Eigen::Index>(kBands));
    for (std::size_t f = 0; f < frames; ++f) {
        const std::size_t end = f * hop + kSize / 2;
        for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = end + i >= kSize && end + i - kSize < mono.size() ? mono[end + i - kSize] * window[i] : 0.0F;
        const auto bins = fft.transform();
        for (std::size_t b = 0; b < kBands; ++b)
            levels(static_cast<Eigen::Index>(f), static_cast<Eigen::Index>(b)) = static_cast<float>(std::log10(1e-3 + bands.power(bins, b)));
    }
    Frames rise = Frames::Zero(levels.rows(), levels.cols());
    constexpr Eigen::Index kBefore = 3;
    for (Eigen::Index f = kBefore; f < levels.rows(); ++f) rise.row(f) = (levels.row(f) - levels.row(f - kBefore)).cwiseMax(0.0F);
    return rise;
}

/// How much later, seconds, strokes are heard than others, over some frames of both; nothing where that is not clear.
std::optional<double> later_s(const Frames& heard, const Frames& meant, Eigen::Index from, Eigen::Index to) {
    constexpr double kReach_s = 0.03, kOut = 1.2;
    constexpr Eigen::Index kBeside = 4;
    const auto reach = static_cast<Eigen::Index>(std::llround(kReach_s / kRise_s));
    from = std::max(from, reach), to = std::min({to, heard.rows() - reach, meant.rows()});
    if (to - from < 400) return {};
    std::vector<double> over;
    for (Eigen::Index lag = -reach; lag <= reach; ++lag)
        over.push_back(static_cast<double>(heard.middleRows(from + lag, to - from).cwiseProduct(meant.middleRows(from, to - from)).sum()));
    const auto best = static_cast<Eigen::Index>(std::max_element(over.begin(), over.end()) - over.begin());
    if (best == 0 || best + 1 == static_cast<Eigen::Index>(over.size())) return {};
    double others = 0.0;
    for (Eigen::Index i = 0; i < static_cast<Eigen::Index>(over.size()); ++i)
        if (std::abs(i - best) > kBeside) others = std::max(others, over[static_cast<std::size_t>(i)]);
    // A source without strokes, or one that others drown, says nothing.
    if (over[static_cast<std::size_t>(best)] < kOut * others) return {};
    const auto i = static_cast<std::size_t>(best);
    return kRise_s * (static_cast<double>(best - reach) + top_of(over[i - 1], over[i], over[i + 1]));
}

/// By the strokes of the source as it would be treated, first as a whole, then its halves, which tell the speed.
SourcePlace by_strokes(const Audio& stretch, const Audio& source, SourcePlace place) {
    const double rate = stretch.sample_rate_hz, seconds = stretch.duration_s();
    const Frames heard = rises(mono_of(stretch), rate);
    const Frames meant = rises(mono_of(follow_recipe(source, recipe_of(place, seconds), rate)), rate);
    const Eigen::Index half = heard.rows() / 2;
    const auto all = later_s(heard, meant, 0, heard.rows()), first = later_s(heard, meant, 0, half), second = later_s(heard, meant, half, heard.rows());
    constexpr double kApart_s = 0.01;  // of halves that mean the same strokes
    if (first && second && std::abs(*first - *second) < kApart_s) {
        const double slope = (*second - *first) / (0.5 * seconds), begins = *first - 0.25 * seconds * slope;
        place.from_s -= place.speed * begins / (1.0 + slope);
        place.speed /= 1.0 + slope;
    } else if (all) {
        place.from_s -= place.speed * *all;
    }
    return place;
}

}  // namespace

Result<std::optional<SourcePlace>> find_source(const Audio& original, double from_s, double to_s, const Audio& source, const Progress& progress) {
    return guarded("the search for a source", [&]() -> Result<std::optional<SourcePlace>> {
        // It has to lie in the source as a whole, also where it was made a little faster.
        to_s = std::min({to_s, from_s + kLongest_s, from_s + source.duration_s() / 1.26, original.duration_s()});
        if (to_s - from_s < kShortest_s)
            return Error{ErrorCode::CommandRefused, "The search",
                         "the stretch, or the source, is shorter than it needs: choose a stretch of two seconds or more"};
        Audio stretch{original.sample_rate_hz, original.channels, {}, {}};
        const auto channels = static_cast<std::size_t>(original.channels);
        const auto first = static_cast<std::size_t>(from_s * original.sample_rate_hz) * channels,
                   last = std::min(original.samples.size(), static_cast<std::size_t>(to_s * original.sample_rate_hz) * channels);
        stretch.samples.assign(original.samples.begin() + static_cast<std::ptrdiff_t>(first), original.samples.begin() + static_cast<std::ptrdiff_t>(last));
        const auto heard = make_mono(stretch, "the stretch", progress);
        if (!heard) return heard.error();
        const auto meant = make_mono(source, "the source", progress);
        if (!meant) return meant.error();
        progress.report(0.05, "listening to both");
        const Frames ours = outstanding(*heard, progress), theirs = outstanding(*meant, progress);
        const auto looks = first_look(moving(ours, kGather), moving(theirs, kGather), progress);
        if (looks.empty()) return std::optional<SourcePlace>();
        const Look best = *std::max_element(looks.begin(), looks.end(), [](const Look& a, const Look& b) { return a.likeness < b.likeness; });
        SourcePlace place;
        place.stands_out = stands_out(looks, best);
        if (place.stands_out < kSourceFound) return std::optional<SourcePlace>();
        progress.report(0.9, "looking closer");
        const Close close = closer(moving(ours, 1), moving(theirs, 1), best, progress);
        place.from_s = close.at * kFrame_s;
        place.speed = close.speed;
        place.semitones = close.shift / kPerSemitone;
        constexpr double kTape = 0.2;  // semitones
        const double of_speed = 12.0 * std::log2(place.speed);
        place.as_tape = std::abs(of_speed) > 2.0 * kTape && std::abs(of_speed - place.semitones) < kTape;
        if (place.as_tape) place.semitones = of_speed;
        else if (std::abs(place.semitones - std::round(place.semitones)) < 0.1) place.semitones = std::round(place.semitones);
        place.from_s = std::max(0.0, place.from_s);
        progress.report(0.95, "looking at its strokes");
        place = by_strokes(stretch, source, place);
        place.from_s = std::max(0.0, place.from_s);
        if (place.as_tape) place.semitones = 12.0 * std::log2(place.speed);
        constexpr double kAsItWas = 0.002;
        if (std::abs(place.speed - 1.0) < kAsItWas) place.speed = 1.0;
        return std::optional(place);
    });
}

std::vector<RecipeEntry> recipe_of(const SourcePlace& place, double seconds) {
    std::vector<RecipeEntry> recipe{{Treatment::Trim, 1000.0 * place.from_s, 1000.0 * (place.from_s + seconds * place.speed), 1.0, {}, {}}};
    if (place.as_tape) {
        recipe.push_back({Treatment::Speed, place.speed, 0.0, 1.0, {}, {}});
        return recipe;
    }
    if (place.speed != 1.0) recipe.push_back({Treatment::Stretch, 1.0 / place.speed, 0.0, 1.0, {}, {}});
    if (place.semitones != 0.0) recipe.push_back({Treatment::Pitch, place.semitones, 0.0, 1.0, {}, {}});
    return recipe;
}

Line place_source(const Remake& remake, const std::string& file, double file_s, Ticks at, double seconds, const SourcePlace& place) {
    char length[32];
    std::snprintf(length, sizeof length, "%.4f", file_s);
    Line line("clip.from-file");
    line.with("file", file)
        .with("to", place_text(remake.song->meter, at))
        .with("seconds", length)
        .with("name", "Source " + std::filesystem::path(file).stem().string())
        .with("recipe", recipe_text(recipe_of(place, seconds)));
    return line;
}

std::string words_of(const SourcePlace& place) {
    char text[160];
    std::snprintf(text, sizeof text, "from %.2f s of it on", place.from_s);
    std::string all = text;
    const double faster = 100.0 * (place.speed - 1.0);
    if (faster != 0.0) std::snprintf(text, sizeof text, ", %.1f %% %s", std::abs(faster), faster > 0.0 ? "faster" : "slower"), all += text;
    const double up = place.semitones;
    if (up != 0.0)
        std::snprintf(text, sizeof text, ", %.*f semitone%s %s", std::abs(up - std::round(up)) < 0.005 ? 0 : 2, std::abs(up), std::abs(up) == 1.0 ? "" : "s",
                      up > 0.0 ? "higher" : "lower"),
            all += text;
    if (place.as_tape) all += ", as a tape";
    if (faster == 0.0 && up == 0.0) all += ", as fast and as high";
    return all;
}

}  // namespace fw

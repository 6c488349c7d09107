// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/part_sound.hpp"

#include "engine/offline.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace fw {

namespace {

constexpr std::size_t kOctave = 12, kOctaves = 9;
constexpr double kStretch_s = 4.0;
constexpr int kStretches = 8;

double power(double db) { return std::pow(10.0, db / 10.0); }
double decibels(double p) { return 10.0 * std::log10(std::max(p, 1e-12)); }

/// Gains that are not negative and explain most of a sum: coordinate descent on the normal equations (Franc, Hlaváč & Navara, 2005).
Eigen::VectorXd gains_of(const Eigen::MatrixXd& gram, const Eigen::VectorXd& wanted) {
    Eigen::VectorXd g = Eigen::VectorXd::Constant(wanted.size(), 1.0);
    for (int round = 0; round < 300; ++round)
        for (Eigen::Index i = 0; i < g.size(); ++i) {
            if (gram(i, i) <= 0.0) continue;
            g[i] = std::max(0.0, g[i] + (wanted[i] - gram.row(i).dot(g)) / gram(i, i));
        }
    return g;
}

/// The cells of one octave: what the parts have there and what the original has, left, right and both.
struct Octave {
    Eigen::MatrixXd gram;
    Eigen::VectorXd both, left;
    std::vector<double> energy, clear, own_left;  ///< of each part: all, where it is the loudest, on the left
};

}  // namespace

Stems render_stems(const Remake& remake, const Plan& plan, const Progress& progress) {
    Stems out;
    const double end = std::min(remake.song->tempo.seconds(remake.end_tick()), remake.reference.duration_s);
    const int stretches = std::clamp(static_cast<int>(end / kStretch_s / 2.0), 1, kStretches);
    for (int k = 0; k < stretches; ++k) {
        const double middle = end * (k + 0.5) / stretches, half = std::min(0.5 * kStretch_s, 0.5 * end / stretches);
        // On whole frames of a summary, so that cells lie on cells.
        const double from = SoundSummary::kFrame_s * std::round(std::max(0.0, middle - half) / SoundSummary::kFrame_s);
        out.stretches.emplace_back(from, from + 2.0 * half);
    }
    for (const auto& part : remake.parts) {
        if (part->mute || placed_notes(*part).empty() || plan.part(part->id) < 0) continue;
        out.parts.push_back(part->id);
        auto& sounds = out.sounds.emplace_back();
        for (const auto& [from, to] : out.stretches) {
            const RenderRange range{RenderWhat::of(part->id), static_cast<std::int64_t>(from * plan.sample_rate_hz),
                                    static_cast<std::int64_t>(to * plan.sample_rate_hz)};
            sounds.push_back(summarise(plan, range, progress));
        }
    }
    return out;
}

namespace {

/// How much louder the rebuild is, in the stretches its parts were rendered in, than these together, dB.
double louder_than_stems(const SoundSummary& rebuild, const Stems& stems) {
    double all = 0.0, together = 0.0;
    for (std::size_t k = 0; k < stems.stretches.size(); ++k) {
        all += power(level_db(rebuild, stems.stretches[k].first, stems.stretches[k].second));
        for (const auto& sounds : stems.sounds) together += power(level_db(sounds[k], 0.0, stems.stretches[k].second - stems.stretches[k].first));
    }
    return all > 0.0 && together > 0.0 ? decibels(all / together) : 0.0;
}

}  // namespace

std::vector<PartSound> part_sounds(const SoundSummary& original, const SoundSummary& rebuild, const Stems& stems, double match_gain_db) {
    const auto parts = static_cast<Eigen::Index>(stems.parts.size());
    if (parts == 0) return {};
    constexpr double kDominates = 0.5, kEnough = 0.12, kFaint = 0.02, kMost_db = 24.0;
    const double match = power(match_gain_db + louder_than_stems(rebuild, stems));
    std::array<Octave, kOctaves> octaves;
    for (std::size_t b = 0; b < kOctaves; ++b) {
        Octave& o = octaves[b];
        o.gram = Eigen::MatrixXd::Zero(parts, parts);
        o.both = o.left = Eigen::VectorXd::Zero(parts);
        o.energy.assign(static_cast<std::size_t>(parts), 0.0);
        o.clear = o.own_left = o.energy;
        // What is far below the loudest of the octave counts by less: its cells are mostly other things' edges.
        double loudest = 0.0;
        const auto each = [&](const auto& call) {
            for (std::size_t k = 0; k < stems.stretches.size(); ++k) {
                const auto first = static_cast<std::size_t>(std::lround(stems.stretches[k].first / SoundSummary::kFrame_s));
                const std::size_t frames = stems.sounds.front()[k].semitones.frames();
                for (std::size_t f = 1; f + 1 < frames && first + f < original.semitones.frames(); ++f)
                    for (std::size_t s = b * kOctave; s < std::min((b + 1) * kOctave, static_cast<std::size_t>(SoundSummary::kSemitones)); ++s)
                        call(k, f, first + f, s);
            }
        };
        each([&](std::size_t, std::size_t, std::size_t at, std::size_t s) { loudest = std::max(loudest, power(original.db_at(at, s))); });
        if (loudest <= 0.0) continue;
        Eigen::VectorXd mine(parts);
        each([&](std::size_t k, std::size_t f, std::size_t at, std::size_t s) {
            double all = 0.0;
            for (Eigen::Index p = 0; p < parts; ++p) {
                const SoundSummary& sound = stems.sounds[static_cast<std::size_t>(p)][k];
                const double db = f < sound.semitones.frames() ? sound.db_at(f, s) : SoundSummary::kFloor_db;
                mine[p] = db > SoundSummary::kFloor_db ? power(db) * match : 0.0;
                all += mine[p];
            }
            if (all <= 0.0) return;
            const double there = power(original.db_at(at, s)), weight = 1.0 / std::pow(std::max(there, all) + kFaint * loudest, 2.0);
            o.gram.noalias() += weight * mine * mine.transpose();
            o.both += weight * there * mine;
            o.left += weight * there * original.left_share(at, s) * mine;
            for (Eigen::Index p = 0; p < parts; ++p) {
                const auto i = static_cast<std::size_t>(p);
                o.energy[i] += mine[p];
                if (mine[p] > kDominates * all) o.clear[i] += mine[p];
                if (f < stems.sounds[i][k].semitones.frames()) o.own_left[i] += mine[p] * stems.sounds[i][k].left_share(f, s);
            }
        });
    }
    std::vector<PartSound> out;
    std::array<Eigen::VectorXd, kOctaves> both, left;
    for (std::size_t b = 0; b < kOctaves; ++b)
        if (octaves[b].gram.size() > 0) both[b] = gains_of(octaves[b].gram, octaves[b].both), left[b] = gains_of(octaves[b].gram, octaves[b].left);
    for (Eigen::Index p = 0; p < parts; ++p) {
        const auto i = static_cast<std::size_t>(p);
        PartSound sound;
        sound.part = stems.parts[i];
        double energy = 0.0, clear = 0.0, level = 0.0, wanted_left = 0.0, wanted = 0.0, own_left = 0.0;
        for (const Octave& o : octaves) energy += o.energy[i], clear += o.clear[i];
        sound.clear = energy > 0.0 ? clear / energy : 0.0;
        if (sound.clear < kEnough) {
            out.push_back(sound);
            continue;
        }
        // Octaves by what of the part is clear there, at the root: the low ones have most of the energy.
        double weights = 0.0;
        std::array<double, kOctaves> weight{}, off_db{};
        for (std::size_t b = 0; b < kOctaves; ++b) {
            const Octave& o = octaves[b];
            if (o.energy[i] <= 0.01 * energy || o.clear[i] < kEnough * o.energy[i]) continue;
            weight[b] = std::sqrt(o.clear[i]);
            off_db[b] = std::clamp(-decibels(both[b][p]), -kMost_db, kMost_db);
            weights += weight[b];
            level += weight[b] * off_db[b];
            wanted += both[b][p] * o.energy[i];
            wanted_left += left[b][p] * o.energy[i];
            own_left += o.own_left[i];
        }
        if (weights <= 0.0) {
            out.push_back(sound);
            continue;
        }
        sound.level_db = level / weights;
        double counted = 0.0;
        for (std::size_t b = 0; b < kOctaves; ++b)
            if (weight[b] > 0.0) counted += octaves[b].energy[i];
        if (wanted > 0.0 && counted > 0.0) sound.balance = 2.0 * (wanted_left / wanted - own_left / counted);
        for (std::size_t b = 0; b < kOctaves; ++b) {
            const double off = off_db[b] - *sound.level_db;
            const double middle_hz = 440.0 * std::exp2((SoundSummary::kLowestSemitone + static_cast<double>(b * kOctave) + 5.5 - 69.0) / 12.0);
            if (weight[b] > 0.0) sound.octaves.push_back({middle_hz, off, weight[b]});
            if (weight[b] > 0.15 * weights && (!sound.tone || std::abs(off) > std::abs(sound.tone->second))) sound.tone = {middle_hz, off};
        }
        out.push_back(sound);
    }
    return out;
}

void tell_part_sounds(const Remake& remake, const std::vector<PartSound>& sounds, CheckReport& report) {
    constexpr double kLevel_db = 4.5, kBalance = 0.5, kTone_db = 9.0;
    const auto add = [&](PartId id, FindingKind kind, double size, double sure) -> Finding& {
        Finding& f = report.findings.emplace_back();
        f.kind = kind;
        f.element = ElementId(id);
        f.name = remake.element_name(*f.element);
        f.role = remake.part(id)->role;
        f.end_s = remake.reference.duration_s;
        f.bar = 1;
        f.beat = 1;
        f.size = size;
        f.unit = "dB";
        f.confidence = sure;
        f.audible = std::clamp(std::abs(size) / 12.0, 0.3, 1.0);
        return f;
    };
    for (const PartSound& s : sounds) {
        if (s.level_db && std::abs(*s.level_db) > kLevel_db)
            add(s.part, FindingKind::Level, *s.level_db, std::clamp(0.5 + 0.05 * (std::abs(*s.level_db) - kLevel_db), 0.5, 0.8)).remedy =
                remedy::ChangeLevel{-*s.level_db};
        if (s.balance && std::abs(*s.balance) > kBalance) {
            Finding& f = add(s.part, FindingKind::Balance, 100.0 * *s.balance, std::clamp(0.5 + 0.5 * (std::abs(*s.balance) - kBalance), 0.5, 0.85));
            f.unit = "%";
            f.remedy = remedy::ByEar{*s.balance > 0 ? "pan the part to the left" : "pan the part to the right"};
        }
        if (s.tone && std::abs(s.tone->second) > kTone_db) {
            Finding& f = add(s.part, FindingKind::Tone, s.tone->second, std::clamp(0.5 + 0.03 * (std::abs(s.tone->second) - kTone_db), 0.5, 0.75));
            f.center_hz = s.tone->first;
            f.remedy = remedy::ByEar{s.tone->second > 0 ? "take some of that out of the part's sound, or choose another"
                                                        : "add some of that to the part's sound, or choose another"};
        }
    }
    std::erase_if(report.findings, [&](const Finding& f) { return f.element && is_of_sound(f) && sound_is_meant(remake, f); });
    put_in_order(report.findings);
}

FullCheck full_check(const Remake& remake, const Analysis& analysis, const Plan& plan, const SoundSummary& original, const SoundSummary& rebuild,
                     const Progress& progress) {
    FullCheck all{check(remake, analysis, &original, &rebuild), {}, {}};
    const double match_db = all.report.sound.match_gain_db;
    all.parts = part_sounds(original, rebuild, render_stems(remake, plan, progress), match_db);
    tell_part_sounds(remake, all.parts, all.report);
    all.left = left_over(remake, original, rebuild, match_db);
    return all;
}

}  // namespace fw

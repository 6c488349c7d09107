// SPDX-License-Identifier: GPL-3.0-or-later
// How well sounds are found and fitted, on made sounds whose truth is known.
//   fw-finding --find [SOUNDS] [SEED]   a folder of made sounds; of 200 of them a worn copy is looked for: another level, a filter, a room, lossy coding
//   fw-finding --fit [SECONDS] [SEED]   sounds of the synthesiser with hidden fields
//   fw-finding --demo [SECONDS]         the demo's clearest moments, freed of what sounds beside them, against the instruments it was made with; fitted
#include "analysis/analyst.hpp"
#include "analysis/clearest.hpp"
#include "analysis/draft.hpp"
#include "base/pitch.hpp"
#include "check/share.hpp"
#include "fit/fit_sound.hpp"
#include "fit/freed.hpp"
#include "fit/lone_sound.hpp"
#include "fit/moments.hpp"
#include "fit/sound_index.hpp"

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <random>
#include <string>
#include <vector>

using namespace fw;

namespace {

constexpr double kRate = 44100.0;

double seconds_since(std::chrono::steady_clock::time_point begun) { return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count(); }

Audio played(const SourceType& type, const std::string& patch, const std::vector<std::pair<std::size_t, double>>& settings, int key, double held_s,
             double length_s) {
    SourceSpec spec;
    spec.patch = patch;
    spec.drums = &type == &kDrumVoice;
    return struck(type, spec, settings, {key, 100, held_s, length_s});
}

/// Some fields of a patch set otherwise, by chance.
std::vector<std::pair<std::size_t, double>> varied(const SourceType& type, const std::string& patch, std::mt19937& dice, double share, double far) {
    std::vector<std::pair<std::size_t, double>> out;
    const auto chance = [&] { return static_cast<double>(dice() >> 8) / 16777216.0; };
    for (std::size_t f = 0; f < type.fields.size(); ++f) {
        const Parameter& row = type.fields[f];
        const std::string id = row.id;
        if (id == "trim" || id == "velocity" || id == "follow" || id == "play" || id.starts_with("lfo") || id.starts_with("glide") || id == "phases" ||
            id == "tracking" || (id[0] == 'p' && id.size() <= 3) || id == "drift" || id == "wear" || id == "vibrato" || chance() > share)
            continue;
        const double at = position_of(row, type.patch_value(patch, f)), to = std::clamp(at + far * (2.0 * chance() - 1.0), 0.0, 1.0);
        out.emplace_back(f, value_at(row, to));
    }
    return out;
}

/// What time and the house do to a sound.
Audio worn(const Audio& sound, std::mt19937& dice, const std::filesystem::path& folder) {
    const auto chance = [&] { return static_cast<double>(dice() >> 8) / 16777216.0; };
    Audio a = sound;
    std::vector<float> left, right;
    for (std::size_t i = 0; i < a.frames(); ++i) left.push_back(a.samples[2 * i]), right.push_back(a.samples[2 * i + 1]);
    const auto through = [&](const StepType& type, const std::vector<std::pair<const char*, double>>& set) {
        const auto p = type.make(kRate);
        for (const auto& [field, value] : set) p->set(*index_of_field(type.fields, field), value);
        for (std::size_t at = 0; at + kSlice <= left.size(); at += kSlice)
            p->process({std::span(left).subspan(at, kSlice), std::span(right).subspan(at, kSlice)}, {});
    };
    const bool low = chance() < 0.5;
    through(kFilter, {{"kind", low ? 0.0 : 1.0}, {"cutoff", low ? 2500.0 * std::exp2(1.5 * chance()) : 60.0 * std::exp2(2.0 * chance())}});
    through(kReverb, {{"mix", 0.08 + 0.14 * chance()}, {"decay_s", 0.4 + chance()}});
    const double gain = std::pow(10.0, (-18.0 * chance()) / 20.0);
    a.samples.clear();
    for (std::size_t i = 0; i < left.size(); ++i)
        a.samples.push_back(static_cast<float>(gain * left[i])), a.samples.push_back(static_cast<float>(gain * right[i]));
    const auto file = folder / "worn.ogg";
    if (!write_audio(file, a)) return a;
    auto back = read_audio(file);
    return back ? *back : a;
}

int find(std::size_t count, unsigned seed) {
    std::mt19937 dice(seed);
    const auto folder = std::filesystem::temp_directory_path() / ("fw-finding-" + std::to_string(seed));
    std::filesystem::remove_all(folder);
    std::filesystem::create_directories(folder / "sounds");
    for (std::size_t i = 0; i < count; ++i) {
        const SourceType& type = i % 5 < 3 ? kSynth : kDrumVoice;
        const auto& patches = type.patches();
        const std::string& patch = patches[dice() % patches.size()];
        const int key = 36 + static_cast<int>(dice() % 48);
        if (!write_audio(folder / "sounds" / (std::to_string(i) + ".wav"),
                         played(type, patch, varied(type, patch, dice, 0.5, 0.25), key, 0.2 + 0.1 * static_cast<double>(dice() % 6), 1.3)))
            return 1;
    }
    const auto index = SoundIndex::open(folder / "index.sqlite");
    if (!index) return 1;
    auto begun = std::chrono::steady_clock::now();
    const auto indexed = (*index)->add_folder(folder / "sounds");
    if (!indexed) return 1;
    std::printf("indexed %zu sounds in %.1f s\n", indexed->sounds, seconds_since(begun));
    begun = std::chrono::steady_clock::now();
    std::printf("again: %zu read, %.2f s\n", (*index)->add_folder(folder / "sounds")->looked_at, seconds_since(begun));
    int first = 0, five = 0, tried = 0, self = 0;
    double spent = 0.0;
    for (; tried < 200; ++tried) {
        const std::size_t truth = dice() % count;
        const auto sound = read_audio(folder / "sounds" / (std::to_string(truth) + ".wav"));
        if (!sound) return 1;
        FindWish wish;
        wish.like = print_of(worn(*sound, dice, folder));
        begun = std::chrono::steady_clock::now();
        const auto found = (*index)->find(wish);
        spent += seconds_since(begun);
        std::size_t rank = 0;
        while (rank < found.size() && found[rank].sound.name() != std::to_string(truth) + ".wav") ++rank;
        first += rank == 0, five += rank < 5;
        wish.like = print_of(*sound);
        const auto own = (*index)->find(wish);
        self += !own.empty() && own.front().sound.name() == std::to_string(truth) + ".wav";
    }
    std::printf("among %zu sounds: the true one first %.3f, among five %.3f; unworn first %.3f; a search takes %.0f ms\n", count, first / 200.0, five / 200.0,
                self / 200.0, 1000.0 * spent / tried);
    std::filesystem::remove_all(folder);
    return 0;
}

int fit(double seconds, unsigned seed) {
    std::mt19937 dice(seed);
    const auto& patches = kSynth.patches();
    double worst = 0.0, sum = 0.0;
    constexpr int kHidden = 10;
    for (int i = 0; i < kHidden; ++i) {
        const std::string patch = patches[dice() % patches.size()];
        FittedSound hidden{patch, varied(kSynth, patch, dice, 0.5, 0.25), {}};
        LoneNote m;
        m.mono.assign(static_cast<std::size_t>(kRate), 0.0F);
        m.key = 40 + static_cast<int>(dice() % 36);
        m.held_s = 0.6;
        m.mono = fw::played(m, hidden);
        const SoundTarget target(m.mono);
        double random = 0.0;
        for (const auto& p : patches) random += target.distance_to(fw::played(m, {p, {}, {}})).total() / static_cast<double>(patches.size());
        const auto begun = std::chrono::steady_clock::now();
        FitWish wish;
        wish.seconds = seconds;
        wish.seed = seed;
        const auto found = fit_sound(m, {}, wish);
        if (found.empty()) continue;
        const double share = found.front().distance.total() / random;
        std::printf("%-16s key %d: random %.1f, found %.2f (tone %.2f, level %.2f, pitch %.2f) = %.1f %% from \"%s\" in %.0f s\n", patch.c_str(), m.key, random,
                    found.front().distance.total(), found.front().distance.tone, found.front().distance.envelope, found.front().distance.pitch, 100.0 * share,
                    found.front().patch.c_str(), seconds_since(begun));
        worst = std::max(worst, share), sum += share / kHidden;
    }
    std::printf("hidden sounds: mean %.1f %%, worst %.1f %% of a random sound's distance\n", 100.0 * sum, 100.0 * worst);
    return 0;
}

/// seconds: of each search; 0: none.
int demo_moments(double seconds) {
    const std::filesystem::path demo = std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.ogg";
    const auto heard = analyse(demo);
    const auto recording = read_audio(demo);
    if (!heard || !recording) return 1;
    const Analysis& analysis = **heard;
    const Remake draft = draft_remake(analysis);
    // The instruments by which the demo was made, from its own SoundFont, by themselves: what a moment should be once it is freed.
    constexpr std::array kMadeBy{std::pair(PartRole::Bass, 32), std::pair(PartRole::Lead, 21), std::pair(PartRole::Chords, 11)};
    for (const auto& [role, program] : kMadeBy) {
        const auto moments = clearest_moments(analysis, role);
        const auto part = std::find_if(draft.parts.begin(), draft.parts.end(), [&, r = role](const auto& p) { return p->role == r; });
        if (moments.empty() || part == draft.parts.end()) continue;
        const ClearMoment& c = moments.front();
        const double end_s = std::max(c.end_s, c.start_s + 0.4), held_s = c.end_s - c.start_s;
        const auto mono = [&](const Audio& piece) { return moment_from(piece, c.pitch, 100, held_s, analysis.tuning.cents); };
        SourceSpec spec;
        spec.program = program;
        spec.tuning_cents = analysis.tuning.cents;
        const auto truth = mono(struck(kSoundFont, spec, {}, {c.pitch, 95, held_s, end_s - c.start_s})).mono;
        const auto off = [&](const std::vector<float>& sound, const std::vector<float>& from) { return third_octave_difference_db(sound, from, kRate); };
        const LoneNote m = mono(freed(*recording, analysis, draft, (*part)->id, c, end_s));
        std::printf(
            "demo, %s at %.2f s: the moment's third octaves are %.2f dB off its instrument's, by the element's share %.2f, as it stands in the mix %.2f\n",
            part_role_name(role), c.start_s, off(m.mono, truth),
            off(mono(cut_out(*recording, c.start_s, end_s, share_of(analysis, draft, ElementId((*part)->id)))).mono, truth),
            off(mono(cut_out(*recording, c.start_s, end_s)).mono, truth));
        if (seconds <= 0.0) continue;
        FitWish wish;
        wish.seconds = seconds;
        const auto found = fit_sound(m, {}, wish);
        if (found.empty()) continue;
        const auto plays = fw::played(m, found.front());
        std::printf("  fitted: distance %.2f, third octaves differ from the moment's by %.2f dB on average, from the instrument's by %.2f\n",
                    found.front().distance.total(), off(plays, m.mono), off(plays, truth));
    }
    return 0;
}

}  // namespace

int main(int argc, char** argv) {
    const std::string what = argc > 1 ? argv[1] : "";
    const unsigned seed = argc > 3 ? static_cast<unsigned>(std::atoi(argv[3])) : 1U;
    if (what == "--find") return find(argc > 2 ? static_cast<std::size_t>(std::atoi(argv[2])) : 2000, seed);
    if (what == "--fit") return fit(argc > 2 ? std::atof(argv[2]) : 45.0, seed);
    if (what == "--demo") return demo_moments(argc > 2 ? std::atof(argv[2]) : 45.0);
    std::fprintf(stderr, "fw-finding --find [SOUNDS] [SEED] | --fit [SECONDS] [SEED] | --demo [SECONDS]\n");
    return 2;
}

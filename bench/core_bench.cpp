// SPDX-License-Identifier: GPL-3.0-or-later
// Speed of the core: analysis, its cancel, offline rendering and the audio callback. Figures go to docs/performance.md.
#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "check/part_sound.hpp"
#include "commands/call.hpp"
#include "engine/offline.hpp"
#include "engine/player.hpp"
#include "formats/midi_file.hpp"
#include "model/validate.hpp"
#include "repeated_demo.hpp"

#include <benchmark/benchmark.h>
#include <algorithm>
#include <chrono>
#include <filesystem>
#include <fstream>
#include <map>
#include <stdexcept>
#include <thread>

namespace {

using namespace fw;
using Clock = std::chrono::steady_clock;

double seconds_since(Clock::time_point t) { return std::chrono::duration<double>(Clock::now() - t).count(); }

std::size_t peak_memory_mb() {
    std::ifstream in("/proc/self/status");
    for (std::string line; std::getline(in, line);)
        if (line.rfind("VmHWM:", 0) == 0) return std::stoul(line.substr(6)) / 1024;
    return 0;
}

const Remake& demo_remake() {
    static const Remake remake = draft_remake(**analyse(kDemo));
    return remake;
}

void AnalyseMinutes(benchmark::State& state) {
    Audio sound = repeated_demo(state.range(0));
    const auto mono = make_mono(sound, "repeated demo");
    sound = Audio{};
    for (auto _ : state) {
        auto a = analyse(*mono, "repeated demo");
        benchmark::DoNotOptimize(a);
    }
    state.counters["times_real_time"] = benchmark::Counter(static_cast<double>(state.range(0)) * 60.0, benchmark::Counter::kIsIterationInvariantRate);
    state.counters["peak_MB"] = static_cast<double>(peak_memory_mb());
}
BENCHMARK(AnalyseMinutes)->Arg(1)->Arg(10)->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);

void AnalyseDemoFile(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(analyse(kDemo));
    state.counters["times_real_time"] = benchmark::Counter(113.5, benchmark::Counter::kIsIterationInvariantRate);
}
BENCHMARK(AnalyseDemoFile)->Unit(benchmark::kSecond)->UseRealTime()->Iterations(2);

/// From the wish to stop until the analysis has returned, at several places in the work.
void CancelAnalysis(benchmark::State& state) {
    double worst = 0.0;
    for (auto _ : state)
        for (const int after_ms : {200, 600, 1200, 2000}) {
            Progress progress;
            Clock::time_point asked;
            std::thread stopper([&] {
                std::this_thread::sleep_for(std::chrono::milliseconds(after_ms));
                asked = Clock::now();
                progress.cancel();
            });
            const auto result = analyse(kDemo, progress);
            const auto done = Clock::now();
            stopper.join();
            if (!result) worst = std::max(worst, std::chrono::duration<double>(done - asked).count());
        }
    state.counters["worst_ms"] = worst * 1000;
}
BENCHMARK(CancelAnalysis)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(2);

void run(Remake& r, const std::string& line) {
    auto done = run_command(r, **parse_line(line));
    if (!done) throw std::runtime_error(line + ": " + done.error().message());
    r = std::move(done->remake);
}

/// The demo's parts again and again, with ids of their own, until there are so many.
Remake with_parts(std::size_t count) {
    Remake r = demo_remake();
    for (std::size_t i = 0; r.parts.size() < count; ++i) {
        Part copy = *r.parts[i % 5];
        copy.id = PartId(r.next_id++);
        copy.name += " " + std::to_string(r.parts.size());
        for (Layer& l : copy.layers) l.id = LayerId(r.next_id++);
        r.parts.emplace_back(std::move(copy));
    }
    return r;
}

std::string named(const Remake& r, const Part& part) { return "part=\"" + part_text(r, part.id) + "\" "; }

/// Sixteen parts, each with two layers, four steps and two sends, and one field that moves.
Remake sixteen_parts() {
    Remake r = with_parts(16);
    for (const char* line :
         {"bus.add name=Room", "step.add bus=Room kind=reverb mix=100%", "bus.add name=Plate", "step.add bus=Plate kind=reverb mix=100% decay_s=0.8"})
        run(r, line);
    for (const auto& p : std::vector<Shared<Part>>(r.parts)) {
        const std::string part = named(r, *p);
        run(r, "part.add-layer " + part + (p->role == PartRole::Drums ? "patch=\"Tight machine\"" : "patch=\"Warm pad\" level=-12dB"));
        for (const char* kind : {"equaliser low=2dB", "drive", "compressor", "filter cutoff=9k"}) run(r, "step.add " + part + "kind=" + kind);
        run(r, "send.add " + part + "bus=Room");
        run(r, "send.add " + part + "bus=Plate");
    }
    run(r, "curve.set part=Lead layer=1 field=cutoff section=#2 points=\"1 300Hz smooth, 4 6kHz\"");
    return r;
}

/// A finished mix: twenty-four parts of six steps, four buses with theirs, twenty fields that move all along.
Remake finished_mix() {
    Remake r = with_parts(24);
    for (const char* line : {"bus.add name=Drums", "step.add bus=Drums kind=compressor", "step.add bus=Drums kind=limiter", "bus.add name=Leads",
                             "step.add bus=Leads kind=equaliser high=2dB", "bus.add name=Room", "step.add bus=Room kind=reverb mix=100%", "bus.add name=Echo",
                             "step.add bus=Echo kind=delay mix=100%", "step.add bus=Echo kind=filter cutoff=4k"})
        run(r, line);
    std::size_t moving = 0;
    for (const auto& p : std::vector<Shared<Part>>(r.parts)) {
        const std::string part = named(r, *p);
        for (const char* kind : {"equaliser low=2dB mid=-3dB", "drive", "compressor", "filter cutoff=9k", "chorus", "width"})
            run(r, "step.add " + part + "kind=" + kind);
        run(r, "part.output " + part + (p->role == PartRole::Drums ? "bus=Drums" : "bus=Leads"));
        run(r, "send.add " + part + "bus=Room");
        run(r, "send.add " + part + "bus=Echo");
        if (moving++ < 20)
            for (std::size_t s = 1; s <= r.song->sections.size(); ++s)
                run(r, "curve.set " + part + "step=4 field=cutoff section=#" + std::to_string(s) + " points=\"1 300Hz smooth, 3 9kHz\"");
    }
    return r;
}

void Render(benchmark::State& state, const Remake& r) {
    const auto plan = compile_plan(r, {44100.0, {}});
    for (auto _ : state) benchmark::DoNotOptimize(render_offline(*plan));
    state.counters["times_real_time"] = benchmark::Counter(static_cast<double>(plan->end_frame) / 44100.0, benchmark::Counter::kIsIterationInvariantRate);
}
void RenderOffline(benchmark::State& state) { Render(state, demo_remake()); }
BENCHMARK(RenderOffline)->Unit(benchmark::kSecond)->UseRealTime()->Iterations(3);
void RenderSixteenPartsOffline(benchmark::State& state) { Render(state, sixteen_parts()); }
BENCHMARK(RenderSixteenPartsOffline)->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);
void RenderFinishedMixOffline(benchmark::State& state) { Render(state, finished_mix()); }
BENCHMARK(RenderFinishedMixOffline)->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);

/// The audio callback at 48 kHz.
void Callback(benchmark::State& state, const Remake& r, std::size_t frames) {
    Player player(48000.0);
    player.set_plan(compile_plan(r, {48000.0, {}}));
    player.set_original(std::make_shared<const Audio>(at_rate(*read_audio(kDemo), 48000.0)));
    player.set_source(Source::Rebuild);
    player.play();
    std::vector<float> left(frames), right(frames);
    std::vector<double> took;
    for (auto _ : state) {
        const auto begun = Clock::now();
        player.process(left, right);
        took.push_back(seconds_since(begun));
    }
    std::sort(took.begin(), took.end());
    state.counters["p99.9_us"] = took[took.size() * 999 / 1000] * 1e6;
    state.counters["buffer_us"] = static_cast<double>(frames) / 48000.0 * 1e6;
}
void AudioCallback(benchmark::State& state) { Callback(state, sixteen_parts(), 128); }
BENCHMARK(AudioCallback)->Unit(benchmark::kMicrosecond)->Iterations(20000);
void AudioCallbackOfFinishedMix(benchmark::State& state) { Callback(state, finished_mix(), 256); }
BENCHMARK(AudioCallbackOfFinishedMix)->Unit(benchmark::kMicrosecond)->Iterations(15000);

/// Ten minutes at 120 BPM with 20 000 notes in one part, every sixteenth four of them.
Remake many_notes() {
    Remake r;
    r.reference.duration_s = 660.0;
    Part part;
    part.id = PartId(1);
    part.name = "Many";
    Pattern pattern;
    pattern.id = PatternId(1);
    pattern.length = 20000 / 4 * 240;
    for (int i = 0; i < 20000; ++i) pattern.notes.push_back({i / 4 * 240, 200 + i % 300, 40 + i * 7 % 40, 1 + i % 127, 1.0, Origin::Imported, {}});
    sort_notes(pattern.notes);
    part.patterns = {pattern};
    part.placements = {{PatternId(1), 0}};
    r.parts = {part};
    r.number_all();
    return r;
}

void Write20000NotesAsMidi(benchmark::State& state) {
    const Remake r = many_notes();
    const auto path = std::filesystem::temp_directory_path() / "fw-bench.mid";
    for (auto _ : state) (void)write_midi(path, r);
    std::filesystem::remove(path);
}
BENCHMARK(Write20000NotesAsMidi)->Unit(benchmark::kMillisecond)->UseRealTime();

void Read20000NotesOfMidiIntoARemake(benchmark::State& state) {
    const Remake r = many_notes();
    const auto path = std::filesystem::temp_directory_path() / "fw-bench.mid";
    (void)write_midi(path, r);
    for (auto _ : state) benchmark::DoNotOptimize(with_given_parts(r, read_midi(path)->parts, 0.0, "bench.mid"));
    std::filesystem::remove(path);
}
BENCHMARK(Read20000NotesOfMidiIntoARemake)->Unit(benchmark::kMillisecond)->UseRealTime();

/// What follows every edit before it is heard: is it a remake still, and what is to be played when.
void Validate20000Notes(benchmark::State& state) {
    const Remake r = many_notes();
    for (auto _ : state) benchmark::DoNotOptimize(what_is_wrong(r));
}
BENCHMARK(Validate20000Notes)->Unit(benchmark::kMillisecond);

/// A song of so many minutes that was listened to, the draft of it, and what its sound is like.
struct Song {
    std::shared_ptr<const Analysis> analysis;
    Remake remake;
    SoundSummary summary;
};
const Song& song_of(std::int64_t minutes) {
    static std::map<std::int64_t, Song> songs;
    Song& s = songs[minutes];
    if (!s.analysis) {
        const Audio sound = repeated_demo(minutes);
        s.analysis = *analyse(*make_mono(sound, "repeated demo"), "repeated demo");
        s.remake = draft_remake(*s.analysis);
        s.summary = summarise(sound);
    }
    return s;
}

/// What follows an edit in the background before the figures and findings are there.
void CheckAfterAnEdit(benchmark::State& state) {
    const Song& s = song_of(state.range(0));
    std::size_t findings = 0;
    for (auto _ : state) findings = check(s.remake, *s.analysis).findings.size();
    state.counters["findings"] = static_cast<double>(findings);
}

/// The rebuild rendered, measured and compared, as the window does when the hand rests.
void CheckAll(benchmark::State& state) {
    const Song& s = song_of(state.range(0));
    for (auto _ : state) {
        const auto plan = compile_plan(s.remake, {44100.0, {}});
        SoundMeter meter(44100, 2);
        render_offline(*plan, {}, [&](std::span<const float> block) {
            meter.add(block);
            return true;
        });
        const SoundSummary rebuild = meter.summary();
        benchmark::DoNotOptimize(full_check(s.remake, *s.analysis, *plan, s.summary, rebuild));
    }
}

/// A sound measured as it comes.
void MeasureSound(benchmark::State& state) {
    const Audio sound = repeated_demo(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(summarise(sound));
}

/// What the window's thread does for an edit of one note: the command with its checks.
void CommandOnOneOf20000Notes(benchmark::State& state) {
    const Remake r = many_notes();
    const Line line = Line("note.change").with("part", "Many").with("notes", note_text(r, placed_notes(*r.parts[0])[9999])).with("semitones", "1");
    std::vector<double> took;
    for (auto _ : state) {
        const auto begun = Clock::now();
        benchmark::DoNotOptimize(run_command(r, line));
        took.push_back(seconds_since(begun));
    }
    std::sort(took.begin(), took.end());
    state.counters["p99_ms"] = took[took.size() * 99 / 100] * 1e3;
}
BENCHMARK(CommandOnOneOf20000Notes)->Unit(benchmark::kMillisecond)->Iterations(300);

void Plan20000Notes(benchmark::State& state) {
    const Remake r = many_notes();
    for (auto _ : state) benchmark::DoNotOptimize(compile_plan(r, {44100.0, {}}));
}
BENCHMARK(Plan20000Notes)->Unit(benchmark::kMillisecond);

/// The demo once its evidence is kept: decoding the file and deciding, without listening.
void AnalyseDemoFileHeardBefore(benchmark::State& state) {
    const auto folder = std::filesystem::temp_directory_path() / "fw-bench-evidence";
    const EvidenceStore store(folder);
    (void)analyse(kDemo, {}, store);
    for (auto _ : state) benchmark::DoNotOptimize(analyse(kDemo, {}, store));
    std::filesystem::remove_all(folder);
}
BENCHMARK(AnalyseDemoFileHeardBefore)->Unit(benchmark::kSecond)->UseRealTime();

}  // namespace

BENCHMARK(CheckAfterAnEdit)->Arg(4)->Arg(10)->Unit(benchmark::kMillisecond);
BENCHMARK(CheckAll)->Arg(4)->Unit(benchmark::kSecond)->Iterations(1);
BENCHMARK(MeasureSound)->Arg(10)->Unit(benchmark::kSecond)->Iterations(1);
BENCHMARK_MAIN();

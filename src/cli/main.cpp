// SPDX-License-Identifier: GPL-3.0-or-later
// Fakturwerk without a window: results to files or standard output, messages and progress to standard error.
// Exit 0 done, 1 the work failed, 2 wrong usage or unusable input.
#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "base/guard.hpp"
#include "check/check.hpp"
#include "check/part_sound.hpp"
#include "commands/command.hpp"
#include "engine/offline.hpp"
#include "fit/find_source.hpp"
#include "formats/analysis_json.hpp"
#include "formats/beat_text.hpp"
#include "formats/chart_html.hpp"
#include "formats/check_html.hpp"
#include "formats/check_json.hpp"
#include "formats/hand_off.hpp"
#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"
#include "model/edits/clips.hpp"
#include "model/edits/condense.hpp"
#include "model/edits/parts.hpp"
#include "model/places.hpp"
#include "sound/plug_ins/plug_ins.hpp"

#include <unistd.h>
#include <CLI/CLI.hpp>
#include <atomic>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <functional>
#include <iostream>
#include <optional>

namespace {

using namespace fw;

constexpr double kRate_hz = 44100.0;

Progress* running = nullptr;

/// The work stops at its next checkpoint and takes its temporary files along.
void on_signal(int) {
    if (running) running->cancel();
}

/// Failures that are the work's, not the input's.
bool is_work_failure(ErrorCode code) {
    switch (code) {
        case ErrorCode::DiskFull:
        case ErrorCode::FolderUnwritable:
        case ErrorCode::Cancelled:
        case ErrorCode::DeviceUnusable:
        case ErrorCode::OutOfMemory:
        case ErrorCode::PlugInFailed:
        case ErrorCode::Unexpected: return true;
        default: return false;
    }
}

int fail(const Error& error) {
    std::cerr << error.message() << "\n";
    return is_work_failure(error.code) ? 1 : 2;
}

/// Writes to a file, or to standard output where none was named.
Status deliver(const std::string& path, const std::string& text) {
    if (!path.empty()) return write_atomically(std::filesystem::path(path), text);
    std::cout << text << std::flush;
    return std::cout ? Status(Done{}) : Status(Error{ErrorCode::DiskFull, "standard output", {}});
}

/// What a command works from and what it would write over.
Status spare(std::initializer_list<std::string> targets, std::initializer_list<std::string> inputs) {
    const std::vector<std::filesystem::path> paths(inputs.begin(), inputs.end());
    for (const std::string& target : targets)
        if (auto spared = spares_inputs(target, paths); !spared) return spared;
    return Done{};
}

std::string plug_in_list() {
    std::string all;
    const auto row = [&](const auto& type, const char* what) {
        all += std::string(type.id) + "\n    " + type.label + ", " + what + ". " + type.help + ".\n";
        for (const Parameter& f : type.fields) all += std::string("    ") + f.id + ": " + f.label + ", " + range_text(f) + "\n";
        if (type.plug_in->takes_file) all += "    takes a file\n";
        std::string names;
        for (const PlugInPreset& p : presets_of(*type.plug_in)) names += (names.empty() ? "" : ", ") + p.name;
        if (!names.empty()) all += "    presets: " + names + "\n";
    };
    know_all_presets();
    for (const StepType* t : plug_in_steps()) row(*t, "a step");
    for (const SourceType* t : plug_in_sources()) row(*t, "a source");
    return all.empty() ? "There are no LV2 plug-ins on this machine that can be used here.\n" : all;
}

class Cli {
public:
    Cli() : progress_([this](double fraction, std::string_view stage) { show(fraction, stage); }) {
        running = &progress_;
        for (const int signal : {SIGINT, SIGTERM, SIGHUP}) std::signal(signal, on_signal);
    }
    ~Cli() { running = nullptr; }
    Cli(const Cli&) = delete;
    Cli& operator=(const Cli&) = delete;

    Status analyse_command(const std::string& ref, const std::string& out) {
        if (auto spared = spare({out}, {ref}); !spared) return spared;
        auto analysis = analyse(std::filesystem::path(ref), progress_, store_);
        if (!analysis) return analysis.error();
        warn((*analysis)->remarks, ref);
        return deliver(out, analysis_to_json(**analysis));
    }

    /// offset_s: where in the recording the MIDI file begins; without it where the file says so itself, else at the start.
    Status new_command(const std::string& ref, const std::string& midi, std::optional<double> offset_s, const std::string& out) {
        if (auto spared = spare({out}, {ref, midi}); !spared) return spared;
        std::optional<MidiSong> song;
        if (!midi.empty()) {
            auto read = read_midi(midi);
            if (!read) return read.error();
            song = std::move(*read);
        }
        auto analysis = analyse(std::filesystem::path(ref), progress_, store_);
        if (!analysis) return analysis.error();
        warn((*analysis)->remarks, ref);
        if (!song) return save_remake(out, draft_remake(**analysis));
        auto remake = draft_remake(**analysis, song->parts, offset_s.value_or(song->start_s.value_or(0.0)), midi);
        if (!remake) return remake.error();
        return save_remake(out, *remake);
    }

    /// What of a remake is rendered, as it was asked for.
    struct RenderWish {
        std::string out, stems, part, bus, range;
        bool dry = false, without_original = false, condensed = false;
    };

    Status render_command(const std::string& file, const RenderWish& wish) {
        auto remake = load_remake(file);
        return remake ? render(*remake, file, wish) : remake.error();
    }

    Status do_command(const std::string& file, const std::string& script, const std::string& out) {
        auto remake = load_remake(file);
        if (!remake) return remake.error();
        const auto text = read_file(script, kMostScript);
        if (!text) return text.error();
        const auto done = run_script(*remake, {reinterpret_cast<const char*>(text->data()), text->size()}, script);
        if (!done) return done.error();
        const std::string target = out.empty() ? file : out;
        if (auto spared = spare({target}, {script, remake->reference.path}); !spared) return spared;
        return save_remake(target, *done);
    }

    Status source_command(const std::string& file, const std::string& sound, const std::string& range, const std::string& out) {
        auto remake = load_remake(file);
        if (!remake) return remake.error();
        const auto bars = bars_of(range, *remake->song);
        if (!bars) return bars.error();
        const auto reference = find_reference(*remake, file);
        if (!reference) return reference.error();
        if (auto spared = spare({out}, {file, sound, reference->string()}); !spared) return spared;
        const auto original = read_audio(*reference, progress_);
        if (!original) return original.error();
        const auto source = read_audio(sound, progress_);
        if (!source) return source.error();
        const double from_s = std::max(0.0, remake->song->tempo.seconds(bars->first)), to_s = remake->song->tempo.seconds(bars->second);
        const auto place = find_source(*original, from_s, to_s, *source, progress_);
        if (!place) return place.error();
        if (!*place)
            return Error{ErrorCode::CommandRefused, "The search",
                         "nothing of bars " + range + " stands out in " + sound + ": they were not taken from there, or too little of it is heard"};
        const std::string told = sound + " is heard there, " + words_of(**place) + ".\n";
        if (out.empty()) return deliver({}, told);
        const auto done = run_command(*remake, place_source(*remake, std::filesystem::absolute(sound).string(), source->duration_s(),
                                                            remake->song->tempo.nearest_tick(from_s), to_s - from_s, **place));
        if (!done) return done.error();
        if (const auto saved = save_remake(out, done->remake); !saved) return saved;
        return deliver({}, told);
    }

    Status check_command(const std::string& file, const std::string& out, const std::string& html) {
        auto remake = load_remake(file);
        if (!remake) return remake.error();
        auto reference = find_reference(*remake, file);
        if (!reference) return reference.error();
        if (auto spared = spare({out, html}, {file, reference->string()}); !spared) return spared;
        const auto plan = compile_for_rendering(*remake, {kRate_hz, assets_from_files(*reference)});
        if (!plan) return plan.error();
        // The sound is measured as it is read: a long recording need not lie in memory.
        std::optional<SoundMeter> original;
        auto mono = read_mono(
            *reference, progress_, [&](const SoundFormat& f) { original.emplace(f.sample_rate_hz, f.channels); },
            [&](std::span<const float> block) { original->add(block); });
        if (!mono) return mono.error();
        if (mono->content_hash != remake->reference.content_hash) return Error{ErrorCode::ReferenceChanged, reference->string(), {}};
        auto analysis = analyse(*mono, reference->string(), progress_, {}, store_);
        if (!analysis) return analysis.error();
        warn(mono->remarks, reference->string());
        const SoundSummary a = original->summary(), b = summarise(**plan, {}, progress_);
        const FullCheck all = full_check(*remake, **analysis, **plan, a, b, progress_);
        if (!html.empty())
            if (auto written = write_atomically(html, check_to_html(*remake, all.report, &all.left)); !written || out.empty()) return written;
        return deliver(out, check_to_json(all.report));
    }

    Status export_command(const std::string& file, const std::string& midi, const std::string& json, const std::string& wav, const std::string& copy,
                          const std::string& beats, const std::string& chart, const std::string& part, bool without) {
        auto remake = load_remake(file);
        if (!remake) return remake.error();
        const Part* only = part.empty() ? nullptr : find_part(*remake, part);
        if (!part.empty() && !only) return Error{ErrorCode::WrongUsage, "--part " + part + " names no part of " + file, {}};
        const Remake some = only ? only_part(*remake, only->id) : *remake;
        const auto reference = find_reference(*remake, file);
        if (auto spared = spare({midi, json, wav, copy, beats, chart}, {file, reference ? reference->string() : std::string()}); !spared) return spared;
        if (!copy.empty())
            if (auto s = save_remake(copy, without ? without_original(*remake) : *remake); !s) return s;
        if (!midi.empty())
            if (auto s = write_midi(midi, some); !s) return s;
        if (!beats.empty())
            if (auto s = write_beat_text(beats, *remake->song, remake->reference.duration_s); !s) return s;
        if (!chart.empty())
            if (auto s = write_atomically(chart, chart_to_html(some)); !s) return s;
        if (!wav.empty()) {
            RenderWish mix;
            mix.out = wav;
            mix.without_original = without;
            if (auto s = render(*remake, file, mix); !s) return s;
        }
        if (!json.empty()) {
            if (!reference) return reference.error();
            auto analysis = analyse(*reference, progress_, store_);
            if (!analysis) return analysis.error();
            return write_atomically(std::filesystem::path(json), analysis_to_json(**analysis));
        }
        return Done{};
    }

    Status beats_command(const std::string& file, const std::string& beats, const std::string& out) {
        auto remake = load_remake(file);
        if (!remake) return remake.error();
        if (auto spared = spare({out.empty() ? file : out}, {beats, remake->reference.path}); !spared) return spared;
        const auto map = read_beat_map(beats);
        if (!map) return map.error();
        auto done = run_command(*remake, beat_map_line(*map));
        if (!done) return done.error();
        return save_remake(out.empty() ? file : out, done->remake);
    }

private:
    static constexpr std::uint64_t kMostScript = 4ULL << 20;

    /// "5-12": from the beginning of bar 5 to the end of bar 12.
    static Result<std::pair<Ticks, Ticks>> bars_of(const std::string& range, const Song& song) {
        int first = 0, last = 0;
        if (std::sscanf(range.c_str(), "%d-%d", &first, &last) != 2 || first < 1 || last < first || last > 100'000)
            return Error{ErrorCode::CommandRefused, "--range " + range, "it is no range of bars: say 5-12"};
        return std::pair(song.meter.tick_of_bar(first), song.meter.tick_of_bar(last + 1));
    }

    Status render(const Remake& given, const std::string& file, const RenderWish& wish) {
        const Remake whole = wish.without_original ? without_original(given) : given;
        const Remake remake = wish.condensed ? condensed(whole) : whole;
        if (auto spared = spare({wish.out}, {file, remake.reference.path}); !spared) return spared;
        const auto refuse = [](const std::string& what, const std::string& why) { return Error{ErrorCode::CommandRefused, what, why}; };
        RenderRange range;
        if (!wish.part.empty()) {
            const Part* part = find_part(remake, wish.part);
            if (!part) return refuse("--part " + wish.part, "there is no such part in " + file);
            range.what = RenderWhat::of(part->id);
        } else if (!wish.bus.empty()) {
            const Bus* bus = find_bus(remake, wish.bus);
            if (!bus) return refuse("--bus " + wish.bus, "there is no such bus in " + file);
            range.what = RenderWhat::of(bus->id);
        }
        range.what.steps = !wish.dry;
        if (!wish.range.empty()) {
            const auto bars = bars_of(wish.range, *remake.song);
            if (!bars) return bars.error();
            const auto frame = [&](Ticks tick) { return static_cast<std::int64_t>(std::llround(remake.song->tempo.seconds(tick) * kRate_hz)); };
            range.from = std::max<std::int64_t>(0, frame(bars->first));
            range.to = frame(bars->second);
            if (range.to <= range.from) return refuse("--range " + wish.range, "these bars lie before the recording");
        }
        AssetLoader assets;
        if (!remake.clips->clips.empty()) {
            const auto reference = find_reference(remake, file);
            assets = assets_from_files(reference ? *reference : std::filesystem::path(remake.reference.path));
        }
        const auto plan = compile_for_rendering(remake, {kRate_hz, assets});
        if (!plan) return plan.error();
        if (!wish.out.empty())
            if (auto mix = render_to_file(**plan, range, wish.out, progress_); !mix) return mix;
        if (!wish.stems.empty()) {
            const std::vector<std::filesystem::path> inputs{file, remake.reference.path};
            if (const auto written = write_stems(**plan, wish.stems, inputs, progress_); !written) return written.error();
        }
        return Done{};
    }

    /// What is special about a recording is said: that it broke off, for one.
    static void warn(const std::vector<ErrorCode>& remarks, const std::string& path) {
        for (const ErrorCode remark : remarks) std::cerr << Error{remark, path, {}}.message() << "\n";
    }

    void show(double fraction, std::string_view stage) {
        static const bool terminal = ::isatty(2) != 0;
        const int percent = static_cast<int>(fraction * 100.0);
        if (!terminal || shown_.exchange(percent) == percent) return;
        std::fprintf(stderr, "\r%3d %% %-44.*s%s", percent, static_cast<int>(stage.size()), stage.data(), percent >= 100 ? "\n" : "");
    }

    Progress progress_;
    const EvidenceStore store_ = EvidenceStore::of_user();
    std::atomic<int> shown_{-1};
};

}  // namespace

int main(int argc, char** argv) {
    std::signal(SIGPIPE, SIG_IGN);  // a reader that went away is a failed write, told in a sentence
    CLI::App app{"Fakturwerk without a window: hear a recording, draft a remake of it, render, check and export it."};
    app.require_subcommand(1);
    app.set_version_flag("--version", FW_VERSION);
    std::string ref, out, midi, json, wav, copy, beats, chart, file, script, html, sound;
    Cli::RenderWish wish;
    bool without = false;
    std::string only_part_name;
    double offset_s = 0.0;
    Cli cli;
    std::function<Status()> work;

    auto* analyse = app.add_subcommand("analyse", "Hear a recording and write what was heard as JSON");
    analyse->add_option("REF", ref, "the recording")->required();
    analyse->add_option("-o", out, "file to write; standard output without it");
    analyse->callback([&] { work = [&] { return cli.analyse_command(ref, out); }; });

    auto* create = app.add_subcommand("new", "Make a draft remake of a recording");
    create->add_option("REF", ref, "the recording")->required();
    create->add_option("--midi", midi, "take the parts from this MIDI file instead of hearing them");
    auto* offset = create
                       ->add_option("--offset", offset_s,
                                    "seconds from the start of the recording to the start of the MIDI file; without it where the file says so, else 0")
                       ->needs("--midi");
    create->add_option("-o", out, "remake to write (song.fakturwerk)")->required();
    create->callback([&] {
        if (!std::isfinite(offset_s)) throw CLI::ValidationError("--offset", "give a number of seconds");
        work = [&] { return cli.new_command(ref, midi, offset->count() ? std::optional(offset_s) : std::nullopt, out); };
    });

    auto* render = app.add_subcommand("render", "Render a rebuild to sound");
    render->add_option("REMAKE", file)->required();
    render->add_option("-o", wish.out, "file to write (.wav, .flac or .ogg)");
    render->add_option("--stems", wish.stems, "folder for one WAV file a part and a bus");
    auto* part = render->add_option("--part", wish.part, "only this part, at its own level");
    render->add_option("--bus", wish.bus, "only what comes out of this bus")->excludes(part);
    render->add_option("--range", wish.range, "only these bars, as 5-12");
    render->add_flag("--dry", wish.dry, "without any effect");
    render->add_flag("--condensed", wish.condensed, "without the sections that are left out of the condensed version");
    render->add_flag("--without-original", wish.without_original, "without sounds from the original");
    render->callback([&] {
        if (wish.out.empty() && wish.stems.empty()) throw CLI::ValidationError("render", "name a file with -o or a folder with --stems");
        work = [&] { return cli.render_command(file, wish); };
    });

    auto* doing = app.add_subcommand("do", "Change a remake by a script of commands, one a line");
    doing->add_option("REMAKE", file)->required();
    doing->add_option("SCRIPT", script, "text file of commands")->required();
    doing->add_option("-o", out, "remake to write; the same one without it");
    doing->callback([&] { work = [&] { return cli.do_command(file, script, out); }; });

    auto* listing = app.add_subcommand("commands", "List the commands a script can hold");
    listing->callback([&] { work = [] { return deliver({}, command_list()); }; });

    auto* plug_ins = app.add_subcommand("plug-ins", "List the plug-ins of this machine as a script names them, with their fields");
    plug_ins->callback([&] {
        work = []() -> Status {
            const std::string all = plug_in_list();
            if (!plug_ins_looked_through()) return Error{ErrorCode::Unexpected, "looking through the plug-ins", plug_in_host() + " did not come to its end"};
            return deliver({}, all);
        };
    });

    auto* check = app.add_subcommand("check", "Compare a rebuild with its original");
    check->add_option("REMAKE", file)->required();
    check->add_option("-o", out, "file to write; standard output without it, and nothing where only --html is given");
    check->add_option("--html", html, "report for people to write, one page with its pictures inside");
    check->callback([&] { work = [&] { return cli.check_command(file, out, html); }; });

    auto* finding = app.add_subcommand("source", "Find what a stretch of the original was taken from: place, speed and pitch");
    finding->add_option("REMAKE", file)->required();
    finding->add_option("SOUND", sound, "the recording it may have been taken from")->required();
    finding->add_option("--range", wish.range, "the stretch in bars, as 5-8")->required();
    finding->add_option("-o", out, "remake to write, with the source as a clip there");
    finding->callback([&] { work = [&] { return cli.source_command(file, sound, wish.range, out); }; });

    auto* counting = app.add_subcommand("beats", "Count a remake by beats from label text or a MIDI file; no note moves in time");
    counting->add_option("REMAKE", file)->required();
    counting->add_option("BEATS", beats, "text with a time in seconds in each line and 'bar.beat' or the beat of the bar behind it, or a MIDI file")
        ->required();
    counting->add_option("-o", out, "remake to write; the same without it");
    counting->callback([&] { work = [&] { return cli.beats_command(file, beats, out); }; });

    auto* exporting = app.add_subcommand("export", "Write a remake in other formats");
    exporting->add_option("REMAKE", file)->required();
    exporting->add_option("--midi", midi, "MIDI file to write");
    exporting->add_option("--json", json, "analysis JSON to write");
    exporting->add_option("--wav", wav, "mix to write");
    exporting->add_option("--remake", copy, "remake to write, a copy");
    exporting->add_option("--beats", beats, "beats to write as label text: seconds, seconds, bar.beat");
    exporting->add_option("--chart", chart, "chart to write, a page that prints: tempo, key, chords, elements and their effects");
    exporting->add_option("--part", only_part_name, "of MIDI only this part");
    exporting->add_flag("--without-original", without, "leave sounds from the original out of mix and copy");
    exporting->callback([&] {
        if (midi.empty() && json.empty() && wav.empty() && copy.empty() && beats.empty() && chart.empty())
            throw CLI::ValidationError("export", "name a file with --midi, --chart, --json, --wav, --beats or --remake");
        work = [&] { return cli.export_command(file, midi, json, wav, copy, beats, chart, only_part_name, without); };
    });

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e, std::cout, std::cerr) == 0 ? 0 : 2;
    }
    const Status done = guarded("the work", work);
    return done ? 0 : fail(done.error());
}

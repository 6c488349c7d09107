// SPDX-License-Identifier: GPL-3.0-or-later
// Fakturwerk without a window: results to files or standard output, messages and progress to standard error.
// Exit 0 done, 1 the work failed, 2 wrong usage or unusable input.
#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "base/guard.hpp"
#include "check/check.hpp"
#include "engine/plan.hpp"
#include "formats/analysis_json.hpp"
#include "formats/check_json.hpp"
#include "formats/hand_off.hpp"
#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"

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

    Status render_command(const std::string& file, const std::string& out, const std::string& stems) {
        auto remake = load_remake(file);
        if (!remake) return remake.error();
        if (auto spared = spare({out}, {file, remake->reference.path}); !spared) return spared;
        const auto plan = compile_for_rendering(*remake, kRate_hz);
        if (!plan) return plan.error();
        if (!out.empty())
            if (auto mix = render_to_file(**plan, out, progress_); !mix) return mix;
        if (!stems.empty()) {
            const std::vector<std::filesystem::path> inputs{file, remake->reference.path};
            if (const auto written = write_stems(**plan, *remake, stems, inputs, progress_); !written) return written.error();
        }
        return Done{};
    }

    Status check_command(const std::string& file, const std::string& out) {
        auto remake = load_remake(file);
        if (!remake) return remake.error();
        auto reference = find_reference(*remake, file);
        if (!reference) return reference.error();
        if (auto spared = spare({out}, {file, reference->string()}); !spared) return spared;
        const auto plan = compile_for_rendering(*remake, kRate_hz);
        if (!plan) return plan.error();
        // The sound is measured as it is read: a long recording need not lie in memory.
        std::optional<SoundMeter> original;
        auto mono = read_mono(
            *reference, progress_, [&](const SoundFormat& f) { original.emplace(f.sample_rate_hz, f.channels, f.stated_frames); },
            [&](std::span<const float> block) { original->add(block); });
        if (!mono) return mono.error();
        if (mono->content_hash != remake->reference.content_hash) return Error{ErrorCode::ReferenceChanged, reference->string(), {}};
        auto analysis = analyse(*mono, reference->string(), progress_, {}, store_);
        if (!analysis) return analysis.error();
        warn(mono->remarks, reference->string());
        SoundMeter rebuild(static_cast<int>(kRate_hz), 2, (*plan)->end_frame);
        render_offline(
            **plan,
            [&](std::span<const float> block) {
                rebuild.add(block);
                return true;
            },
            progress_);
        const SoundSummary a = original->summary(), b = rebuild.summary();
        return deliver(out, check_to_json(check(*remake, **analysis, &a, &b)));
    }

    Status export_command(const std::string& file, const std::string& midi, const std::string& json, const std::string& wav) {
        auto remake = load_remake(file);
        if (!remake) return remake.error();
        const auto reference = find_reference(*remake, file);
        if (auto spared = spare({midi, json, wav}, {file, reference ? reference->string() : std::string()}); !spared) return spared;
        if (!midi.empty())
            if (auto s = write_midi(midi, *remake); !s) return s;
        if (!wav.empty())
            if (auto s = render_command(file, wav, {}); !s) return s;
        if (!json.empty()) {
            if (!reference) return reference.error();
            auto analysis = analyse(*reference, progress_, store_);
            if (!analysis) return analysis.error();
            return write_atomically(std::filesystem::path(json), analysis_to_json(**analysis));
        }
        return Done{};
    }

private:
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
    std::string ref, out, midi, json, wav, stems, file;
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
    render->add_option("-o", out, "mix to write (.wav, .flac or .ogg)");
    render->add_option("--stems", stems, "folder for one WAV file a part");
    render->callback([&] {
        if (out.empty() && stems.empty()) throw CLI::ValidationError("render", "name a mix with -o or a folder with --stems");
        work = [&] { return cli.render_command(file, out, stems); };
    });

    auto* check = app.add_subcommand("check", "Compare a rebuild with its original");
    check->add_option("REMAKE", file)->required();
    check->add_option("-o", out, "file to write; standard output without it");
    check->callback([&] { work = [&] { return cli.check_command(file, out); }; });

    auto* exporting = app.add_subcommand("export", "Write a remake in other formats");
    exporting->add_option("REMAKE", file)->required();
    exporting->add_option("--midi", midi, "MIDI file to write");
    exporting->add_option("--json", json, "analysis JSON to write");
    exporting->add_option("--wav", wav, "mix to write");
    exporting->callback([&] {
        if (midi.empty() && json.empty() && wav.empty()) throw CLI::ValidationError("export", "name a file with --midi, --json or --wav");
        work = [&] { return cli.export_command(file, midi, json, wav); };
    });

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e, std::cout, std::cerr) == 0 ? 0 : 2;
    }
    const Status done = guarded("the work", work);
    return done ? 0 : fail(done.error());
}

// SPDX-License-Identifier: GPL-3.0-or-later
// Fakturwerk without a window: results to files or standard output, messages and progress to standard error.
// Exit 0 done, 1 the work failed, 2 wrong usage or unusable input.
#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "base/atomic_file.hpp"
#include "check/check.hpp"
#include "engine/plan.hpp"
#include "formats/analysis_json.hpp"
#include "formats/check_json.hpp"
#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"

#include <unistd.h>
#include <CLI/CLI.hpp>
#include <atomic>
#include <csignal>
#include <cstdio>
#include <iostream>

namespace {

using namespace fw;

Progress* running = nullptr;

void on_interrupt(int) {
    if (running) running->cancel();
}

/// Failures that are the work's, not the input's.
bool is_work_failure(ErrorCode code) {
    return code == ErrorCode::DiskFull || code == ErrorCode::FolderUnwritable || code == ErrorCode::Cancelled || code == ErrorCode::DeviceUnusable;
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

class Cli {
public:
    Cli() : progress_([this](double fraction, std::string_view stage) { show(fraction, stage); }) {
        running = &progress_;
        std::signal(SIGINT, on_interrupt);
    }

    int analyse_command(const std::string& ref, const std::string& out) {
        auto analysis = analyse(std::filesystem::path(ref), progress_);
        if (!analysis) return fail(analysis.error());
        warn(**analysis);
        return finish(deliver(out, analysis_to_json(**analysis)));
    }

    int new_command(const std::string& ref, const std::string& midi, double offset_s, const std::string& out) {
        std::vector<GivenPart> given;
        if (!midi.empty()) {
            auto parts = read_midi(midi, offset_s);
            if (!parts) return fail(parts.error());
            given = std::move(*parts);
        }
        auto analysis = analyse(std::filesystem::path(ref), progress_);
        if (!analysis) return fail(analysis.error());
        warn(**analysis);
        return finish(save_remake(out, draft_remake(**analysis, given)));
    }

    int render_command(const std::string& file, const std::string& out, const std::string& stems) {
        auto remake = load_remake(file);
        if (!remake) return fail(remake.error());
        Error trouble;
        const auto plan = compile_plan(*remake, 44100.0, nullptr, &trouble);
        if (!trouble.subject.empty()) std::cerr << trouble.message() << "\n";
        if (!out.empty()) {
            auto mix = render_offline(*plan, progress_);
            if (!mix) return fail(mix.error());
            if (auto s = write_audio(out, *mix); !s) return fail(s.error());
        }
        if (!stems.empty()) {
            std::error_code ec;
            std::filesystem::create_directories(stems, ec);
            int number = 1;
            for (const auto& part : remake->parts) {
                auto stem = render_offline(*plan, progress_, part->id);
                if (!stem) return fail(stem.error());
                char prefix[16];
                std::snprintf(prefix, sizeof prefix, "%02d ", number++);
                std::string name = part->name;
                std::replace(name.begin(), name.end(), '/', '-');
                if (auto s = write_audio(std::filesystem::path(stems) / (prefix + name + ".wav"), *stem); !s) return fail(s.error());
            }
        }
        return finish(Done{});
    }

    int check_command(const std::string& file, const std::string& out) {
        auto remake = load_remake(file);
        if (!remake) return fail(remake.error());
        auto reference = find_reference(*remake, file);
        if (!reference) return fail(reference.error());
        auto recording = read_recording(*reference, progress_);
        if (!recording) return fail(recording.error());
        if (recording->mono.content_hash != remake->reference.content_hash) return fail({ErrorCode::ReferenceChanged, reference->string(), {}});
        auto analysis = analyse(recording->mono, reference->string(), progress_);
        if (!analysis) return fail(analysis.error());
        auto rebuild = render_offline(*compile_plan(*remake, 44100.0), progress_);
        if (!rebuild) return fail(rebuild.error());
        return finish(deliver(out, check_to_json(check(*remake, **analysis, &recording->sound, &*rebuild))));
    }

    int export_command(const std::string& file, const std::string& midi, const std::string& json, const std::string& wav) {
        auto remake = load_remake(file);
        if (!remake) return fail(remake.error());
        if (!midi.empty())
            if (auto s = write_midi(midi, *remake); !s) return fail(s.error());
        if (!wav.empty())
            if (const int code = render_command(file, wav, {})) return code;
        if (!json.empty()) {
            auto reference = find_reference(*remake, file);
            if (!reference) return fail(reference.error());
            auto analysis = analyse(*reference, progress_);
            if (!analysis) return fail(analysis.error());
            if (auto s = write_atomically(std::filesystem::path(json), analysis_to_json(**analysis)); !s) return fail(s.error());
        }
        return finish(Done{});
    }

private:
    /// What is special about a recording is said: that it broke off, for one.
    static void warn(const Analysis& analysis) {
        for (const ErrorCode remark : analysis.remarks) std::cerr << Error{remark, analysis.path, {}}.message() << "\n";
    }

    static int finish(const Status& status) { return status ? 0 : fail(status.error()); }

    void show(double fraction, std::string_view stage) {
        static const bool terminal = ::isatty(2) != 0;
        const int percent = static_cast<int>(fraction * 100.0);
        if (!terminal || shown_.exchange(percent) == percent) return;
        std::fprintf(stderr, "\r%3d %% %-44.*s%s", percent, static_cast<int>(stage.size()), stage.data(), percent >= 100 ? "\n" : "");
    }

    Progress progress_;
    std::atomic<int> shown_{-1};
};

}  // namespace

int main(int argc, char** argv) {
    CLI::App app{"Fakturwerk without a window: hear a recording, draft a remake of it, render, check and export it."};
    app.require_subcommand(1);
    app.set_version_flag("--version", FW_VERSION);
    std::string ref, out, midi, json, wav, stems, file;
    double offset_s = 0.0;
    Cli cli;
    int result = 0;

    auto* analyse = app.add_subcommand("analyse", "Hear a recording and write what was heard as JSON");
    analyse->add_option("REF", ref, "the recording")->required();
    analyse->add_option("-o", out, "file to write; standard output without it");
    analyse->callback([&] { result = cli.analyse_command(ref, out); });

    auto* create = app.add_subcommand("new", "Make a draft remake of a recording");
    create->add_option("REF", ref, "the recording")->required();
    create->add_option("--midi", midi, "take the parts from this MIDI file instead of hearing them");
    create->add_option("--offset", offset_s, "seconds from the start of the recording to the start of the MIDI file")->needs("--midi");
    create->add_option("-o", out, "remake to write (song.fakturwerk)")->required();
    create->callback([&] { result = cli.new_command(ref, midi, offset_s, out); });

    auto* render = app.add_subcommand("render", "Render a rebuild to sound");
    render->add_option("REMAKE", file)->required();
    render->add_option("-o", out, "mix to write (.wav, .flac or .ogg)");
    render->add_option("--stems", stems, "folder for one WAV file a part");
    render->callback([&] {
        if (out.empty() && stems.empty()) throw CLI::ValidationError("render", "name a mix with -o or a folder with --stems");
        result = cli.render_command(file, out, stems);
    });

    auto* check = app.add_subcommand("check", "Compare a rebuild with its original");
    check->add_option("REMAKE", file)->required();
    check->add_option("-o", out, "file to write; standard output without it");
    check->callback([&] { result = cli.check_command(file, out); });

    auto* exporting = app.add_subcommand("export", "Write a remake in other formats");
    exporting->add_option("REMAKE", file)->required();
    exporting->add_option("--midi", midi, "MIDI file to write");
    exporting->add_option("--json", json, "analysis JSON to write");
    exporting->add_option("--wav", wav, "mix to write");
    exporting->callback([&] {
        if (midi.empty() && json.empty() && wav.empty()) throw CLI::ValidationError("export", "name a file with --midi, --json or --wav");
        result = cli.export_command(file, midi, json, wav);
    });

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e, std::cout, std::cerr) == 0 ? 0 : 2;
    }
    return result;
}

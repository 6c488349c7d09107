// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/hand_off.hpp"

#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "base/guard.hpp"
#include "check/check.hpp"
#include "formats/analysis_json.hpp"
#include "formats/check_json.hpp"
#include "formats/midi_file.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace fw {

namespace {

constexpr double kRate_hz = 44100.0;

/// A stretch of the whole work.
Progress stretch(const Progress& whole, double from, double to) {
    return Progress([&whole, from, to](double f, std::string_view what) { whole.report(from + (to - from) * f, what); }, &whole);
}

Status make_folder(const std::filesystem::path& folder) {
    std::error_code ec;
    std::filesystem::create_directories(folder, ec);
    if (ec || !std::filesystem::is_directory(folder, ec)) return Error{ErrorCode::FolderUnwritable, folder.string(), ec.message()};
    return Done{};
}

}  // namespace

std::string stem_file_name(std::size_t number, const Part& part) {
    std::string name;
    for (const char c : to_utf8(part.name))
        name += static_cast<unsigned char>(c) < 32 || c == 127 || std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos ? '-' : c;
    name = name.substr(0, 120);
    while (!is_utf8(name)) name.pop_back();  // the cut may have gone through a letter
    char prefix[32];
    std::snprintf(prefix, sizeof prefix, "%02zu ", number);
    return prefix + name + ".wav";
}

Result<int> write_stems(const Plan& plan, const Remake& remake, const std::filesystem::path& folder, std::span<const std::filesystem::path> inputs,
                        const Progress& progress) {
    if (auto made = make_folder(folder); !made) return made.error();
    const auto count = static_cast<double>(remake.parts.size());
    for (std::size_t i = 0; i < remake.parts.size(); ++i) {
        const auto path = folder / stem_file_name(i + 1, *remake.parts[i]);
        if (auto spared = spares_inputs(path, inputs); !spared) return spared.error();
        const Progress part = stretch(progress, static_cast<double>(i) / count, static_cast<double>(i + 1) / count);
        if (auto written = render_to_file(plan, path, part, remake.parts[i]->id); !written) return written.error();
    }
    return static_cast<int>(remake.parts.size());
}

Result<int> hand_off(const HandOff& job, const Progress& progress) {
    return guarded("the hand-off", [&]() -> Result<int> {
        const auto wants = [&](Delivery d) { return std::find(job.wanted.begin(), job.wanted.end(), d) != job.wanted.end(); };
        if (auto made = make_folder(job.folder); !made) return made.error();
        for (const DeliveryKind& d : kDeliveries)
            if (wants(d.delivery))
                if (auto spared = spares_inputs(job.folder / d.file, job.inputs); !spared) return spared.error();
        const auto plan = compile_for_rendering(*job.remake, kRate_hz);
        if (!plan) return plan.error();
        int files = 0;
        const double share = wants(Delivery::Stems) ? 1.0 / (1.0 + static_cast<double>(job.remake->parts.size())) : 1.0;
        SoundSummary rebuild;
        if (wants(Delivery::Mix) || wants(Delivery::Report)) {
            const Progress mixing = stretch(progress, 0.0, share);
            SoundMeter meter(static_cast<int>(kRate_hz), 2, (*plan)->end_frame);
            const auto render = [&](const SoundSink& sink) {
                return render_offline(
                    **plan,
                    [&](std::span<const float> block) {
                        meter.add(block);
                        return !sink || sink(block);
                    },
                    mixing);
            };
            if (wants(Delivery::Mix)) {
                if (auto s = write_audio(job.folder / "mix.wav", static_cast<int>(kRate_hz), 2, (*plan)->end_frame, render); !s) return s.error();
                ++files;
            } else {
                render({});
            }
            rebuild = meter.summary();
        }
        if (wants(Delivery::Stems)) {
            const auto stems = write_stems(**plan, *job.remake, job.folder / "stems", job.inputs, stretch(progress, share, 1.0));
            if (!stems) return stems.error();
            files += *stems;
        }
        const auto write = [&](const char* name, const std::string& text) -> Status {
            ++files;
            return write_atomically(job.folder / name, text);
        };
        if (wants(Delivery::Midi)) {
            if (auto s = write_midi(job.folder / "parts.mid", *job.remake); !s) return s.error();
            ++files;
        }
        if (wants(Delivery::Analysis) && job.analysis)
            if (auto s = write("analysis.json", analysis_to_json(*job.analysis)); !s) return s.error();
        if (wants(Delivery::Report) && job.analysis)
            if (auto s = write("check.json", check_to_json(check(*job.remake, *job.analysis, &job.original, &rebuild))); !s) return s.error();
        progress.report(1.0, "done");
        return files;
    });
}

}  // namespace fw

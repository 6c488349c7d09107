// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/hand_off.hpp"

#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "base/guard.hpp"
#include "check/check.hpp"
#include "check/part_sound.hpp"
#include "formats/analysis_json.hpp"
#include "formats/chart_html.hpp"
#include "formats/check_html.hpp"
#include "formats/check_json.hpp"
#include "formats/midi_file.hpp"
#include "model/edits/clips.hpp"
#include "model/edits/condense.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace fw {

namespace {

constexpr double kRate_hz = 44100.0;

Status make_folder(const std::filesystem::path& folder) {
    std::error_code ec;
    std::filesystem::create_directories(folder, ec);
    if (ec || !std::filesystem::is_directory(folder, ec)) return Error{ErrorCode::FolderUnwritable, folder.string(), ec.message()};
    return Done{};
}

}  // namespace

std::string stem_file_name(std::size_t number, const std::string& of) {
    std::string name;
    for (const char c : to_utf8(of))
        name += static_cast<unsigned char>(c) < 32 || c == 127 || std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos ? '-' : c;
    name = name.substr(0, 120);
    while (!is_utf8(name)) name.pop_back();  // the cut may have gone through a letter
    char prefix[32];
    std::snprintf(prefix, sizeof prefix, "%02zu ", number);
    return prefix + name + ".wav";
}

std::vector<std::pair<std::string, RenderWhat>> stems_of(const Plan& plan) {
    std::vector<std::pair<std::string, RenderWhat>> stems;
    for (const PlanPart& p : plan.parts) stems.emplace_back(p.name, RenderWhat::of(p.id));
    for (const PlanBus& b : plan.buses) stems.emplace_back(b.name, RenderWhat::of(b.id));
    if (!plan.clips.empty()) stems.emplace_back("Clips", RenderWhat::clips());
    return stems;
}

Result<int> write_stems(const Plan& plan, const std::filesystem::path& folder, std::span<const std::filesystem::path> inputs, const Progress& progress) {
    if (auto made = make_folder(folder); !made) return made.error();
    const auto stems = stems_of(plan);
    const auto count = static_cast<double>(stems.size());
    for (std::size_t i = 0; i < stems.size(); ++i) {
        const auto path = folder / stem_file_name(i + 1, stems[i].first);
        if (auto spared = spares_inputs(path, inputs); !spared) return spared.error();
        const Progress one = progress.stretch(static_cast<double>(i) / count, static_cast<double>(i + 1) / count);
        if (auto written = render_to_file(plan, {stems[i].second}, path, one); !written) return written.error();
    }
    return static_cast<int>(stems.size());
}

Result<int> hand_off(const HandOff& job, const Progress& progress) {
    return guarded("the hand-off", [&]() -> Result<int> {
        const auto wants = [&](Delivery d) { return std::find(job.wanted.begin(), job.wanted.end(), d) != job.wanted.end(); };
        if (auto made = make_folder(job.folder); !made) return made.error();
        for (const DeliveryKind& d : kDeliveries)
            if (wants(d.delivery))
                if (auto spared = spares_inputs(job.folder / d.file, job.inputs); !spared) return spared.error();
        if (wants(Delivery::Report))
            if (auto spared = spares_inputs(job.folder / kReportJson, job.inputs); !spared) return spared.error();
        const Remake remake = job.without_original ? without_original(*job.remake) : *job.remake;
        const auto plan = compile_for_rendering(remake, {kRate_hz, job.assets});
        if (!plan) return plan.error();
        int files = 0;
        const double share = wants(Delivery::Stems) ? 1.0 / (1.0 + static_cast<double>(stems_of(**plan).size())) : 1.0;
        SoundSummary rebuild;
        if (wants(Delivery::Mix) || wants(Delivery::Report)) {
            const Progress mixing = progress.stretch(0.0, share);
            SoundMeter meter(static_cast<int>(kRate_hz), 2);
            const auto render = [&](const SoundSink& sink) {
                return render_offline(
                    **plan, {},
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
        if (wants(Delivery::Condensed) && is_condensed(*remake.song)) {
            const auto shorter = compile_for_rendering(condensed(remake), {kRate_hz, job.assets});
            if (!shorter) return shorter.error();
            if (auto s = render_to_file(**shorter, {}, job.folder / "mix condensed.wav", progress); !s) return s.error();
            ++files;
        }
        if (wants(Delivery::Stems)) {
            const auto stems = write_stems(**plan, job.folder / "stems", job.inputs, progress.stretch(share, 1.0));
            if (!stems) return stems.error();
            files += *stems;
        }
        const auto write = [&](const char* name, const std::string& text) -> Status {
            ++files;
            return write_atomically(job.folder / name, text);
        };
        if (wants(Delivery::Midi)) {
            if (auto s = write_midi(job.folder / "parts.mid", remake); !s) return s.error();
            ++files;
        }
        if (wants(Delivery::Chart))
            if (auto s = write("chart.html", chart_to_html(remake)); !s) return s.error();
        if (wants(Delivery::Analysis) && job.analysis)
            if (auto s = write("analysis.json", analysis_to_json(*job.analysis)); !s) return s.error();
        if (wants(Delivery::Report) && job.analysis) {
            const FullCheck all = full_check(remake, *job.analysis, **plan, job.original, rebuild, progress);
            if (auto s = write(kReportJson, check_to_json(all.report)); !s) return s.error();
            if (auto s = write(kDeliveries.back().file, check_to_html(remake, all.report, &all.left)); !s) return s.error();
        }
        progress.report(1.0, "done");
        return files;
    });
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "base/progress.hpp"
#include "base/result.hpp"
#include "check/sound_summary.hpp"
#include "engine/offline.hpp"
#include "model/remake.hpp"

#include <array>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace fw {

/// What can be handed over, in the order it is written and shown.
enum class Delivery { Mix, Condensed, Stems, Midi, Chart, Analysis, Report };
struct DeliveryKind {
    Delivery delivery;
    const char* name;  ///< for people
    const char* file;  ///< in the chosen folder; a folder of its own ends in a slash
    const char* what;
};
inline constexpr std::array<DeliveryKind, 7> kDeliveries{{
    {Delivery::Mix, "Mix", "mix.wav", "the rebuild as it sounds, 24-bit stereo, through the limiter"},
    {Delivery::Condensed, "Condensed mix", "mix condensed.wav", "the same without the sections that are left out of it"},
    {Delivery::Stems, "Stems", "stems/", "one WAV a part and a bus at its own level, before the limiter; one for the clips"},
    {Delivery::Midi, "MIDI", "parts.mid", "tempo map, meters, keys, section markers, a named track a part"},
    {Delivery::Chart, "Chart", "chart.html", "tempo, key, chords by section, elements with their sounds and effects: a page that prints"},
    {Delivery::Analysis, "Analysis", "analysis.json", "what was heard in the original"},
    {Delivery::Report, "Check report", "check.html", "figures, findings, what is left and next: a page that prints; and check.json beside it"},
}};
inline constexpr const char* kReportJson = "check.json";

/// "03 Bass.wav": a stem's file, number from 1. What a file name cannot hold is replaced, and it is short enough for any disk.
std::string stem_file_name(std::size_t number, const std::string& name);

/// What stems there are of a plan, in the order of their numbers: the parts, the buses, and the clips where there are any.
std::vector<std::pair<std::string, RenderWhat>> stems_of(const Plan& plan);

/// Writes one WAV a stem into a folder, which is made where it is missing. inputs: files that must not be written over. Returns how many were written.
Result<int> write_stems(const Plan& plan, const std::filesystem::path& folder, std::span<const std::filesystem::path> inputs, const Progress& progress);

/// Everything chosen, into one folder.
struct HandOff {
    std::shared_ptr<const Remake> remake;
    std::shared_ptr<const Analysis> analysis;
    SoundSummary original;
    AssetLoader assets;
    bool without_original = false;  ///< sounds from the original are left out of everything that is written
    std::vector<Delivery> wanted;
    std::filesystem::path folder;
    std::vector<std::filesystem::path> inputs;  ///< the recording and the remake's own file: never written over
};

/// Writes what is wanted and returns how many files that were. Stops at the first that fails or when told to; finished files stay, none is half-written.
/// Thread-safe.
Result<int> hand_off(const HandOff& job, const Progress& progress);

}  // namespace fw

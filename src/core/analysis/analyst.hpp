// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "base/result.hpp"

#include <filesystem>
#include <memory>

namespace fw {

/// Runs all analyses over one recording, sharing what they have in common.
///
/// Takes a few seconds for a song; runs on all cores; reports progress (from several threads) and stops within 0.2 s of a
/// cancel. The result depends on the samples alone: the same on every run and machine of one instruction set.
Result<std::shared_ptr<const Analysis>> analyse(const std::filesystem::path& path, const Progress& progress = {});
/// The same for sound already in memory; name stands for its file.
Result<std::shared_ptr<const Analysis>> analyse(const MonoSignal& signal, const std::string& name, const Progress& progress = {});

}  // namespace fw

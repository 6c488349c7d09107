// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "analysis/evidence_store.hpp"
#include "base/result.hpp"

#include <filesystem>
#include <functional>
#include <memory>

namespace fw {

/// Runs all analyses over one recording, sharing what they have in common.
///
/// Takes a few seconds for a song; runs on all cores; reports progress (from several threads) and stops within 0.2 s of a
/// cancel. The result depends on the samples alone: the same on every run and machine of one instruction set, whether the evidence was found in the
/// store or heard now and kept there. Without a store it is heard.
Result<std::shared_ptr<const Analysis>> analyse(const std::filesystem::path& path, const Progress& progress = {}, const EvidenceStore& store = {});
/// Receives what is known early.
using FirstLook = std::function<void(std::shared_ptr<const Analysis>)>;

/// The same for sound already in memory; name stands for its file. first_look is called, in the calling thread, with tuning, tempo,
/// beats and drums as soon as they are heard; bars may still change, and all that needs pitch is empty. Where the evidence is found in the store there
/// is no first look: the whole is as quick.
Result<std::shared_ptr<const Analysis>> analyse(const MonoSignal& signal, const std::string& name, const Progress& progress = {},
                                                const FirstLook& first_look = {}, const EvidenceStore& store = {});

}  // namespace fw

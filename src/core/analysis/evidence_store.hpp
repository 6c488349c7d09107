// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "audio/peaks.hpp"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>

namespace fw {

/// All that can be shown of a recording before its sound is read.
struct KnownRecording {
    std::shared_ptr<const Analysis> analysis;
    Peaks peaks;
};

/// Keeps evidence on disk, so that a recording is listened to once: a file a recording, named by the content hash; one of another version of the
/// listening, or one that is damaged, is as good as none. Beside it, what was decided from it and the peaks, found without decoding by the recording's
/// path, size and time; of another build of the program they are as good as none. It is a cache: whatever goes wrong with it only costs the work anew.
///
/// Thread-safe; several programs may share one folder. Memory: what the evidence takes.
class EvidenceStore {
public:
    /// Raised whenever the same recording and weights would give other evidence.
    static constexpr std::uint32_t kVersion = 1;
    static constexpr std::uintmax_t kMostBytes = std::uintmax_t{1} << 30;  ///< when more is kept, what was not asked for longest goes

    /// Keeps nothing and finds nothing.
    EvidenceStore() = default;
    explicit EvidenceStore(std::filesystem::path folder, std::uintmax_t most_bytes = kMostBytes) : folder_(std::move(folder)), most_bytes_(most_bytes) {}
    /// The user's own: fakturwerk/evidence in $XDG_CACHE_HOME, else in ~/.cache; one that keeps nothing where neither is known.
    static EvidenceStore of_user();

    std::shared_ptr<const Evidence> find(std::uint64_t content_hash) const;
    void keep(std::uint64_t content_hash, const Evidence& evidence) const;

    /// What remember() was given for the file that still is as it was from outside. Whether its sound is the same, too, shows once it is decoded.
    std::optional<KnownRecording> recall(const std::filesystem::path& recording) const;
    /// peaks: as they are painted. The analysis' evidence is to be kept, too.
    void remember(const std::filesystem::path& recording, const Analysis& analysis, const Peaks& peaks) const;
    /// What was remembered of the file turned out not to be of its sound.
    void forget(const std::filesystem::path& recording) const;

private:
    std::filesystem::path file_of(std::uint64_t hash, const char* ending) const;
    void keep_file(std::uint64_t hash, const char* ending, std::uint64_t made_by, const std::string& payload) const;
    void clear_old() const;

    std::optional<std::filesystem::path> folder_;
    std::uintmax_t most_bytes_ = kMostBytes;
};

}  // namespace fw

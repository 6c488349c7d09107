// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/evidence.hpp"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>

namespace fw {

/// Keeps evidence on disk, so that a recording is listened to once. A file a recording, named by the content hash; a file of another version of the
/// listening, or one that is damaged, is as good as none. It is a cache: whatever goes wrong with it only costs the listening anew.
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

private:
    std::filesystem::path file_of(std::uint64_t content_hash) const;
    void clear_old() const;

    std::optional<std::filesystem::path> folder_;
    std::uintmax_t most_bytes_ = kMostBytes;
};

}  // namespace fw

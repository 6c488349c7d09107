// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/evidence_store.hpp"

#include "analysis/weights.hpp"
#include "base/atomic_file.hpp"
#include "base/files.hpp"

#include <xxhash.h>
#include <algorithm>
#include <cinttypes>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <string>
#include <vector>

namespace fw {

namespace {

namespace fs = std::filesystem;

constexpr std::uint64_t kMagic = 0x31'45'43'4E'45'44'56'45;  // "EVDENCE1"

/// Of the listening: its version and the weights it listens with.
std::uint64_t listening_hash() {
    static const std::uint64_t hash = [] {
        XXH3_state_t* state = XXH3_createState();
        XXH3_64bits_reset_withSeed(state, EvidenceStore::kVersion);
        for (const auto weights : {pulse_weights(), pitch_weights()}) XXH3_64bits_update(state, weights.data(), weights.size());
        const std::uint64_t value = XXH3_64bits_digest(state);
        XXH3_freeState(state);
        return value;
    }();
    return hash;
}

struct Head {
    std::uint64_t magic, listening, content, payload_hash, payload_bytes;
};

/// Walks through all of the evidence in one order, for writing and for reading.
template <class Walker, class Evidences>
bool walk(Walker& w, Evidences& e) {
    return w.value(e.tuning.cents) && w.value(e.tuning.confidence) && w.value(e.tuning.drift_cents) && w.value(e.duration_s) && w.frames(e.pulse) &&
           w.frames(e.bands) && w.grid(e.spectra) && w.grid(e.sounding) && w.grid(e.onset) && w.grid(e.bass_sounding) && w.grid(e.bass_onset) &&
           w.grid(e.lead_sounding) && w.grid(e.lead_onset) && w.grid(e.level);
}

struct Writer {
    std::string bytes;
    bool raw(const void* from, std::size_t count) {
        bytes.append(static_cast<const char*>(from), count);
        return true;
    }
    bool value(const double& v) { return raw(&v, sizeof v); }
    bool shape(std::uint64_t rows, std::uint64_t columns) { return raw(&rows, sizeof rows) && raw(&columns, sizeof columns); }
    bool frames(const Frames& f) {
        return shape(static_cast<std::uint64_t>(f.rows()), static_cast<std::uint64_t>(f.cols())) &&
               raw(f.data(), static_cast<std::size_t>(f.size()) * sizeof(float));
    }
    bool grid(const ByteGrid& g) { return shape(g.frames(), g.columns()) && raw(g.cells().data(), g.cells().size()); }
};

struct Reader {
    std::span<const unsigned char> bytes;
    bool raw(void* into, std::size_t count) {
        if (bytes.size() < count) return false;
        if (count) std::memcpy(into, bytes.data(), count);
        bytes = bytes.subspan(count);
        return true;
    }
    bool value(double& v) { return raw(&v, sizeof v); }
    /// A shape whose cells, of so many bytes each, are there.
    bool shape(std::uint64_t& rows, std::uint64_t& columns, std::size_t cell) {
        return raw(&rows, sizeof rows) && raw(&columns, sizeof columns) && columns <= 4096 && (columns == 0 || rows <= bytes.size() / cell / columns);
    }
    bool frames(Frames& f) {
        std::uint64_t rows = 0, columns = 0;
        if (!shape(rows, columns, sizeof(float))) return false;
        f.resize(static_cast<Eigen::Index>(columns ? rows : 0), static_cast<Eigen::Index>(columns));
        return raw(f.data(), static_cast<std::size_t>(f.size()) * sizeof(float));
    }
    bool grid(ByteGrid& g) {
        std::uint64_t rows = 0, columns = 0;
        if (!shape(rows, columns, 1)) return false;
        g = ByteGrid(columns ? rows : 0, columns);
        return raw(g.cells().data(), g.cells().size());
    }
};

}  // namespace

EvidenceStore EvidenceStore::of_user() {
    if (const char* cache = std::getenv("XDG_CACHE_HOME"); cache && *cache == '/') return EvidenceStore(fs::path(cache) / "fakturwerk" / "evidence");
    if (const char* home = std::getenv("HOME"); home && *home == '/') return EvidenceStore(fs::path(home) / ".cache" / "fakturwerk" / "evidence");
    return {};
}

fs::path EvidenceStore::file_of(std::uint64_t content_hash) const {
    char name[32];
    std::snprintf(name, sizeof name, "%016" PRIx64 ".evidence", content_hash);
    return *folder_ / name;
}

std::shared_ptr<const Evidence> EvidenceStore::find(std::uint64_t content_hash) const {
    if (!folder_) return nullptr;
    const fs::path path = file_of(content_hash);
    const auto bytes = read_file(path, most_bytes_);
    Head head{};
    if (!bytes || bytes->size() < sizeof head) return nullptr;
    std::memcpy(&head, bytes->data(), sizeof head);
    const std::span<const unsigned char> payload = std::span(*bytes).subspan(sizeof head);
    if (head.magic != kMagic || head.listening != listening_hash() || head.content != content_hash || head.payload_bytes != payload.size() ||
        head.payload_hash != XXH3_64bits(payload.data(), payload.size()))
        return nullptr;
    auto evidence = std::make_shared<Evidence>();
    Reader reader{payload};
    if (!walk(reader, *evidence) || !reader.bytes.empty()) return nullptr;
    std::error_code ec;
    fs::last_write_time(path, fs::file_time_type::clock::now(), ec);  // it was asked for: others go first
    return evidence;
}

void EvidenceStore::keep(std::uint64_t content_hash, const Evidence& evidence) const {
    if (!folder_) return;
    std::error_code ec;
    fs::create_directories(*folder_, ec);
    Writer writer;
    walk(writer, evidence);
    const Head head{kMagic, listening_hash(), content_hash, XXH3_64bits(writer.bytes.data(), writer.bytes.size()), writer.bytes.size()};
    const auto kept = write_atomically(file_of(content_hash),
                                       [&](int fd) { return write_all(fd, &head, sizeof head) && write_all(fd, writer.bytes.data(), writer.bytes.size()); });
    if (kept) clear_old();
}

void EvidenceStore::clear_old() const {
    struct Kept {
        fs::file_time_type when;
        std::uintmax_t bytes;
        fs::path path;
    };
    std::vector<Kept> kept;
    std::uintmax_t all = 0;
    std::error_code ec;
    for (auto it = fs::directory_iterator(*folder_, ec); !ec && it != fs::directory_iterator(); it.increment(ec)) {
        std::error_code one;
        if (it->path().extension() != ".evidence") continue;
        const Kept file{it->last_write_time(one), it->file_size(one), it->path()};
        if (one) continue;
        all += file.bytes;
        kept.push_back(file);
    }
    std::sort(kept.begin(), kept.end(), [](const Kept& a, const Kept& b) { return a.when < b.when; });
    for (const Kept& file : kept) {
        if (all <= most_bytes_) break;
        if (fs::remove(file.path, ec)) all -= file.bytes;
    }
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/evidence_store.hpp"

#include "analysis/archive.hpp"
#include "analysis/weights.hpp"
#include "base/atomic_file.hpp"
#include "base/files.hpp"

#include <sys/stat.h>
#include <xxhash.h>
#include <algorithm>
#include <array>
#include <cinttypes>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <string>
#include <vector>

namespace fw {

namespace {

namespace fs = std::filesystem;

constexpr std::uint64_t kMagic = 0x32'45'43'4E'45'44'56'45;  // "EVDENCE2"
constexpr const char *kEvidence = ".evidence", *kKnown = ".known";

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

/// The program that decides: what another build made of the evidence is none of this one's decisions.
std::uint64_t deciding_hash() {
    static const std::uint64_t hash = [] {
        struct stat self {};
        if (::stat("/proc/self/exe", &self) != 0) return listening_hash();
        const std::array<std::uint64_t, 5> of{listening_hash(), static_cast<std::uint64_t>(self.st_size), static_cast<std::uint64_t>(self.st_mtim.tv_sec),
                                              static_cast<std::uint64_t>(self.st_mtim.tv_nsec), static_cast<std::uint64_t>(self.st_ino)};
        return XXH3_64bits(of.data(), sizeof of);
    }();
    return hash;
}

/// What a file is without a look inside: 0 where it cannot be asked.
std::uint64_t outside_of(const fs::path& path) {
    std::error_code ec;
    const std::string place = fs::weakly_canonical(path, ec).string();
    struct stat file {};
    if (ec || ::stat(place.c_str(), &file) != 0) return 0;
    archive::Writer w;
    w.put(place), w.put(file.st_size), w.put(file.st_mtim.tv_sec), w.put(file.st_mtim.tv_nsec), w.put(file.st_ino);
    return XXH3_64bits(w.bytes.data(), w.bytes.size());
}

struct Head {
    std::uint64_t magic, made_by, of, payload_hash, payload_bytes;
};

bool write_kept(const fs::path& path, std::uint64_t made_by, std::uint64_t of, const std::string& payload) {
    const Head head{kMagic, made_by, of, XXH3_64bits(payload.data(), payload.size()), payload.size()};
    return static_cast<bool>(
        write_atomically(path, [&](int fd) { return write_all(fd, &head, sizeof head) && write_all(fd, payload.data(), payload.size()); }));
}

/// Reads what was kept of something by someone; false where there is none, it is damaged or is not that.
template <class... T>
bool read_kept(const fs::path& path, std::uintmax_t most_bytes, std::uint64_t made_by, std::uint64_t of, T&... into) {
    const auto bytes = read_file(path, most_bytes);
    Head head{};
    if (!bytes || bytes->size() < sizeof head) return false;
    std::memcpy(&head, bytes->data(), sizeof head);
    const std::span<const unsigned char> payload = std::span(*bytes).subspan(sizeof head);
    if (head.magic != kMagic || head.made_by != made_by || head.of != of || head.payload_bytes != payload.size() ||
        head.payload_hash != XXH3_64bits(payload.data(), payload.size()))
        return false;
    archive::Reader reader(payload);
    if (!(reader.get(into) && ...) || !reader.ended()) return false;
    std::error_code ec;
    fs::last_write_time(path, fs::file_time_type::clock::now(), ec);  // it was asked for: others go first
    return true;
}

}  // namespace

EvidenceStore EvidenceStore::of_user() {
    if (const char* cache = std::getenv("XDG_CACHE_HOME"); cache && *cache == '/') return EvidenceStore(fs::path(cache) / "fakturwerk" / "evidence");
    if (const char* home = std::getenv("HOME"); home && *home == '/') return EvidenceStore(fs::path(home) / ".cache" / "fakturwerk" / "evidence");
    return {};
}

fs::path EvidenceStore::file_of(std::uint64_t hash, const char* ending) const {
    char name[40];
    std::snprintf(name, sizeof name, "%016" PRIx64 "%s", hash, ending);
    return *folder_ / name;
}

std::shared_ptr<const Evidence> EvidenceStore::find(std::uint64_t content_hash) const {
    if (!folder_) return nullptr;
    auto evidence = std::make_shared<Evidence>();
    if (!read_kept(file_of(content_hash, kEvidence), most_bytes_, listening_hash(), content_hash, *evidence)) return nullptr;
    return evidence;
}

void EvidenceStore::keep(std::uint64_t content_hash, const Evidence& evidence) const {
    archive::Writer w;
    w.put(evidence);
    keep_file(content_hash, kEvidence, listening_hash(), w.bytes);
}

std::optional<KnownRecording> EvidenceStore::recall(const fs::path& recording) const {
    const std::uint64_t outside = outside_of(recording);
    if (!folder_ || !outside) return std::nullopt;
    auto analysis = std::make_shared<Analysis>();
    KnownRecording known;
    if (!read_kept(file_of(outside, kKnown), most_bytes_, deciding_hash(), outside, *analysis, known.peaks)) return std::nullopt;
    analysis->evidence = find(analysis->content_hash);
    if (!analysis->evidence) return std::nullopt;
    known.analysis = std::move(analysis);
    return known;
}

void EvidenceStore::remember(const fs::path& recording, const Analysis& analysis, const Peaks& peaks) const {
    const std::uint64_t outside = outside_of(recording);
    if (!outside) return;
    archive::Writer w;
    w.put(analysis), w.put(peaks);
    keep_file(outside, kKnown, deciding_hash(), w.bytes);
}

void EvidenceStore::forget(const fs::path& recording) const {
    std::error_code ec;
    if (folder_) fs::remove(file_of(outside_of(recording), kKnown), ec);
}

void EvidenceStore::keep_file(std::uint64_t hash, const char* ending, std::uint64_t made_by, const std::string& payload) const {
    if (!folder_) return;
    std::error_code ec;
    fs::create_directories(*folder_, ec);
    if (write_kept(file_of(hash, ending), made_by, hash, payload)) clear_old();
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
        if (it->path().extension() != kEvidence && it->path().extension() != kKnown) continue;
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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/remake_file.hpp"

#include "base/atomic_file.hpp"

#include <zip.h>
#include <cstdio>
#include <memory>

namespace fw {

namespace {

constexpr const char* kEntry = "remake.json";
constexpr zip_uint64_t kLargest = 512ULL << 20;  // a remake.json beyond this is not ours

}  // namespace

Status save_remake(const std::filesystem::path& path, const Remake& remake) {
    const std::string text = remake_to_json(remake);
    return write_atomically(path, [&](const std::filesystem::path& temporary) {
        int error = 0;
        zip_t* zip = zip_open(temporary.string().c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
        if (!zip) return false;
        zip_source_t* source = zip_source_buffer(zip, text.data(), text.size(), 0);
        if (!source || zip_file_add(zip, kEntry, source, ZIP_FL_OVERWRITE | ZIP_FL_ENC_UTF_8) < 0) {
            if (source) zip_source_free(source);
            zip_discard(zip);
            return false;
        }
        if (zip_close(zip) != 0) {
            zip_discard(zip);
            return false;
        }
        return true;
    });
}

Result<Remake> load_remake(const std::filesystem::path& path) {
    const std::string name = path.string();
    std::error_code ec;
    if (!std::filesystem::exists(path, ec)) return Error{ErrorCode::FileMissing, name, {}};
    int error = 0;
    const std::unique_ptr<zip_t, decltype(&zip_discard)> zip(zip_open(name.c_str(), ZIP_RDONLY | ZIP_CHECKCONS, &error), [](zip_t* z) {
        if (z) zip_discard(z);
    });
    if (!zip) return Error{ErrorCode::RemakeDamaged, name, "not a zip"};
    zip_stat_t stat;
    if (zip_stat(zip.get(), kEntry, 0, &stat) != 0 || !(stat.valid & ZIP_STAT_SIZE) || stat.size > kLargest)
        return Error{ErrorCode::RemakeDamaged, name, "no remake.json"};
    std::string text(stat.size, '\0');
    const std::unique_ptr<zip_file_t, decltype(&zip_fclose)> file(zip_fopen(zip.get(), kEntry, 0), [](zip_file_t* f) { return f ? zip_fclose(f) : 0; });
    if (!file || zip_fread(file.get(), text.data(), text.size()) != static_cast<zip_int64_t>(text.size()))
        return Error{ErrorCode::RemakeDamaged, name, "cannot be unpacked"};
    return remake_from_json(text, name);
}

Result<std::filesystem::path> find_reference(const Remake& remake, const std::filesystem::path& remake_path) {
    std::error_code ec;
    const std::filesystem::path stored = remake.reference.path;
    if (std::filesystem::is_regular_file(stored, ec)) return stored;
    const std::filesystem::path beside = remake_path.parent_path() / stored.filename();
    if (!stored.empty() && std::filesystem::is_regular_file(beside, ec)) return beside;
    return Error{ErrorCode::ReferenceGone, stored.string(), {}};
}

}  // namespace fw

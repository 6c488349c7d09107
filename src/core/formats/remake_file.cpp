// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/remake_file.hpp"

#include "base/atomic_file.hpp"
#include "base/files.hpp"

#include <zip.h>
#include <memory>
#include <optional>

namespace fw {

namespace {

constexpr const char* kEntry = "remake.json";
constexpr zip_uint64_t kMostText = 96ULL << 20;                     // a remake.json beyond this is not ours, however small it is packed
constexpr std::uint64_t kMostSounds = 512ULL << 20;                 // nor sounds beyond this
constexpr std::uint64_t kMostBytes = kMostSounds + (256ULL << 20);  // nor a file that holds them

using Source = std::unique_ptr<zip_source_t, decltype(&zip_source_free)>;

/// Places in the archive: of a kept asset, and of a picture by its place in the list.
std::string entry_of(const Asset& a) { return "sounds/" + std::to_string(a.id.number); }
std::string picture_entry(std::size_t index) { return "pictures/" + std::to_string(index + 1); }

/// A file in the archive, packed already.
struct Packed {
    std::string entry;
    Shared<std::string> bytes;
};

/// The archive as bytes: libzip works in memory, so that what is on disk is written in one place (write_atomically).
std::optional<std::string> zipped(const std::string& text, const std::vector<Packed>& files) {
    zip_error_t error;
    zip_error_init(&error);
    Source archive(zip_source_buffer_create(nullptr, 0, 0, &error), zip_source_free);
    if (!archive) return std::nullopt;
    zip_source_keep(archive.get());  // the zip takes one reference with it, and the bytes are read from ours
    zip_t* zip = zip_open_from_source(archive.get(), ZIP_TRUNCATE, &error);
    if (!zip) {
        zip_source_free(archive.get());
        return std::nullopt;
    }
    zip_source_t* content = zip_source_buffer(zip, text.data(), text.size(), 0);
    if (!content || zip_file_add(zip, kEntry, content, ZIP_FL_OVERWRITE | ZIP_FL_ENC_UTF_8) < 0) {
        if (content) zip_source_free(content);
        zip_discard(zip);
        return std::nullopt;
    }
    for (const Packed& f : files) {
        zip_source_t* source = zip_source_buffer(zip, f.bytes->data(), f.bytes->size(), 0);
        const zip_int64_t at = source ? zip_file_add(zip, f.entry.c_str(), source, ZIP_FL_OVERWRITE | ZIP_FL_ENC_UTF_8) : -1;
        if (at < 0) {
            if (source) zip_source_free(source);
            zip_discard(zip);
            return std::nullopt;
        }
        zip_set_file_compression(zip, static_cast<zip_uint64_t>(at), ZIP_CM_STORE, 0);  // sounds and pictures are packed already or hardly can be
    }
    if (zip_close(zip) != 0) {
        zip_discard(zip);
        return std::nullopt;
    }
    zip_stat_t stat;
    if (zip_source_stat(archive.get(), &stat) != 0 || zip_source_open(archive.get()) != 0) return std::nullopt;
    std::string bytes(stat.size, '\0');
    const auto got = zip_source_read(archive.get(), bytes.data(), bytes.size());
    zip_source_close(archive.get());
    return got == static_cast<zip_int64_t>(bytes.size()) ? std::optional(std::move(bytes)) : std::nullopt;
}

}  // namespace

Status save_remake(const std::filesystem::path& path, const Remake& remake) {
    std::vector<Packed> files;
    std::uint64_t all = 0;
    for (const Asset& asset : remake.clips->assets) {
        if (!asset.kept || asset.origin == AssetOrigin::Original) continue;
        Packed& f = files.emplace_back(entry_of(asset), asset.bytes);
        if (f.bytes->empty()) {
            const auto file = read_file(asset.path, kMostSounds);
            if (!file) return file.error();
            f.bytes = std::string(file->begin(), file->end());
        }
        all += f.bytes->size();
        if (all > kMostSounds) return Error{ErrorCode::FileTooLarge, asset.path, {}};
    }
    const auto& pictures = remake.notebook->pictures;
    for (std::size_t i = 0; i < pictures.size(); ++i) {
        if (pictures[i].bytes->empty()) continue;
        all += pictures[i].bytes->size();
        if (all > kMostSounds) return Error{ErrorCode::FileTooLarge, pictures[i].path, {}};
        files.push_back({picture_entry(i), pictures[i].bytes});
    }
    // A recording that lies beside its remake is kept by its name alone: the folder may be moved as a whole.
    Remake kept = remake;
    const std::filesystem::path recording = remake.reference.path;
    std::error_code ec;
    if (!recording.empty() && std::filesystem::absolute(recording, ec).parent_path() == std::filesystem::absolute(path, ec).parent_path())
        kept.reference.path = recording.filename().string();
    const auto bytes = zipped(remake_to_json(kept), files);
    if (!bytes) return Error{ErrorCode::OutOfMemory, "saving " + path.string(), {}};
    return write_atomically(path, *bytes);
}

Result<Remake> load_remake(const std::filesystem::path& path) {
    const auto bytes = read_file(path, kMostBytes);
    if (!bytes) return bytes.error();
    auto remake = remake_from_zip(*bytes, path.string());
    std::error_code ec;
    if (remake && !remake->reference.path.empty() && std::filesystem::path(remake->reference.path).is_relative())
        remake->reference.path = (std::filesystem::absolute(path, ec).parent_path() / remake->reference.path).lexically_normal().string();
    return remake;
}

Result<Remake> remake_from_zip(std::span<const unsigned char> bytes, const std::string& name) {
    const auto damaged = [&](const char* why) { return Error{ErrorCode::RemakeDamaged, name, why}; };
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* archive = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    if (!archive) return damaged("not a zip");
    const std::unique_ptr<zip_t, decltype(&zip_discard)> zip(zip_open_from_source(archive, ZIP_RDONLY | ZIP_CHECKCONS, &error), [](zip_t* z) {
        if (z) zip_discard(z);
    });
    if (!zip) {
        zip_source_free(archive);
        return damaged("not a zip");
    }
    zip_stat_t stat;
    if (zip_stat(zip.get(), kEntry, 0, &stat) != 0 || !(stat.valid & ZIP_STAT_SIZE)) return damaged("no remake.json");
    if (stat.size > kMostText) return Error{ErrorCode::RemakeUnusable, name, "it holds more than a remake can"};
    std::string text(stat.size, '\0');
    const std::unique_ptr<zip_file_t, decltype(&zip_fclose)> file(zip_fopen(zip.get(), kEntry, 0), [](zip_file_t* f) { return f ? zip_fclose(f) : 0; });
    // What is left behind the stated size would come out of a file that lies about it.
    char more = 0;
    if (!file || zip_fread(file.get(), text.data(), text.size()) != static_cast<zip_int64_t>(text.size()) || zip_fread(file.get(), &more, 1) != 0)
        return damaged("cannot be unpacked");
    auto remake = remake_from_json(text, name);
    if (!remake) return remake;
    std::uint64_t all = 0;
    const auto kept_file = [&](const std::string& entry) -> Result<Shared<std::string>> {
        if (zip_stat(zip.get(), entry.c_str(), 0, &stat) != 0 || !(stat.valid & ZIP_STAT_SIZE))
            return Shared<std::string>();  // the file it came from may still be there
        // They are stored as they are: one that would grow out of a few bytes is none of ours.
        if (stat.size > bytes.size()) return damaged("cannot be unpacked");
        all += stat.size;
        if (all > kMostSounds) return Error{ErrorCode::RemakeUnusable, name, "it holds more than a remake can"};
        std::string content(stat.size, '\0');
        const std::unique_ptr<zip_file_t, decltype(&zip_fclose)> kept(zip_fopen(zip.get(), entry.c_str(), 0),
                                                                      [](zip_file_t* f) { return f ? zip_fclose(f) : 0; });
        if (!kept || zip_fread(kept.get(), content.data(), content.size()) != static_cast<zip_int64_t>(content.size()) || zip_fread(kept.get(), &more, 1) != 0)
            return damaged("cannot be unpacked");
        return Shared<std::string>(std::move(content));
    };
    for (std::size_t i = 0; i < remake->clips->assets.size(); ++i) {
        const Asset& a = remake->clips->assets[i];
        if (!a.kept || a.origin == AssetOrigin::Original) continue;
        auto sound = kept_file(entry_of(a));
        if (!sound) return sound.error();
        if (!(*sound)->empty()) remake->clips.edit().assets[i].bytes = std::move(*sound);
    }
    for (std::size_t i = 0; i < remake->notebook->pictures.size(); ++i) {
        auto picture = kept_file(picture_entry(i));
        if (!picture) return picture.error();
        if (!(*picture)->empty()) remake->notebook.edit().pictures[i].bytes = std::move(*picture);
    }
    return remake;
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

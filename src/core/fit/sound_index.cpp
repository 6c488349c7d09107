// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/sound_index.hpp"

#include "base/parallel.hpp"
#include "fit/lone_sound.hpp"
#include "sound/no_denormals.hpp"
#include "sound/sources/soundfont.hpp"

#include <sqlite3.h>
#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <map>
#include <set>

namespace fw {

namespace {

/// Another number where prints are made otherwise: what was indexed before is then read anew.
constexpr int kVersion = 1;
constexpr double kLongest_s = 60.0, kHeard_s = 4.0;
constexpr std::size_t kAtOnce = 64, kUnreadable = 100;
static_assert(std::is_trivially_copyable_v<SoundPrint>);

struct Statement {
    sqlite3_stmt* s = nullptr;
    Statement(sqlite3* db, const char* sql) { sqlite3_prepare_v2(db, sql, -1, &s, nullptr); }
    ~Statement() { sqlite3_finalize(s); }
    Statement(const Statement&) = delete;
    Statement& operator=(const Statement&) = delete;
    Statement& text(int at, const std::string& value) {
        sqlite3_bind_text(s, at, value.data(), static_cast<int>(value.size()), SQLITE_TRANSIENT);
        return *this;
    }
    Statement& whole(int at, std::int64_t value) {
        sqlite3_bind_int64(s, at, value);
        return *this;
    }
    Statement& print(int at, const SoundPrint& p) {
        sqlite3_bind_blob(s, at, &p, sizeof p, SQLITE_TRANSIENT);
        return *this;
    }
    bool row() { return sqlite3_step(s) == SQLITE_ROW; }
    bool done() {
        const bool ok = sqlite3_step(s) == SQLITE_DONE;
        sqlite3_reset(s);
        return ok;
    }
    std::string text_of(int column) const {
        const auto* t = reinterpret_cast<const char*>(sqlite3_column_text(s, column));
        return t ? std::string(t, static_cast<std::size_t>(sqlite3_column_bytes(s, column))) : std::string();
    }
};

bool is_sound_file(const std::filesystem::path& path) {
    static const std::set<std::string> endings{".wav", ".flac", ".ogg", ".aif", ".aiff", ".mp3", ".opus", ".m4a", ".w64", ".caf"};
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return endings.contains(ending);
}

/// The beginning of a file; its first seconds tell what it is like.
Result<SoundPrint> print_of_file(const std::filesystem::path& path) {
    const auto reader = AudioReader::open(path);
    if (!reader) return reader.error();
    AudioReader& in = **reader;
    if (in.stated_frames() > static_cast<std::int64_t>(kLongest_s * in.sample_rate_hz())) return Error{ErrorCode::SampleTooLong, path.string(), {}};
    Audio audio{in.sample_rate_hz(), in.channels(), {}, {}};
    const auto channels = static_cast<std::size_t>(in.channels());
    std::vector<float> block(8192 * channels);
    while (audio.duration_s() < kHeard_s) {
        const std::size_t got = in.read(block);
        if (got == 0) break;
        audio.samples.insert(audio.samples.end(), block.begin(), block.begin() + static_cast<std::ptrdiff_t>(got * channels));
    }
    return print_of(audio);
}

/// A key that shows a shipped sound as it is meant to be played.
int usual_key(const KnownSound& s) {
    if (s.source == &kDrumVoice) return 60;
    const std::string name = s.name();
    return name.find("ass") != std::string::npos && name.find("rass") == std::string::npos ? 38 : 60;
}

SoundPrint print_of_shipped(const KnownSound& s) {
    SourceSpec spec;
    spec.patch = s.patch;
    spec.program = s.program;
    spec.drums = s.source == &kDrumVoice;
    return print_of(struck(*s.source, spec, {}, {usual_key(s)}));
}

class Sqlite final : public SoundIndex {
public:
    explicit Sqlite(sqlite3* db) : db_(db) {}
    ~Sqlite() override { sqlite3_close(db_); }

    bool prepare() {
        run("PRAGMA journal_mode=WAL");
        run("PRAGMA synchronous=NORMAL");
        Statement version(db_, "PRAGMA user_version");
        const int known = version.row() ? sqlite3_column_int(version.s, 0) : 0;
        if (known != kVersion && (!run("DROP TABLE IF EXISTS sounds") || !run("DROP TABLE IF EXISTS folders"))) return false;
        return run("CREATE TABLE IF NOT EXISTS sounds (source TEXT NOT NULL, file TEXT NOT NULL, patch TEXT NOT NULL, program INTEGER NOT NULL, size INTEGER, "
                   "changed INTEGER, print BLOB, wrong TEXT, PRIMARY KEY (source, file, patch, program))") &&
               run("CREATE TABLE IF NOT EXISTS folders (path TEXT PRIMARY KEY)") && run(("PRAGMA user_version=" + std::to_string(kVersion)).c_str());
    }

    Result<Indexed> add_folder(const std::filesystem::path& folder, const Progress& progress) override {
        std::error_code bad;
        if (!std::filesystem::exists(folder, bad)) return Error{ErrorCode::FileMissing, folder.string(), {}};
        if (!std::filesystem::is_directory(folder, bad)) return Error{ErrorCode::NotAFile, folder.string(), {}};
        const std::filesystem::path root = std::filesystem::canonical(folder, bad);
        Indexed result;
        try {
            progress.report(0.0, "looking through the folder");
            struct Found {
                std::string path;
                std::int64_t size = 0, changed = 0;
            };
            std::vector<Found> there, anew;
            std::set<std::string> paths;
            using Walk = std::filesystem::recursive_directory_iterator;
            for (Walk it(root, std::filesystem::directory_options::skip_permission_denied, bad); !bad && it != Walk(); it.increment(bad)) {
                progress.checkpoint();
                std::error_code odd;
                if (!it->is_regular_file(odd) || odd || !is_sound_file(it->path())) continue;
                Found f{it->path().string(), static_cast<std::int64_t>(it->file_size(odd)), it->last_write_time(odd).time_since_epoch().count()};
                paths.insert(f.path);
                there.push_back(std::move(f));
            }
            std::map<std::string, std::pair<std::int64_t, std::int64_t>> known;
            const std::string inside = root.string() + "/";
            for (Statement s(db_, "SELECT file, size, changed FROM sounds WHERE source='sampler'"); s.row();)
                if (std::string path = s.text_of(0); path.starts_with(inside)) known[path] = {sqlite3_column_int64(s.s, 1), sqlite3_column_int64(s.s, 2)};
            for (const Found& f : there) {
                const auto k = known.find(f.path);
                if (k == known.end() || k->second != std::pair(f.size, f.changed)) anew.push_back(f);
            }
            Statement(db_, "INSERT OR IGNORE INTO folders VALUES (?)").text(1, root.string()).done();
            // What a walk that was broken off did not come to is not gone.
            for (const auto& [path, state] : known)
                if (!bad && !paths.contains(path)) Statement(db_, "DELETE FROM sounds WHERE source='sampler' AND file=?").text(1, path).done(), ++result.gone;
            Statement insert(db_, "INSERT OR REPLACE INTO sounds VALUES ('sampler', ?, '', 0, ?, ?, ?, ?)");
            for (std::size_t at = 0; at < anew.size(); at += kAtOnce) {
                progress.report(static_cast<double>(at) / static_cast<double>(anew.size()), "listening to the folder's sounds");
                const std::size_t count = std::min(kAtOnce, anew.size() - at);
                std::vector<Result<SoundPrint>> prints(count, Result<SoundPrint>(SoundPrint{}));
                parallel_for(count, [&](std::size_t i) {
                    const NoDenormals guard;
                    if (!progress.cancelled()) prints[i] = print_of_file(anew[at + i].path);
                });
                progress.checkpoint();
                run("BEGIN");
                for (std::size_t i = 0; i < count; ++i) {
                    const Found& f = anew[at + i];
                    insert.text(1, f.path).whole(2, f.size).whole(3, f.changed);
                    if (prints[i]) {
                        insert.print(4, *prints[i]);
                        sqlite3_bind_null(insert.s, 5);
                    } else {
                        sqlite3_bind_null(insert.s, 4);
                        insert.text(5, prints[i].error().message());
                        if (result.unreadable.size() < kUnreadable) result.unreadable.push_back(prints[i].error().message());
                    }
                    insert.done();
                }
                if (!run("COMMIT")) return Error{ErrorCode::IndexUnusable, path(), sqlite3_errmsg(db_)};
                result.looked_at += count;
            }
            result.sounds = there.size();
        } catch (const Cancelled&) {
            return Error{ErrorCode::Cancelled, folder.string(), {}};
        }
        return result;
    }

    Result<Indexed> add_shipped(const Progress& progress) override {
        std::vector<KnownSound> all;
        for (const SourceType* type : {&kSynth, &kDrumVoice})
            for (const std::string& patch : type->patches()) all.push_back({type, patch, 0, {}, {}});
        for (int program = 0; program < 128; ++program) all.push_back({&kSoundFont, {}, program, {}, {}});
        Indexed result;
        result.sounds = all.size();
        std::set<std::string> known;
        for (Statement s(db_, "SELECT source, patch, program FROM sounds WHERE source<>'sampler'"); s.row();)
            known.insert(s.text_of(0) + "|" + s.text_of(1) + "|" + s.text_of(2));
        std::erase_if(all, [&](const KnownSound& k) { return known.contains(std::string(k.source->id) + "|" + k.patch + "|" + std::to_string(k.program)); });
        try {
            Statement insert(db_, "INSERT OR REPLACE INTO sounds VALUES (?, '', ?, ?, 0, 0, ?, NULL)");
            for (std::size_t at = 0; at < all.size(); at += kAtOnce) {
                progress.report(static_cast<double>(at) / static_cast<double>(all.size()), "listening to the shipped sounds");
                const std::size_t count = std::min(kAtOnce, all.size() - at);
                parallel_for(count, [&](std::size_t i) {
                    const NoDenormals guard;
                    if (!progress.cancelled()) all[at + i].print = print_of_shipped(all[at + i]);
                });
                progress.checkpoint();
                run("BEGIN");
                for (std::size_t i = at; i < at + count; ++i)
                    if (!is_empty(all[i].print)) insert.text(1, all[i].source->id).text(2, all[i].patch).whole(3, all[i].program).print(4, all[i].print).done();
                if (!run("COMMIT")) return Error{ErrorCode::IndexUnusable, path(), sqlite3_errmsg(db_)};
                result.looked_at += count;
            }
        } catch (const Cancelled&) {
            return Error{ErrorCode::Cancelled, {}, {}};
        }
        return result;
    }

    std::vector<std::filesystem::path> folders() const override {
        std::vector<std::filesystem::path> out;
        for (Statement s(db_, "SELECT path FROM folders ORDER BY path"); s.row();) out.emplace_back(s.text_of(0));
        return out;
    }

    void forget_folder(const std::filesystem::path& folder) override {
        const std::string inside = folder.string() + "/";
        Statement(db_, "DELETE FROM sounds WHERE source='sampler' AND substr(file, 1, ?)=?")
            .whole(1, static_cast<std::int64_t>(inside.size()))
            .text(2, inside)
            .done();
        Statement(db_, "DELETE FROM folders WHERE path=?").text(1, folder.string()).done();
    }

    std::size_t size() const override {
        Statement s(db_, "SELECT COUNT(*) FROM sounds WHERE print IS NOT NULL");
        return s.row() ? static_cast<std::size_t>(sqlite3_column_int64(s.s, 0)) : 0;
    }

    std::vector<FoundSound> find(const FindWish& wish) const override {
        std::vector<FoundSound> all;
        for (Statement s(db_, "SELECT source, file, patch, program, print FROM sounds WHERE print IS NOT NULL"); s.row();) {
            if (sqlite3_column_bytes(s.s, 4) != static_cast<int>(sizeof(SoundPrint))) continue;
            FoundSound f;
            const SourceType* source = find_source_type(s.text_of(0));
            if (!source) continue;
            f.sound.source = source;
            f.sound.file = s.text_of(1);
            f.sound.patch = s.text_of(2);
            f.sound.program = sqlite3_column_int(s.s, 3);
            std::memcpy(&f.sound.print, sqlite3_column_blob(s.s, 4), sizeof(SoundPrint));
            if (is_empty(f.sound.print)) continue;
            const bool drum = source == &kDrumVoice || (source == &kSampler && (f.sound.print.pitch_hz == 0.0F || f.sound.print.length_s < 0.35F));
            if (wish.drums && *wish.drums != drum && !(source == &kSampler && wish.like)) continue;
            double fits = 0.0, weights = 0.0;
            // An instrument plays at any pitch, a sample only near its own.
            if (wish.like) f.like = likeness(*wish.like, f.sound.print, source != &kSampler), fits += 2.0 * f.like.all, weights += 2.0;
            for (const std::string& word : wish.words) {
                const bool by_ear = std::find(ear_words().begin(), ear_words().end(), word) != ear_words().end();
                // A name that says it is believed.
                fits += contains(f.sound.name() + f.sound.file, word) ? 1.0 : by_ear ? fits_word(f.sound.print, word) : 0.0;
                weights += 1.0;
            }
            f.fits = weights > 0.0 ? fits / weights : 0.0;
            all.push_back(std::move(f));
        }
        const std::size_t most = std::min(wish.most, all.size());
        std::partial_sort(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(most), all.end(),
                          [](const FoundSound& a, const FoundSound& b) { return a.fits != b.fits ? a.fits > b.fits : a.sound.name() < b.sound.name(); });
        all.resize(most);
        return all;
    }

private:
    static bool contains(const std::string& text, const std::string& word) {
        const auto same = [](char a, char b) { return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b)); };
        return std::search(text.begin(), text.end(), word.begin(), word.end(), same) != text.end();
    }
    bool run(const char* sql) const { return sqlite3_exec(db_, sql, nullptr, nullptr, nullptr) == SQLITE_OK; }
    std::string path() const {
        const char* name = sqlite3_db_filename(db_, "main");
        return name ? name : "";
    }

    sqlite3* db_;
};

}  // namespace

std::string KnownSound::name() const {
    if (source == &kSampler) return std::filesystem::path(file).filename().string();
    if (source == &kSoundFont) return general_midi_names()[static_cast<std::size_t>(std::clamp(program, 0, 127))];
    return patch;
}

Result<std::unique_ptr<SoundIndex>> SoundIndex::open(const std::filesystem::path& file) {
    std::error_code bad;
    if (file.has_parent_path()) std::filesystem::create_directories(file.parent_path(), bad);
    sqlite3* db = nullptr;
    const int opened = sqlite3_open_v2(file.c_str(), &db, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE | SQLITE_OPEN_FULLMUTEX, nullptr);
    auto index = std::make_unique<Sqlite>(db);  // closes it, whatever comes
    if (opened != SQLITE_OK || !index->prepare()) return Error{ErrorCode::IndexUnusable, file.string(), db ? sqlite3_errmsg(db) : "there is no memory"};
    return std::unique_ptr<SoundIndex>(std::move(index));
}

std::filesystem::path SoundIndex::of_user() {
    const char *cache = std::getenv("XDG_CACHE_HOME"), *home = std::getenv("HOME");
    const std::filesystem::path base = cache && *cache ? std::filesystem::path(cache) : std::filesystem::path(home ? home : "/tmp") / ".cache";
    return base / "fakturwerk" / "sounds.sqlite";
}

}  // namespace fw

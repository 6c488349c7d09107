// SPDX-License-Identifier: GPL-3.0-or-later
// The user's folders of sounds and the sounds that are shipped, each with its print, in one SQLite file.
#pragma once

#include "base/progress.hpp"
#include "base/result.hpp"
#include "fit/sound_print.hpp"
#include "sound/catalogue.hpp"

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace fw {

/// A sound that can be played by a layer.
struct KnownSound {
    const SourceType* source = &kSampler;
    std::string patch{};  ///< of a shipped one
    int program = 0;      ///< of a SoundFont
    std::string file{};   ///< of a sampler
    SoundPrint print{};
    /// "Warm pad", "Vibraphone", "kick 04.wav".
    std::string name() const;
};

struct FoundSound {
    KnownSound sound;
    Likeness like{};    ///< to what was asked for
    double fits = 0.0;  ///< 0..1, by which they are ordered: likeness and words
};

struct FindWish {
    std::optional<SoundPrint> like{};
    std::vector<std::string> words{};  ///< ear words, or parts of names
    std::optional<bool> drums{};       ///< only sounds without a lasting pitch, or only others; none: all
    std::size_t most = 40;
};

/// What became of looking through a folder.
struct Indexed {
    std::size_t sounds = 0;     ///< in it now
    std::size_t looked_at = 0;  ///< anew: not seen before or changed since
    std::size_t gone = 0;
    std::vector<std::string> unreadable{};  ///< files that are no sound, with why, at most a hundred
};

/// From any thread: it can be asked while a folder is being added, and tells what is in by then; only one folder is added at a time. What is indexed is on disk
/// at once, so that work that is broken off is not lost.
class SoundIndex {
public:
    /// In a file, made where there is none. IndexUnusable where it is none of ours or cannot be written.
    static Result<std::unique_ptr<SoundIndex>> open(const std::filesystem::path& file);
    /// The user's own.
    static std::filesystem::path of_user();
    virtual ~SoundIndex() = default;

    /// Looks through a folder and those in it: what is there unchanged since (by size and time of its file) is not read again, what is gone is forgotten. Sound
    /// files of at most a minute; reads on all cores. FileMissing, NotAFile for what is no folder. Returns Cancelled when told to stop; what was read by then
    /// stays.
    virtual Result<Indexed> add_folder(const std::filesystem::path& folder, const Progress& progress = {}) = 0;
    /// Takes in what is shipped, once for each version of the prints: the synthesiser's and the drums' sounds and the default SoundFont.
    virtual Result<Indexed> add_shipped(const Progress& progress = {}) = 0;
    virtual std::vector<std::filesystem::path> folders() const = 0;
    virtual void forget_folder(const std::filesystem::path& folder) = 0;
    virtual std::size_t size() const = 0;
    /// The best first. Ten thousand sounds take some tens of milliseconds.
    virtual std::vector<FoundSound> find(const FindWish& wish) const = 0;
};

}  // namespace fw

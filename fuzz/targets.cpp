// SPDX-License-Identifier: GPL-3.0-or-later
#include "targets.hpp"

#include "analysis/draft.hpp"
#include "audio/audio_file.hpp"
#include "commands/command.hpp"
#include "engine/plan.hpp"
#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"
#include "model/edits.hpp"
#include "model/validate.hpp"
#include "support/encoded.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <sndfile.h>
#include <sys/mman.h>
#include <unistd.h>
#include <cstdio>
#include <cstdlib>

namespace fw::fuzz {

namespace {

[[noreturn]] void broken(const std::string& promise) {
    std::fprintf(stderr, "broken promise: %s\n", promise.c_str());
    std::abort();
}

/// An error must be one sentence; exceptions are not caught, so one that escapes ends the program.
template <class T>
bool taken(const Result<T>& result) {
    if (result) return true;
    const std::string text = result.error().message();
    if (text.empty() || text.back() != '.') broken("an error is a sentence: " + text);
    return false;
}

/// Bytes as a file that takes no disk.
class MemoryFile {
public:
    MemoryFile() : fd_(::memfd_create("fuzz", MFD_CLOEXEC)) {}
    ~MemoryFile() { ::close(fd_); }
    MemoryFile(const MemoryFile&) = delete;
    MemoryFile& operator=(const MemoryFile&) = delete;
    void fill(const std::string& bytes) {
        if (::ftruncate(fd_, 0) != 0 || ::pwrite(fd_, bytes.data(), bytes.size(), 0) != static_cast<::ssize_t>(bytes.size())) std::abort();
    }
    std::filesystem::path path() const { return "/proc/self/fd/" + std::to_string(fd_); }

private:
    int fd_;
};

/// Loading what layers name is not the point here, and slow.
Remake without_layers(const Remake& remake) {
    Remake bare = remake;
    for (const auto& part : remake.parts) bare = with_part(bare, part->id, [](Part& p) { p.layers.clear(); });
    return bare;
}

// --- recordings ---

std::vector<std::string> recordings() {
    const test::TemporaryFolder folder;
    std::vector<std::string> seeds;
    const auto add = [&](const std::filesystem::path& path) { seeds.push_back(test::bytes_of(path)); };
    const Audio tone = test::sine(440, 0.25, 8000, 2), mono = test::sine(330, 0.25, 16000, 1);
    for (const int format :
         {SF_FORMAT_WAV | SF_FORMAT_PCM_16, SF_FORMAT_WAV | SF_FORMAT_FLOAT, SF_FORMAT_WAV | SF_FORMAT_IMA_ADPCM, SF_FORMAT_AIFF | SF_FORMAT_PCM_24,
          SF_FORMAT_FLAC | SF_FORMAT_PCM_16, SF_FORMAT_OGG | SF_FORMAT_VORBIS, SF_FORMAT_OGG | SF_FORMAT_OPUS, SF_FORMAT_W64 | SF_FORMAT_PCM_16,
          SF_FORMAT_CAF | SF_FORMAT_ALAC_16, SF_FORMAT_AU | SF_FORMAT_ULAW, SF_FORMAT_RF64 | SF_FORMAT_PCM_16}) {
        for (const Audio* sound : {&tone, &mono}) {
            SF_INFO info{0, sound->sample_rate_hz, sound->channels, format, 0, 0};
            const auto path = folder / "a";
            SNDFILE* file = sf_open(path.c_str(), SFM_WRITE, &info);
            if (!file) continue;  // an encoder this library was built without
            sf_writef_float(file, sound->samples.data(), static_cast<sf_count_t>(sound->frames()));
            sf_close(file);
            add(path);
        }
    }
    for (const int channels : {1, 2}) {
        test::encode(folder / "a", "mp3", AV_CODEC_ID_MP3, 440, 0.3, 22050, channels);
        add(folder / "a");
        test::encode(folder / "b", "adts", AV_CODEC_ID_AAC, 440, 0.3, 22050, channels);
        add(folder / "b");
        test::encode(folder / "c", "mp4", AV_CODEC_ID_AAC, 440, 0.3, 22050, channels);
        add(folder / "c");
        test::encode(folder / "d", "matroska", AV_CODEC_ID_FLAC, 440, 0.3, 22050, channels);
        add(folder / "d");
    }
    seeds.push_back("ffconcat version 1.0\nfile '/etc/hostname'\n");
    seeds.push_back("#EXTM3U\n#EXT-X-TARGETDURATION:3\n#EXTINF:3,\n/etc/hostname\n#EXT-X-ENDLIST\n");
    return seeds;
}

bool run_recording(const std::string& input) {
    static MemoryFile file;
    file.fill(input);
    const auto sound = read_audio(file.path());
    if (!taken(sound)) return false;
    if (sound->channels < 1 || sound->channels > 2) broken("one or two channels");
    for (const float s : sound->samples)
        if (!(std::abs(s) <= 8.0F)) broken("samples are numbers within ±8");
    taken(make_mono(*sound, "fuzz"));
    return true;
}

// --- MIDI ---

std::vector<std::string> midi_files() {
    const test::TemporaryFolder folder;
    std::vector<std::string> seeds;
    Remake r = test::small_remake();
    r = with_part(r, test::kBass, [](Part& p) {
        p.patterns[0].edit().notes[0].bend.edit() = {{0, -100.0}, {200, 50.0}};
        p.layers[0].source = &kSoundFont, p.layers[0].program = 32;
    });
    for (const Remake& remake : {r, Remake{}, reread_tempo(r, 2.0)}) {
        if (!write_midi(folder / "a.mid", remake)) std::abort();
        seeds.push_back(test::bytes_of(folder / "a.mid"));
    }
    using namespace std::string_literals;
    seeds.push_back("MThd\0\0\0\6\0\0\0\1\0\x60MTrk\0\0\0\x14\0\x90\x3C\x64\x60\x3C\0\0\xF0\3\1\2\xF7\0\xFF\1\1x\0\xFF\x2F\0"s);
    seeds.push_back("MThd\0\0\0\6\0\1\0\1\xE7\x28MTrk\0\0\0\x0C\0\x99\x24\x64\x60\x89\x24\0\0\xFF\x2F\0"s);
    return seeds;
}

bool run_midi(const std::string& input) {
    const auto song = parse_midi({reinterpret_cast<const unsigned char*>(input.data()), input.size()}, "fuzz.mid");
    if (!taken(song)) return false;
    const auto with = with_given_parts(test::small_remake(), song->parts, song->start_s.value_or(0.0), "fuzz.mid");
    if (!taken(with)) return true;
    if (const auto wrong = what_is_wrong(*with)) broken("what is taken is a valid remake: " + *wrong);
    compile_plan(without_layers(*with), {44100.0, {}});
    return true;
}

// --- remakes ---

std::vector<std::string> remakes() {
    const test::TemporaryFolder folder;
    const Remake r = test::small_remake();
    const auto scripted = run_script(r, R"(bus.add name=Room
step.add bus=Room kind=reverb
send.add part=Bass bus=Room
step.add part=Bass kind=duck by=Drums sound=Kick
curve.set part=Bass layer=1 field=cutoff section=verse points="1 200 smooth, 4 4k"
field.set part=Bass step=duck field=on value=off section="verse 2"
clip.from-original from=1.2 length=1/4 to=5 recipe="fade 2 20, reverse"
note.change part=Bass from=5 to=6 semitones=2 reach=here
rival.add part=Bass name=other
row.add name=Hiss)",
                                     "seed");
    if (!scripted) std::abort();
    Remake other = with_part(*scripted, test::kBass, [](Part& p) { p.patterns[0].edit().notes[3].bend.edit() = {{0, 0.0}, {10, 20.0}}; });
    other.reference.path = "/music/caf\xE9.wav";
    std::vector<std::string> seeds{remake_to_json(r), remake_to_json(other), remake_to_json(Remake{})};
    if (!save_remake(folder / "a.fakturwerk", r)) std::abort();
    seeds.push_back(test::bytes_of(folder / "a.fakturwerk"));
    return seeds;
}

bool run_remake(const std::string& input) {
    const bool zipped = input.starts_with("PK");
    const auto remake = zipped ? remake_from_zip({reinterpret_cast<const unsigned char*>(input.data()), input.size()}, "fuzz.fakturwerk")
                               : remake_from_json(input, "fuzz.json");
    if (!taken(remake)) return false;
    if (const auto wrong = what_is_wrong(*remake)) broken("what is opened is a valid remake: " + *wrong);
    const std::string text = remake_to_json(*remake);
    const auto again = remake_from_json(text, "again.json");
    if (!again || remake_to_json(*again) != text) broken("what is opened survives saving");
    compile_plan(without_layers(*remake), {44100.0, {}});
    return true;
}

}  // namespace

const std::vector<Target>& targets() {
    static const std::vector<Target> list{{"recording", recordings, run_recording}, {"midi", midi_files, run_midi}, {"remake", remakes, run_remake}};
    return list;
}

}  // namespace fw::fuzz

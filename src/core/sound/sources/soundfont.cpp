// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/sources/soundfont.hpp"

#include "base/files.hpp"
#include "sound/catalogue.hpp"
#include "sound/half_band.hpp"

#include <fluidsynth.h>
#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <map>
#include <memory>

namespace fw {

namespace {

void silent(int, const char*, void*) {}

/// One program of a SoundFont, played by FluidSynth (dry, 48 voices). FluidSynth makes sound in blocks of 64 frames, which begin anew with reset() and
/// after silence: a note's start is placed on the next of them, at most 1.5 ms late, and always on the same one. Beyond its 96 kHz it plays at half the rate
/// and what it plays is interpolated.
class SoundFontPlayer final : public Processor {
public:
    SoundFontPlayer() = default;
    ~SoundFontPlayer() override {
        if (synth_) delete_fluid_synth(synth_);
        if (settings_) delete_fluid_settings(settings_);
    }

    bool load(const std::string& file, int program, bool drums, double rate, double tuning_cents) {
        for (const int level : {FLUID_PANIC, FLUID_ERR, FLUID_WARN, FLUID_INFO, FLUID_DBG}) fluid_set_log_function(level, silent, nullptr);
        settings_ = new_fluid_settings();
        doubled_ = rate > kMostRate;  // FluidSynth goes no further: it plays at half the rate then
        if (fluid_settings_setnum(settings_, "synth.sample-rate", doubled_ ? rate / 2.0 : rate) != FLUID_OK) return false;
        fluid_settings_setint(settings_, "synth.polyphony", 48);
        fluid_settings_setint(settings_, "synth.reverb.active", 0);
        fluid_settings_setint(settings_, "synth.chorus.active", 0);
        fluid_settings_setint(settings_, "synth.threadsafe-api", 0);  // one thread at a time is our own contract; its lock would break real time
        fluid_settings_setint(settings_, "synth.min-note-length", 0);
        fluid_settings_setnum(settings_, "synth.gain", 0.6);
        synth_ = new_fluid_synth(settings_);
        if (!synth_) return false;
        const int font = fluid_synth_sfload(synth_, file.c_str(), 1);
        if (font < 0) return false;
        channel_ = drums ? 9 : 0;
        // Drums keep their own pitch: their keys are sounds, not notes.
        const double semitones = std::round(tuning_cents / 100.0);
        fluid_synth_set_gen(synth_, channel_, GEN_COARSETUNE, static_cast<float>(semitones));
        fluid_synth_set_gen(synth_, channel_, GEN_FINETUNE, static_cast<float>(tuning_cents - 100.0 * semitones));
        fluid_synth_program_select(synth_, channel_, static_cast<unsigned>(font), drums ? 128U : 0U, static_cast<unsigned>(program));
        fluid_synth_pitch_wheel_sens(synth_, channel_, 12);
        return true;
    }

    void set(std::size_t, double) noexcept override {}
    double tail_s() const noexcept override { return 10.0; }
    bool idle() const noexcept override { return left_over_ == 0 && fluid_synth_get_active_voice_count(synth_) == 0; }
    void note_on(VoiceId id, int key, int velocity) noexcept override {
        fluid_synth_pitch_bend(synth_, channel_, 8192);
        fluid_synth_noteon(synth_, channel_, key, velocity);
        holder_[static_cast<std::size_t>(key)] = id;
        held_[static_cast<std::size_t>(key)] = true;
    }
    void note_off(VoiceId id) noexcept override {
        // A key that was struck again is held by the later note alone.
        for (std::size_t key = 0; key < held_.size(); ++key)
            if (held_[key] && holder_[key] == id) {
                fluid_synth_noteoff(synth_, channel_, static_cast<int>(key));
                held_[key] = false;
            }
    }
    void bend(VoiceId, double cents) noexcept override {
        fluid_synth_pitch_bend(synth_, channel_, std::clamp(static_cast<int>(std::lround(8192.0 + cents / 1200.0 * 8192.0)), 0, 16383));
    }
    void reset() noexcept override {
        fluid_synth_all_sounds_off(synth_, channel_);
        // What is left of cut voices comes out here instead of in the new sound.
        std::array<float, kBlock> waste{};
        for (int i = 0; i < 4; ++i) fluid_synth_write_float(synth_, kBlock, waste.data(), 0, 1, waste.data(), 0, 1);
        fluid_synth_pitch_bend(synth_, channel_, 8192);
        held_.fill(false);
        left_over_ = 0;
        up_ = {};
    }
    void process(Stereo io, Stereo) noexcept override {
        for (std::size_t i = 0; i < io.size(); ++i) {
            if (left_over_ == 0) make_block();
            const auto at = static_cast<std::size_t>(made_ - left_over_--);
            io.left[i] += left_[at];
            io.right[i] += right_[at];
        }
    }

private:
    static constexpr int kBlock = 64;  // FluidSynth's own
    static constexpr double kMostRate = 96000.0;

    void make_block() noexcept {
        fluid_synth_write_float(synth_, kBlock, left_.data(), 0, 1, right_.data(), 0, 1);
        left_over_ = made_ = kBlock;
        if (!doubled_) return;
        std::array<Lanes4, kBlock> both;
        up_.interpolate(std::span(left_).first(kBlock), std::span(right_).first(kBlock), both);
        for (std::size_t i = 0; i < kBlock; ++i) {
            left_[2 * i] = both[i][0], right_[2 * i] = both[i][1];
            left_[2 * i + 1] = both[i][2], right_[2 * i + 1] = both[i][3];
        }
        left_over_ = made_ = 2 * kBlock;
    }

    fluid_settings_t* settings_ = nullptr;
    fluid_synth_t* synth_ = nullptr;
    int channel_ = 0, left_over_ = 0, made_ = kBlock;
    bool doubled_ = false;
    HalfBand up_;
    std::array<float, 2 * kBlock> left_{}, right_{};
    std::array<VoiceId, 128> holder_{};
    std::array<bool, 128> held_{};
};

}  // namespace

std::string default_soundfont() {
    for (const char* path : {"/usr/share/sounds/sf2/TimGM6mb.sf2", "/usr/share/sounds/sf2/default-GM.sf2", "/usr/share/sounds/sf3/default-GM.sf3",
                             "/usr/share/soundfonts/default.sf2"}) {
        std::error_code ec;
        if (std::filesystem::exists(path, ec)) return path;
    }
    return "timgm6mb.sf2";
}

const std::vector<std::string>& general_midi_names() {
    static const std::vector<std::string> names{"Grand piano",
                                                "Bright piano",
                                                "Electric grand",
                                                "Honky-tonk piano",
                                                "Electric piano 1",
                                                "Electric piano 2",
                                                "Harpsichord",
                                                "Clavinet",
                                                "Celesta",
                                                "Glockenspiel",
                                                "Music box",
                                                "Vibraphone",
                                                "Marimba",
                                                "Xylophone",
                                                "Tubular bells",
                                                "Dulcimer",
                                                "Drawbar organ",
                                                "Percussive organ",
                                                "Rock organ",
                                                "Church organ",
                                                "Reed organ",
                                                "Accordion",
                                                "Harmonica",
                                                "Tango accordion",
                                                "Nylon guitar",
                                                "Steel guitar",
                                                "Jazz guitar",
                                                "Clean guitar",
                                                "Muted guitar",
                                                "Overdriven guitar",
                                                "Distortion guitar",
                                                "Guitar harmonics",
                                                "Acoustic bass",
                                                "Fingered bass",
                                                "Picked bass",
                                                "Fretless bass",
                                                "Slap bass 1",
                                                "Slap bass 2",
                                                "Synth bass 1",
                                                "Synth bass 2",
                                                "Violin",
                                                "Viola",
                                                "Cello",
                                                "Contrabass",
                                                "Tremolo strings",
                                                "Pizzicato strings",
                                                "Harp",
                                                "Timpani",
                                                "String ensemble 1",
                                                "String ensemble 2",
                                                "Synth strings 1",
                                                "Synth strings 2",
                                                "Choir aahs",
                                                "Voice oohs",
                                                "Synth voice",
                                                "Orchestra hit",
                                                "Trumpet",
                                                "Trombone",
                                                "Tuba",
                                                "Muted trumpet",
                                                "French horn",
                                                "Brass section",
                                                "Synth brass 1",
                                                "Synth brass 2",
                                                "Soprano sax",
                                                "Alto sax",
                                                "Tenor sax",
                                                "Baritone sax",
                                                "Oboe",
                                                "English horn",
                                                "Bassoon",
                                                "Clarinet",
                                                "Piccolo",
                                                "Flute",
                                                "Recorder",
                                                "Pan flute",
                                                "Blown bottle",
                                                "Shakuhachi",
                                                "Whistle",
                                                "Ocarina",
                                                "Square lead",
                                                "Saw lead",
                                                "Calliope lead",
                                                "Chiff lead",
                                                "Charang lead",
                                                "Voice lead",
                                                "Fifths lead",
                                                "Bass and lead",
                                                "New age pad",
                                                "Warm pad",
                                                "Polysynth pad",
                                                "Choir pad",
                                                "Bowed pad",
                                                "Metallic pad",
                                                "Halo pad",
                                                "Sweep pad",
                                                "Rain",
                                                "Soundtrack",
                                                "Crystal",
                                                "Atmosphere",
                                                "Brightness",
                                                "Goblins",
                                                "Echoes",
                                                "Sci-fi",
                                                "Sitar",
                                                "Banjo",
                                                "Shamisen",
                                                "Koto",
                                                "Kalimba",
                                                "Bagpipe",
                                                "Fiddle",
                                                "Shanai",
                                                "Tinkle bell",
                                                "Agogo",
                                                "Steel drums",
                                                "Woodblock",
                                                "Taiko drum",
                                                "Melodic tom",
                                                "Synth drum",
                                                "Reverse cymbal",
                                                "Guitar fret noise",
                                                "Breath noise",
                                                "Seashore",
                                                "Bird tweet",
                                                "Telephone ring",
                                                "Helicopter",
                                                "Applause",
                                                "Gunshot"};
    return names;
}

namespace {

const std::vector<std::string>& no_patches() {
    static const std::vector<std::string> none;
    return none;
}

}  // namespace

const SourceType kSoundFont{"soundfont",
                            "SoundFont",
                            "Sampled instruments by General MIDI program",
                            {},
                            no_patches,
                            [](const std::string&, std::size_t) { return 0.0; },
                            [](const SourceSpec& spec, double rate) -> Result<std::unique_ptr<Processor>> {
                                const std::string path = spec.file.empty() ? default_soundfont() : spec.file;
                                auto player = std::make_unique<SoundFontPlayer>();
                                if (!open_file(path) || !player->load(path, spec.program, spec.drums, rate, spec.tuning_cents))
                                    return Error{ErrorCode::SoundFontUnusable, path, {}};
                                return std::unique_ptr<Processor>(std::move(player));
                            }};

}  // namespace fw

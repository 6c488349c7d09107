// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/soundfont.hpp"

#include "base/files.hpp"

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

class SoundFontPlayer final : public Instrument {
public:
    SoundFontPlayer() = default;
    ~SoundFontPlayer() override {
        if (synth_) delete_fluid_synth(synth_);
        if (settings_) delete_fluid_settings(settings_);
    }

    bool load(const std::string& file, int program, bool drums, double rate, double tuning_cents) {
        for (const int level : {FLUID_PANIC, FLUID_ERR, FLUID_WARN, FLUID_INFO, FLUID_DBG}) fluid_set_log_function(level, silent, nullptr);
        settings_ = new_fluid_settings();
        fluid_settings_setnum(settings_, "synth.sample-rate", rate);
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
        program_ = program;
        bank_ = drums ? 128 : 0;
        font_ = font;
        // Drums keep their own pitch: their keys are sounds, not notes.
        if (!drums) fluid_synth_set_gen(synth_, channel_, GEN_FINETUNE, static_cast<float>(tuning_cents));
        start();
        return true;
    }

    void note_on(int key, int velocity) noexcept override {
        fluid_synth_pitch_bend(synth_, channel_, 8192);
        fluid_synth_noteon(synth_, channel_, key, velocity);
    }
    void note_off(int key) noexcept override { fluid_synth_noteoff(synth_, channel_, key); }
    void bend(int, double cents) noexcept override {
        fluid_synth_pitch_bend(synth_, channel_, std::clamp(static_cast<int>(std::lround(8192.0 + cents / 1200.0 * 8192.0)), 0, 16383));
    }
    void reset() noexcept override {
        fluid_synth_all_sounds_off(synth_, channel_);
        // What is left of cut voices and of the last block comes out here instead of in the new sound.
        std::array<float, 64> waste{};
        for (int i = 0; i < 4; ++i) fluid_synth_write_float(synth_, 64, waste.data(), 0, 1, waste.data(), 0, 1);
        fluid_synth_pitch_bend(synth_, channel_, 8192);
    }
    void render(std::span<float> left, std::span<float> right) noexcept override {
        std::array<float, 256> l, r;
        for (std::size_t at = 0; at < left.size(); at += l.size()) {
            const std::size_t n = std::min(l.size(), left.size() - at);
            fluid_synth_write_float(synth_, static_cast<int>(n), l.data(), 0, 1, r.data(), 0, 1);
            for (std::size_t i = 0; i < n; ++i) {
                left[at + i] += l[i];
                right[at + i] += r[i];
            }
        }
    }

private:
    void start() {
        fluid_synth_program_select(synth_, channel_, static_cast<unsigned>(font_), static_cast<unsigned>(bank_), static_cast<unsigned>(program_));
        fluid_synth_pitch_wheel_sens(synth_, channel_, 12);
    }

    fluid_settings_t* settings_ = nullptr;
    fluid_synth_t* synth_ = nullptr;
    int channel_ = 0, program_ = 0, bank_ = 0, font_ = 0;
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

Result<std::unique_ptr<Instrument>> make_soundfont(const std::string& file, int program, bool drums, double sample_rate_hz, double tuning_cents) {
    const std::string path = file.empty() ? default_soundfont() : file;
    auto player = std::make_unique<SoundFontPlayer>();
    if (!open_file(path) || !player->load(path, program, drums, sample_rate_hz, tuning_cents)) return Error{ErrorCode::SoundFontUnusable, path, {}};
    return std::unique_ptr<Instrument>(std::move(player));
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/sources/synth_fields.hpp"

namespace fw::synth {

namespace {

constexpr const char *kOscillator1 = "First oscillator", *kOscillator2 = "Second oscillator", *kBelow = "Sub and noise", *kFilter = "Filter",
                     *kSweeping = "Filter's envelope", *kLevel = "Level's envelope", *kPitch = "Pitch and playing", *kWave1 = "First LFO",
                     *kWave2 = "Second LFO", *kSingly = "Partials of the wave “partials”";

constexpr std::array<const char*, kPartials> kPartialIds{"p1",  "p2",  "p3",  "p4",  "p5",  "p6",  "p7",  "p8",  "p9",  "p10", "p11",
                                                         "p12", "p13", "p14", "p15", "p16", "p17", "p18", "p19", "p20", "p21", "p22",
                                                         "p23", "p24", "p25", "p26", "p27", "p28", "p29", "p30", "p31", "p32"};
constexpr std::array<const char*, kPartials> kPartialLabels{
    "Partial 1",  "Partial 2",  "Partial 3",  "Partial 4",  "Partial 5",  "Partial 6",  "Partial 7",  "Partial 8",  "Partial 9",  "Partial 10", "Partial 11",
    "Partial 12", "Partial 13", "Partial 14", "Partial 15", "Partial 16", "Partial 17", "Partial 18", "Partial 19", "Partial 20", "Partial 21", "Partial 22",
    "Partial 23", "Partial 24", "Partial 25", "Partial 26", "Partial 27", "Partial 28", "Partial 29", "Partial 30", "Partial 31", "Partial 32"};

constexpr Parameter choice(const char* id, const char* label, std::span<const char* const> choices, double neutral, const char* help, const char* group) {
    return {id, label, Unit::None, 0.0, static_cast<double>(choices.size() - 1), neutral, Scale::Choice, 1.0, false, help, choices, group};
}
constexpr Parameter time_ms(const char* id, const char* label, double low, double high, double neutral, const char* help, const char* group) {
    return {id, label, Unit::Milliseconds, low, high, neutral, Scale::Logarithmic, 0.05, true, help, {}, group};
}
constexpr Parameter share(const char* id, const char* label, double neutral, const char* help, const char* group, double low = 0.0) {
    return {id, label, Unit::Share, low, 1.0, neutral, Scale::Linear, 0.02, true, help, {}, group};
}
constexpr Parameter frequency(const char* id, const char* label, double neutral, const char* help, const char* group) {
    return {id, label, Unit::Hertz, 20.0, 20000.0, neutral, Scale::Logarithmic, 0.02, true, help, {}, group};
}
constexpr Parameter linear(const char* id, const char* label, Unit unit, double low, double high, double neutral, double step, const char* help,
                           const char* group) {
    return {id, label, unit, low, high, neutral, Scale::Linear, step, true, help, {}, group};
}

/// The ids an LFO's fields have.
struct LfoIds {
    const char *shape, *rate, *timed, *every, *delay, *restart, *pitch, *cutoff, *resonance, *pulse, *level;
};

constexpr void add_lfo(std::array<Parameter, kCount>& all, std::size_t at, const LfoIds& id, const char* group) {
    all[at + kShape] = choice(id.shape, "Shape", kShapes, 0.0, "How it moves", group);
    all[at + kRate] = {id.rate, "Rate", Unit::Hertz, 0.02, 40.0, 4.0, Scale::Logarithmic, 0.02, true, "How often it comes round", {}, group};
    all[at + kTimed] = {id.timed, "By note values", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "Its period follows the tempo", {}, group};
    all[at + kEvery] = {id.every, "Every", Unit::Beats, 0.0625, 16.0, 1.0, Scale::Logarithmic, 0.05, true, "Its period, where it goes by note values",
                        {},       group};
    all[at + kFadeIn] = {id.delay, "Fades in", Unit::Milliseconds, 0.0, 5000.0, 0.0, Scale::Linear, 10.0, true, "Until it moves in full", {}, group};
    all[at + kRestart] = {id.restart, "Restarts", Unit::None, 0.0, 1.0, 1.0, Scale::Switch, 1.0, false, "Each note begins it anew; else it runs freely",
                          {},         group};
    all[at + kToPitch] = linear(id.pitch, "To pitch", Unit::Cents, -2400.0, 2400.0, 0.0, 1.0, "Cents to either side", group);
    all[at + kToCutoff] = linear(id.cutoff, "To cutoff", Unit::Octaves, -4.0, 4.0, 0.0, 0.05, "Octaves to either side", group);
    all[at + kToResonance] = share(id.resonance, "To resonance", 0.0, "Up and down", group, -1.0);
    all[at + kToPulse] = share(id.pulse, "To pulse", 0.0, "Wider and narrower", group, -1.0);
    all[at + kToLevel] = share(id.level, "To level", 0.0, "How far it takes the level down", group);
}

constexpr std::array<Parameter, kCount> make_fields() {
    std::array<Parameter, kCount> f{};
    f[kFirst] = choice("wave", "Wave", kWaves, 2.0, "The first oscillator's", kOscillator1);
    f[kOctave] = {"octave_up", "Octave", Unit::Octaves, -3.0, 3.0, 0.0, Scale::Whole, 1.0, false, "Above the note", {}, kOscillator1};
    f[kFine] = linear("fine", "Fine tune", Unit::Cents, -100.0, 100.0, 0.0, 0.5, "Up or down besides", kOscillator1);
    f[kPulse] = {"pulse", "Pulse", Unit::Share, 0.02, 0.98, 0.5, Scale::Linear, 0.01, true, "Width of the square's upper part", {}, kOscillator1};
    f[kUnison] = {"unison", "Unison", Unit::None, 1.0, kMostUnison, 1.0, Scale::Whole, 1.0, false, "How many of it sound at once", {}, kOscillator1};
    f[kUnisonDetune] = linear("unison_detune", "Unison detune", Unit::Cents, 0.0, 100.0, 12.0, 0.5, "The outermost of them, to either side", kOscillator1);
    f[kUnisonWidth] = share("unison_width", "Unison width", 0.5, "How far apart they lie", kOscillator1);
    f[kSecond] = choice("second_wave", "Second wave", kWaves, 2.0, "The second oscillator's", kOscillator2);
    f[kSecondLevel] = share("second_level", "Second level", 0.0, "How much of the second oscillator", kOscillator2);
    f[kInterval] = linear("interval", "Interval", Unit::Semitones, -36.0, 36.0, 0.0, 0.01, "Above the first", kOscillator2);
    f[kDetune] = linear("detune", "Detune", Unit::Cents, 0.0, 50.0, 0.0, 0.5, "Its two sides, up and down", kOscillator2);
    f[kSecondPulse] = {"second_pulse", "Second pulse", Unit::Share, 0.02, 0.98, 0.5, Scale::Linear, 0.01, true, "Width of its square's upper part", {},
                       kOscillator2};
    f[kSecondWidth] = share("width", "Width", 0.0, "How far its two sides lie apart", kOscillator2);
    f[kSub] = choice("sub_wave", "Sub wave", kSubWaves, 0.0, "Of the oscillator below", kBelow);
    f[kSubLevel] = share("sub_level", "Sub level", 0.0, "How much of it", kBelow);
    f[kSubOctave] = {"sub_octave", "Sub octave", Unit::Octaves, -2.0, -1.0, -1.0, Scale::Whole, 1.0, false, "Below the first", {}, kBelow};
    f[kNoise] = {"noise", "Noise", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.01, true, "How much noise besides", {}, kBelow};
    f[kNoiseLow] = frequency("noise_low", "Noise from", 20.0, "Its lowest", kBelow);
    f[kNoiseHigh] = frequency("noise_high", "Noise up to", 20000.0, "Its highest", kBelow);
    f[kPass] = choice("filter", "Kind", kPasses, 0.0, "What it lets through", kFilter);
    f[kSlope] = choice("slope", "Slope", kSlopes, 0.0, "An octave", kFilter);
    f[kCutoff] = frequency("cutoff", "Cutoff", 2000.0, "At C4, before its envelope opens it", kFilter);
    f[kTracking] = share("tracking", "Key tracking", 0.5, "How far the cutoff follows the notes", kFilter);
    f[kResonance] = share("resonance", "Resonance", 0.0, "How much it rings at the cutoff", kFilter);
    f[kFilterDrive] = linear("filter_drive", "Drive", Unit::Decibels, 0.0, 24.0, 0.0, 0.5, "How hard it is driven", kFilter);
    f[kSweep] = linear("sweep", "Sweep", Unit::Octaves, -6.0, 6.0, 0.0, 0.1, "How far its envelope moves the cutoff", kSweeping);
    f[kResonanceSweep] = share("resonance_sweep", "Resonance sweep", 0.0, "How far its envelope moves the resonance", kSweeping, -1.0);
    f[kSweepAttack] = time_ms("sweep_attack_ms", "Sweep attack", 1.0, 5000.0, 5.0, "Until the filter is open", kSweeping);
    f[kSweepDecay] = time_ms("sweep_decay_ms", "Sweep decay", 5.0, 10000.0, 300.0, "From there to where it stays", kSweeping);
    f[kSweepSustain] = share("sweep_sustain", "Sweep sustain", 0.5, "Where it stays", kSweeping);
    f[kSweepRelease] = time_ms("sweep_release_ms", "Sweep release", 5.0, 10000.0, 200.0, "Until it is closed", kSweeping);
    f[kSweepCurve] = share("sweep_curve", "Sweep curve", 0.25, "0 % falls at once and then slowly, 100 % evenly", kSweeping);
    f[kAttack] = time_ms("attack_ms", "Attack", 1.0, 5000.0, 5.0, "Until a note is at its loudest", kLevel);
    f[kDecay] = time_ms("decay_ms", "Decay", 5.0, 10000.0, 400.0, "From there to what is held", kLevel);
    f[kSustain] = share("sustain", "Sustain", 0.8, "What is held", kLevel);
    f[kRelease] = time_ms("release_ms", "Release", 5.0, 10000.0, 100.0, "Until it is silent", kLevel);
    f[kCurve] = share("curve", "Curve", 0.25, "0 % falls at once and then slowly, 100 % evenly", kLevel);
    f[kPunch] = linear("punch", "Pitch punch", Unit::Semitones, -48.0, 48.0, 0.0, 0.1, "How much higher a note begins", kPitch);
    f[kPunchTime] = time_ms("punch_ms", "Punch time", 2.0, 5000.0, 60.0, "Until it has its pitch", kPitch);
    f[kPlay] = choice("play", "Voices", kPlays, 0.0, "One voice or many; legato goes on without a new stroke", kPitch);
    f[kGlide] = linear("glide_ms", "Glide", Unit::Milliseconds, 0.0, 3000.0, 0.0, 5.0, "From note to note", kPitch);
    f[kGlideAlways] = {"glide_always", "Glide always", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "Else only from notes that are still held", {},
                       kPitch};
    f[kVibrato] = linear("vibrato", "Vibrato", Unit::Cents, 0.0, 100.0, 0.0, 1.0, "How far held notes waver", kPitch);
    f[kDrift] = linear("drift", "Drift", Unit::Cents, 0.0, 40.0, 0.0, 0.5, "How far the pitch wanders", kPitch);
    f[kWearing] = share("wear", "Wear", 0.0, "How unlike each other its notes are", kPitch);
    f[kPhases] = {"phases", "Same phase", Unit::None, 0.0, 1.0, 1.0, Scale::Switch, 1.0, false, "Each note begins at the same place of its wave", {}, kPitch};
    f[kTrim] = linear("trim", "Trim", Unit::Decibels, -24.0, 12.0, -6.0, 0.5, "The sound's own loudness", kPitch);
    add_lfo(f, kLfo,
            {"lfo_shape", "lfo_rate", "lfo_timed", "lfo_every", "lfo_delay_ms", "lfo_restart", "lfo_pitch", "lfo_cutoff", "lfo_resonance", "lfo_pulse",
             "lfo_level"},
            kWave1);
    add_lfo(f, kLfo2,
            {"lfo2_shape", "lfo2_rate", "lfo2_timed", "lfo2_every", "lfo2_delay_ms", "lfo2_restart", "lfo2_pitch", "lfo2_cutoff", "lfo2_resonance",
             "lfo2_pulse", "lfo2_level"},
            kWave2);
    for (std::size_t i = 0; i < kPartials; ++i)
        f[kPartial + i] = {kPartialIds[i],
                           kPartialLabels[i],
                           Unit::Share,
                           0.0,
                           1.0,
                           1.0 / static_cast<double>(i + 1),
                           Scale::Linear,
                           0.01,
                           true,
                           "How much of it; neutral is a saw's",
                           {},
                           kSingly};
    return f;
}

constexpr std::array<Parameter, kCount> kFields = make_fields();

}  // namespace

std::span<const Parameter> fields() { return kFields; }

double value_in(const Patch& patch, std::size_t field) {
    for (const auto& [f, value] : patch.values)
        if (static_cast<std::size_t>(f) == field) return value;
    return kFields[field].neutral;
}

}  // namespace fw::synth

// SPDX-License-Identifier: GPL-3.0-or-later
// What findings are called, in what order they stand, and which of sound outlast an edit.
#include "check/check.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <string_view>

namespace fw {

const char* finding_kind_name(FindingKind kind) {
    static constexpr std::array kNames{"missing_note", "extra_note",      "wrong_pitch", "early",      "late",    "missing_hit", "extra_hit",
                                       "wrong_chord",  "missing_element", "tone",        "transposed", "shifted", "loudness",    "width",
                                       "envelope",     "noise",           "peak",        "balance",    "silent",  "too_short",   "too_long"};
    return kNames[static_cast<std::size_t>(kind)];
}

const char* finding_cause_name(FindingKind kind) {
    static constexpr std::array kNames{"missing", "extra", "pitch", "time",  "time",  "missing", "extra", "chord", "part", "sound", "part",
                                       "part",    "sound", "sound", "sound", "sound", "sound",   "sound", "part",  "part", "part"};
    return kNames[static_cast<std::size_t>(kind)];
}

/// What concerns a whole part or the whole mix is heard all along; a note by how far what sounds around its pitch lies below the loudest there.
double audible(const Finding& f, const SoundSummary* original) {
    switch (f.kind) {
        case FindingKind::MissingElement:
        case FindingKind::Transposed:
        case FindingKind::Shifted:
        case FindingKind::TooShort:
        case FindingKind::TooLong:
        case FindingKind::Silent: return 1.0;
        case FindingKind::Tone:
        case FindingKind::Level:
        case FindingKind::Width:
        case FindingKind::Envelope:
        case FindingKind::Noise:
        case FindingKind::Balance:
        case FindingKind::Peak: return std::clamp(std::abs(f.size) / 12.0, 0.2, 1.0);
        case FindingKind::WrongChord: return 0.8;
        default: break;
    }
    constexpr double kUsual = 0.5, kSoft_db = 40.0;
    if (!original || f.role == PartRole::Drums) return kUsual;
    const auto [from, to] = original->frames_between(f.start_s, std::max(f.end_s, f.start_s + 0.2));
    double loudest = SoundSummary::kFloor_db, here = SoundSummary::kFloor_db;
    for (std::size_t frame = from; frame < to; ++frame)
        for (int s = 0; s < SoundSummary::kSemitones; ++s) {
            const double db = original->db_at(frame, static_cast<std::size_t>(s));
            const int pitch = SoundSummary::kLowestSemitone + s;
            loudest = std::max(loudest, db);
            if (std::abs(pitch - f.pitch) <= 1 || std::abs(pitch - f.expected_pitch) <= 1) here = std::max(here, db);
        }
    return to > from ? std::clamp(1.0 - (loudest - here) / kSoft_db, 0.1, 1.0) : kUsual;
}

bool is_of_whole_part(const Finding& f) {
    return f.kind == FindingKind::MissingElement || f.kind == FindingKind::Transposed || f.kind == FindingKind::Shifted || f.kind == FindingKind::Silent ||
           f.kind == FindingKind::TooShort || f.kind == FindingKind::TooLong;
}

bool is_of_sound(const Finding& f) { return std::string_view(finding_cause_name(f.kind)) == "sound"; }

void put_in_order(std::vector<Finding>& findings) {
    // By whole hundredths, so that what is equally bad stands in order of time; comparing within a tolerance would be no order at all.
    const auto badness = [](const Finding& f) { return std::lround(f.confidence * (0.4 + 0.6 * f.audible) * 100.0); };
    std::stable_sort(findings.begin(), findings.end(),
                     [&](const Finding& a, const Finding& b) { return badness(a) != badness(b) ? badness(a) > badness(b) : a.start_s < b.start_s; });
}

std::string sound_title(const Finding& f) {
    std::string title = finding_kind_name(f.kind);
    if (f.kind == FindingKind::Width) title += " " + f.band;
    else if (f.center_hz > 0.0) title += " " + std::to_string(std::lround(f.center_hz)) + " Hz";
    return f.element ? title + " of " + f.name : title;
}

bool sound_is_meant(const Remake& remake, const Finding& f) {
    if (f.element) {
        const ElementState state = remake.element(*f.element);
        if (!state.intended.empty() || state.state == State::LeftOut) return true;
    }
    const Ticks at = std::max<Ticks>(0, remake.song->tempo.nearest_tick(f.start_s));  // the whole song begins before its first beat
    return std::any_of(remake.notebook->remarks.begin(), remake.notebook->remarks.end(), [&](const Remark& m) {
        return m.kind == RemarkKind::Intended && m.element == ElementId::sections() && std::abs(m.start - at) <= 1 && m.words.starts_with(sound_title(f) + ":");
    });
}

void keep_sound(const Remake& remake, const CheckReport& from, CheckReport& report) {
    report.sound = from.sound;
    report.match.sound = from.match.sound;
    for (const Finding& f : from.findings)
        if (is_of_sound(f) && !sound_is_meant(remake, f)) report.findings.push_back(f);
    put_in_order(report.findings);
}

}  // namespace fw

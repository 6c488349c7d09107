// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/part_findings.hpp"

namespace fw {

namespace {

Finding of_a_part(FindingKind kind, PartRole role, double duration_s, double size, const char* unit, double confidence) {
    Finding f;
    f.kind = kind;
    f.role = role;
    f.end_s = duration_s;
    f.size = size;
    f.unit = unit;
    f.confidence = confidence;
    return f;
}

}  // namespace

Finding missing_part(PartRole role, double duration_s) {
    Finding f = of_a_part(FindingKind::MissingElement, role, duration_s, 1.0, "part", 0.9);
    f.name = part_role_name(role);
    f.bar = 1;
    f.beat = 1;
    f.remedy = remedy::AddPart{role};
    return f;
}

Finding missing_sound(int key, int strokes, double duration_s) {
    Finding f = of_a_part(FindingKind::MissingElement, PartRole::Drums, duration_s, strokes, "hits", 0.9);
    f.expected_pitch = key;
    f.remedy = remedy::AddPart{PartRole::Drums};
    return f;
}

Finding silent_part(const Part& part, double duration_s) {
    Finding f = of_a_part(FindingKind::Silent, part.role, duration_s, 1.0, "part", 0.95);
    if (part.mute) f.remedy = remedy::Unmute{};
    else f.remedy = remedy::ByEar{"raise its level, switch a layer on, or end the solo of others"};
    return f;
}

std::optional<Finding> off_as_a_whole(const Song& song, PartRole role, const WrittenPart& written, const WholePart& whole,
                                      const std::optional<HeardLengths>& lengths) {
    // Right parts lie between .67 and 1.9 but for one in a hundred, which rings on (docs/accuracy.md).
    constexpr double kTooShort = 2.5, kTooLong = 0.4, kSure = 0.85;
    if (written.notes.empty()) return std::nullopt;
    Finding f = of_a_part(FindingKind::Shifted, role, written.notes.back().end_s, 0.0, "ms", 0.9);
    f.start_s = written.notes.front().onset_s;
    if (whole.late_s) {
        f.size = *whole.late_s * 1000.0;
        f.remedy = remedy::ShiftPart{song.tempo.nearest_tick(f.start_s - *whole.late_s) - song.tempo.nearest_tick(f.start_s)};
    } else if (whole.up) {
        f.kind = FindingKind::Transposed;
        f.size = *whole.up;
        f.unit = "semitones";
        f.remedy = remedy::TransposePart{-*whole.up};
    } else if (lengths && (lengths->times >= kTooShort || lengths->times <= kTooLong)) {
        // Of what is written elsewhere than it is heard nothing can be said of how long.
        f.kind = lengths->times > 1.0 ? FindingKind::TooShort : FindingKind::TooLong;
        f.size = lengths->times;
        f.unit = "times";
        f.confidence = kSure;
        f.remedy = remedy::LengthenPart{lengths->times};
    } else {
        return std::nullopt;
    }
    return f;
}

}  // namespace fw

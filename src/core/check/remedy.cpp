// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/remedy.hpp"

#include "model/edits.hpp"

#include <cmath>

namespace fw {

namespace {

/// The part's note of a pitch nearest to a time, within a tenth of a second.
std::optional<PlacedNote> note_near(const Remake& r, const Part& part, double time_s, int pitch) {
    std::optional<PlacedNote> best;
    double nearest = 0.1;
    for (const PlacedNote& n : placed_notes(part))
        if (n.note.pitch == pitch)
            if (const double d = std::abs(r.tempo.seconds(n.note.start) - time_s); d < nearest) nearest = d, best = n;
    return best;
}

}  // namespace

std::optional<Remake> apply_remedy(const Remake& r, const Finding& f) {
    if (f.kind == FindingKind::WrongChord) {
        const auto at = f.remedy.rfind(' ');
        const auto chord = at == std::string::npos ? std::nullopt : parse_chord(f.remedy.substr(at + 1));
        if (!chord) return std::nullopt;
        return set_chord(r, r.tempo.nearest_tick(f.start_s + 0.01), *chord);
    }
    if (f.element_id.rfind("part:", 0) != 0) return std::nullopt;
    const int id = std::stoi(f.element_id.substr(5));
    const Part* part = r.part(id);
    if (!part) return std::nullopt;
    if (f.kind == FindingKind::MissingNote || f.kind == FindingKind::MissingHit) {
        Note n;
        n.start = r.tempo.nearest_tick(f.start_s);
        n.length = std::max<Ticks>(kTicksPerQuarter / 16, r.tempo.nearest_tick(f.end_s) - n.start);
        n.pitch = f.expected_pitch;
        n.velocity = f.kind == FindingKind::MissingHit ? static_cast<int>(std::lround(f.size)) : 96;
        n.confidence = f.confidence;
        return add_note(r, id, n);
    }
    const auto note = note_near(r, *part, f.start_s, f.pitch);
    if (!note) return std::nullopt;
    const std::vector<NoteRef> ref{{note->placement, note->index}};
    switch (f.kind) {
        case FindingKind::ExtraNote:
        case FindingKind::ExtraHit: return remove_notes(r, id, ref);
        case FindingKind::WrongPitch: return change_notes(r, id, ref, 0, f.expected_pitch - f.pitch, 0);
        case FindingKind::Early:
        case FindingKind::Late: {
            const double target = f.start_s + (f.kind == FindingKind::Early ? 1 : -1) * f.size / 1000.0;
            return change_notes(r, id, ref, r.tempo.nearest_tick(target) - note->note.start, 0, 0);
        }
        default: return std::nullopt;
    }
}

}  // namespace fw

// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/share.hpp"

#include "base/pitch.hpp"
#include "model/drums.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

/// Where the noise of a stroke lies and how long it is let through.
struct Stroke {
    float low_hz, high_hz, power;
    double seconds;
};
constexpr std::array<Stroke, kDrumKinds> kStrokes{{/* kick */ {30, 180, 4, 0.25},
                                                   /* snare */ {140, 9000, 1, 0.22},
                                                   /* clap */ {600, 9000, 1, 0.2},
                                                   /* rim */ {400, 6000, 1, 0.1},
                                                   /* closed hat */ {5000, 18000, 1, 0.1},
                                                   /* open hat */ {4500, 18000, 1, 0.35},
                                                   /* tom */ {60, 900, 2, 0.35},
                                                   /* crash */ {2500, 18000, 1, 1.2},
                                                   /* ride */ {3000, 16000, 1, 0.6},
                                                   /* percussion */ {300, 9000, 0.7F, 0.15}}};

class Shares {
public:
    explicit Shares(double tuning_cents) : cents_(tuning_cents) {}

    void note(double start_s, double end_s, int pitch, double confidence, bool mine) {
        const auto hz = static_cast<float>(hertz_of(pitch + cents_ / 100.0));
        add({start_s, std::max(end_s, start_s + 0.05), hz, 0.0F, 0.0F, static_cast<float>(std::max(0.1, confidence)), mine});
    }
    void stroke(double time_s, DrumKind kind, double confidence, bool mine) {
        const Stroke& s = kStrokes[static_cast<std::size_t>(kind)];
        add({time_s, time_s + s.seconds, 0.0F, s.low_hz, s.high_hz, s.power * static_cast<float>(std::max(0.1, confidence)), mine});
    }
    std::shared_ptr<const Share> done() {
        std::stable_sort(share_.tones.begin(), share_.tones.end(), [](const Share::Tone& a, const Share::Tone& b) { return a.start_s < b.start_s; });
        return std::make_shared<const Share>(std::move(share_));
    }

private:
    void add(const Share::Tone& tone) {
        share_.longest_s = std::max(share_.longest_s, tone.end_s - tone.start_s);
        share_.tones.push_back(tone);
    }
    double cents_;
    Share share_;
};

const HeardPart* heard_for(const Analysis& a, const Part& part) {
    for (const HeardPart& h : a.parts)
        if (h.role == part.role && h.name == part.name) return &h;
    for (const HeardPart& h : a.parts)
        if (h.role == part.role && part.role != PartRole::Other) return &h;
    return nullptr;
}

}  // namespace

std::shared_ptr<const Share> share_of(const Analysis& a, const Remake& remake, ElementId element) {
    Shares shares(a.tuning.cents);
    if (element == ElementId::chords()) {
        for (const ChordEvent& c : remake.song->chords)
            for (const int pc : c.chord.tones())
                for (int octave = 3; octave <= 5; ++octave)
                    shares.note(remake.song->tempo.seconds(c.start), remake.song->tempo.seconds(c.start + c.length), 12 * (octave + 1) + pc, 1.0, true);
        for (const Hit& h : a.drums) shares.stroke(h.time_s, h.kind, h.confidence, false);
        return shares.done();
    }
    const Part* part = remake.part(element.part());
    if (!part) return nullptr;
    const HeardPart* heard = part->role == PartRole::Drums ? nullptr : heard_for(a, *part);
    for (const HeardPart& h : a.parts)
        for (const HeardNote& n : h.notes) shares.note(n.onset_s, n.onset_s + n.duration_s, n.pitch, n.confidence, &h == heard);
    for (const Hit& h : a.drums) shares.stroke(h.time_s, h.kind, h.confidence, part->role == PartRole::Drums);
    if (!heard && part->role != PartRole::Drums)
        for (const PlacedNote& n : placed_notes(*part))
            shares.note(remake.song->tempo.seconds(n.note.start), remake.song->tempo.seconds(n.note.start + n.note.length), n.note.pitch, 1.0, true);
    return shares.done();
}

std::shared_ptr<const Share> share_of_drum(const Analysis& a, DrumKind kind) {
    Shares shares(a.tuning.cents);
    for (const HeardPart& h : a.parts)
        for (const HeardNote& n : h.notes) shares.note(n.onset_s, n.onset_s + n.duration_s, n.pitch, n.confidence, false);
    for (const Hit& h : a.drums) shares.stroke(h.time_s, h.kind, h.confidence, h.kind == kind);
    return shares.done();
}

Lens lens_of(const Finding& f, const Analysis& a, const Remake& remake) {
    Lens lens;
    const int pitch = f.expected_pitch >= 0 ? f.expected_pitch : f.pitch;
    if (f.center_hz > 0.0) {
        // An octave and a little around the band.
        lens.kind = LensKind::Band;
        lens.low_hz = std::max(20.0, f.center_hz / 1.6);
        lens.high_hz = f.center_hz * 1.6;
    } else if (f.role == PartRole::Drums && pitch >= 0) {
        if (const DrumSound* drum = drum_sound_of_key(pitch)) {
            lens.kind = LensKind::Element;
            lens.share = share_of_drum(a, drum->kind);
        }
    } else if (pitch >= 0) {
        lens.kind = LensKind::Pitch;
        lens.pitch_hz = hertz_of(pitch + a.tuning.cents / 100.0);
    } else if (f.element) {
        lens.share = share_of(a, remake, *f.element);
        if (lens.share) lens.kind = LensKind::Element;
    }
    return lens;
}

}  // namespace fw

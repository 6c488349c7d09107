#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Composes random songs with full truth, for training the hearing networks.

compose(seed) returns a Song: MIDI tracks plus beats, notes with roles and drum hits, all in seconds.
Nothing here is taken from existing music: every line is drawn from scales, chord functions and rhythm cells.
"""
import dataclasses
import numpy as np
import mido

TICKS = 480
MODES = {"major": [0, 2, 4, 5, 7, 9, 11], "minor": [0, 2, 3, 5, 7, 8, 10], "dorian": [0, 2, 3, 5, 7, 9, 10],
         "mixolydian": [0, 2, 4, 5, 7, 9, 10], "phrygian": [0, 1, 3, 5, 7, 8, 10], "harmonic": [0, 2, 3, 5, 7, 8, 11]}
# Which degree tends to follow which: enough to sound like music, loose enough to cover much of it.
NEXT_DEGREE = {0: [3, 4, 5, 1, 2, 6], 1: [4, 4, 6, 0], 2: [5, 3, 1], 3: [4, 0, 1, 5], 4: [0, 5, 3, 0], 5: [3, 1, 4, 2], 6: [0, 5, 2]}
BASS_PROGRAMS = [32, 33, 34, 35, 36, 37, 38, 39, 32, 33, 34, 38, 43, 58, 87, 81]
CHORD_PROGRAMS = [0, 1, 2, 4, 5, 6, 7, 11, 12, 16, 17, 18, 19, 21, 24, 25, 26, 27, 28, 29, 30, 46, 48, 49, 50, 51, 52, 61, 62, 63,
                  88, 89, 90, 91, 92, 94, 95, 0, 0, 4, 24, 25, 27, 48]
LEAD_PROGRAMS = [0, 11, 13, 21, 22, 23, 26, 27, 29, 30, 40, 41, 42, 52, 53, 54, 56, 57, 59, 60, 64, 65, 66, 67, 68, 69, 71, 72, 73, 74,
                 75, 76, 78, 79, 80, 81, 82, 83, 84, 85, 87, 105, 110, 111]
PLUCK_PROGRAMS = [8, 9, 10, 11, 12, 13, 24, 25, 26, 27, 28, 45, 46, 80, 81, 104, 105, 106, 107, 108, 6, 4, 5, 114]
DECAYING = set(range(0, 16)) | set(range(24, 29)) | {32, 33, 34, 35, 36, 37, 45, 46, 47, 104, 105, 106, 107, 108, 114}
KITS = [0, 0, 0, 8, 16, 24, 25, 32, 40, 40, 48]


@dataclasses.dataclass
class Song:
    midi: mido.MidiFile   # everything
    pitched: dict         # channel -> [(onset_s, end_s, pitch, velocity)]
    beats: list       # (time_s, beat in bar from 1)
    notes: list       # (onset_s, end_s, pitch, velocity, role)   role: 0 other, 1 bass, 2 lead
    hits: list        # (time_s, kind, velocity)
    length_s: float
    unknown: tuple = ()   # of "beat", "downbeat", "bass", "lead": what this truth does not tell


KIND_OF_KEY = {35: "kick", 36: "kick", 38: "snare", 40: "snare", 39: "clap", 37: "rim", 42: "hat_closed", 44: "hat_closed", 46: "hat_open",
               41: "tom", 43: "tom", 45: "tom", 47: "tom", 48: "tom", 50: "tom", 49: "crash", 57: "crash", 52: "crash", 55: "crash",
               51: "ride", 59: "ride", 53: "ride"}


def pick(rng, options, weights=None):
    if weights is not None:
        weights = np.asarray(weights, float) / np.sum(weights)
    return options[rng.choice(len(options), p=weights)]


def chord_tones(rng, scale, degree, richness):
    """Pitch classes (root first) of a diatonic chord, sometimes altered."""
    third = [scale[(degree + s) % 7] for s in (0, 2, 4)]
    kind = rng.random()
    if kind < 0.25 * richness + 0.05:
        third.append(scale[(degree + 6) % 7])
    elif kind < 0.33 * richness + 0.08:
        third[1] = scale[(degree + pick(rng, [1, 3])) % 7]
    elif kind < 0.40 * richness + 0.08:
        third.append(scale[(degree + 5) % 7])
    elif kind < 0.45 * richness + 0.10:
        root = third[0]
        third = [root, (root + 4) % 12, (root + 7) % 12, (root + 10) % 12]
    elif kind > 0.97:
        root = third[0]
        third = [root, (root + 7) % 12]
    return third


def progression(rng, scale, bars, per_bar):
    """One chord per half bar, bar or two bars, ending so that it can repeat."""
    richness, slots = rng.random(), []
    hold = pick(rng, [1, 2, 2, 2, 4])
    degree = pick(rng, [0, 0, 0, 5, 3])
    for i in range(bars * 2):
        if i and i % hold == 0:
            degree = pick(rng, NEXT_DEGREE[degree])
        if i % hold == 0:
            chord = chord_tones(rng, scale, degree, richness)
        slots.append(chord)
    return slots


def rhythm(rng, steps, density, accent_every):
    """Onset steps of one bar, strong places first; in some bars groups of three over an even beat."""
    if steps in (8, 16) and rng.random() < 0.15:
        group, shift = pick(rng, [[0, 3, 6], [0, 3, 6, 8, 11, 14], [0, 3, 6, 9, 12, 14], [0, 3, 4, 6], [0, 6, 8, 14], [2, 5, 8, 11, 14]]), 0
        return [s + shift for s in group if s < steps] + ([s + 8 for s in group if s + 8 < steps and len(group) == 3] if steps == 16 else [])
    chance = np.full(steps, density * 0.5)
    chance[::2] = density
    chance[::accent_every] = min(1.0, density * 1.5)
    out = [s for s in range(steps) if rng.random() < chance[s]]
    return out or [0]


def near(pc, around):
    """The pitch of class pc nearest to `around`."""
    low = int(round(around)) - 6
    return low + (pc - low) % 12


class Writer:
    """Collects notes and hits in musical steps and turns them into seconds with the song's own feel."""

    def __init__(self, rng, step_time):
        self.rng, self.step_time = rng, step_time
        self.notes, self.hits, self.events = [], [], []

    def note(self, channel, role, start, steps, pitch, velocity, jitter, program):
        start = max(0, start)
        if not 21 <= pitch <= 108:
            return
        t0 = max(0.0, self.step_time(start) + self.rng.normal(0, jitter))
        t1 = max(t0 + 0.04, self.step_time(start + steps))
        velocity = int(np.clip(velocity, 12, 127))
        self.events.append((channel, t0, t1, pitch, velocity))
        heard_end = min(t1, t0 + 3.5) if program in DECAYING else t1
        self.notes.append((t0, heard_end, pitch, velocity, role))

    def hit(self, start, key, velocity, jitter, late=0.0):
        t = max(0.0, self.step_time(start) + self.rng.normal(0, jitter) + late)
        velocity = int(np.clip(velocity, 8, 127))
        self.events.append((9, t, t + 0.1, key, velocity))
        self.hits.append((t, KIND_OF_KEY.get(key, "percussion"), velocity))


def drum_bar(rng, style, steps, beat_steps):
    """One bar of (step, key, velocity) for a style. beat_steps: steps in a beat."""
    beats, out = steps // beat_steps, []
    kick, snare = style["kick"], style["snare"]
    feel = style["feel"]
    if feel in SPECIAL_FEELS:
        return special_bar(rng, style, steps, beat_steps)
    for b in range(beats):
        s = b * beat_steps
        back = (b % 2 == 1) if feel in ("rock", "break", "swing") else (b == beats // 2) if feel == "half" else (b % 2 == 1)
        if beats % 2 and feel != "half":
            back = b > 0 and (beats == 3 or b in (2, 4))
        if feel == "floor":
            out.append((s, kick, 110))
            if back:
                out.append((s, snare, 100))
        else:
            if back:
                out.append((s, snare, 105))
            elif b == 0 or rng.random() < style["kicks"]:
                out.append((s, kick, 108))
            if rng.random() < style["sync"] and beat_steps >= 2:
                out.append((s + beat_steps // 2, kick, 95))
            if rng.random() < style["sync"] * 0.4 and beat_steps == 4:
                out.append((s + 3, pick(rng, [kick, snare]), 80))
            if rng.random() < style["ghost"] and beat_steps == 4:
                out.append((s + pick(rng, [1, 3]), snare, 38))
        if feel == "floor" and style["time"] in (42, 46):
            out.append((s + beat_steps // 2, 46, 90))
    every = style["every"]
    for s in range(0, steps, every):
        if rng.random() < 0.96:
            key = style["time"]
            if key == 42 and rng.random() < style["open"]:
                key = 46
            out.append((s, key, 88 if s % beat_steps == 0 else 66))
    if style["shaker"]:
        for s in range(0, steps, style["shaker_every"]):
            out.append((s, style["shaker"], 70 if s % beat_steps == 0 else 50))
    return out


SPECIAL_FEELS = ("oompah", "jazz", "latin", "march", "tribal", "train", "drop", "four", "cells", "double", "brushes")


def special_bar(rng, style, steps, beat_steps):
    """Styles in which the beat is not simply kick and snare in turn."""
    beats, out, kick, snare, feel = steps // beat_steps, [], style["kick"], style["snare"], style["feel"]
    half = beat_steps // 2
    if feel == "jazz":
        for b in range(beats):
            out.append((b * beat_steps, 51, 85 if b % 2 else 75))
            if b % 2 and beat_steps > 2:
                out.append((b * beat_steps + beat_steps - (1 if beat_steps == 3 else 2), 51, 60))
            if b % 2:
                out.append((b * beat_steps, 44, 70))
            if rng.random() < 0.25:
                out.append((b * beat_steps, kick, 55))
            if rng.random() < 0.3:
                out.append((b * beat_steps + int(rng.integers(beat_steps)), snare, 50))
            if style["sync"] > 0.3:
                out += [(b * beat_steps, snare, 48 + 20 * (b % 2))]
    elif feel in ("latin", "cells"):
        cells = style["cells"]
        for name, key, velocity in (("kick", kick, 100), ("snare", snare, 95), ("hand", style["hand"], 80), ("hand2", style["hand2"], 70)):
            for s in cells[name]:
                if s < steps and rng.random() < 0.97:
                    out.append((s, key, velocity))
        for s in range(0, steps, style["every"]):
            out.append((s, style["time"], 75 if s % beat_steps == 0 else 58))
    elif feel == "oompah":
        for b in range(beats):
            low = b == 0 if beats == 3 else b % 2 == 0
            if beats == 2:
                out += [(b * beat_steps, kick, 100), (b * beat_steps + half, snare, 80)]
            else:
                out.append((b * beat_steps, kick if low else snare, 100 if low else 80))
            if rng.random() < style["sync"] * 0.3:
                out.append((b * beat_steps + half, snare, 50))
        for s in range(0, steps, style["every"] * 2):
            out.append((s, style["time"], 70))
    elif feel == "march":
        for s in range(0, steps):
            if s % beat_steps == 0 or rng.random() < 0.3 + 0.3 * (s % max(1, half) == 0):
                out.append((s, snare, 95 if s % beat_steps == 0 else 65))
        for b in range(0, beats, 2):
            out.append((b * beat_steps, kick, 100))
    elif feel == "tribal":
        for s in range(steps):
            if s % beat_steps == 0 or rng.random() < 0.35:
                out.append((s, pick(rng, [41, 43, 45, 47, 50]), 100 if s % beat_steps == 0 else 75))
        out += [(0, kick, 110)]
    elif feel == "train":
        for s in range(steps):
            out.append((s, snare, 90 if (s + half) % beat_steps == 0 else 45))
        for b in range(beats):
            out.append((b * beat_steps, kick, 90))
    elif feel == "drop":
        out += [(beats // 2 * beat_steps, kick, 110), (beats // 2 * beat_steps, pick(rng, [37, snare]), 100)]
        for b in range(beats):
            out += [(b * beat_steps, 42, 60), (b * beat_steps + half, 42, 85)]
            if rng.random() < style["sync"] * 0.4:
                out.append((b * beat_steps + half, kick, 70))
    elif feel == "double":   # kick on the beat, snare between
        for b in range(beats):
            out += [(b * beat_steps, kick, 105), (b * beat_steps + half, snare, 95)]
            if rng.random() < style["sync"] * 0.5:
                out.append((b * beat_steps + beat_steps - 1, kick, 80))
        for s in range(0, steps, style["every"]):
            out.append((s, style["time"], 80 if s % beat_steps == 0 else 62))
    elif feel == "brushes":   # a soft snare marks the time, a ride or nothing above it
        for s in range(0, steps, max(1, half)):
            if s % beat_steps == 0 or rng.random() < 0.25 + style["sync"]:
                out.append((s, snare, rng.uniform(35, 60) + 20 * (s // beat_steps % 2 == 1)))
        for b in range(beats):
            if b == 0 or rng.random() < style["kicks"] * 0.5:
                out.append((b * beat_steps, kick, 65))
            if style["open"] < 0.15:
                out.append((b * beat_steps, 51, 70))
    elif feel == "four":
        for b in range(beats):
            out.append((b * beat_steps, snare, 100))
            if b % 2 == 0 or rng.random() < style["sync"]:
                out.append((b * beat_steps + (half if b % 2 else 0), kick, 105))
        for s in range(0, steps, style["every"]):
            out.append((s, style["time"], 80 if s % beat_steps == 0 else 60))
    return out


def drum_style(rng):
    cells = {name: rhythm(rng, 16, density, pick(rng, [3, 4, 4, 6])) for name, density in
             (("kick", rng.uniform(0.1, 0.4)), ("snare", rng.uniform(0.1, 0.35)), ("hand", rng.uniform(0, 0.6)), ("hand2", rng.uniform(0, 0.4)))}
    if rng.random() < 0.7:
        cells["kick"] = sorted({0, *cells["kick"]})
    return {"cells": cells, "hand": pick(rng, [56, 60, 61, 62, 63, 64, 75, 76, 65, 54]), "hand2": pick(rng, [61, 64, 67, 69, 70, 77]),
            "kick": pick(rng, [35, 36, 36]), "snare": pick(rng, [38, 38, 40, 39, 37], [5, 3, 4, 1, 1]),
            "feel": pick(rng, ["rock", "floor", "half", "break", "swing", *SPECIAL_FEELS], [4, 2, 1.5, 2, 1, 0.5, 0.9, 0.9, 0.5, 0.5, 0.4, 0.5, 0.5, 0.7, 0.5, 0.6]), "kicks": rng.uniform(0.2, 1), "sync": rng.uniform(0, 0.6),
            "ghost": rng.uniform(0, 0.5) if rng.random() < 0.4 else 0, "every": pick(rng, [1, 2, 2, 2, 4]), "open": rng.uniform(0, 0.3),
            "time": pick(rng, [42, 42, 42, 44, 51, 59, 49, 70, 54], [8, 4, 2, 1, 3, 1, 0.3, 1, 0.7]),
            "shaker": pick(rng, [0, 70, 69, 54, 82, 56, 75, 63], [8, 1, 1, 1, 1, 0.5, 0.5, 0.5]), "shaker_every": pick(rng, [1, 2, 4]), **touch(rng)}


def touch(rng):
    """How the kit is struck: which sounds are soft, missing, doubled, and how much the cymbals are let ring."""
    soft = lambda chance: rng.uniform(0.35, 0.8) if rng.random() < chance else 1.0
    return {"soft_kick": soft(0.25), "soft_snare": soft(0.3), "no_kick": rng.random() < 0.08, "no_snare": rng.random() < 0.06,
            "clap": pick(rng, ["none", "with", "instead"], [82, 10, 8]), "crashes": rng.uniform(0.05, 0.4) if rng.random() < 0.2 else 0.0,
            "roll": rng.uniform(0.2, 0.6) if rng.random() < 0.12 else 0.0, "low_tom": rng.random() < 0.05, "accent": rng.uniform(0, 25)}


def touched(rng, style, bar, steps, beat_steps):
    """A bar as this kit's player strikes it."""
    out = []
    for s, key, velocity in bar:
        if key in (35, 36):
            if style["no_kick"]:
                continue
            velocity *= style["soft_kick"]
            if style["crashes"] and rng.random() < style["crashes"] * 0.5:
                out.append((s, pick(rng, [49, 57, 55]), 95))
        elif key in (38, 40):
            if style["no_snare"]:
                continue
            velocity *= style["soft_snare"]
            if style["clap"] != "none" and velocity > 60:
                out.append((s, 39, velocity))
                if style["clap"] == "instead":
                    continue
        elif key == style["time"]:
            velocity += style["accent"] * rng.normal(0, 0.5)
            if style["low_tom"]:
                key = 41
        out.append((s, key, velocity))
    if style["roll"] and rng.random() < style["roll"]:   # strokes too close to count one by one, growing or even
        length = min(steps, beat_steps * int(rng.integers(1, 5)))
        fine = pick(rng, [0.25, 1 / 3, 0.5]) * (beat_steps / 4 if beat_steps > 2 else 0.5)
        grow, top = rng.random() < 0.6, rng.uniform(50, 105)
        for k in range(int(length / fine)):
            out.append((steps - length + k * fine, style["snare"], top * (0.35 + 0.65 * k * fine / length if grow else 0.8)))
    return out


# What goes together in much played music; about half the songs take one of these, the others are drawn freely.
# Each: meters, beats a minute, drums, bass, comping, steps between strokes of the time, share of swung songs.
GENRES = [
    ([(3, 4)], (80, 200), ["oompah", "oompah", "rock"], ["root-fifth", "root-fifth", "cells"], ["after", "after", "arp"], [2, 4], 0.1),
    ([(2, 4)], (80, 150), ["oompah", "march"], ["walk", "root-fifth"], ["off"], [2], 0.1),
    ([(4, 4)], (120, 220), ["oompah", "rock", "train"], ["root-fifth"], ["after"], [2, 4], 0.3),
    ([(4, 4)], (108, 136), ["floor"], ["octaves", "off", "cells", "pulse"], ["cells", "off", "hold"], [1, 2, 4], 0.1),
    ([(4, 4)], (65, 100), ["drop", "half", "four"], ["cells"], ["off", "after"], [2], 0.3),
    ([(4, 4)], (110, 220), ["jazz", "swing"], ["walk"], ["cells"], [2, 4], 1.0),
    ([(4, 4)], (100, 175), ["rock", "rock", "four"], ["pulse", "cells", "walk"], ["hold", "beats", "cells"], [2, 2, 4], 0.1),
    ([(4, 4)], (54, 90), ["rock", "half"], ["cells", "root-fifth"], ["hold", "arp"], [2, 2, 1], 0.2),
    ([(4, 3), (2, 3)], (50, 120), ["rock", "half", "swing"], ["walk", "cells", "root-fifth"], ["cells", "arp", "hold", "beats"], [1, 1, 3], 0.0),
    ([(4, 4)], (84, 118), ["break", "rock"], ["cells"], ["cells", "off"], [1, 2], 0.4),
    ([(2, 4), (4, 4)], (96, 134), ["march", "train"], ["root-fifth", "walk"], ["after", "off", "hold"], [2, 4], 0.1),
    ([(4, 4)], (120, 160), ["half", "cells"], ["cells", "pulse"], ["hold", "arp"], [1, 2], 0.1),
    ([(4, 4)], (150, 200), ["rock", "train", "four", "break"], ["pulse", "cells"], ["beats", "hold", "cells"], [2, 4], 0.0),
    ([(4, 4)], (76, 120), ["double"], ["walk", "octaves", "cells", "root-fifth"], ["off", "cells", "hold"], [1, 2, 2], 0.1),
    ([(4, 4), (3, 4), (4, 3)], (56, 130), ["brushes", "brushes", "jazz"], ["walk", "root-fifth", "cells"], ["hold", "cells", "after", "arp"], [2], 0.5),
    ([(4, 4)], (140, 220), ["half", "oompah", "rock"], ["pulse", "root-fifth", "cells"], ["beats", "cells", "hold"], [2, 4], 0.0),
    ([(4, 4)], (90, 130), ["latin", "cells", "tribal"], ["cells", "root-fifth"], ["cells", "off", "arp"], [1, 2], 0.1),
]


def compose(seed, seconds=48.0):
    rng = np.random.default_rng(seed)
    genre = GENRES[int(rng.integers(len(GENRES)))] if rng.random() < 0.55 else None
    beats_per_bar, beat_steps = pick(rng, [(4, 4), (3, 4), (2, 3), (2, 4), (5, 4), (7, 2), (4, 3), (3, 2)], [70, 12, 8, 3, 3, 2, 5, 1])
    if genre:
        beats_per_bar, beat_steps = pick(rng, genre[0])
    steps = beats_per_bar * beat_steps
    bpm = float(np.exp(rng.normal(np.log(115), 0.30)))
    bpm = float(np.clip(bpm, 52, 210)) * (0.75 if beat_steps == 3 else 1.6 if beat_steps == 2 and beats_per_bar == 7 else 1.0)
    if genre:
        bpm = float(np.exp(rng.uniform(*np.log(genre[1]))))
    beat_s = 60 / bpm
    bars = int(np.ceil(seconds / beat_s / beats_per_bar)) + 1
    # The clock: one duration per beat, with drift for players and a change of tempo for some songs.
    durations = np.full((bars + 2) * beats_per_bar, beat_s)
    if rng.random() < 0.3:
        walk = np.cumsum(rng.normal(0, 0.004, len(durations)))
        durations *= np.exp(walk - walk.mean())
    if rng.random() < 0.1:
        durations[len(durations) // 2:] *= rng.uniform(0.75, 1.3)
    if rng.random() < 0.06:   # a held place: one beat lasts longer
        durations[int(rng.integers(8, len(durations)))] *= rng.uniform(1.5, 3)
    offset = rng.uniform(0.0, 1.2) if rng.random() < 0.6 else 0.02
    beat_times = offset + np.concatenate([[0], np.cumsum(durations)])
    swing = rng.uniform(0.53, 0.67) if beat_steps == 4 and rng.random() < (genre[6] if genre else 0.3) else 0.5
    swing_eighths = rng.random() < (0.4 if bpm < 120 else 0.9)

    def step_time(step):
        step = min(step, (len(beat_times) - 2) * beat_steps)
        beat, inside = divmod(step, beat_steps)
        beat = int(beat)
        x = inside / beat_steps
        if swing > 0.5:
            unit = 1.0 if swing_eighths else 0.5
            cell, y = divmod(x, unit)
            y /= unit
            y = y * 2 * swing if y < 0.5 else swing + (y - 0.5) * 2 * (1 - swing)
            x = cell * unit + y * unit
        return beat_times[beat] + x * (beat_times[beat + 1] - beat_times[beat])

    tonic = int(rng.integers(12))
    scale = [(tonic + s) % 12 for s in MODES[pick(rng, list(MODES), [5, 4, 2, 2, 0.6, 1])]]
    writer = Writer(rng, step_time)
    jitter = pick(rng, [0.0, 0.002, 0.006, 0.011])
    programs = {0: pick(rng, BASS_PROGRAMS), 1: pick(rng, CHORD_PROGRAMS), 2: pick(rng, CHORD_PROGRAMS + PLUCK_PROGRAMS), 3: pick(rng, LEAD_PROGRAMS),
                4: pick(rng, LEAD_PROGRAMS), 5: pick(rng, PLUCK_PROGRAMS)}
    if rng.random() < (0.7 if genre and "walk" in genre[3] else 0.12):
        programs[0] = pick(rng, [32, 32, 32, 33, 35])
    use = {0: rng.random() < 0.9, 1: rng.random() < 0.9, 2: rng.random() < 0.4, 3: rng.random() < 0.85, 4: rng.random() < 0.25, 5: rng.random() < 0.4}
    if not any(use[p] for p in (1, 3, 5)):
        use[1] = True
    drums = rng.random() < 0.82
    drums_only = drums and rng.random() < 0.04
    section_bars = pick(rng, [4, 4, 8, 2])
    kinds = []
    for _ in range(int(rng.integers(1, 4))):
        kinds.append({"chords": progression(rng, scale, section_bars, beats_per_bar),
                      "active": {p: use[p] and rng.random() < 0.85 for p in use}, "drums": drums and rng.random() < 0.92, "style": drum_style(rng),
                      "bass_rhythm": rhythm(rng, steps, rng.uniform(0.15, 0.8), beat_steps), "bass_walk": rng.random() < 0.3, "bass_len": rng.uniform(0.4, 1.0),
                      "bass_style": pick(rng, ["cells", "walk", "root-fifth", "off", "pulse", "octaves"], [5, 1.2, 1.2, 0.8, 1.2, 0.8]), "push": rng.random() < 0.12, "bass_held": rng.random() < 0.25,
                      "comp": pick(rng, ["hold", "beats", "off", "cells", "arp", "after"]), "comp_rhythm": rhythm(rng, steps, rng.uniform(0.15, 0.6), beat_steps),
                      "comp2": pick(rng, ["hold", "arp", "cells", "hold"]), "comp2_rhythm": rhythm(rng, steps, rng.uniform(0.1, 0.5), beat_steps),
                      "comp_len": rng.uniform(0.3, 1.0), "motifs": [rhythm(rng, steps, rng.uniform(0.1, 0.7), beat_steps) for _ in range(2)],
                      "lead_len": rng.uniform(0.5, 1.05), "arp_every": pick(rng, [1, 1, 2])})
    if genre:
        for kind in kinds:
            kind["style"]["feel"], kind["style"]["every"] = pick(rng, genre[2]), pick(rng, genre[5])
            kind["bass_style"], kind["comp"] = pick(rng, genre[3]), pick(rng, genre[4])
    accent, phrase_rest = rng.uniform(0, 14), rng.random() < 0.6
    bass_center, comp_center, lead_center = rng.uniform(31, 43) if rng.random() < 0.75 else rng.uniform(40, 52), rng.uniform(55, 66), rng.uniform(62, 82)
    lead_pitch, order = lead_center, [kinds[int(rng.integers(len(kinds)))] for _ in range(bars // section_bars + 1)]
    kick_steps_shared = rng.random() < 0.3
    for bar in range(bars):
        kind, inside = order[bar // section_bars], bar % section_bars
        base = bar * steps
        chord_at = lambda s: kind["chords"][min(inside * 2 + (1 if s * 2 >= steps else 0), len(kind["chords"]) - 1)]
        def play(channel, role, start, length, pitch, velocity):
            writer.note(channel, role, base + start, length, int(pitch), velocity + rng.normal(0, 7) + accent * (1 if start == 0 else 0.4 if start % beat_steps == 0 else -0.6),
                        jitter, programs[channel])
        bar_drums = []
        if kind["drums"]:
            bar_drums = touched(rng, kind["style"], drum_bar(rng, kind["style"], steps, beat_steps), steps, beat_steps)
            if inside == 0 and rng.random() < 0.5:
                bar_drums.append((0, pick(rng, [49, 57]), 110))
            if inside == section_bars - 1 and rng.random() < 0.45:
                start = steps - beat_steps * int(rng.integers(1, 3))
                bar_drums = [d for d in bar_drums if d[0] < start or d[1] not in (38, 40, kind["style"]["time"])]
                for s in range(max(0, start), steps):
                    if rng.random() < 0.75:
                        bar_drums.append((s, pick(rng, [38, 50, 48, 47, 45, 43, 41]), 90))
            for s, key, velocity in bar_drums:
                writer.hit(base + s, key, velocity + rng.normal(0, 9), jitter)
                if key in (38, 40) and velocity > 90 and rng.random() < 0.02:
                    writer.hit(base + s, key, 45, 0, -0.03)
        if drums_only:
            continue
        if kind["active"][0]:
            onsets = sorted({d[0] for d in bar_drums if d[1] in (35, 36)}) or kind["bass_rhythm"] if kick_steps_shared else kind["bass_rhythm"]
            bass_style = kind["bass_style"]
            if bass_style == "walk":
                onsets = list(range(0, steps, beat_steps))
            elif bass_style == "root-fifth":
                onsets = list(range(0, steps, beat_steps * (2 if beats_per_bar % 2 == 0 else beats_per_bar)))
            elif bass_style == "off":
                onsets = [b * beat_steps + max(1, beat_steps // 2) for b in range(beats_per_bar)]
            elif bass_style in ("pulse", "octaves"):
                onsets = list(range(0, steps, max(1, beat_steps // 2)))
            for i, s in enumerate(onsets):
                upto = onsets[i + 1] if i + 1 < len(onsets) else steps
                if bass_style in ("root-fifth", "octaves", "off", "pulse"):
                    tones = chord_at(s)
                    pitch = near(tones[0], bass_center)
                    if bass_style == "root-fifth" and i % 2:
                        pitch = near(tones[-1] if len(tones) == 3 else tones[0], bass_center)
                    if bass_style == "octaves" and i % 2:
                        pitch += 12
                    play(0, 1, s, max(0.5, (upto - s) * kind["bass_len"]), max(pitch, 26), 96)
                    continue
                tones = chord_at(s)
                if i and kind["bass_held"] and rng.random() < 0.6:   # the same pitch struck again
                    play(0, 1, s, max(0.5, (upto - s) * kind["bass_len"]), max(pitch, 26), 90)
                    continue
                pc = tones[0] if i == 0 or not kind["bass_walk"] or rng.random() < 0.4 else pick(rng, tones + [scale[int(rng.integers(7))]])
                pitch = near(pc, bass_center) + (12 if rng.random() < 0.08 else 0)
                play(0, 1, s, max(0.5, (upto - s) * kind["bass_len"]), max(pitch, 26), 96)
        for channel, comp, pattern in ((1, kind["comp"], kind["comp_rhythm"]), (2, kind["comp2"], kind["comp2_rhythm"])):
            if not kind["active"][channel]:
                continue
            if comp == "hold":
                spots = [(0, steps // 2), (steps // 2, steps - steps // 2)] if chord_at(0) is not chord_at(steps - 1) else [(0, steps)]
            elif comp == "beats":
                spots = [(b * beat_steps, beat_steps * kind["comp_len"]) for b in range(beats_per_bar)]
            elif comp == "off":
                spots = [(b * beat_steps + beat_steps / 2, beat_steps * 0.5 * kind["comp_len"]) for b in range(beats_per_bar)]
            elif comp == "after":
                spots = [(b * beat_steps, beat_steps * kind["comp_len"]) for b in range(beats_per_bar) if (b % 2 if beats_per_bar != 3 else b)]
            else:
                spots = [(s, ((pattern[i + 1] if i + 1 < len(pattern) else steps) - s) * kind["comp_len"]) for i, s in enumerate(pattern)]
            if comp == "arp":
                for s in range(0, steps, kind["arp_every"]):
                    tones = chord_at(s)
                    play(channel, 0, s, kind["arp_every"] * 1.2, near(tones[(s // kind["arp_every"]) % len(tones)], comp_center + 6 * channel), 80)
                continue
            for s, length in spots:
                tones = chord_at(s)
                if kind["push"] and s == 0 and bar and comp in ("hold", "cells"):
                    s, length = -max(1, beat_steps // 2), length + max(1, beat_steps // 2)
                for tone in tones:
                    play(channel, 0, s, max(0.5, length), near(tone, comp_center + 7 * (channel - 1)), 78)
        if kind["active"][5]:
            for s in range(0, steps, kind["arp_every"]):
                tones = chord_at(s)
                play(5, 0, s, 1.0, near(tones[(s * 2 // max(1, kind["arp_every"])) % len(tones)], comp_center + 14), 76)
        for channel, role in ((3, 2), (4, 0)):
            if not kind["active"][channel] or (channel == 3 and rng.random() < 0.15):
                continue
            motif = kind["motifs"][(bar + channel) % 2]
            if phrase_rest and bar % 4 == 3:   # a phrase ends on a long note and a breath
                motif = motif[:max(1, len(motif) // 2)]
            for i, s in enumerate(motif):
                upto = motif[i + 1] if i + 1 < len(motif) else steps
                lead_pitch += pick(rng, [-5, -3, -2, -1, 0, 1, 2, 3, 5, 7])
                lead_pitch += 0.25 * (lead_center - lead_pitch)
                pcs = chord_at(s) if s % beat_steps == 0 and rng.random() < 0.7 else scale
                pitch = min((near(pc, lead_pitch) for pc in pcs), key=lambda p: abs(p - lead_pitch))
                if channel == 4:
                    pitch -= pick(rng, [0, 12, 12])
                play(channel, role, s, max(0.5, (upto - s) * kind["lead_len"]), pitch, 100 if role == 2 else 80)
                if role == 2 and rng.random() < 0.05:
                    play(channel, 0, s, max(0.5, (upto - s) * kind["lead_len"]), pitch - 12, 85)

    bends = {c: rng.uniform(0.05, 0.3) if rng.random() < chance else 0 for c, chance in ((0, 0.15), (3, 0.35))}
    midi = mido.MidiFile(ticks_per_beat=TICKS)
    for channel in sorted({e[0] for e in writer.events}):
        track = mido.MidiTrack()
        midi.tracks.append(track)
        volume = int(rng.uniform(85, 125)) if channel == 3 else int(rng.uniform(70, 127)) if channel == 9 else int(rng.uniform(55, 120))
        brushed = channel == 9 and kinds[0]["style"]["feel"] == "brushes"
        program = pick(rng, [40, 40, 32] if brushed else KITS) if channel == 9 else programs[channel]
        track.append(mido.Message("program_change", channel=channel, program=program, time=0))
        track.append(mido.Message("control_change", channel=channel, control=7, value=volume, time=0))
        track.append(mido.Message("control_change", channel=channel, control=10, value=64 if channel in (0, 9) else int(rng.uniform(30, 98)), time=0))
        track.append(mido.Message("control_change", channel=channel, control=91, value=int(rng.uniform(0, 90)), time=0))
        stream = []
        for c, t0, t1, pitch, velocity in writer.events:
            if c == channel:
                stream += [(t0, 2, pitch, velocity), (t1, 0, pitch, 0)]
                if channel in (0, 3) and rng.random() < bends[channel]:   # slid into from below or above
                    depth, fall = int(rng.choice([-1, -1, 1]) * rng.uniform(1500, 8000)), rng.uniform(0.04, 0.14)
                    stream += [(max(0, t0 - 0.004), 1, depth, 0)] + [(t0 + fall * k / 5, 1, int(depth * (1 - k / 5)), 0) for k in range(1, 6)]
        if channel == 3 and rng.random() < 0.4:   # vibrato throughout
            track.append(mido.Message("control_change", channel=channel, control=1, value=int(rng.uniform(20, 127)), time=0))
        now, per_second = 0, TICKS * 2  # default tempo: two beats a second
        for t, what, value, velocity in sorted(stream):
            tick = int(round(t * per_second))
            if what == 1:
                track.append(mido.Message("pitchwheel", channel=channel, pitch=value, time=tick - now))
            else:
                track.append(mido.Message("note_on" if what else "note_off", channel=channel, note=value, velocity=velocity, time=tick - now))
            now = tick
    beats = [(float(t), i % beats_per_bar + 1) for i, t in enumerate(beat_times) if t < seconds]
    pitched = {}
    for channel, *note in writer.events:
        if channel != 9:
            pitched.setdefault(channel, []).append(tuple(note))
    return Song(midi, pitched, beats, sorted(writer.notes), sorted(writer.hits), seconds)

#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Builds the demo recording "Lantern Ferry" and its truth from the score below.

    demo/lantern_ferry.py            # writes demo/lantern-ferry.ogg and demo/lantern-ferry.truth.json

Harbour-town chamber dub in D dorian: vibraphone chords, a plucked arpeggio, an upright bass, an accordion, a brushed kit,
a bell and foghorn-like impacts. intro 4, A 8, B 8, A' 8, break 4 (half time), B 8 (a whole tone higher), outro 6 (faster).
Played with human timing and swung sixteenths, rendered by FluidSynth through timgm6mb, worn like a tape and mastered.
The tape runs 14 cents fast; every time below is that of the finished recording. Same packages, same file.
Needs fluidsynth, timgm6mb-soundfont, python3-mido, python3-numpy, python3-scipy, python3-soundfile.
"""
import json, os, subprocess, tempfile
import mido
import numpy as np
import soundfile as sf
from scipy import signal

HERE = os.path.dirname(os.path.abspath(__file__))
RATE, FONT = 44100, "/usr/share/sounds/sf2/TimGM6mb.sf2"
CENTS, BPM, OUTRO_BPM, SWING, LEAD_IN = 14.0, 97.3, 110.6, 0.57, 0.62
SPEED = 2 ** (CENTS / 1200)
TIGHT = 0.005                                                   # spread of the players' timing, seconds
rng = np.random.default_rng(1973)

D, E, F, G, A, B, C = 62, 64, 65, 67, 69, 71, 72
CHORDS = {"Dm7": ("D:min7", [57, 60, 62, 65]), "G": ("G:maj", [55, 59, 62, 67]), "G7": ("G:7", [55, 59, 62, 65]), "Am7": ("A:min7", [57, 60, 64, 67]),
          "C": ("C:maj", [55, 60, 64, 67]), "Fmaj7": ("F:maj7", [57, 60, 64, 65])}
ROOTS = {"Dm7": 38, "G": 43, "G7": 43, "Am7": 45, "C": 36, "Fmaj7": 41}
NAMES = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"]

# Melodies: per bar a list of (beat from 0, length in beats, pitch).
MELODY_A = [[(0, 1.5, A), (1.5, .5, G), (2, 1, F), (3, 1, E)], [(0, 2.5, D), (3, .5, E), (3.5, .5, F)],
            [(0, 1, G), (1, .5, A), (1.5, 1.5, B), (3, 1, A)], [(0, 2.5, G), (3, 1, D + 12)],
            [(0, 1.5, C), (1.5, .5, B), (2, 1, A), (3, 1, F)], [(0, 1, E), (1, 1, G), (2, 1.75, A)],
            [(0, .75, G), (.75, .75, E), (1.5, 1, G), (2.5, 1.5, C)], [(0, 3, B)]]
MELODY_B = [[(0, 1, C), (1, 1, A), (2, .5, F), (2.5, .5, G), (3, 1, A)], [(0, 2, G), (2, 1, E), (3, 1, C - 12)],
            [(0, 1, D), (1, .5, G), (1.5, .5, A), (2, 1.5, B)], [(0, 2.5, A), (3, 1, F)],
            [(0, 1, A), (1, .5, C), (1.5, 1, D + 12), (2.5, .5, C), (3, 1, A)], [(0, 1.5, G), (1.5, .5, A), (2, 2, E)],
            [(0, 1, C), (1, 1, B), (2, 1, A), (3, .5, G), (3.5, .5, E)], [(0, 3, D)]]
CHORDS_A = ["Dm7", "Dm7", "G", "G", "Dm7", "Am7", "C", "G7"]
CHORDS_B = ["Fmaj7", "C", "G", "Dm7", "Fmaj7", "C", "Am7", "G"]
SECTIONS = [  # name, label, chords, melody, transposition, feel
    ("intro", "intro", ["Dm7", "G", "Dm7", "G"], None, 0, "sparse"),
    ("verse", "A", CHORDS_A, MELODY_A, 0, "full"),
    ("chorus", "B", CHORDS_B, MELODY_B, 0, "full"),
    ("verse", "A'", CHORDS_A, MELODY_A, 0, "full"),
    ("break", "break", ["Dm7", "Dm7", "Am7", "C"], None, 0, "half"),
    ("chorus", "B", CHORDS_B, MELODY_B, 2, "full"),
    ("outro", "outro", ["Dm7", "G", "Dm7", "C", "Dm7", "Dm7"], None, 0, "outro"),
]
BARS = [(s, i) for s, section in enumerate(SECTIONS) for i in range(len(section[2]))]
BEATS = [LEAD_IN]
for section, _ in BARS + [(len(SECTIONS) - 1, 0)]:
    beat_s = 60 / (OUTRO_BPM if section == len(SECTIONS) - 1 else BPM)
    BEATS += [BEATS[-1] + (i + 1) * beat_s for i in range(4)]

PROGRAM = {"vibraphone": (0, 11, 88, 46), "pluck": (1, 24, 78, 84), "bass": (2, 32, 126, 64), "accordion": (3, 21, 104, 58), "bell": (4, 14, 74, 98),
           "foghorn": (5, 58, 84, 40), "kit": (9, 40, 122, 64), "stick": (10, 32, 104, 64)}       # channel, program, volume, pan
KICK, SNARE, RIM, HAT, OPEN, TOM, CRASH, RIDE = 36, 38, 37, 42, 46, 45, 49, 51
KINDS = {KICK: "kick", SNARE: "snare", RIM: "rim", HAT: "hat_closed", OPEN: "hat_open", TOM: "tom", CRASH: "crash", RIDE: "ride"}
played, hits = [], []


def time_of(bar, beat):
    """Seconds of a place in a bar; sixteenths swing within each half beat."""
    whole, x = divmod(beat, 1.0)
    cell, y = divmod(x, 0.5)
    y = y / 0.25 * SWING if y < 0.25 else SWING + (y - 0.25) / 0.25 * (1 - SWING)
    x = cell * 0.5 + y * 0.5
    i = bar * 4 + int(whole)
    return BEATS[i] + x * (BEATS[i + 1] - BEATS[i])


def play(who, bar, beat, length, pitch, velocity):
    begin = time_of(bar, beat) + rng.normal(0, TIGHT)
    end = max(begin + 0.06, time_of(bar, beat + length) - 0.015)
    played.append((who, begin, end, int(pitch), int(np.clip(velocity + rng.normal(0, 5), 20, 125))))


def strike(bar, beat, key, velocity):
    t = time_of(bar, beat) + rng.normal(0, TIGHT)
    hits.append((t, key, int(np.clip(velocity + rng.normal(0, 6), 15, 125))))


def bass_line(bar, root, feel, i):
    high = root + 12 if root + 12 <= 50 else root + 5       # the upright stays below the vibraphone
    if feel == "sparse":
        play("bass", bar, 0, 2.8, root, 92)
    elif feel == "half":
        play("bass", bar, 0, 1.5, root, 100), play("bass", bar, 2.5, .5, root + 7, 84), play("bass", bar, 3, .9, high, 88)
    elif i % 2 == 0:
        play("bass", bar, 0, 1.3, root, 104), play("bass", bar, 1.5, .45, root, 86), play("bass", bar, 2, .9, root + 7, 94), play("bass", bar, 3, .9, high, 90)
    else:
        play("bass", bar, 0, .9, root, 102), play("bass", bar, 1.5, .5, high, 88), play("bass", bar, 2.5, .45, root + 7, 90), play("bass", bar, 3.25, .7, root + 5, 92)


def kit(bar, feel, i, last, first):
    if first and feel != "sparse":
        strike(bar, 0, CRASH, 92)
    if feel == "sparse":
        for b in range(4):
            strike(bar, b + .5, HAT, 62)
        if i >= 2:
            strike(bar, 0, KICK, 88), strike(bar, 2, RIM, 78)
        return
    if feel == "half":
        strike(bar, 0, KICK, 112), strike(bar, 1.75, KICK, 82), strike(bar, 2, SNARE, 112)
        for b in range(4):
            strike(bar, b, RIDE, 80), strike(bar, b + .5, RIDE, 62)
        return
    strike(bar, 0, KICK, 112), strike(bar, 2, KICK, 104)
    strike(bar, 1, SNARE, 108), strike(bar, 3, SNARE, 112)
    if i % 2:
        strike(bar, 2.75, KICK, 86)
    if i % 4 == 1:
        strike(bar, 1.75, SNARE, 44)
    for s in range(16):
        if s % 2 == 0 or (s % 4 == 3 and i % 2 == 0):
            strike(bar, s / 4, OPEN if s == 14 and i % 4 == 3 else HAT, 84 if s % 4 == 0 else 66 if s % 2 == 0 else 46)
    if last:
        for s, key in ((12, TOM), (13, SNARE), (14, TOM), (15, TOM)):
            strike(bar, s / 4, key, 84 + s)


chord_spans, section_spans, key_spans = [], [], []
for bar, (s, i) in enumerate(BARS):
    name, label, chords, melody, up, feel = SECTIONS[s]
    chord, last = chords[i], i == len(chords) - 1
    harte, voicing = CHORDS[chord]
    tonic, quality = harte.split(":")
    harte = NAMES[(NAMES.index(tonic) + up) % 12] + ":" + quality
    chord_spans.append((BEATS[bar * 4], BEATS[bar * 4 + 4], harte))
    final = bar == len(BARS) - 1
    if final:                                   # the last bar: one chord, let ring
        for p in voicing:
            play("vibraphone", bar, 0, 3.9, p, 84)
        play("bass", bar, 0, 3.5, ROOTS[chord], 100), play("foghorn", bar, 0, 3.5, 38, 96), strike(bar, 0, KICK, 108), strike(bar, 0, CRASH, 96)
        continue
    if feel in ("sparse", "half"):
        for p in voicing:
            play("vibraphone", bar, 0, 3.6, p + up, 76)
    else:
        for b, length in ((0, 1.4), (1.5, .9), (2.75, 1.1)) if i % 2 == 0 else ((.5, .9), (2, 1.7)):
            for p in voicing:
                play("vibraphone", bar, b, length, p + up, 74)
    if feel != "half":
        order = [0, 2, 1, 3, 2, 3, 1, 2] if label in ("A", "A'") else [3, 2, 1, 2, 3, 1, 2, 0]
        for k, step in enumerate(order):
            play("pluck", bar, k / 2 + (.25 if label == "B" and k % 4 == 3 else 0), .5, voicing[step] + 12 + up, 82 - 6 * (k % 2))
    if label != "intro" or i >= 2:
        bass_line(bar, ROOTS[chord] + up, feel, i)
    if melody:
        for b, length, pitch in melody[i]:
            if label == "A'" and i == 3 and b == 3:
                pitch -= 3                       # the one changed note of the repeat
            play("accordion", bar, b, length, pitch + up, 100)
    if feel in ("sparse", "half") and i % 2 == 0:
        play("bell", bar, 0, 2.5, 86 if i == 0 else 81, 80)
    if feel == "outro" and i % 2 == 1:
        play("bell", bar, 2, 2, 81, 78)
    if i == 0 and label in ("intro", "break", "outro"):
        play("foghorn", bar, 0, 3.5, 38, 104)
    kit(bar, feel, i, last and feel == "full", i == 0)


def write_midi(path):
    midi, per_second = mido.MidiFile(ticks_per_beat=480), 960
    events = {who: [] for who in PROGRAM}
    for who, t0, t1, pitch, velocity in played:
        events[who] += [(t0 * SPEED, 1, pitch, velocity), (t1 * SPEED, 0, pitch, 0)]
    for t, key, velocity in hits:
        if key == SNARE:                        # the backbeat is a brush and a soft stick of a jazz kit on one head
            events["stick"] += [(t * SPEED, 1, key, velocity), ((t + .2) * SPEED, 0, key, 0)]
        events["kit"] += [(t * SPEED, 1, key, velocity), ((t + .2) * SPEED, 0, key, 0)]
    for who, (channel, program, volume, pan) in PROGRAM.items():
        track = mido.MidiTrack()
        midi.tracks.append(track)
        if who == "stick":
            track.append(mido.Message("control_change", channel=channel, control=0, value=127))     # the percussion bank
        track.append(mido.Message("program_change", channel=channel, program=program))
        for control, value in ((7, volume), (10, pan), (91, 64 if who in ("bell", "vibraphone", "accordion", "foghorn") else 28)):
            track.append(mido.Message("control_change", channel=channel, control=control, value=value))
        now = 0
        for t, on, pitch, velocity in sorted(events[who]):
            tick = round(t * per_second)
            track.append(mido.Message("note_on" if on else "note_off", channel=channel, note=pitch, velocity=velocity, time=tick - now))
            now = tick
    midi.save(path)


def wear_and_master(x):
    """A little wow, warmth and hiss, then a broad lift and a limiter."""
    n = len(x)
    t = np.arange(n) / RATE
    shift = 0.00035 * np.sin(2 * np.pi * .55 * t) + 0.00002 * np.sin(2 * np.pi * 7.3 * t)      # seconds; about ±2 cents
    x = np.stack([np.interp(t + shift - shift[0], t, x[:, c]) for c in range(2)], axis=1)
    x = x / np.abs(x).max()
    x = np.tanh(1.6 * x) / np.tanh(1.6)
    b, a = signal.butter(1, 15500 / (RATE / 2))
    x = signal.lfilter(b, a, x, axis=0) + np.random.default_rng(7).normal(0, 10 ** (-66 / 20), x.shape)
    b, a = signal.butter(2, 28 / (RATE / 2), "high")
    x = signal.lfilter(b, a, x, axis=0) * 1.12
    env = np.maximum.reduceat(np.abs(x).max(axis=1), np.arange(0, n, 64))
    gain = np.minimum(1, .89 / np.maximum(env, 1e-9))
    gain = np.minimum.reduce([np.roll(gain, k) for k in range(-4, 5)])
    b, a = signal.butter(1, .02)
    smooth = np.minimum(gain, signal.filtfilt(b, a, gain))
    return np.clip(x * np.interp(np.arange(n), np.arange(len(smooth)) * 64, smooth)[:, None], -.95, .95)


def truth(length_s):
    end = BEATS[len(BARS) * 4]
    names = {"vibraphone": ("chords", "Vibraphone"), "pluck": ("other", "Pluck"), "bass": ("bass", "Bass"), "accordion": ("lead", "Accordion"),
             "bell": ("other", "Bell"), "foghorn": ("other", "Foghorn")}
    as_note = lambda n: {"onset_s": round(n[1], 4), "duration_s": round(n[2] - n[1], 4), "pitch": n[3], "velocity": n[4], "confidence": 1.0}
    bar, sections, first = 0, [], {}
    for name, label, chords, *_ in SECTIONS:
        sections.append({"start_s": round(BEATS[bar * 4], 4), "end_s": round(BEATS[(bar + len(chords)) * 4], 4), "start_bar": bar + 1, "bars": len(chords),
                         "label": label, "name": name, "repeat_of": first.get(label.strip("'")), "confidence": 1.0})
        first.setdefault(label.strip("'"), len(sections) - 1)
        bar += len(chords)
    faster = sections[-1]["start_s"]
    raised = sections[5]
    return {
        "schema": "fakturwerk-analysis/1",
        "reference": {"path": "lantern-ferry.ogg", "duration_s": round(length_s, 3), "sample_rate_hz": RATE, "channels": 2},
        "tuning": {"a4_hz": round(440 * SPEED, 3), "cents": CENTS, "confidence": 1.0},
        "tempo": {"bpm": BPM, "error_bpm": 0.0, "steady": False, "confidence": 1.0, "alternatives": [],
                  "segments": [{"start_s": round(BEATS[0], 4), "end_s": faster, "bpm": BPM}, {"start_s": faster, "end_s": round(end, 4), "bpm": OUTRO_BPM}]},
        "meter": [{"bar": 1, "numerator": 4, "denominator": 4}],
        "beats": [{"time_s": round(t, 4), "bar": i // 4 + 1, "beat": i % 4 + 1} for i, t in enumerate(BEATS[:len(BARS) * 4])],
        "swing": {"ratio": SWING, "subdivision": 16, "confidence": 1.0},
        "key": [{"start_s": 0.0, "end_s": raised["start_s"], "tonic": "D", "mode": "dorian", "confidence": 1.0, "alternatives": []},
                {"start_s": raised["start_s"], "end_s": raised["end_s"], "tonic": "E", "mode": "dorian", "confidence": 1.0, "alternatives": []},
                {"start_s": raised["end_s"], "end_s": round(length_s, 3), "tonic": "D", "mode": "dorian", "confidence": 1.0, "alternatives": []}],
        "chords": [{"start_s": round(a, 4), "end_s": round(b, 4), "label": l, "confidence": 1.0, "alternatives": []} for a, b, l in chord_spans],
        "sections": sections,
        "parts": [{"role": role, "name": name, "notes": [as_note(n) for n in sorted(played, key=lambda n: n[1]) if n[0] == who]} for who, (role, name) in names.items()],
        "notes": [as_note(n) for n in sorted(played, key=lambda n: n[1])],
        "drums": [{"time_s": round(t, 4), "kind": KINDS[k], "velocity": v, "confidence": 1.0} for t, k, v in sorted(hits)],
    }


def main():
    with tempfile.TemporaryDirectory() as tmp:
        mid, wav = os.path.join(tmp, "a.mid"), os.path.join(tmp, "a.wav")
        write_midi(mid)
        subprocess.run(["fluidsynth", "-ni", "-q", "-g", "0.5", "-o", "synth.midi-bank-select=xg", "-r", str(RATE), "-T", "wav", "-F", wav, FONT, mid], check=True, stdout=subprocess.DEVNULL)
        x, _ = sf.read(wav, always_2d=True)
        x = x[: int((BEATS[len(BARS) * 4] + 1.2) * SPEED * RATE)]
        fade = int(.8 * RATE)
        x[-fade:] *= np.linspace(1, 0, fade)[:, None]
        x = signal.resample(x, int(round(len(x) / SPEED)), axis=0)      # the tape runs fast: pitch and tempo rise together
        x = wear_and_master(x)
        sf.write(wav, x, RATE, subtype="PCM_24")
        out = os.path.join(HERE, "lantern-ferry.ogg")
        subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", wav, "-c:a", "libvorbis", "-q:a", "6", "-fflags", "+bitexact", "-flags:a", "+bitexact", out], check=True)
    json.dump(truth(len(x) / RATE), open(os.path.join(HERE, "lantern-ferry.truth.json"), "w"), separators=(",", ":"))
    print(f"{out}: {len(x) / RATE:.1f} s, {os.path.getsize(out) / 1e6:.2f} MB, {len(played)} notes, {len(hits)} hits")


if __name__ == "__main__":
    main()

#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Renders composed songs through SoundFonts and synthesisers, wears them, and writes what the networks see: WORK/<seed>.mel and .cq, with the
truth in WORK/<seed>.json.

    render.py WORK FIRST_SEED COUNT [--held-out] [--sound] [--written LIST.json [--sparse]]

--held-out renders through a SoundFont that training never hears, to measure what carries over.
--sound writes WORK/<seed>.flac and .truth.json instead, as the corpus has them, for bench/accuracy and fw-tune: seeds that training does not use.
--written arranges songs of a list (written.py) instead of composing; files are named w<seed>.
Same seeds, same packages, same files.
"""
import json, os, subprocess, sys, tempfile
import mido
import numpy as np
import soundfile as sf
from scipy import signal
from compose import compose
from voices import drums, voices
from written import arrange, trained_on

RATE = 44100
FEATURES = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "build", "release", "fw-features")
TRAINING_FONTS = ["/usr/share/sounds/sf2/TimGM6mb.sf2", "/usr/share/sounds/sf2/FluidR3_GM.sf2", "/usr/share/sounds/sf3/FluidR3Mono_GM.sf3",
                  "/usr/share/sounds/sf2/FluidR3_GM.sf2", "/usr/share/sounds/sf2/OPL-3_FM_128M.sf2"]
# Recorded kits on a channel of their own; their keys are not General MIDI throughout.
RECORDED_KITS = ["/usr/share/sounds/sf2/Black_Pearl_4_LV2.sf2", "/usr/share/sounds/sf2/Red_Zeppelin_4_LV2.sf2"]
RECORDED_KEY = {35: 36, 36: 36, 37: 37, 38: 38, 39: 39, 40: 38, 41: 41, 43: 41, 45: 45, 47: 47, 48: 47, 50: 45, 42: 42, 44: 44, 46: 48, 49: 49, 57: 57,
                52: 57, 55: 49, 51: 51, 59: 51, 53: 53}
HELD_OUT_FONTS = ["/usr/share/sounds/sf3/MuseScore_General.sf3", "/usr/share/sounds/sf3/MuseScore_General_Full.sf3"]


def wear(rng, x):
    """What records go through: equaliser, room, drive, limiter, noise, loss of band."""
    for _ in range(int(rng.integers(0, 4))):
        f, gain, q = np.exp(rng.uniform(np.log(60), np.log(9000))), rng.uniform(-9, 9), rng.uniform(0.4, 2)
        a, w = 10 ** (gain / 40), 2 * np.pi * f / RATE
        alpha = np.sin(w) / (2 * q)
        b, d = [1 + alpha * a, -2 * np.cos(w), 1 - alpha * a], [1 + alpha / a, -2 * np.cos(w), 1 - alpha / a]
        x = signal.lfilter(np.array(b) / d[0], np.array(d) / d[0], x, axis=0)
    if rng.random() < 0.3:
        t60 = rng.uniform(0.2, 1.6)
        n = int(t60 * RATE)
        tail = rng.normal(0, 1, (n, 2)) * np.exp(-6.9 * np.arange(n) / n)[:, None]
        tail = signal.lfilter([0.3], [1, -0.7], tail, axis=0)
        wet = np.stack([signal.fftconvolve(x[:, c], tail[:, c])[:len(x)] for c in range(2)], axis=1)
        x = x + wet * (rng.uniform(0.05, 0.35) * np.std(x) / (np.std(wet) + 1e-9))
    if rng.random() < 0.5:
        level = np.sqrt(signal.lfilter([1 - 0.9995], [1, -0.9995], np.mean(x ** 2, axis=1)) + 1e-8)
        x = x * ((level / level.max() + 0.05) ** -rng.uniform(0.1, 0.6))[:, None]
    x = x / (np.abs(x).max() + 1e-9)
    if rng.random() < 0.4:
        drive = rng.uniform(1, 4)
        x = np.tanh(x * drive) / np.tanh(drive)
    if rng.random() < 0.25:
        b, a = signal.butter(4, rng.uniform(3500, 14000) / (RATE / 2))
        x = signal.lfilter(b, a, x, axis=0)
    if rng.random() < 0.2:
        b, a = signal.butter(2, rng.uniform(30, 90) / (RATE / 2), "high")
        x = signal.lfilter(b, a, x, axis=0)
    if rng.random() < 0.5:
        x = x + rng.normal(0, 10 ** (-rng.uniform(35, 70) / 20), x.shape)
    return x * rng.uniform(0.2, 0.95) / (np.abs(x).max() + 1e-9)


def play(rng, midi, font, tmp, length):
    """Renders MIDI through a SoundFont to length × 2 samples."""
    if not midi.tracks:
        return np.zeros((length, 2))
    mid, wav = os.path.join(tmp, "p.mid"), os.path.join(tmp, "p.wav")
    midi.save(mid)
    subprocess.run(["fluidsynth", "-ni", "-q", "-g", "0.4", "-o", "synth.dynamic-sample-loading=1", "-R", "1" if rng.random() < 0.7 else "0", "-C", "1" if rng.random() < 0.4 else "0",
                    "-r", str(RATE), "-T", "wav", "-F", wav, font, mid], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    x, _ = sf.read(wav, always_2d=True)
    return np.pad(x[:length], ((0, max(0, length - len(x))), (0, 0)))


def without(midi, channels):
    left = mido.MidiFile(ticks_per_beat=midi.ticks_per_beat)
    left.tracks = [t for t in midi.tracks if t[0].channel not in channels]
    return left


def recorded(midi):
    """The drums alone, on channel 0 and the keys of the recorded kits; what those lack is left out."""
    track, wait = mido.MidiTrack(), 0
    for m in next(t for t in midi.tracks if t[0].channel == 9):
        wait += m.time
        if m.type in ("note_on", "note_off") and m.note in RECORDED_KEY:
            track.append(m.copy(channel=0, note=RECORDED_KEY[m.note], time=wait))
            wait = 0
    out = mido.MidiFile(ticks_per_beat=midi.ticks_per_beat)
    out.tracks.append(track)
    return out


def scored(truth, name, length_s):
    """The truth as bench/accuracy and fw-tune read it. Keys and chords are not told."""
    note = lambda n: {"onset_s": n[0], "duration_s": n[1] - n[0], "pitch": n[2], "velocity": n[3], "channel": n[4], "program": (0, 33, 80)[n[4]]}
    beats = [t for t, _ in truth["beats"]]
    steps = np.diff(beats)
    bar = 0
    counted = []
    for t, b in truth["beats"]:
        bar += b == 1
        counted.append({"time_s": t, "bar": bar, "beat": b})
    return {"id": name, "length_s": length_s, "tuning_cents": truth["tuning_cents"], "tempo_bpm": 60 / float(np.median(steps)), "steady": bool(np.ptp(steps) < 1e-6),
            "meter_written": True, "beats": counted, "key": None, "chords": [], "bass": [note(n) for n in truth["notes"] if n[4] == 1],
            "notes": [note(n) for n in truth["notes"]], "drums": [{"time_s": t, "kind": k, "velocity": v} for t, k, v in truth["hits"]]}


def make(work, seed, held_out, sound=False, entries=None, sparse=False):
    name = f"w{seed}" if entries else str(seed)
    target = os.path.join(work, f"{name}.wav")
    if os.path.exists(os.path.join(work, f"{name}.truth.json" if sound else f"{name}.json")):
        return
    rng = np.random.default_rng(seed + 1_000_000)
    song = arrange(entries, seed, sparse) if entries else compose(seed)
    if not song.notes and not song.hits:   # every section drew silence
        return
    with tempfile.TemporaryDirectory() as tmp:
        wav = os.path.join(tmp, "a.wav")
        fonts = [f for f in (HELD_OUT_FONTS if held_out else TRAINING_FONTS) if os.path.exists(f)]
        font = fonts[int(rng.integers(len(fonts)))]
        length = int(song.length_s * RATE)
        # Where the drums come from, and which pitched parts a synthesiser of our own plays.
        plain = held_out or rng.random() < 0.1
        kit = "font" if plain else ["font", "recorded", "synthesised"][int(rng.choice(3, p=[0.5, 0.3, 0.2]))]
        synth = [] if plain or rng.random() < 0.6 else [c for c in song.pitched if rng.random() < 0.5]
        singer = not plain and 3 in song.pitched and rng.random() < 0.22
        synth = sorted({*synth, *([3] if singer else [])})
        x = play(rng, without(song.midi, synth + ([] if kit == "font" else [9])), font, tmp, length)
        level = np.std(x) + 1e-6
        for c in synth:
            voice = voices(rng, song.pitched[c], length, ["sung"] if singer and c == 3 else None)
            part = voice * (level * rng.uniform(0.35, 1.6 if singer and c == 3 else 1.1) / (np.std(voice) + 1e-9))
            turn = rng.uniform(-0.4, 0.4) if c else 0
            x = x + np.stack([part * (1 - turn), part * (1 + turn)], axis=1)
        if kit != "font" and rng.random() < 0.2:   # everything but the drums gives way to the kick
            gain, back = np.ones(length), int(RATE * rng.uniform(0.08, 0.3))
            for t, kind, _ in song.hits:
                a = int(t * RATE)
                if kind == "kick" and a < length:
                    part = np.linspace(0, 1, back)[:length - a] ** 1.5
                    gain[a:a + back] = np.minimum(gain[a:a + back], part)
            x = x * (1 - rng.uniform(0.3, 0.9) * (1 - gain))[:, None]
        if kit != "font" and song.hits:
            if kit == "recorded":
                d = play(rng, recorded(song.midi), RECORDED_KITS[int(rng.integers(2))], tmp, length)
            else:
                d = drums(rng, song.hits, length)[:, None] * np.ones((1, 2))
            x = x + d * (rng.uniform(0.5, 1.6) * (np.std(x) if np.std(x) > 1e-4 else 0.1) / (np.std(d) + 1e-9))
        cents = float(rng.uniform(-50, 50)) if rng.random() < 0.6 else 0.0
        speed = 2 ** (cents / 1200)
        x = wear(rng, x)
        mono = x.mean(axis=1) if rng.random() < 0.8 else x[:, 0]
        sf.write(wav, mono, int(round(RATE * speed)), subtype="PCM_16")
        source = wav
        if rng.random() < 0.25:
            lossy = os.path.join(tmp, "a.mp3")
            subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", wav, "-ar", str(RATE), "-b:a", f"{int(rng.choice([64, 96, 128, 192]))}k", lossy], check=True)
            source = lossy
        subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", source, "-ar", "22050", "-sample_fmt", "s16", target], check=True)
    truth = {"tuning_cents": cents, "beats": [(t / speed, b) for t, b in song.beats],
             "notes": [(a / speed, e / speed, p, v, r) for a, e, p, v, r in song.notes], "hits": [(t / speed, k, v) for t, k, v in song.hits], "unknown": song.unknown}
    if sound:
        subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", target, target[:-4] + ".flac"], check=True)
        os.remove(target)
        json.dump(scored(truth, name, song.length_s / speed), open(target[:-4] + ".truth.json", "w"))
        return
    # What the networks see is made by the product's own code; the tuning found in practice is a little off, too.
    subprocess.run([FEATURES, target, str(cents + rng.normal(0, 3)), target[:-4]], check=True)
    os.remove(target)
    json.dump(truth, open(os.path.join(work, f"{name}.json"), "w"))


if __name__ == "__main__":
    work, first, count = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
    os.makedirs(work, exist_ok=True)
    entries = None
    if "--written" in sys.argv:
        with open(sys.argv[sys.argv.index("--written") + 1]) as f:
            entries = trained_on(json.load(f))
    for seed in range(first, first + count):
        make(work, seed, "--held-out" in sys.argv, "--sound" in sys.argv, entries, "--sparse" in sys.argv)
        print(seed, flush=True)

#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Renders composed songs through SoundFonts, wears them, and writes WORK/<seed>.wav with WORK/<seed>.json beside it.

    render.py WORK FIRST_SEED COUNT [--held-out]

--held-out renders through a SoundFont that training never hears, to measure what carries over.
Same seeds, same packages, same files.
"""
import json, os, subprocess, sys, tempfile
import numpy as np
import soundfile as sf
from scipy import signal
from compose import compose

RATE = 44100
TRAINING_FONTS = ["/usr/share/sounds/sf2/TimGM6mb.sf2", "/usr/share/sounds/sf2/FluidR3_GM.sf2", "/usr/share/sounds/sf3/FluidR3Mono_GM.sf3"]
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


def make(work, seed, fonts):
    target = os.path.join(work, f"{seed}.wav")
    if os.path.exists(os.path.join(work, f"{seed}.json")):
        return
    rng = np.random.default_rng(seed + 1_000_000)
    song = compose(seed)
    with tempfile.TemporaryDirectory() as tmp:
        mid, wav = os.path.join(tmp, "a.mid"), os.path.join(tmp, "a.wav")
        song.midi.save(mid)
        fonts = [f for f in fonts if os.path.exists(f)]
        subprocess.run(["fluidsynth", "-ni", "-q", "-g", "0.4", "-R", "1" if rng.random() < 0.7 else "0", "-C", "1" if rng.random() < 0.4 else "0",
                        "-r", str(RATE), "-T", "wav", "-F", wav, fonts[int(rng.integers(len(fonts)))], mid], check=True, stdout=subprocess.DEVNULL,
                       stderr=subprocess.DEVNULL)
        x, _ = sf.read(wav, always_2d=True)
        x = x[: int(song.length_s * RATE)]
        if len(x) < song.length_s * RATE:
            x = np.pad(x, ((0, int(song.length_s * RATE) - len(x)), (0, 0)))
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
             "notes": [(a / speed, e / speed, p, v, r) for a, e, p, v, r in song.notes], "hits": [(t / speed, k, v) for t, k, v in song.hits]}
    json.dump(truth, open(os.path.join(work, f"{seed}.json"), "w"))


if __name__ == "__main__":
    work, first, count = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
    os.makedirs(work, exist_ok=True)
    for seed in range(first, first + count):
        make(work, seed, HELD_OUT_FONTS if "--held-out" in sys.argv else TRAINING_FONTS)
        print(seed, flush=True)

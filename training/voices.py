# SPDX-License-Identifier: GPL-3.0-or-later
"""Electronic drums and synthesiser voices made in code, so that the networks hear more than sampled instruments.

Every song draws its own kit and its own patches; `drums` and `voices` return mono float arrays of `length` samples.
"""
import numpy as np
from scipy import signal

RATE = 44100


def decay(n, seconds):
    return np.exp(-np.arange(n) / (RATE * max(0.005, seconds)))


def band(rng, x, low, high):
    sos = signal.butter(2, [low / (RATE / 2), min(0.95, high / (RATE / 2))], "band", output="sos")
    return signal.sosfilt(sos, x)


def drum_sound(rng, kind):
    """One sound of a kit, peak 1."""
    noise = lambda n: rng.normal(0, 1, n)
    sweep = lambda n, start, end, fall: np.sin(2 * np.pi * np.cumsum(end + (start - end) * decay(n, fall)) / RATE + rng.uniform(0, 6))
    if kind == "kick":
        n = int(RATE * rng.uniform(0.15, 0.7))
        x = sweep(n, rng.uniform(90, 400), rng.uniform(36, 62), rng.uniform(0.008, 0.05)) * decay(n, rng.uniform(0.05, 0.3))
        x += rng.uniform(0, 0.5) * band(rng, noise(n), 1500, 8000) * decay(n, 0.004)
    elif kind == "snare":
        n = int(RATE * 0.4)
        x = rng.uniform(0.2, 1) * sweep(n, rng.uniform(230, 420), rng.uniform(150, 230), 0.02) * decay(n, rng.uniform(0.03, 0.12))
        x += rng.uniform(0.3, 1) * band(rng, noise(n), rng.uniform(500, 2000), rng.uniform(6000, 14000)) * decay(n, rng.uniform(0.03, 0.15))
    elif kind == "clap":
        n = int(RATE * 0.35)
        hands = sum(np.roll(decay(n, 0.008), int(d * RATE)) * (np.arange(n) >= int(d * RATE)) for d in (0, rng.uniform(0.008, 0.014), rng.uniform(0.02, 0.028)))
        x = band(rng, noise(n), rng.uniform(700, 1100), rng.uniform(2000, 5000)) * (hands + 0.6 * decay(n, rng.uniform(0.04, 0.12)))
    elif kind == "rim":
        n = int(RATE * 0.1)
        x = (np.sin(2 * np.pi * rng.uniform(400, 900) * np.arange(n) / RATE) + np.sin(2 * np.pi * rng.uniform(1500, 2200) * np.arange(n) / RATE)) * decay(n, 0.012)
    elif kind in ("hat_closed", "hat_open"):
        n = int(RATE * (0.15 if kind == "hat_closed" else 0.7))
        x = band(rng, noise(n) + rng.uniform(0, 3) * np.sign(sum(np.sin(2 * np.pi * f * np.arange(n) / RATE) for f in rng.uniform(2500, 9000, 5))),
                 rng.uniform(4000, 8000), 16000) * decay(n, rng.uniform(0.012, 0.05) if kind == "hat_closed" else rng.uniform(0.1, 0.35))
    elif kind == "tom":
        n = int(RATE * 0.5)
        x = sweep(n, rng.uniform(160, 400), rng.uniform(80, 200), rng.uniform(0.02, 0.1)) * decay(n, rng.uniform(0.08, 0.25)) + 0.1 * noise(n) * decay(n, 0.02)
    elif kind == "crash":
        n = int(RATE * 2)
        x = band(rng, noise(n), rng.uniform(1500, 4000), 15000) * decay(n, rng.uniform(0.4, 0.9))
    elif kind == "ride":
        n = int(RATE * 1.0)
        x = sum(np.sin(2 * np.pi * f * np.arange(n) / RATE) for f in rng.uniform(2500, 9000, 7)) * decay(n, rng.uniform(0.2, 0.5)) + band(rng, noise(n), 5000, 14000) * decay(n, 0.05)
    else:
        n = int(RATE * 0.12)
        x = band(rng, noise(n), rng.uniform(2000, 5000), 9000) * decay(n, rng.uniform(0.02, 0.05))
    return x / (np.abs(x).max() + 1e-9)


def drums(rng, hits, length):
    """hits: (time_s, kind, velocity)."""
    out = np.zeros(length + 3 * RATE)
    kit, level = {}, {}
    loudness = {"kick": 1.0, "snare": 0.9, "clap": 0.8, "rim": 0.5, "tom": 0.8, "crash": 0.5, "ride": 0.25, "hat_closed": 0.35, "hat_open": 0.35}
    for t, kind, velocity in hits:
        if kind not in kit:
            kit[kind] = drum_sound(rng, kind)
            level[kind] = loudness.get(kind, 0.3) * 10 ** (rng.uniform(-6, 4) / 20)
        a = int(t * RATE)
        if a < length:
            out[a:a + len(kit[kind])] += kit[kind] * level[kind] * (velocity / 127) ** 1.6
    return out[:length]


def voices(rng, notes, length, shapes=None):
    """One patch playing notes (onset_s, end_s, pitch, velocity): oscillators, a falling filter, an envelope, sometimes a glide or vibrato; or a singer."""
    out = np.zeros(length + RATE)
    shape = rng.choice(["saw", "square", "sine", "fm", "organ", "pluck", "sung"] if shapes is None else shapes)
    if shape == "sung":
        return sung(rng, notes, length)
    partials = np.arange(1, 40)
    if shape == "saw":
        strength = 1.0 / partials
    elif shape == "square":
        strength = (partials % 2) / partials
    elif shape == "sine":
        strength = np.where(partials == 1, 1.0, 0.25 * rng.random(len(partials)) / partials ** 2)
    elif shape == "organ":
        strength = np.where(partials <= 8, rng.random(len(partials)), 0)
    else:
        strength = rng.random(len(partials)) / partials ** rng.uniform(0.5, 1.5)
    strength[0] = max(strength[0], 0.25)
    attack, release = rng.choice([0.002, 0.005, 0.02, 0.06]), rng.choice([0.02, 0.06, 0.2])
    falling = shape == "pluck" or rng.random() < 0.4
    fall = rng.uniform(0.15, 1.2)
    cutoff, opening = np.exp(rng.uniform(np.log(400), np.log(9000))), rng.uniform(0, 4)
    detune = rng.uniform(0, 0.12) if rng.random() < 0.4 else 0
    vibrato = rng.uniform(0.1, 0.4) if rng.random() < 0.2 else 0
    last = None
    glide = rng.uniform(0.02, 0.08) if rng.random() < 0.2 else 0
    for onset, end, pitch, velocity in notes:
        n = int((min(end, onset + 6) - onset + release) * RATE)
        a = int(onset * RATE)
        if a >= length or n < 10:
            continue
        t = np.arange(n) / RATE
        bend = np.zeros(n)
        if vibrato:
            bend += vibrato * np.sin(2 * np.pi * 5.5 * t) * np.clip((t - 0.15) / 0.2, 0, 1)
        if glide and last is not None and abs(last - pitch) <= 7:
            bend += (last - pitch) * np.exp(-t / glide * 3)
        last = pitch
        f0 = 440 * 2 ** ((pitch - 69) / 12)
        phase = 2 * np.pi * f0 * (np.cumsum(2 ** (bend / 12)) / RATE if vibrato or glide else t)
        x = np.zeros(n)
        for k, s in zip(partials, strength):
            if s < 0.01 or f0 * k > 11000:
                continue
            # A two-pole low-pass whose cutoff falls with the note, applied partial by partial.
            c = cutoff * (1 + opening * (velocity / 127) * np.exp(-t[::64] * 6))
            gain = np.repeat(1 / (1 + (f0 * k / c) ** 2), 64)[:n]
            x += s * gain * np.sin(k * phase)
            if detune and k < 12:
                x += s * gain * np.sin(k * phase * 2 ** (detune / 12))
        envelope = np.minimum(1, t / attack) * (np.exp(-t / fall) if falling else 1)
        held = end - onset
        envelope = envelope * np.where(t > held, np.exp(-(t - held) / (release / 4)), 1)
        out[a:a + n] += (x * envelope * (velocity / 127) ** 1.2)[:max(0, len(out) - a)]
    out = out[:length]
    return out / (np.abs(out).max() + 1e-9)


VOWELS = [(730, 1090, 2440), (270, 2290, 3010), (530, 1840, 2480), (570, 840, 2410), (300, 870, 2240)]   # formants in Hz, Peterson and Barney (1952)


def sung(rng, notes, length):
    """A voice of formants over a pulse, with consonants of noise, slides between notes and a vibrato that sets in."""
    out = np.zeros(length + RATE)
    size, breath = rng.uniform(0.9, 1.25), rng.uniform(0, 0.12)
    depth, rate = rng.uniform(0, 0.5), rng.uniform(4.8, 6.2)
    consonants, slide = rng.uniform(0.2, 0.8), rng.uniform(0.02, 0.07)
    last = None
    for onset, end, pitch, velocity in notes:
        a, n = int(onset * RATE), int((min(end, onset + 6) - onset + 0.08) * RATE)
        if a >= length or n < 10:
            continue
        t = np.arange(n) / RATE
        bend = depth * np.sin(2 * np.pi * rate * t) * np.clip((t - 0.2) / 0.3, 0, 1) + 0.08 * rng.normal()
        bend += ((last - pitch) if last is not None and abs(last - pitch) <= 5 else -rng.uniform(0, 2)) * np.exp(-t / slide * 2)
        last = pitch
        f0 = 440 * 2 ** ((pitch - 69) / 12)
        phase = 2 * np.pi * f0 * np.cumsum(2 ** (bend / 12)) / RATE
        one, two = VOWELS[int(rng.integers(5))], VOWELS[int(rng.integers(5))]
        turn = np.clip(t / max(0.05, end - onset), 0, 1)[::64]
        x = np.zeros(n)
        for k in range(1, 40):
            f = f0 * k
            if f > 9000:
                break
            gain = 0.02 + sum(w / (1 + ((f - size * (p + (q - p) * turn)) / (60 + 0.05 * p)) ** 2) for w, p, q in zip((1, 0.6, 0.3), one, two))
            x += np.repeat(gain, 64)[:n] / k ** 0.5 * np.sin(k * phase)
        x += breath * band(rng, rng.normal(0, 1, n), 1500, 7000)
        x *= np.minimum(1, t / rng.uniform(0.015, 0.06)) * np.where(t > end - onset, np.exp(-(t - (end - onset)) / 0.02), 1)
        out[a:a + n] += (x * (velocity / 127) ** 1.2)[:max(0, len(out) - a)]
        if rng.random() < consonants:
            m = int(RATE * rng.uniform(0.03, 0.13))
            low = rng.choice([500, 1500, 3500, 5000])
            hiss = band(rng, rng.normal(0, 1, m), low, low * 2.2) * np.hanning(m) * rng.uniform(0.2, 1.5)
            b = max(0, a - int(m * 0.7))
            out[b:b + m] += hiss[:max(0, len(out) - b)]
    out = out[:length]
    return out / (np.abs(out).max() + 1e-9)

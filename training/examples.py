# SPDX-License-Identifier: GPL-3.0-or-later
"""What the networks are shown and what they should answer: targets from the truth of a song, and pieces of songs varied as they are drawn."""
import glob, json, os
import numpy as np

DRUMS = ["kick", "snare", "clap", "rim", "hat_closed", "hat_open", "tom", "crash", "ride", "percussion"]
PULSE_OUTPUTS = len(DRUMS) + 3
PITCHES = 88

# Mel bands at 1, 2 and 4 times each pitch's frequency, -1 above the last band; as in network.cpp.
MEL_BANDS, MEL_LOW, MEL_HIGH = 64, 30.0, 11000.0


def mel_band_of(hz):
    mel = lambda f: 2595.0 * np.log10(1.0 + f / 700.0)
    band = np.floor((mel(hz) - mel(MEL_LOW)) / (mel(MEL_HIGH) - mel(MEL_LOW)) * (MEL_BANDS + 1) - 0.5).astype(int)
    return np.where(band < MEL_BANDS, np.maximum(band, 0), -1)


PARTIAL_BANDS = np.stack([mel_band_of(440.0 * 2.0 ** ((np.arange(PITCHES) + 21 - 69) / 12) * k) for k in (1, 2, 4)])


MEL_RATE, CQ_RATE = 22050 / 256, 22050 / 512
ONSET = len(DRUMS)
LAYERED, WARPED = 0.25, 0.5   # shares of the pieces: two songs at once, and (pulse network) every sound larger or smaller
KIND_INDEX = {k: i for i, k in enumerate(DRUMS)}


def spike(row, t, rate, value=1.0, neighbour=0.35):
    """Marks an event on a frame and, weaker, on its neighbours."""
    f = int(round(t * rate))
    for d, v in ((0, value), (-1, neighbour), (1, neighbour)):
        if 0 <= f + d < len(row):
            row[f + d] = max(row[f + d], v)


def pulse_target(truth, frames):
    y = np.zeros((PULSE_OUTPUTS, frames), np.float16)
    for t, kind, velocity in truth["hits"]:
        if kind in KIND_INDEX and velocity >= 14:
            spike(y[KIND_INDEX[kind]], t, MEL_RATE)
    for onset, _, _, velocity, _ in truth["notes"]:
        if velocity >= 14:
            spike(y[ONSET], onset, MEL_RATE)
    for t, beat in truth["beats"]:
        spike(y[ONSET + 1], t, MEL_RATE, 1.0, 0.5)
        if beat == 1:
            spike(y[ONSET + 2], t, MEL_RATE, 1.0, 0.5)
    return y


def pitch_target(truth, frames):
    y = np.zeros((6, PITCHES, frames), np.float16)
    for onset, end, pitch, velocity, role in truth["notes"]:
        p = pitch - 21
        if not 0 <= p < PITCHES or velocity < 12:
            continue
        a, b = int(round(onset * CQ_RATE)), max(int(round(onset * CQ_RATE)) + 2, int(round(end * CQ_RATE)))
        for base, wanted in ((0, True), (2, role == 1), (4, role == 2)):
            if wanted:
                y[base, p, a:b] = 1
                spike(y[base + 1, p], onset, CQ_RATE, 1.0, 0.4)
    return y


UNKNOWN_OUTPUTS = {"pulse": {"beat": [ONSET + 1], "downbeat": [ONSET + 2]}, "pitch": {"bass": [2, 3], "lead": [4, 5]}}


def load(kind, folder, songs):
    """Adds the songs of a folder that are not in the dictionary yet: mel, constant-Q (pitch only) and targets, one byte a value, and the
    outputs that their truth does not tell."""
    for path in sorted(glob.glob(os.path.join(folder, "*.json"))):
        if path in songs:
            continue
        mel = np.fromfile(path[:-5] + ".mel", np.uint8).reshape(-1, 128).T.reshape(2, 64, -1).copy()
        with open(path) as f:
            truth = json.load(f)
        untold = [i for name in truth.get("unknown", ()) for i in UNKNOWN_OUTPUTS[kind].get(name, ())]
        if kind == "pulse":
            songs[path] = (mel, None, np.round(pulse_target(truth, mel.shape[-1]) * 255).astype(np.uint8), untold)
        else:
            cq = np.fromfile(path[:-5] + ".cq", np.uint8).reshape(-1, 300).T.copy()
            songs[path] = (mel[..., :2 * cq.shape[1]], cq, np.round(pitch_target(truth, cq.shape[1]) * 255).astype(np.uint8), untold)
    return list(songs.values())


def mel_views(mel):
    """mel: 2 × 64 × 2·frames (numpy) -> 256 × frames (whole spectra, two halves of a frame) and 12 × 88 × frames (at each pitch's partials)."""
    frames = mel.shape[2] // 2
    halves = np.stack([mel[:, :, 0:2 * frames:2], mel[:, :, 1:2 * frames:2]])          # half, window, band, frame
    partials = np.where(PARTIAL_BANDS[None, None, :, :, None] >= 0, halves[:, :, np.maximum(PARTIAL_BANDS, 0)], 0)
    return halves.reshape(256, frames), partials.transpose(2, 0, 1, 3, 4).reshape(12, PITCHES, frames)


def colour(rng, bins):
    """A smooth random equaliser: on a logarithmic scale it is added."""
    x = np.linspace(0, 1, bins)
    return sum(rng.normal(0, 0.03 / (k + 1)) * np.cos(np.pi * k * x + rng.uniform(0, 6)) for k in range(4)).astype(np.float32)


def toned(rng, piece):
    """A louder or softer copy, coloured: on a logarithmic scale nearly a shift."""
    return np.where(piece > 0.02, np.clip(piece + colour(rng, piece.shape[-2])[:, None] + np.float32(rng.normal(0, 0.04)), 0, 1.2), piece)


def warped(rng, mel):
    """As if every drum and instrument were a little larger or smaller: bands between the bands."""
    bands = mel.shape[-2]
    at = np.clip((np.arange(bands) + 0.5) * np.float32(rng.normal(1, 0.035)) - 0.5, 0, bands - 1.001)
    below, part = at.astype(int), (at - at.astype(int)).astype(np.float32)[:, None]
    return mel[..., below, :] * (1 - part) + mel[..., below + 1, :] * part


def layered(features, other, softer, full_scale, power):
    """A second recording under the first, softer by a power ratio of 10^softer: powers add. The features hold log10(1 + k x) / full_scale,
    where x is a power or (power = 2) an amplitude."""
    linear = lambda f: (10.0 ** (full_scale * f) - 1) ** power
    return (np.log10(1 + (linear(features) + linear(other) * 10.0 ** -softer) ** (1 / power)) / full_scale).astype(np.float32)


def batch(kind, songs, rng, size, frames):
    """Inputs and targets, `size` pieces of `frames` frames: pulse (mel), pitch (constant-Q, whole mel, mel at the partials). A negative target is unknown."""
    xs, ys = [], []
    for _ in range(size):
        mel, cq, y, untold = songs[rng.integers(len(songs))]
        cut = lambda whole, start, scale=1: whole[..., scale * start:scale * (start + frames)].astype(np.float32) / 255
        start = rng.integers(0, y.shape[-1] - frames)
        target = cut(y, start)
        target[untold] = -1
        step = 1 if kind == "pulse" else 2   # mel frames to a frame of the targets
        spectra, pitches = cut(mel, start, step), None if cq is None else cut(cq, start)
        if rng.random() < LAYERED:
            mel2, cq2, y2, _ = songs[rng.integers(len(songs))]
            at, softer = rng.integers(0, y2.shape[-1] - frames), rng.uniform(0.2, 1.2)
            target = np.maximum(target, cut(y2, at))
            target[ONSET + 1 if kind == "pulse" else 2:] = -1   # two songs have no beat, no bass and no lead in common
            spectra = layered(spectra, cut(mel2, at, step), softer, 4.0, 1)
            if cq is not None:
                pitches = layered(pitches, cut(cq2, at), softer, 2.5, 2)
        if kind == "pulse":
            if rng.random() < WARPED:
                spectra = warped(rng, spectra)
            xs.append((toned(rng, spectra),))
        else:
            piece = toned(rng, pitches)
            whole, partials = mel_views(toned(rng, spectra))
            if rng.random() < 0.5:
                shift = int(rng.integers(-5, 6))
                piece, target, partials = np.roll(piece, 3 * shift, 0), np.roll(target, shift, 1), np.roll(partials, shift, 1)
                if shift > 0:
                    piece[:3 * shift], target[:, :shift], partials[:, :shift] = 0, 0, 0
                elif shift < 0:
                    piece[3 * shift:], target[:, shift:], partials[:, shift:] = 0, 0, 0
            xs.append((piece, whole, partials))
        ys.append(target)
    return [np.stack(x) for x in zip(*xs)], np.stack(ys)

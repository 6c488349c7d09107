#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Trains a hearing network on rendered songs, in pieces: stop it at any time and start it again.

    train.py pulse|pitch WORK [--minutes M] [--export FILE] [--start FILE] [--lr RATE]

WORK holds train/ and held/ as render.py writes them; songs that appear while it runs are taken in. The checkpoint and a log of losses
stay in WORK. --start begins from exported weights instead of from nothing.
"""
import argparse, glob, json, os, struct, time
import numpy as np
import torch
from networks import DRUMS, PITCHES, PULSE_OUTPUTS, PitchNet, PulseNet, export, mel_views

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


def load(kind, folder, songs):
    """Adds the songs of a folder that are not in the dictionary yet: mel, constant-Q (pitch only) and targets, one byte a value."""
    for path in sorted(glob.glob(os.path.join(folder, "*.json"))):
        if path in songs:
            continue
        mel = np.fromfile(path[:-5] + ".mel", np.uint8).reshape(-1, 128).T.reshape(2, 64, -1).copy()
        truth = json.load(open(path))
        if kind == "pulse":
            songs[path] = (mel, None, np.round(pulse_target(truth, mel.shape[-1]) * 255).astype(np.uint8))
        else:
            cq = np.fromfile(path[:-5] + ".cq", np.uint8).reshape(-1, 300).T.copy()
            songs[path] = (mel[..., :2 * cq.shape[1]], cq, np.round(pitch_target(truth, cq.shape[1]) * 255).astype(np.uint8))
    return list(songs.values())


def start_from(network, path):
    """Takes over exported weights, also those of a smaller network of the same order of layers: what is new begins faint."""
    with open(path, "rb") as f:
        _, _, count = struct.unpack("<4sII", f.read(12))
        old = []
        for _ in range(count):
            shape = struct.unpack("<IIII", f.read(16))
            w = np.frombuffer(f.read(2 * int(np.prod(shape))), "<f2").astype(np.float32).reshape(shape)
            old.append((w, np.frombuffer(f.read(2 * shape[0]), "<f2").astype(np.float32)))
    layers = network.layers()
    if count < len(layers):   # the pitch network without its mel inputs and its far layer
        old[3:3] = [None, None]
        old.insert(len(layers) - 2, None)
    with torch.no_grad():
        for layer, known in zip(layers, old):
            if known is None:
                layer.weight.mul_(0.3)
                continue
            w, bias = known
            if layer is getattr(network, "squeeze", None) and w.shape[1] != layer.weight.shape[1]:   # channel by channel, eight bands each
                w = w.reshape(w.shape[0], -1, 8)
                layer.weight.mul_(0.3)
                layer.weight.view(layer.weight.shape[0], -1, 8)[:w.shape[0], :w.shape[1]] = torch.from_numpy(w.copy())
            else:
                w = w.reshape(w.shape[:1] + w.shape[1:2] + tuple(layer.weight.shape[2:]))
                layer.weight[:w.shape[0]].mul_(0.3)
                layer.weight[:w.shape[0], :w.shape[1]] = torch.from_numpy(w.copy())
            layer.bias[:len(bias)] = torch.from_numpy(bias.copy())


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
    """Inputs and targets as tensors: pulse (mel), pitch (constant-Q, whole mel, mel at the partials). A negative target is unknown."""
    xs, ys = [], []
    for _ in range(size):
        mel, cq, y = songs[rng.integers(len(songs))]
        cut = lambda whole, start, scale=1: whole[..., scale * start:scale * (start + frames)].astype(np.float32) / 255
        start = rng.integers(0, y.shape[-1] - frames)
        target = cut(y, start)
        step = 1 if kind == "pulse" else 2   # mel frames to a frame of the targets
        spectra, pitches = cut(mel, start, step), None if cq is None else cut(cq, start)
        if rng.random() < LAYERED:
            mel2, cq2, y2 = songs[rng.integers(len(songs))]
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
    return [torch.from_numpy(np.stack(x)) for x in zip(*xs)], torch.from_numpy(np.stack(ys))


def loss_of(kind, out, y):
    # Events are rare; weighing them up keeps the network from answering "nothing" everywhere.
    if kind == "pulse":
        weight = torch.tensor([4.0, 4.0, 8.0, 8.0, 4.0, 8.0, 6.0, 8.0, 6.0, 6.0, 4.0, 3.0, 6.0]).view(1, -1, 1)
    else:
        weight = torch.tensor([2.0, 6.0, 3.0, 8.0, 3.0, 8.0]).view(1, -1, 1, 1)
    known, y = y >= 0, y.clamp(min=0)
    raw = torch.nn.functional.binary_cross_entropy_with_logits(out, y, reduction="none") * known
    per_output = (raw * (1 + (weight - 1) * y)).mean(dim=(0, 2) if kind == "pulse" else (0, 2, 3))
    return per_output.sum() if kind == "pulse" else per_output.sum() * 8


def held_out_f(kind, network, songs):
    """F-measure frame by frame at threshold 0.5, targets of at least 0.9, one frame of tolerance for events."""
    hit, found, wanted = 0, 0, 0
    with torch.no_grad():
        for mel, cq, y in songs:
            mel = mel.astype(np.float32) / 255
            x = [mel] if kind == "pulse" else [cq.astype(np.float32) / 255, *mel_views(mel)]
            out = torch.sigmoid(network(*(torch.from_numpy(v[None]) for v in x)))[0].numpy()
            est, ref = out > 0.5, y > 229
            axes = tuple(range(1, est.ndim))
            hit = hit + (est & ref).sum(axes)
            found, wanted = found + est.sum(axes), wanted + ref.sum(axes)
    return 2 * hit / np.maximum(1, found + wanted)


def main():
    p = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    p.add_argument("kind", choices=["pulse", "pitch"])
    p.add_argument("work")
    p.add_argument("--minutes", type=float, default=20)
    p.add_argument("--export")
    p.add_argument("--start")
    p.add_argument("--lr", type=float, default=3e-3)
    p.add_argument("--threads", type=int, default=2)
    a = p.parse_args()
    torch.set_num_threads(a.threads)
    torch.manual_seed(1)
    network = PulseNet() if a.kind == "pulse" else PitchNet()
    network = network.to(memory_format=torch.channels_last)   # a third faster here
    checkpoint = os.path.join(a.work, a.kind + ".pt")
    steps = 0
    optimiser = torch.optim.Adam(network.parameters(), lr=a.lr)
    if os.path.exists(checkpoint):
        state = torch.load(checkpoint)
        network.load_state_dict(state["network"])
        optimiser.load_state_dict(state["optimiser"])
        steps = state["steps"]
    elif a.start:
        start_from(network, a.start)
    rng = np.random.default_rng(steps)
    known = {}
    songs = load(a.kind, os.path.join(a.work, "train"), known)
    held = load(a.kind, os.path.join(a.work, "held"), {})
    log = open(os.path.join(a.work, a.kind + ".log"), "a")
    print(f"{len(songs)} songs to train on, {len(held)} held out, {sum(q.numel() for q in network.parameters())} weights, step {steps}", file=log, flush=True)
    size, frames = (5, 1600) if a.kind == "pulse" else (6, 256)   # long enough that the beats' reach of twelve seconds is used
    begun, recent, saved = time.time(), [], time.time()
    while time.time() - begun < a.minutes * 60:
        left = 1 - (time.time() - begun) / (a.minutes * 60)
        for g in optimiser.param_groups:
            g["lr"] = a.lr * max(0.02, min(1.0, left * 1.5)) * min(1.0, (steps + 1) / 200)
        x, y = batch(a.kind, songs, rng, size, frames)
        loss = loss_of(a.kind, network(*x), y)
        optimiser.zero_grad()
        loss.backward()
        torch.nn.utils.clip_grad_norm_(network.parameters(), 2.0)
        optimiser.step()
        steps += 1
        recent.append(float(loss))
        if time.time() - saved > 240 or time.time() - begun >= a.minutes * 60 - 2:
            saved = time.time()
            torch.save({"network": network.state_dict(), "optimiser": optimiser.state_dict(), "steps": steps}, checkpoint)
            f = held_out_f(a.kind, network, held[:8])
            songs = load(a.kind, os.path.join(a.work, "train"), known)
            print(f"{len(songs)} songs, step {steps}, loss {np.mean(recent):.4f} held-out F " + " ".join(f"{v:.2f}" for v in f), file=log, flush=True)
            recent = []
            if a.export:
                export(network, a.export)
    torch.save({"network": network.state_dict(), "optimiser": optimiser.state_dict(), "steps": steps}, checkpoint)
    if a.export:
        export(network, a.export)


if __name__ == "__main__":
    main()

#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Trains a hearing network on rendered songs, in pieces: stop it at any time and start it again.

    train.py pulse|pitch WORK [--minutes M] [--export FILE] [--start FILE] [--lr RATE]

WORK holds train/ and held/ as render.py writes them; songs that appear while it runs are taken in. The checkpoint and a log of losses
stay in WORK. --start begins from exported weights instead of from nothing.
"""
import argparse, os, struct, time
import numpy as np
import torch
from examples import batch, load, mel_views
from networks import PitchNet, PulseNet, export


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
        for mel, cq, y, _ in songs:
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
        loss = loss_of(a.kind, network(*map(torch.from_numpy, x)), torch.from_numpy(y))
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

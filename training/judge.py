#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Trains the judge of notes: a logistic regression over the clues that fw-clues writes.

    judge.py FOLDER[:WEIGHT] [FOLDER[:WEIGHT] ...] [--held FOLDER ...] [--without LIST.json] [--export FILE]

A folder holds <id>.clues beside the <id>.truth.json of bench/accuracy; WEIGHT says how much its recordings count (1). Recordings count alike
whatever their length, to the square root. --without keeps every third song of a list, which written.py never arranges, from training and
reports it as held out, as all recordings of --held are. Prints the mean F of notes (50 ms) by threshold.
"""
import argparse, glob, json, os
import numpy as np
import torch
from networks import export
from written import trained_on

CLUES = 38     # kNoteClues in note_judge.hpp
THRESHOLDS = np.arange(0.2, 0.61, 0.05)
FORGET = 0.05   # weight decay


def read(path):
    """(clues, whether each entry is a note, number of notes) of a recording; every note answers for the entry with the clearest onset."""
    with open(path[:-6] + ".truth.json") as f:
        notes = json.load(f)["notes"]
    rows = np.fromfile(path, "<f4")
    rows = rows.reshape(-1, 2 + CLUES)
    time, pitch, clues = rows[:, 0], np.round(rows[:, 1]).astype(int), rows[:, 2:]
    true = np.zeros(len(rows), np.float32)
    for p in set(pitch):
        onsets, taken = np.sort([n["onset_s"] for n in notes if round(n["pitch"]) == p]), set()
        at = np.flatnonzero(pitch == p)
        for i in at[np.argsort(-clues[at, 0])]:
            near = [k for k in range(*np.searchsorted(onsets, [time[i] - 0.05, time[i] + 0.05])) if k not in taken]
            if near:
                taken.add(min(near, key=lambda k: abs(onsets[k] - time[i])))
                true[i] = 1
    return clues, true, len(notes)


def mean_f(judged, threshold):
    """judged: (probabilities, whether notes, number of notes) a recording."""
    return float(np.mean([2 * true[p >= threshold].sum() / max(1, (p >= threshold).sum() + notes) for p, true, notes in judged]))


class Judge(torch.nn.Module):
    def __init__(self):
        super().__init__()
        self.sum = torch.nn.Conv1d(CLUES, 1, 1)

    def layers(self):
        return [self.sum]


def train(songs, weights, epochs=40, size=512):
    clues, true = (np.concatenate([s[i] for s in songs]) for i in (0, 1))
    weight = np.concatenate([np.full(len(s[1]), w / np.sqrt(max(1, len(s[1])))) for s, w in zip(songs, weights)])
    middle, spread = clues.mean(0), clues.std(0) + 1e-6
    x, y, w = (torch.from_numpy(np.ascontiguousarray(v, np.float32)) for v in ((clues - middle) / spread, true, weight / weight.mean()))
    torch.manual_seed(1)
    linear = torch.nn.Linear(CLUES, 1)
    optimiser = torch.optim.AdamW(linear.parameters(), 2e-3, weight_decay=FORGET)
    for _ in range(epochs):
        order = torch.randperm(len(x))
        for i in range(0, len(x), size):
            some = order[i:i + size]
            loss = (torch.nn.functional.binary_cross_entropy_with_logits(linear(x[some])[:, 0], y[some], reduction="none") * w[some]).mean()
            optimiser.zero_grad()
            loss.backward()
            optimiser.step()
    judge = Judge()
    with torch.no_grad():   # the scaling goes into the weights
        scaled = linear.weight[0] / torch.from_numpy(spread)
        judge.sum.weight[0, :, 0] = scaled
        judge.sum.bias[0] = linear.bias[0] - (scaled * torch.from_numpy(middle)).sum()
    return judge


def judged(judge, song):
    with torch.no_grad():
        return torch.sigmoid(judge.sum(torch.from_numpy(song[0].T.copy())[None]))[0, 0].numpy(), song[1], song[2]


def main():
    p = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    p.add_argument("folders", nargs="+")
    p.add_argument("--held", nargs="*", default=[])
    p.add_argument("--without")
    p.add_argument("--export")
    a = p.parse_args()
    kept = set()
    if a.without:
        with open(a.without) as f:
            entries = json.load(f)
        kept = {e["id"] for e in entries} - {e["id"] for e in trained_on(entries)}
    songs, weights, held = [], [], {}
    for folder in a.folders:
        folder, _, weight = folder.partition(":")
        for path in sorted(glob.glob(os.path.join(folder, "*.clues"))):
            if os.path.basename(path)[:-6] in kept:
                held.setdefault(folder, []).append(read(path))
            else:
                songs.append(read(path))
                weights.append(float(weight or 1))
    for folder in a.held:
        held[folder + " (held out)"] = [read(path) for path in sorted(glob.glob(os.path.join(folder, "*.clues")))]
    judge = train(songs, weights)
    for name, group in {f"{len(songs)} trained on": songs, **{f"{len(g)} held out of {n}": g for n, g in held.items()}}.items():
        found = [judged(judge, s) for s in group]
        print(f"{name}: " + "  ".join(f"{t:.2f} {mean_f(found, t):.3f}" for t in THRESHOLDS))
    if a.export:
        export(judge, a.export)


if __name__ == "__main__":
    main()

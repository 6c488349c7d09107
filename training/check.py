#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Fits the weights by which the check judges what is written, and what is not (src/core/check/judge.cpp).

    fw-planted CORPUS_DIR --clues > clues.csv
    training/check.py clues.csv > src/core/check/judge_weights.hpp

Six logistic regressions over the clues of true songs in which a tenth of all notes was planted wrong, both classes weighed alike, so that the sum is
log-odds at even prior; fitted on all songs but every third. The priors are found as the product finds them (own_prior, Priors), and the last straight line
through the log-odds is fitted on what comes of that: of notes and what is not written for each song with weights that have not seen it, else it would promise
what only known songs keep; of times, which lose nothing on unknown songs, with the weights of all. Printed to the error stream: recall at three shares of right ones that are told, fitted on and kept.
"""
import sys
import numpy as np

if len(sys.argv) != 2:
    sys.exit(__doc__)
LOOKS = {"Note": "kNoteLooks", "Stroke": "kStrokeLooks", "NoteTiming": "kTimingLooks", "StrokeTiming": "kTimingLooks",
         "UnwrittenNote": "kUnwrittenNoteLooks", "UnwrittenStroke": "kUnwrittenStrokeLooks"}
FEW_IN_SONG, FEW_IN_GROUP = 50.0, 60.0


def sigmoid(x):
    return 1 / (1 + np.exp(-np.clip(x, -40, 40)))


def logit(p):
    p = np.clip(p, 1e-6, 1 - 1e-6)
    return np.log(p / (1 - p))


def fit(x, y, weight, ridge=1e-3):
    mean, spread = x.mean(0), x.std(0)
    spread[spread < 1e-6] = 1.0  # what is the same in all these songs weighs nothing in another
    z = np.c_[(x - mean) / spread, np.ones(len(x))]
    b = np.zeros(z.shape[1])

    def worth(b):
        s = z @ b
        return (weight * (y * s - np.logaddexp(0, s))).sum() - 0.5 * ridge * len(y) * (b[:-1] ** 2).sum()
    now = worth(b)
    for _ in range(60):
        p = sigmoid(z @ b)
        gradient = z.T @ (weight * (y - p)) - ridge * len(y) * np.r_[b[:-1], 0]
        hessian = (z * (weight * p * (1 - p))[:, None]).T @ z + ridge * len(y) * np.eye(z.shape[1])
        step = np.linalg.solve(hessian, gradient)
        while (then := worth(b + step)) < now and np.abs(step).max() > 1e-9:
            step *= 0.5  # too far: the classes are nearly apart
        b, gained, now = b + step, then - now, then
        if gained < 1e-9 * abs(now):
            break
    return np.r_[b[:-1] / spread, b[-1] - (b[:-1] * mean / spread).sum()]


def own_prior(scores, usual, few):
    prior = max(0.02, usual)
    for _ in range(40):
        prior = np.clip((sigmoid(scores + logit(prior)).sum() + usual * few) / (len(scores) + few), 0.001, 0.95)
    return prior


def told(scores, states, groups, looks_so):
    out = np.zeros(len(scores))
    for state in np.unique(states):
        inside = states == state
        song = own_prior(scores[inside], looks_so, FEW_IN_SONG)
        for group in np.unique(groups[inside]):
            i = inside & (groups == group)
            prior = own_prior(scores[i], song, FEW_IN_GROUP)
            out[i] = scores[i] + logit(prior)
    return out


rows = {name: [] for name in LOOKS}
for line in open(sys.argv[1]):
    cells = line.rstrip().split(",")
    rows[cells[0]].append(cells[1:])
print("""// SPDX-License-Identifier: GPL-3.0-or-later
// Written by training/check.py; docs/accuracy.md tells on what it was fitted and what it reaches on what was kept from it.
#pragma once

#include "check/clues.hpp"

namespace fw {

/// How a sum of clues becomes a probability: the share that looks wrong where all is right, from which a song is judged, and a last straight line
/// through the log-odds.
struct JudgeFit {
    double looks_so, scale, offset;
};

// clang-format off""")
for name, mine in rows.items():
    x = np.array([[float(v) for v in r[5:]] for r in mine])
    held, right, y = (np.array([int(r[i]) for r in mine]) for i in (1, 2, 4))
    group = np.unique([r[3] for r in mine], return_inverse=True)[1]
    state = np.unique([r[3].rsplit(" ", 1)[0] for r in mine], return_inverse=True)[1]
    learnt = held == 0
    share = y[learnt].mean()
    even = np.where(y == 1, 0.5 / share, 0.5 / (1 - share))
    b = fit(x[learnt], y[learnt], even[learnt])
    score = np.c_[x, np.ones(len(x))] @ b
    song = np.array([r[0] for r in mine])
    unseen = score.copy()
    for one in np.unique(song[learnt]) if not name.endswith("Timing") else []:
        others = learnt & (song != one)
        unseen[song == one] = np.c_[x, np.ones(len(x))][song == one] @ fit(x[others], y[others], even[others])
    priors = [own_prior(unseen[(right == 1) & (state == s)], 0.01, FEW_IN_SONG) for s in np.unique(state[learnt & (right == 1)])]
    looks_so = float(np.mean(priors))
    # Listed is what is more likely than not: the line is fitted where that is decided.
    p = told(unseen, state, group, looks_so)
    near = learnt & (p > -3)
    scale, offset = fit(p[near][:, None], y[near], np.ones(near.sum()))
    p = told(score, state, group, looks_so)
    print(f"inline constexpr std::array<double, {LOOKS[name]} + 1> k{name}Weights{{{', '.join(f'{v:.4g}' for v in b)}}};")
    print(f"inline constexpr JudgeFit k{name}Fit{{{looks_so:.4f}, {scale:.3f}, {offset:.3f}}};")
    p = sigmoid(scale * p + offset)
    for where, part in (("fitted on", learnt), ("kept", ~learnt)):
        wrong, well = np.sort(score[part & (y == 1)]), np.sort(score[part & (y == 0) & (right == 1)])[::-1]
        recall = [float((wrong > well[int(q * len(well))]).mean()) for q in (0.005, 0.01, 0.027)]
        planted = part & (right == 0)
        bins = [(p >= low) & (p < low + 0.1) & planted for low in np.arange(0.5, 1, 0.1)]
        print(f"{name}, {where}: recall at .005 .01 .027 of right ones {np.round(recall, 2).tolist()}; listed of planted {(p[planted & (y == 1)] > .5).mean():.2f}, "
              f"precision {y[planted & (p > .5)].mean():.2f}, right by tenths {[round(float(y[k].mean()), 2) if k.any() else None for k in bins]}, "
              f"listed of right songs {(p[part & (right == 1)] > .5).mean():.4f}", file=sys.stderr)
print("""// clang-format on

}  // namespace fw""")

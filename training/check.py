#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Fits the weights by which the check judges written notes and strokes (src/core/check/judge.cpp).

    fw-planted CORPUS_DIR --clues > clues.csv
    training/check.py clues.csv

Logistic regression over the clues of true notes among which three in ten were planted wrong, both classes weighed alike, so that the sum is log-odds at
even prior. Fitted on all songs but every third; printed with what it reaches on those kept, at three shares of errors: recall and precision of what is
called at least 50 % sure, and how often that is right by tenths of confidence.
"""
import sys
import numpy as np

if len(sys.argv) != 2:
    sys.exit(__doc__)
rows = [line.strip().split(",") for line in open(sys.argv[1])]


def fit(x, y, weight, ridge=1e-3):
    mean, spread = x.mean(0), x.std(0) + 1e-9
    z = np.c_[(x - mean) / spread, np.ones(len(x))]
    b = np.zeros(z.shape[1])
    for _ in range(60):
        p = 1 / (1 + np.exp(-z @ b))
        gradient = z.T @ (weight * (y - p)) - ridge * len(y) * np.r_[b[:-1], 0]
        hessian = (z * (weight * p * (1 - p))[:, None]).T @ z + ridge * len(y) * np.eye(z.shape[1])
        b += np.linalg.solve(hessian, gradient)
    return np.r_[b[:-1] / spread, b[-1] - (b[:-1] * mean / spread).sum()]


for drums in (0, 1):
    mine = [r for r in rows if int(r[3]) == drums]
    x = np.array([[float(v) for v in r[6:]] for r in mine])
    wrong, held, pitch = (np.array([int(r[i]) for r in mine]) for i in (5, 1, 4))
    group = np.array([r[0] + r[2] + (r[4] if drums else "") for r in mine])
    clear = x[:, 0] if drums else np.maximum(x[:, 0], x[:, 1])
    usual, alike = np.zeros(len(x)), np.zeros(len(x))
    for g in set(group):
        i = np.where(group == g)[0]
        usual[i] = (np.median(clear[i]) * len(i) + 4.0) / (len(i) + 4)
        for p in set(pitch[i]):
            j = i[pitch[i] == p]
            alike[j] = (clear[j].sum() - clear[j] + 2 * usual[j]) / (len(j) + 1)
    if drums:
        clues = np.c_[x, usual, np.minimum(0, clear - usual)]
    else:
        clues = np.c_[x, clear, x[:, 0] * x[:, 1] / 10, usual, np.minimum(0, clear - usual), alike, np.minimum(0, clear - alike)]
    learnt = held == 0
    share = wrong[learnt].mean()
    b = fit(clues[learnt], wrong[learnt], np.where(wrong == 1, 0.5 / share, 0.5 / (1 - share))[learnt])
    score = np.c_[clues, np.ones(len(clues))] @ b
    print("strokes" if drums else "notes", np.round(b, 3).tolist())
    for name, part in (("fitted on", learnt), ("kept", ~learnt)):
        for prior in (0.01, 0.05, 0.2):
            p = 1 / (1 + np.exp(-(score[part] + np.log(prior / (1 - prior)))))
            y = wrong[part]
            weight = np.where(y == 1, prior / y.mean(), (1 - prior) / (1 - y.mean()))
            listed = p > 0.5
            bins = []
            for low in np.arange(0.5, 1, 0.1):
                k = (p >= low) & (p < low + 0.1)
                bins.append(round(float((weight * y * k).sum() / max(1e-9, (weight * k).sum())), 2))
            print(f"  {name}, {prior:.0%} wrong: recall {(weight * listed * y).sum() / (weight * y).sum():.2f}, "
                  f"precision {(weight * listed * y).sum() / max(1e-9, (weight * listed).sum()):.2f}, right by tenths {bins}")

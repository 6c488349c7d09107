# SPDX-License-Identifier: GPL-3.0-or-later
"""The two hearing networks. `export` writes what src/core/analysis/network.cpp reads: layers are the same on both sides.

Both take one-byte features scaled to 0..1 and give logits per frame.
PulseNet: mel spectra (2 × 64 bands, 86.1 frames/s) -> 10 drum sounds, 1 pitched onset, beat, downbeat.
PitchNet: constant-Q (300 bins, 43.1 frames/s), harmonically stacked (Bittner et al., "Deep salience representations", ISMIR 2017), and the same
          mel spectra, which place in time what the long windows of the low notes blur: whole, and at each pitch's own partials
          -> per semitone 21..108: sounding, onset, bass sounding, bass onset, lead sounding, lead onset.
"""
import struct
import torch
from torch import nn
from examples import DRUMS, PITCHES, PULSE_OUTPUTS

HARMONIC_SHIFTS = [-36, 0, 36, 57, 72, 84, 93, 101]   # in thirds of a semitone: half, 1, 2, 3, 4, 5, 6 and 7 times the frequency


class PulseNet(nn.Module):
    def __init__(self, width=64):
        super().__init__()
        self.front = nn.ModuleList([nn.Conv2d(2, 16, 3, padding=1), nn.Conv2d(16, 32, 3, padding=1, stride=(2, 1)),
                                    nn.Conv2d(32, 48, 3, padding=1, stride=(2, 1)), nn.Conv2d(48, 64, 3, padding=1, stride=(2, 1))])
        self.squeeze = nn.Conv1d(64 * 8, width, 1)
        self.hits = nn.ModuleList([nn.Conv1d(width, width, 5, padding=2), nn.Conv1d(width, width, 5, padding=2)])
        self.hit_out = nn.Conv1d(width, len(DRUMS) + 1, 1)
        self.context = nn.ModuleList([nn.Conv1d(width, width, 5, padding=2 * 2 ** i, dilation=2 ** i) for i in range(9)])
        self.beat_out = nn.Conv1d(width, 2, 1)

    def forward(self, x):                       # x: batch × 2 × 64 × frames
        for layer in self.front:
            x = torch.relu(layer(x))
        x = torch.relu(self.squeeze(x.flatten(1, 2)))
        h = x
        for layer in self.hits:
            h = h + torch.relu(layer(h))
        b = x
        for layer in self.context:
            b = b + torch.relu(layer(b))
        return torch.cat([self.hit_out(h), self.beat_out(b)], dim=1)

    def layers(self):
        return [*self.front, self.squeeze, *self.hits, self.hit_out, *self.context, self.beat_out]


def stack_harmonics(cq):                        # batch × 300 × frames -> batch × 8 × 264 × frames
    bins = PITCHES * 3
    out = cq.new_zeros(cq.shape[0], len(HARMONIC_SHIFTS), bins, cq.shape[2])
    for i, shift in enumerate(HARMONIC_SHIFTS):
        low, high = max(0, -shift), min(bins, cq.shape[1] - shift)
        out[:, i, low:high] = cq[:, low + shift:high + shift]
    return out


class PitchNet(nn.Module):
    def __init__(self, a=16, b=40):
        super().__init__()
        self.fine = nn.ModuleList([nn.Conv2d(8, a, (5, 3), padding=(2, 1)), nn.Conv2d(a, a, 3, padding=1)])
        self.fold = nn.Conv2d(a, b, (3, 3), padding=(0, 1), stride=(3, 1))
        self.whole = nn.Conv1d(256, b, 3, padding=1)
        self.partials = nn.Conv2d(12, b, (1, 5), padding=(0, 2))
        self.wide = nn.Conv2d(b, b, (25, 1), padding=(12, 0))
        self.coarse = nn.ModuleList([nn.Conv2d(b, b, (3, 5), padding=(1, 2)), nn.Conv2d(b, b, (1, 9), padding=(0, 4)), nn.Conv2d(b, b, (3, 3), padding=(1, 1))])
        self.far = nn.Conv2d(b, b, (1, 7), padding=(0, 18), dilation=(1, 6))
        self.out = nn.Conv2d(b, 6, 1)

    def forward(self, cq, whole, partials):     # cq: batch × 300 × frames; the others: see examples.mel_views
        x = stack_harmonics(cq)
        for layer in self.fine:
            x = torch.relu(layer(x))
        x = torch.relu(self.fold(x) + self.whole(whole)[:, :, None, :] + self.partials(partials))
        x = x + torch.relu(self.wide(x))
        for layer in self.coarse:
            x = x + torch.relu(layer(x))
        x = x + torch.relu(self.far(x))
        return self.out(x)                      # batch × 6 × 88 × frames

    def layers(self):
        return [*self.fine, self.fold, self.whole, self.partials, self.wide, *self.coarse, self.far, self.out]


def export(network, path):
    """Little-endian: 'FWNN', version, number of layers; per layer: out, in, kernel height, kernel width, then weights and biases as float16."""
    with open(path, "wb") as f:
        layers = network.layers()
        f.write(b"FWNN" + struct.pack("<II", 1, len(layers)))
        for layer in layers:
            w = layer.weight.detach().numpy()
            if w.ndim == 3:
                w = w[:, :, None, :]
            f.write(struct.pack("<IIII", *w.shape))
            f.write(w.astype("<f2").tobytes())
            f.write(layer.bias.detach().numpy().astype("<f2").tobytes())

#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Averages two exported networks of the same layers, one trained on from the other (Wortsman et al., "Model soups", ICML 2022).

    average.py FIRST SECOND SHARE OUT      OUT = (1 - SHARE) · FIRST + SHARE · SECOND
"""
import pathlib, struct, sys
import numpy as np


def average(first, second, share):
    a, b = (pathlib.Path(name).read_bytes() for name in (first, second))
    if a[:4] != b"FWNN" or len(a) != len(b) or a[:12] != b[:12]:
        raise SystemExit(f"{first} and {second} are not two exports of the same network: give two that train.py wrote.")
    out, at = bytearray(a[:12]), 12
    for _ in range(struct.unpack("<I", a[8:12])[0]):
        shape = a[at:at + 16]
        if shape != b[at:at + 16]:
            raise SystemExit(f"{first} and {second} differ in the shape of a layer: give two exports of the same network.")
        at += 16
        outputs = struct.unpack("<IIII", shape)
        size = 2 * (int(np.prod(outputs)) + outputs[0])
        x, y = (np.frombuffer(n[at:at + size], "<f2").astype(np.float32) for n in (a, b))
        out += shape + ((1 - share) * x + share * y).astype("<f2").tobytes()
        at += size
    return bytes(out)


if __name__ == "__main__":
    if len(sys.argv) != 5:
        raise SystemExit(__doc__)
    averaged = average(sys.argv[1], sys.argv[2], float(sys.argv[3]))
    pathlib.Path(sys.argv[4]).write_bytes(averaged)

#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""What training relies on without a network: composed songs tell the truth, and exported networks average."""
import os, struct, sys, unittest
import numpy as np

sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "..", "training"))
sys.dont_write_bytecode = True
from average import average
from compose import KIND_OF_KEY, compose

SEEDS = range(7000, 7012)


class ComposedSongs(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.songs = [compose(seed) for seed in SEEDS]

    def test_the_same_seed_makes_the_same_song_and_another_another(self):
        again = compose(SEEDS[0])
        self.assertEqual((again.beats, again.notes, again.hits), (self.songs[0].beats, self.songs[0].notes, self.songs[0].hits))
        self.assertEqual(len({(tuple(s.beats), tuple(s.notes)) for s in self.songs}), len(self.songs))

    def test_beats_rise_and_are_counted_from_one(self):
        for song in self.songs:
            times = np.array([t for t, _ in song.beats])
            self.assertTrue((np.diff(times) > 0.15).all() and (np.diff(times) < 2.5).all())
            per_bar = max(b for _, b in song.beats)
            self.assertTrue(2 <= per_bar <= 7)
            self.assertEqual([b for _, b in song.beats], [i % per_bar + 1 for i in range(len(song.beats))])

    def test_notes_and_hits_lie_in_their_ranges_and_in_the_order_of_time(self):
        kinds = set(KIND_OF_KEY.values()) | {"percussion"}
        for song in self.songs:
            self.assertEqual(song.notes, sorted(song.notes))
            self.assertEqual(song.hits, sorted(song.hits))
            for onset, end, pitch, velocity, role in song.notes:
                self.assertTrue(0 <= onset < end and 21 <= pitch <= 108 and 1 <= velocity <= 127 and role in (0, 1, 2))
            self.assertTrue(all(t >= 0 and kind in kinds and 1 <= velocity <= 127 for t, kind, velocity in song.hits))

    def test_what_is_true_is_what_is_played(self):
        for song in self.songs:
            played = sorted((t, pitch) for notes in song.pitched.values() for t, _, pitch, _ in notes)
            self.assertEqual(played, sorted((onset, pitch) for onset, _, pitch, _, _ in song.notes))


def exported(outputs, value):
    """A network of one layer with two inputs, all its numbers the same."""
    numbers = np.full(outputs * 2 + outputs, value, "<f2").tobytes()
    return b"FWNN" + struct.pack("<II", 1, 1) + struct.pack("<IIII", outputs, 2, 1, 1) + numbers


class Averages(unittest.TestCase):
    def averaged(self, first, second, share):
        self.addCleanup(lambda: [os.path.exists(p) and os.remove(p) for p in paths])
        paths = [f"/tmp/fw-average-{os.getpid()}-{i}" for i in range(2)]
        for path, data in zip(paths, (first, second)):
            with open(path, "wb") as f:
                f.write(data)
        return average(*paths, share)

    def test_lie_between_the_two(self):
        self.assertEqual(self.averaged(exported(3, 1.0), exported(3, 3.0), 0.25), exported(3, 1.5))
        self.assertEqual(self.averaged(exported(3, 1.0), exported(3, 3.0), 0.0), exported(3, 1.0))

    def test_of_unlike_networks_are_refused_with_both_names(self):
        with self.assertRaises(SystemExit) as refused:
            self.averaged(exported(3, 1.0), exported(4, 1.0), 0.5)
        self.assertIn("-0", str(refused.exception))
        self.assertIn("-1", str(refused.exception))


if __name__ == "__main__":
    unittest.main()

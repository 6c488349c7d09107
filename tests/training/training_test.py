#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""What training relies on without a network: composed songs tell the truth, examples keep it, and exported networks average."""
import os, struct, sys, unittest
import numpy as np

sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "..", "training"))
sys.dont_write_bytecode = True
from average import average
from compose import KIND_OF_KEY, compose
import examples
from examples import CQ_RATE, DRUMS, MEL_RATE, ONSET, batch, layered, pitch_target, pulse_target, warped

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


class Examples(unittest.TestCase):
    TRUTH = {"hits": [(1.0, "snare", 100), (2.0, "kick", 5)], "notes": [(0.5, 1.5, 60, 90, 0), (1.0, 2.0, 40, 90, 1), (1.0, 3.0, 76, 90, 2)],
             "beats": [(0.5, 1), (1.0, 2)]}

    def songs(self):
        """Two songs of noise with that truth, as load() gives them: (mel, constant-Q, targets) in bytes."""
        rng = np.random.default_rng(3)
        made = {"pulse": [], "pitch": []}
        for _ in range(2):
            mel, cq = rng.integers(0, 256, (2, 64, 800)).astype(np.uint8), rng.integers(0, 256, (300, 400)).astype(np.uint8)
            made["pulse"].append((mel, None, np.round(pulse_target(self.TRUTH, 800) * 255).astype(np.uint8)))
            made["pitch"].append((mel, cq, np.round(pitch_target(self.TRUTH, 400) * 255).astype(np.uint8)))
        return made

    def test_targets_stand_at_their_times_and_what_is_hardly_struck_is_none(self):
        y = pulse_target(self.TRUTH, 800)
        self.assertEqual(int(y[DRUMS.index("snare")].argmax()), round(MEL_RATE))
        self.assertEqual(float(y[DRUMS.index("kick")].max()), 0.0)
        self.assertEqual([int((row == 1).sum()) for row in y[ONSET:]], [2, 2, 1])   # onsets, beats, downbeats

    def test_bass_and_lead_have_targets_of_their_own(self):
        y = pitch_target(self.TRUTH, 400)
        at = round(1.25 * CQ_RATE)
        self.assertEqual([p + 21 for p in np.flatnonzero(y[0, :, at])], [40, 60, 76])
        self.assertEqual([p + 21 for p in np.flatnonzero(y[2, :, at])], [40])
        self.assertEqual([p + 21 for p in np.flatnonzero(y[4, :, at])], [76])
        self.assertEqual(int(y[5, 76 - 21].argmax()), round(CQ_RATE))

    def test_layers_add_their_powers(self):
        a, b = np.full((2, 4), 0.5, np.float32), np.full((2, 4), 0.25, np.float32)
        np.testing.assert_allclose(layered(a, b, 1.0, 4.0, 1), np.log10(1 + 99 + 9 / 10) / 4, rtol=1e-5)
        amplitude = lambda x: 10 ** (2.5 * x) - 1
        np.testing.assert_allclose(layered(a, b, 1.0, 2.5, 2), np.log10(1 + np.hypot(amplitude(0.5), amplitude(0.25) / 10 ** 0.5)) / 2.5, rtol=1e-5)
        np.testing.assert_allclose(layered(a, np.zeros_like(b), 0.2, 4.0, 1), a, rtol=1e-5)

    def test_a_warp_moves_every_band_by_the_same_ratio(self):
        class Larger:
            def normal(self, *_):
                return 0.5
        mel = np.arange(64, dtype=np.float32)[None, :, None] * np.ones((2, 1, 3), np.float32)
        np.testing.assert_allclose(warped(Larger(), mel)[0, :, 0], np.clip((np.arange(64) + 0.5) / 2 - 0.5, 0, 63), atol=1e-4)

    def test_batches_have_their_shapes_and_layered_ones_no_beat(self):
        songs = self.songs()
        for share, known in ((0.0, True), (1.0, False)):
            examples.LAYERED = share
            (mel,), y = batch("pulse", songs["pulse"], np.random.default_rng(1), 3, 300)
            self.assertEqual((mel.shape, y.shape), ((3, 2, 64, 300), (3, 13, 300)))
            self.assertEqual(bool((y[:, ONSET + 1:] >= 0).all()), known)
            self.assertTrue((y[:, :ONSET + 1] >= 0).all() and (y <= 1).all())
            (cq, whole, partials), y = batch("pitch", songs["pitch"], np.random.default_rng(1), 3, 150)
            self.assertEqual((cq.shape, whole.shape, partials.shape, y.shape), ((3, 300, 150), (3, 256, 150), (3, 12, 88, 150), (3, 6, 88, 150)))
            self.assertTrue((y[:, :2] >= 0).all())
            self.assertEqual(bool((y[:, 2:] >= 0).all()), known)
        examples.LAYERED = 0.25


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

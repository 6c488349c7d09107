#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""What training relies on without a network: composed songs tell the truth, examples keep it, and exported networks average."""
import io, json, os, struct, sys, tempfile, unittest
import mido
import numpy as np

sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "..", "training"))
sys.dont_write_bytecode = True
from average import average
from compose import KIND_OF_KEY, compose
import examples
from examples import CQ_RATE, DRUMS, MEL_RATE, ONSET, batch, layered, load, pitch_target, pulse_target, warped
from written import arrange, clock, counted_beats, read_midi, trained_on

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
        """Two songs of noise with that truth, as load() gives them: (mel, constant-Q, targets) in bytes, and untold outputs."""
        rng = np.random.default_rng(3)
        made = {"pulse": [], "pitch": []}
        for _ in range(2):
            mel, cq = rng.integers(0, 256, (2, 64, 800)).astype(np.uint8), rng.integers(0, 256, (300, 400)).astype(np.uint8)
            made["pulse"].append((mel, None, np.round(pulse_target(self.TRUTH, 800) * 255).astype(np.uint8), []))
            made["pitch"].append((mel, cq, np.round(pitch_target(self.TRUTH, 400) * 255).astype(np.uint8), []))
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

    def test_what_a_truth_does_not_tell_is_unknown_to_the_loss(self):
        with tempfile.TemporaryDirectory() as folder:
            for name, data in (("1.mel", np.zeros((800, 128), np.uint8)), ("1.cq", np.zeros((400, 300), np.uint8))):
                data.tofile(os.path.join(folder, name))
            with open(os.path.join(folder, "1.json"), "w") as f:
                json.dump(dict(self.TRUTH, unknown=["downbeat", "lead"]), f)
            examples.LAYERED = 0.0
            for kind, frames, untold in (("pulse", 300, [ONSET + 2]), ("pitch", 150, [4, 5])):
                _, y = batch(kind, load(kind, folder, {}), np.random.default_rng(1), 1, frames)
                self.assertEqual([i for i in range(y.shape[1]) if (y[0, i] < 0).any()], untold)
            examples.LAYERED = 0.25


class WrittenSongs(unittest.TestCase):
    """A piece of eight bars in 4/4 and eight in 6/8, the second half at 90 instead of 120: kick on every beat, one low line, a tune above."""
    BEAT = 480

    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        midi = mido.MidiFile(ticks_per_beat=cls.BEAT)
        first, notes = mido.MidiTrack(), mido.MidiTrack()
        midi.tracks += [first, notes]
        first.append(mido.MetaMessage("time_signature", numerator=4, denominator=4))
        first.append(mido.MetaMessage("set_tempo", tempo=500000))
        first.append(mido.MetaMessage("time_signature", numerator=6, denominator=8, time=32 * cls.BEAT))
        first.append(mido.MetaMessage("set_tempo", tempo=666667))
        notes.append(mido.Message("program_change", channel=1, program=33))
        notes.append(mido.Message("program_change", channel=2, program=40))
        for i in range(56):
            for on in (True, False):
                for k, (channel, key) in enumerate(((9, 36), (1, 36 + i % 5), (2, 67 + i % 7))):
                    notes.append(mido.Message("note_on" if on else "note_off", channel=channel, note=key, velocity=100, time=240 if k == 0 and (i or not on) else 0))
        cls.path = os.path.join(cls.folder.name, "piece.mid")
        midi.save(cls.path)
        cls.songs = [arrange([{"id": "piece", "midi": cls.path}], seed) for seed in range(24)]

    @classmethod
    def tearDownClass(cls):
        cls.folder.cleanup()

    def test_every_third_song_is_kept_from_training(self):
        self.assertEqual(trained_on(list("abcdefg")), list("abdeg"))

    def test_beats_follow_tempo_and_meter(self):
        midi = read_midi(self.path)
        beats, metered = counted_beats(midi, clock(midi))
        self.assertTrue(metered)
        np.testing.assert_allclose([t for t, _ in beats[:33]], np.arange(33) * 0.5, atol=1e-6)
        np.testing.assert_allclose([t for t, _ in beats[33:]], 16 + (1 + np.arange(len(beats) - 33)) * 1.0, atol=1e-4)   # dotted quarters at 90
        self.assertEqual([b for _, b in beats[28:38]], [1, 2, 3, 4, 1, 2, 1, 2, 1, 2])

    def test_a_lump_of_an_archive_is_read_and_a_missing_one_named(self):
        with open(self.path, "rb") as f:
            lump = f.read()
        archive = os.path.join(self.folder.name, "archive.wad")
        with open(archive, "wb") as f:
            f.write(b"PWAD" + struct.pack("<ii", 1, 12 + len(lump)) + lump + struct.pack("<ii8s", 12, len(lump), b"D_PIECE"))
        self.assertEqual(len(read_midi(f"wad:{archive}:D_PIECE").tracks), 2)
        with self.assertRaisesRegex(SystemExit, "no lump D_OTHER"):
            read_midi(f"wad:{archive}:D_OTHER")

    def test_what_is_true_is_what_is_played(self):
        for song in self.songs:
            played, kicks = [], []
            for track in song.midi.tracks:
                tick = 0
                for m in track:
                    tick += m.time
                    if m.type == "note_on":
                        (kicks if m.channel == 9 else played).append((tick / 960, m.note))
            np.testing.assert_allclose([t for t, _, p, _, _ in song.notes], sorted(t for t, _ in played), atol=2e-3)
            self.assertEqual(sorted(n[2] for n in song.notes), sorted(p for _, p in played))
            np.testing.assert_allclose([t for t, _, _ in song.hits], sorted(t for t, _ in kicks), atol=2e-3)

    def test_songs_change_speed_and_pitch_and_beats_stay_with_the_kick(self):
        self.assertGreater(len({round(s.beats[3][0] - s.beats[2][0], 3) for s in self.songs}), 12)
        self.assertGreater(len({min(n[2] for n in s.notes) for s in self.songs if s.notes}), 6)
        for song in self.songs:
            kicks = np.array([t for t, _, _ in song.hits])
            if len(kicks):
                plain = [t for t, _ in song.beats if t < 12 / 1.25]   # dotted quarters meet every third kick only
                self.assertLess(max(np.abs(kicks - t).min() for t in plain), 2e-3)

    def test_the_bass_is_known_where_it_plays_alone(self):
        for song in self.songs:
            has_bass = any(n[4] == 1 for n in song.notes)
            self.assertEqual("bass" in song.unknown, not has_bass)
            self.assertIn("lead", song.unknown)
            self.assertNotIn("beat", song.unknown)


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

#!/usr/bin/python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""The scripts that measure, measured: bench/playing and bench/truth-coherence on songs whose figures are known by construction."""
import json, os, re, subprocess, sys, tempfile, unittest

BENCH = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "..", "bench")


def note(onset, duration, velocity, pitch=60):
    return {"onset_s": onset, "duration_s": duration, "pitch": pitch, "velocity": velocity}


def truth():
    """Sixty notes of half a second on the beat, their loudness rising and falling; a kick on each, struck alike; a bass under every note."""
    return {"notes": [note(0.5 * i, 0.4, 60 + 10 * (i % 5)) for i in range(60)], "bass": [note(0.5 * i, 0.4, 80, 36) for i in range(60)],
            "drums": [{"time_s": 0.5 * i, "kind": "kick", "velocity": 100} for i in range(60)],
            "beats": [{"time_s": 0.5 * i, "bar": 1 + i // 4, "beat": 1 + i % 4} for i in range(61)]}


def run(script, song, found=None):
    """What the script prints for one song: {row name: text}."""
    with tempfile.TemporaryDirectory() as folder:
        os.mkdir(os.path.join(folder, "out"))
        for path, data in (("song.truth.json", song), ("out/song.json", found)):
            with open(os.path.join(folder, path), "w") as f:
                json.dump(data, f)
        done = subprocess.run([sys.executable, os.path.join(BENCH, script), folder] + ([os.path.join(folder, "out")] if found else []),
                              capture_output=True, text=True, check=True)
    return {line.split()[0]: line for line in done.stdout.splitlines() if line.strip()}


def figure(line, name):
    return float(re.search(rf"{name} (-?[0-9.]+)", line).group(1))


class Playing(unittest.TestCase):
    def heard(self, change=lambda i, n: n, stroke=lambda i, h: h):
        song = truth()
        bass = [change(i, n) for i, n in enumerate(song["bass"])]
        return run("playing", song, {"notes": [change(i, n) for i, n in enumerate(song["notes"])], "parts": [{"role": "bass", "notes": bass}],
                                     "drums": [stroke(i, h) for i, h in enumerate(song["drums"])]})

    def test_what_is_heard_as_it_was_played_is_right(self):
        rows = self.heard()
        self.assertEqual((figure(rows["ends"], "all"), figure(rows["ends"], "bass")), (1.0, 1.0))
        self.assertEqual((figure(rows["notes"], "r"), figure(rows["notes"], "error"), figure(rows["kick"], "spread")), (1.0, 0.0, 0.0))

    def test_every_third_end_a_third_too_late_is_wrong(self):
        rows = self.heard(lambda i, n: dict(n, duration_s=n["duration_s"] * (1.33 if i % 3 == 0 else 1.1)))
        self.assertEqual((figure(rows["ends"], "all"), figure(rows["ends"], "bass")), (0.67, 0.67))

    def test_a_scale_of_velocities_counts_for_nothing_and_a_wrong_order_for_all(self):
        self.assertEqual(figure(self.heard(lambda i, n: dict(n, velocity=n["velocity"] / 2))["notes"], "error"), 0.0)
        self.assertEqual(figure(self.heard(lambda i, n: dict(n, velocity=160 - n["velocity"]))["notes"], "r"), -1.0)

    def test_uneven_strokes_where_all_were_alike_spread(self):
        row = self.heard(stroke=lambda i, h: dict(h, velocity=90 if i % 2 else 110))["kick"]
        self.assertEqual((figure(row, "error"), figure(row, "spread")), (10.0, 10.0))

    def test_notes_found_too_late_are_not_compared(self):
        rows = self.heard(lambda i, n: dict(n, onset_s=n["onset_s"] + 0.06))
        self.assertNotIn("all", rows["ends"])


class TruthCoherence(unittest.TestCase):
    def test_tells_music_on_its_beats_from_music_beside_them(self):
        song = truth()
        self.assertEqual(run("truth-coherence", song)["song"].split()[1:], ["1.00"] * 4 + ["0.00"])
        for part in ("notes", "bass", "drums"):
            for i, event in enumerate(song[part]):
                event["onset_s" if part != "drums" else "time_s"] = 0.375 * i
        self.assertEqual(run("truth-coherence", song)["song"].split()[1:], ["0.00", "0.00", "1.00", "0.00", "1.00"])
        for part in ("notes", "bass", "drums"):
            for i, event in enumerate(song[part]):
                event["onset_s" if part != "drums" else "time_s"] = 0.437 * i
        self.assertTrue(all(float(v) < 0.2 for v in run("truth-coherence", song)["song"].split()[1:]))


if __name__ == "__main__":
    unittest.main()

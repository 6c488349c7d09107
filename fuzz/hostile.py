#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Tries the command line with what breaks programs, and prints what happened as a table.

hostile.py CLI [--kills N]: exit 0 when every try ended by itself with 0, 1 or 2, said one sentence where it failed, took at most ten seconds and a
gigabyte, and left what was there whole; 1 when not. What it needs it makes itself, in a folder that is removed.
"""
import argparse
import itertools
import json
import os
import pathlib
import random
import resource
import signal
import struct
import subprocess
import sys
import tempfile
import time
import wave
import zipfile

SECONDS, MEGABYTES = 10.0, 1000.0


class Table:
    """Rows of (what, tries, exit codes, worst seconds, worst megabytes), and whether all was as it must be."""

    def __init__(self):
        self.rows, self.faults = [], []

    def tried(self, what, runs, wanted):
        codes = sorted({r["code"] for r in runs})
        self.rows.append((what, len(runs), " ".join(map(str, codes)), max(r["seconds"] for r in runs), max(r["megabytes"] for r in runs)))
        for r in runs:
            text = r["error"].strip()
            if r["code"] not in wanted:
                self.faults.append(f"{what}: {r['command']} ended with {r['code']}: {text[:200]}")
            elif r["code"] != 0 and (len(text.splitlines()) != 1 or not text.endswith(".")):
                self.faults.append(f"{what}: {r['command']} did not say one sentence: {text[:200]!r}")
            if r["seconds"] > SECONDS or r["megabytes"] > MEGABYTES:
                self.faults.append(f"{what}: {r['command']} took {r['seconds']:.1f} s and {r['megabytes']:.0f} MB")

    def show(self):
        print("| tried | times | exit codes | at most |\n| --- | --- | --- | --- |")
        for what, tries, codes, seconds, megabytes in self.rows:
            print(f"| {what} | {tries} | {codes} | {seconds:.1f} s, {megabytes:.0f} MB |")
        for fault in self.faults:
            print("FAULT", fault)
        return 1 if self.faults else 0


class Bench:
    def __init__(self, cli, folder):
        self.cli, self.folder = cli, folder
        self.environment = {**os.environ, "XDG_CACHE_HOME": str(folder / "cache")}

    def run(self, *arguments, limit=None):
        begin = time.monotonic()
        with open(self.folder / "stderr", "w+b") as error:
            process = subprocess.Popen([self.cli, *map(str, arguments)], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=error, env=self.environment,
                                       preexec_fn=limit)
            timer = time.monotonic() + 6 * SECONDS
            while True:
                pid, status, usage = os.wait4(process.pid, os.WNOHANG)
                if pid:
                    break
                if time.monotonic() > timer:
                    process.kill()
                time.sleep(0.002)
            process.returncode = os.waitstatus_to_exitcode(status)
            error.seek(0)
            said = error.read().decode("utf-8", "replace")
        return {"command": " ".join(map(str, arguments)), "code": process.returncode, "seconds": time.monotonic() - begin, "megabytes": usage.ru_maxrss / 1000,
                "error": said}


def write_tune(path, seconds=6, rate=22050):
    """Notes and clicks, so that there is something to hear."""
    samples = bytearray()
    for i in range(seconds * rate):
        t = i / rate
        beat, rest = int(t * 2), (t * 2) % 1.0
        value = int(9000 * max(0.0, 1.0 - rest * 1.4) * (1 if int(2 * t * (220 * 2 ** ((beat * 5 % 12) / 12))) % 2 else -1))
        samples += struct.pack("<h", value)
    with wave.open(str(path), "wb") as out:
        out.setnchannels(1), out.setsampwidth(2), out.setframerate(rate)
        out.writeframes(bytes(samples))


def apart(work):
    """Does work in a process of its own: what it needs in memory would count for every program started from here later."""
    child = os.fork()
    if child == 0:
        try:
            work()
        finally:
            os._exit(0)
    os.waitpid(child, 0)


def remake_with(source, target, change):
    def work():
        document = json.loads(zipfile.ZipFile(source).read("remake.json"))
        change(document)
        with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as out:
            out.writestr("remake.json", json.dumps(document))

    apart(work)


def remakes():
    """What to do to a good remake, by name."""
    numbers = itertools.count(100_000)
    note = lambda start, length=480: {"id": next(numbers), "start": start, "length": length, "pitch": 60, "velocity": 90}
    placed = lambda start: {"id": next(numbers), "pattern": 1, "start": start}
    font = lambda **more: {"id": next(numbers), "source": "soundfont", "program": 3, **more}

    def part(number, **more):
        return {"id": number, "name": "Made", "role": "other", "layers": [], "patterns": [], "placements": [], "next_id": 500_000_000, **more}

    def with_part(**more):
        return lambda d: d["parts"].append(part(90_000, **more))

    def pattern(*notes):
        return [{"id": 1, "length": 960, "notes": list(notes)}]

    def steps(kind, count):
        return [{"id": next(numbers), "type": kind, "trigger": {"key": -1}} for _ in range(count)]

    def song(**more):
        return lambda d: d["song"].update(**more)

    made = {
        "a far note": with_part(patterns=pattern(note(0, 2**40)), placements=[placed(0)]),
        "a far placement": with_part(patterns=pattern(note(0)), placements=[placed(2**31)]),
        "a far section": lambda d: d["song"].setdefault("sections", []).append({"id": 90_001, "start": 2**40, "length": 960}),
        "an endless section": song(sections=[{"id": 90_001, "start": 0, "length": 2**50}]),
        "a far chord": lambda d: d["song"].setdefault("chords", []).append({"start": 2**35, "length": 960, "label": "C:maj"}),
        "a far anchor": lambda d: d["song"]["tempo"].append([2**40, 1e9]),
        "a tiny tempo": song(tempo=[[0, 0.0], [960, 86400.0]]),
        "a huge tempo": song(tempo=[[0, 0.0], [2**26, 0.5]]),
        "an endless recording": lambda d: d["reference"].update(duration_s=1e12),
        "1000 notes in 1000 places": with_part(patterns=pattern(*[note(i) for i in range(1000)]), placements=[placed(i) for i in range(1000)]),
        "400 SoundFont layers": lambda d: d["parts"].extend(part(90_000 + i, layers=[font() for _ in range(4)]) for i in range(100)),
        "as many SoundFont layers as are allowed": lambda d: d["parts"].extend(part(90_000 + i, layers=[font() for _ in range(4)]) for i in range(30)),
        "5000 parts": lambda d: d["parts"].extend(part(90_000 + i) for i in range(5000)),
        "doubled part ids": lambda d: d["parts"].extend([part(90_000), part(90_000)]),
        "part id 0": lambda d: d["parts"].append(part(0)),
        "a million keys": song(keys=[{"start": i, "key": {"tonic": 0, "mode": "major"}} for i in range(1_000_000)]),
        "meter of a sixteenth": song(meter=[[1, 1, 16]]),
        "a meter of nothing": song(meter=[[1, 0, 4]]),
        "a SoundFont that is a device": with_part(layers=[font(file="/dev/zero")]),
        "as many reverbs as a part may have": with_part(layers=[font()], steps=steps("reverb", 32)),
        "10 000 steps": with_part(steps=steps("reverb", 10_000)),
        "a step of no kind": with_part(steps=steps("warmer", 1)),
        "a variant of itself": with_part(patterns=[{"id": 1, "parent": 1, "length": 960}], placements=[placed(0)]),
        "a clip of nothing": lambda d: d.update(clips={"clips": [{"id": 90_001, "asset": 7, "start": 0}]}),
        "a sound that is a device": lambda d: d.update(clips={
            "assets": [{"id": 90_001, "name": "x", "origin": "file", "path": "/dev/zero", "content_hash": "0", "start_s": 0, "end_s": 1}],
            "clips": [{"id": 90_002, "asset": 90_001, "start": 0}]}),
        "an hour from ten minutes stretched": lambda d: d.update(clips={
            "assets": [{"id": 90_001, "name": "x", "origin": "original", "content_hash": "0", "start_s": 0, "end_s": 600}],
            "clips": [{"id": 90_002, "asset": 90_001, "start": 0, "recipe": [{"treatment": "stretch", "values": {"ratio": 10}}]}]}),
        "a curve of nothing": lambda d: d.update(automation={"curves": [{"id": 90_001, "owner": "layer:99", "field": "cutoff", "points": [{"tick": 0, "value": 1}]}]}),
    }

    def numbered(change):
        def changed(d):
            change(d)
            d["next_id"] = 900_000_000  # so that the number itself is not what is wrong

        return changed

    return {what: numbered(change) for what, change in made.items()}


def kills(bench, table, source, count):
    """Kills the program while it saves, at any moment; the file must open, old or new, and nothing must be left for long."""
    target = bench.folder / "killed.fakturwerk"
    target.write_bytes(source.read_bytes())
    runs, broken = [], 0
    choose = random.Random(4)
    whole = bench.run("new", bench.folder / "tune.wav", "-o", target)["seconds"]
    for _ in range(count):
        process = subprocess.Popen([bench.cli, "new", bench.folder / "tune.wav", "-o", target], stderr=subprocess.DEVNULL, env=bench.environment)
        time.sleep(whole * choose.uniform(0.5, 1.05))  # most of the saving falls there
        process.send_signal(signal.SIGKILL)
        process.wait()
        try:
            json.loads(zipfile.ZipFile(target).read("remake.json"))
        except Exception:  # whatever is wrong with it, it is broken
            broken += 1
    runs.append(bench.run("export", target, "--midi", bench.folder / "after.mid"))
    table.tried(f"kills while saving, of which left a broken file: {broken}", runs * count, {0})
    if broken:
        table.faults.append(f"{broken} files broken by a kill")
    bench.run("new", bench.folder / "tune.wav", "-o", target)
    left = [p.name for p in bench.folder.iterdir() if p.name.endswith(".part")]
    if left:
        table.faults.append(f"left behind after the next save: {left}")


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("cli")
    parser.add_argument("--kills", type=int, default=400)
    options = parser.parse_args()
    table = Table()
    with tempfile.TemporaryDirectory(prefix="fw-hostile-") as name:
        folder = pathlib.Path(name)
        bench = Bench(options.cli, folder)
        tune, good = folder / "tune.wav", folder / "good.fakturwerk"
        write_tune(tune)
        table.tried("a good recording", [bench.run("new", tune, "-o", good)], {0})

        bad = folder / "bad.fakturwerk"
        for what, change in remakes().items():
            remake_with(good, bad, change)
            fine = {0} if what.startswith("as many") else {0, 2} if what.startswith("meter of") else {2}
            table.tried(what, [bench.run("render", bad, "-o", folder / "mix.wav"), bench.run("check", bad), bench.run("export", bad, "--midi", folder / "a.mid")],
                        fine if "that is a device" not in what else {0, 2})
        def bomb():
            with zipfile.ZipFile(bad, "w", zipfile.ZIP_DEFLATED) as out, out.open("remake.json", "w", force_zip64=True) as entry:
                for _ in range(3000):
                    entry.write(b" " * 1_000_000)

        apart(bomb)
        table.tried("a zip of 3 MB that becomes 3 GB", [bench.run("render", bad, "-o", folder / "mix.wav"), bench.run("check", bad)], {2})
        bad.write_bytes(good.read_bytes()[:-40])
        table.tried("a remake cut short", [bench.run("render", bad, "-o", folder / "mix.wav")], {2})

        pipe = folder / "pipe"
        os.mkfifo(pipe)
        odd = [pipe, "/dev/zero", "/dev/null", "/dev/tty", folder, "/proc/self/mem", "/nowhere/at/all", ""]
        table.tried("pipes, devices, folders and nothing as input",
                    [bench.run(*command) for path in odd for command in (("analyse", path), ("new", tune, "--midi", path, "-o", folder / "n.fakturwerk"),
                                                                         ("render", path, "-o", folder / "mix.wav"), ("check", path), ("export", path, "--midi", folder / "a.mid"))
                     if not (command[0] == "new" and path == "")], {2})
        table.tried("pipes, devices and folders as output",
                    [bench.run(*command) for path in (pipe, "/dev/null", "/dev/full", folder) for command in (("analyse", tune, "-o", path), ("new", tune, "-o", path),
                                                                                                              ("export", good, "--midi", path), ("check", good, "-o", path))], {2})
        table.tried("its own input as output", [bench.run("new", tune, "-o", tune), bench.run("analyse", tune, "-o", tune), bench.run("export", good, "--midi", good),
                                                bench.run("export", good, "--json", tune), bench.run("render", good, "-o", tune), bench.run("check", good, "-o", good)], {2})
        table.tried("endings that are no format", [bench.run("render", good, "-o", folder / n) for n in ("mix.mp3", "mix", "mix.wav.", "mix.doc")], {2})
        midi = folder / "good.mid"
        bench.run("export", good, "--midi", midi)
        table.tried("offsets that lead nowhere", [bench.run("new", tune, "--midi", midi, "--offset", o, "-o", folder / "n.fakturwerk") for o in ("1e10", "-1e10", "1e300")], {2})
        if os.geteuid() != 0:
            tune.chmod(0)
            table.tried("no permission to read", [bench.run("analyse", tune)], {2})
            tune.chmod(0o644)

        def small_files():
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (300, 300))

        before = good.read_bytes()
        table.tried("a full disk", [bench.run("render", good, "-o", folder / "full.wav", limit=small_files), bench.run("new", tune, "-o", good, limit=small_files)], {1})
        if good.read_bytes() != before or (folder / "full.wav").exists():
            table.faults.append("a full disk cost a file")
        kills(bench, table, good, options.kills)
    return table.show()


if __name__ == "__main__":
    sys.exit(main())

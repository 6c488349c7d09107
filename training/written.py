# SPDX-License-Identifier: GPL-3.0-or-later
"""Arranges written music anew, for training beside composed songs: what people write has habits no composer of ours has.

A list of songs is JSON: [{"id": "...", "midi": PATH or "wad:FILE:LUMP"}, ...]. Every third of them is never used, so that what training
on the others gains can be told on music of the same kind (`trained_on`).
"""
import io, struct
import mido
import numpy as np
from compose import DECAYING, KIND_OF_KEY, KITS, TICKS, Song, pick

BASSES = range(32, 40)
UNPITCHED = range(112, 128)
STRUCK = {47, 55}   # timpani and orchestra hit do not stand in for their families
DRUMS = 9
LENGTH_S = 75.0
# Written against a tempo their music does not follow (bench/truth-coherence), or in groups of three against it: no beat to learn.
NO_TRUE_BEAT = {"openin", "shawn", "busy", "fastroute"}


def trained_on(entries):
    return [e for i, e in enumerate(entries) if i % 3 != 2]


def read_midi(source):
    """A MIDI file, or one inside an archive of lumps (wad:FILE:LUMP)."""
    if not source.startswith("wad:"):
        return mido.MidiFile(source)
    _, path, wanted = source.split(":")
    with open(path, "rb") as f:
        data = f.read()
    count, directory = struct.unpack("<ii", data[4:12])
    for at in range(directory, directory + 16 * count, 16):
        start, size = struct.unpack("<ii", data[at:at + 8])
        if data[at + 8:at + 16].rstrip(b"\0").decode("latin1") == wanted:
            return mido.MidiFile(file=io.BytesIO(data[start:start + size]))
    raise SystemExit(f"{path} holds no lump {wanted}: give the name of one of its MIDI lumps.")


def clock(midi):
    """Ticks to seconds, as a function."""
    changes, tick = [(0, 500000)], 0
    for m in mido.merge_tracks(midi.tracks):
        tick += m.time
        if m.type == "set_tempo":
            changes.append((tick, m.tempo))
    ticks = np.array([c[0] for c in changes], float)
    rates = np.array([c[1] for c in changes]) / 1e6 / midi.ticks_per_beat
    seconds = np.concatenate([[0], np.cumsum(np.diff(ticks) * rates[:-1])])

    def at(tick):
        i = np.searchsorted(ticks, tick, side="right") - 1
        return float(seconds[i] + (tick - ticks[i]) * rates[i])
    return at


def counted_beats(midi, at):
    """(seconds, place in the bar from 1) of every beat, and whether a meter is written. In 6/8 and its like the beat is a dotted quarter."""
    meters, last = [], 0
    for track in midi.tracks:
        tick = 0
        for m in track:
            tick += m.time
            if m.type == "time_signature":
                meters.append((tick, m.numerator, m.denominator))
            elif m.type == "note_on" and m.velocity:
                last = max(last, tick)
    beats, tick, meter, place, rest = [], 0.0, (4, 4), 0, sorted(meters)
    while tick <= last:
        while rest and rest[0][0] <= tick:
            place = place if rest[0][1:] == meter else 0
            meter = rest.pop(0)[1:]
        compound = meter[1] == 8 and meter[0] % 3 == 0
        beats.append((at(tick), place + 1))
        place = (place + 1) % (meter[0] // 3 if compound else meter[0])
        tick += midi.ticks_per_beat * (1.5 if compound else 4 / meter[1])
    return beats, bool(meters)


def sounding(midi, at):
    """Notes as (channel, onset_s, end_s, pitch, velocity, loudness, program), and all other messages as (seconds, message), in the order of time."""
    tick, program, volume, begun, notes, rest = 0, {}, {}, {}, [], []
    for m in mido.merge_tracks(midi.tracks):
        tick += m.time
        if m.is_meta or m.type == "sysex":
            continue
        ends = m.type == "note_off" or (m.type == "note_on" and m.velocity == 0)
        if ends or m.type == "note_on":
            was = begun.pop((m.channel, m.note), None)
            if was:
                notes.append((m.channel, was[0], at(tick), m.note, *was[1:]))
            if not ends:
                begun[m.channel, m.note] = (at(tick), m.velocity, m.velocity * volume.get(m.channel, 100) / 127, program.get(m.channel, 0))
            continue
        if m.type == "program_change":
            program[m.channel] = m.program
        elif m.type == "control_change" and m.control == 7:
            volume[m.channel] = m.value
        rest.append((at(tick), m))
    return sorted(notes, key=lambda n: n[1]), rest


def one_line_below(notes):
    """Whether notes (onset_s, end_s, pitch, …) are a bass line: low and hardly ever two at once."""
    overlaps = sum(b[0] < a[1] - 0.06 and b[0] - a[0] < 0.03 for a, b in zip(notes, notes[1:]))
    return len(notes) > 8 and overlaps < 0.1 * len(notes) and np.median([n[2] for n in notes]) < 52


def arrange(entries, seed, sparse=False):
    """A stretch of one of the songs, faster or slower, transposed, with other instruments and levels and perhaps without some of them (sparse: most of them): a Song.

    What the writing does not tell is `unknown`: the lead always, the bass where no bass instrument plays one low line, bar lines where no
    meter is written, beats where the music does not follow them.
    """
    rng = np.random.default_rng(seed + 2_000_000)
    entry = entries[int(rng.integers(len(entries)))]
    midi = read_midi(entry["midi"])
    at = clock(midi)
    beats, metered = counted_beats(midi, at)
    notes, rest = sounding(midi, at)
    speed = float(np.exp(rng.uniform(np.log(0.8), np.log(1.25))))
    whole = max(n[1] for n in notes) + 1.0
    length = LENGTH_S / speed
    start = rng.uniform(0, whole - length) if whole > length and rng.random() < 0.8 else 0.0   # many begin at the beginning, as excerpts do
    length = min(length, whole - start)
    place = lambda t: (t - start) * speed
    shift = int(rng.integers(-5, 7))
    channels = sorted({n[0] for n in notes})
    silent = {c for c in channels if rng.random() < (0.75 if sparse else 0.12)}
    other = rng.random() < 0.6   # other instruments of the same family
    instead = {c: int(rng.integers(8)) if rng.random() < 0.5 else None for c in channels}
    level = {c: float(rng.uniform(0.55, 1.3)) for c in channels}

    def program_of(channel, program):
        if not other or instead[channel] is None or (channel != DRUMS and program in UNPITCHED):
            return program
        if channel == DRUMS:
            return int(pick(rng, KITS))
        near = program // 8 * 8 + instead[channel]
        return program if near in STRUCK else near

    streams = {c: [(0.0, 0, mido.Message("control_change", channel=c, control=7, value=min(127, int(100 * level[c]))))] for c in channels if c not in silent}
    for t, m in rest:
        if not hasattr(m, "channel") or m.channel not in streams or t > start + length:
            continue
        if m.type == "program_change":
            m = m.copy(program=program_of(m.channel, m.program))
        elif m.type == "control_change" and m.control == 7:
            m = m.copy(value=min(127, int(m.value * level[m.channel])))
        streams[m.channel].append((max(0.0, place(t)), 1, m))
    heard, hits, pitched = [], [], {}
    lines = {}
    for channel, onset, end, pitch, velocity, loudness, program in notes:
        if channel not in streams or not start <= onset < start + length - 0.1:
            continue
        a, b = place(onset), place(max(end, onset + 0.03))
        loudness = int(min(127, loudness * level[channel] * 1.27))
        if channel == DRUMS:
            if loudness >= 8:
                hits.append((a, KIND_OF_KEY.get(pitch, "percussion"), loudness))
        else:
            pitch += 0 if program in UNPITCHED else shift
            if not 21 <= pitch <= 108:
                continue
            if program not in UNPITCHED and loudness >= 8:
                role = 1 if program in BASSES else 0
                heard.append((a, min(b, a + 3.5) if program in DECAYING else b, pitch, loudness, role))
                pitched.setdefault(channel, []).append((a, b, pitch, velocity))
                if role:
                    lines.setdefault(channel, []).append((a, b, pitch))
        streams[channel] += [(a, 3, mido.Message("note_on", channel=channel, note=pitch, velocity=velocity)),
                             (b, 2, mido.Message("note_off", channel=channel, note=pitch, velocity=0))]
    made = mido.MidiFile(ticks_per_beat=TICKS)
    for channel, stream in streams.items():
        track, now = mido.MidiTrack(), 0
        made.tracks.append(track)
        for t, _, m in sorted(stream, key=lambda e: e[:2]):
            tick = int(round(t * TICKS * 2))   # default tempo: two beats a second
            track.append(m.copy(time=tick - now))
            now = tick
    unknown = ["lead"]
    if len(lines) != 1 or not all(map(one_line_below, lines.values())):
        unknown.append("bass")
    if entry["id"] in NO_TRUE_BEAT:
        unknown += ["beat", "downbeat"]
    elif not metered:
        unknown.append("downbeat")
    begun = min([n[0] for n in heard] + [h[0] for h in hits], default=0.0)
    kept = [(place(t), b) for t, b in beats if start <= t < start + length and place(t) > begun - 0.05]
    return Song(made, pitched, kept, sorted(heard), sorted(hits), length * speed, tuple(unknown))

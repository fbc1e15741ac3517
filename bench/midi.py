"""`./run bench --midi`: rhythms played with a jitter and read again: the share of notes that come back at their place."""

from __future__ import annotations

import io
import random
from fractions import Fraction
from itertools import pairwise

import mido

from bench.lines import row
from dromic.formats.midi.midi import read_midi

F = Fraction
BARS = 8
PATTERNS: dict[str, tuple[list[Fraction], Fraction]] = {
    "eighths": ([F(0), F(1, 2)], F(1)),
    "sixteenths": ([F(n, 4) for n in range(4)], F(1)),
    "triplets": ([F(n, 3) for n in range(3)], F(1)),
    "sextuplets": ([F(n, 6) for n in range(6)], F(1)),
    "gallops": ([F(0), F(1, 2), F(3, 4)], F(1)),
    "eighths and triplets": ([F(0), F(1, 2), F(1), F(4, 3), F(5, 3)], F(2)),
    "strummed quarters": ([F(0)], F(1)),
}
"""onsets of a figure, and its length, in quarters"""
_AIMS = {
    ("eighths", 15): "99 % to 160, 97 % at 200", ("sixteenths", 15): "99 % to 160, 97 % at 200",
    ("gallops", 15): "99 % to 160, 97 % at 200", ("triplets", 15): "97 % to 160", ("eighths", 30): "90 % at 120",
}  # fmt: skip


def played(pattern: str, tempo: float, jitter_ms: float, seed: int) -> tuple[bytes, list[tuple[Fraction, int]]]:
    """A take of a pattern with Gaussian jitter, as a file; and where its notes belong."""
    rnd = random.Random(seed)
    onsets, length = PATTERNS[pattern]
    per, quarter_ms = 960, 60000.0 / tempo
    truth = [
        (n * length + o, 60 + (n * 7 + k * 3) % 12) for n in range(int(4 * BARS / length)) for k, o in enumerate(onsets)
    ]
    if pattern.startswith("strummed"):
        truth = [(at, pitch + 12 * k) for at, pitch in truth for k in range(4)]
    events = []
    gaps = [b[0] - a[0] for a, b in pairwise(truth) if b[0] > a[0]]
    for n, (at, pitch) in enumerate(truth):
        strum = 10.0 * (n % 4) if pattern.startswith("strummed") else 0.0
        on = max(0.0, float(at) + (rnd.gauss(0, jitter_ms) + strum) / quarter_ms)
        off = on + 0.9 * float(min(gaps))
        events += [(on, 1, pitch), (off, 0, pitch)]
    file = mido.MidiFile(type=0, ticks_per_beat=per)
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=round(60_000_000 / tempo))])
    now = 0
    for at, on, pitch in sorted(events):
        ticks = round(at * per)
        track.append(mido.Message("note_on", note=pitch, velocity=80 * on, time=ticks - now))
        now = ticks
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue(), truth


def share_right(pattern: str, tempo: float, jitter_ms: float, seeds: range) -> float:
    """The share of notes that are read where they belong, over some takes."""
    right = count = 0
    for seed in seeds:
        data, truth = played(pattern, tempo, jitter_ms, seed)
        phrase = read_midi(data)
        found = {(e.onset, n.pitch) for e in phrase.events for n in e.notes}
        right += sum(t in found for t in truth)
        count += len(truth)
    return right / count


def bench_midi() -> None:
    """Every pattern at four tempos, with 5, 15 and 30 ms of jitter (standard deviation)."""
    for pattern in PATTERNS:
        for jitter in (5, 15, 30):
            shares = [share_right(pattern, tempo, jitter, range(4)) for tempo in (80, 120, 160, 200)]
            told = " / ".join(f"{100 * s:.1f}" for s in shares)
            row(f"{pattern}, {jitter} ms at 80 / 120 / 160 / 200", told, _AIMS.get((pattern, jitter), ""))

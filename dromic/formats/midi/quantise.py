"""From times as they were played to times as they are written: chords, a grid for every beat, swing.

What is played by hand is off by some ms, whatever the tempo, so errors are told in ms. Every beat takes the grid that
leaves the least error for the simplest division, and neighbouring beats like the same one: a shortest path through the
beats, after the quantiser of A. T. Cemgil and B. Kappen, Journal of New Music Research 29(4), 2000, much simplified. The
prices are ours.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from math import log
from statistics import median

from dromic.core.music.phrase import Swing

GRIDS = {1: 0.0, 2: 1.0, 4: 2.2, 3: 3.0, 6: 5.5, 8: 6.5, 5: 9.0, 12: 10.0, 7: 12.0, 16: 13.0}
"""steps that a quarter may be divided into, and the price of each in squared errors"""
COMPOUND = {1: 0.0, 3: 1.0, 6: 2.2, 2: 3.5, 12: 6.5, 4: 6.5, 5: 12.0, 7: 12.0, 8: 13.0, 16: 16.0}
"""the same for a beat of three eighths"""
_CHANGE = 1.2
"""price of another family of grids (halves, thirds) than in the beat before"""
_FAMILY = {1: 0, 2: 2, 4: 2, 8: 2, 16: 2, 3: 3, 6: 3, 12: 3, 5: 5, 7: 7}
_SIGMAS_MS = (6.0, 9.0, 13.0, 18.0, 26.0, 38.0)
"""how far a hand may be off the grid as a rule (standard deviation)"""
_UNSEEN = 0.5
"""beats with a division that the take has not shown"""
_CROWDED = 40.0
"""price of two notes that are not one chord at one place"""
CHORD_MS = 60.0
"""beginnings so close are a chord, where the notes sound together for most of their time"""
_TOGETHER = Fraction(1, 2)
_RUN = 4.0
"""a chord's spread is below this part of the time to the notes around it: a strum, not a run"""
_ROUND = 4
"""beats either side over which a slow drift of the hand is told"""
_SWUNG = (0.55, 0.80)
"""Where the off-beat of swung eighths lies, shares of a beat."""
_SWUNG_SHARE = 0.6
"""Share of the beats in which it must."""
_RATIOS = (Fraction(3, 2), Fraction(2), Fraction(3))


@dataclass(slots=True)
class Played:
    """One note as it was played, times in quarters."""

    onset: Fraction
    end: Fraction


@dataclass(frozen=True, slots=True)
class Written:
    """Where notes lie on paper: beginning and end of each, in quarters, the swing they were played with, and how far
    those were moved that were, in quarters."""

    times: list[tuple[Fraction, Fraction]]
    swing: Swing
    moved: list[Fraction]


def quantise(notes: Sequence[Played], beats: Sequence[Fraction], ms: float) -> Written:
    """Notes in order of their beginnings on the grid of some beats (their starts in quarters, the end of the last one
    included); `ms` is what a quarter takes."""
    groups = _chords(notes, ms)
    onsets = [median(float(notes[n].onset) for n in group) for group in groups]
    places = _likeliest(onsets, beats, ms)
    errors = [(o - float(p)) * ms for o, p in zip(onsets, places, strict=True)]
    steady = [o - late / ms for o, late in zip(onsets, _drift(onsets, errors), strict=True)]
    swing, places = _swung(onsets, _likeliest(steady, beats, ms), beats)
    return _laid_out(notes, groups, places, swing)


def _likeliest(onsets: list[float], beats: Sequence[Fraction], ms: float) -> list[Fraction]:
    """The places of beginnings under the likeliest of several hands: how far it is off as a rule is not known before. What
    most beats of the take are divided into is then likelier for all."""
    inside = _by_beat(onsets, [float(b) for b in beats])
    prices: dict[int, float] = {}
    best: tuple[float, list[Fraction]] = (0.0, [])
    for _ in range(2):
        tried = []
        for sigma in _SIGMAS_MS:
            cost, grids, places = _places(onsets, beats, inside, ms, sigma, prices)
            tried.append((cost + len(onsets) * log(sigma), grids, places))
        cost, grids, places = min(tried, key=lambda t: t[0])
        best = cost, places
        many = [g for g, (low, high) in zip(grids, inside, strict=True) if high - low > 1]
        prices = {
            g: -log((many.count(g) + _UNSEEN) / (len(many) + _UNSEEN * len(GRIDS))) for g in GRIDS
        }  # fmt: skip
    return best[1]


def _chords(notes: Sequence[Played], ms: float) -> list[list[int]]:
    """Notes that begin together, by number: within a strum's time of the first, sounding together for most of the shorter
    one, and far closer to each other than to the notes around."""
    found: list[list[int]] = []
    for n, note in enumerate(notes):
        if found:
            first = notes[found[-1][0]]
            near = float(note.onset - first.onset) * ms <= CHORD_MS
            shorter = min(note.end - note.onset, first.end - first.onset)
            together = min(note.end, first.end) - note.onset >= _TOGETHER * shorter
            if note.onset == first.onset or (near and together):
                found[-1].append(n)
                continue
        found.append([n])
    return [part for i, group in enumerate(found) for part in _unless_run(found, i, group, notes)]


def _unless_run(found: list[list[int]], i: int, group: list[int], notes: Sequence[Played]) -> list[list[int]]:
    """A group as it is, or note by note where the notes around it come as close as its own."""
    spread = notes[group[-1]].onset - notes[group[0]].onset
    if len(group) == 1 or not spread:
        return [group]
    gaps = []
    if i:
        gaps.append(notes[group[0]].onset - notes[found[i - 1][-1]].onset)
    if i + 1 < len(found):
        gaps.append(notes[found[i + 1][0]].onset - notes[group[-1]].onset)
    each = spread / (len(group) - 1)
    if gaps and min(gaps) < Fraction(_RUN) * each:
        return [[n] for n in group]
    return [group]


def _drift(onsets: list[float], errors: list[float]) -> list[float]:
    """By how many ms the hand is late around every onset."""
    found = []
    for o in onsets:
        low, high = bisect_left(onsets, o - _ROUND), bisect_right(onsets, o + _ROUND)
        found.append(median(errors[low:high]) if high - low >= _ROUND else 0.0)
    return found


def _places(
    onsets: list[float], beats: Sequence[Fraction], inside: list[tuple[int, int]], ms: float, sigma: float,
    prices: dict[int, float],
) -> tuple[float, list[int], list[Fraction]]:  # fmt: skip
    """The cheapest way through the beats' grids: its cost, the grid of every beat, the place of every onset. `prices` are
    added to the grids' own."""
    best: dict[int, tuple[float, bool]] = {}
    chosen: list[dict[int, tuple[list[int], int]]] = []
    for beat, (low, high) in enumerate(inside):
        if low == high and _long_empty(inside, beats, beat):
            chosen.append(chosen[-1])  # one more beat without a note tells nothing the two before it did not
            continue
        start, length = float(beats[beat]), float(beats[beat + 1] - beats[beat])
        here = [(o - start) / length for o in onsets[low:high]]
        scale = length * ms / sigma
        now: dict[int, tuple[float, bool]] = {}
        told: dict[int, tuple[list[int], int]] = {}
        for grid, price in (COMPOUND if beats[beat + 1] - beats[beat] == Fraction(3, 2) else GRIDS).items():
            steps = _stepped(here, grid)
            cost = sum(((h - s / grid) * scale) ** 2 for h, s in zip(here, steps, strict=True)) / 2
            cost += _CROWDED * sum(a >= b for a, b in pairwise(steps))
            cost += (
                price + (prices.get(grid, 0.0) if len(here) > 1 else 0.0) if here else 0.0 if grid == 1 else _CROWDED
            )
            first = bool(steps) and steps[0] == 0
            before, came = 0.0, 0
            if best:
                before, came = min(
                    (
                        c + _CHANGE * (_FAMILY[g] * _FAMILY[grid] > 0 and _FAMILY[g] != _FAMILY[grid]) + _CROWDED * (ends and first),
                        g,
                    )
                    for g, (c, ends) in best.items()
                )  # fmt: skip
            now[grid] = before + cost, bool(steps) and steps[-1] == grid
            told[grid] = steps, came
        chosen.append(told)
        best = now
    grid = min(best, key=lambda g: best[g][0])
    cost = best[grid][0]
    grids: list[int] = []
    for told in reversed(chosen):
        grids.append(grid)
        grid = told[grid][1]
    grids.reverse()
    places = [
        beats[b] + Fraction(step, g) * (beats[b + 1] - beats[b])
        for b, (g, told) in enumerate(zip(grids, chosen, strict=True))
        for step in told[g][0]
    ]
    return cost, grids, places


def _long_empty(inside: list[tuple[int, int]], beats: Sequence[Fraction], beat: int) -> bool:
    """Whether the two beats before one hold nothing either, and are as long."""
    if beat < 2 or any(low < high for low, high in inside[beat - 2 : beat]):
        return False
    lengths = {beats[b + 1] - beats[b] for b in (beat - 2, beat - 1, beat)}
    return len(lengths) == 1


def _stepped(here: list[float], grid: int) -> list[int]:
    """The steps nearest to some shares of a beat, each after the one before where there is room."""
    steps = [max(0, min(grid, round(h * grid))) for h in here]
    if len(steps) > grid + 1 or all(a < b for a, b in pairwise(steps)):
        return steps
    # the least squared error among steps that go on: costs of ending at each step, note after note
    costs = [[(h * grid - s) ** 2 for s in range(grid + 1)] for h in here]
    back: list[list[int]] = []
    reached = costs[0]
    for row in costs[1:]:
        least, at, nows, froms = float("inf"), 0, [], []
        for step in range(grid + 1):
            nows.append(least + row[step])
            froms.append(at)
            if reached[step] < least:
                least, at = reached[step], step
        reached = nows
        back.append(froms)
    last = min(range(grid + 1), key=lambda s: reached[s])
    found = [last]
    for froms in reversed(back):
        found.append(froms[found[-1]])
    return found[::-1]


def _by_beat(onsets: list[float], starts: list[float]) -> list[tuple[int, int]]:
    """For every beat the onsets that begin in it, as a range of numbers."""
    found, at = [], 0
    for beat in range(len(starts) - 1):
        low = at
        while at < len(onsets) and (onsets[at] < starts[beat + 1] or beat == len(starts) - 2):
            at += 1
        found.append((low, at))
    return found


def _swung(onsets: list[float], places: list[Fraction], beats: Sequence[Fraction]) -> tuple[Swing, list[Fraction]]:
    """Whether eighths were swung: most beats hold two notes, the second late by about as much. Then the second ones are
    written on the half; beats of three notes or more are triplets and their like, not swing."""
    by_beat: dict[int, list[int]] = {}
    for n, place in enumerate(places):
        by_beat.setdefault(_beat_of(place, beats), []).append(n)
    pairs, others = [], 0
    for beat, inside in by_beat.items():
        start, length = float(beats[beat]), float(beats[beat + 1] - beats[beat])
        shares = [(onsets[n] - start) / length for n in inside]
        off_beat = [s for n, s in zip(inside, shares, strict=True) if places[n] != beats[beat]]
        if len(inside) == 2 and len(off_beat) == 1:
            pairs.append((inside[-1], off_beat[0]))
        elif len(inside) > 2:
            others += 1
    low, high = _SWUNG
    swung = [(n, s) for n, s in pairs if low <= s <= high]
    if others or len(swung) < max(2, _SWUNG_SHARE * len(by_beat)) or len(swung) < len(pairs):
        return Swing(), places
    share = median(s for _, s in swung)
    ratio = min(_RATIOS, key=lambda r: abs(float(r / (r + 1)) - share))
    late = {n for n, _ in swung}
    moved = [(beats[_beat_of(p, beats)] + Fraction(1, 2) if n in late else p) for n, p in enumerate(places)]
    return Swing(Fraction(1, 2), ratio), moved


def _beat_of(place: Fraction, beats: Sequence[Fraction]) -> int:
    return max(0, min(len(beats) - 2, bisect_right(beats, place) - 1))


def _laid_out(notes: Sequence[Played], groups: list[list[int]], places: list[Fraction], swing: Swing) -> Written:
    """Every note with its beginning, and an end on the next one's where it sounds about that long, else on sixteenths."""
    times: list[tuple[Fraction, Fraction]] = [(n.onset, n.end) for n in notes]
    moved: list[Fraction] = []
    step = Fraction(1, 4)
    for g, (group, place) in enumerate(zip(groups, places, strict=True)):
        following = places[g + 1] if g + 1 < len(places) else None
        for n in group:
            note = notes[n]
            length = note.end - note.onset
            room = following - place if following is not None and following > place else None
            if room is not None and abs(length - room) <= max(room / 2, Fraction(1, 8)):
                written = room
            else:
                written = max(Fraction(1, 8) if length < step / 2 else step, round(length / step) * step)
                written = (
                    min(written, room) if room is not None and written < room + step and length < room else written
                )
            moved += [abs(place - note.onset)] if place != note.onset else []
            moved += [abs(place + written - note.end)] if place + written != note.end else []
            times[n] = place, place + written
    return Written(times, swing, moved)

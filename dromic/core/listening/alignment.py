"""Which onset of a take belongs to which note that is due: a first guess of tempo and start, then dynamic programming over both in
order, in which notes may be missing, onsets may be too many, and the tempo may drift."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.core.setup.listen_settings import AlignNumbers
from dromic.core.values.arrays import Floats

_GRID_S = 0.010
_SMOOTH_AROUND = 6
_ROUNDS = 3
_FEWEST = 4
"""neighbours that a line is drawn through"""


@dataclass(frozen=True)
class Alignment:
    """For each sounding event the number of its onset, -1 for none; what onsets are left over; and when each event was due by the
    take's own tempo."""

    onset: np.ndarray
    extra: tuple[int, ...]
    due_s: Floats
    ratio: float
    """seconds of the take for a second of the plan"""

    @property
    def share(self) -> float:
        """Of the events how many were found."""
        return float((self.onset >= 0).mean()) if len(self.onset) else 0.0


def aligned(
    due_s: Floats, onsets_s: Floats, strength: Floats, fits: Floats, numbers: AlignNumbers,
    near: tuple[float, float] | None = None,
) -> Alignment:  # fmt: skip
    """Align events due at times of the plan (seconds) with onsets (seconds, strength 0 to 1); `fits` [events, onsets] tells from 0 to
    1 how well an onset's pitch fits an event. Both are in order of time.
    `near` is when second 0 of the plan falls, if that is known, and how far off it may be."""
    if not len(onsets_s):
        return Alignment(np.full(len(due_s), -1), (), due_s, 1.0)
    ratio, start = _guess(due_s, onsets_s, strength, fits, numbers, near)
    line = start + ratio * due_s
    found = np.full(len(due_s), -1)
    for _ in range(_ROUNDS):
        before, found = found, _matched(line, onsets_s, strength, fits, numbers)
        if np.array_equal(before, found):
            break  # the same notes make the same line
        line = _own_tempo(due_s, onsets_s, found, ratio, start)
    taken = set(found[found >= 0].tolist())
    extra = tuple(n for n in range(len(onsets_s)) if n not in taken)
    there = found >= 0
    if there.sum() > 2:
        ratio = float(np.polyfit(due_s[there], onsets_s[found[there]], 1)[0])
    return Alignment(found, extra, line, ratio)


def _guess(
    due_s: Floats, onsets_s: Floats, strength: Floats, fits: Floats, numbers: AlignNumbers,
    near: tuple[float, float] | None,
) -> tuple[float, float]:  # fmt: skip
    """(ratio, start) of the straight line on which most onsets fall on notes they fit: every tempo of a grid, all starts at
    once, each pair of event and onset having a vote (a Hough transform). `due_s` is [events], `onsets_s` and `strength`
    [onsets], `fits` [events, onsets]."""
    best = (-1.0, 1.0, float(onsets_s[0]))
    count = int(np.ceil(np.log(numbers.fastest / numbers.slowest) / np.log1p(numbers.tempo_step)))
    guessed = due_s[:_MOST_GUESSED]
    weight = fits[: len(guessed)] * (0.3 + 0.7 * strength)[None, :]
    event, onset = np.nonzero(weight)  # what fits nothing has no vote
    votes_of = weight[event, onset]
    for tempo in np.geomspace(numbers.slowest, numbers.fastest, count):
        ratio = 1.0 / tempo
        low = float(onsets_s.min() - ratio * guessed.max())
        places = ((onsets_s[onset] - ratio * guessed[event] - low) / _GRID_S).astype(int)
        votes = np.bincount(places, weights=votes_of, minlength=len(_BLUR))
        votes = np.convolve(votes, _BLUR, mode="same")
        if near is not None:  # the tempo known best is met in the middle of the passage
            starts_at = near[0] + (1.0 - ratio) * float(due_s[0] + due_s[-1]) / 2
            votes[np.abs(low + (np.arange(len(votes)) + 0.5) * _GRID_S - starts_at) > near[1]] = 0.0
        at = int(np.argmax(votes))
        if votes[at] > best[0]:
            best = (float(votes[at]), ratio, low + (at + 0.5) * _GRID_S)
    return best[1], best[2]


_BLUR = np.exp(-((np.arange(-4, 5) / 2.0) ** 2))
_MOST_GUESSED = 600
"""events that the first guess is made from"""


def _matched(line: Floats, onsets_s: Floats, strength: Floats, fits: Floats, numbers: AlignNumbers) -> np.ndarray:
    """The cheapest way through both, by dynamic programming: [events] the onset of every event or -1, in order; gaps between
    what is matched may stray from those of the line. `line` is [events], `onsets_s` and `strength` [onsets], `fits` [events,
    onsets]."""
    spread, reach = numbers.spread_ms / 1000, numbers.reach_s
    most = int(numbers.most_skipped)
    events = len(line)
    low = np.searchsorted(onsets_s, line - reach)
    high = np.searchsorted(onsets_s, line + reach)
    total = [np.full(high[i] - low[i], np.inf) for i in range(events)]
    back: list[list[tuple[int, int]]] = [[(-1, -1)] * (high[i] - low[i]) for i in range(events)]
    kept = np.concatenate([[0.0], np.cumsum(numbers.extra * strength)])
    for i in range(events):
        js = np.arange(low[i], high[i])
        if not len(js):
            continue
        off = (onsets_s[js] - line[i]) / (3 * spread)
        own = numbers.pitch * (1.0 - fits[i, js]) + 0.15 * off**2 + 0.5 * numbers.extra * (1.0 - strength[js])
        total[i] = own + i * numbers.missed + kept[js] * 1.0
        for before in range(max(0, i - most), i):
            if not len(total[before]):
                continue
            olds = np.arange(low[before], high[before])
            gap = line[i] - line[before]
            stray = (onsets_s[js][:, None] - onsets_s[olds][None, :] - gap) / (spread + numbers.drift * 0.25 * gap)
            way = total[before][None, :] + stray**2 + (i - before - 1) * numbers.missed
            way = way + np.where(js[:, None] > olds[None, :], kept[js][:, None] - kept[olds + 1][None, :], np.inf)
            pick = np.argmin(way, axis=1)
            cost = way[np.arange(len(js)), pick] + own
            for n in np.flatnonzero(cost < total[i]):
                total[i][n] = cost[n]
                back[i][n] = (before, int(pick[n]))
    ends = [(float(total[i][n]) + (events - 1 - i) * numbers.missed + kept[-1] - kept[low[i] + n + 1], i, n)
            for i in range(events) for n in range(len(total[i]))]  # fmt: skip
    found = np.full(events, -1)
    if not ends:
        return found
    _, turn, which = min(ends)
    while turn >= 0:
        found[turn] = low[turn] + which
        turn, which = back[turn][which]
    return found


def _own_tempo(due_s: Floats, onsets_s: Floats, found: np.ndarray, ratio: float, start: float) -> Floats:
    """When each event [events] was due by the take's own tempo: around each the straight line of its neighbours, outliers
    counting little. `found` [events] is the onset of each, -1 for none."""
    there = np.flatnonzero(found >= 0)
    if len(there) < 3:
        return start + ratio * due_s
    x, y = due_s[there], onsets_s[found[there]]
    around = np.searchsorted(x, due_s)[:, None] + np.arange(-_SMOOTH_AROUND, _SMOOTH_AROUND + 1)
    inside = (around >= 0) & (around < len(x))
    around = np.clip(around, 0, len(x) - 1)
    near, heard = x[around], y[around]
    span = np.where(inside, near, -np.inf).max(axis=1) - np.where(inside, near, np.inf).min(axis=1)
    few = (inside.sum(axis=1) < _FEWEST) | (span < 1e-6)
    middle = np.nanmedian(np.where(inside, heard - ratio * near, np.nan), axis=1) + ratio * due_s
    return np.where(few, middle, _robust(near, heard, inside, due_s, ratio))


def _robust(x: Floats, y: Floats, inside: NDArray[np.bool_], at: Floats, ratio: float) -> Floats:
    """The values at places [events] of straight lines through points [events, points], drawn again and again: the farther a point
    lay off the less it counts."""
    weight = inside.astype(float)
    value = np.zeros(len(x))
    for _ in range(_ROUNDS):
        whole = weight.sum(axis=1)
        mx, my = (weight * x).sum(axis=1) / whole, (weight * y).sum(axis=1) / whole
        dx, dy = x - mx[:, None], y - my[:, None]
        slope = (weight * dx * dy).sum(axis=1) / np.maximum((weight * dx**2).sum(axis=1), 1e-12)
        slope = np.clip(slope, 0.75 * ratio, 1.33 * ratio)
        value = my + slope * (at - mx)
        off = np.abs(dy - slope[:, None] * dx)
        scale = np.maximum(2.5 * np.nanmedian(np.where(inside, off, np.nan), axis=1), 0.004)
        weight = inside / (1.0 + (off / scale[:, None]) ** 2)
    return value


def pitch_fits(pitches_due: Sequence[Sequence[int]], speaks: Floats, pitches: Sequence[int]) -> Floats:
    """[events, onsets]: how well what speaks after each onset fits what is due, 1 for events without a pitch of their own."""
    column = {pitch: n for n, pitch in enumerate(pitches)}
    found = np.ones((len(pitches_due), len(speaks)))
    for i, due in enumerate(pitches_due):
        columns = [column[p] for p in due if p in column]
        if columns:
            found[i] = np.clip((speaks[:, columns].max(axis=1) - 0.5) / 0.4, 0.0, 1.0)
    return found

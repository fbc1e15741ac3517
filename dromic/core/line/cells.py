"""Cells that come again in a line: octaves walked up, three notes a string, a lick at another fret, a shape of chords. Nobody fingers
such a cell anew each time, so its notes have usual fingers. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise, product

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.fretting_moves import FrettingMoves
from dromic.core.hands.fretting_nodes import FrettingNodes
from dromic.core.hands.hand_geometry import THUMB, UNDER_HAND
from dromic.core.hands.shape_facts import FrettingTask
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.errors import DromicError

LONGEST = 6
"""Notes of a cell at most."""
_FEWEST_ACROSS = 3
"""Notes of a cell at least that comes again at its frets on other strings: two notes there are told by the position."""
_FEWEST_OF_A_GRIP = 3
"""Stopped notes of a chord that has fingers of its own wherever it comes."""
_MOST_AGAIN = 3
"""Places of a cell that come again within it, at most: each is tried with every finger."""
_FINGERS = THUMB - 1
_AWAY = range(-6, 7)
"""Frets from a cell's first note to the hand's first finger at any of its notes."""
Place = tuple[int, int]
"""string and fret"""
Fingers = tuple[int, ...]
Bools = NDArray[np.bool_]


def usual_fingers(tasks: Sequence[FrettingTask], slid: Sequence[bool], frets: FrettingMoves) -> list[Fingers]:
    """For every event the fingers of its notes that its cell gives them, () where it is in none. Only lines whose strings and frets
    are stated are looked at; a note that is slid to keeps its finger anyhow."""
    found: list[Fingers] = [()] * len(tasks)
    for event, fingers in _chords(tasks, frets):
        found[event] = fingers
    places = [None if away else _place(task) for task, away in zip(tasks, slid, strict=True)]
    start = 0
    while start < len(places):
        cells = _cells(places, start)
        if not cells:
            start += 1
            continue
        size, times = cells
        groups = [tasks[start + size * n : start + size * (n + 1)] for n in range(times)]
        for n, finger in enumerate(_least_work(groups, frets) * times):
            found[start + n] = (finger,)
        start += size * times
    return found


def _place(task: FrettingTask) -> Place | None:
    """Where a lone stopped note lies, None for anything else."""
    if len(task.pitches) != 1 or task.tapped or not task.strings[0] or not task.frets[0] or task.held:
        return None
    return task.strings[0], task.frets[0]


# lines of single notes


def _cells(places: Sequence[Place | None], start: int) -> tuple[int, int] | None:
    """(notes of the cell, how often it comes) of the cell that covers most notes from an event on, the shortest of these."""
    best: tuple[int, int] | None = None
    for size in range(2, LONGEST + 1):
        first, times, away = places[start : start + size], 1, False
        while (step := _again(first, places[start + size * times : start + size * (times + 1)])) is not None:
            times, away = times + 1, away or step != 0
        frets = [p[1] for p in places[start : start + size * times] if p is not None]
        if times == 1 or len(set(first)) == 1 or (away and max(frets) - min(frets) <= UNDER_HAND):
            continue
        if not away and size < _FEWEST_ACROSS and places[start] != places[start + size]:
            continue
        if best is None or size * times > best[0] * best[1]:
            best = size, times
    return best


def _again(first: Sequence[Place | None], other: Sequence[Place | None]) -> int | None:
    """By how many frets a cell has moved where it comes again: along its strings, or at its frets on others; None if it does not."""
    if len(other) < len(first):
        return None
    pairs = [(a, b) for a, b in zip(first, other, strict=True) if a is not None and b is not None]
    if len(pairs) < len(first):
        return None
    strings, frets = {b[0] - a[0] for a, b in pairs}, {b[1] - a[1] for a, b in pairs}
    if len(strings) > 1 or len(frets) > 1:
        return None
    across, along = strings.pop(), frets.pop()
    return along if not (across and along) else None


def _least_work(groups: Sequence[Sequence[FrettingTask]], frets: FrettingMoves) -> Fingers:
    """The fingers that play the cell with least work wherever it comes, in the order of its notes; () if no hand plays it: a cyclic
    Viterbi search in which the hand lies the same against the cell each time."""
    nodes = [[frets.fretting.whole(task) for task in group] for group in groups]
    places = [(task.strings[0], task.frets[0]) for task in groups[0]]
    again = [places.index(place) for place in places]
    known = [_states(groups, nodes, n) for n in range(len(places))]
    if not all(len(fingers) for fingers, _ in known):
        return ()
    begin, steps = _costs(frets, nodes, [rows for _, rows in known])
    best: tuple[float, Fingers] = (np.inf, ())
    for allowed in _one_finger_a_place(again, [fingers for fingers, _ in known]):
        cost, states = _cheapest(begin, steps, allowed)
        if cost < best[0]:
            best = cost, tuple(int(known[n][0][state]) for n, state in enumerate(states))
    return best[1]


def _states(
    groups: Sequence[Sequence[FrettingTask]], nodes: Sequence[Sequence[FrettingNodes]], n: int
) -> tuple[Ints, Ints]:
    """The ways of playing the nth note that every group has: their fingers [S], and their nodes in each group [groups, S]."""
    rows = np.full((len(groups), len(_AWAY), _FINGERS), -1)
    for g, group in enumerate(groups):
        some, first = nodes[g][n], group[0].frets[0] or 0
        here = np.flatnonzero((some.single > 0) & (some.single <= _FINGERS))
        here = here[np.isin(some.position[here] - first, _AWAY)]
        rows[g, some.position[here] - first - _AWAY.start, some.single[here] - 1] = here
    away, finger = np.nonzero((rows >= 0).all(axis=0))
    return finger + 1, rows[:, away, finger]


def _costs(
    frets: FrettingMoves, nodes: Sequence[Sequence[FrettingNodes]], rows: Sequence[Ints]
) -> tuple[Floats, list[Floats]]:
    """What beginning in each state of the first note costs [S], and for each note what moves to it from the one before it come to over
    all groups [S', S]; to the first note from the last of the group before."""
    count, size = len(nodes), len(rows)
    steps = [np.zeros((rows[n - 1].shape[1], rows[n].shape[1])) for n in range(size)]
    for (g, n), (h, m) in pairwise((g, n) for g in range(count) for n in range(size)):
        steps[m] += frets.between(nodes[g][n], nodes[h][m], "").strain[np.ix_(rows[n][g], rows[m][h])]
    return nodes[0][0].strain[rows[0][0]], steps


def _one_finger_a_place(again: Sequence[int], fingers: Sequence[Ints]) -> Iterator[list[Bools]]:
    """For each note which of its states may be taken [S], so that a place that comes again in the cell has one finger: each choice."""
    twice = sorted({at for n, at in enumerate(again) if at != n})[:_MOST_AGAIN]
    for chosen in product(range(1, THUMB), repeat=len(twice)):
        asked = dict(zip(twice, chosen, strict=True))
        allowed = [own == asked.get(at, own) for at, own in zip(again, fingers, strict=True)]
        if all(some.any() for some in allowed):
            yield allowed


def _cheapest(begin: Floats, steps: Sequence[Floats], allowed: Sequence[Bools]) -> tuple[float, list[int]]:
    """The cheapest states of a cell and their cost, where the last note leads on to the first again."""
    start = np.where(allowed[0], begin, np.inf)
    reached = np.where(np.eye(len(start), dtype=bool), start[:, None], np.inf)  # [S of the first note, S]
    back = []
    for n in range(1, len(steps)):
        total = reached[:, :, None] + np.where(allowed[n], steps[n], np.inf)
        back.append(total.argmin(axis=1))
        reached = total.min(axis=1)
    whole = reached + steps[0].T
    first, last = divmod(int(whole.argmin()), whole.shape[1])
    states = [last]
    for came in back[::-1]:
        states.append(int(came[first, states[-1]]))
    return float(whole[first, last]), states[::-1]


# chords


def _chords(tasks: Sequence[FrettingTask], frets: FrettingMoves) -> Iterator[tuple[int, Fingers]]:
    """(event, fingers of its notes) of chords of one shape that is moved farther than a hand reaches, each with the fingers that hold
    the shape with least strain wherever it comes."""
    alike: dict[tuple[Place, ...], list[int]] = {}
    for event, task in enumerate(tasks):
        if shape := _shape(task):
            alike.setdefault(shape, []).append(event)
    for events in alike.values():
        lowest = [min(f for f in tasks[event].frets if f) for event in events]
        stopped = sum(1 for f in tasks[events[0]].frets if f)
        if max(lowest) - min(lowest) <= UNDER_HAND and stopped < _FEWEST_OF_A_GRIP:
            continue
        sums: dict[Fingers, float] = {}
        for task in dict.fromkeys(tasks[event] for event in events):
            strains = _strains(task, frets)
            sums = {f: sums.get(f, 0.0) + s for f, s in strains.items() if not sums or f in sums}
        if sums:
            fingers = min(sums, key=lambda some: sums[some])
            yield from ((event, fingers) for event in events)


def _shape(task: FrettingTask) -> tuple[Place, ...]:
    """The stopped notes of a chord wherever it lies, by string; () for what is no stated chord, or holds notes from before."""
    if len(task.pitches) < 2 or task.tapped or task.held or None in task.strings or None in task.frets:
        return ()
    stopped = [(s, f) for s, f in zip(task.strings, task.frets, strict=True) if s and f]
    lowest = min((f for _, f in stopped), default=0)
    opened = tuple((s, -1) for s, f in zip(task.strings, task.frets, strict=True) if s and not f)
    return (*((s, f - lowest) for s, f in stopped), *opened) if len(stopped) > 1 else ()


def _strains(task: FrettingTask, frets: FrettingMoves) -> dict[Fingers, float]:
    """What each way of holding a chord strains, by the fingers of its notes."""
    found: dict[Fingers, float] = {}
    try:
        shapes = frets.fretting.whole(task).shapes
    except DromicError:
        return found
    for shape in shapes:
        by_string = {n.string: n.finger for n in shape.notes}
        fingers = tuple(by_string[s] for s in task.strings if s)
        found[fingers] = min(shape.strain, found.get(fingers, shape.strain))
    return found

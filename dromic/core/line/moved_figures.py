"""Figures that move along the neck in a line: octaves walked up, an arpeggiated shape shifted by some frets. Nobody refingers
such a figure on the way, so its notes have a usual finger. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence

from dromic.core.hands.fretting_shapes import Fretting
from dromic.core.hands.shape_facts import FrettingTask
from dromic.core.values.errors import DromicError

LONGEST = 6
"""notes of a figure"""
UNDER_HAND = 3
"""frets from the first finger to the fourth, a finger a fret: what fits there needs no move"""
Place = tuple[int, int]
"""string and fret"""


def usual_fingers(tasks: Sequence[FrettingTask], fretting: Fretting) -> list[int]:
    """For every event the finger that its figure gives it, 0 where it is in none. Only lines whose strings and frets are
    stated are looked at."""
    places = [_place(task) for task in tasks]
    found = [0] * len(places)
    start = 0
    while start < len(places):
        size, times = _moved(places, start)
        fingers = _one_for_all(places[start : start + size * times], size, tasks[start], fretting) if size else ()
        found[start : start + len(fingers) * times] = fingers * times
        start += len(fingers) * times or 1
    return found


def _place(task: FrettingTask) -> Place | None:
    """Where a lone stopped note lies, None for anything else."""
    if len(task.pitches) != 1 or task.tapped or not task.strings[0] or not task.frets[0] or task.held:
        return None
    return task.strings[0], task.frets[0]


def _moved(places: Sequence[Place | None], start: int) -> tuple[int, int]:
    """The notes of the shortest figure that begins at an event and moves, and how often it comes; (0, 0) if none does."""
    for size in range(2, LONGEST + 1):
        times = 1
        while _shifted(places[start : start + size], places[start + size * times : start + size * (times + 1)]):
            times += 1
        frets = [p[1] for p in places[start : start + size * times] if p is not None]
        if times > 1 and max(frets) - min(frets) > UNDER_HAND:
            return size, times
    return 0, 0


def _shifted(first: Sequence[Place | None], other: Sequence[Place | None]) -> bool:
    """Whether a figure over several strings, a fret each, comes again at another place, or at the same."""
    if len(other) < len(first) or None in first or None in other:
        return False
    pairs = [(a, b) for a, b in zip(first, other, strict=True) if a is not None and b is not None]
    strings = {a[0]: a[1] for a, _ in pairs}
    if len(strings) < 2 or any(strings[a[0]] != a[1] for a, _ in pairs):
        return False
    return len({b[1] - a[1] for a, b in pairs}) == 1 and all(a[0] == b[0] for a, b in pairs)


def _one_for_all(line: Sequence[Place | None], size: int, task: FrettingTask, fretting: Fretting) -> tuple[int, ...]:
    """The fingers that hold the figure with least strain wherever it comes, in the order of its notes; none if no hand holds
    it."""
    sums: dict[tuple[int, ...], float] = {}
    for start in range(0, len(line), size):
        group = [p for p in line[start : start + size] if p is not None]
        strains = _strains(group, task, fretting)
        sums = {f: (sums.get(f, 0.0) + s) for f, s in strains.items() if not start or f in sums}
    return min(sums, key=lambda fingers: sums[fingers]) if sums else ()


def _strains(group: Sequence[Place], task: FrettingTask, fretting: Fretting) -> dict[tuple[int, ...], float]:
    """What each way of holding a figure at once strains, by the fingers of its notes."""
    held = tuple(dict.fromkeys(group))
    chord = FrettingTask(
        tuple(fretting.instrument.pitch_at(s, f) for s, f in held), tuple(s for s, _ in held), tuple(f for _, f in held),
        (None,) * len(held), first_position=task.first_position,
    )  # fmt: skip
    found: dict[tuple[int, ...], float] = {}
    try:
        shapes = fretting.shapes(chord, "")
    except DromicError:
        return found
    for shape in shapes:
        by_string = {n.string: n.finger for n in shape.notes}
        fingers = tuple(by_string[s] for s, _ in group)
        found[fingers] = min(shape.strain, found.get(fingers, shape.strain))
    return found

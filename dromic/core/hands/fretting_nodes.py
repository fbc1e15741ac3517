"""Ways of holding an event, and all of them as arrays for the search.

A node is one way of holding one event. An event sounded with no finger of this hand (open strings, taps) keeps what
the hand remembers: its position and the event that last needed it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dromic.core.setup.instrument import MAX_STRINGS, MOST_FRETS
from dromic.core.values.arrays import Floats, Ints

FINGER_NAMES = ("0", "1", "2", "3", "4", "T")
SHAPE_BYTES = 700.0
"""what one shape takes with its numbers in arrays, roughly"""


@dataclass(frozen=True, slots=True)
class HeldNote:
    """One note of a shape: string, fret, finger (0 for open or tapped, 5 for the thumb)."""

    string: int
    fret: int
    finger: int


@dataclass(frozen=True, slots=True)
class Shape:
    """One way of holding an event at a hand position, with its strain and how far a finger is stretched."""

    notes: tuple[HeldNote, ...]
    position: int
    strain: float
    stretch_mm: float
    crowd_mm: float
    held: tuple[HeldNote, ...] = ()
    """notes from before that go on sounding under their fingers"""

    @property
    def strings(self) -> tuple[int, ...]:
        """The strings that sound, in the order of the notes."""
        if len(self.notes) == 1:
            return (self.notes[0].string,)
        return tuple(n.string for n in self.notes)

    @property
    def flat(self) -> bool:
        """Whether a finger lies over several strings."""
        down = [n.finger for n in (*self.notes, *self.held) if n.finger]
        return len(set(down)) < len(down)

    @property
    def idle(self) -> bool:
        """Whether no finger of this hand is down."""
        return not any(n.finger for n in (*self.notes, *self.held))


@dataclass(frozen=True, eq=False)
class FrettingNodes:
    """The nodes of one event as arrays over K nodes, in order of their groups of strings.

    Per-finger arrays are [K, 5], the thumb last, 0 where the finger is not used. `memory` is -1 for a node that uses a finger, else
    the index of the remembered position it carries on. `whole` is the set with every position remembered, from which
    this one takes `rows`; it is None for such a set itself.
    """

    shapes: tuple[Shape, ...]
    groups: tuple[tuple[int, ...], ...]
    group: Ints
    position: Ints
    memory: Ints
    fret: Ints
    low: Ints
    high: Ints
    strain: Floats
    rows: Ints
    in_row: bool = False
    """whether they go on from the note before at its fret, in a row over three strings or more"""
    whole: FrettingNodes | None = None

    def carrying(self, remembered: tuple[int, ...]) -> FrettingNodes:
        """The part of a whole set that a hand arriving with these positions can be in."""
        if not self.any_idle:
            return self
        rows: list[int] = []
        memory: list[int] = []
        for row, position in enumerate(self.memory.tolist()):
            found = [-1] if position < 0 else [m for m, p in enumerate(remembered) if p == position]
            rows += [row] * len(found)
            memory += found
        return self._part(rows, np.array(memory, dtype=np.int64))

    def only(self, row: int) -> FrettingNodes:
        """One node of them."""
        return self._part([row], self.memory[[row]])

    def between(self, first: int, end: int) -> FrettingNodes:
        """The nodes from one to before another."""
        return self._part(list(range(first, end)), self.memory[first:end])

    def _part(self, rows: list[int], memory: Ints) -> FrettingNodes:
        """The nodes of some rows [K], each with the memory [K] it carries on."""
        at = np.array(rows, dtype=np.int64)
        return FrettingNodes(
            tuple(self.shapes[r] for r in rows), self.groups, self.group[at], self.position[at], memory,
            self.fret[at], self.low[at], self.high[at], self.strain[at], at, self.in_row, self,
        )  # fmt: skip

    @property
    def weight(self) -> float:
        """Bytes it takes."""
        return SHAPE_BYTES * len(self.shapes)

    @cached_property
    def idle(self) -> NDArray[np.bool_]:
        """[K]: whether no finger is down."""
        return np.asarray(self.memory >= 0)

    @cached_property
    def any_idle(self) -> bool:
        """Whether there is a node in which no finger is down."""
        return bool(self.idle.any())

    @cached_property
    def lone(self) -> bool:
        """Whether no node uses more than one finger."""
        return bool(((self.fret > 0).sum(axis=1) <= 1).all())

    @cached_property
    def single_notes(self) -> bool:
        """Whether every node is one note, open or stopped by one of the four fingers, and nothing from before goes on sounding."""
        return not any(
            len(s.notes) > 1 or s.held or s.notes[0].finger > 4 or (s.notes[0].fret > 0) != (s.notes[0].finger > 0)
            for s in self.shapes
        )

    @cached_property
    def starts(self) -> Ints:
        """[G]: the first node of every group."""
        return np.searchsorted(self.group, np.arange(len(self.groups)))

    @cached_property
    def none(self) -> Ints:
        """[K]: the group of every node where the strings do not matter."""
        return np.zeros(len(self), dtype=np.int64)

    @cached_property
    def one_start(self) -> Ints:
        """[1]: the first node where all are one group."""
        return np.zeros(1, dtype=np.int64)

    @cached_property
    def flat(self) -> NDArray[np.bool_]:
        """[K]: whether a finger lies over several strings."""
        return np.asarray((self.low != self.high).any(axis=1))

    @cached_property
    def chord(self) -> NDArray[np.bool_]:
        """[K]: whether several notes are held down at once."""
        return np.asarray(((self.fret > 0).sum(axis=1) > 1) | self.flat)

    @cached_property
    def single(self) -> Ints:
        """[K]: the finger (1..5) of a node that uses one finger only, else 0."""
        used = self.fret > 0
        return np.asarray(np.where(used.sum(axis=1) == 1, used.argmax(axis=1) + 1, 0))

    @cached_property
    def lead(self) -> Ints:
        """[K]: the finger of the one note that a node sounds, 0 where that is open or there are several."""
        return np.array([s.notes[0].finger if len(s.notes) == 1 else 0 for s in self.shapes], dtype=np.int64)

    @cached_property
    def pressed(self) -> tuple[Ints, Ints]:
        """[K, 10]: fret and finger on every string, by its number, of all that is down; fret -1 where nothing is."""
        return _on_strings([(*s.notes, *s.held) for s in self.shapes])

    @cached_property
    def holding(self) -> tuple[Ints, Ints] | None:
        """[K, 10]: fret and finger on every string of what only goes on sounding; None where no node holds anything."""
        if not any(s.held for s in self.shapes):
            return None
        return _on_strings([s.held for s in self.shapes])

    @cached_property
    def top_fret(self) -> Ints:
        """[K]: the highest fret held, 0 for none."""
        return np.asarray(self.fret.max(axis=1))

    @cached_property
    def one_fret(self) -> NDArray[np.bool_]:
        """[K]: whether all that is held down is on one fret."""
        lowest = np.where(self.fret > 0, self.fret, self.top_fret[:, None]).min(axis=1)
        return np.asarray((self.top_fret > 0) & (lowest == self.top_fret))

    @cached_property
    def stretch_mm(self) -> Floats:
        """[K]: how far the fingers are from their relaxed places, in mm."""
        return np.array([s.stretch_mm for s in self.shapes])

    @cached_property
    def figure(self) -> tuple[Ints, Ints]:
        """[K] each: a number for the figure a node's stopped notes make, wherever it lies, and one for its fingers, the same
        for equal ones of every set; (0, 0) for nodes with fewer than two fingers' notes."""
        found = []
        for shape in self.shapes:
            notes = sorted((-n.string, n.fret, n.finger) for n in shape.notes if n.finger)
            if len(notes) < 2:
                found.append((0, 0))
                continue
            low, first = notes[0][0], notes[0][1] - MOST_FRETS  # nothing under 0: -1 and -2 have one hash
            found.append((hash(tuple((s - low, f - first) for s, f, _ in notes)), hash(tuple(g for _, _, g in notes))))
        array = np.array(found, dtype=np.int64).reshape(-1, 2)
        return array[:, 0], array[:, 1]

    @cached_property
    def fingers(self) -> Ints:
        """[K, S]: the finger of every stopped note from the lowest string up, 0 for none."""
        rows = [[n.finger for n in sorted(s.notes, key=lambda n: -n.string) if n.finger] for s in self.shapes]
        most = max((len(r) for r in rows), default=0)
        return np.array([r + [0] * (most - len(r)) for r in rows], dtype=np.int64).reshape(len(rows), most)

    @cached_property
    def sounding(self) -> tuple[Ints, Ints]:
        """[K] each: string and fret of a node with one note, (0, 0) for chords."""
        pairs = [(s.notes[0].string, s.notes[0].fret) if len(s.notes) == 1 else (0, 0) for s in self.shapes]
        array = np.array(pairs, dtype=np.int64).reshape(-1, 2)
        return array[:, 0], array[:, 1]

    @cached_property
    def by_string(self) -> tuple[Ints, Ints]:
        """[K, 10]: the fret of every string, by its number, -1 where it is silent, and the finger on it."""
        return _on_strings([s.notes for s in self.shapes])

    def __len__(self) -> int:
        return len(self.shapes)


def _on_strings(notes: Sequence[tuple[HeldNote, ...]]) -> tuple[Ints, Ints]:
    """[K, 10]: fret (-1 for none) and finger on every string, by its number."""
    fret, finger = np.full((len(notes), MAX_STRINGS + 1), -1), np.zeros((len(notes), MAX_STRINGS + 1), dtype=np.int64)
    for k, some in enumerate(notes):
        for note in some:
            fret[k, note.string], finger[k, note.string] = note.fret, note.finger
    return fret, finger


def as_arrays(shapes: tuple[Shape, ...], remembered: tuple[int, ...], in_row: bool = False) -> FrettingNodes:
    """Ways of holding an event as nodes, in order of their strings; one in which no finger is down once for every position
    remembered."""
    held: list[Shape] = []
    memory: list[int] = []
    for shape in shapes:
        if shape.idle:
            held.extend(replace(shape, position=position) for position in remembered)
            memory.extend(range(len(remembered)))
        else:
            held.append(shape)
            memory.append(-1)
    order = sorted(range(len(held)), key=lambda i: held[i].strings)
    held, memory = [held[i] for i in order], [memory[i] for i in order]
    groups = tuple(sorted({s.strings for s in held}))
    number = {g: i for i, g in enumerate(groups)}
    rows = []
    for shape in held:
        fret, low, high = [0] * 5, [0] * 5, [0] * 5
        for note in (*shape.notes, *shape.held):
            if note.finger:
                at = note.finger - 1
                fret[at] = note.fret
                low[at] = min(low[at] or note.string, note.string)
                high[at] = max(high[at], note.string)
        rows.append(fret + low + high)
    table = np.array(rows, dtype=np.int64)
    return FrettingNodes(
        shapes=tuple(held),
        groups=groups,
        group=np.array([number[s.strings] for s in held], dtype=np.int64),
        position=np.array([s.position for s in held], dtype=np.int64),
        memory=np.array(memory, dtype=np.int64),
        fret=table[:, :5].copy(),
        low=table[:, 5:10].copy(),
        high=table[:, 10:].copy(),
        strain=np.array([s.strain for s in held]),
        rows=np.arange(len(held)),
        in_row=in_row,
    )

"""What the price list reads of ways of holding an event: all of them side by side, an array a fact."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import combinations
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.fretting_nodes import HeldNote, Shape
from dromic.core.hands.hand_geometry import THUMB, HandGeometry
from dromic.core.prices.facts import PAIRS
from dromic.core.values.arrays import Floats, Ints

_SIDE_BY_SIDE = 3
"""Fingers on one fret from which on one could lie flat for them."""
FINGERS = 5
"""of a fretting hand, the thumb last"""


@dataclass(frozen=True, slots=True)
class FrettingTask:
    """What an event asks of the fretting hand: pitches, and for each the string, fret and finger if they are kept."""

    pitches: tuple[int, ...]
    strings: tuple[int | None, ...]
    frets: tuple[int | None, ...]
    fingers: tuple[int | None, ...]
    tapped: bool = False
    first_position: int = 0
    """whether a bar lies in first position, see `core.line.first_position`"""
    low_tune: bool = False
    """whether the whole line can be had low on the neck, see there"""
    bends: tuple[float, ...] = ()
    """semitones each note is bent by; empty where none is"""
    vibrato: tuple[bool, ...] = ()
    held: tuple[tuple[int, int], ...] = ()
    """(string, fret) of notes from before that go on sounding"""
    usual: tuple[int, ...] = ()
    """the fingers that a cell which comes again gives the notes; empty for none"""
    in_row: bool = False
    """whether it goes on from the note before at its fret, in a row over three strings or more"""
    dead: bool = False
    """no pitch is to sound: fingers touch the strings and need not press them"""


class ShapeFacts:
    """The facts of K shapes of one event."""

    def __init__(
        self, shapes: Sequence[Shape], task: FrettingTask, geometry: HandGeometry, numbers: Mapping[str, Any]
    ) -> None:
        self.shapes, self.task, self.geometry, self.numbers = shapes, task, geometry, numbers
        self._all = [(*s.notes, *s.held) for s in shapes]
        table = np.zeros((len(shapes), 4, FINGERS), dtype=np.int64)
        for row, notes in enumerate(self._all):
            fret, under, low, high = table[row]
            for note in notes:
                if note.finger:
                    at = note.finger - 1
                    fret[at] = note.fret
                    under[at] += 1
                    low[at] = min(low[at] or note.string, note.string)
                    high[at] = max(high[at], note.string)
        self.fret, self.under, self.low, self.high = (table[:, part] for part in range(4))
        self.position: Ints = np.array([s.position for s in shapes], dtype=np.int64)

    @cached_property
    def _down(self) -> NDArray[np.bool_]:
        return np.asarray(self.fret > 0)

    @cached_property
    def past_mm(self) -> Floats:
        places = self.geometry.past_mm[np.arange(FINGERS), self.fret, self.position[:, None]]
        return np.asarray(np.where(self._down, places, 0.0))

    @cached_property
    def past_fret(self) -> Ints:
        own = self.geometry.own_fret[np.arange(FINGERS), self.position[:, None]]
        return np.asarray(np.where(self._down, self.fret - own, 0))

    @property
    def past_body(self) -> Ints:
        joint = self.geometry.instrument.body_fret - self.geometry.instrument.capo
        return np.asarray(np.where(self._down, np.maximum(self.fret - joint, 0), 0))

    @property
    def three_frets(self) -> NDArray[np.bool_]:
        return np.asarray(self.position < self.geometry.three_below)

    @property
    def stopped(self) -> Ints:
        return np.asarray(self.under.sum(axis=1))

    @property
    def open_notes(self) -> Ints:
        return np.array([len(notes) for notes in self._all]) - self.stopped

    @property
    def off_line(self) -> Floats:
        """A finger's tip is on the lowest of its strings."""
        tips = self.high[:, : THUMB - 1]
        down = tips > 0
        count = down.sum(axis=1)
        off = -tips - self.numbers["tip_step_strings"] * np.arange(THUMB - 1)
        middle = np.where(down, off, 0.0).sum(axis=1) / np.maximum(count, 1)
        squares = np.where(down, (off - middle[:, None]) ** 2, 0.0).sum(axis=1)
        return np.asarray(np.where(count > 1, squares, 0.0))

    @property
    def bridged(self) -> NDArray[np.bool_]:
        under, down = self.under[:, : THUMB - 1], self._down[:, : THUMB - 1]
        used = down.sum(axis=1)
        more = under.sum(axis=1) - used
        over_idle = (down & (self.high - self.low >= self.under)[:, : THUMB - 1]).any(axis=1)
        return np.asarray((more > 0) & (more <= THUMB - 1 - used) & over_idle)

    @property
    def apart_mm(self) -> Floats:
        return np.stack([self._apart(low - 1, high - 1) for low, high in PAIRS], axis=1)

    def _apart(self, one: int, other: int) -> Floats:
        both = self._down[:, one] & self._down[:, other]
        return np.where(both, self.geometry.apart_mm[self.fret[:, one], self.fret[:, other]], -1.0)

    @property
    def bend(self) -> Floats:
        return self._asked(self.task.bends)

    @property
    def shaken(self) -> Ints:
        return self._asked(self.task.vibrato).astype(np.int64)

    def _asked(self, asked: Sequence[float]) -> Floats:
        """[K, 5]: what is asked of the notes, by the finger that each is held with."""
        found = np.zeros((len(self.shapes), FINGERS))
        if any(asked):
            for row, shape in enumerate(self.shapes):
                for note, much in zip(shape.notes, asked, strict=False):
                    if note.finger:
                        found[row, note.finger - 1] += much
        return found

    @property
    def touching(self) -> bool:
        return self.task.dead

    @property
    def let_go(self) -> Ints:
        """Of the notes that go on sounding those on other strings than the event's own which no shape holds on to."""
        return np.array([
            sum(string not in s.strings for string, _ in self.task.held) - len(s.held) for s in self.shapes
        ])  # fmt: skip

    @property
    def first_position(self) -> int:
        return self.task.first_position

    @property
    def low_tune(self) -> bool:
        return self.task.low_tune

    @property
    def stray(self) -> NDArray[np.bool_]:
        """A chord has its own fingers there."""
        fret = self.fret[:, : THUMB - 1]
        lone = np.array([len(notes) == 1 for notes in self._all])[:, None]
        away = (fret != np.arange(1, THUMB)) | (self.position != 1)[:, None]
        return np.asarray((fret > 0) & away & lone)

    @property
    def unusual(self) -> Ints | float:
        usual = self.task.usual
        if not usual:
            return 0.0
        pairs = (zip(shape.notes, usual, strict=True) for shape in self.shapes)
        return np.array([sum(note.finger not in (0, finger) for note, finger in some) for some in pairs])

    @property
    def arched(self) -> Ints | float:
        """A flat finger comes from the side of string 1, so open strings lie under its base there."""
        opened = [min((n.string for n in notes if not n.fret), default=0) for notes in self._all]
        if not any(opened):
            return 0.0
        flat = (self.low != self.high) & (self.low > np.array(opened)[:, None]) & (np.array(opened) > 0)[:, None]
        return np.asarray(flat.sum(axis=1))

    @property
    def side_by_side(self) -> Ints | float:
        """Three or more fingers on one fret, where one lying flat would damp no open string that sounds under it."""
        if len(self.task.pitches) < _SIDE_BY_SIDE:
            return 0.0
        found = np.zeros(len(self.shapes), dtype=np.int64)
        for row, shape in enumerate(self.shapes):
            notes = shape.notes
            by_fret: dict[int, list[HeldNote]] = {}
            for note in notes:
                if note.finger:
                    by_fret.setdefault(note.fret, []).append(note)
            for same in by_fret.values():
                low, high = min(n.string for n in same), max(n.string for n in same)
                opened = any(not n.finger and n.string < high for n in notes)
                if len({n.finger for n in same}) >= _SIDE_BY_SIDE and not opened and high - low < len(same):
                    found[row] += len(same) - _SIDE_BY_SIDE + 1
        return found


def barres_lie_free(notes: tuple[HeldNote, ...]) -> bool:
    """No string under a flat finger may need a lower fret."""
    for a, b in combinations([n for n in notes if n.finger], 2):
        if a.finger == b.finger:
            between = range(min(a.string, b.string), max(a.string, b.string) + 1)
            if any(n.string in between and n.fret < a.fret for n in notes):
                return False
    return True

"""Moves between single notes, looked up: a move depends on the strings only by how far they lie apart, up to the string beyond the
next, and so all there are on an instrument fit one table for each hand.

Rows are the ways of holding the note before, columns those of the note it goes to: a block for every distance of strings, then the
open strings. Rows are filled for a fret at a time, when the first move from it is asked for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.fretting_nodes import FrettingNodes, HeldNote, Shape, as_arrays
from dromic.core.hands.fretting_shapes import Fretting
from dromic.core.hands.hand_geometry import THUMB
from dromic.core.values.arrays import Floats, Ints

_APART = 2
"""strings from which on it makes no difference how far they lie apart"""
_BLOCKS = 2 * _APART + 1
_STRING = _APART + 1
"""the string that moves are worked out from, with so many on either side"""
_WORTH = 400_000
"""moves worked out one by one after which filling rows is worth it: about as many as the table holds"""


@dataclass(frozen=True, eq=False)
class LookedUp:
    """Moves from nodes to nodes, [K', K] each: kind code, time in ms, strain of the move alone (infinite where it is not permitted)
    and strain that grows with speed."""

    kind: NDArray[np.int8]
    time_ms: Floats
    strain: Floats
    speed_strain: Floats


class LoneMoves:
    """The moves of one hand on one instrument between single notes, worked out by `work_out`."""

    def __init__(self, fretting: Fretting, work_out: Callable[[FrettingNodes, FrettingNodes], LookedUp]) -> None:
        self.fretting, self._work_out = fretting, work_out
        self._positions = fretting.instrument.highest_fret + 1
        self._asked = 0
        self._filled: set[int] = set()
        self._filling = Lock()

    def between(self, a: FrettingNodes, b: FrettingNodes) -> LookedUp | None:
        """The moves from every node of `a` to every node of `b`; None where they are more than single notes, and as long as so few
        have been asked for that working them out takes no longer."""
        if not (a.single_notes and b.single_notes) or b.in_row:
            return None
        self._asked += len(a) * len(b)
        if self._asked < _WORTH:
            return None
        with self._filling:  # plans are made on several threads at a time
            for fret in sorted(set(a.top_fret.tolist()) - self._filled):
                self._fill(fret)
        rows, apart = self._spots(a), b.sounding[0][None, :] - a.sounding[0][:, None]
        blocks = np.clip(apart, -_APART, _APART) + _APART
        blocks[a.idle] = 0
        columns = blocks * self._count + self._spots(b)[None, :]
        columns[:, b.idle] = (self._spots(b)[b.idle] + (_BLOCKS - 1) * self._count)[None, :]
        at = columns + rows[:, None] * self._width
        kind, time_ms, strain, speed_strain = self._tables
        return LookedUp(kind.take(at), time_ms.take(at), strain.take(at), speed_strain.take(at))

    def asked_enough(self) -> None:
        """Look up every move from now on."""
        self._asked = _WORTH

    def _spots(self, nodes: FrettingNodes) -> Ints:
        """[K]: the row of every node, which is its column in each block as well."""
        string, fret = nodes.sounding
        fretted = self._spot[fret, nodes.single, nodes.position]
        return np.asarray(np.where(nodes.idle, self._count + (string - 1) * self._positions + nodes.position, fretted))

    @cached_property
    def _held(self) -> list[tuple[int, int, int]]:
        """(fret, finger, position) of every way of stopping one note."""
        hand, highest = self.fretting, self.fretting.instrument.highest_fret
        return [
            (fret, finger, position)
            for fret in range(1, highest + 1)
            for position in hand.positions(fret)
            for finger in hand.reaching(fret, position)
        ]

    @cached_property
    def _spot(self) -> Ints:
        """[frets, fingers, positions]: the row of every way of stopping one note."""
        found = np.full((self._positions, THUMB + 1, self._positions), -1)
        for row, way in enumerate(self._held):
            found[way] = row
        return found

    @property
    def _count(self) -> int:
        return len(self._held)

    @property
    def _width(self) -> int:
        return _BLOCKS * self._count + self.fretting.instrument.strings * self._positions

    @cached_property
    def _tables(self) -> tuple[NDArray[np.int8], Floats, Floats, Floats]:
        """What is looked up, flat; memory is taken where rows are filled."""
        size = (self._count + self.fretting.instrument.strings * self._positions) * self._width
        return np.empty(size, np.int8), np.empty(size), np.empty(size), np.empty(size)

    @cached_property
    def _stopped(self) -> FrettingNodes:
        """Every way of stopping one note, on each of some neighbouring strings: the columns of the blocks."""
        notes = [
            self._one(string, *way) for string in range(_STRING - _APART, _STRING + _APART + 1) for way in self._held
        ]
        return as_arrays(tuple(notes), ())

    @cached_property
    def _open(self) -> FrettingNodes:
        """Every open string with every position remembered."""
        notes = [self._one(string, 0, 0, 0) for string in range(1, self.fretting.instrument.strings + 1)]
        return as_arrays(tuple(notes), tuple(range(self._positions)))

    def _one(self, string: int, fret: int, finger: int, position: int) -> Shape:
        past = float(self.fretting.geometry.past_mm[finger - 1, fret, position]) if finger else 0.0
        return Shape((HeldNote(string, fret, finger),), position, 0.0, max(0.0, past), max(0.0, -past))

    def _fill(self, fret: int) -> None:
        """Works out the rows of a fret, or those of all open strings."""
        if fret:
            some = [row for row, way in enumerate(self._held) if way[0] == fret]
            source = as_arrays(tuple(self._one(_STRING, *self._held[row]) for row in some), ())
            first, blocks = some[0], self._stopped
        else:
            source, first = self._open, self._count
            blocks = as_arrays(tuple(self._one(_STRING - _APART, *way) for way in self._held), ())
        for start in range(0, len(blocks), self._count):  # arrays of some thousand at a time are quickest
            self._put(first, start, self._work_out(source, blocks.between(start, start + self._count)))
        self._put(first, _BLOCKS * self._count, self._work_out(source, self._open))
        self._filled.add(fret)

    def _put(self, row: int, column: int, moves: LookedUp) -> None:
        """Sets down moves from some row and column on."""
        rows, columns = moves.kind.shape
        there = slice(row, row + rows), slice(column, column + columns)
        kind, time_ms, strain, speed_strain = (table.reshape(-1, self._width) for table in self._tables)
        kind[there], time_ms[there] = moves.kind, moves.time_ms
        strain[there], speed_strain[there] = moves.strain, moves.speed_strain

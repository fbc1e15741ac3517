"""What the price list reads of moves of the fretting hand from every node of one set to every node of another, an array a fact."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.fretting_nodes import FrettingNodes
from dromic.core.hands.hand_geometry import THUMB, HandGeometry
from dromic.core.prices.facts import PAIRS
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.vocabulary import HAMMER, PULL, SLURS

Bools = NDArray[np.bool_]
MOST_GRIPPED = 3
"""Notes of a chord that make it harder to carry along the neck, at most."""
_REFORMED = 2
"""Notes whose fingers go elsewhere against the hand from which on it forms a chord anew."""
MOST_FORMED = 4
"""Notes that a hand puts down one after the other for a chord, at most."""
_PAIR = np.full((THUMB + 1, THUMB + 1), -1)
"""[6, 6]: the place in PAIRS of two fingers' numbers, -1 for none"""
for _place, (_low, _high) in enumerate(PAIRS):
    _PAIR[_low, _high] = _PAIR[_high, _low] = _place


@dataclass(frozen=True, eq=False)
class _Finger:
    """One finger of a set of nodes: its number (0 where it is not used), fret and the strings it covers, [K] each."""

    finger: Ints
    fret: Ints
    low: Ints
    high: Ints


def _fingers(nodes: FrettingNodes, other_is_lone: bool) -> list[_Finger]:
    """The fingers to compare: the one in use where no node on either side uses two, else each in turn."""
    if nodes.lone and other_is_lone:
        return [_Finger(nodes.single, nodes.top_fret, nodes.low.max(axis=1), nodes.high.max(axis=1))]
    return [
        _Finger((nodes.fret[:, g] > 0) * (g + 1), nodes.fret[:, g], nodes.low[:, g], nodes.high[:, g])
        for g in range(nodes.fret.shape[1])
    ]


class MoveFacts:
    """The facts of moves from the nodes of `a` to those of `b`, [K', K] each; `struck` where a stroke sounds `b`, which the fingers
    must meet."""

    def __init__(
        self,
        a: FrettingNodes,
        b: FrettingNodes,
        geometry: HandGeometry,
        numbers: Mapping[str, Any],
        struck: bool = True,
    ) -> None:
        self.a, self.b, self.geometry, self.numbers, self.struck = a, b, geometry, numbers, struck
        mm, shape = geometry.mm, (len(a), len(b))
        known = a.position[:, None] > 0
        self.shifted = known & (a.position[:, None] != b.position[None, :]) & ~b.idle[None, :]
        self.shift_mm: Floats = np.abs(mm[a.position][:, None] - mm[b.position][None, :])
        self.fresh, self.jumped = np.zeros(shape, dtype=bool), np.zeros(shape, dtype=bool)
        # to or from a chord a finger goes where it is wanted next, and what it travels is what it costs
        self._chordal = a.chord[:, None] & b.chord[None, :]
        some = bool(self._chordal.any())
        self.travel_mm: Floats | float = np.zeros(shape) if some else 0.0
        self.longest_mm: Floats | float = np.full(shape, -1.0) if some else 0.0
        self.arrived: Ints | float = np.zeros(shape, dtype=np.int64) if some else 0.0
        self._sent: Ints | float = np.zeros(shape, dtype=np.int64) if some else 0.0
        self._placed: Ints | float = np.zeros(shape, dtype=np.int64) if some else 0.0
        self._rolls: list[tuple[Bools, Ints]] = []
        self._laid: list[tuple[Bools, Ints]] = []
        for one, other in zip(_fingers(a, b.lone), _fingers(b, a.lone), strict=True):
            self._compare(one, other, some)

    def _compare(self, one: _Finger, other: _Finger, some_chordal: bool) -> None:
        """Takes in what one finger does between the nodes."""
        mm = self.geometry.mm
        used = other.finger > 0
        same = (one.finger[:, None] == other.finger[None, :]) & used[None, :]
        same_fret = same & (one.fret[:, None] == other.fret[None, :])
        covered = (one.low[:, None] <= other.low[None, :]) & (other.high[None, :] <= one.high[:, None])
        rocked = same_fret & ~covered
        fresh = used[None, :] & ~same
        if some_chordal:
            sent = same & self._chordal & (~same_fret | rocked)
            across = np.abs(one.high[:, None] - other.high[None, :]) * self.numbers["string_mm"]
            travel = np.abs(mm[one.fret][:, None] - mm[other.fret][None, :]) * ~self.shifted + across
            self.longest_mm = np.maximum(self.longest_mm, np.where(sent, travel, -1.0))
            self.travel_mm = self.travel_mm + np.where(sent, travel, 0.0)
            self.fresh |= sent
            gone = sent & (travel > 0)
            notes = (1 + other.high - other.low)[None, :]
            self._sent = self._sent + gone * notes
            self._placed = self._placed + (gone | (fresh & self._chordal)) * notes
            same, rocked = same & ~sent, rocked & ~sent
            same_fret = same_fret & ~sent
            self.arrived = self.arrived + (fresh & self._chordal)
        elsewhere = same & ~same_fret
        self.jumped |= elsewhere & ~self.shifted
        self.fresh |= fresh | (elsewhere & self.shifted)
        if rocked.any():
            near = np.maximum(one.low[:, None] - other.high[None, :], other.low[None, :] - one.high[:, None]) <= 1
            self._rolls.append((rocked & near, other.finger))
            self._laid.append((rocked & ~near, other.finger))

    @cached_property
    def rolled(self) -> Ints | float:
        """[K', K, 4]."""
        return self._by_finger(self._rolls)

    @cached_property
    def laid(self) -> Ints | float:
        """[K', K, 4]."""
        return self._by_finger(self._laid)

    def _by_finger(self, found: list[tuple[Bools, Ints]]) -> Ints | float:
        if not any(which.any() for which, _ in found):
            return 0.0
        numbers = np.arange(1, THUMB)
        return np.asarray(sum(which[:, :, None] * (finger[None, :, None] == numbers) for which, finger in found))

    @cached_property
    def guided(self) -> Bools:
        a, b = self.a, self.b
        if a.lone and b.lone:  # a finger that plays both notes guides nobody: it must come off the one for the other
            return np.asarray(self._one_finger & (a.top_fret[:, None] == b.top_fret[None, :]))
        down = (a.fret[:, None, :] > 0) & (b.fret[None, :, :] > 0)
        along = (a.low[:, None, :] <= b.high[None, :, :]) & (b.low[None, :, :] <= a.high[:, None, :])
        return np.asarray((down & along).any(axis=2))

    @cached_property
    def _one_finger(self) -> Bools:
        """Whether one finger alone plays on one string before and after."""
        a, b = self.a, self.b
        same = (a.single[:, None] == b.single[None, :]) & (a.single > 0)[:, None]
        return np.asarray(same & (self._string(a)[:, None] == self._string(b)[None, :]))

    @property
    def walked(self) -> Bools:
        if not (self.a.lone and self.b.lone):
            return np.zeros(self.shifted.shape, dtype=bool)
        return np.asarray(self._one_finger & self.shifted & (self.a.top_fret[:, None] != self.b.top_fret[None, :]))

    @property
    def amid(self) -> Bools:
        """Of a line's first notes as well, once the hand is placed."""
        there, doubled = self.b.position[None, :], self.geometry.doubled
        found = doubled[self._opened(self.b)[None, :], there]
        if (self.a.position == 0).any():
            found = found | doubled[self._opened(self.a)[:, None], there] & (self.a.position == 0)[:, None]
        return np.asarray(found)

    @staticmethod
    def _opened(nodes: FrettingNodes) -> Ints:
        """[K]: the string of a node that is one open note, 0 for any other."""
        string, fret = nodes.sounding
        return np.asarray(np.where(nodes.idle & (fret == 0), string, 0))

    @cached_property
    def changed(self) -> Ints | float:
        a, b = self.a, self.b
        if a.lone and b.lone:
            there = (a.top_fret > 0)[:, None] & (a.top_fret[:, None] == b.top_fret[None, :])
            there &= self._string(a)[:, None] == self._string(b)[None, :]
            return np.asarray(there & (a.single[:, None] != b.single[None, :])).astype(np.int64)
        (fret_a, finger_a), (fret_b, finger_b) = a.pressed, b.pressed
        used = np.flatnonzero((finger_a > 0).any(axis=0) & (finger_b > 0).any(axis=0))
        if not len(used):
            return 0.0
        found = np.zeros(self.shifted.shape, dtype=np.int64)
        for string in used:
            there = (fret_a[:, string, None] == fret_b[None, :, string]) & (finger_b[:, string] > 0)
            found += there & (finger_a[:, string, None] != finger_b[None, :, string])
        return found

    @cached_property
    def formed(self) -> Ints | float:
        """A figure that keeps its fingers goes as a block, along the neck or across it; fingers that were in the air come down as one,
        unless those of two other notes must go elsewhere with them."""
        if isinstance(self._placed, float) or isinstance(self._sent, float):
            return 0.0
        as_one = (self._sent < _REFORMED) | (self._alike & (self._changed_fingers == 0))
        return np.minimum(np.where(as_one, 0, self._placed), MOST_FORMED)

    @property
    def gripped(self) -> Ints:
        return np.asarray(np.minimum((self.b.pressed[1] > 0).sum(axis=1), MOST_GRIPPED))

    @cached_property
    def _alike(self) -> Bools:
        """Whether two chords are one figure, wherever it lies."""
        a, b = self.a, self.b
        return np.asarray((a.figure[0][:, None] == b.figure[0][None, :]) & (a.figure[0] != 0)[:, None])

    @cached_property
    def _changed_fingers(self) -> Ints:
        """How many notes of chords have another finger, from the lowest string up."""
        width = min(self.a.fingers.shape[1], self.b.fingers.shape[1])
        return np.asarray((self.a.fingers[:, None, :width] != self.b.fingers[None, :, :width]).sum(axis=2))

    @cached_property
    def refingered(self) -> Ints | float:
        """How many fingers change where two chords are the same figure at another place; none where the hand stays over notes on one
        fret, which a finger can lie flat for at either."""
        if isinstance(self.arrived, float):
            return 0.0
        same = self._alike & (self.shifted | ~self.b.one_fret[None, :])
        return np.asarray(np.where(same, self._changed_fingers, 0)) if same.any() else 0.0

    @cached_property
    def refingered_held(self) -> Bools | bool:
        if self.b.holding is None:
            return False
        (fret_a, finger_a), (fret_b, finger_b) = self.a.pressed, self.b.holding
        same_place = (fret_a[:, None, :] == fret_b[None, :, :]) & (fret_b > 0)[None]
        return np.asarray((same_place & (finger_a[:, None, :] != finger_b[None, :, :])).any(axis=2))

    @staticmethod
    def _string(nodes: FrettingNodes) -> Ints:
        return np.asarray(nodes.low.max(axis=1))

    @cached_property
    def _in_turn(self) -> Bools:
        """Whether one finger follows one other while the hand stays."""
        a, b = self.a.single, self.b.single
        return np.asarray(((a > 0) & (a < THUMB))[:, None] & ((b > 0) & (b < THUMB))[None, :] & ~self.shifted)

    @cached_property
    def pair(self) -> Ints:
        return np.where(self._in_turn, _PAIR[self.a.single[:, None], self.b.single[None, :]], -1)

    @property
    def pair_mm(self) -> Floats:
        return np.asarray(self.geometry.apart_mm[self.a.top_fret[:, None], self.b.top_fret[None, :]])

    @cached_property
    def _up(self) -> Ints:
        """How much higher the number of the finger is, 0 where no pair takes turns."""
        return np.where(self.pair >= 0, self.b.single[None, :] - self.a.single[:, None], 0)

    @cached_property
    def _frets_up(self) -> Ints:
        return self.b.top_fret[None, :] - self.a.top_fret[:, None]

    @cached_property
    def _strings_down(self) -> Ints:
        return self._string(self.b)[None, :] - self._string(self.a)[:, None]

    @property
    def crossed(self) -> Bools:
        return np.asarray(self._up * self._frets_up < 0)

    @property
    def turned(self) -> Bools:
        return np.asarray((self._frets_up == 0) & (self._up * self._strings_down > 0))

    @property
    def separate(self) -> Bools:
        return np.asarray((self._up != 0) & (self._frets_up == 0) & (np.abs(self._strings_down) == 1))

    @property
    def apart_in_row(self) -> Bools | bool:
        return self.separate if self.b.in_row else False

    @property
    def planted(self) -> Bools:
        return np.asarray((self._up < 0) & (self._frets_up < 0) & (self._strings_down == 0))


class SlurFacts:
    """The same where the attack that sounds `b` asks something of the move. A slide keeps its finger, and may take a whole chord
    along; hammers and pulls may go over to a chord."""

    def __init__(
        self, a: FrettingNodes, b: FrettingNodes, attack: str, geometry: HandGeometry, numbers: Mapping[str, Any]
    ) -> None:
        self.a, self.b, self.attack, self.geometry, self.numbers = a, b, attack, geometry, numbers
        self._still = (a.position[:, None] == b.position[None, :]) | (a.position[:, None] == 0) | b.idle[None, :]

    @cached_property
    def finger(self) -> Ints:
        return self.b.lead

    @cached_property
    def one_string(self) -> Bools:
        string_a, string_b = self.a.sounding[0], self.b.sounding[0]
        return np.asarray((string_a[:, None] == string_b[None, :]) & (string_a[:, None] > 0))

    @cached_property
    def _rise(self) -> Ints:
        return self.b.sounding[1][None, :] - self.a.sounding[1][:, None]

    @property
    def moved(self) -> Bools:
        return np.asarray(self._rise != 0)

    @cached_property
    def _together(self) -> bool:
        return self.attack in (HAMMER, PULL) and len(self.b.shapes[0].notes) > 1

    @cached_property
    def _slurred(self) -> bool:
        return self.attack in SLURS

    @property
    def hammered(self) -> Bools | bool:
        if not self._slurred:
            return False
        ga, gb = self.a.lead[:, None], self.b.lead[None, :]
        found = self.one_string & (self._rise > 0) & self._still & (ga != gb) & (gb > 0)
        return found | (_pressed_together(self.a, self.b, 1) & self._still) if self._together else np.asarray(found)

    @property
    def pulled(self) -> Bools | bool:
        if not self._slurred:
            return False
        ga, gb = self.a.lead[:, None], self.b.lead[None, :]
        tapped = self.a.idle[:, None] & (self.a.sounding[1][:, None] > 0)
        found = self.one_string & (self._rise < 0) & self._still & ((gb < ga) | (gb == 0) | tapped)
        return found | (_pressed_together(self.a, self.b, -1) & self._still) if self._together else np.asarray(found)

    @cached_property
    def slid(self) -> Bools | bool:
        if not self._slurred:
            return False
        ga, gb = self.a.lead[:, None], self.b.lead[None, :]
        alone = self.one_string & (self._rise != 0) & (ga == gb) & (gb > 0)
        return np.asarray(alone | _slid_together(self.a, self.b) if self.b.chord.any() else alone)

    @property
    def slide_mm(self) -> Floats:
        mm = self.geometry.mm
        return np.abs(mm[self.b.top_fret][None, :] - mm[self.a.top_fret][:, None])


def _pressed_together(a: FrettingNodes, b: FrettingNodes, way: int) -> Bools:
    """[K', K]: chords on the same strings, of which some are stopped higher (`way` 1) or lower (-1) by other fingers or by none,
    and the rest go on as they are."""
    (fret_a, finger_a), (fret_b, finger_b) = a.by_string, b.by_string
    here, there = fret_a[:, None, :], fret_b[None, :, :]
    other = finger_a[:, None, :] != finger_b[None, :, :]
    same_strings = np.asarray(((here >= 0) == (there >= 0)).all(axis=2))
    moved = np.asarray((here >= 0) & (way * (there - here) > 0) & other)
    stays = np.asarray((here == there) & ~other)
    return np.asarray(same_strings & (moved | stays).all(axis=2) & moved.any(axis=2))


def _slid_together(a: FrettingNodes, b: FrettingNodes) -> Bools:
    """[K', K]: chords whose every finger stays on its strings and goes the same number of frets."""
    held_a, held_b = a.fret[:, None, :] > 0, b.fret[None, :, :] > 0
    same = (held_a == held_b).all(axis=2) & (a.low[:, None] == b.low[None]).all(axis=2)
    same &= (a.high[:, None] == b.high[None]).all(axis=2)
    rise = np.where(held_b, b.fret[None, :, :] - a.fret[:, None, :], 0)
    least = np.where(held_b, rise, 99).min(axis=2)
    chord = (held_b.sum(axis=2) > 1) | b.flat[None, :]
    most = np.where(held_b, rise, -99).max(axis=2)
    return np.asarray(same & chord & (most == least) & (least != 0))

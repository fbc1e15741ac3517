"""Where the pick can be after each event, and what every move between two such places takes.

Positions across the strings count in string spacings, 0 on the lowest string, growing towards string 1. A stroke in
direction d (+1 down, towards string 1; -1 up) starts half a spacing before its first string and ends half a spacing
past its last. The hops of a move are the strings passed over between one stroke's end and the next one's start.

What the parts of a move take says the price list.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dromic.core.prices.facts import PICKING, STROKE
from dromic.core.prices.row import TIME, PriceList, numbers_of
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Player
from dromic.core.setup.school import KIND_CODE, KINDS
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.memo import Memo

Bools = NDArray[np.bool_]
NAME = {1: "down", -1: "up", 0: "none"}
SAME, REPEAT, CARRY, OUTSIDE, INSIDE, SKIP_OUTSIDE, SKIP_INSIDE, THROUGH, BACK, PLUCK, LEGATO, REST = range(len(KINDS))
NON_TRIVIAL = np.array([k not in ("same-string", "carry-through", "legato", "rest") for k in KINDS])
PAYS_LIFT = np.array([k not in ("repeat", "carry-through", "back") for k in KINDS])
UNPHASED = np.array([k in ("carry-through", "skip-through") for k in KINDS])
_MOST_MB = 32.0
"""of moves kept for one hand on one instrument"""
_OBJECT_BYTES = 1000
"""what the objects around small arrays take, roughly"""


@dataclass(frozen=True, eq=False)
class PickPositions:
    """Where the pick is after an event, [G, R] over groups of strings and ways of striking them.

    `sign` is 0 where nothing has been picked yet. `begin` and `end` are the first and last string struck, `low` and
    `high` the span touched, `lean` an index into the player's leans.
    """

    sign: Ints
    begin: Ints
    end: Ints
    low: Ints
    high: Ints
    lean: Ints

    @cached_property
    def key(self) -> bytes:
        """What two equal sets of places share."""
        head = f"{self.sign.shape}".encode()
        return head + np.stack([self.sign, self.begin, self.end, self.low, self.high, self.lean]).tobytes()


@dataclass(frozen=True, eq=False)
class PickMoves:
    """[G', R', G, R] arrays: kind code, hops, whether a hop starts buried, whether strokes are equal, time in ms."""

    kind: Ints
    hops: Ints
    buried: Bools
    equal: Bools
    time_ms: Floats

    @cached_property
    def non_trivial(self) -> Bools:
        """[G', R', G, R]: whether the move counts for a knot."""
        return np.asarray(NON_TRIVIAL[self.kind])

    @cached_property
    def unphased(self) -> Bools:
        """[G', R', G, R]: whether the move has no price against the swing."""
        return np.asarray(UNPHASED[self.kind])

    def against(self, parity: int | None) -> Bools | bool:
        """[G', R', G, R]: whether a stroke goes against the swing; `parity` is n % 2, None where n does not count and all is False."""
        if parity is None:
            return False
        return np.asarray((self.equal if parity else ~self.equal) & ~self.unphased)


class StrokeFacts:
    """What the price list reads of moves from the places of `a` to the struck places of `b`, [G', R', G, R] each."""

    def __init__(self, a: PickPositions, b: PickPositions, hand: Picking) -> None:
        """The parts of every move; `a` is [G', R'], `b` [G, R]."""
        self.numbers = hand.numbers

        def of_a(array: Ints) -> Ints:
            return array[:, :, None, None]

        def of_b(array: Ints) -> Ints:
            return array[None, None, :, :]

        da, db = of_a(a.sign), of_b(b.sign)
        self.hops = np.abs(2 * of_b(b.begin) - db - 2 * of_a(a.end) - da) // 2
        step = of_b(b.begin) - of_a(a.end)
        touching = (of_a(a.low) <= of_b(b.high)) & (of_b(b.low) <= of_a(a.high))
        self.equal = np.broadcast_to(da == db, self.hops.shape)
        along = step * da > 0
        next_door = np.abs(step) == 1
        self._between = np.abs(step) - 1
        self.kind = np.where(
            touching,
            np.where(self.equal, REPEAT, SAME),
            np.where(
                self.equal,
                np.where(along, np.where(next_door, CARRY, THROUGH), BACK),
                np.where(along, np.where(next_door, OUTSIDE, SKIP_OUTSIDE), np.where(next_door, INSIDE, SKIP_INSIDE)),
            ),
        )
        lean_a, lean_b = of_a(a.lean), of_b(b.lean)
        self.leaned = lean_a != lean_b
        self.from_clear = hand.clear[lean_a, (da + 1) // 2]
        self.outermost = of_b(b.end) == np.where(db > 0, hand.strings - 1, 0)
        self.separated = not hand.rest_through
        self.buried = (self.hops > 0) & PAYS_LIFT[self.kind] & ~self.from_clear

    @property
    def carried(self) -> Bools:
        """[G', R', G, R]: whether the pick carries through to the next string."""
        return np.asarray(self.kind == CARRY)

    @property
    def through(self) -> Bools:
        """[G', R', G, R]: whether it carries through over strings that are left out."""
        return np.asarray(self.kind == THROUGH)

    @cached_property
    def repeated(self) -> Bools:
        """[G', R', G, R]: whether it goes back to strike the same way again."""
        return np.asarray((self.kind == REPEAT) | (self.kind == BACK))

    @property
    def swung(self) -> Bools:
        """[G', R', G, R]: whether the next stroke is the other half of a swing."""
        return ~(self.repeated | self.carried | self.through)

    @property
    def inside(self) -> Bools:
        """[G', R', G, R]: whether the pick crosses between the two strings."""
        return np.asarray((self.kind == INSIDE) | (self.kind == SKIP_INSIDE))

    @property
    def left_out(self) -> Ints:
        """[G', R', G, R]: strings left out between the two, where the pick does not carry through over them."""
        return np.where((self.kind == SKIP_OUTSIDE) | (self.kind == SKIP_INSIDE), self._between, 0)

    @cached_property
    def hop_bits(self) -> Floats:
        """[G', R', G, R]: bits of passing over strings; of a repeated stroke only what goes beyond one string."""
        bits = hop_bits(self.hops)
        beyond_one = np.maximum(0.0, bits - hop_bits(1))
        return np.where(self.kind == CARRY, 0.0, np.where(self.repeated, beyond_one, bits))


class Picking:
    """The picking hand of one player on one instrument; moves that recur are worked out once."""

    def __init__(self, player: Player, instrument: Instrument, prices: PriceList, rest_through: bool = True) -> None:
        self.prices, self.numbers = prices, numbers_of(player, PICKING)
        self.strings = instrument.strings
        self.rest_through = rest_through
        spacing = instrument.pick_spacing_mm
        self.clear: Bools = np.array([[player.clears(lean, d, spacing) for d in (-1, 1)] for lean in player.leans])
        """[leans, 2]: whether an up (column 0) or a down (column 1) ends clear"""
        self._moves: Memo[PickMoves] = Memo(_MOST_MB)

    def moves(self, a: PickPositions, b: PickPositions) -> PickMoves:
        """Every move from a place of `a` to a struck place of `b`."""
        key = (a.key, b.key)
        return self._moves.get(
            key, lambda: self._worked_out(a, b), lambda moves: 16.0 * moves.kind.nbytes + _OBJECT_BYTES
        )

    def facts(self, a: PickPositions, b: PickPositions) -> StrokeFacts:
        """What the price list reads of these moves."""
        return StrokeFacts(a, b, self)

    def _worked_out(self, a: PickPositions, b: PickPositions) -> PickMoves:
        facts = self.facts(a, b)
        shape = facts.kind.shape
        free = np.broadcast_to((a.sign == 0)[:, :, None, None], shape)
        return PickMoves(
            kind=np.where(free, REST, facts.kind),
            hops=np.where(free, 0, facts.hops),
            buried=facts.buried & ~free,
            equal=facts.equal & ~free,
            time_ms=np.where(free, 0.0, self.prices.total(STROKE, TIME, facts)),
        )


def hop_bits(hops: NDArray[np.int64] | int) -> Floats:
    """Bits [...] of passing over so many strings [...]: Fitts' law in Shannon's form, distance 2 hops to a width of 1."""
    return np.asarray(np.log2(1.0 + 2.0 * np.asarray(hops, float)))


def allowed_table(kinds: frozenset[str]) -> Bools:
    """[kinds]: whether a school permits each kind code; the first stroke of all is always permitted."""
    table = np.zeros(len(KINDS), dtype=bool)
    table[[KIND_CODE[k] for k in kinds]] = True
    table[[PLUCK, LEGATO, REST]] = True
    return table

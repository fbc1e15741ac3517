"""Where the pick can be after each event, and what every move between two such places takes.

Positions across the strings count in string spacings, 0 on the lowest string, growing towards string 1. A stroke in
direction d (+1 down, towards string 1; -1 up) starts half a spacing before its first string and ends half a spacing
past its last. The hops of a move are the strings passed over between one stroke's end and the next one's start.

Surcharge: b log2(1 + 2 hops), Fitts' law in Shannon's form (Fitts 1954; MacKenzie 1992) with our own estimated b.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

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

    def phased(self, parity: int | None, phase_ms: float) -> Floats:
        """Times with the price of a stroke against the swing; `parity` is n % 2, None where n does not count."""
        if parity is None:
            return self.time_ms
        against = (self.equal if parity else ~self.equal) & ~self.unphased
        return np.asarray(self.time_ms + np.where(against, phase_ms, 0.0))


class Picking:
    """The picking hand of one player on one instrument; moves that recur are worked out once."""

    def __init__(self, player: Player, instrument: Instrument, rest_through: bool = True) -> None:
        self.player = player
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

    def _worked_out(self, a: PickPositions, b: PickPositions) -> PickMoves:
        hand = self.player.picking

        def of_a(array: Ints) -> Ints:
            return array[:, :, None, None]

        def of_b(array: Ints) -> Ints:
            return array[None, None, :, :]

        da, db = of_a(a.sign), of_b(b.sign)
        first = da == 0
        hops = np.abs(2 * of_b(b.begin) - db - 2 * of_a(a.end) - da) // 2
        step = of_b(b.begin) - of_a(a.end)
        touching = (of_a(a.low) <= of_b(b.high)) & (of_b(b.low) <= of_a(a.high))
        equal = np.broadcast_to(da == db, hops.shape)
        along = step * da > 0
        next_door = np.abs(step) == 1
        kind = np.where(
            touching,
            np.where(equal, REPEAT, SAME),
            np.where(
                equal,
                np.where(along, np.where(next_door, CARRY, THROUGH), BACK),
                np.where(along, np.where(next_door, OUTSIDE, SKIP_OUTSIDE), np.where(next_door, INSIDE, SKIP_INSIDE)),
            ),
        )
        lean_a, lean_b = of_a(a.lean), of_b(b.lean)
        ends_clear = self.clear[lean_a, (da + 1) // 2]
        surcharge = hop_ms(hops, hand.hop_bit_ms)
        beyond_one = np.maximum(0.0, surcharge - hop_ms(1, hand.hop_bit_ms))
        buried = (hops > 0) & PAYS_LIFT[kind] & ~ends_clear
        outermost = np.where(db > 0, self.strings - 1, 0)
        carry = hand.carry_ms + np.where(ends_clear, hand.carry_from_clear_ms, 0.0)
        carry = carry + np.where(of_b(b.end) == outermost, hand.turn_outer_ms, 0.0)
        carry = carry + (0.0 if self.rest_through else hand.separate_ms)
        swing = hand.alternate_ms + surcharge
        time = np.select(
            [
                kind == CARRY,
                kind == THROUGH,
                (kind == REPEAT) | (kind == BACK),
                (kind == INSIDE) | (kind == SKIP_INSIDE),
            ],
            [carry, hand.carry_ms + surcharge, hand.repeat_ms + beyond_one, swing * hand.inside_factor],
            swing,
        )
        time = time + np.where(buried, hand.lift_out_ms, 0.0) + np.where(lean_a != lean_b, hand.lean_change_ms, 0.0)
        free = np.broadcast_to(first, hops.shape)
        return PickMoves(
            kind=np.where(free, REST, kind),
            hops=np.where(free, 0, hops),
            buried=buried & ~free,
            equal=equal & ~free,
            time_ms=np.where(free, 0.0, time),
        )


def hop_ms(hops: NDArray[np.int64] | int, bit_ms: float) -> Floats:
    """Surcharge for passing over strings: Fitts' law in Shannon's form, distance 2 hops to a width of 1."""
    return np.asarray(bit_ms * np.log2(1.0 + 2.0 * np.asarray(hops, float)))


def allowed_table(kinds: frozenset[str]) -> Bools:
    """For each kind code, whether a school permits it; the first stroke of all is always permitted."""
    table = np.zeros(len(KINDS), dtype=bool)
    table[[KIND_CODE[k] for k in kinds]] = True
    table[[PLUCK, LEGATO, REST]] = True
    return table

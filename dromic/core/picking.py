"""Where the pick can be after each event, and what every move between two such places takes.

Positions across the strings count in string spacings, 0 on the lowest string, growing towards string 1. A stroke in
direction d (+1 down, towards string 1; -1 up) starts half a spacing before its first string and ends half a spacing
past its last. The hops of a move are the strings passed over between one stroke's end and the next one's start.

Surcharge: b log2(1 + 2 hops), Fitts' law in Shannon's form (Fitts 1954; MacKenzie 1992) with our own estimated b.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dromic.core.fretting import Floats, Ints
from dromic.core.instrument import Instrument
from dromic.core.player import Player
from dromic.core.school import KIND_CODE, KINDS

Bools = NDArray[np.bool_]
SIGN = {"down": 1, "up": -1}
NAME = {1: "down", -1: "up", 0: "none"}
SAME, REPEAT, CARRY, OUTSIDE, INSIDE, SKIP_OUTSIDE, SKIP_INSIDE, THROUGH, BACK, PLUCK, LEGATO, REST = range(len(KINDS))
NON_TRIVIAL = np.array([k not in ("same-string", "carry-through", "legato", "rest") for k in KINDS])
PAYS_LIFT = np.array([k not in ("repeat", "carry-through", "back") for k in KINDS])
UNPHASED = np.array([k in ("carry-through", "skip-through") for k in KINDS])


@dataclass(frozen=True, eq=False)
class RightNodes:
    """The pick after an event, [G, R] over groups of strings and ways of striking them.

    `sign` is 0 where nothing has been picked yet. `begin` and `end` are the first and last string struck, `low` and
    `high` the span touched, `lean` an index into the player's leans, `gaps` the strings crossed without sounding.
    """

    sign: Ints
    begin: Ints
    end: Ints
    low: Ints
    high: Ints
    lean: Ints
    gaps: Ints

    def remembered(self) -> RightNodes:
        """The same places carried through an event the pick does not sound: one group, every place a node."""
        return RightNodes(*(getattr(self, f.name).reshape(1, -1) for f in fields(self)))


def _struck(groups: tuple[tuple[int, ...], ...], signs: tuple[int, ...], leans: int, strings: int) -> RightNodes:
    """The nodes of an event the pick strikes: every allowed stroke with every lean, for each group of strings."""
    first = np.array([[strings - max(g)] for g in groups])
    last = np.array([[strings - min(g)] for g in groups])
    size = np.array([[len(g)] for g in groups])
    sign = np.array([[d for d in signs for _ in range(leans)]])
    lean = np.array([[n for _ in signs for n in range(leans)]])
    columns = (
        sign,
        np.where(sign > 0, first, last),
        np.where(sign > 0, last, first),
        first,
        last,
        lean,
        last - first + 1 - size,
    )
    shape = (len(groups), sign.shape[1])
    return RightNodes(*(np.broadcast_to(c, shape) for c in columns))


class Picking:
    """The picking hand of one player on one instrument; places and moves that recur are worked out once."""

    def __init__(self, player: Player, instrument: Instrument) -> None:
        self.player = player
        self.strings = instrument.strings
        spacing = instrument.pick_spacing_mm
        self.clear: Bools = np.array([[player.clears(lean, d, spacing) for d in (-1, 1)] for lean in player.leans])
        """[leans, 2]: whether an up (column 0) or a down (column 1) ends clear"""
        zero = np.zeros((1, 1), dtype=np.int64)
        self.nothing = RightNodes(zero, zero, zero, zero, zero, zero, zero)
        """the pick before the first stroke"""
        self._struck: dict[tuple[tuple[tuple[int, ...], ...], tuple[int, ...]], RightNodes] = {}
        self._remembered: dict[int, tuple[RightNodes, RightNodes]] = {}
        self._moves: dict[tuple[int, int], tuple[RightNodes, RightNodes, PickMoves]] = {}

    def struck(self, groups: tuple[tuple[int, ...], ...], signs: tuple[int, ...]) -> RightNodes:
        """Where the pick may be after striking one of the groups of strings with one of the strokes."""
        key = (groups, signs)
        if key not in self._struck:
            self._struck[key] = _struck(groups, signs, len(self.player.leans), self.strings)
        return self._struck[key]

    def remembered(self, nodes: RightNodes) -> RightNodes:
        """Where the pick still is after an event it did not sound."""
        if id(nodes) not in self._remembered:
            self._remembered[id(nodes)] = (nodes, nodes if len(nodes.sign) == 1 else nodes.remembered())
        return self._remembered[id(nodes)][1]

    def moves(self, a: RightNodes, b: RightNodes) -> PickMoves:
        """Every move from a node of `a` to a struck node of `b`."""
        key = (id(a), id(b))
        if key not in self._moves:
            self._moves[key] = (a, b, _pick_moves(a, b, self.player, self.clear, self.strings))
        return self._moves[key][2]


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
        return np.asarray(NON_TRIVIAL[self.kind])

    def phased(self, parity: int | None, phase_ms: float) -> Floats:
        """Times with the price of a stroke against the swing; `parity` is n % 2, None where n does not count."""
        if parity is None:
            return self.time_ms
        against = (self.equal if parity else ~self.equal) & ~UNPHASED[self.kind]
        return np.asarray(self.time_ms + np.where(against, phase_ms, 0.0))


def hop_ms(hops: NDArray[np.int64] | int, bit_ms: float) -> Floats:
    """Surcharge for passing over strings: Fitts' law in Shannon's form, distance 2 hops to a width of 1."""
    return np.asarray(bit_ms * np.log2(1.0 + 2.0 * np.asarray(hops, float)))


def _pick_moves(a: RightNodes, b: RightNodes, player: Player, clear: Bools, strings: int) -> PickMoves:
    """Every move of the pick from a node of `a` to a struck node of `b`."""
    hand = player.picking

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
    ends_clear = clear[lean_a, (da + 1) // 2]
    surcharge = hop_ms(hops, hand.hop_bit_ms)
    beyond_one = np.maximum(0.0, surcharge - hop_ms(1, hand.hop_bit_ms))
    pays_lift = (hops > 0) & PAYS_LIFT[kind]
    buried = pays_lift & ~ends_clear
    outermost = np.where(db > 0, strings - 1, 0)
    carry = hand.carry_ms + np.where(ends_clear, hand.carry_from_clear_ms, 0.0)
    carry = carry + np.where(of_b(b.end) == outermost, hand.turn_outer_ms, 0.0)
    swing = hand.alternate_ms + surcharge
    time = np.select(
        [kind == CARRY, kind == THROUGH, (kind == REPEAT) | (kind == BACK), (kind == INSIDE) | (kind == SKIP_INSIDE)],
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


def allowed_table(kinds: frozenset[str]) -> Bools:
    """For each kind code, whether a school permits it; the first stroke of all is always permitted."""
    table = np.zeros(len(KINDS), dtype=bool)
    table[[KIND_CODE[k] for k in kinds]] = True
    table[[PLUCK, LEGATO, REST]] = True
    return table

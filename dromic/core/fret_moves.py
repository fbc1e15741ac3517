"""Moves of the fretting hand between two node sets: kind, time needed and strain, all pairs at once.

Fingers move side by side, so a move takes as long as its slowest part; a shift carries the fingers with it. A move
that the asked-for attack rules out (a pull-off to a higher fret) costs IMPOSSIBLE, which the planner looks for.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from dromic.core.fretting import Floats, Fretting, Ints, LeftNodes
from dromic.core.instrument import Instrument
from dromic.core.phrase import HAMMER, PULL, SLIDE
from dromic.core.player import FrettingHand
from dromic.core.search import columns

FRET_KINDS = ("hold", "finger", "roll", "shift", "stretch", "jump", "open", "slide", "barre")
HOLD, FINGER, ROLL, SHIFT, STRETCH, JUMP, OPEN, SLIDE_KIND, BARRE = range(len(FRET_KINDS))
NON_TRIVIAL = np.array([k in ("shift", "stretch", "jump", "barre") for k in FRET_KINDS])
IMPOSSIBLE = 1000.0
_WEAK_AT_MOST = 2.0
_MOST_MEMOS = 1024


def load_price(load: Floats, dial: float, over_price: float) -> Floats:
    """Objective of loads: a power of each, steep past 1."""
    powered = load * load if dial == 2.0 else load**dial
    return np.asarray(powered + over_price * np.maximum(0.0, load - 1.0))


@dataclass(frozen=True, eq=False)
class FretMoves:
    """[K', K] arrays: kind code, time needed in ms, strain, and strain that grows with speed (per finger_ms/gap)."""

    kind: NDArray[np.int8]
    time_ms: Floats
    strain: Floats
    speed_strain: Floats
    target: Ints
    """[K]: the group of every target node"""
    groups: int

    @cached_property
    def non_trivial(self) -> NDArray[np.bool_]:
        return np.asarray(NON_TRIVIAL[self.kind])

    @cached_property
    def columns(self) -> Ints:
        """The search's column of each pair of nodes."""
        return columns(self.non_trivial, self.target, self.groups)

    def cost(self, available_ms: Floats, finger_ms: float, dial: float, over_price: float) -> Floats:
        """Objective of each move for the time available to each source node ([K'])."""
        speed = np.minimum(_WEAK_AT_MOST, finger_ms / available_ms)[:, None]
        price = load_price(self.time_ms / available_ms[:, None], dial, over_price)
        return np.asarray(price + self.strain + self.speed_strain * speed)


class FrettingMoves:
    """The moves of one hand on one instrument; moves between the same two node sets are worked out once."""

    def __init__(self, instrument: Instrument, hand: FrettingHand) -> None:
        self.fretting = Fretting(instrument, hand)
        self._memo: dict[tuple[int, int, str], tuple[LeftNodes, LeftNodes, FretMoves]] = {}

    def between(self, a: LeftNodes, b: LeftNodes, attack: str) -> FretMoves:
        """Every move from a node of `a` to a node of `b`, which is sounded by `attack`."""
        bound = attack if attack in (HAMMER, PULL, SLIDE) else ""
        first, second = a.whole or a, b.whole or b
        key = (id(first), id(second), bound)
        found = self._memo.get(key)
        if found is None:
            if len(self._memo) >= _MOST_MEMOS:
                self._memo.clear()
            moves = fret_moves(first, second, bound, self.fretting.hand, self.fretting.mm)
            found = self._memo[key] = (first, second, moves)
        if first is a and second is b:
            return found[2]
        at = np.ix_(a.rows, b.rows)
        whole = found[2]
        return FretMoves(
            whole.kind[at], whole.time_ms[at], whole.strain[at], whole.speed_strain[at], b.group, len(b.groups)
        )


@lru_cache(maxsize=4)
def fretting_moves(instrument: Instrument, hand: FrettingHand) -> FrettingMoves:
    """The moves of a hand on an instrument, kept from plan to plan."""
    return FrettingMoves(instrument, hand)


@dataclass(frozen=True, eq=False)
class _Finger:
    """One finger of a set of nodes: its number (0 where it is not used), fret and the strings it covers, [K] each."""

    finger: Ints
    fret: Ints
    low: Ints
    high: Ints


def _fingers(nodes: LeftNodes, other_is_lone: bool) -> list[_Finger]:
    """The fingers to compare: the one in use where no node on either side uses two, else each in turn."""
    if nodes.lone and other_is_lone:
        return [_Finger(nodes.single, nodes.top_fret, nodes.low.max(axis=1), nodes.high.max(axis=1))]
    return [
        _Finger((nodes.fret[:, g] > 0) * (g + 1), nodes.fret[:, g], nodes.low[:, g], nodes.high[:, g]) for g in range(4)
    ]


def fret_moves(a: LeftNodes, b: LeftNodes, attack: str, hand: FrettingHand, mm: Floats) -> FretMoves:
    """Every move from a node of `a` to a node of `b`; `mm` is the distance of each fret from the nut."""
    shape = (len(a), len(b))
    known = a.position[:, None] > 0
    shifted = known & (a.position[:, None] != b.position[None, :]) & ~b.idle[None, :]
    shift_mm = np.abs(mm[a.position][:, None] - mm[b.position][None, :])
    time = np.where(shifted, hand.shift_ms + hand.shift_ms_per_mm * shift_mm, 0.0)
    strain = np.where(shifted, hand.shift_price + hand.shift_price_per_mm * shift_mm, 0.0) + b.strain[None, :]
    fresh, roll, barre, jump = (np.zeros(shape, dtype=bool) for _ in range(4))
    for one, other in zip(_fingers(a, b.lone), _fingers(b, a.lone), strict=True):
        used = other.finger > 0
        same = (one.finger[:, None] == other.finger[None, :]) & used[None, :]
        same_fret = same & (one.fret[:, None] == other.fret[None, :])
        covered = (one.low[:, None] <= other.low[None, :]) & (other.high[None, :] <= one.high[:, None])
        rocked = same_fret & ~covered
        near = np.maximum(one.low[:, None] - other.high[None, :], other.low[None, :] - one.high[:, None]) <= 1
        rolled = rocked & near
        roll |= rolled
        barre |= rocked & ~near
        elsewhere = same & ~same_fret
        jump |= elsewhere & ~shifted
        fresh |= (used[None, :] & ~same) | (elsewhere & shifted)
        strain += np.where(rolled, np.array([0.0, *hand.roll_prices])[other.finger][None, :], 0.0)
    for which, needed in (
        (fresh, hand.finger_ms),
        (roll, hand.roll_ms),
        (barre, hand.barre_ms),
        (jump, hand.jump_ms),
    ):
        np.maximum(time, needed, out=time, where=which)
    strain += np.where(jump, hand.jump_price, 0.0) + np.where(barre, hand.barre_price, 0.0)
    stretched = (b.stretch_mm > hand.stretch_from_mm)[None, :]
    kind = np.full(shape, HOLD, dtype=np.int8)
    kind[fresh] = FINGER
    kind[fresh & stretched] = STRETCH
    kind[(fresh & b.flat[None, :]) | barre] = BARRE
    kind[roll] = ROLL
    kind[jump] = JUMP
    kind[shifted] = SHIFT
    kind[np.broadcast_to(b.idle[None, :], shape)] = OPEN
    ga, gb = a.single[:, None], b.single[None, :]
    fret_a, fret_b = a.top_fret[:, None], b.top_fret[None, :]
    both = (ga > 0) & (gb > 0) & ~shifted
    strain += np.where(both & ((gb - ga) * (fret_b - fret_a) < 0), hand.cross_price, 0.0)
    pair = np.where(both & (ga != gb), ga * gb, 0)
    speed = np.where(pair == 12, hand.weak_34_price, 0.0) + np.where(pair == 8, hand.weak_24_price, 0.0)
    if attack in (HAMMER, PULL, SLIDE):
        _bind(a, b, attack, hand, mm, kind, time, strain)
    if b.any_idle:
        # a node that only remembers must carry on the position it comes from (its age is the planner's matter)
        strain += np.where(b.idle[None, :] & (a.position[:, None] != b.position[None, :]), np.inf, 0.0)
    return FretMoves(kind, time, strain, speed, b.group, len(b.groups))


def _bind(
    a: LeftNodes,
    b: LeftNodes,
    attack: str,
    hand: FrettingHand,
    mm: Floats,
    kind: NDArray[np.int8],
    time: Floats,
    strain: Floats,
) -> None:
    """Hammer, pull and slide need one string and ordered frets; a slide keeps its finger. Changes the arrays given."""
    (string_a, sound_a), (string_b, sound_b) = a.sounding, b.sounding
    one_string = (string_a[:, None] == string_b[None, :]) & (string_a[:, None] > 0)
    rise = sound_b[None, :] - sound_a[:, None]
    ga, gb = a.single[:, None], b.single[None, :]
    still = (a.position[:, None] == b.position[None, :]) | (a.position[:, None] == 0) | b.idle[None, :]
    if attack == HAMMER:
        possible = one_string & (rise > 0) & still & (ga != gb) & (gb > 0)
    elif attack == PULL:
        tapped = a.idle[:, None] & (sound_a[:, None] > 0)
        possible = one_string & (rise < 0) & still & ((gb < ga) | (gb == 0) | tapped)
    else:
        possible = one_string & (rise != 0) & (ga == gb) & (gb > 0)
        slide_ms = hand.slide_ms + hand.slide_ms_per_mm * np.abs(mm[sound_b][None, :] - mm[sound_a][:, None])
        np.copyto(time, slide_ms, where=possible)
        np.copyto(strain, np.broadcast_to(b.strain[None, :], strain.shape), where=possible)
        kind[possible] = SLIDE_KIND
    strain += np.where(possible, 0.0, IMPOSSIBLE)

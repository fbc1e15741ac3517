"""Moves of the fretting hand between two node sets: kind, time needed and strain, all pairs at once.

Fingers move side by side, so a move takes as long as its slowest part; a shift carries the fingers with it. A move
that the asked-for attack rules out (a pull-off to a higher fret) costs IMPOSSIBLE, which the planner looks for.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.fretting_nodes import FrettingNodes
from dromic.core.hands.fretting_shapes import Fretting
from dromic.core.hands.hand_geometry import THUMB, HandGeometry
from dromic.core.hands.load_cost import load_price
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import FrettingHand, Judging
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.memo import Memo
from dromic.core.values.vocabulary import HAMMER, HAMMER_NEW, PULL, SLIDE, SLUR

FRET_KINDS = ("hold", "finger", "roll", "shift", "stretch", "jump", "open", "slide", "barre")
HOLD, FINGER, ROLL, SHIFT, STRETCH, JUMP, OPEN, SLIDE_KIND, BARRE = range(len(FRET_KINDS))
NON_TRIVIAL = np.array([k in ("shift", "stretch", "jump", "barre") for k in FRET_KINDS])
IMPOSSIBLE = 1000.0
STAY = "stay"
"""bound for a struck note in a school of one stroke a string: it may not follow another fret of its string"""
SILENT = "silent"
"""bound for a hammer from nowhere that the planner chooses: its string may not have sounded just before"""
BOUND = (HAMMER, PULL, SLIDE, SLUR, HAMMER_NEW, SILENT, STAY)
_WEAK_AT_MOST = 2.0
_MOST_MB = 48.0
"""of moves kept for one hand on one instrument"""
_MOST_COSTS = 4
"""of one set of moves, for so many times available"""
_OBJECT_BYTES = 1000
"""what the objects around small arrays take, roughly"""


def columns(classes: Ints, target: Ints, groups: int, of: int) -> Ints:
    """The `column` of a leg, [K', K], from the class of each pair of nodes (of so many) and the target nodes' groups."""
    count = len(classes)
    return np.asarray(of * groups * np.arange(count)[:, None] + groups * classes + target[None, :])


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
        """[K', K]: whether a finger or the hand must move."""
        return np.asarray(NON_TRIVIAL[self.kind])

    @cached_property
    def by_group(self) -> Ints:
        """The search's column of each pair of nodes where the pick strikes, with and without a knot."""
        return columns(self.non_trivial.astype(np.int64), self.target, self.groups, 2)

    @cached_property
    def by_group_alone(self) -> Ints:
        """The same where no pick move tells knots apart."""
        return columns(np.zeros_like(self.kind, dtype=np.int64), self.target, self.groups, 1)

    @cached_property
    def in_one(self) -> Ints:
        """The same where the strings of the event do not matter to the picking hand."""
        return columns(np.zeros_like(self.kind, dtype=np.int64), np.zeros_like(self.target), 1, 1)

    def loads(self, available_ms: Floats, busy_ms: float) -> Floats:
        """Load of each move for the time available to each source node ([K']), of which a bend takes `busy_ms`."""
        time = self.time_ms if not busy_ms else np.where(self.time_ms > 0, self.time_ms + busy_ms, 0.0)
        return np.asarray(time / available_ms[:, None])

    @cached_property
    def _costs(self) -> Memo[Floats]:
        return Memo(self.time_ms.nbytes * _MOST_COSTS / 1e6)

    @property
    def weight(self) -> float:
        """Bytes it comes to take with all that is worked out from it."""
        return 64.0 * self.kind.size + _OBJECT_BYTES

    def cost(self, available_ms: Floats, hand: FrettingHand, judging: Judging, busy_ms: float = 0.0) -> Floats:
        """Objective of each move, strain included; not to be changed by the caller."""
        key = (available_ms.tobytes(), busy_ms, judging)
        return self._costs.get(
            key, lambda: self._cost(available_ms, hand, judging, busy_ms), lambda costs: costs.nbytes
        )

    def _cost(self, available_ms: Floats, hand: FrettingHand, judging: Judging, busy_ms: float) -> Floats:
        speed = hurry(available_ms, hand)[:, None]
        price = load_price(self.loads(available_ms, busy_ms), judging.dial, judging.over_price)
        return np.asarray(judging.fretting_weight * (price + self.strain + self.speed_strain * speed))


def hurry(available_ms: Floats, hand: FrettingHand) -> Floats:
    """How much of their price weak pairs of fingers cost by the time there is: the share a ready finger takes of it, up to a limit."""
    return np.minimum(_WEAK_AT_MOST, hand.finger_ms / available_ms)


class FrettingMoves:
    """The moves of one hand on one instrument; moves between the same two node sets are worked out once."""

    def __init__(
        self, instrument: Instrument, hand: FrettingHand, same_fret: str, thumb: bool, bass_hand: str = "each"
    ) -> None:
        self.fretting = Fretting(instrument, hand, thumb, bass_hand)
        self.same_fret = same_fret
        self._memo: Memo[tuple[FrettingNodes, FrettingNodes, FretMoves]] = Memo(_MOST_MB)

    def between(self, a: FrettingNodes, b: FrettingNodes, attack: str) -> FretMoves:
        """Every move from a node of `a` to a node of `b`, which is sounded by `attack`."""
        bound = attack if attack in BOUND else ""
        first, second = a.whole or a, b.whole or b
        key = (id(first), id(second), bound)
        geometry = self.fretting.geometry

        def worked_out() -> tuple[FrettingNodes, FrettingNodes, FretMoves]:
            if bound:
                return first, second, bind(self.between(first, second, ""), first, second, bound, geometry)
            return first, second, fret_moves(first, second, geometry, self.same_fret)

        found = self._memo.get(key, worked_out, lambda made: made[2].weight)
        if first is a and second is b:
            return found[2]
        at = np.ix_(a.rows, b.rows)
        whole = found[2]
        return FretMoves(
            whole.kind[at], whole.time_ms[at], whole.strain[at], whole.speed_strain[at], b.group, len(b.groups)
        )


@lru_cache(maxsize=4)
def fretting_moves(
    instrument: Instrument, hand: FrettingHand, same_fret: str, thumb: bool, bass_hand: str = "each"
) -> FrettingMoves:
    """The moves of a hand on an instrument, kept from plan to plan."""
    return FrettingMoves(instrument, hand, same_fret, thumb, bass_hand)


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


def fret_moves(a: FrettingNodes, b: FrettingNodes, geometry: HandGeometry, one_fret: str = "either") -> FretMoves:
    """Every move from a node of `a` to a node of `b`, however it is sounded."""
    hand, mm = geometry.hand, geometry.mm
    shape = (len(a), len(b))
    known = a.position[:, None] > 0
    shifted = known & (a.position[:, None] != b.position[None, :]) & ~b.idle[None, :]
    shift_mm = np.abs(mm[a.position][:, None] - mm[b.position][None, :])
    time = np.where(shifted, hand.shift_ms + hand.shift_ms_per_mm * shift_mm, 0.0)
    aim = np.where(shifted, hand.shift_price + hand.shift_price_per_mm * shift_mm, 0.0)
    strain = np.where(_guided(a, b), hand.guide_share * aim, aim) + b.strain[None, :]
    extra = hand.roll_habit_price if one_fret == "separate" else 0.0
    roll_prices = np.array([0.0, *(p + extra for p in hand.roll_prices), hand.thumb_price])
    barre_prices = np.array([0.0, *hand.barre_prices, hand.thumb_price])
    fresh, roll, barre, jump = (np.zeros(shape, dtype=bool) for _ in range(4))
    # to or from a chord a finger goes where it is wanted next, and what it travels is what it costs
    chordal = a.chord[:, None] & b.chord[None, :]
    some_chordal = bool(chordal.any())
    for one, other in zip(_fingers(a, b.lone), _fingers(b, a.lone), strict=True):
        used = other.finger > 0
        same = (one.finger[:, None] == other.finger[None, :]) & used[None, :]
        same_fret = same & (one.fret[:, None] == other.fret[None, :])
        covered = (one.low[:, None] <= other.low[None, :]) & (other.high[None, :] <= one.high[:, None])
        rocked = same_fret & ~covered
        if some_chordal:
            sent = same & chordal & (~same_fret | rocked)
            across = np.abs(one.high[:, None] - other.high[None, :]) * hand.string_mm
            travel = np.abs(mm[one.fret][:, None] - mm[other.fret][None, :]) * ~shifted + across
            np.maximum(time, hand.finger_ms + hand.travel_ms_per_mm * travel, out=time, where=sent)
            strain += np.where(sent, hand.travel_price_per_mm * travel, 0.0)
            fresh |= sent
            same, rocked = same & ~sent, rocked & ~sent
            same_fret = same_fret & ~sent
            other_fresh = used[None, :] & ~same & ~sent
            strain += np.where(other_fresh & chordal, hand.arrive_price, 0.0)
        else:
            other_fresh = used[None, :] & ~same
        elsewhere = same & ~same_fret
        jump |= elsewhere & ~shifted
        fresh |= other_fresh | (elsewhere & shifted)
        if rocked.any():
            near = np.maximum(one.low[:, None] - other.high[None, :], other.low[None, :] - one.high[:, None]) <= 1
            rolled, laid = rocked & near, rocked & ~near
            roll |= rolled
            barre |= laid
            strain += np.where(rolled, roll_prices[other.finger][None, :], 0.0)
            strain += np.where(laid, barre_prices[other.finger][None, :], 0.0)
    for which, needed in (
        (fresh, hand.finger_ms),
        (roll, hand.roll_ms),
        (barre, hand.barre_ms),
        (jump, hand.jump_ms),
    ):
        if which.any():
            np.maximum(time, needed, out=time, where=which)
    strain += np.where(jump, hand.jump_price, 0.0)
    stretched = (b.stretch_mm > hand.stretch_from_mm)[None, :]
    kind = np.full(shape, HOLD, dtype=np.int8)
    kind[fresh] = FINGER
    kind[fresh & stretched] = STRETCH
    kind[(fresh & b.flat[None, :]) | barre] = BARRE
    kind[roll] = ROLL
    kind[jump] = JUMP
    kind[shifted] = SHIFT
    kind[np.broadcast_to(b.idle[None, :], shape)] = OPEN
    speed = np.zeros(shape)
    at = np.nonzero(
        ((a.single > 0) & (a.single < THUMB))[:, None] & ((b.single > 0) & (b.single < THUMB))[None, :] & ~shifted
    )
    together, speed[at] = _finger_to_finger(a, b, at, geometry, one_fret)
    strain[at] += together
    time[at] = np.where(_planted(a, b, at), hand.planted_share * hand.finger_ms, time[at])
    if b.holding is not None:
        strain += np.where(_changed_while_held(a, b), np.inf, 0.0)
    if some_chordal:
        strain += hand.reshape_price * _refingered(a, b)
    if b.any_idle:
        # a node that only remembers must carry on the position it comes from (its age is the planner's matter)
        strain += np.where(b.idle[None, :] & (a.position[:, None] != b.position[None, :]), np.inf, 0.0)
    return FretMoves(kind, time, strain, speed, b.group, len(b.groups))


def _finger_to_finger(
    a: FrettingNodes, b: FrettingNodes, at: tuple[NDArray[np.intp], ...], geometry: HandGeometry, one_fret: str
) -> tuple[Floats, Floats]:
    """From one finger to one while the hand stays, for the pairs of nodes at `at`: what crossing, spreading and changing
    about on a fret cost, and what a weak pair costs at speed."""
    hand = geometry.hand
    ga, gb = a.single[at[0]], b.single[at[1]]
    fret_a, fret_b = a.top_fret[at[0]], b.top_fret[at[1]]
    string_a, string_b = a.low.max(axis=1)[at[0]], b.low.max(axis=1)[at[1]]
    one = fret_a == fret_b
    up = (gb - ga) * (string_b - string_a) > 0
    price = geometry.spread_prices[ga, fret_a, gb, fret_b]
    price = price + hand.cross_price * ((gb - ga) * (fret_b - fret_a) < 0) + hand.order_price * (one & up)
    if one_fret == "roll":
        price = price + hand.roll_habit_price * ((ga != gb) & one & (np.abs(string_a - string_b) == 1))
    pair = ga * gb * (ga != gb)
    return price, hand.weak_34_price * (pair == 12) + hand.weak_24_price * (pair == 8)


def _planted(a: FrettingNodes, b: FrettingNodes, at: tuple[NDArray[np.intp], ...]) -> NDArray[np.bool_]:
    """For the pairs of nodes at `at`: whether the move goes back on a string to a lower finger, which can be down there before
    the higher one lifts."""
    lower = (b.single[at[1]] < a.single[at[0]]) & (b.top_fret[at[1]] < a.top_fret[at[0]])
    return np.asarray(lower & (a.low.max(axis=1)[at[0]] == b.low.max(axis=1)[at[1]]))


def _guided(a: FrettingNodes, b: FrettingNodes) -> NDArray[np.bool_]:
    """[K', K]: whether a finger stays on a string of its own, to guide a shift along it."""
    if a.lone and b.lone:
        same = (a.single[:, None] == b.single[None, :]) & (a.single > 0)[:, None]
        return np.asarray(same & (a.low.max(axis=1)[:, None] == b.low.max(axis=1)[None, :]))
    down = (a.fret[:, None, :] > 0) & (b.fret[None, :, :] > 0)
    along = (a.low[:, None, :] <= b.high[None, :, :]) & (b.low[None, :, :] <= a.high[:, None, :])
    return np.asarray((down & along).any(axis=2))


def _refingered(a: FrettingNodes, b: FrettingNodes) -> Ints:
    """[K', K]: how many fingers change where two chords are the same figure at another place."""
    same = (a.figure[0][:, None] == b.figure[0][None, :]) & (a.figure[0] != 0)[:, None]
    if not same.any():
        return np.zeros(same.shape, dtype=np.int64)
    width = min(a.fingers.shape[1], b.fingers.shape[1])
    changed = (a.fingers[:, None, :width] != b.fingers[None, :, :width]).sum(axis=2)
    return np.asarray(np.where(same, changed, 0))


def _changed_while_held(a: FrettingNodes, b: FrettingNodes) -> NDArray[np.bool_]:
    """[K', K]: whether a note that goes on sounding would change its finger."""
    assert b.holding is not None
    (fret_a, finger_a), (fret_b, finger_b) = a.pressed, b.holding
    same_place = (fret_a[:, None, :] == fret_b[None, :, :]) & (fret_b > 0)[None]
    return np.asarray((same_place & (finger_a[:, None, :] != finger_b[None, :, :])).any(axis=2))


def bind(moves: FretMoves, a: FrettingNodes, b: FrettingNodes, attack: str, geometry: HandGeometry) -> FretMoves:
    """The same moves where the attack that sounds `b` asks something of them."""
    hand, mm = geometry.hand, geometry.mm
    kind, time, strain = moves.kind.copy(), moves.time_ms.copy(), moves.strain.copy()
    (string_a, sound_a), (string_b, sound_b) = a.sounding, b.sounding
    stay = (string_a[:, None] == string_b[None, :]) & (string_a[:, None] > 0)
    if attack in (HAMMER_NEW, SILENT):
        # an open string cannot be hammered: never by choice, and where it is stated only so that it can be told
        nowhere = np.inf if attack == SILENT else IMPOSSIBLE
        strain += np.array([nowhere, *hand.hammer_new_prices, IMPOSSIBLE])[b.lead][None, :]
        if attack == SILENT:
            strain[stay] = np.inf
    elif attack == STAY:
        strain[stay & (sound_a[:, None] != sound_b[None, :])] = np.inf
    else:
        _slur(a, b, attack, stay, hand, mm, kind, time, strain)
    return replace(moves, kind=kind, time_ms=time, strain=strain)


def _slur(
    a: FrettingNodes,
    b: FrettingNodes,
    attack: str,
    one_string: NDArray[np.bool_],
    hand: FrettingHand,
    mm: Floats,
    kind: NDArray[np.int8],
    time: Floats,
    strain: Floats,
) -> None:
    """Hammer, pull and slide need one string and ordered frets; a slide keeps its finger, and may take a whole chord
    along. SLUR is whichever of the three is possible, and nothing else. Changes the arrays given."""
    sound_a, sound_b = a.sounding[1], b.sounding[1]
    rise = sound_b[None, :] - sound_a[:, None]
    ga, gb = a.lead[:, None], b.lead[None, :]
    still = (a.position[:, None] == b.position[None, :]) | (a.position[:, None] == 0) | b.idle[None, :]
    tapped = a.idle[:, None] & (sound_a[:, None] > 0)
    hammer = one_string & (rise > 0) & still & (ga != gb) & (gb > 0)
    pull = one_string & (rise < 0) & still & ((gb < ga) | (gb == 0) | tapped)
    slide = (one_string & (rise != 0) & (ga == gb) & (gb > 0)) | _slid_together(a, b)
    if attack in (HAMMER, PULL) and len(b.shapes[0].notes) > 1:
        hammer = hammer | (_pressed_together(a, b, 1) & still)
        pull = pull | (_pressed_together(a, b, -1) & still)
    possible = {HAMMER: hammer, PULL: pull, SLIDE: slide}.get(attack, hammer | pull | slide)
    if attack in (SLIDE, SLUR):
        top_a, top_b = mm[a.top_fret][:, None], mm[b.top_fret][None, :]
        slide_ms = hand.slide_ms + hand.slide_ms_per_mm * np.abs(top_b - top_a)
        np.copyto(time, slide_ms, where=slide)
        np.copyto(strain, np.broadcast_to(b.strain[None, :] + hand.slide_price, strain.shape), where=slide)
        kind[slide] = SLIDE_KIND
    strain += np.where(possible, 0.0, np.inf if attack == SLUR else IMPOSSIBLE)


def _pressed_together(a: FrettingNodes, b: FrettingNodes, way: int) -> NDArray[np.bool_]:
    """Chords on the same strings, of which some are stopped higher (`way` 1) or lower (-1) by other fingers or by none, and
    the rest go on as they are."""
    (fret_a, finger_a), (fret_b, finger_b) = a.by_string, b.by_string
    here, there = fret_a[:, None, :], fret_b[None, :, :]
    other = finger_a[:, None, :] != finger_b[None, :, :]
    same_strings = np.asarray(((here >= 0) == (there >= 0)).all(axis=2))
    moved = np.asarray((here >= 0) & (way * (there - here) > 0) & other)
    stays = np.asarray((here == there) & ~other)
    return np.asarray(same_strings & (moved | stays).all(axis=2) & moved.any(axis=2))


def _slid_together(a: FrettingNodes, b: FrettingNodes) -> NDArray[np.bool_]:
    """Chords whose every finger stays on its strings and goes the same number of frets."""
    held_a, held_b = a.fret[:, None, :] > 0, b.fret[None, :, :] > 0
    same = (held_a == held_b).all(axis=2) & (a.low[:, None] == b.low[None]).all(axis=2)
    same &= (a.high[:, None] == b.high[None]).all(axis=2)
    rise = np.where(held_b, b.fret[None, :, :] - a.fret[:, None, :], 0)
    least = np.where(held_b, rise, 99).min(axis=2)
    chord = (held_b.sum(axis=2) > 1) | b.flat[None, :]
    most = np.where(held_b, rise, -99).max(axis=2)
    return np.asarray(same & chord & (most == least) & (least != 0))

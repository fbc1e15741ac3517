"""Moves of the fretting hand between two node sets: kind, time needed and strain, all pairs at once.

Fingers move side by side, so a move takes as long as its slowest part; a shift carries the fingers with it. A move
that the asked-for attack rules out (a pull-off to a higher fret) costs IMPOSSIBLE, which the planner looks for.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.fretting_nodes import FrettingNodes
from dromic.core.hands.fretting_shapes import Fretting
from dromic.core.hands.lone_moves import LoneMoves, LookedUp
from dromic.core.hands.move_facts import MoveFacts, SlurFacts
from dromic.core.prices.facts import FIGURE, FRET_STEP, MOVE, SHAPE, SLIDING, SLURRING
from dromic.core.prices.row import HURRIED, PRICE, TIME, PriceList, as_numbers
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import FrettingHand, Player
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.memo import Memo
from dromic.core.values.vocabulary import HAMMER, HAMMER_NEW, PULL, SILENT, SLIDE, SLUR, STAY

FRET_KINDS = ("hold", "finger", "roll", "shift", "stretch", "jump", "open", "slide", "barre")
HOLD, FINGER, ROLL, SHIFT, STRETCH, JUMP, OPEN, SLIDE_KIND, BARRE = range(len(FRET_KINDS))
NON_TRIVIAL = np.array([k in ("shift", "stretch", "jump", "barre") for k in FRET_KINDS])
IMPOSSIBLE = 1000.0
BOUND = (HAMMER, PULL, SLIDE, SLUR, HAMMER_NEW, SILENT, STAY)
"""attacks that ask something of the move to the note they sound"""
_CHOSEN = (SLUR, SILENT, STAY)
"""those that only the planner chooses: what they rule out is never done, and is not told"""
_ON_THEIR_OWN = (HAMMER, PULL, SLUR)
"""attacks that fingers make on a string that sounds, with no stroke to meet"""
_MOST_HURRY = 2.0
"""times the price of a weak pair at most"""
_MOST_MB = 24.0
"""of moves kept for one hand on one instrument"""
_MOST_MB_OF_CELLS = 1.0
"""of usual fingers kept for it"""
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
        """[K', K]: the search's column of each pair of nodes where the pick strikes, with and without a knot."""
        return columns(self.non_trivial.astype(np.int64), self.target, self.groups, 2)

    @cached_property
    def by_group_alone(self) -> Ints:
        """[K', K]: that column where no pick move tells knots apart."""
        return columns(np.zeros_like(self.kind, dtype=np.int64), self.target, self.groups, 1)

    @cached_property
    def in_one(self) -> Ints:
        """[K', K]: that column where the strings of the event do not matter to the picking hand."""
        return columns(np.zeros_like(self.kind, dtype=np.int64), np.zeros_like(self.target), 1, 1)

    def part(self, rows: Ints, b: FrettingNodes) -> FretMoves:
        """Those from some nodes (by number) to some of those it leads to."""
        at = np.ix_(rows, b.rows)
        return FretMoves(
            self.kind[at], self.time_ms[at], self.strain[at], self.speed_strain[at], b.group, len(b.groups)
        )

    def loads(self, available_ms: Floats | float, busy_ms: float) -> Floats:
        """Load of each move for the time available to each source node ([K'], or one for all), of which a bend takes `busy_ms`."""
        time = self.time_ms if not busy_ms else np.where(self.time_ms > 0, self.time_ms + busy_ms, 0.0)
        return np.asarray(time / _by_source(available_ms))

    @cached_property
    def _costs(self) -> Memo[Floats]:
        """The [K', K] costs of the latest times available."""
        return Memo(self.time_ms.nbytes * _MOST_COSTS / 1e6)

    @property
    def weight(self) -> float:
        """Bytes it comes to take with all that is worked out from it."""
        return 64.0 * self.kind.size + _OBJECT_BYTES

    def cost(self, time: TimeFor, prices: PriceList) -> Floats:
        """Objective [K', K] of each move in the time there is for it, strain included; not to be changed by the caller."""
        return self._costs.get(
            (time.key, prices),
            lambda: np.asarray(prices.total(FRET_STEP, PRICE, FretStepFacts.of(self, time))),
            lambda costs: costs.nbytes,
        )


@dataclass(frozen=True, eq=False)
class TimeFor:
    """The time there is for moves of the fretting hand: for each source node ([K'], or one for all, in ms), what bends take of it, and
    the player's numbers by which it is priced, as `constants` and as a mapping."""

    available_ms: Floats | float
    busy_ms: float
    constants: tuple[tuple[str, Any], ...]
    numbers: Mapping[str, Any]

    @property
    def key(self) -> tuple[object, ...]:
        """What equal times share."""
        had = self.available_ms if isinstance(self.available_ms, float) else self.available_ms.tobytes()
        return had, self.busy_ms, self.constants


@dataclass(frozen=True, eq=False)
class FretStepFacts:
    """What the price list reads of moves in the time there is for them, arrays that go together."""

    fret_load: Floats
    hurry: Floats
    strain: Floats
    weak: Floats
    numbers: Mapping[str, Any]

    @classmethod
    def of(cls, moves: FretMoves, time: TimeFor) -> FretStepFacts:
        """Those of moves between sets of nodes."""
        ready = hurry(_by_source(time.available_ms), time.numbers["finger_ms"])
        load = moves.loads(time.available_ms, time.busy_ms)
        return cls(load, ready, moves.strain, moves.speed_strain, time.numbers)

    @classmethod
    def held(cls, strain: Floats, numbers: Mapping[str, Any]) -> FretStepFacts:
        """The facts of shapes that are there from the start, of such strain [K, 1]."""
        none = np.zeros_like(strain)
        return cls(none, none, strain, none, numbers)


def _by_source(available_ms: Floats | float) -> Floats | float:
    """Times of source nodes, [K'] or one for all, as they go together with moves: [K', 1] or one."""
    return available_ms if isinstance(available_ms, float) else available_ms[:, None]


def hurry(available_ms: Floats | float, finger_ms: float) -> Floats:
    """How much of their price weak pairs of fingers cost: the share [...] that a ready finger takes of the time there is [...] in
    ms, up to a limit."""
    return np.minimum(_MOST_HURRY, finger_ms / available_ms)


class FrettingMoves:
    """The moves of one hand on one instrument; moves between the same two node sets are worked out once."""

    def __init__(self, fretting: Fretting) -> None:
        self.fretting = fretting
        self._memo: Memo[tuple[FrettingNodes, FrettingNodes, FretMoves]] = Memo(_MOST_MB)
        self.cells: Memo[list[tuple[int, ...]]] = Memo(_MOST_MB_OF_CELLS)
        """the usual fingers of lines, which are the same at every tempo that is searched at"""
        self.lone = LoneMoves(fretting, self._alone)

    def between(self, a: FrettingNodes, b: FrettingNodes, attack: str) -> FretMoves:
        """Every move from a node of `a` to a node of `b`, which is sounded by `attack`."""
        bound = attack if attack in BOUND else ""

        def made() -> tuple[FrettingNodes, FrettingNodes, FretMoves]:
            known = None if bound else self.lone.between(a, b)
            if known is not None:
                strain = self.with_positions(b.strain[None, :] + known.strain, a, b)
                return a, b, FretMoves(known.kind, known.time_ms, strain, known.speed_strain, b.group, len(b.groups))
            if a.whole or b.whole:
                return a, b, self.between(a.whole or a, b.whole or b, attack).part(a.rows, b)
            if bound:
                return a, b, self._bound(self.between(a, b, ""), a, b, bound)
            return a, b, self.worked_out(a, b)

        return self._memo.get((id(a), id(b), bound), made, lambda found: found[2].weight)[2]

    def facts(self, a: FrettingNodes, b: FrettingNodes, bound: str = "") -> MoveFacts:
        """What the price list reads of moves; `bound` is the attack, where it asks something of them."""
        return MoveFacts(a, b, self.fretting.geometry, self.fretting.numbers, bound not in _ON_THEIR_OWN)

    def slur_facts(self, a: FrettingNodes, b: FrettingNodes, attack: str) -> SlurFacts:
        """What it reads of them where the attack asks something of them."""
        return SlurFacts(a, b, attack, self.fretting.geometry, self.fretting.numbers)

    def worked_out(self, a: FrettingNodes, b: FrettingNodes) -> FretMoves:
        """Every move however it is sounded."""
        prices, facts, shape = self.fretting.prices, self.facts(a, b), (len(a), len(b))
        strain = np.broadcast_to(b.strain[None, :] + prices.total(MOVE, PRICE, facts), shape)
        strain = self.with_positions(np.where(prices.permitted(MOVE, facts), strain, np.inf), a, b)
        speed = np.broadcast_to(prices.total(MOVE, HURRIED, facts), shape)
        time = np.broadcast_to(prices.most(MOVE, TIME, facts), shape)
        return FretMoves(self._kinds(facts), time, strain, speed, b.group, len(b.groups))

    @staticmethod
    def with_positions(strain: Floats, a: FrettingNodes, b: FrettingNodes) -> Floats:
        """Strain [K', K] of moves, infinite where a node that only remembers does not carry on the position it comes from (its age
        is the planner's matter)."""
        if not b.any_idle:
            return strain
        return np.where(b.idle[None, :] & (a.position[:, None] != b.position[None, :]), np.inf, strain)

    def _alone(self, a: FrettingNodes, b: FrettingNodes) -> LookedUp:
        """Moves between single notes, for the table of them."""
        moves = self.worked_out(a, b)
        return LookedUp(moves.kind, moves.time_ms, moves.strain, moves.speed_strain)

    def _kinds(self, facts: MoveFacts) -> NDArray[np.int8]:
        """[K', K]: what each move is called."""
        b, rolled, laid = facts.b, facts.rolled, facts.laid
        stretched = (b.stretch_mm > self.fretting.hand.stretch_from_mm)[None, :]
        kind = np.full((len(facts.a), len(b)), HOLD, dtype=np.int8)
        kind[facts.fresh] = FINGER
        kind[facts.fresh & stretched] = STRETCH
        kind[facts.fresh & b.flat[None, :]] = BARRE
        for which, code in ((laid, BARRE), (rolled, ROLL)):
            if not isinstance(which, float):
                kind[which.any(axis=2)] = code
        kind[facts.jumped] = JUMP
        kind[facts.shifted] = SHIFT
        kind[np.broadcast_to(b.idle[None, :], kind.shape)] = OPEN
        return kind

    def _bound(self, moves: FretMoves, a: FrettingNodes, b: FrettingNodes, attack: str) -> FretMoves:
        """The same moves where the attack that sounds `b` asks something of them."""
        prices, facts = self.fretting.prices, self.slur_facts(a, b, attack)
        kind, time, strain = moves.kind, moves.time_ms, moves.strain
        if attack in _ON_THEIR_OWN:
            time = np.broadcast_to(prices.most(MOVE, TIME, self.facts(a, b, attack)), time.shape)
        if attack in (SLIDE, SLUR):
            slid = facts.slid
            time = np.where(slid, prices.most(SLIDING, TIME, facts), time)
            strain = np.where(slid, b.strain[None, :] + prices.total(SLIDING, PRICE, facts), strain)
            kind = np.where(slid, np.int8(SLIDE_KIND), kind)
        strain = strain + prices.total(SLURRING, PRICE, facts)
        out = np.inf if attack in _CHOSEN else IMPOSSIBLE
        strain = np.where(prices.permitted(SLURRING, facts), strain, strain + out)
        return replace(moves, kind=kind, time_ms=time, strain=strain)


def fretting_moves(instrument: Instrument, player: Player, prices: PriceList) -> FrettingMoves:
    """The moves of a player's hand on an instrument, kept from plan to plan."""
    habits, about = player.habits, (SHAPE, FIGURE, MOVE, SLIDING, SLURRING)
    return kept_moves(
        instrument, player.fretting, prices, prices.constants(player, *about), habits.thumb, habits.bass_hand
    )


@lru_cache(maxsize=4)
def kept_moves(
    instrument: Instrument,
    hand: FrettingHand,
    prices: PriceList,
    constants: tuple[tuple[str, Any], ...],
    thumb: bool,
    bass_hand: str,
) -> FrettingMoves:
    """The same by what they depend on, so that a number of other rows leaves them as they are."""
    numbers = as_numbers(constants)
    numbers |= {name: getattr(hand, name) for name in _FACTS_READ}
    return FrettingMoves(Fretting(instrument, hand, prices, numbers, thumb, bass_hand))


_FACTS_READ = ("string_mm", "tip_step_strings")
"""numbers of the hand that facts themselves are made with"""

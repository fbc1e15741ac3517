"""What the picking hand is and remembers after an event: the ways of a layer, in parts by how the event is sounded.

A way knows where the pick was last (with how many events ago) and, where bare fingers pluck, which fingers plucked
lately. While nothing is plucked and nobody chooses what goes unpicked, the last picked event is the same for every
way, and nothing more needs remembering.
"""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass, fields, replace
from functools import cached_property
from itertools import combinations, product
from typing import Any

import numpy as np

from dromic.core.hands.articulation_options import EventOptions
from dromic.core.hands.event_facts import NEVER
from dromic.core.hands.pick_moves import Bools, PickPositions
from dromic.core.prices.facts import PICKING, PLACE
from dromic.core.prices.picking_rows import ANYHOW, FROM_INSIDE, IN_SWEEP
from dromic.core.prices.row import PRICE, PriceList, numbers_of
from dromic.core.setup.player import Player
from dromic.core.timing.pick_timing import Rhythm
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.memo import Memo
from dromic.core.values.vocabulary import PICK, PINCH, PLUCK, SLUR

Pick = tuple[int, int, int, int, int, int, int, int]
"""sign, begin, end, low, high, lean, how the string was come to, events ago"""
Plucked = tuple[int, int, int]
"""finger, position across the strings, events ago"""
Memory = tuple[Pick, tuple[Plucked, ...]]
OLD = -1
"""events ago: longer than the hand remembers"""
NOTHING: Pick = (0, 0, 0, 0, 0, 0, 0, NEVER)
BARE = 5
"""plucking fingers of a hand"""
_MOST_MB = 16.0
"""of parts kept for one hand"""
_OBJECT_BYTES = 2000
"""what the objects around the small arrays of a part take, roughly"""
Group = tuple[int, ...]


@dataclass(frozen=True, eq=False)
class PickingStates:
    """The ways in which one manner of sounding an event may leave the picking hand, [G, R]; G is 1 where the event's
    own strings do not matter. `needs` is the memory before the event that each way carries on, by number (of the
    plucks alone where the pick strikes)."""

    attack: str
    first: int
    grouped: bool
    places: PickPositions
    arrival: Ints
    ago: Ints
    price: Floats
    """what a way costs by itself: strings crossed without sounding, fingers that are dear"""
    needs: Ints | None = None
    fingers: tuple[tuple[int, ...], ...] = ()
    """[R]: the bare fingers of each way, from the lowest string up"""
    memory: tuple[tuple[Memory, ...], ...] | None = None
    """[G][R], None where only the pick's places need remembering"""
    highest: tuple[int, ...] = ()
    """[G]: the highest position of each group that bare fingers pluck"""
    facts: PlaceFacts | None = None
    """what the price was told from"""
    turned: bool = False
    """the last stroke of the event is the other one than its first"""
    whole: PickingStates | None = None
    """the same on every string, where each group is one string"""
    rows: Ints | None = None
    """[G]: the groups by their numbers there"""

    @property
    def ways(self) -> int:
        """R, the number of ways."""
        return int(self.places.sign.shape[1])

    @cached_property
    def left(self) -> PickPositions:
        """[G, R]: where the pick is once the event has been struck."""
        at = self.places
        return replace(at, sign=-at.sign, begin=at.end, end=at.begin) if self.turned else at

    @property
    def weight(self) -> float:
        """Bytes it comes to take with all that is worked out from it."""
        return 120.0 * self.price.size + _OBJECT_BYTES

    @cached_property
    def lone_ago(self) -> int | None:
        """How many events ago the pick last struck, if it is the same for every way."""
        first = int(self.ago.flat[0])
        return first if (self.ago == first).all() else None

    @cached_property
    def agos(self) -> tuple[int, ...]:
        """How many events ago anything was struck or plucked that any way remembers."""
        found = set(self.ago.ravel().tolist())
        for row in self.memory or ():
            for _, plucks in row:
                found |= {ago for _, _, ago in plucks}
        return tuple(sorted(found))

    @cached_property
    def plucked_at(self) -> Ints:
        """[G, R]: the highest position plucked."""
        return np.repeat(np.array(self.highest)[:, None], self.ways, axis=1)

    @cached_property
    def used(self) -> Bools:
        """[R, 5]: the bare fingers of every way."""
        return _used(self.fingers) if self.facts is None else self.facts.plucking

    @cached_property
    def plucks(self) -> tuple[Ints, Ints, Ints]:
        """The latest plucking finger, its position and how many events ago, [G, R] each; NEVER where there is none."""
        last = [[m[1][0] if m[1] else (NEVER, 0, NEVER) for m in row] for row in self.memory or ()]
        table = np.array(last, dtype=np.int64).reshape(len(last), -1, 3)
        return table[:, :, 0], table[:, :, 1], table[:, :, 2]

    @cached_property
    def own(self) -> Ints:
        """[G, R, 5]: how many events ago each bare finger last plucked."""
        table = np.full((*self.places.sign.shape, BARE), NEVER)
        for g, row in enumerate(self.memory or ()):
            for r, (_, plucks) in enumerate(row):
                for finger, _, ago in plucks:
                    table[g, r, finger] = ago
        return table


@dataclass(frozen=True, eq=False)
class MemoryTable:
    """What a hand may remember before an event: every memory, its number for each way of the parts before, [G, R] a
    part, and the memories as ways of their own."""

    memories: tuple[Memory, ...]
    numbers: tuple[Ints, ...]
    part: PickingStates

    def same_plucks(self, needs: Ints) -> Bools:
        """[M, R]: which memories hold the plucks, by number among all plucks held, that each way needs."""
        plucks = sorted({m[1] for m in self.memories})
        own = np.array([plucks.index(m[1]) for m in self.memories])
        return np.asarray(own[:, None] == needs[None, :])


_OFFERED = frozenset(spec.name for spec in fields(EventOptions))


class PlaceFacts:
    """What the price list reads of ways of sounding an event, [G, R]; what is the event's own is read off its offer by name."""

    def __init__(
        self,
        hand: PickingStateFactory,
        offer: EventOptions,
        attack: str,
        sign: Ints,
        gaps: Ints | None = None,
        away: Ints | None = None,
        fingers: Sequence[tuple[int, ...]] = (),
        again: Bools | None = None,
        alone: Bools | None = None,
    ) -> None:
        """`sign`, `gaps`, `away`, `again`, `alone` are [G, R], `fingers` [R]; what is left out is 0 or False everywhere."""
        self.numbers, self.offer = hand.numbers, offer
        strikes = attack in (PICK, PINCH)
        none, no = np.zeros(sign.shape, dtype=np.int64), np.zeros(sign.shape, dtype=bool)
        self.sign = sign if strikes else none
        self.gaps = none if gaps is None else gaps
        self.away = none if away is None else away
        self.again, self.alone = no if again is None else again, no if alone is None else alone
        self.plucking = _used(fingers) if any(fingers) else np.zeros((sign.shape[1], BARE), dtype=bool)
        self.unpicked = offer.chosen and offer.priced and not (strikes or attack == PLUCK)

    def __getattr__(self, name: str) -> Any:
        return getattr(self.offer, name)


def _used(fingers: Sequence[tuple[int, ...]]) -> Bools:
    """[R, 5]: the bare fingers of every way."""
    used = np.zeros((len(fingers), BARE), dtype=bool)
    for way, own in enumerate(fingers):
        used[way, list(own)] = True
    return used


class PickingStateFactory:
    """Makes the parts of every layer for one player on one instrument."""

    def __init__(self, player: Player, strings: int, one_motion: bool, prices: PriceList) -> None:
        self.player, self.strings, self.prices = player, strings, prices
        self.numbers = numbers_of(player, PICKING)
        self._offered = tuple(name for name in prices.reads(PLACE) if name in _OFFERED)
        self._each = tuple((string,) for string in range(1, strings + 1))
        self.arrivals = (ANYHOW, FROM_INSIDE, IN_SWEEP) if one_motion else (ANYHOW,)
        self.offers: Sequence[EventOptions] = ()
        self.rhythm: Rhythm
        self.remembers = False
        self._struck: Memo[PickingStates] = Memo(_MOST_MB)
        self._carried: Memo[tuple[PickingStates, PickingStates]] = Memo(_MOST_MB)

    def offered(self, offers: Sequence[EventOptions], rhythm: Rhythm) -> PickingStateFactory:
        """The same hand with what a phrase offers it."""
        made = copy(self)
        made.offers, made.rhythm = offers, rhythm
        made.remembers = any(o.fingers or (o.picked and not o.certain) for o in offers)
        return made

    def nothing(self) -> tuple[PickingStates, ...]:
        """The hand before the first event."""
        return (self._of_memories("", 0, [(NOTHING, ())], np.zeros(1, dtype=np.int64)),)

    def _price(self, facts: PlaceFacts) -> Floats:
        """[G, R]: what ways cost by themselves."""
        price = np.broadcast_to(self.prices.total(PLACE, PRICE, facts), facts.sign.shape)
        return np.where(self.prices.permitted(PLACE, facts), price, np.inf)

    def _own(self, offer: EventOptions) -> tuple[object, ...]:
        """What the price list reads of an event itself."""
        return tuple(getattr(offer, name) for name in self._offered)

    def after(
        self, i: int, before: tuple[PickingStates, ...], held: MemoryTable | None, groups: tuple[Group, ...]
    ) -> tuple[PickingStates, ...]:
        """The parts of event i, sounded on one of the groups of strings, after those of the event played before; `held`
        is what they are remembered for, where more than the pick's places is."""
        offer = self.offers[i]
        parts: list[PickingStates] = []
        for attack in offer.attacks:
            first = parts[-1].first + parts[-1].ways if parts else 0
            if held is not None:
                parts.append(self._remembering(offer, attack, first, held.memories, groups))
            elif attack == PICK:
                parts.append(self._plain(offer, groups))
            else:
                parts.append(self._carry(offer, attack, before[0]))
        return tuple(parts)

    def held(self, i: int, parts: tuple[PickingStates, ...]) -> MemoryTable | None:
        """What the ways of the event before are still good for when event i comes; None where nothing more is
        remembered than the pick's places."""
        if not self.remembers:
            return None
        aged: dict[Memory, Memory] = {}
        for part in parts:
            for row in part.memory or ():
                for memory in row:
                    if memory not in aged:
                        aged[memory] = self._aged(memory, i)
        return self._gathered([[[aged[m] for m in row] for row in part.memory or ()] for part in parts])

    def held_over(self, parts: tuple[PickingStates, ...]) -> MemoryTable | None:
        """The same over a seam, where nothing is forgotten."""
        if not self.remembers:
            return None
        return self._gathered([[list(row) for row in part.memory or ()] for part in parts])

    def _gathered(self, aged: list[list[list[Memory]]]) -> MemoryTable:
        memories = sorted({m for part in aged for row in part for m in row})
        number = {m: n for n, m in enumerate(memories)}
        numbers = tuple(np.array([[number[m] for m in row] for row in part], dtype=np.int64) for part in aged)
        part = self._of_memories("", 0, memories, np.arange(len(memories)))
        return MemoryTable(tuple(memories), numbers, part)

    def event_ago(self, i: int, ago: int) -> int:
        """The event so many events before the one that is played before event i; -1 if there is none."""
        return self.back(self.rhythm.before[i], ago)

    def back(self, event: int, ago: int) -> int:
        """The event so many events before another."""
        for _ in range(ago):
            event = self.rhythm.before[event]
        return event

    def _aged(self, memory: Memory, i: int) -> Memory:
        """A memory at event i, counted from the event before it: what is too long ago is forgotten."""
        pick, plucks = memory
        if pick[7] >= 0 and self._since(i, pick[7]) > self.player.judging.memory_ms:
            pick = (*pick[:7], OLD)
        limit = self.player.picking.pluck_memory_ms
        kept = [
            p if p[2] < 0 or self._since(i, p[2]) <= limit else (p[0], p[1], OLD)
            for n, p in enumerate(plucks)
            if n == 0 or (p[2] >= 0 and self._since(i, p[2]) <= limit)
        ]
        return pick, tuple(kept)

    def _since(self, i: int, ago: int) -> float:
        return self.rhythm.gap_ms(self.event_ago(i, ago), i)

    def _plain(self, offer: EventOptions, groups: tuple[Group, ...]) -> PickingStates:
        key = (groups, offer.signs, offer.turned, self._own(offer))

        def made() -> PickingStates:
            ways = list(
                product(
                    offer.signs,
                    range(len(self.player.leans)),
                    self.arrivals,
                )
            )
            picks = [[self._picked(group, *way) for way in ways] for group in groups]
            signs = np.array([[way[0] for way in ways]] * len(groups))
            gaps = np.array([[_crossed(g)] * len(ways) for g in groups])
            facts = PlaceFacts(self, offer, PICK, signs, gaps)
            part = self._part(PICK, 0, True, picks, facts, turned=offer.turned)
            if groups == self._each or any(len(group) > 1 for group in groups):
                return part
            rows = np.array([string - 1 for (string,) in groups])
            return replace(part, whole=self._plain(offer, self._each), rows=rows)

        return self._struck.get(key, made, lambda part: part.weight)

    def _picked(self, group: Group, sign: int, lean: int, arrival: int, pinched: bool = False) -> Pick:
        low = self.strings - max(group)
        high = low if pinched else self.strings - min(group)
        begin, end = (low, high) if sign > 0 else (high, low)
        return sign, begin, end, low, high, lean, arrival, 0

    def _carry(self, offer: EventOptions, attack: str, before: PickingStates) -> PickingStates:
        """The pick where it was, every place of it a way of its own."""

        def made() -> tuple[PickingStates, PickingStates]:
            places = before.left
            flat = PickPositions(*(a.reshape(1, -1) for a in (
                places.sign, places.begin, places.end, places.low, places.high, places.lean,
            )))  # fmt: skip
            count = flat.sign.shape[1]
            ago = before.ago.reshape(1, -1)
            facts = PlaceFacts(self, offer, attack, flat.sign)
            part = PickingStates(
                attack, 0, False, flat, before.arrival.reshape(1, -1), np.where(ago >= 0, ago + 1, ago),
                self._price(facts), np.arange(count), facts=facts,
            )  # fmt: skip
            return before, part

        return self._carried.get((id(before), attack, self._own(offer)), made, lambda pair: pair[1].weight)[1]

    def _remembering(
        self, offer: EventOptions, attack: str, first: int, known: Sequence[Memory], groups: tuple[Group, ...]
    ) -> PickingStates:
        if attack in (PICK, PINCH):
            return self._strike(offer, attack, first, known, groups)
        if attack == PLUCK:
            return self._pluck(offer, first, known, groups)
        later = [(_later(pick), tuple(_later_pluck(p) for p in plucks)) for pick, plucks in known]
        alone = np.zeros((1, len(known)), dtype=bool)
        if offer.main and attack == SLUR:
            alone = np.array([[not _struck_within(memory, offer.graced) for memory in known]])
        facts = PlaceFacts(self, offer, attack, np.zeros((1, len(known)), dtype=np.int64), alone=alone)
        return self._of_memories(attack, first, later, np.arange(len(known)), facts)

    def _strike(
        self, offer: EventOptions, attack: str, first: int, known: Sequence[Memory], groups: tuple[Group, ...]
    ) -> PickingStates:
        plucks = sorted({m[1] for m in known})
        bare = _combinations(offer, len(groups[0]) - 1) if attack == PINCH else [()]
        ways = list(
            product(offer.signs, range(len(self.player.leans)), self.arrivals, bare,
                    range(len(plucks)))
        )  # fmt: skip
        picks, away, memory = [], [], []
        for group in groups:
            low = self.strings - max(group)
            upper = sorted(self.strings - s for s in group)[1:] if attack == PINCH else []
            row = [self._picked(group, sign, lean, arrival, attack == PINCH) for sign, lean, arrival, _, _ in ways]
            picks.append(row)
            away.append([self._away(offer, way[3], upper, low) for way in ways])
            memory.append(
                tuple(
                    (_left(pick, offer.turned), self._with_fingers(offer, plucks[way[4]], way[3], upper))
                    for pick, way in zip(row, ways, strict=True)
                )
            )
        signs = np.array([[way[0] for way in ways]] * len(groups))
        gaps = np.array([[0 if attack == PINCH else _crossed(group)] * len(ways) for group in groups])
        fingers = tuple(way[3] for way in ways)
        facts = PlaceFacts(self, offer, attack, signs, gaps, np.array(away), fingers)
        return self._part(
            attack,
            first,
            True,
            picks,
            facts,
            np.array([w[4] for w in ways]),
            fingers,
            tuple(memory),
            turned=offer.turned,
        )

    def _pluck(
        self, offer: EventOptions, first: int, known: Sequence[Memory], groups: tuple[Group, ...]
    ) -> PickingStates:
        ways = list(product(_combinations(offer, len(groups[0])), range(len(known))))
        picks, away, memory = [], [], []
        for group in groups:
            at = sorted(self.strings - s for s in group)
            picks.append([_later(known[m][0]) for _, m in ways])
            away.append([self._away(offer, fingers, at, _high(known[m][0])) for fingers, m in ways])
            memory.append(
                tuple((_later(known[m][0]), self._with_fingers(offer, known[m][1], fingers, at)) for fingers, m in ways)
            )
        again = np.array([[_struck_within(known[m], offer.graced) for _, m in ways]] * len(groups))
        fingers = tuple(f for f, _ in ways)
        signs = np.zeros((len(groups), len(ways)), dtype=np.int64)
        facts = PlaceFacts(self, offer, PLUCK, signs, away=np.array(away), fingers=fingers, again=again)
        return self._part(
            PLUCK, first, True, picks, facts, np.array([m for _, m in ways]), fingers, tuple(memory),
            tuple(self.strings - min(group) for group in groups),
        )  # fmt: skip

    def _away(self, offer: EventOptions, fingers: tuple[int, ...], at: list[int], pick: int | None) -> int:
        """Strings that fingers are away from their natural ones: a string's own finger in its figure, where that is known, else
        counted from the string above the pick's."""
        by_string = dict(offer.natural)
        away = 0
        for finger, position in zip(fingers, at, strict=True):
            if by_string:
                away += abs(by_string.get(self.strings - position, finger) - finger)
            elif pick is not None and not offer.in_turn:
                natural = min(max(position - pick - 1, 0), len(offer.fingers) - 1)
                away += abs(natural - offer.fingers.index(finger))
        return away

    @staticmethod
    def _with_fingers(
        offer: EventOptions, before: tuple[Plucked, ...], fingers: tuple[int, ...], at: list[int]
    ) -> tuple[Plucked, ...]:
        """What is remembered of plucks after these fingers plucked, newest and highest first; where only matters for
        rakes and for the order of the fingers."""
        matters = offer.ordered or offer.in_turn
        now = [(f, p if matters else 0, 0) for f, p in zip(fingers, at, strict=True)][::-1]
        return (*now, *(_later_pluck(p) for p in before if p[0] not in fingers))

    def _of_memories(
        self, attack: str, first: int, memories: list[Memory], needs: Ints, facts: PlaceFacts | None = None
    ) -> PickingStates:
        """A part that strikes nothing and carries memories [R] on, each from the one before that it `needs` [R]."""
        picks = [[pick for pick, _ in memories]]
        known = (tuple(memories),) if self.remembers else None
        return self._part(attack, first, False, picks, facts, needs, tuple(() for _ in memories), known)

    def _part(
        self,
        attack: str,
        first: int,
        grouped: bool,
        picks: list[list[Pick]],
        facts: PlaceFacts | None,
        needs: Ints | None = None,
        fingers: tuple[tuple[int, ...], ...] = (),
        memory: tuple[tuple[Memory, ...], ...] | None = None,
        highest: tuple[int, ...] = (),
        turned: bool = False,
    ) -> PickingStates:
        """A part from its picks [G, R], what each way needs [R] and, where plucks are remembered, its fingers and memories [R]."""
        table = np.array(picks, dtype=np.int64)
        sign, begin, end, low, high, lean, arrival, ago = (np.ascontiguousarray(table[:, :, c]) for c in range(8))
        places = PickPositions(sign, begin, end, low, high, lean)
        price = np.zeros(sign.shape) if facts is None else self._price(facts)
        return PickingStates(
            attack, first, grouped, places, arrival, ago, price, needs, fingers, memory, highest, facts, turned
        )


def _crossed(group: Group) -> int:
    """Strings a stroke over a group of strings crosses without sounding."""
    return max(group) - min(group) + 1 - len(group)


def _combinations(offer: EventOptions, count: int) -> list[tuple[int, ...]]:
    """Every choice of bare fingers for so many strings, in their order."""
    return list(combinations(offer.fingers, count))


def _left(pick: Pick, turned: bool) -> Pick:
    """The pick once its event has been struck, by an even number of strokes where it is turned."""
    sign, begin, end, *rest = pick
    return (-sign, end, begin, *rest) if turned else pick  # type: ignore[return-value]


def _later(pick: Pick) -> Pick:
    return (*pick[:7], pick[7] + 1) if pick[7] >= 0 else pick


def _later_pluck(pluck: Plucked) -> Plucked:
    return (pluck[0], pluck[1], pluck[2] + 1) if pluck[2] >= 0 else pluck


def _struck_within(memory: Memory, events: int) -> bool:
    """Whether one of the so many events just before was struck or plucked."""
    pick, plucks = memory
    return 0 <= pick[7] < events or any(0 <= ago < events for _, _, ago in plucks)


def _high(pick: Pick) -> int | None:
    """The highest position the pick struck last, None if it has not struck."""
    return pick[4] if pick[0] else None


def unstruck(attack: str) -> bool:
    """Whether a part's attack leaves the picking hand where it was."""
    return attack not in (PICK, PINCH, PLUCK)

"""What the picking hand is and remembers after an event: the ways of a layer, in parts by how the event is sounded.

A way knows where the pick was last (with how many events ago) and, where bare fingers pluck, which fingers plucked
lately. While nothing is plucked and nobody chooses what goes unpicked, the last picked event is the same for every
way, and nothing more needs remembering.
"""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass
from functools import cached_property
from itertools import combinations, product

import numpy as np

from dromic.core.hands.articulation_options import EventOptions
from dromic.core.hands.pick_moves import Bools, PickPositions
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
ANYHOW, FROM_INSIDE, IN_SWEEP = range(3)
"""how the string under the pick was come to, as far as a sweep asks: from inside, so that no sweep may go on from it
(it would not have begun on its first string); in a sweep, which may turn here"""
OLD, NEVER = -1, -2
"""events ago: longer than the hand remembers; not at all"""
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

    @property
    def ways(self) -> int:
        """R, the number of ways."""
        return int(self.places.sign.shape[1])

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
    def plucked_at(self) -> Ints:
        """[G, R]: the highest position plucked."""
        return np.repeat(np.array(self.highest)[:, None], self.ways, axis=1)

    @cached_property
    def used(self) -> Bools:
        """[R, 5]: the bare fingers of every way."""
        used = np.zeros((self.ways, BARE), dtype=bool)
        for way, fingers in enumerate(self.fingers):
            used[way, list(fingers)] = True
        return used

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


class PickingStateFactory:
    """Makes the parts of every layer for one player on one instrument."""

    def __init__(self, player: Player, strings: int, one_motion: bool) -> None:
        self.player, self.strings = player, strings
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
                parts.append(self._carry(attack, before[0]))
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
        key = (groups, offer.signs)

        def made() -> PickingStates:
            ways = list(
                product(
                    offer.signs,
                    range(len(self.player.leans)),
                    self.arrivals,
                )
            )
            picks = [[self._picked(group, *way) for way in ways] for group in groups]
            price = self.player.judging.gap_price * np.array([[_crossed(g)] * len(ways) for g in groups], dtype=float)
            return self._part(PICK, 0, True, picks, price)

        return self._struck.get(key, made, lambda part: part.weight)

    def _picked(self, group: Group, sign: int, lean: int, arrival: int, pinched: bool = False) -> Pick:
        low = self.strings - max(group)
        high = low if pinched else self.strings - min(group)
        begin, end = (low, high) if sign > 0 else (high, low)
        return sign, begin, end, low, high, lean, arrival, 0

    def _carry(self, attack: str, before: PickingStates) -> PickingStates:
        """The pick where it was, every place of it a way of its own."""

        def made() -> tuple[PickingStates, PickingStates]:
            places = before.places
            flat = PickPositions(*(a.reshape(1, -1) for a in (
                places.sign, places.begin, places.end, places.low, places.high, places.lean,
            )))  # fmt: skip
            count = flat.sign.shape[1]
            ago = before.ago.reshape(1, -1)
            part = PickingStates(
                attack, 0, False, flat, before.arrival.reshape(1, -1), np.where(ago >= 0, ago + 1, ago),
                np.zeros((1, count)), np.arange(count),
            )  # fmt: skip
            return before, part

        return self._carried.get((id(before), attack), made, lambda pair: pair[1].weight)[1]

    def _remembering(
        self, offer: EventOptions, attack: str, first: int, known: Sequence[Memory], groups: tuple[Group, ...]
    ) -> PickingStates:
        if attack in (PICK, PINCH):
            return self._strike(offer, attack, first, known, groups)
        if attack == PLUCK:
            return self._pluck(offer, first, known, groups)
        later = [(_later(pick), tuple(_later_pluck(p) for p in plucks)) for pick, plucks in known]
        chosen: float | Floats = self.player.judging.legato_price if offer.chosen and offer.priced else 0.0
        if offer.main and attack == SLUR:
            # of a group with graces somebody must be struck
            chosen = np.where([_struck_within(memory, offer.graced) for memory in known], chosen, np.inf)
        return self._of_memories(attack, first, later, np.arange(len(known)), chosen)

    def _strike(
        self, offer: EventOptions, attack: str, first: int, known: Sequence[Memory], groups: tuple[Group, ...]
    ) -> PickingStates:
        plucks = sorted({m[1] for m in known})
        bare = _combinations(offer, len(groups[0]) - 1) if attack == PINCH else [()]
        ways = list(
            product(offer.signs, range(len(self.player.leans)), self.arrivals, bare,
                    range(len(plucks)))
        )  # fmt: skip
        picks, price, memory = [], [], []
        for group in groups:
            low = self.strings - max(group)
            upper = sorted(self.strings - s for s in group)[1:] if attack == PINCH else []
            row = [self._picked(group, sign, lean, arrival, attack == PINCH) for sign, lean, arrival, _, _ in ways]
            picks.append(row)
            crossed = 0.0 if attack == PINCH else self.player.judging.gap_price * _crossed(group)
            price.append([crossed + self._finger_price(offer, way[3], upper, low) for way in ways])
            memory.append(
                tuple(
                    (pick, self._with_fingers(offer, plucks[way[4]], way[3], upper))
                    for pick, way in zip(row, ways, strict=True)
                )
            )
        return self._part(
            attack, first, True, picks, np.array(price), np.array([w[4] for w in ways]), tuple(w[3] for w in ways),
            tuple(memory),
        )  # fmt: skip

    def _pluck(
        self, offer: EventOptions, first: int, known: Sequence[Memory], groups: tuple[Group, ...]
    ) -> PickingStates:
        ways = list(product(_combinations(offer, len(groups[0])), range(len(known))))
        picks, price, memory = [], [], []
        for group in groups:
            at = sorted(self.strings - s for s in group)
            picks.append([_later(known[m][0]) for _, m in ways])
            price.append([
                self._finger_price(offer, fingers, at, _high(known[m][0])) + self._twice(offer, known[m])
                for fingers, m in ways
            ])  # fmt: skip
            memory.append(
                tuple((_later(known[m][0]), self._with_fingers(offer, known[m][1], fingers, at)) for fingers, m in ways)
            )
        return self._part(
            PLUCK, first, True, picks, np.array(price), np.array([m for _, m in ways]), tuple(f for f, _ in ways),
            tuple(memory), tuple(self.strings - min(group) for group in groups),
        )  # fmt: skip

    def _twice(self, offer: EventOptions, memory: Memory) -> float:
        """What striking costs where one of the graces before, or the note before it among them, has been struck."""
        return self.player.judging.grace_price if _struck_within(memory, offer.graced) else 0.0

    def _finger_price(self, offer: EventOptions, fingers: tuple[int, ...], at: list[int], pick: int | None) -> float:
        """What plucking costs beside its time: dear fingers, and fingers away from their natural strings: a
        string's own finger in its figure, where that is known, else counted from the string above the pick's."""
        hand = self.player.picking
        by_string = dict(offer.natural)
        base = None if pick is None else pick + 1
        price = 0.0
        for finger, position in zip(fingers, at, strict=True):
            price += hand.finger_prices[finger]
            if by_string:
                natural = by_string.get(self.strings - position, finger)
                price += hand.away_price * abs(natural - finger)
            elif base is not None and not offer.in_turn:
                natural = min(max(position - base, 0), len(offer.fingers) - 1)
                price += hand.away_price * abs(natural - offer.fingers.index(finger))
        return price

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
        self, attack: str, first: int, memories: list[Memory], needs: Ints, price: float | Floats = 0.0
    ) -> PickingStates:
        picks = [[pick for pick, _ in memories]]
        part = self._part(attack, first, False, picks, np.zeros((1, len(memories))) + price, needs)
        return PickingStates(
            part.attack, part.first, False, part.places, part.arrival, part.ago, part.price, part.needs,
            tuple(() for _ in memories), (tuple(memories),) if self.remembers else None,
        )  # fmt: skip

    def _part(
        self,
        attack: str,
        first: int,
        grouped: bool,
        picks: list[list[Pick]],
        price: Floats,
        needs: Ints | None = None,
        fingers: tuple[tuple[int, ...], ...] = (),
        memory: tuple[tuple[Memory, ...], ...] | None = None,
        highest: tuple[int, ...] = (),
    ) -> PickingStates:
        table = np.array(picks, dtype=np.int64)
        sign, begin, end, low, high, lean, arrival, ago = (np.ascontiguousarray(table[:, :, c]) for c in range(8))
        places = PickPositions(sign, begin, end, low, high, lean)
        return PickingStates(attack, first, grouped, places, arrival, ago, price, needs, fingers, memory, highest)


def _crossed(group: Group) -> int:
    """Strings a stroke over a group of strings crosses without sounding."""
    return max(group) - min(group) + 1 - len(group)


def _combinations(offer: EventOptions, count: int) -> list[tuple[int, ...]]:
    """Every choice of bare fingers for so many strings, in their order."""
    return list(combinations(offer.fingers, count))


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

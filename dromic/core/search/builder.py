"""Makes the layers of the search and the costs of the steps between them, out of the moves of both hands and the time there is."""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np

from dromic.core.hands.articulation_options import EventOptions
from dromic.core.hands.event_facts import EventFacts, Since
from dromic.core.hands.fretting_moves import FretMoves, FretStepFacts, TimeFor, fretting_moves, kept_moves
from dromic.core.hands.fretting_nodes import FrettingNodes
from dromic.core.hands.pick_moves import Bools, Picking, allowed_table
from dromic.core.hands.picking_costs import PickCosts
from dromic.core.hands.picking_states import OLD, MemoryTable, PickingStateFactory, PickingStates, unstruck
from dromic.core.hands.shape_facts import FrettingTask
from dromic.core.hands.step_facts import FirstFacts, Rules
from dromic.core.line.asked_loads import load_floors
from dromic.core.line.beat_wishes import beat_wishes
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Move
from dromic.core.plan.request import Request
from dromic.core.prices.facts import FIRST, FRET_STEP, FRETTING, PICKING
from dromic.core.prices.row import PRICE, PriceList, numbers_of
from dromic.core.search.minplus import Gather, Leg, Plain, Step, gather, leg
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Player
from dromic.core.timing.pick_timing import Parity, Rhythm
from dromic.core.timing.playback_order import RepeatJump
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.vocabulary import HAMMER_NEW, PICK, PINCH, PLUCK, SIGN, SILENT, SLIDE, STAY

FADED = -1


@dataclass(frozen=True, eq=False)
class Layer:
    """One event: nodes of the fretting hand, parts of the picking hand, and for each node the event that last needed
    the fretting hand (FADED where that is longer ago than it remembers)."""

    fretting: FrettingNodes
    parts: tuple[PickingStates, ...]
    ages: Ints

    @property
    def ways(self) -> int:
        """R, the number of picking states."""
        return self.parts[-1].first + self.parts[-1].ways

    @cached_property
    def all_now(self) -> bool:
        """Whether every node needed the fretting hand at one and the same event."""
        return bool((self.ages == self.ages[0]).all())

    @cached_property
    def agos(self) -> tuple[int, ...]:
        """How many events ago, counted from it, what a hand in it may remember was struck or plucked."""
        if len(self.parts) == 1 and self.parts[0].memory is None and self.parts[0].lone_ago is not None:
            lone = self.parts[0].lone_ago
            return (lone,) if lone >= OLD else ()
        found = {ago for part in self.parts for ago in part.agos}
        return (OLD, *sorted(ago for ago in found if ago > OLD))

    def part_of(self, way: int) -> tuple[PickingStates, int]:
        """The part a way belongs to, and its number there."""
        part = next(p for p in self.parts if way < p.first + p.ways)
        return part, way - part.first

    def same_as(self, other: Layer) -> bool:
        """Whether two layers hold the very same states."""
        return (
            self.fretting is other.fretting
            and len(self.parts) == len(other.parts)
            and all(a is b for a, b in zip(self.parts, other.parts, strict=True))
            and np.array_equal(self.ages, other.ages)
        )


@dataclass(frozen=True, eq=False)
class Jump:
    """A move over a seam: where it comes from, its time in ms, how the swing stands to it, and whether the school's
    rule yields there."""

    source: int
    ms: float
    parity: int | None
    free: bool = False


class Builder:
    """Makes layers and steps from the moves of both hands and the time the music gives."""

    def __init__(
        self, request: Request, unit: str, made: tuple[EventOptions, ...], rhythm: Rhythm, limit: float | None = None
    ) -> None:
        player, instrument, school, prices = request.player, request.instrument, request.school, request.prices
        self.request, self.unit, self.offers, self.rhythm, self.limit = request, unit, made, rhythm, limit
        self.player, self.prices = player, prices
        self.frets = fretting_moves(instrument, player, prices)
        self.picks = picking_hand(player, instrument, prices, request.rest_through)
        self.ways = ways_of(player, instrument.strings, school.one_motion, prices).offered(made, rhythm)
        self.floors = load_floors(rhythm.phrase, player, prices, rhythm.ms, made)
        self.beats = beat_wishes(request, unit, made, rhythm, limit)
        self.parity = Parity(rhythm, [o.certain for o in made], [o.picked for o in made])
        allowed = allowed_table(school.allowed(request.skip_through))
        new_string = SIGN[school.new_string] if school.new_string else 0
        rules = Rules(
            numbers_of(player, PICKING), allowed, new_string, school.one_motion, school.beats, self.beats.limit_load
        )
        self.costs = PickCosts(self.picks, rules)
        self.fret_numbers = numbers_of(player, FRETTING)
        self._fret_constants = prices.constants(player, FRET_STEP)
        self._steps: dict[object, tuple[Layer, Layer, Step]] = {}
        self._struck: dict[object, tuple[PickingStates, PickingStates, Floats]] = {}
        self._bends = any(n.bend for event in request.phrase.events for n in event.notes)
        self._held: tuple[int, MemoryTable | None] = (-1, None)
        self._stood: dict[tuple[int, int], tuple[int, int | None, bool]] = {}
        """how earlier events stand to an event, by how many events before the last one they lie, whatever the tempo"""
        self.moves_read: dict[object, tuple[Layer, Layer, Move]] = {}
        """moves as they are told, at whatever tempo they were searched"""

    def retimed(self, rhythm: Rhythm, limit: float | None) -> Builder:
        """The same at another tempo, where the beat counts up to another limit."""
        made = copy(self)
        made.rhythm, made.limit, made.ways = rhythm, limit, self.ways.offered(self.offers, rhythm)
        if any(self.floors):
            made.floors = load_floors(rhythm.phrase, self.player, self.prices, rhythm.ms, self.offers)
        made.beats = beat_wishes(self.request, self.unit, self.offers, rhythm, limit)
        made.costs = PickCosts(self.picks, replace(self.costs.rules, limit_load=made.beats.limit_load))
        made._steps, made._struck, made._held = {}, {}, (-1, None)
        return made

    def timeless(self, layer: Layer) -> bool:
        """Whether a layer is the same at every tempo where the one before it is: time only fades what hands remember."""
        return not self.ways.remembers and not layer.fretting.any_idle

    def at(self, rhythm: Rhythm) -> Builder:
        """The same at another tempo, of which loads and limits are so many times as large."""
        made, faster = copy(self), rhythm.phrase.tempo / self.rhythm.phrase.tempo
        made.rhythm, made.ways = rhythm, self.ways.offered(self.offers, rhythm)
        made.floors = [floor * faster for floor in self.floors]
        made.beats = replace(self.beats, limit_load=self.beats.limit_load * faster)
        made.costs = PickCosts(self.picks, replace(self.costs.rules, limit_load=made.beats.limit_load))
        made._steps, made._struck, made._held = {}, {}, (-1, None)
        return made

    def first(self, wish: FrettingTask) -> tuple[Layer, Floats]:
        """The layer of the first event and what starting in each of its states costs, [K, R]."""
        fretting = self.frets.fretting
        left = fretting.carrying(wish, fretting.whole(wish, lambda: where(self.request.phrase, 0)), (0,))
        nothing = self.ways.nothing()
        parts = self.ways.after(0, nothing, self.ways.held(0, nothing), left.groups)
        ages = np.where(left.idle, FADED, 0)
        columns = []
        again = any(not jump.target for jump in self.rhythm.playback.seams)  # where the first note is come to as well
        for part in parts:
            cost = self.starting(part)
            if part.arrival.any() and not again:
                cost = cost + np.where(part.arrival > 0, np.inf, 0.0)
            columns.append(cost[left.group if part.grouped else np.zeros_like(left.group)])
        held = FretStepFacts.held(left.strain[:, None], self.fret_numbers)
        start = self.prices.total(FRET_STEP, PRICE, held) + np.concatenate(columns, axis=1)
        return Layer(left, parts, ages), start

    def starting(self, part: PickingStates) -> Floats:
        """What beginning in each way of a part costs the picking hand, [G, R]."""
        cost = part.price + self.prices.total(FIRST, PRICE, self.first_facts(part))
        wished = self.beats.wished[0]
        if wished and part.attack in (PICK, PINCH):
            cost = cost + self.costs.against_beat(part.places.sign == -wished, np.zeros(part.price.shape))
        return np.broadcast_to(cost, part.price.shape)

    def first_facts(self, part: PickingStates) -> FirstFacts:
        """What the price list reads of the ways to begin."""
        beside = self.request.school.plucks == "hybrid"
        return FirstFacts(self.costs.rules, self.offers[0], part, beside)

    def after(self, i: int, before: Layer, wish: FrettingTask) -> Layer:
        """The layer of event i, coming from the event played before it."""
        left = self.frets.fretting.whole(wish, lambda: where(self.request.phrase, i))
        ages = np.full(len(left), i)
        if left.any_idle:
            faded = self.fade(before, i)
            pairs = sorted(set(zip(before.fretting.position.tolist(), faded.tolist(), strict=True)))
            left = self.frets.fretting.carrying(wish, left, tuple(p for p, _ in pairs))
            ages = np.where(left.idle, np.array([a for _, a in pairs])[left.memory], i)
        return Layer(left, self.ways.after(i, before.parts, self.held(i, before), left.groups), ages)

    def held(self, i: int, before: Layer) -> MemoryTable | None:
        """What the picking hand remembers of the layer before event i."""
        if self._held[0] != i:
            self._held = i, self.ways.held(i, before.parts)
        return self._held[1]

    def fade(self, before: Layer, i: int) -> Ints:
        """[K']: for each node before event i the event that last needed the hand, FADED where it no longer remembers."""
        limit = self.player.judging.memory_ms
        found = before.ages.copy()
        for event in set(before.ages.tolist()):
            if event >= 0 and self.rhythm.gap_ms(event, i) > limit:
                found[before.ages == event] = FADED
        return found

    def available(self, i: int, before: Layer, jump: Jump | None = None) -> Floats | float:
        """Time in ms the fretting hand has for event i, [K'] for each node before it, or one for all."""
        gap = jump.ms if jump is not None else self.rhythm.step_ms(i)
        source = jump.source if jump is not None else self.rhythm.before[i]
        if before.all_now and before.ages[0] == source:
            return gap
        found = np.full(len(before.fretting), gap)
        for event in set(before.ages.tolist()):
            since = self.player.judging.memory_ms if event < 0 else self.rhythm.gap_ms(event, source)
            found[before.ages == event] = gap + since
        return found

    def busy_ms(self, source: int, event: int) -> float:
        """Time that bending takes from the gap between two events: up in the first, and down again, and before the second
        where that is bent already and was not yet."""
        if not self._bends:
            return 0.0
        before, after = self.request.phrase.events[source], self.request.phrase.events[event]
        held = {(n.string, n.pitch, n.bend) for n in before.notes if "release" not in n.marks}
        up = max(n.bend * (("prebend" not in n.marks) + ("release" in n.marks)) for n in before.notes)
        fresh = [n.bend for n in after.notes if "prebend" in n.marks and (n.string, n.pitch, n.bend) not in held]
        return self.player.fretting.bend_ms * (up + max(fresh, default=0.0))

    def event_facts(self, i: int, before: Layer, jump: Jump | None = None) -> EventFacts:
        """Event i as the step to it from a layer sees it."""
        source = self.rhythm.before[i] if jump is None else jump.source
        gap = self.rhythm.step_ms(i) if jump is None else jump.ms
        return EventFacts(
            self.offers[i], gap, self.busy_ms(source, i), self.floors[i], self.offers[source].attacks == (PLUCK,),
            self.beats.wished[i], tuple([self._since(i, ago, gap, jump) for ago in before.agos]),
            jump is not None and jump.free,
        )  # fmt: skip

    def _since(self, i: int, ago: int, gap: float, jump: Jump | None) -> Since:
        """How the event so many before the last one stands to event i."""
        parity = None if jump is None else jump.parity
        if ago == OLD:
            return Since(ago, self.player.judging.memory_ms + gap, parity)
        if jump is not None:
            return Since(ago, gap + self.rhythm.gap_ms(self.ways.back(jump.source, ago), jump.source), parity)
        if (i, ago) not in self._stood:
            since = self.ways.event_ago(i, ago)
            stood = (
                (since, None, False) if since < 0 else (since, self.parity_of(since, i), self.rhythm.rested(since, i))
            )
            self._stood[i, ago] = stood
        since, parity, rested = self._stood[i, ago]
        return Since(ago, np.inf) if since < 0 else Since(ago, self.rhythm.gap_ms(since, i), parity, rested)

    def parity_of(self, since: int, i: int) -> int | None:
        """n % 2 of the move to event i from the one last picked, None where it does not count, as after a tremolo."""
        counts = since >= 0 and self.rhythm.straight(since, i) and not self.offers[since].turned
        return self.parity.of(since, i) if counts else None

    def step(self, i: int, source: int, before: Layer, after: Layer, jump: Jump | None = None) -> Step:
        """Costs from every state of one layer to every state of the layer of event i; what recurs is worked out once."""
        event, available = self.event_facts(i, before, jump), self.available(i, before, jump)
        if jump is None and not self.ways.remembers and not after.fretting.any_idle:
            parts = (*before.parts, *after.parts)
            had = available if isinstance(available, float) else available.tobytes()
            key = (id(before.fretting), id(after.fretting), *map(id, parts), had, event.key)
            if key not in self._steps:
                # the layers are kept with it, so that no other takes their identities
                self._steps[key] = before, after, _Step(self, event, before, after, available).step()
            return self._steps[key][2]
        closed = None
        if after.fretting.any_idle and jump is None:
            # a node with no finger down carries on what the hand remembers, and nothing else
            stale = self.fade(before, i)[:, None] != after.ages[None, :]
            closed = after.fretting.idle[None, :] & (
                stale | (before.fretting.position[:, None] != after.fretting.position[None, :])
            )
        held = self.held(i, before) if jump is None else self.ways.held_over(before.parts)
        return _Step(self, event, before, after, available, held, closed, jump is not None).step()

    def struck(self, event: EventFacts, source: PickingStates, part: PickingStates) -> Floats:
        """Costs [R', G', 2 G, R] of striking, without and with a knot; what recurs is worked out once, for all strings together."""
        key = (id(source), id(part), event.key)
        if key in self._struck:
            return self._struck[key][2]
        if source.whole or part.whole:
            cost = self.struck(event, source.whole or source, part.whole or part)
            if source.rows is not None:
                cost = cost.take(source.rows, axis=1)
            if part.rows is not None:
                strings = cost.shape[2] // 2
                cost = cost.take(np.concatenate([part.rows, part.rows + strings]), axis=2)
        else:
            knot_load = self.player.judging.knot_ms / event.gap_ms
            cost = np.concatenate(self.costs.struck(event, source, part, knot_load), axis=2).swapaxes(0, 1)
        if not self.ways.remembers:  # memories are others at every event
            # the parts are kept with it, so that no other takes their identities
            self._struck[key] = source, part, cost
        return cost

    def fretting_cost(self, moves: FretMoves, available: Floats | float, busy_ms: float) -> Floats:
        """Costs [K', K] of moves of the fretting hand in the time there is."""
        cost = moves.cost(TimeFor(available, busy_ms, self._fret_constants, self.fret_numbers), self.prices)
        return cost + self.costs.past(moves.loads(available, busy_ms)) if self.costs.limited else cost

    def seam(self, layers: Sequence[Layer], seam: RepeatJump, free: bool) -> Step:
        """The step over a seam, back to an event that has been reached before; `free` of the school's rule or not."""
        parity = self.parity.over(seam.source, seam.target, seam.quarters)
        jump = Jump(seam.source, seam.ms, parity, free)
        return self.step(seam.target, seam.source, layers[seam.source], layers[seam.target], jump)

    def bound(self, offer: EventOptions, attack: str) -> str:
        """What an attack of an event asks of the fretting hand's move."""
        if attack == PICK and self.request.school.one_stroke:
            return STAY
        if offer.slid and attack in (PICK, PINCH, PLUCK):
            return SLIDE
        return SILENT if attack == HAMMER_NEW and offer.chosen else attack


@dataclass(eq=False, slots=True)
class _Step:
    """One step, made from what is given here alone. `held` is what the hand remembers of the layer before, where more than the pick's
    places is; `closed` [K', K] are moves between nodes that do not go together; `over` a seam they all do."""

    builder: Builder
    event: EventFacts
    before: Layer
    after: Layer
    available: Floats | float
    held: MemoryTable | None = None
    closed: Bools | None = None
    over: bool = False

    def step(self) -> Step:
        """Costs from every state of one layer to every state of the other."""
        carried = self.held is not None or (not self.over and unstruck(self.after.parts[0].attack))
        joint = _joint(self.before, self.held) if carried else None
        sources = self.before.ways if joint is None else joint.slots.shape[1]
        return Step(tuple(map(self._leg, self.after.parts)), len(self.before.fretting), sources, joint)

    def _leg(self, part: PickingStates) -> Leg | Plain:
        builder, held, b = self.builder, self.held, self.after.fretting
        moves = builder.frets.between(self.before.fretting, b, builder.bound(self.event.offer, part.attack))
        fret = self._fret(moves, b)
        starts = b.starts if part.grouped else b.one_start
        if part.attack in (PICK, PINCH):
            return leg(part.first, fret, moves.by_group, starts, self._struck(part))
        if part.attack == PLUCK:
            assert held is not None
            knot_load = builder.player.judging.knot_ms / self.event.gap_ms
            fret = fret + builder.costs.knot(knot_load) * moves.non_trivial
            if self.over:
                over = builder.costs.plucked_over(self.event, held.part, part)
                return leg(part.first, fret, moves.by_group_alone, starts, over[:, None])
            cost = builder.costs.plucked(self.event, held.part, part)
            return leg(part.first, fret, moves.by_group_alone, starts, cost[None, None], part.needs)
        needs = None if self.over else part.needs
        sources = 1 if not self.over else len(held.memories) if held is not None else self.before.ways
        pick = np.broadcast_to(part.price, (sources, 1, 1, part.ways))
        return leg(part.first, fret, moves.in_one, starts, pick, needs)

    def _fret(self, moves: FretMoves, b: FrettingNodes) -> Floats:
        """Costs [K', K] of the fretting hand's moves."""
        fret = self.builder.fretting_cost(moves, self.available, self.event.busy_ms)
        if self.closed is not None:
            return np.where(self.closed, np.inf, fret)
        # over a seam the hand comes back to what it held at first while nothing of it sounds
        return np.where(b.idle[None, :], 0.0, fret) if b.any_idle else fret

    def _struck(self, part: PickingStates) -> Floats:
        """Costs [M, K' or 1, 2 G, R] of striking, without and with a knot."""
        before, held = self.before, self.held
        if held is None:
            cost = self.builder.struck(self.event, before.parts[0], part)
            return cost.take(before.fretting.group if before.parts[0].grouped else before.fretting.none, axis=1)
        cost = self.builder.struck(self.event, held.part, part)
        if not self.over and part.needs is not None:
            cost = np.where(held.same_plucks(part.needs)[:, None, None, :], cost, np.inf)
        return np.ascontiguousarray(cost)


def _joint(before: Layer, held: MemoryTable | None) -> Gather:
    """The ways of a layer gathered by memory, or each place of the pick by itself where that is all there is."""
    groups = len(before.fretting.groups)
    if held is not None:
        numbers = np.concatenate(
            [np.broadcast_to(n, (groups, n.shape[1])) if len(n) == 1 else n for n in held.numbers], axis=1
        )
        return gather(numbers, before.fretting.group, len(held.memories))
    part = before.parts[0]
    numbers = np.arange(part.places.sign.size).reshape(part.places.sign.shape)
    rows = before.fretting.group if part.grouped else np.zeros_like(before.fretting.group)
    return gather(numbers, rows, part.places.sign.size)


@lru_cache(maxsize=8)
def picking_hand(player: Player, instrument: Instrument, prices: PriceList, rest_through: bool) -> Picking:
    """The moves of a player's picking hand on an instrument, kept from plan to plan."""
    return Picking(player, instrument, prices, rest_through)


@lru_cache(maxsize=8)
def ways_of(player: Player, strings: int, one_motion: bool, prices: PriceList) -> PickingStateFactory:
    """The ways of a player's picking hand, before any phrase; those that recur are the same from plan to plan."""
    return PickingStateFactory(player, strings, one_motion, prices)


def forget_hands() -> None:
    """Let go of what is kept from plan to plan of any hand; what is in use stays for as long as it is."""
    for kept in (picking_hand, ways_of, kept_moves):
        kept.cache_clear()


def where(phrase: Phrase, event: int) -> str:
    """The place of an event, for messages."""
    return f"bar {phrase.bars[phrase.events[event].bar].number}, note {event + 1}"

"""What each row of the price list costs on a route: the search's own sums taken apart again, at any of its events."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from dromic.core.hands.event_facts import EventFacts
from dromic.core.hands.fretting_moves import SLIDE_KIND, FretMoves, FretStepFacts, TimeFor
from dromic.core.hands.picking_states import PickingStates
from dromic.core.hands.step_facts import BeatFacts, KnotFacts, LoadFacts, SwingFacts, carried_on
from dromic.core.plan.finding import Limit, RowCost
from dromic.core.plan.plan import Move, PlanNote
from dromic.core.prices.facts import (
    BEAT,
    FIGURE,
    FIRST,
    FRET_STEP,
    KNOT,
    LIMIT,
    MOVE,
    PLACE,
    PLUCK,
    SHAPE,
    SLIDING,
    SLURRING,
    STRIKE,
    STROKE,
    SWING,
)  # fmt: skip
from dromic.core.prices.row import HURRIED, LOAD, PERMIT, PRICE, TIME, Facts, Row
from dromic.core.search.builder import Builder, Layer
from dromic.core.search.decoded_path import Path
from dromic.core.values.arrays import Floats
from dromic.core.values.vocabulary import PICK, PINCH, SLIDE, SLUR
from dromic.core.values.vocabulary import PLUCK as PLUCKED

Place = tuple[int, ...]
MOST_PARTS = 3
"""rows that are told of what sets a ceiling, those of the longest times; the fretting hand takes as long as its slowest part"""
_LEAST = 1e-12
"""a cost that is none"""
_LEAST_MS = 0.05
_MADE_OF = {"strain", "weak"}
"""facts of the fretting hand's steps that other rows make: rows that read them are told by those"""


def row_costs(path: Path, event: int, asked: bool = True) -> tuple[RowCost, ...]:
    """What the rows cost at an event and in the move to it, the dearest first: at the tempo asked for, or at the one that was
    searched at, where they are what the route costs."""
    builder = path.asked_builder if asked else path.layers.builder
    found = [cost for cost in EventRows(path, builder, event).costs() if cost.cost > _LEAST]
    return tuple(sorted(found, key=lambda cost: -cost.cost))


def limit_of(path: Path, moves: Sequence[Move], events: Sequence[Sequence[PlanNote]]) -> Limit | None:
    """What sets the ceiling of a plan; None where no move takes time."""
    hardest = max(moves, key=lambda move: move.load, default=None)
    if hardest is None or not hardest.load:
        return None
    hand = "picking" if (hardest.pick_load or 0.0) >= hardest.fret_load else "fretting"
    parts = {part for cost in row_costs(path, hardest.to) if cost.hand == hand for part in cost.parts}
    names = [name for name, _ in sorted(parts, key=lambda part: -part[1])][: MOST_PARTS if hand == "picking" else 1]
    if not names:
        return None
    numbers = {number for row in path.layers.builder.prices.rows if row.name in names for number in row.numbers}
    return Limit(tuple(names), hand, tuple(sorted(numbers)), events[hardest.to][0].index)


def broken(path: Path, event: int) -> tuple[Row, ...]:
    """The permits that the picking hand's move to an event does not keep, as where the player sets strokes against the school."""
    return tuple(EventRows(path, path.asked_builder, event).broken()) if path.layers.rhythm.before[event] >= 0 else ()


@dataclass(frozen=True, eq=False)
class EventRows:
    """What rows say at one event of a route."""

    path: Path
    builder: Builder
    event: int

    def costs(self) -> Iterator[RowCost]:
        yield from self._shape()
        yield from self._place()
        if self.builder.rhythm.before[self.event] < 0:
            yield from self._first()
            return
        knot = self.builder.player.judging.knot_ms / self.facts.gap_ms
        moves, at = self._moves()
        fret_load = yield from self._fretting(moves, at)
        pick_load, counts = yield from self._picking()
        rules = self.builder.costs.rules
        if counts and moves.non_trivial[at]:
            yield from self._told(KNOT, PRICE, KnotFacts(knot, rules.numbers), ())
            pick_load += knot
        if self.builder.costs.limited:
            struck = self.path.sounds[self.event].picked
            for load in (fret_load, pick_load) if struck else (fret_load,):
                yield from self._told(LIMIT, PRICE, LoadFacts(np.array(load), rules.limit_load, rules.numbers), ())

    def _told(
        self, about: str, kind: str, facts: Facts, at: Place, share: float = 1.0, parts: Parts = ()
    ) -> Iterator[RowCost]:
        """What rows say at one place of their arrays."""
        for row in self.builder.prices.rows_of(about, kind):
            yield _cost(row, at_place(row.made(facts), at) * share, parts)

    @property
    def layer(self) -> Layer:
        return self.path.layers.layers[self.event]

    @property
    def source(self) -> int:
        """The event played before."""
        return self.builder.rhythm.before[self.event]

    @property
    def before(self) -> Layer:
        return self.path.layers.layers[self.source]

    @cached_property
    def facts(self) -> EventFacts:
        return self.builder.event_facts(self.event, self.before)

    def _strain_weight(self) -> float:
        """What a unit of strain costs."""
        facts = FretStepFacts.held(np.ones(1), self.builder.fret_numbers)
        return at_place(self.builder.prices.total(FRET_STEP, PRICE, facts), (0,))

    def _shape(self) -> Iterator[RowCost]:
        fretting = self.builder.frets.fretting
        shape, task = self.path.shape(self.event), self.path.layers.wishes[self.event]
        facts = fretting.facts([shape], task)
        for about in (SHAPE, FIGURE):
            yield from self._told(about, PRICE, facts, (0,), self._strain_weight())

    def _place(self) -> Iterator[RowCost]:
        part, group, way = self.path.place(self.event)
        if part.facts is not None:
            yield from self._told(PLACE, PRICE, part.facts, (group, way))

    def _first(self) -> Iterator[RowCost]:
        part, group, way = self.path.place(self.event)
        yield from self._told(FIRST, PRICE, self.builder.first_facts(part), (group, way))
        wished = self.builder.beats.wished[self.event]
        if wished and part.attack in (PICK, PINCH):
            yield from self._beat(part, wished, np.zeros(part.price.shape), (group, way))

    def _beat(self, part: PickingStates, wished: int, load: Floats, at: Place) -> Iterator[RowCost]:
        """What a stroke against the beat costs after moves of such loads [G, R]."""
        rules = self.builder.costs.rules
        facts = BeatFacts(part.places.sign == -wished, load, rules.beats, rules.limit_load, rules.numbers)
        yield from self._told(BEAT, PRICE, facts, at)

    def _moves(self) -> tuple[FretMoves, tuple[int, int]]:
        part, _, _ = self.path.place(self.event)
        bound = self.builder.bound(self.facts.offer, part.attack)
        at = self.path.states[self.source][0], self.path.states[self.event][0]
        return self.builder.frets.between(self.before.fretting, self.layer.fretting, bound), at

    def _fretting(self, moves: FretMoves, at: tuple[int, int]) -> Any:
        """The fretting hand's rows; gives the load of its move."""
        builder, one = self.builder, (0, 0)
        a, b = self.before.fretting.only(at[0]), self.layer.fretting.only(at[1])
        part, _, _ = self.path.place(self.event)
        bound = builder.bound(self.facts.offer, part.attack)
        share = self._strain_weight()
        slurs = builder.frets.slur_facts(a, b, bound)
        free = builder.frets.facts(a, b, bound)
        slid = bound in (SLIDE, SLUR) and int(moves.kind[at]) == SLIDE_KIND
        about, read = (SLIDING, slurs) if slid else (MOVE, free)
        yield from self._told(about, PRICE, read, one, share)
        yield from self._told(SLURRING, PRICE, slurs, one, share)
        available = np.broadcast_to(builder.available(self.event, self.before), len(self.before.fretting))
        time = TimeFor(available, self.facts.busy_ms, (), builder.fret_numbers)
        facts = FretStepFacts.of(moves, time)
        none = np.zeros((1, 1))
        weak = FretStepFacts(none, facts.hurry[[at[0]]], none, np.ones((1, 1)), facts.numbers)
        hurried = at_place(builder.prices.total(FRET_STEP, PRICE, weak), one)
        yield from self._told(MOVE, HURRIED, free, one, 0.0 if slid else hurried)
        times = tuple(_parts(builder.prices.rows_of(about, TIME), read, one))
        for row in builder.prices.rows_of(FRET_STEP, PRICE):
            if not _MADE_OF & set(row.reads):
                yield _cost(row, at_place(row.made(facts), at), times)
        return float(facts.fret_load[at])

    def _hands(self) -> tuple[PickingStates, tuple[int, int], PickingStates, tuple[int, int]]:
        """The picking hand before the event and at it: (part, place in it) each."""
        part, group, way = self.path.place(self.event)
        source, from_group, from_way = self.path.place(self.source)
        # the part's ways carry on memories as they were numbered when the layers were made, at the tempo searched at
        held = self.path.layers.builder.ways.held(self.event, self.before.parts)
        if held is None:
            return source, (from_group, from_way), part, (group, way)
        number = next(n for n, one in enumerate(self.before.parts) if one is source)
        return held.part, (0, int(held.numbers[number][from_group, from_way])), part, (group, way)

    def _picking(self) -> Any:
        """The picking hand's rows; gives the load of its move and whether that counts for a knot."""
        builder, event = self.builder, self.facts
        source, before, part, now = self._hands()
        if part.attack == PLUCKED:
            plucks = builder.costs.pluck_facts(event, carried_on(source, part), part)
            parts = tuple(_parts(builder.prices.rows_of(PLUCK, LOAD), plucks, now, event.gap_ms))
            yield from self._told(PLUCK, PRICE, plucks, now, parts=parts)
            return at_place(plucks.pluck_load, now), True
        if part.attack not in (PICK, PINCH):
            return 0.0, False
        facts, at = builder.costs.strike_facts(event, source, part), (*before, *now)
        strokes = builder.picks.facts(source.left, part.places)
        swing = SwingFacts(facts.stroke_ms, facts.against_swing, facts.numbers)
        parts = ()
        if source.places.sign[before]:
            parts = (*_parts(builder.prices.rows_of(STROKE, TIME), strokes, at),
                     *_parts(builder.prices.rows_of(SWING, TIME)[1:], swing, at))  # fmt: skip
        yield from self._told(STRIKE, PRICE, facts, at, parts=parts)
        if event.wished:
            yield from self._beat(part, event.wished, facts.pick_load, at)
        return float(facts.pick_load[at]), bool(builder.costs.counts(facts)[at])

    def broken(self) -> Iterator[Row]:
        source, before, part, now = self._hands()
        facts: Facts
        at: Place
        if part.attack == PLUCKED:
            about, at, facts = PLUCK, now, self.builder.costs.pluck_facts(self.facts, carried_on(source, part), part)
        elif part.attack in (PICK, PINCH):
            about, at, facts = STRIKE, (*before, *now), self.builder.costs.strike_facts(self.facts, source, part)
        else:
            return
        yield from (row for row in self.builder.prices.rows_of(about, PERMIT) if not at_place(row.made(facts), at))


Parts = tuple[tuple[str, float], ...]


def _cost(row: Row, cost: float, parts: Parts = ()) -> RowCost:
    return RowCost(row.name, row.hand, cost, row.words, parts)


def _parts(rows: tuple[Row, ...], facts: Facts, at: Place, times: float = 1.0) -> Iterator[tuple[str, float]]:
    """The times in ms that rows say, or the loads in so many ms."""
    for row in rows:
        ms = at_place(row.made(facts), at) * times
        if ms > _LEAST_MS:
            yield row.name, ms


def at_place(said: Any, at: Place) -> float:
    """What a row says at one place of the arrays it broadcasts to."""
    array = np.asarray(said)
    place = at[len(at) - array.ndim :]
    return float(array[tuple(n if size > 1 else 0 for n, size in zip(place, array.shape, strict=True))])

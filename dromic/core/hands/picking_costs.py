"""What it costs the picking hand to get from every way of one layer to every way of the next."""

from __future__ import annotations

import numpy as np

from dromic.core.hands.event_facts import EventFacts
from dromic.core.hands.pick_moves import Bools, Picking, PickMoves
from dromic.core.hands.picking_states import PickingStates
from dromic.core.hands.step_facts import (
    BeatFacts,
    KnotFacts,
    LoadFacts,
    Plucker,
    PluckFacts,
    Rules,
    StrikeFacts,
    SwingFacts,
    carried_on,
    come_back,
)
from dromic.core.prices.facts import BEAT, KNOT, LIMIT, PLUCK, STRIKE, SWING
from dromic.core.prices.row import LOAD, PRICE, TIME
from dromic.core.values.arrays import Floats
from dromic.core.values.vocabulary import PINCH


class PickCosts:
    """Costs of the picking hand for one request, out of the price list."""

    def __init__(self, picks: Picking, rules: Rules) -> None:
        self.picks, self.prices, self.rules = picks, picks.prices, rules
        self.limited = rules.limit_load < np.inf
        self._times: dict[tuple[int, int | None], tuple[PickMoves, Floats]] = {}

    def struck(
        self, event: EventFacts, source: PickingStates, target: PickingStates, knot_load: float
    ) -> tuple[Floats, Floats]:
        """Costs [G', R', G, R] from the ways of one part to those of a part the pick strikes, without a knot and with one that
        adds such a load where the move counts for it."""
        facts = self.strike_facts(event, source, target)
        cost = self.prices.total(STRIKE, PRICE, facts)
        if event.wished:
            cost = cost + self.against_beat(target.places.sign == -event.wished, facts.pick_load)
        if event.bound:
            cost = np.where(self.prices.permitted(STRIKE, facts), cost, np.inf)
        cost = np.broadcast_to(cost + target.price[None, None], facts.kind.shape)
        counts, knot = self.counts(facts), self.knot(knot_load)
        if not self.limited:
            return cost, cost + knot * counts
        past = self.past(facts.pick_load)
        return cost + past, cost + np.where(counts, knot + self.past(facts.pick_load + knot_load), past)

    def strike_facts(self, event: EventFacts, source: PickingStates, target: PickingStates) -> StrikeFacts:
        """What the price list reads of these moves, their loads put in."""
        moves = self.picks.moves(source.left, target.places)
        facts = StrikeFacts(self.rules, event, source, target, moves)
        facts.swing_ms = self._swung(facts.stroke_ms, facts.against_swing)
        facts.pick_load = np.maximum(self.prices.most(STRIKE, LOAD, facts), event.floor)
        return facts

    def times(self, moves: PickMoves, parity: int | None) -> Floats:
        """[G', R', G, R]: what moves take in ms, with the swing of the hand that stands so to them."""
        key = id(moves), parity
        if key not in self._times:
            # the moves are kept with it, so that no others take their identity
            self._times[key] = moves, self._swung(moves.time_ms, moves.against(parity))
        return self._times[key][1]

    def _swung(self, stroke_ms: Floats, against_swing: Bools | bool) -> Floats:
        """[G', R', G, R]: ms of strokes with the swing of the hand, which some go against."""
        facts = SwingFacts(stroke_ms, against_swing, self.rules.numbers)
        return np.asarray(self.prices.total(SWING, TIME, facts))

    def against_beat(self, against: Bools, load: Floats) -> Floats:
        """What strokes against their places in the beat cost after moves of such loads; all [...] of one shape."""
        facts = BeatFacts(against, load, self.rules.beats, self.rules.limit_load, self.rules.numbers)
        return np.asarray(self.prices.total(BEAT, PRICE, facts))

    @staticmethod
    def counts(facts: StrikeFacts) -> Bools:
        """[G', R', G, R]: which moves to a struck part count for a knot."""
        found = facts.moves.non_trivial | (facts.target.attack == PINCH)
        return np.asarray(found & ~facts.rested)

    def plucked(self, event: EventFacts, held: PickingStates, target: PickingStates) -> Floats:
        """Costs [G, R] of plucking in every way of a part, each from the memory it carries on."""
        return self._plucked(event, carried_on(held, target), target)

    def plucked_over(self, event: EventFacts, held: PickingStates, target: PickingStates) -> Floats:
        """Costs [M, G, R] of plucking over a seam, where ways come back to what they remembered at first."""
        return self._plucked(event, come_back(held), target)

    def pluck_facts(self, event: EventFacts, before: Plucker, target: PickingStates) -> PluckFacts:
        """What the price list reads of these plucks, their loads put in."""
        facts = PluckFacts(self.rules, event, before, target)
        facts.pluck_load = np.maximum(self.prices.most(PLUCK, LOAD, facts), event.floor)
        return facts

    def _plucked(self, event: EventFacts, before: Plucker, target: PickingStates) -> Floats:
        """Costs of plucking in every way [G, R] of a part, after what is remembered of plucks; [M, G, R] where that differs by
        memory."""
        facts = self.pluck_facts(event, before, target)
        cost = self.prices.total(PLUCK, PRICE, facts)
        if event.bound:
            cost = np.where(self.prices.permitted(PLUCK, facts), cost, np.inf)
        return np.asarray(cost + target.price)

    def knot(self, load: float) -> float:
        """What both hands moving in one gap cost, which adds such a load."""
        return float(self.prices.total(KNOT, PRICE, KnotFacts(load, self.rules.numbers)))

    def past(self, load: Floats) -> Floats:
        """What moves of these loads [...] cost for lying past the limit [...]."""
        facts = LoadFacts(load, self.rules.limit_load, self.rules.numbers)
        return np.asarray(self.prices.total(LIMIT, PRICE, facts))

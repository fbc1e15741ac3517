"""What the price list reads of steps of the picking hand: strokes and plucks from every way of one part to every way of another."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from dromic.core.hands.articulation_options import EventOptions
from dromic.core.hands.event_facts import NEVER, EventFacts
from dromic.core.hands.pick_moves import Bools, PickMoves
from dromic.core.hands.picking_states import PickingStates
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.vocabulary import PINCH, PLUCK


@dataclass(frozen=True, eq=False)
class Rules:
    """What is the same for every step of a request: the school's rules and the player's numbers."""

    numbers: Mapping[str, Any]
    allowed: Bools
    """[kinds]"""
    new_string: int
    sweeps: bool
    beats: float
    limit_load: float


@dataclass(frozen=True, eq=False)
class LoadFacts:
    """Loads of any shape against the limit."""

    any_load: Floats
    limit_load: float
    numbers: Mapping[str, Any]


@dataclass(frozen=True, eq=False)
class SwingFacts:
    """Moves of the pick, [G', R', G, R], as the hand swings."""

    stroke_ms: Floats
    against_swing: Bools | bool
    numbers: Mapping[str, Any]


@dataclass(frozen=True, eq=False)
class BeatFacts:
    """Strokes of any shape and their places in the beat."""

    against_beat: Bools
    beat_load: Floats
    beats: float
    limit_load: float
    numbers: Mapping[str, Any]


@dataclass(frozen=True, eq=False)
class KnotFacts:
    """Both hands moving in one gap."""

    knot_load: float
    numbers: Mapping[str, Any]


class FirstFacts:
    """The facts of beginning in every way of a part, [G, R]."""

    def __init__(self, rules: Rules, offer: EventOptions, part: PickingStates, beside_pick: bool) -> None:
        self.numbers, self.beside_pick = rules.numbers, beside_pick
        sign = part.places.sign
        self.first_sign = sign
        self.free = bool(sign.min() < 0 < sign.max())
        in_turn = offer.in_turn and bool(part.fingers)
        self.not_leading: Bools | float = (
            np.array([fingers[:1] != offer.fingers[:1] for fingers in part.fingers]) if in_turn else 0.0
        )


class StrikeFacts:
    """The facts of moves from the ways of one part to those of a part the pick strikes, [G', R', G, R]. `swing_ms` and `pick_load` are
    put in once the rows of times and of loads have been read."""

    def __init__(
        self, rules: Rules, event: EventFacts, source: PickingStates, target: PickingStates, moves: PickMoves
    ) -> None:
        self.event, self.source, self.target, self.moves = event, source, target, moves
        self.numbers, self.allowed, self.new_string = rules.numbers, rules.allowed, rules.new_string
        self.sweeps, self.kind, self.stroke_ms = rules.sweeps, moves.kind, moves.time_ms
        self.after_pluck = event.after_pluck
        self.stroke_sign = target.places.sign
        self.swing_ms: Floats = np.zeros(0)
        self.pick_load: Floats = np.zeros(0)

    @property
    def pick_gap_ms(self) -> Floats | float:
        lone = self.source.lone_ago
        if lone is not None:
            return self.event.at(lone).ms
        return self.event.ms_since(self.source.ago)[:, :, None, None]

    @property
    def against_swing(self) -> Bools | bool:
        lone = self.source.lone_ago
        if lone is not None:
            return self.moves.against(self.event.at(lone).parity)
        found: Bools | bool = False
        for one in self.event.since:
            if one.parity is not None:
                here = (self.source.ago == one.ago)[:, :, None, None]
                found = np.where(here, self.moves.against(one.parity), found)
        return found

    @property
    def since_pluck_ms(self) -> Floats | float:
        if self.source.memory is None:
            return np.inf
        return self.event.ms_since(self.source.plucks[2])[:, :, None, None]

    @property
    def since_own_ms(self) -> Floats | float:
        if self.target.attack != PINCH:
            return np.inf
        return since_used(self.event, self.source.own[:, :, None, None], self.target)

    @property
    def twice(self) -> Bools | bool:
        graced = self.event.offer.graced
        if not graced:
            return False
        struck = _within(self.source.ago, graced)
        if self.source.memory is not None:
            struck = struck | _within(self.source.plucks[2], graced)
        return np.asarray(struck[:, :, None, None])

    @property
    def come_to(self) -> Ints:
        return self.source.arrival[:, :, None, None]

    @property
    def comes_to(self) -> Ints:
        return self.target.arrival

    @cached_property
    def rested(self) -> Bools:
        """[G', R', 1, 1]: whether the hand has rested since it last struck."""
        found = np.zeros(self.source.ago.shape, dtype=bool)
        for one in self.event.since:
            if one.rested:
                found |= self.source.ago == one.ago
        return found[:, :, None, None]


class PluckFacts:
    """The facts of plucking in every way of a part, [..., G, R], coming from memories of the hand: the places and agos of each are
    arrays that go together with the target's [G, R]. `pluck_load` is put in once the rows of loads have been read."""

    def __init__(self, rules: Rules, event: EventFacts, before: Plucker, target: PickingStates) -> None:
        self.event, self.before, self.target = event, before, target
        self.numbers, offer = rules.numbers, event.offer
        self.in_turn, self.ordered = offer.in_turn, offer.ordered
        self.only_plucked = offer.attacks == (PLUCK,)
        self.pluck_load: Floats = np.zeros(0)

    @property
    def since_pick_ms(self) -> Floats:
        return self.event.ms_since(self.before.ago)

    @cached_property
    def since_last_ms(self) -> Floats:
        return self.event.ms_since(self.before.last_ago)

    @property
    def same_finger_ms(self) -> Floats:
        return since_used(self.event, self.before.own, self.target)

    @cached_property
    def same(self) -> Bools:
        last = self.before.last
        return np.asarray((last >= 0) & self.target.used[np.arange(self.target.ways), np.maximum(last, 0)])

    @cached_property
    def single(self) -> Bools:
        return np.array([len(fingers) == 1 for fingers in self.target.fingers])

    @cached_property
    def raked(self) -> Bools | bool:
        if not self.in_turn:
            return False
        return np.asarray(self.same & self.single & (self.target.plucked_at == self.before.last_at - 1))

    @property
    def above_pick(self) -> Bools:
        return np.asarray((self.before.sign == 0) | (self.target.plucked_at > self.before.high))

    @property
    def in_order(self) -> Bools:
        lead = np.array([fingers[-1] for fingers in self.target.fingers])
        return np.asarray((self.target.plucked_at - self.before.last_at) * (lead - self.before.last) >= 0)

    @property
    def unplucked(self) -> Bools:
        return np.asarray(self.before.last_ago == NEVER)


@dataclass(frozen=True, eq=False)
class Plucker:
    """What matters of the hand before a pluck: the pick's last stroke and place, the latest finger, its place and how
    many events ago, and how many events ago each finger plucked; arrays that go together with the target's [G, R]."""

    sign: Ints
    high: Ints
    ago: Ints
    last: Ints
    last_at: Ints
    last_ago: Ints
    own: Ints


def carried_on(held: PickingStates, target: PickingStates) -> Plucker:
    """The hand before each way of a part that plucks, which carries on one memory, [R]."""
    assert target.needs is not None
    last, at, ago = (a[0, target.needs] for a in held.plucks)
    return Plucker(
        held.places.sign[0, target.needs], held.places.high[0, target.needs], held.ago[0, target.needs],
        last, at, ago, held.own[0, target.needs],
    )  # fmt: skip


def come_back(held: PickingStates) -> Plucker:
    """The hand in every memory, [M, 1, 1], over a seam, where ways come back to what they remembered at first."""
    last, at, ago = (a[0][:, None, None] for a in held.plucks)
    places = held.places
    return Plucker(
        places.sign[0][:, None, None], places.high[0][:, None, None], held.ago[0][:, None, None], last, at, ago,
        held.own[0][:, None, None],
    )  # fmt: skip


def since_used(event: EventFacts, own: Ints, target: PickingStates) -> Floats:
    """[..., R]: time since any of the fingers of each way last plucked, `own` being how many events ago, [..., 1 or R, 5]."""
    return np.asarray(np.where(target.used, event.ms_since(own), np.inf).min(axis=-1))


def _within(ago: Ints, events: int) -> Bools:
    """[...]: whether something was so few events ago [...]; under 0 is never."""
    return np.asarray((ago >= 0) & (ago < events))

"""What it costs the picking hand to get from every way of one layer to every way of the next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.core.hands import pick_moves
from dromic.core.hands.articulation_options import EventOptions
from dromic.core.hands.beat_wishes import BeatWishes
from dromic.core.hands.load_cost import load_price
from dromic.core.hands.pick_moves import Bools, Picking
from dromic.core.hands.picking_states import (
    ANYHOW,
    FROM_INSIDE,
    IN_SWEEP,
    NEVER,
    OLD,
    PickingStateFactory,
    PickingStates,
)  # fmt: skip
from dromic.core.music.phrase import Phrase
from dromic.core.plan.request import Request
from dromic.core.setup.player import PickingHand
from dromic.core.timing.pick_timing import Parity
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.vocabulary import PINCH, PLUCK, SIGN, TAP, UNSTRUCK

_STAYING = (pick_moves.SAME, pick_moves.REPEAT, pick_moves.REST)
"""moves that leave the pick at its string"""


@dataclass(frozen=True, eq=False)
class Jump:
    """A move over a seam: where it comes from, its time in ms, how the swing stands to it, and whether the school's
    rule yields there."""

    source: int
    ms: float
    parity: int | None
    free: bool = False


@dataclass(frozen=True, eq=False)
class _Plucker:
    """What matters of the hand before a pluck: the pick's last stroke and place, the latest finger, its place and how
    many events ago, and how many events ago each finger plucked; arrays that go together with the target's [G, R]."""

    sign: Ints
    high: Ints
    ago: Ints
    last: Ints
    last_at: Ints
    last_ago: Ints
    own: Ints


class PickCosts:
    """Costs of the picking hand for one request."""

    def __init__(
        self, request: Request, ways: PickingStateFactory, picks: Picking, floors: Sequence[float], beats: BeatWishes
    ) -> None:
        self.request, self.ways, self.picks, self.floors, self.beats = request, ways, picks, floors, beats
        self.rhythm = ways.rhythm
        self.judging = request.player.judging
        self.hand = request.player.picking
        offers = ways.offers
        self.parity = Parity(self.rhythm, [o.certain for o in offers], [o.picked for o in offers])
        self.allowed = pick_moves.allowed_table(request.school.allowed(request.skip_through))

    def struck(
        self, i: int, source: PickingStates, target: PickingStates, knot_load: float, jump: Jump | None = None
    ) -> tuple[Floats, Floats]:
        """Costs [G', R', G, R] from the ways of one part to those of a part the pick strikes, without a knot and with one that
        adds such a load where the move counts for it."""
        cost, load = self._struck(i, source, target, jump)
        cost = cost + target.price[None, None] if target.price.any() else cost
        counts = self.non_trivial(i, source, target, jump)
        knot = self.judging.knot_price * knot_load
        if not self.beats.limited:
            return cost, cost + knot * counts
        past = self.beats.past(load)
        return cost + past, cost + np.where(counts, knot + self.beats.past(load + knot_load), past)

    def plucked(self, i: int, held: PickingStates, target: PickingStates) -> Floats:
        """Costs [G, R] of plucking in every way of a part, each from the memory it carries on."""
        assert target.needs is not None
        last, at, ago = (a[0, target.needs] for a in held.plucks)
        source = _Plucker(
            held.places.sign[0, target.needs], held.places.high[0, target.needs], held.ago[0, target.needs],
            last, at, ago, held.own[0, target.needs],
        )  # fmt: skip
        return self._plucked(i, source, target, None) + target.price

    def plucked_over(self, i: int, held: PickingStates, target: PickingStates, jump: Jump) -> Floats:
        """Costs [M, G, R] of plucking over a seam, where ways come back to what they remembered at first."""
        last, at, ago = (a[0][:, None, None] for a in held.plucks)
        places = held.places
        source = _Plucker(
            places.sign[0][:, None, None], places.high[0][:, None, None], held.ago[0][:, None, None], last, at, ago,
            held.own[0][:, None, None],
        )  # fmt: skip
        return self._plucked(i, source, target, jump) + target.price

    def _gaps(self, i: int, ago: Ints, jump: Jump | None) -> Floats:
        """Time in ms since the event so many events ago, an array like `ago`; long ago is longer than memory."""
        gaps = np.full(ago.shape, np.inf)
        for each in set(ago.ravel().tolist()):
            gaps[ago == each] = self._gap(i, each, jump)
        return gaps

    def _gap(self, i: int, ago: int, jump: Jump | None) -> float:
        if ago == NEVER:
            return np.inf
        if ago == OLD:
            return self.judging.memory_ms + (jump.ms if jump is not None else self.rhythm.step_ms(i))
        if jump is not None:
            return jump.ms + self.rhythm.gap_ms(self.ways.back(jump.source, ago), jump.source)
        return self.rhythm.gap_ms(self.ways.event_ago(i, ago), i)

    def _struck(self, i: int, source: PickingStates, target: PickingStates, jump: Jump | None) -> tuple[Floats, Floats]:
        """Costs and loads [G', R', G, R] of striking."""
        offer, school = self.ways.offers[i], self.request.school
        moves = self.picks.moves(source.places, target.places)
        lone = source.lone_ago
        if lone is not None:
            load = moves.phased(self._parity(i, lone, jump), self.hand.phase_ms) / self._gap(i, lone, jump)
        else:
            load = self._times(i, source, moves, jump) / self._gaps(i, source.ago, jump)[:, :, None, None]
        if self.floors[i]:
            load = np.maximum(load, self.floors[i])
        if self.ways.remembers and source.memory is not None:
            since = self._gaps(i, source.plucks[2], jump)
            load = np.maximum(load, (self.hand.pick_after_pluck_ms / since)[:, :, None, None])
        if target.attack == PINCH:
            load = np.maximum(load, self._finger_loads(i, source.own[:, :, None, None], target, jump))
        cost = self.judging.picking_weight * load_price(load, self.judging.dial, self.judging.over_price)
        if offer.graced:
            ago = source.ago[:, :, None, None]
            plucked = source.plucks[2][:, :, None, None] if source.memory is not None else np.full(ago.shape, NEVER)
            within = ((ago >= 0) & (ago < offer.graced)) | ((plucked >= 0) & (plucked < offer.graced))
            cost = cost + np.where(within, self.judging.grace_price, 0.0)
        if self.beats.wished[i]:
            cost = cost + self.beats.price(i, target.places.sign, load)
        if not offer.forced and not (jump is not None and jump.free):
            cost = np.where(self._permitted(moves, source, target, school.one_motion), cost, np.inf)
        before = self.rhythm.before[i] if jump is None else jump.source
        if before >= 0 and self.ways.offers[before].attacks == (PLUCK,):
            # between plucks the pick comes back for a down, unless there is no time
            cost = cost + np.where(target.places.sign < 0, self.hand.up_after_pluck_price, 0.0)[None, None]
        return np.asarray(cost + self.loudness(offer, target)[None, None]), load

    def loudness(self, offer: EventOptions, part: PickingStates) -> Floats:
        """What the strokes of a part cost for how loud they make the note, [G, R]: an accent wants the strong one, the first
        of slurred notes what its player strikes no louder than the others."""
        habits, sign = self.request.player.habits, part.places.sign
        price = np.zeros(sign.shape)
        if offer.accent and habits.accents_down:
            price = price + np.where(sign < 0, self.judging.accent_price, 0.0)
        if offer.leads and habits.first_attack != "either":
            price = price + np.where(sign == SIGN.get(habits.first_attack, 0), 0.0, self.hand.first_attack_price)
        return price

    def _permitted(
        self, moves: pick_moves.PickMoves, source: PickingStates, target: PickingStates, one_motion: bool
    ) -> Bools:
        permitted = self.allowed[moves.kind]
        school = self.request.school
        if school.new_string:
            sign = SIGN[school.new_string]
            same = (moves.kind == pick_moves.SAME) | (moves.kind == pick_moves.REST)
            permitted = permitted & (same | (target.places.sign == sign)[None, None])
        if one_motion:
            # a sweep begins on its first string: whoever came from inside may not carry on, unless a sweep turns there
            kind, before = moves.kind, source.arrival[:, :, None, None]
            carried = (kind == pick_moves.CARRY) | (kind == pick_moves.THROUGH)
            swept = carried | (np.isin(kind, _STAYING) & (before == IN_SWEEP))
            barred = (kind == pick_moves.INSIDE) & (before != IN_SWEEP)
            arrival = np.where(swept, IN_SWEEP, np.where(barred, FROM_INSIDE, ANYHOW))
            permitted = permitted & (arrival == target.arrival[None, None])
            permitted &= ~((kind == pick_moves.CARRY) & (before == FROM_INSIDE))
        return np.asarray(permitted)

    def _parity(self, i: int, ago: int, jump: Jump | None) -> int | None:
        if jump is not None:
            return jump.parity
        return self.parity_of(self.ways.event_ago(i, ago) if ago >= 0 else -1, i)

    def parity_of(self, since: int, i: int) -> int | None:
        """n % 2 of the move to event i from the one last picked, None where it does not count."""
        return self.parity.of(since, i) if since >= 0 and self.rhythm.straight(since, i) else None

    def _times(self, i: int, source: PickingStates, moves: pick_moves.PickMoves, jump: Jump | None) -> Floats:
        found = moves.time_ms
        for ago in set(source.ago.ravel().tolist()):
            parity = self._parity(i, ago, jump)
            if parity is not None:
                time = moves.phased(parity, self.hand.phase_ms)
                found = np.where((source.ago == ago)[:, :, None, None], time, found)
        return found

    def _finger_loads(self, i: int, own: Ints, target: PickingStates, jump: Jump | None) -> Floats:
        """[..., R]: loads of bare fingers coming back since their own last pluck, `own` being [..., 1 or R, 5]."""
        need = self.hand.pluck_same_ms / self._gaps(i, own, jump)
        return np.asarray(np.where(target.used, need, 0.0).max(axis=-1))

    def _plucked(self, i: int, source: _Plucker, target: PickingStates, jump: Jump | None) -> Floats:
        offer, hand = self.ways.offers[i], self.hand
        at = target.plucked_at
        lead = np.array([f[-1] for f in target.fingers])
        single = np.array([len(f) == 1 for f in target.fingers])
        used = target.used
        again = (source.last >= 0) & used[np.arange(target.ways), np.maximum(source.last, 0)]
        since_last = self._gaps(i, source.last_ago, jump)
        load = np.maximum(
            hand.pluck_after_pick_ms / self._gaps(i, source.ago, jump),
            np.where(again, 0.0, hand.pluck_other_ms / since_last),
        )
        own = self._finger_loads(i, source.own, target, jump)
        if offer.in_turn:
            rake = again & single & (at == source.last_at - 1)
            own = np.where(rake, hand.rake_ms / since_last, own)
            fine = ~again | rake | (source.last_ago == NEVER) | ~single
        else:
            above = (source.sign == 0) | (at > source.high)
            fine = above | (offer.attacks == (PLUCK,))
            if offer.ordered:
                ordered = (at - source.last_at) * (lead - source.last) >= 0
                fine = fine & (ordered | (source.last_ago == NEVER) | ~single)
        load = np.maximum(np.maximum(load, own), self.floors[i])
        cost = self.judging.picking_weight * load_price(load, self.judging.dial, self.judging.over_price)
        if not offer.in_turn:
            # where nothing but a finger may take the note, the pick must make way
            cost = cost + np.where(above, 0.0, hand.below_pick_price)
        return cost if jump is not None and jump.free else np.asarray(np.where(fine, cost, np.inf))

    def non_trivial(self, i: int, source: PickingStates, target: PickingStates, jump: Jump | None) -> Bools:
        """[G', R', G, R]: which moves to a struck part count for a knot."""
        moves = self.picks.moves(source.places, target.places)
        found = moves.non_trivial | (target.attack == PINCH)
        rested = np.array(
            [[jump is None and a >= 0 and self._rested(i, a) for a in row] for row in source.ago.tolist()]
            if source.lone_ago is None
            else [[jump is None and source.lone_ago >= 0 and self._rested(i, source.lone_ago)]]
        )
        return np.asarray(found & ~rested[:, :, None, None] if rested.any() else found)

    def _rested(self, i: int, ago: int) -> bool:
        since = self.ways.event_ago(i, ago)
        return since >= 0 and self.rhythm.rested(since, i)


def load_floors(phrase: Phrase, hand: PickingHand, ms: Sequence[float], offers: Sequence[EventOptions]) -> list[float]:
    """Loads that taps, tremolo and the palm set, whatever else the picking hand does: one for each event."""
    loads = [0.0] * len(offers)
    plain = not any(n.tremolo or "palm-mute" in n.marks for e in phrase.events for n in e.notes)
    if plain and not any(TAP in o.attacks for o in offers):
        return loads
    last_tap: int | None = None
    for i, offer in enumerate(offers):
        if i and not set(offer.attacks) <= set(UNSTRUCK):
            needs = [(hand.pick_after_tap_ms, ms[i] - ms[last_tap])] if last_tap is not None else []
            gap = ms[i] - ms[i - 1]
            if phrase.events[i].marked("palm-mute") != phrase.events[i - 1].marked("palm-mute"):
                needs.append((hand.palm_ms, gap))
            beams = max(n.tremolo for n in phrase.events[i - 1].notes)
            if beams:
                needs.append((hand.alternate_ms, 60000.0 / phrase.tempo_in(phrase.events[i - 1].bar) / 2**beams))
            loads[i] = max((need / has for need, has in needs), default=0.0)
        if TAP in offer.attacks:
            last_tap = i
    return loads

"""From a request to a plan: lay it out, search both hands at once over its course, judge the route found.

Beyond its ceiling a plan is the plan at its ceiling, judged at the tempo asked for: where loads are over 1 anyhow, any leap that
lowers one a little would seem worth every shift. A `Solved` request keeps its layers and passes, so that one changed thing is
searched again, at the same tempo, without starting anew.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from dromic.core.findings.findings import find
from dromic.core.hands.articulation_options import EventOptions, idle_habit, offers_of, struck
from dromic.core.hands.fretting_moves import IMPOSSIBLE
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.search.builder import where
from dromic.core.search.decoded_path import Path
from dromic.core.search.lattice import Layers, MaskedLattice, Masks, check_positions, lay_out
from dromic.core.search.loop_search import Route, best_route, seams_of
from dromic.core.search.minplus import State, best_state
from dromic.core.search.pin_masks import impossible, masks_of
from dromic.core.search.plan_metrics import PlanMetrics
from dromic.core.setup.pin import BARRE, Pin
from dromic.core.timing.beat_positions import pulse_unit
from dromic.core.timing.pick_timing import Rhythm
from dromic.core.timing.playback_order import playback_of
from dromic.core.values.arrays import Floats
from dromic.core.values.errors import DromicError
from dromic.core.values.memo import Memo
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import HAMMER, HAMMER_NEW, PULL, SLUR, UNSTRUCK

_MOST_CORRECTIONS = 8
NEAR = 0.9
"""The share of its ceiling at which a plan that does not fit is searched: nearer to it leaps are already worth their shifts."""
FIRST = 0.8
"""The share of the likely ceiling at which is searched first where more is asked for."""
_ALIKE = 1.005
"""Ratio within which a tempo counts as at nine tenths of the ceiling."""
_WORTH = 1.02
"""Ratio of tempos from which on searching again is worth it."""
_BYTES_A_NOTE = 1500.0
_PACES: Memo[Pace] = Memo(10.0)
"""The paces that requests without pins were searched at."""
SLOWEST = 10.0
"""quarters a minute that a phrase can be slow"""
__all__ = ["Cancelled", "Progress", "Solved", "judge", "plan", "solve", "solve_beside"]


@dataclass(frozen=True, slots=True)
class Pace:
    """What a search goes by: its tempo, and the ceiling of the plan of least work, near which strokes are not chosen by the beat
    (None where they never are); both in quarters a minute."""

    tempo: float
    limit: float | None = None


@dataclass(frozen=True, eq=False)
class Solved:
    """A request with everything its search worked out."""

    request: Request
    lattice: MaskedLattice
    route: Route
    notices: tuple[str, ...]
    like: Solved | None = None
    """another solution of the same phrase, whose judgement holds wherever layers and routes agree"""

    @property
    def layers(self) -> Layers:
        """What was searched."""
        return self.lattice.layers

    @property
    def tempo(self) -> float:
        """The tempo searched at, in quarters a minute: the one asked for, or a slower one that fits."""
        return self.layers.rhythm.phrase.tempo

    @property
    def pace(self) -> Pace:
        """What it was searched by."""
        return Pace(self.tempo, self.layers.builder.limit)

    @property
    def fits(self) -> bool:
        """Whether it goes at the tempo it was searched at, with some room."""
        ceiling = self.metrics.ceiling
        return ceiling is None or self.tempo <= NEAR * ceiling * _ALIKE

    def like_phrase(self, request: Request) -> bool:
        """Whether another request is of the same phrase, played in the same order."""
        return self.request.phrase is request.phrase and self.request.repeat == request.repeat

    @cached_property
    def path(self) -> Path:
        """The route, read."""
        return Path(self.layers, self.route.states, self.like.path if self.like else None)

    @cached_property
    def metrics(self) -> PlanMetrics:
        """What the route comes to."""
        return PlanMetrics(self.request, self.path, self.like.metrics if self.like else None)

    @property
    def cost(self) -> float:
        """What the route costs at the tempo asked for."""
        return self.metrics.cost(self.route.cost)

    def pinned(self, *pins: Pin) -> Solved:
        """The same request with more pinned; only what the pins touch is searched again."""
        request = replace(self.request, pins=(*self.request.pins, *pins))
        if any(pin.field in ("attack", BARRE) for pin in pins):
            return solve(request, old=self)
        masks = masks_of(self.layers, pins)
        if not self.lattice.playback.straight:
            return _found(
                request,
                MaskedLattice(self.layers, _joined(self.lattice.masks, masks), self.lattice.free_seams),
                self.notices,
            )
        found = self.narrowed(request, masks)
        if found is None:
            raise impossible(self.layers, request.pins)
        return found

    def narrowed(self, request: Request, masks: Mapping[int, NDArray[np.bool_]]) -> Solved | None:
        """The best route through the states that some events leave open, [K, R] each, or None; the rest is not searched again.
        Over repeats it is the best one without the seams, which are then judged as they fall; None for a side way."""
        lattice, main = self.lattice, self.lattice.playback.main
        place = {e: p for p, e in enumerate(main)}
        if not set(masks) <= set(place):
            return None
        first, last = min(place[e] for e in masks), max(place[e] for e in masks)
        reached = [np.where(masks[main[first]], lattice.forward[first], np.inf)]
        for event in main[first + 1 : last + 1]:
            costs = lattice.masked(event, self.layers.step_to(event).relax(reached[-1]))
            reached.append(np.where(masks[event], costs, np.inf) if event in masks else costs)
        total = reached[-1] + lattice.backward[last]
        state = best_state(total)
        cost = float(total[state])
        if cost >= IMPOSSIBLE:
            return None
        states = self._rejoined(reached, first, last, state)
        held = MaskedLattice(self.layers, _joined(lattice.masks, masks), lattice.free_seams)
        if not lattice.playback.straight:
            cost = self.route.cost + self._dearer(held, states)
            if not cost < IMPOSSIBLE:
                return None
        return Solved(request, held, Route(tuple(states), cost), self.notices, self)

    def _dearer(self, lattice: MaskedLattice, states: list[State]) -> float:
        """How much more states cost than the route's, step by step where they are others, seams and side ways with them; the
        states of the side ways are set anew where a seam has moved."""
        old, main = self.route.states, lattice.playback.main
        start = self.layers.start
        more = float(start[states[main[0]]] - start[old[main[0]]])
        for before, event in pairwise(main):
            if states[before] != old[before] or states[event] != old[event]:
                step = self.layers.step_to(event)
                more += float(step.ahead(*states[before])[states[event]] - step.ahead(*old[before])[old[event]])
        ends = {event for seam in lattice.playback.seams for event in (seam.target, seam.source)}
        ends |= {lattice.playback.predecessor[event] for event in set(range(len(old))) - set(main)}
        if any(states[event] != old[event] for event in ends):
            there, sides = seams_of(lattice, states)
            before_there, _ = seams_of(self.lattice, old)
            more += there - before_there
            for event, state in sides.items():
                states[event] = state
        return more

    def _rejoined(self, reached: list[Floats], first: int, last: int, state: State) -> list[State]:
        """The best way through a state at place `last` of the main way, `reached` being the costs [K, R] from place `first` on;
        the rest is followed only until it meets the route there was."""
        old, lattice, main = self.route.states, self.lattice, self.lattice.playback.main
        states = list(old)
        now = states[main[last]] = state
        for place in range(last, 0, -1):
            before = reached[place - 1 - first] if place > first else lattice.forward[place - 1]
            now = self.layers.step_to(main[place]).back(before, *now)[1]
            if place <= first and now == old[main[place - 1]]:
                break
            states[main[place - 1]] = now
        now = state
        for place in range(last + 1, len(main)):
            event = main[place]
            costs = self.layers.step_to(event).ahead(*now) + lattice.masked(event, lattice.backward[place])
            now = best_state(costs)
            if now == old[event]:
                break
            states[event] = now
        return states


def _joined(a: Masks, b: Masks) -> Masks:
    """Both sets of masks at once."""
    found = dict(a)
    for event, mask in b.items():
        found[event] = np.logical_and(found[event], mask) if event in found else mask
    return found


_JUDGED: WeakKeyDictionary[Solved, Plan] = WeakKeyDictionary()


def judge(solved: Solved) -> Plan:
    """The plan of a route, with its findings but without remedies: every load, total and rule is worked out here, once for each
    solution. Off the interface thread."""
    known = _JUDGED.get(solved)
    if known is None:
        metrics = solved.metrics
        bare = Plan(
            request=solved.request, pulse=solved.layers.unit, cost=solved.cost, ceiling=metrics.ceiling,
            ceiling_sustained=metrics.sustained, ceiling_range=metrics.spread, notes=metrics.notes, moves=metrics.moves,
            totals=metrics.totals, findings=(), notices=solved.notices, beat_cost=metrics.beat_cost,
        )  # fmt: skip
        known = _JUDGED[solved] = replace(bare, findings=find(bare))
    return known


def plan(request: Request, progress: Progress | None = None) -> Plan:
    """The best plan for a request; DromicError where none exists, Cancelled if `progress` answers False."""
    return judge(solve(request, progress))


def solve(
    request: Request,
    progress: Progress | None = None,
    old: Solved | None = None,
    made: tuple[EventOptions, ...] | None = None,
    rough: bool = False,
    pace: Pace | None = None,
) -> Solved:
    """The best route for a request; what is the same as in an `old` one is taken over from it. `made` are offers to
    the picking hand in place of those the request makes. A `rough` search leaves seams to fall as they may. Searched is by the
    `pace` given, by that of the old one, else at the tempo asked for or, where that does not fit with some room, at a slower one at
    which it does."""
    phrase = request.phrase
    kept = old if old is not None and old.like_phrase(request) else None
    if kept is not None:
        return _searched(request, progress, rough, _ground_of(kept.layers, request, made), kept)
    if pace is not None or made is not None:
        return _paced(request, progress, rough, pace, made)
    bare = _bare(request)
    if bare is request:
        found = _going(request, progress, rough)
        _PACES.get(bare, lambda: found.pace, lambda _: _BYTES_A_NOTE * len(phrase.events))
        return found
    # what is pinned or set against the school makes no other tempo of it: a pin must not make a plan cheaper
    known = _PACES.get(bare, lambda: _going(bare, progress, rough).pace, lambda _: _BYTES_A_NOTE * len(phrase.events))
    return _paced(request, progress, rough, known)


def solve_beside(request: Request, before: Solved, progress: Progress | None = None) -> Solved:
    """The best route for a request, on the layers of one solved `before` where the two differ in what is pinned or set against the
    school alone: both are searched by the same pace then."""
    if _bare(request) != _bare(before.request):
        return solve(request, progress)
    request = replace(request, phrase=before.request.phrase)  # one and the same, by which layers are taken over
    return _searched(request, progress, False, _ground_of(before.layers, request), laid=before.layers)


def _bare(request: Request) -> Request:
    """A request with nothing pinned or set against the school."""
    return replace(request, pins=(), overrides=()) if request.pins or request.overrides else request


def _paced(
    request: Request,
    progress: Progress | None,
    rough: bool,
    pace: Pace | None,
    made: tuple[EventOptions, ...] | None = None,
) -> Solved:
    """The best route at a pace, or at the tempo asked for."""
    ground = _ground(request, made)
    return _searched(request, progress, rough, ground.at(pace) if pace is not None else ground)


def _going(request: Request, progress: Progress | None, rough: bool) -> Solved:
    """The plan at the tempo asked for if it fits with some room, else at the fastest tempo come to from above at which it does; where
    the school leaves strokes open, once more with those chosen by the beat that leave the ceiling what it is. What no tempo changes is
    laid out once."""
    ground = _ground(request)
    beats = request.school.beats * request.player.judging.beat_price > 0
    searches, laid = 0, None

    def at(tempo: float, limit: float | None = None) -> Solved:
        nonlocal searches, laid
        searches += 1
        made = _searched(request, _part(progress, searches), rough, ground.at(Pace(tempo, limit)), laid=laid)
        laid = made.layers
        return made

    found = _fitting(request, ground.times, at)
    limit = found.metrics.ceiling
    return at(found.tempo, limit) if beats and limit is not None else found


def _fitting(request: Request, times: Rhythm, at: Callable[[float], Solved]) -> Solved:
    """The plan of least work at a tempo at which it fits with some room."""
    asked = request.phrase.tempo
    first = found = at(min(asked, FIRST * _likely_ceiling(request, times)))
    while found.tempo > SLOWEST and not found.fits:
        found = at(NEAR * min(found.tempo, found.metrics.ceiling or asked))
    if found is not first or found.tempo >= asked:
        return found
    tempo = min(asked, NEAR * (found.metrics.ceiling or asked))
    if tempo < found.tempo * _WORTH:
        return found
    faster = at(tempo)
    return faster if faster.fits else found


def _part(progress: Progress | None, search: int) -> Progress | None:
    """The progress of the nth search of as many as it may take: each goes half of the way that is left."""
    if progress is None:
        return None
    return lambda share: progress(1.0 - (2.0 - share) / 2.0**search)


def _likely_ceiling(request: Request, rhythm: Rhythm) -> float:
    """About the tempo at which alternating over the phrase's shortest gap no longer fits: where to look first, so that what is
    planned beyond it does not depend on how far beyond. Endless where most may go unpicked."""
    if request.legato == "anywhere" or request.school.legato != "never":
        return float("inf")
    gaps = [rhythm.step_ms(i) for i, event in enumerate(request.phrase.events) if i and event.struck]
    shortest = min((gap for gap in gaps if gap > 0), default=float("inf"))
    return request.phrase.tempo * shortest / request.player.picking.alternate_ms


def rhythm_of(request: Request) -> Rhythm:
    """The times at which the events of a request sound."""
    phrase = request.sounding
    return Rhythm(phrase, playback_of(phrase, request.repeat))


@dataclass(frozen=True, eq=False)
class _Ground:
    """What a search goes by: its times, the pulse, the offers to the picking hand, and the ceiling near which strokes are not
    chosen by the beat."""

    times: Rhythm
    repeat: bool
    unit: str
    made: tuple[EventOptions, ...]
    limit: float | None = None

    def at(self, pace: Pace) -> _Ground:
        """The same at another pace, as far as a phrase can be slow."""
        asked = self.times.asked
        slower = pace.tempo < asked.phrase.tempo
        times = asked.at_tempo(max(pace.tempo, SLOWEST), self.repeat) if slower else asked
        return replace(self, times=times, limit=pace.limit)


def _ground(request: Request, made: tuple[EventOptions, ...] | None = None) -> _Ground:
    """What a search of a request goes by at the tempo asked for; DromicError where its positions lie off the instrument."""
    check_positions(request)
    times, unit = rhythm_of(request), pulse_unit(request.phrase, request.pulse, request.school)
    return _Ground(times, request.repeat, unit, offers_of(request, unit, times) if made is None else made)


def _ground_of(layers: Layers, request: Request, made: tuple[EventOptions, ...] | None = None) -> _Ground:
    """What layers were searched by, for a request of their phrase."""
    offers = offers_of(request, layers.unit, layers.rhythm) if made is None else made
    return _Ground(layers.rhythm, request.repeat, layers.unit, offers, layers.builder.limit)


def _searched(
    request: Request,
    progress: Progress | None,
    rough: bool,
    ground: _Ground,
    like: Solved | None = None,
    laid: Layers | None = None,
) -> Solved:
    """The best route at one tempo, written techniques that it cannot do set right. What is the same as in layers `laid` out before is
    taken over from them, and the judgement of what is `like` it."""
    limit = ground.limit
    notices = list(request.phrase.notices)
    if ground.times.playback.odd:
        notices.append("its repeat marks cannot be followed in playing order; it is planned as it is written")
    layers = lay_out(
        request, ground.unit, ground.times, progress, laid or (like.layers if like else None), ground.made, limit
    )
    if idle := idle_habit(request, layers.options):
        notices.append(idle)
    for _ in range(_MOST_CORRECTIONS):
        solved = _found(request, MaskedLattice(layers, masks_of(layers, request.pins)), tuple(notices), progress, rough)
        corrected, sentences = _possible(solved)
        if not corrected:
            return replace(solved, like=like)
        if any(pin.event in corrected for pin in request.pins):
            raise impossible(layers, request.pins)
        notices.extend(sentences)
        made = tuple(corrected.get(i, offer) for i, offer in enumerate(layers.options))
        layers = lay_out(request, ground.unit, ground.times, progress, layers, made, limit)
    return solved


def _found(
    request: Request,
    lattice: MaskedLattice,
    notices: tuple[str, ...],
    progress: Progress | None = None,
    rough: bool = False,
) -> Solved:
    def go_on() -> None:
        if progress is not None and not progress(1.0):
            raise Cancelled

    route = best_route(lattice, go_on, rough)
    if route is None and lattice.dead_end() is None:
        # the school cannot close the loop on the same strokes: the hand starts afresh at the seam
        lattice = MaskedLattice(lattice.layers, lattice.masks, free_seams=True)
        route = best_route(lattice, go_on, rough)
        notices = (
            *notices,
            f"the school {request.school.name} cannot come round to the same strokes; the seam starts afresh",
        )
    if route is None:
        if request.pins:
            raise impossible(lattice.layers, request.pins)
        raise DromicError(_no_stroke(request), where=where(request.phrase, lattice.dead_end() or 0))
    return Solved(request, lattice, route, notices)


def _possible(solved: Solved) -> tuple[Mapping[int, EventOptions], list[str]]:
    """Offers in place of those whose stated attack the route cannot do, and a sentence for each."""
    layers, states = solved.layers, solved.route.states
    corrected: dict[int, EventOptions] = {}
    notices, unfretted = [], []
    if layers.options[0].attacks == (HAMMER_NEW,) and solved.path.shape(0).idle:
        unfretted.append(0)
    for i in range(1, len(states)):
        offer = layers.options[i]
        if not offer.slid and not set(offer.attacks) & set(UNSTRUCK):
            continue
        source = layers.rhythm.before[i]
        part, _ = layers.layers[i].part_of(states[i][1])
        bound = layers.builder.bound(layers.options[i], part.attack)
        moves = layers.frets.between(layers.layers[source].fretting, layers.layers[i].fretting, bound)
        if moves.strain[states[source][0], states[i][0]] < IMPOSSIBLE:
            continue
        if offer.slid:
            corrected[i] = replace(offer, slid=False)
            notices.append(
                f"{where(solved.request.phrase, i)}: a slide needs another fret of the same string before it; it is "
                "planned as struck without one"
            )
            continue
        if offer.attacks == (HAMMER_NEW,) and solved.path.shape(i).idle:
            unfretted.append(i)
            continue
        before, now = solved.path.shape(source).notes, solved.path.shape(i).notes
        if len(before) == len(now) == 1 and before[0].string == now[0].string and before[0].fret != now[0].fret:
            corrected[i] = replace(offer, attacks=(SLUR,), signs=())
            notices.append(_other_slur(where(solved.request.phrase, i), part.attack, before[0].fret, now[0].fret))
            continue
        instead = "hammered from nowhere"
        corrected[i] = replace(offer, attacks=(HAMMER_NEW,), signs=())
        if layers.layers[i].fretting.shapes[states[i][0]].idle:
            instead, corrected[i] = "struck", struck(layers.request, layers.unit, layers.options, i)
        notices.append(
            f"{where(solved.request.phrase, i)}: a {part.attack} needs the note before it on the same string at the "
            f"right side; it is planned as {instead}"
        )
    corrected |= {i: struck(layers.request, layers.unit, layers.options, i) for i in unfretted}
    if unfretted:
        more = f" and {len(unfretted) - 1} more" if len(unfretted) > 1 else ""
        notices.append(
            f"{where(solved.request.phrase, unfretted[0])}{more}: an open string cannot be hammered; it is planned as struck"
        )
    return corrected, notices


def _other_slur(place: str, attack: str, start: int, to: int) -> str:
    """Why a slur written on one string cannot be what it is called, and what is planned."""
    goes = {HAMMER: to > start, PULL: to < start}.get(attack, True)
    way = (
        "lies out of the reach of a hand that stays" if goes else f"does not go {'up' if attack == HAMMER else 'down'}"
    )
    return f"{place}: a {attack} from fret {start} to fret {to} {way}; it is planned as another slur"


def _no_stroke(request: Request) -> str:
    stated = any(event.stroke for event in request.phrase.events)
    kept = "the kept strokes" if "strokes" in request.keep and stated else "this phrase"
    return f"the school {request.school.name} allows no stroke here for {kept}; choose another school or keep less"

"""Plans that really differ, and the frontier between the two hands' work and the notes left unpicked.

The difference of two plans is the share of events that they play on other strings, with another attack or stroke, or
with the hand more than `far_frets` frets away; two plans really differ from a share of `min_difference` (and two events) on.
An alternative is the cheapest plan found that differs so from every better one: plans through each other way of
playing each event are tried in order of cost, and plans for which what the better ones do is made dearer step by step.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.reports.comparison import fretting_work, picking_work
from dromic.core.search.decoded_path import Path
from dromic.core.search.lattice import MaskedLattice
from dromic.core.search.loop_search import Route, best_route
from dromic.core.search.minplus import State
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.values.arrays import Floats
from dromic.core.values.errors import DromicError

_MOST_TRIED = 300
_DEARER = (0.02, 0.05, 0.1, 0.2, 0.4, 0.8, 1.6, 3.2)
"""prices for doing at an event what a better plan does there, in units of the objective"""


def difference(a: Path, b: Path) -> float:
    """The share of events that two paths play differently, 0 to 1."""
    return _differing(a, b) / len(a.states)


def _differing(a: Path, b: Path) -> int:
    count, limit = 0, a.layers.request.player.judging.far_frets
    for i, (one, other) in enumerate(zip(a.sounds, b.sounds, strict=True)):
        here, there = a.shape(i), b.shape(i)
        far = here.position and there.position and abs(here.position - there.position) > limit
        count += bool(far or here.strings != there.strings or (one.attack, one.sign) != (other.attack, other.sign))
    return count


def alternatives(solved: Solved, count: int) -> tuple[Solved, ...]:
    """Up to so many plans that really differ, the best first."""
    found = [solved]
    needed = max(2.0, solved.request.player.judging.min_difference * len(solved.route.states))
    while len(found) < count:
        options = [
            candidate
            for candidate in (*_through(solved, found, needed), *_apart(solved, found, needed))
            if all(_differing(candidate.path, other.path) >= needed for other in found)
        ]
        if not options:
            break
        found.append(min(options, key=lambda s: s.route.cost))
    return tuple(sorted(found, key=lambda s: s.route.cost))


def _through(solved: Solved, found: list[Solved], needed: float) -> Iterator[Solved]:
    """The cheapest plan through another way of playing some event that differs enough, if the first tries find one."""
    if not solved.lattice.playback.straight:
        return
    ways: list[tuple[float, int, State]] = []
    for event, (ahead, behind) in enumerate(zip(solved.lattice.forward, solved.lattice.backward, strict=True)):
        total = ahead + behind
        likes = _like(solved, event)
        for like in np.unique(likes).tolist():
            costs = np.where(likes == like, total, np.inf)
            best = int(costs.argmin())
            if np.isfinite(costs.flat[best]):
                ways.append((float(costs.flat[best]), event, divmod(best, costs.shape[1])))
    for _, event, state in sorted(ways)[:_MOST_TRIED]:
        mask = np.zeros(solved.lattice.forward[event].shape, dtype=bool)
        mask[state] = True
        candidate = solved.narrowed(solved.request, {event: mask})
        if candidate is not None and all(_differing(candidate.path, s.path) >= needed for s in found):
            yield candidate
            return


def _like(solved: Solved, event: int) -> np.ndarray:
    """A number for every state [K, R] of an event, the same for states that play it alike."""
    layer = solved.layers.layers[event]
    columns = []
    for n, part in enumerate(layer.parts):
        sign = part.places.sign[layer.fretting.group if part.grouped else np.zeros_like(layer.fretting.group)]
        columns.append((sign + 1) + 3 * n + 32 * layer.fretting.group[:, None])
    return np.concatenate(columns, axis=1)


def _apart(solved: Solved, found: list[Solved], needed: float) -> Iterator[Solved]:
    """The cheapest plan when doing what the better plans do costs more and more."""
    likes = [_like(solved, e) for e in range(len(solved.route.states))]
    for price in _DEARER:
        extra: dict[int, Floats] = {}
        for event, like in enumerate(likes):
            taken = sum((like == like[s.route.states[event]]) for s in found)
            extra[event] = price * np.asarray(taken, float)
            if event in solved.lattice.masks:
                extra[event] = solved.lattice.masked(event, extra[event])
        route = best_route(MaskedLattice(solved.layers, extra, solved.lattice.free_seams))
        if route is None:
            return
        made = Solved(
            solved.request,
            solved.lattice,
            Route(route.states, cost_of(solved.lattice, route.states)),
            solved.notices,
            solved,
        )
        if all(_differing(made.path, s.path) >= needed for s in found):
            yield made
            return


def cost_of(lattice: MaskedLattice, states: tuple[State, ...]) -> float:
    """The objective along a route, seams counted in."""
    total = float(lattice.layers.start[states[0]])
    before = lattice.playback.predecessor
    for event in range(1, len(states)):
        total += float(lattice.layers.step_to(event).ahead(*states[before[event]])[states[event]])
    for seam in lattice.playback.seams:
        step = lattice.layers.builder.seam(lattice.layers.layers, seam, lattice.free_seams)
        total += float(step.ahead(*states[seam.source])[states[seam.target]])
    return total


@dataclass(frozen=True, slots=True)
class Balance:
    """A plan on the frontier: what it asks of each hand and how many notes it leaves unpicked."""

    picking_work: float
    fretting_work: float
    unpicked: int
    plan: Plan


_WEIGHTS = ((1.0, 1.0), (1.0, 3.0), (3.0, 1.0), (1.0, 10.0), (10.0, 1.0))
_LEGATO_PRICES = (None, 1.0, 0.25, 0.0)
"""None for no chosen legato; else the price of each note left unpicked"""


def frontier(request: Request) -> tuple[Balance, ...]:
    """Plans none of which another beats in picking work, fretting work and notes left unpicked all at once.

    Work is the sum of a hand's loads, each to the power of the dial. The weights of the hands and the price of an
    unpicked note are varied over a small grid, so a plan in between may be missing.
    """
    found: list[Plan] = []
    for weighted in frontier_requests(request):
        try:
            found.append(judge(solve(weighted)))
        except DromicError:
            continue
    return unbeaten(found)


def frontier_requests(request: Request) -> tuple[Request, ...]:
    """The request with the hands' weights and the price of an unpicked note varied."""
    made = []
    for price in _LEGATO_PRICES:
        for picking, fretting in _WEIGHTS:
            judging = replace(
                request.player.judging, picking_weight=picking, fretting_weight=fretting,
                legato_price=request.player.judging.legato_price if price is None else price,
            )  # fmt: skip
            legato = request.legato if price is None else "anywhere"
            made.append(replace(request, player=replace(request.player, judging=judging), legato=legato))
    return tuple(made)


def unbeaten(plans: Sequence[Plan]) -> tuple[Balance, ...]:
    """Of some plans those that no other beats at everything, by notes left unpicked, then picking work."""
    kept: list[Balance] = []
    for one in sorted((balance(p) for p in plans), key=_worth):
        if not any(all(a <= b + 1e-9 for a, b in zip(_worth(k), _worth(one), strict=True)) for k in kept):
            kept.append(one)
    return tuple(kept)


def _worth(one: Balance) -> tuple[int, float, float]:
    return one.unpicked, one.picking_work, one.fretting_work


def balance(plan: Plan) -> Balance:
    """What a plan asks of each hand."""
    dial = plan.request.player.judging.dial
    return Balance(picking_work(plan, dial), fretting_work(plan, dial), plan.totals.legato, plan)

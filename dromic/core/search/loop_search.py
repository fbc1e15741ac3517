"""The best route through a request's layers: played straight through, or over repeats with their seams.

Where the course jumps back, the state at the jump's target is held until its source, so that the seam is planned with
the rest. Exact: a part that is repeated becomes one dense step from every state of its first event to every state of
its last, the seam and the side ways (first endings) counted in; states that no best route can touch are left out
beforehand, by the bound that a route without its seams can only be cheaper. Only where layers are so large that this
would not fit (bare fingers or chosen slurs with the positions free) are just the likeliest states tried.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from dromic.core.search.lattice import Layers
from dromic.core.search.minplus import State, Step, best_state, forward, trace_back
from dromic.core.timing.playback_order import PlaybackOrder, RepeatJump
from dromic.core.values.arrays import Floats

Masks = Mapping[int, NDArray[np.bool_] | Floats]
"""For some events, which states are open ([K, R] bool), or what being in each costs more."""
_SLACK = 1e-9
_MOST_CELLS = 30_000
"""Costs that the search of a loop holds at once: so many states go side by side."""
_FEWEST_HELD = 2
"""States that go side by side however large they are."""
_AHEAD_PER_PASS = 10
"""Steps ahead from one state that take as long as one pass from all states: an estimate, from profiles of reels with their repeats."""
_SUMS_PER_PASS = 120_000
"""Sums of two costs that take as long: an estimate, from the same."""


@dataclass(frozen=True, eq=False)
class Route:
    """A state for every event, and the cost of all its moves."""

    states: tuple[State, ...]
    cost: float


class MaskedLattice:
    """Layers as a net of steps, with some states closed."""

    def __init__(self, layers: Layers, masks: Masks | None = None, free_seams: bool = False) -> None:
        self.layers, self.free_seams = layers, free_seams
        self.playback: PlaybackOrder = layers.rhythm.playback
        self.masks: Masks = masks or {}

    def masked(self, event: int, costs: Floats) -> Floats:
        """Costs [K, R] of an event with its closed states at infinity, or with what its mask adds."""
        mask = self.masks.get(event)
        if mask is None:
            return costs
        return np.where(mask, costs, np.inf) if mask.dtype == np.bool_ else costs + mask

    def run(self, events: Sequence[int], first: Floats) -> list[Floats]:
        """Costs [K, R] of reaching the states of each of some events played one after the other, the first's given."""
        if not self.masks:
            return forward(first, self.steps(events))
        reached = [self.masked(events[0], first)]
        for event in events[1:]:
            reached.append(self.masked(event, self.layers.step_to(event).relax(reached[-1])))
        return reached

    def back(self, events: Sequence[int], reached: Sequence[Floats], last: State) -> list[State]:
        """The states along events played one after the other that lead to `last` most cheaply; `reached` holds [K, R] an event."""
        return trace_back(reached, self.steps(events), last)

    def steps(self, events: Sequence[int]) -> Sequence[Step]:
        """The steps between events played one after the other."""
        if self.playback.straight and len(events) == len(self.layers.layers):
            return self.layers.onward
        return [self.layers.step_to(e) for e in events[1:]]

    @cached_property
    def forward(self) -> list[Floats]:
        """Costs [K, R] of reaching the states of each event along the main way, seams left out."""
        return self.run(self.playback.main, self.layers.start)

    @cached_property
    def backward(self) -> list[Floats]:
        """Costs [K, R] from the states of each event along the main way to its end, seams left out; a state's own mask not
        counted."""
        main = self.playback.main
        after = [np.zeros_like(self.forward[-1])]
        for event in main[:0:-1]:
            after.append(self.layers.step_to(event).onward(self.masked(event, after[-1])))
        return after[::-1]

    def dead_end(self) -> int | None:
        """The first event on the main way that no state reaches, if any."""
        if self.forward[-1].min() < np.inf:
            return None
        for event, costs in zip(self.playback.main, self.forward, strict=True):
            if costs.min() == np.inf:
                return event
        return None


def best_route(
    lattice: MaskedLattice, cancelled: Callable[[], None] = lambda: None, rough: bool = False
) -> Route | None:
    """The cheapest route, or None where there is none; a `rough` one leaves seams out of the search and only counts
    what they come to."""
    if lattice.dead_end() is not None:
        return None
    if lattice.playback.straight:
        last = lattice.forward[-1]
        state = best_state(last)
        return Route(tuple(lattice.back(lattice.playback.main, lattice.forward, state)), float(last[state]))
    loops = _Loops(lattice, cancelled)
    return loops.rough() if rough else loops.best()


def seams_of(lattice: MaskedLattice, states: Sequence[State]) -> tuple[float, dict[int, State]]:
    """What the seams and side ways between given states (one an event) cost, and the states of the side ways; nothing where it is
    played straight."""
    if lattice.playback.straight:
        return 0.0, {}
    return _Loops(lattice, lambda: None).around_all({e: states[e] for e in lattice.playback.main})


@dataclass(frozen=True, eq=False)
class _Loop:
    """A repeated run of the main way, by place: `first` to `last`; its seams, each with the side way that leads to it."""

    first: int
    last: int
    seams: tuple[tuple[RepeatJump, tuple[int, ...]], ...]


@dataclass(frozen=True, eq=False)
class _Leg:
    """A place on the main way, the costs of its states, and the loop just played if that is how it was reached."""

    place: int
    costs: Floats
    loop: _Loop | None = None


@dataclass(frozen=True, eq=False)
class _Dense:
    """A whole loop as one step: `costs` [S, K, R] from some states of its first event (flat numbers) to its last."""

    states: NDArray[np.int64]
    costs: Floats

    def through(self, reached: Floats) -> Floats:
        """Costs [S, K, R] at the loop's end, by the state it began in, from those [K', R'] at its beginning."""
        return np.asarray(reached.ravel()[self.states][:, None, None] + self.costs)


class _Loops:
    """Finds the best route over seams."""

    def __init__(self, lattice: MaskedLattice, cancelled: Callable[[], None]) -> None:
        self.lattice, self.cancelled = lattice, cancelled
        playback = lattice.playback
        self.main = playback.main
        place = {e: p for p, e in enumerate(self.main)}
        grouped: dict[tuple[int, int], list[tuple[RepeatJump, tuple[int, ...]]]] = {}
        for seam in playback.seams:
            side = playback.side(seam.source)
            last = playback.predecessor[side[0]] if side else seam.source
            grouped.setdefault((place[seam.target], place[last]), []).append((seam, side))
        loops = [_Loop(a, b, tuple(seams)) for (a, b), seams in sorted(grouped.items())]
        self.steps = {
            s: lattice.layers.builder.seam(lattice.layers.layers, s, lattice.free_seams) for s in playback.seams
        }
        self.known: dict[tuple[RepeatJump, State], Floats] = {}
        self.outer = next((one for one in loops if (one.first, one.last) == (0, len(self.main) - 1)), None)
        self.inner: dict[int, _Loop] = {}
        end = -1
        for one in loops:
            if one is not self.outer and one.first > end:
                self.inner[one.first] = one
                end = one.last
        self.dense: dict[int, _Dense] = {}

    def into(self, seam: RepeatJump, state: State) -> Floats:
        """Costs [K', R'] from every state of a seam's source to one state of its target."""
        if (seam, state) not in self.known:
            target = self.lattice.layers.layers[seam.target]
            only = np.full((len(target.fretting), target.ways), np.inf)
            only[state] = 0.0
            self.known[seam, state] = self.steps[seam].onward(only)
        return self.known[seam, state]

    def best(self) -> Route | None:
        """The best route, every loop taken as one step."""
        limit = self._limit()
        if limit == np.inf and not all(self._comes_round(one) for one in self._every):
            return None
        for one in self.inner.values():
            self.cancelled()
            self.dense[one.first] = self._dense(one, limit)
        start = self.lattice.masked(self.main[0], self.lattice.layers.start)
        if self.outer is not None:
            return self._closed(self.outer, start)
        legs = self._along(start)
        last = best_state(legs[-1].costs)
        cost = float(legs[-1].costs[last])
        return None if cost == np.inf else Route(self._trace(legs, last), cost)

    def rough(self) -> Route | None:
        """The best route without seams, its own seams then counted in."""
        forward = self.lattice.forward
        last = best_state(forward[-1])
        states = dict(zip(self.main, self.lattice.back(self.main, forward, last), strict=True))
        more, sides = self.around_all(states)
        cost = float(forward[-1][last]) + more
        states.update(sides)
        if cost == np.inf:
            return None
        return Route(tuple(states[e] for e in range(len(self.lattice.layers.layers))), cost)

    def around_all(self, states: Mapping[int, State]) -> tuple[float, dict[int, State]]:
        """Cost of all seams and side ways between the states of the main way, and the states of the side ways."""
        cost, found = 0.0, dict[int, State]()
        for loop in self._every:
            more, sides = self._around(loop, states[self.main[loop.first]], states[self.main[loop.last]])
            cost += more
            found.update(sides)
        return cost, found

    @property
    def _every(self) -> tuple[_Loop, ...]:
        return (*self.inner.values(), *([self.outer] if self.outer else []))

    def _comes_round(self, loop: _Loop) -> bool:
        """Whether some way of picking a loop's first event is come to again over every seam, however the fretting hand lies: where
        none is, no route is, and none need be looked for."""
        lattice, events = self.lattice, self.main[loop.first : loop.last + 1]
        begin = lattice.layers.start if not loop.first else lattice.forward[loop.first]
        for way in range(begin.shape[1]):
            only = np.full_like(begin, np.inf)
            only[:, way] = begin[:, way]
            end = lattice.run(events, only)[-1]
            if all(np.isfinite(self._over_seam(end, *seam)[:, way]).any() for seam in loop.seams):
                return True
        return False

    def _over_seam(self, end: Floats, seam: RepeatJump, side: tuple[int, ...]) -> Floats:
        """Costs [K, R] of a seam's target from those of the end of its loop."""
        if side:
            end = self.lattice.run(side, self.lattice.layers.step_to(side[0]).relax(end))[-1]
        return self.steps[seam].relax(end)

    def _limit(self) -> float:
        """What the best route costs at most."""
        route = self.rough()
        return np.inf if route is None else route.cost

    def _closed(self, outer: _Loop, start: Floats) -> Route | None:
        """The whole joined end to start: the first state is held, likeliest first, until no other can be better. `start` is [K,
        R]."""
        bound = start + self.lattice.backward[0]
        best: Route | None = None
        for flat in np.argsort(bound, axis=None, kind="stable").tolist():
            self.cancelled()
            if not np.isfinite(bound.flat[flat]) or (best is not None and bound.flat[flat] >= best.cost - _SLACK):
                break
            k, r = divmod(flat, bound.shape[1])
            only = np.full_like(start, np.inf)
            only[k, r] = start[k, r]
            legs = self._along(only)
            ending = legs[-1].costs.copy()
            for seam, side in outer.seams:
                ending += self.into(seam, (k, r)) if not side else self._over_side(seam, side, (k, r), ending.shape)
            last = best_state(ending)
            if np.isfinite(ending[last]) and (best is None or ending[last] < best.cost):
                best = Route(self._trace(legs, last), float(ending[last]))
        return best

    def _over_side(self, seam: RepeatJump, side: tuple[int, ...], state: State, shape: tuple[int, ...]) -> Floats:
        """Costs [K, R] from every last state of a loop over a side way and its seam to one first state."""
        after = self.into(seam, state)
        for event in (*side[:0:-1], side[0]):
            after = self.lattice.layers.step_to(event).onward(self.lattice.masked(event, after))
        return after

    def _around(self, loop: _Loop, first: State, last: State) -> tuple[float, dict[int, State]]:
        """Cost of a loop's seams and side ways between two states, and the states of the side ways."""
        cost = 0.0
        found: dict[int, State] = {}
        for seam, side in loop.seams:
            into = self.into(seam, first)
            if not side:
                cost += float(into[last])
                continue
            begin = self.lattice.layers.layers[self.main[loop.last]]
            only = np.full((len(begin.fretting), begin.ways), np.inf)
            only[last] = 0.0
            reached = self.lattice.run(side, self.lattice.layers.step_to(side[0]).relax(only))
            final = best_state(reached[-1] + into)
            cost += float((reached[-1] + into)[final])
            found.update(zip(side, self.lattice.back(side, reached, final), strict=True))
        return cost, found

    def _dense(self, loop: _Loop, limit: float) -> _Dense:
        """From every hopeful state of the loop's first event to every state of its last, seams counted in."""
        first, last = self.lattice.forward[loop.first], self.lattice.forward[loop.last]
        bound = (first + self.lattice.backward[loop.first]).ravel()
        hopeful = np.flatnonzero(bound <= limit + _SLACK)
        most = max(_FEWEST_HELD, _MOST_CELLS // last.size)
        hopeful = hopeful[np.argsort(bound[hopeful], kind="stable")][:most]
        self.cancelled()
        found = self._gone_along(loop, hopeful, self._alive(loop, limit), limit)
        for n, flat in enumerate(hopeful.tolist()):
            self.cancelled()
            state = divmod(flat, first.shape[1])
            for seam, side in loop.seams:
                found[n] += self._over_side(seam, side, state, last.shape) if side else self.into(seam, state)
        return _Dense(hopeful, found)

    def _alive(self, loop: _Loop, limit: float) -> list[NDArray[np.int64]]:
        """For every event of a loop the states [n] (flat numbers) that a route of at most this cost may go through: what leads
        there and on along the main way costs no more, and seams only add to it."""
        places = range(loop.first, loop.last + 1)
        through = (self.lattice.forward[p] + self.lattice.backward[p] for p in places)
        return [np.flatnonzero(costs <= limit + _SLACK) for costs in through]

    def _gone_along(
        self, loop: _Loop, begin: NDArray[np.int64], alive: Sequence[NDArray[np.int64]], limit: float
    ) -> Floats:
        """Costs [S, K, R] of going along a loop from some states of its first event to its last, through states alive;
        infinite where a route through both would cost more than the limit."""
        start = self.lattice.forward[loop.first].ravel()[begin]
        reached = np.where(begin[:, None] == alive[0][None, :], 0.0, np.inf)
        for place, (before, after) in enumerate(pairwise(alive), loop.first):
            self.cancelled()
            event, shape = self.main[place + 1], self.lattice.forward[place].shape
            step, onward = self.lattice.layers.step_to(event), self.lattice.backward[place].ravel()[before]
            hopeful = start[:, None] + reached + onward[None, :] <= limit + _SLACK
            used, rows = np.flatnonzero(hopeful.any(axis=0)), np.flatnonzero(hopeful.any(axis=1))
            further = np.full((len(begin), len(after)), np.inf)
            closed = self.lattice.masked(event, np.zeros_like(self.lattice.forward[place + 1])).ravel()[after]
            if len(used) / _AHEAD_PER_PASS + hopeful.sum() * len(after) / _SUMS_PER_PASS < len(rows):
                sources = (divmod(flat, shape[1]) for flat in before[used].tolist())
                costs = np.array([step.ahead(k, r).ravel()[after] for k, r in sources]).reshape(len(used), len(after))
                for n in rows:
                    mine = hopeful[n, used]
                    further[n] = (reached[n, used[mine]][:, None] + costs[mine]).min(axis=0)
            else:
                whole = np.full((len(rows), shape[0] * shape[1]), np.inf)
                whole[:, before] = np.where(hopeful, reached, np.inf)[rows]
                further[rows] = step.relax_many(whole.reshape(-1, *shape)).reshape(len(rows), -1)[:, after]
            reached = further + closed
        found = np.full((len(begin), *self.lattice.forward[loop.last].shape), np.inf)
        found.reshape(len(begin), -1)[:, alive[-1]] = reached
        return found

    def _along(self, first: Floats) -> list[_Leg]:
        """The main way from its first event on, whose states cost so much [K, R], each loop taken in one go."""
        legs = [_Leg(0, first)]
        while True:
            at, costs = legs[-1].place, legs[-1].costs
            loop = self.inner.get(at)
            if loop is not None and legs[-1].loop is not loop:
                legs.append(_Leg(loop.last, self.dense[at].through(costs).min(axis=0), loop))
            elif at == len(self.main) - 1:
                return legs
            else:
                event = self.main[at + 1]
                step = self.lattice.layers.step_to(event)
                legs.append(_Leg(at + 1, self.lattice.masked(event, step.relax(costs))))

    def _trace(self, legs: list[_Leg], last: State) -> tuple[State, ...]:
        """The states of every event on the cheapest way to a state at the end."""
        now = last
        states = {self.main[legs[-1].place]: now}
        for before, leg in zip(legs[-2::-1], legs[:0:-1], strict=True):
            if leg.loop is None:
                now = self.lattice.layers.step_to(self.main[leg.place]).back(before.costs, *now)[1]
            else:
                dense = self.dense[before.place]
                flat = int(dense.states[dense.through(before.costs)[:, now[0], now[1]].argmin()])
                first = divmod(flat, before.costs.shape[1])
                states.update(self._inside(leg.loop, first, now))
                now = first
            states[self.main[before.place]] = now
        if self.outer is not None:
            states.update(self._around(self.outer, states[self.main[0]], last)[1])
        return tuple(states[e] for e in range(len(self.lattice.layers.layers)))

    def _inside(self, loop: _Loop, first: State, last: State) -> dict[int, State]:
        """The states inside a loop, its side ways included, for those of its first and last event."""
        run = self.main[loop.first : loop.last + 1]
        only = np.full(self.lattice.forward[loop.first].shape, np.inf)
        only[first] = 0.0
        found = dict(zip(run, self.lattice.back(run, self.lattice.run(run, only), last), strict=True))
        return found | self._around(loop, first, last)[1]

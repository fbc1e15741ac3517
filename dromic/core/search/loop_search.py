"""The best route through a request's layers: played straight through, or over repeats with their seams.

Where the course jumps back, the state at the jump's target is held until its source, so that the seam is planned with
the rest. Exact: a part that is repeated becomes one dense step from every state of its first event to every state of
its last, the seam and the side ways (first endings) counted in. States that no best route can touch are left out
beforehand: the best route costs at most what one does that begins each loop in a likely state, and at least what the main
way does with each way back at its cheapest. Only where layers are so large that what is left would not fit (bare fingers or
chosen slurs with the positions free) are just the likeliest states tried.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, partial
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from dromic.core.search.lattice import MaskedLattice
from dromic.core.search.minplus import State, best_state
from dromic.core.timing.playback_order import RepeatJump
from dromic.core.values.arrays import Floats

_SLACK = 1e-9
"""Share of a cost that rounding may come to."""
_MOST_CELLS = 30_000
"""Costs that the search of a loop holds at once: so many states go side by side."""
_ENOUGH, _MOST_TRIED = 2, 96
"""First states of a loop that are held for a first route, and how many are tried in all to find so many that it comes round to."""
_FEW = 8
"""First states up to which it is not worth looking at those of each stroke by themselves: an estimate, from profiles."""
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
        self.held: dict[int, set[State]] = {}
        """first states of each loop, by its first place, that are known to be come round to"""
        self._tried = 0

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
        rough = self.rough()
        if rough is None and not all(self._comes_round(one) for one in self._every):
            return None
        limit = self._limit(rough)
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

    @cached_property
    def tight(self) -> MaskedLattice:
        """The main way where the last event of every loop has, beside its own, what the cheapest way back to any first state costs:
        what it comes to, the best route costs at least."""
        masks = dict(self.lattice.masks)
        for loop in self._every:
            event = self.main[loop.last]
            again = self._again(loop)
            mask = masks.get(event)
            if mask is not None:
                again = np.where(mask, again, np.inf) if mask.dtype == np.bool_ else again + mask
            masks[event] = again
        return MaskedLattice(self.lattice.layers, masks, self.lattice.free_seams)

    def _again(self, loop: _Loop, ways: NDArray[np.bool_] | None = None) -> Floats:
        """Costs [K, R] from every last state of a loop over all its seams, each to the first state that is cheapest to come to, of
        some ways [R] or of any."""
        first = self.main[loop.first]
        target = self.lattice.layers.layers[first]
        open_states = np.isfinite(self.lattice.masked(first, np.zeros((len(target.fretting), target.ways))))
        if ways is not None:
            open_states &= ways
        anywhere = np.where(open_states, 0.0, np.inf)
        costs = np.zeros_like(self.lattice.forward[loop.last])
        for seam, side in loop.seams:
            costs = costs + self._along_side(side, self.steps[seam].onward(anywhere))
        return costs

    def _limit(self, rough: Route | None) -> float:
        """What the best route costs at most, rounding allowed for."""
        limit = min(np.inf if rough is None else rough.cost, self._held())
        return limit + _SLACK * max(1.0, limit)

    def _held(self) -> float:
        """What the best route costs that begins each loop in one of its likeliest states."""
        costs = self.lattice.masked(self.main[0], self.lattice.layers.start)
        if self.outer is None:
            return float(self._holding(costs).min())
        return float(self._held_round(self.outer, costs, self._holding).min())

    def _holding(self, costs: Floats) -> Floats:
        """Costs [K, R] at the end of the main way, from those at its beginning, every inner loop begun in one of its likeliest
        states."""
        place, until = 0, len(self.main) - 1
        while True:
            loop = self.inner.get(place)
            if loop is not None:
                along = partial(self._run, self.main[loop.first : loop.last + 1])
                costs, place = self._held_round(loop, costs, along), loop.last
            if place == until:
                return costs
            place += 1
            event = self.main[place]
            costs = self.lattice.masked(event, self.lattice.layers.step_to(event).relax(costs))

    def _run(self, events: Sequence[int], first: Floats) -> Floats:
        """Costs [K, R] of the last of some events played one after the other, the first's given."""
        return self.lattice.run(events, first)[-1]

    def _held_round(self, loop: _Loop, costs: Floats, along: Callable[[Floats], Floats]) -> Floats:
        """Costs [K, R] of a loop's last states, seams counted in, from those of its first ones, of which only some that it comes
        round to are held, the likeliest first; `along` goes from the first to the last."""
        best = np.full_like(self.lattice.forward[loop.last], np.inf)
        came_round = 0
        for first in self._likeliest(loop, costs):
            if came_round == _ENOUGH or self._tried >= _MOST_TRIED:
                break
            self._tried += 1
            end = along(self._only(costs, first)) + self._back_to(loop, first)
            if np.isfinite(end).any():
                came_round += 1
                self.held.setdefault(loop.first, set()).add(first)
                best = np.minimum(best, end)
        return best

    def _likeliest(self, loop: _Loop, costs: Floats) -> Iterator[State]:
        """The first states of a loop that costs so much [K, R] to come to: the likeliest of every way of the picking hand, then the
        next likeliest of each."""
        bound = costs + self.tight.backward[loop.first]
        for ranked in np.argsort(bound, axis=0, kind="stable"):
            each = bound[ranked, np.arange(len(ranked))]
            for way in np.argsort(each, kind="stable").tolist():
                if each[way] < np.inf:
                    yield int(ranked[way]), way

    @staticmethod
    def _only(costs: Floats, state: State) -> Floats:
        """Costs [K, R] with all but one state at infinity."""
        only = np.full_like(costs, np.inf)
        only[state] = costs[state]
        return only

    def _back_to(self, loop: _Loop, first: State) -> Floats:
        """Costs [K, R] from every last state of a loop over all its seams to one first state."""
        costs = np.zeros_like(self.lattice.forward[loop.last])
        for seam, side in loop.seams:
            costs = costs + self._along_side(side, self.into(seam, first))
        return costs

    def _closed(self, outer: _Loop, start: Floats) -> Route | None:
        """The whole joined end to start: the first state is held, likeliest first, until no other can be better. `start` is [K,
        R]."""
        bound = start + self.tight.backward[0]
        best: Route | None = None
        for flat in np.argsort(bound, axis=None, kind="stable").tolist():
            self.cancelled()
            if not np.isfinite(bound.flat[flat]) or (best is not None and bound.flat[flat] >= best.cost - _SLACK):
                break
            k, r = divmod(flat, bound.shape[1])
            only = np.full_like(start, np.inf)
            only[k, r] = start[k, r]
            legs = self._along(only)
            ending = legs[-1].costs + self._back_to(outer, (k, r))
            last = best_state(ending)
            if np.isfinite(ending[last]) and (best is None or ending[last] < best.cost):
                best = Route(self._trace(legs, last), float(ending[last]))
        return best

    def _along_side(self, side: tuple[int, ...], after: Floats) -> Floats:
        """Costs [K, R] from every last state of a loop along a side way, if there is one, from those on its seam."""
        for event in side[::-1]:
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
        first, last = self._begun(loop), self.lattice.forward[loop.last]
        bound = (first + self.tight.backward[loop.first]).ravel()
        hopeful = np.flatnonzero(bound <= limit)
        ways = hopeful % first.shape[1]
        strokes = [
            np.isin(np.arange(first.shape[1]), group) for group in self._by_stroke(loop) if np.isin(ways, group).any()
        ]
        onward = [(group, self._onward(loop, group if len(hopeful) > _FEW else None)) for group in strokes]
        for group, costs in onward:
            bound.reshape(first.shape)[:, group] = (first + costs[0])[:, group]
        hopeful = hopeful[bound[hopeful] <= limit]
        most = max(_FEWEST_HELD, _MOST_CELLS // last.size)
        held = [k * first.shape[1] + r for k, r in self.held.get(loop.first, ())]
        hopeful = hopeful[np.lexsort((bound[hopeful], ~np.isin(hopeful, held)))][:most]
        found = np.full((len(hopeful), *last.shape), np.inf)
        for group, costs in onward:
            rows = np.flatnonzero(group[hopeful % first.shape[1]])
            self.cancelled()
            if len(rows):
                found[rows] = self._gone_along(loop, hopeful[rows], costs, limit)
        for n, flat in enumerate(hopeful.tolist()):
            self.cancelled()
            found[n] += self._back_to(loop, divmod(flat, first.shape[1]))
        return _Dense(hopeful, found)

    def _by_stroke(self, loop: _Loop) -> list[list[int]]:
        """The ways of a loop's first event, those together that sound it with one stroke."""
        found: dict[tuple[str, int], list[int]] = {}
        for part in self.lattice.layers.layers[self.main[loop.first]].parts:
            for way, sign in enumerate(part.places.sign[0].tolist(), part.first):
                found.setdefault((part.attack, sign), []).append(way)
        return list(found.values())

    def _onward(self, loop: _Loop, ways: NDArray[np.bool_] | None) -> list[Floats]:
        """For every place of a loop the least that it costs to go on from each state [K, R], where the loop comes round to a first
        state of some ways [R], or of any."""
        found = [self._again(loop, ways) + self.tight.backward[loop.last]]
        if ways is None:
            return [*self.tight.backward[loop.first : loop.last], *found]
        for event in self.main[loop.last : loop.first : -1]:
            found.append(self.lattice.layers.step_to(event).onward(self.lattice.masked(event, found[-1])))
        return found[::-1]

    def _gone_along(self, loop: _Loop, begin: NDArray[np.int64], onward: Sequence[Floats], limit: float) -> Floats:
        """Costs [S, K, R] of going along a loop from some states of its first event to its last, `onward` being what it costs at least
        to go on from every state of each place; infinite where a route through both would cost more than the limit."""
        start = self._begun(loop).ravel()[begin]
        places = range(loop.first, loop.last)
        alive = [np.flatnonzero(self.tight.forward[p] + onward[p - loop.first] <= limit) for p in places[1:]]
        alive = [begin, *alive, np.arange(onward[-1].size)][: len(onward)]
        reached = np.where(begin[:, None] == begin[None, :], 0.0, np.inf)
        for place, (before, after) in enumerate(pairwise(alive), loop.first):
            self.cancelled()
            event, shape = self.main[place + 1], self.lattice.forward[place].shape
            step, rest = self.lattice.layers.step_to(event), onward[place - loop.first].ravel()[before]
            hopeful = start[:, None] + reached + rest[None, :] <= limit
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
        found = np.full((len(begin), *onward[-1].shape), np.inf)
        found.reshape(len(begin), -1)[:, alive[-1]] = reached
        return found

    def _begun(self, loop: _Loop) -> Floats:
        """Costs [K, R] of coming to a loop's first event."""
        return (self.tight if loop.first < loop.last else self.lattice).forward[loop.first]

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

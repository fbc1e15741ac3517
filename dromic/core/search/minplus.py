"""The shortest path through layers whose step costs split into a left part, a right part and a knot between them.

A state of layer i is (k, r): k a node of the fretting hand, r a way of the picking hand. The ways of a layer come in
parts, one for each manner of sounding the event (struck, plucked, not struck at all). The step from (k', r') to a way
r of one part costs

    fret[k', k] + pick[g'(k'), r', g(k), r] + knot * (fret moves) * (pick moves)

with g the groups of strings that nodes share. Because the picking part knows of k' and k only their groups, the
relaxation is two small min-plus products: over r' for every k' and column, then over k' for every k. A column is a
(class, group, way): the knot is met by doing the first product for two classes of moves at once, without and with the
knot paid, and letting each pair (k', k) take its own.

Where the picking hand must remember more than one event, the ways r' are first gathered by the memory m they leave it
with, the cheapest of each; and a part whose ways each carry on one memory needs no first product at all.

The result is exact: the tests compare it with Dijkstra's algorithm on the fully expanded graph.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.core.values.arrays import Floats, Ints

State = tuple[int, int]
_MOST_AT_ONCE = 1_000_000
"""costs held at once while many searches go side by side"""
MOST_REPEATED = 8
"""ways up to which laying costs out for adding is quicker than spreading them each time; measured"""
MOST_PLAIN = 1_600
"""costs of a part up to which they are all held at once; measured, where the two ways take as long"""


@dataclass(frozen=True, eq=False)
class Leg:
    """Costs of reaching one part of a layer; make one with `leg`. M is the number of source ways, or of memories where
    they are gathered."""

    first: int
    """the first way of the part in its layer"""
    ways: int
    """R, the number of ways of the part"""
    fret: Floats
    """[K', K]"""
    wide: Floats
    """[K', K, R] or [K', K, 1]: the same for every way, laid out for adding"""
    column: Ints
    """[K', K]: the row of each pair, by source node, class and target group, in a flat [K' C, R]"""
    starts: Ints
    """[G]: the first target node of every group"""
    pick: Floats
    """[M, K' or 1, C R]: from every source to every column; [1, 1, C R] where columns each have a source of their own"""
    needs: Ints | None
    """[C R]: the memory that each column carries on, None where every source may lead to it"""

    @property
    def size(self) -> int:
        """Costs that one search looks at."""
        return self.fret.size * self.ways

    def relax(self, held: Floats) -> Floats:
        """Costs [K, R] of the part, from those of the sources, [K', M]."""
        if self.needs is not None:
            towards = held.take(self.needs, axis=1)
            towards += self.pick[0]
        else:
            towards = np.minimum.reduce(self.pick + held.T[:, :, None], axis=0)
        through = towards.reshape(-1, self.ways).take(self.column, axis=0)
        through += self.wide
        return np.asarray(np.minimum.reduce(through, axis=0))

    def relax_many(self, held: Floats) -> Floats:
        """The same for many searches at once, [N, K', M] to [N, K, R]; not where columns carry on memories."""
        towards = np.minimum.reduce(self.pick[None] + held.swapaxes(1, 2)[:, :, :, None], axis=1)
        through = towards.reshape(len(held), -1, self.ways).take(self.column, axis=1)
        through += self.wide
        return np.asarray(np.minimum.reduce(through, axis=1))

    def back(self, held: Floats, k: int, way: int) -> tuple[float, int, int]:
        """(cost, source node, source) of the cheapest way to a state, from costs [K', M] of the sources; the first of equals."""
        count, size = self.fret.shape[0], self.pick.shape[2]
        at = (self.column[:, k] * self.ways + way) % size
        if self.needs is not None:
            source = self.needs[at]
            alone = held[np.arange(count), source] + self.pick[0, 0, at] + self.fret[:, k]
            node = int(alone.argmin())
            return float(alone[node]), node, int(source[node])
        if self.pick.shape[1] > 1:
            at = self.column[:, k] * self.ways + way
            total = self.pick.reshape(len(self.pick), -1).take(at, axis=1)
        else:
            total = self.pick[:, 0].take(at, axis=1)
        total += held.T
        total += self.fret[:, k]
        best = int(total.argmin())
        return float(total.flat[best]), best % count, best // count

    def onward(self, after: Floats, sources: int) -> Floats:
        """Costs [K', M] to the end through this part, from those of its states, [K, R]."""
        count, columns = self.fret.shape[0], self.pick.shape[2] // self.ways
        if self.needs is None and self.pick.shape[1] > 1 and len(self.pick) * self.size <= _MOST_AT_ONCE:
            beyond = self.wide + after
            every = self.pick.reshape(len(self.pick), -1, self.ways).take(self.column, axis=1)
            every += beyond
            return np.asarray(np.minimum.reduce(every.reshape(len(self.pick), count, -1), axis=2).T)
        groups = len(self.starts)
        kind = (self.column - columns * np.arange(count)[:, None]) // groups
        found = []
        for each in range(columns // groups):
            fret = self.fret if columns == groups else np.where(kind == each, self.fret, np.inf)
            found.append(np.minimum.reduceat(fret[:, :, None] + after[None], self.starts, axis=1))
        beyond = np.concatenate(found, axis=1).reshape(count, -1)
        if self.needs is None:
            return np.stack([(pick + beyond).min(axis=1) for pick in self.pick], axis=1)
        order = np.argsort(self.needs, kind="stable")
        ranked = self.needs[order]
        first = np.flatnonzero(np.diff(ranked, prepend=-1))
        to_end = np.full((count, sources), np.inf)
        to_end[:, ranked[first]] = np.minimum.reduceat((beyond + self.pick[0])[:, order], first, axis=1)
        return to_end

    def ahead(self, k: int, source: int, sources: int) -> Floats:
        """Costs [K, R] from one source node and source to every state of the part."""
        row = self.pick[source if self.needs is None else 0, k if self.pick.shape[1] > 1 else 0]
        if self.needs is not None:
            row = np.where(self.needs == source, row, np.inf)
        row = row.reshape(-1, self.ways)
        return np.asarray(row.take(self.column[k] % len(row), axis=0) + self.wide[k])


@dataclass(frozen=True, eq=False)
class Plain:
    """The same for a part that is small enough to hold every cost at once, which is quicker then."""

    first: int
    ways: int
    cost: Floats
    """[K' M, K R]"""

    @property
    def size(self) -> int:
        """Costs that one search looks at."""
        return self.cost.size

    def relax(self, held: Floats) -> Floats:
        """Cheapest costs [K, R] of reaching the part's ways, from costs [K', M] held before."""
        return np.asarray(np.minimum.reduce(self.cost + held.reshape(-1, 1), axis=0)).reshape(-1, self.ways)

    def relax_many(self, held: Floats) -> Floats:
        """The same for many searches at once, [N, K', M] to [N, K, R]."""
        found = np.minimum.reduce(self.cost[None] + held.reshape(len(held), -1, 1), axis=1)
        return np.asarray(found).reshape(len(held), -1, self.ways)

    def back(self, held: Floats, k: int, way: int) -> tuple[float, int, int]:
        """(cost, node, source) of the cheapest way to one way at node k, from costs [K', M] held before."""
        total = self.cost[:, k * self.ways + way] + held.ravel()
        best = int(total.argmin())
        node, source = divmod(best, held.shape[1])
        return float(total[best]), node, source

    def onward(self, after: Floats, sources: int) -> Floats:
        """Cheapest costs [K', M] of going on from every source, from costs [K, R] after the part."""
        return np.asarray((self.cost + after.reshape(1, -1)).min(axis=1)).reshape(-1, sources)

    def ahead(self, k: int, source: int, sources: int) -> Floats:
        """Costs [K, R] of going on from one source at node k."""
        return np.asarray(self.cost[k * sources + source].reshape(-1, self.ways))


@dataclass(frozen=True, eq=False)
class Gather:
    """Source ways gathered by the memory they leave the picking hand with."""

    memory: Ints
    """[K', R']: the number of every way's memory"""
    slots: Ints
    """[K', M, S]: the ways of every memory, R' where there are fewer than S"""

    def held(self, reached: Floats) -> Floats:
        """The cheapest way [K', M] of every memory."""
        padded = np.concatenate([reached, np.full((len(reached), 1), np.inf)], axis=1)
        found = np.take_along_axis(padded, self.slots.reshape(len(reached), -1), axis=1)
        return np.asarray(found.reshape(self.slots.shape).min(axis=2))

    def way(self, reached: Floats, k: int, memory: int) -> int:
        """The cheapest way of a memory at one node, of costs [K', R'] reached."""
        ways = self.slots[k, memory]
        ways = ways[ways < reached.shape[1]]
        return int(ways[reached[k, ways].argmin()])


@dataclass(frozen=True, eq=False)
class Step:
    """Costs of one step between layers: a leg for every part of the layer it leads to, in their order."""

    legs: tuple[Leg | Plain, ...]
    nodes: int
    """K'"""
    sources: int
    """M"""
    gather: Gather | None = None

    def relax(self, reached: Floats) -> Floats:
        """Cheapest costs [K, R] of every state, from costs [K', R'] before the step."""
        held = reached if self.gather is None else self.gather.held(reached)
        if len(self.legs) == 1:
            return self.legs[0].relax(held)
        return np.concatenate([leg.relax(held) for leg in self.legs], axis=1)

    def relax_many(self, reached: Floats) -> Floats:
        """The same for many searches at once, [N, K', R'] to [N, K, R]."""
        first = self.legs[0]
        if self.gather is not None or len(self.legs) > 1 or (isinstance(first, Leg) and first.needs is not None):
            return np.stack([self.relax(one) for one in reached])
        each = max(1, _MOST_AT_ONCE // first.size)
        return np.concatenate([first.relax_many(reached[n : n + each]) for n in range(0, len(reached), each)])

    def back(self, reached: Floats, k: int, r: int) -> tuple[float, State]:
        """Cost of the cheapest way to a state, and the state it comes from, of costs [K', R'] reached."""
        leg = self.legs[0]
        if len(self.legs) > 1:
            leg = next(leg for leg in self.legs if r < leg.first + leg.ways)
        held = reached if self.gather is None else self.gather.held(reached)
        cost, node, source = leg.back(held, k, r - leg.first)
        return cost, (node, source if self.gather is None else self.gather.way(reached, node, source))

    def onward(self, after: Floats) -> Floats:
        """Costs [K', R'] from every state before the step to the end, from those after it."""
        found = [leg.onward(after[:, leg.first : leg.first + leg.ways], self.sources) for leg in self.legs]
        held = found[0] if len(found) == 1 else np.asarray(np.minimum.reduce(found))
        return held if self.gather is None else np.take_along_axis(held, self.gather.memory, axis=1)

    def ahead(self, k: int, r: int) -> Floats:
        """Costs [K, R] from one state to every state after the step."""
        source = r if self.gather is None else int(self.gather.memory[k, r])
        return np.concatenate([leg.ahead(k, source, self.sources) for leg in self.legs], axis=1)


def gather(numbers: Ints, group: Ints, count: int) -> Gather:
    """Ways gathered by the memory of each, of so many: `numbers` is [G', R'], `group` [K'] the group of every node."""
    groups, ways = numbers.shape
    most = max(int(np.bincount(row, minlength=count).max()) for row in numbers)
    slots = np.full((groups, count, most), ways)
    for g, row in enumerate(numbers.tolist()):
        filled = [0] * count
        for way, memory in enumerate(row):
            slots[g, memory, filled[memory]] = way
            filled[memory] += 1
    return Gather(numbers[group], slots[group])


def leg(first: int, fret: Floats, column: Ints, starts: Ints, pick: Floats, needs: Ints | None = None) -> Leg | Plain:
    """A leg from its parts; `pick` is [M, K' or 1, C, R], `needs` [R]."""
    ways = pick.shape[3]
    if needs is None and len(pick) * fret.size * ways <= MOST_PLAIN:
        rows = column if pick.shape[1] > 1 else column % pick.shape[2]
        cost = pick.reshape(len(pick), -1, ways).take(rows, axis=1)
        cost += fret[:, :, None]
        return Plain(first, ways, cost.swapaxes(0, 1).reshape(len(fret) * len(pick), -1))
    wide = fret[:, :, None]
    if ways <= MOST_REPEATED:
        wide = np.empty((*fret.shape, ways))
        for way in range(ways):  # quicker than any one call, which would copy costs by twos
            wide[:, :, way] = fret
    if needs is not None:
        needs = np.tile(needs, pick.shape[2])
    return Leg(first, ways, fret, wide, column, starts, pick.reshape(*pick.shape[:2], -1), needs)


def forward(start: Floats, steps: Sequence[Step]) -> list[Floats]:
    """Costs [K, R] of reaching the states of each layer (the Viterbi recurrence in the min-plus semiring)."""
    reached = [start]
    for step in steps:
        reached.append(step.relax(reached[-1]))
    return reached


def best_state(costs: Floats) -> State:
    """The cheapest state of a layer [K, R], the first of equals."""
    node, way = divmod(int(costs.argmin()), costs.shape[1])
    return node, way


def trace_back(reached: Sequence[Floats], steps: Sequence[Step], last: State) -> list[State]:
    """The cheapest path to a state of the last layer, a state a layer; `reached` holds [K, R] a layer."""
    path = [last]
    for before, step in zip(reached[: len(steps)][::-1], steps[::-1], strict=True):
        path.append(step.back(before, *path[-1])[1])
    return path[::-1]

"""The shortest path through layers whose step costs split into a left part, a right part and a knot between them.

A state of layer i is (k, r): k a node of the fretting hand, r a way of the picking hand. The step from (k', r') to
(k, r) costs

    fret[k', k] + pick[g'(k'), r', g(k), r] + knot * (fret moves) * (pick moves)

with g the groups of strings that nodes share. Because the picking part knows of k' and k only their groups, the
relaxation is two small min-plus products: over r' for every k' and group, then over k' for every k. The knot is met
by doing the first for two classes of moves at once, without and with the knot paid, and letting each pair (k', k)
take its own. Arrays are laid out so that every product is a few whole-array operations.

The result is exact: the tests compare it with Dijkstra's algorithm on the fully expanded graph.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.core.fretting import Floats, Ints

Bools = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Step:
    """Costs of one step on which the pick moves, laid out for the relaxation; make one with `step`."""

    fret: Floats
    """[K', K, R]: the same for every r"""
    group: Ints
    """[K']: group of every source node"""
    column: Ints
    """[K', K]: the row of each pair, by source node, class and target group, in a flat [K' 2 G, R]"""
    pick: Floats
    """[R', G', 2 G R]: without the knot for all target groups, then with it"""

    def towards(self, reached: Floats) -> Floats:
        """First product: the cheapest way r' out of every source node, [K' 2 G, R]."""
        best: Floats | None = None
        for way, pick in enumerate(self.pick):
            out = pick.take(self.group, axis=0)
            out += reached[:, way, None]
            best = out if best is None else np.minimum(best, out, out=best)
        assert best is not None
        return best.reshape(-1, self.fret.shape[2])

    def relax(self, towards: Floats) -> Floats:
        """Second product: costs [K, R] of the next layer."""
        through = towards.take(self.column, axis=0)
        through += self.fret
        return np.asarray(np.minimum.reduce(through, axis=0))

    def back(self, reached: Floats, towards: Floats, k: int, r: int) -> tuple[int, int]:
        """The state (k', r') from which (k, r) is reached most cheaply; the first of equals."""
        rows = self.column[:, k]
        node = int((towards[rows, r] + self.fret[:, k, 0]).argmin())
        at = (rows[node] * self.fret.shape[2] + r) % self.pick.shape[2]
        return node, int((reached[node] + self.pick[:, self.group[node], at]).argmin())

    def expanded(self) -> Floats:
        """Every step cost, [K', R', K, R]: the definition the relaxation must agree with."""
        count, _, ways = self.fret.shape
        pick = self.pick.reshape(*self.pick.shape[:2], -1, ways)
        columns = self.column - pick.shape[2] * np.arange(count)[:, None]
        right = np.array([pick[:, g][:, columns[a]] for a, g in enumerate(self.group)])
        return np.asarray(right + self.fret[:, None])


@dataclass(frozen=True, eq=False)
class Rest:
    """Costs of one step on which the pick only remembers where it was: way r' of group g' becomes way g' R' + r'."""

    cost: Floats
    """[K', K]"""
    group: Ints
    """[K'], ascending"""
    ways: int
    """R'"""

    def towards(self, reached: Floats) -> Floats:
        return reached

    def relax(self, towards: Floats) -> Floats:
        starts = np.searchsorted(self.group, np.arange(self.group[-1] + 1))
        nearest = np.minimum.reduceat(towards[:, None, :] + self.cost[:, :, None], starts, axis=0)
        return np.asarray(nearest.swapaxes(0, 1).reshape(self.cost.shape[1], -1))

    def back(self, reached: Floats, towards: Floats, k: int, r: int) -> tuple[int, int]:
        group, way = divmod(r, self.ways)
        total = np.where(self.group == group, reached[:, way] + self.cost[:, k], np.inf)
        return int(total.argmin()), way

    def expanded(self) -> Floats:
        count, after = self.cost.shape
        found = np.full((count, self.ways, after, (int(self.group[-1]) + 1) * self.ways), np.inf)
        for node, way in np.ndindex(count, self.ways):
            found[node, way, :, self.group[node] * self.ways + way] = self.cost[node]
        return found


@dataclass(frozen=True, eq=False)
class Pass:
    """A forward pass: costs of reaching every state, [K, R] a layer, and each step's first product."""

    reached: list[Floats]
    towards: list[Floats]

    @property
    def cost(self) -> float:
        """Of the cheapest path; infinite if a layer cannot be reached."""
        return float(self.reached[-1].min())

    def dead_end(self) -> int:
        """The first layer that cannot be reached."""
        return next(i for i, costs in enumerate(self.reached) if costs.min() == np.inf)


def columns(fret_moves: Bools, target: Ints, groups: int) -> Ints:
    """The `column` of a step, [K', K], from its fretting moves and the groups of the target nodes."""
    count = len(fret_moves)
    return np.asarray(2 * groups * np.arange(count)[:, None] + groups * fret_moves + target[None, :])


def step(fret: Floats, column: Ints, pick: Floats, pick_moves: Bools, source: Ints, knot: float) -> Step:
    """A step on which the pick moves, from its parts: `fret` [K', K], the `columns` of its pairs, `pick` and
    `pick_moves` [G', R', G, R], the groups of the source nodes and the price of a knot."""
    both = np.concatenate([pick, pick + knot * pick_moves], axis=2)
    laid = np.ascontiguousarray(both.swapaxes(0, 1)).reshape(pick.shape[1], pick.shape[0], -1)
    return Step(np.repeat(fret[:, :, None], pick.shape[3], axis=2), source, column, laid)


def forward(start: Floats, steps: Sequence[Step | Rest]) -> Pass:
    """Cost of reaching every state of every layer."""
    reached, towards = [start], []
    for one in steps:
        towards.append(one.towards(reached[-1]))
        reached.append(one.relax(towards[-1]))
    return Pass(reached, towards)


def trace(done: Pass, steps: Sequence[Step | Rest]) -> list[tuple[int, int]]:
    """The cheapest path, a state (k, r) a layer."""
    node, way = divmod(int(done.reached[-1].argmin()), done.reached[-1].shape[1])
    path = [(node, way)]
    for before, towards, one in zip(done.reached[-2::-1], done.towards[::-1], steps[::-1], strict=True):
        path.append(one.back(before, towards, *path[-1]))
    return path[::-1]

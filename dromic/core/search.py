"""The shortest path through layers whose step costs split into a left part, a right part and a knot between them.

A state of layer i is (k, r): k a node of the fretting hand, r a way of the picking hand. The step from (k', r') to
(k, r) costs

    fret[k', k] + pick[g'(k'), r', g(k), r] + knot * (fret moves) * (pick moves)

with g(k) the picking hand's group of node k. Because the fretting part knows nothing of r, the relaxation is two
small min-plus products (first over r', then over k') instead of one over all pairs of states. The result is exact:
the tests compare it with Dijkstra's algorithm on the fully expanded graph.
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
    """Costs of one step between layers. `source` and `target` map nodes to the groups of `pick`."""

    fret: Floats
    """[K', K]"""
    fret_moves: Bools
    """[K', K]: a move that takes part in a knot"""
    pick: Floats
    """[G', R', G, R]"""
    pick_moves: Bools
    """[G', R', G, R]"""
    source: Ints
    """[K']"""
    target: Ints
    """[K]"""
    knot: float
    """price where both hands move"""


def relax(reached: Floats, step: Step) -> Floats:
    """Costs [K, R] of the next layer from those of this one, [K', R']."""
    count, ways = reached.shape
    groups, next_ways = step.pick.shape[2], step.pick.shape[3]
    tied = step.pick + step.knot * step.pick_moves
    flat = np.stack([step.pick, tied])[:, step.source].reshape(2, count, ways, groups * next_ways)
    struck = (flat + reached[None, :, :, None]).min(axis=2).reshape(2, count, groups, next_ways)
    by_node = struck[:, :, step.target, :]
    through = np.where(step.fret_moves[:, :, None], by_node[1], by_node[0])
    through += step.fret[:, :, None]
    return np.asarray(through.min(axis=0))


def step_back(reached: Floats, step: Step, k: int, r: int) -> tuple[int, int]:
    """The state (k', r') from which (k, r) is reached most cheaply; the first of equals."""
    pick = step.pick[step.source, :, step.target[k], r]
    knots = step.pick_moves[step.source, :, step.target[k], r] & step.fret_moves[:, k][:, None]
    total = reached + pick + step.fret[:, k][:, None] + step.knot * knots
    best = int(np.argmin(total))
    return best // reached.shape[1], best % reached.shape[1]


def forward(start: Floats, steps: Sequence[Step]) -> list[Floats]:
    """Cost of reaching every state of every layer, [K, R] a layer; a layer no state reaches ends the list."""
    reached = [start]
    for step in steps:
        reached.append(relax(reached[-1], step))
        if not np.isfinite(reached[-1]).any():
            break
    return reached


def trace(reached: Sequence[Floats], steps: Sequence[Step]) -> list[tuple[int, int]]:
    """The cheapest path, a state (k, r) a layer."""
    best = int(np.argmin(reached[-1]))
    ways = reached[-1].shape[1]
    path = [(best // ways, best % ways)]
    for before, step in zip(reached[-2::-1], steps[::-1], strict=True):
        path.append(step_back(before, step, *path[-1]))
    return path[::-1]

"""The search alone against general graph libraries, on the same states and edge costs; building the graph is left out."""

from __future__ import annotations

import statistics
from collections.abc import Callable

import networkx as nx
import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra

from bench.lines import line, median_ms, request, row
from dromic.core.search.lattice import Layers
from dromic.core.search.minplus import State, best_state, forward, trace_back
from dromic.core.search.planner import Solved, solve
from tests.build import expanded


def edges(layers: Layers) -> tuple[np.ndarray, np.ndarray, np.ndarray, int]:
    """Every finite step as (from, to, weight), states numbered layer by layer, 0 the source and 1 the sink."""
    froms, tos, weights = [], [], []
    first, shape = 2, layers.start.shape
    ok = np.flatnonzero(np.isfinite(layers.start.ravel()))
    froms.append(np.zeros(len(ok), int))
    tos.append(first + ok)
    weights.append(layers.start.ravel()[ok])
    for i, step in enumerate(layers.steps[1:], start=1):
        assert step is not None
        cost = expanded(step, layers.layers[i - 1].ways)
        after = cost.shape[2:]
        flat = cost.reshape(shape[0] * shape[1], after[0] * after[1])
        a, b = np.nonzero(np.isfinite(flat))
        following = first + flat.shape[0]
        froms.append(first + a)
        tos.append(following + b)
        weights.append(flat[a, b])
        first, shape = following, after
    last = np.arange(shape[0] * shape[1])
    froms.append(first + last)
    tos.append(np.ones(len(last), int))
    weights.append(np.zeros(len(last)))
    return np.concatenate(froms), np.concatenate(tos), np.concatenate(weights), first + len(last)


def csgraph_of(solved: Solved) -> Callable[[], object]:
    """scipy's Dijkstra over the edges of a plan's search, which other times are told in."""
    a, b, w, count = edges(solved.layers)
    # scipy reads a stored 0 as no edge; the smallest shift that keeps order makes every weight positive
    matrix = csr_matrix((w + 1e-12, (a, b)), shape=(count, count))
    return lambda: dijkstra(matrix, indices=0, return_predecessors=True)


def bench_search() -> None:
    solved = solve(request(line(64)))
    layers = solved.layers

    def search() -> list[State]:
        reached = forward(layers.start, layers.onward)
        return trace_back(reached, layers.onward, best_state(reached[-1]))

    assert tuple(search()) == solved.route.states
    a, b, w, _ = edges(layers)
    csgraph = csgraph_of(solved)
    graph = nx.DiGraph()
    graph.add_weighted_edges_from(zip(a.tolist(), b.tolist(), w.tolist(), strict=True))
    ours, theirs, reference = [], [], []
    for _ in range(9):
        # in turn, so that a machine whose speed drifts slows all of them alike
        ours.append(median_ms(search, 20))
        theirs.append(median_ms(csgraph, 5))
        reference.append(median_ms(lambda: nx.single_source_dijkstra(graph, 0, 1), 1))
    assert abs(nx.dijkstra_path_length(graph, 0, 1) - solved.route.cost) < 1e-9
    times = statistics.median(r / o for r, o in zip(reference, ours, strict=True))
    scipy_times = statistics.median(t / o for t, o in zip(theirs, ours, strict=True))
    row("search alone, 64 notes, positions free", f"{statistics.median(ours):.1f} ms, {len(w)} edges")
    row("  networkx's Dijkstra on the same edges / ours", f"{times:.0f} times", "aim: at least 100")
    row("  scipy.sparse.csgraph's on the same edges / ours", f"{scipy_times:.1f} times", "aim: at least 4")

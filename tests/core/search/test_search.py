"""The search against networkx: Dijkstra on the fully expanded graph, with the same states and step costs."""

import itertools
from fractions import Fraction

import networkx as nx
import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.search.planner import plan, solve
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled
from tests.build import EIGHTH, SIXTEENTH, cost, phrase, planned, request
from tests.examples import examples

SCHOOLS = tuple(presets.schools())
OPTIONS = st.fixed_dictionaries(
    {
        "school": st.sampled_from(SCHOOLS),
        "lean": st.sampled_from(["up-clear", "down-clear", "both-clear", "none-clear", "switching"]),
        "instrument": st.sampled_from(["guitar", "guitar7", "bass4"]),
        "legato": st.sampled_from(["never", "never", "turnarounds", "anywhere"]),
        "keep": st.sampled_from([frozenset({"positions", "attacks"}), frozenset({"positions"})]),
    }
)
EVENTS = st.lists(
    st.tuples(
        st.one_of(st.integers(45, 60), st.lists(st.integers(45, 58), min_size=2, max_size=2, unique=True)),
        st.sampled_from([SIXTEENTH, EIGHTH, Fraction(1, 3), Fraction(1)]),
        st.sampled_from([None, None, None, "hammer", "pull", "slide", "tap", "pluck"]),
    ),
    min_size=2,
    max_size=4,
)
PINS = st.lists(
    st.builds(
        Pin,
        st.integers(0, 1),
        st.just(0),
        st.sampled_from(["string", "position"]),
        st.integers(1, 6),
    )
    | st.builds(Pin, st.integers(0, 1), st.just(0), st.just("stroke"), st.sampled_from(["down", "up"])),
    max_size=2,
)


def shut(lattice):
    """Per layer 0 for a state that is open and inf for one that is not, [k, r]."""
    return [
        np.where(np.isfinite(lattice.masked(i, np.zeros(c.shape))), 0.0, np.inf) for i, c in enumerate(lattice.forward)
    ]


def expanded(lattice):
    """Every open state of every layer as a node, every finite step as an edge, with one source and one sink."""
    graph, closed = nx.DiGraph(), shut(lattice)
    start = lattice.layers.start + closed[0]
    for k, r in np.argwhere(np.isfinite(start)).tolist():
        graph.add_edge("in", (0, k, r), weight=float(start[k, r]))
    for i in range(1, len(closed)):
        for k, r in np.argwhere(np.isfinite(closed[i - 1])).tolist():
            costs = lattice.layers.step_to(i).ahead(k, r) + closed[i]
            for to in np.argwhere(np.isfinite(costs)).tolist():
                graph.add_edge((i - 1, k, r), (i, *to), weight=float(costs[tuple(to)]))
    for state in itertools.product(*map(range, closed[-1].shape)):
        graph.add_edge((len(closed) - 1, *state), "out", weight=0.0)
    return graph


def attempt(events, options, pins=()):
    notes, durations, attacks = zip(*events, strict=True)
    line = phrase(list(notes), list(durations), tempo=150, attacks={i: a for i, a in enumerate(attacks) if a and i})
    options = dict(options)
    try:
        return solve(request(line, options.pop("school"), pins=tuple(pins), **options))
    except DromicError:
        return None


@examples(60)
@given(EVENTS, OPTIONS, PINS)
def test_exact_against_a_plain_recurrence(events, options, pins):
    """Bellman's recurrence over the fully expanded steps: the cheapest way to every state, event by event."""
    solved = attempt(events, options, pins)
    assume(solved is not None)
    closed, step_to = shut(solved.lattice), solved.lattice.layers.step_to
    best = start = solved.lattice.layers.start + closed[0]
    for i in range(1, len(closed)):
        after = np.full(closed[i].shape, np.inf)
        for k, r in np.argwhere(np.isfinite(best)).tolist():
            after = np.minimum(after, best[k, r] + step_to(i).ahead(k, r))
        best = after + closed[i]
    assert solved.route.cost == pytest.approx(best.min())
    route = [tuple(state) for state in solved.route.states]
    walked = start[route[0]] + sum(step_to(i).ahead(*route[i - 1])[route[i]] for i in range(1, len(route)))
    assert walked == pytest.approx(best.min())


@examples(10)
@given(EVENTS, OPTIONS, PINS)
def test_exact_against_dijkstra(events, options, pins):
    """Against networkx, which shares no code with the search nor with the recurrence."""
    solved = attempt(events, options, pins)
    assume(solved is not None)
    length, path = nx.single_source_dijkstra(expanded(solved.lattice), "in", "out")
    assert solved.route.cost == pytest.approx(length)
    assert len(path) == len(solved.route.states) + 2


@examples(30)
@given(EVENTS, OPTIONS)
def test_both_passes_agree(events, options):
    """The cost from the start to every state and from it to the end: the cheapest sum is the same at every event."""
    solved = attempt(events, options)
    assume(solved is not None)
    for ahead, behind in zip(solved.lattice.forward, solved.lattice.backward, strict=True):
        assert (ahead + behind).min() == pytest.approx(solved.route.cost)


@given(st.lists(st.integers(48, 72), min_size=2, max_size=8), st.sampled_from(SCHOOLS))
def test_ceiling_is_the_tempo_at_which_the_largest_load_is_one(pitches, school):
    line = phrase(pitches, SIXTEENTH, tempo=110)
    found = planned(line, school)
    assume(found.ceiling is not None)
    assert max(m.load for m in found.moves) * found.ceiling == pytest.approx(110)
    low, high = found.ceiling_range
    assert low < found.ceiling < high
    assert found.ceiling_sustained < found.ceiling


@given(st.lists(st.tuples(st.integers(1, 6), st.integers(0, 9)), min_size=2, max_size=7))
def test_free_is_never_dearer_than_a_school_that_forbids_more(places):
    line = phrase(places, SIXTEENTH)
    free = cost(line, "free")
    for school in ("alternate", "economy", "downs", "pulse"):
        assert free <= cost(line, school, start="either" if school != "pulse" else None) + 1e-9


@given(st.lists(st.tuples(st.integers(1, 6), st.integers(0, 9)), min_size=2, max_size=7))
def test_keeping_more_never_makes_a_plan_cheaper(places):
    line = phrase(places, SIXTEENTH)
    assert cost(line, "free", keep=frozenset()) <= cost(line, "free") + 1e-9


@given(st.lists(st.integers(1, 6), min_size=2, max_size=8), st.sampled_from(["alternate", "economy"]))
def test_mirror_image_costs_the_picking_hand_the_same(strings, school):
    line = phrase([(s, 5) for s in strings], SIXTEENTH)
    mirror = phrase([(7 - s, 5) for s in strings], SIXTEENTH)
    one = planned(line, school, start="down", lean="up-clear")
    other = planned(mirror, school, start="up", lean="down-clear")
    assert sum(m.pick_load or 0 for m in one.moves) == pytest.approx(sum(m.pick_load or 0 for m in other.moves))


def test_impossible_strokes_name_the_note():
    line = phrase([(5, 5), (5, 7), (5, 5)], strokes={0: "down", 1: "down"})
    with pytest.raises(DromicError, match=r"bar 1, note 2.*alternate"):
        planned(line, "alternate", keep=frozenset({"positions", "attacks", "strokes"}))


def test_a_plan_can_be_cancelled():
    with pytest.raises(Cancelled):
        plan(request(phrase([60, 62, 64])), lambda share: False)


def test_long_phrases_plan():
    found = planned(phrase([45 + (7 * i) % 25 for i in range(600)], SIXTEENTH), "pulse")
    assert len(found.notes) == 600

"""Repeats, endings and loops: the seam is planned with the rest, and every written event is played the same each time."""

import itertools
from dataclasses import replace
from fractions import Fraction

import networkx as nx
import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from dromic.core.music.phrase import Swing
from dromic.core.search import loop_search
from dromic.core.search.lattice import MaskedLattice
from dromic.core.search.loop_search import best_route
from dromic.core.search.pin_masks import fewest_broken, masks_of
from dromic.core.search.planner import judge, solve
from dromic.core.setup.pin import Pin
from dromic.core.timing.pick_timing import Rhythm
from dromic.core.timing.playback_order import playback_of
from dromic.core.values.errors import DromicError
from tests.build import EIGHTH, QUARTER, SIXTEENTH, cost, expanded, phrase, planned, request, strokes
from tests.examples import examples

PLACES = st.lists(st.tuples(st.integers(1, 6), st.integers(0, 9)), min_size=2, max_size=5)


def marked(line, **bars):
    """The phrase with repeat marks on some bars, by index: b0=dict(...)."""
    made = [replace(b, **bars.get(f"b{i}", {})) for i, b in enumerate(line.bars)]
    return replace(line, bars=tuple(made))


def endings():
    """Two bars, the second a first ending, then a second ending: |: A [1 B :|[2 C |, four quarters each."""
    line = phrase([(6, f) for f in (3, 5, 7, 5)] + [(5, 5)] * 4 + [(4, 7)] * 4, QUARTER)
    return marked(
        line, b0={"repeat_start": True}, b1={"repeat_times": 2, "endings": (1,)}, b2={"endings": (2,)}
    )  # fmt: skip


def test_the_course_of_a_first_and_second_ending():
    playback = playback_of(endings(), False)
    assert playback.predecessor == (-1, 0, 1, 2, 3, 4, 5, 6, 3, 8, 9, 10)
    (seam,) = playback.seams
    assert (seam.source, seam.target, seam.quarters) == (7, 0, 1)
    assert playback.main == (0, 1, 2, 3, 8, 9, 10, 11) and playback.side(7) == (4, 5, 6, 7)
    assert not playback.straight and playback_of(endings().unrolled(), False).straight


def test_moves_follow_the_course_and_name_their_seams():
    moves = planned(endings(), "pulse", pulse="eighth").moves
    assert [(m.start, m.to) for m in moves if m.seam] == [(7, 0)]
    assert (3, 8) in [(m.start, m.to) for m in moves] and (7, 8) not in [(m.start, m.to) for m in moves]
    assert next(m for m in moves if (m.start, m.to) == (3, 8)).gap_ms == pytest.approx(500)


def test_a_loop_ends_with_its_seam():
    found = planned(phrase([(5, 5), (5, 7), (4, 5), (4, 7)], EIGHTH, tempo=120), "alternate", repeat=True)
    last = found.moves[-1]
    assert (last.start, last.to, last.seam) == (3, 0, True)
    assert last.gap_ms == pytest.approx(250 + 2 * 500)  # the bar is filled up before it comes round
    assert found.cost > planned(phrase([(5, 5), (5, 7), (4, 5), (4, 7)], EIGHTH, tempo=120), "alternate").cost


def test_strict_alternation_over_an_odd_count_starts_afresh_and_says_so():
    found = planned(phrase([(5, 5), (5, 7), (4, 5)], EIGHTH), "alternate", repeat=True)
    assert strokes(found) == "DUD" and "seam starts afresh" in found.notices[-1]


def test_a_looped_sweep_is_turned_at_its_seam():
    line = phrase([(3, 9), (2, 10), (1, 8), (2, 10)] * 3, Fraction(1, 3), tempo=120)
    through, looped = planned(line, "sweep"), planned(line, "sweep", repeat=True)
    assert looped.ceiling >= through.ceiling - 0.01
    assert looped.moves[-1].pick_kind == "carry-through"


@examples(25)
@given(PLACES, st.sampled_from(["free", "alternate", "economy", "sweep"]))
def test_repeating_never_lowers_the_cost_per_pass(places, school):
    line = phrase(places, SIXTEENTH)
    once = cost(line, school, start="either")
    try:
        looped = cost(line, school, start="either", repeat=True)
    except DromicError:
        return
    assert looped >= once - 1e-9


def cheapest_by_force(solved):
    """The best route over seams by trying every first state, each with Dijkstra on the opened graph."""
    lattice, layers = solved.lattice, solved.layers
    count = len(layers.layers)
    graph = nx.DiGraph()
    for i in range(1, count):
        costs = expanded(layers.step_to(i), layers.layers[i - 1].ways)
        for a in np.argwhere(np.isfinite(costs)).tolist():
            graph.add_edge((i - 1, *a[:2]), (i, *a[2:]), weight=float(costs[tuple(a)]))
    (seam,) = lattice.playback.seams
    step = layers.builder.seam(layers.layers, seam, lattice.free_seams)
    best = np.inf
    for state in np.argwhere(np.isfinite(layers.start)).tolist():
        first = (0, *state)
        if first not in graph:
            continue
        reached = nx.single_source_dijkstra_path_length(graph, first)
        for k, r in itertools.product(range(len(layers.layers[-1].fretting)), range(layers.layers[-1].ways)):
            if (count - 1, k, r) in reached:
                total = float(layers.start[tuple(state)]) + reached[count - 1, k, r]
                best = min(best, total + float(step.ahead(k, r)[tuple(state)]))
    return best


@examples(12)
@given(PLACES, st.sampled_from(["free", "alternate", "economy", "sweep", "pulse"]))
def test_loops_are_exact(places, school):
    try:
        solved = solve(request(phrase(places, SIXTEENTH), school, repeat=True))
    except DromicError:
        return
    assert solved.route.cost == pytest.approx(cheapest_by_force(solved))


@examples(10)
@given(PLACES, st.sampled_from(["free", "economy"]))
def test_a_repeat_within_costs_what_its_moves_come_to(places, school):
    """|: A :| B, with A and B one bar each: the route's cost is the sum of its steps and its seam."""
    from dromic.core.questions.alternatives import cost_of

    pad = [*places, *[(5, 5)] * (4 - len(places) % 4)]
    line = marked(phrase([*pad, *pad], QUARTER), b0={"repeat_start": True, "repeat_times": 2})
    solved = solve(request(line, school))
    assert solved.route.cost == pytest.approx(cost_of(solved.lattice, solved.route.states))
    rough = solve(request(line, school), rough=True)
    # else its seam starts afresh, outside the school, or another ceiling keeps strokes from the beat, and it may be cheaper
    if (rough.notices, rough.pace) == (solved.notices, solved.pace):
        assert solved.route.cost <= rough.route.cost + 1e-9
    assert judge(solved).seams[0].to == 0


def test_swing_reaches_over_a_jump():
    from dromic.core.music.phrase import Swing

    line = marked(
        phrase([(6, 3)] * 8 + [(5, 3)] * 8, EIGHTH, swing=Swing(EIGHTH, Fraction(2))),
        b0={"repeat_start": True, "repeat_times": 2},
    )
    (seam,) = playback_of(line, False).seams
    assert seam.ms == pytest.approx(500 / 3)  # from the short last eighth to the bar line, at 120


def one_note_endings(a, b, c):
    """|: a [1 b :|[2 c |, a whole bar each."""
    line = phrase([a, b, c], QUARTER * 4)
    return marked(line, b0={"repeat_start": True}, b1={"repeat_times": 2, "endings": (1,)}, b2={"endings": (2,)})


@examples(15)
@given(
    st.lists(st.tuples(st.integers(1, 6), st.integers(1, 9)), min_size=3, max_size=3),
    st.sampled_from(["free", "economy"]),
)
def test_first_endings_are_exact(places, school):
    """Every state of the first note tried: out over the first ending and back, then on to the second."""
    solved = solve(request(one_note_endings(*places), school))
    layers, lattice = solved.layers, solved.lattice
    (seam,) = lattice.playback.seams
    back = layers.builder.seam(layers.layers, seam, False)
    into_b, into_c = layers.step_to(1), layers.step_to(2)
    best = np.inf
    for k, r in np.argwhere(np.isfinite(layers.start)).tolist():
        over = into_b.ahead(k, r)
        round_again = min(
            float(over[s]) + float(back.ahead(*s)[k, r]) for s in np.ndindex(*over.shape) if np.isfinite(over[s])
        )
        best = min(best, float(layers.start[k, r]) + round_again + float(into_c.ahead(k, r).min()))
    assert solved.route.cost == pytest.approx(best)


def test_a_phrase_written_out_plans_each_repeat_by_itself():
    line = marked(phrase([(5, 5), (5, 7), (4, 5), (4, 7)], QUARTER), b0={"repeat_start": True, "repeat_times": 3})
    assert len(planned(line, "free").notes) == 4 and len(planned(line.unrolled(), "free").notes) == 12
    assert planned(line.unrolled(), "free").seams == ()


def test_bars_that_are_never_played_are_planned_as_written():
    line = marked(phrase([(5, 5)] * 8, QUARTER), b1={"endings": (3,)})
    playback = playback_of(line, False)
    assert playback.straight and playback.main == tuple(range(8))


def test_pins_hold_over_repeats_and_never_make_them_cheaper():
    from dromic.core.setup.pin import Pin

    free = solve(request(endings(), "free"))
    pinned = judge(free.pinned(Pin(5, 0, "finger", "2"), Pin(9, 0, "stroke", "up")))
    assert pinned.notes[5].finger == "2" and pinned.notes[9].stroke == "up"
    assert pinned.cost >= free.route.cost - 1e-9
    anew = planned(endings(), "free", pins=pinned.request.pins)
    assert anew.cost == pytest.approx(pinned.cost)


def test_one_note_loops_in_every_school():
    from dromic import presets

    for school in presets.schools():
        (seam,) = planned(phrase([(4, 5)], QUARTER), school, repeat=True).moves
        assert (seam.start, seam.to, seam.seam) == (0, 0, True), school


def test_a_loop_in_every_school():
    line = phrase([(6, 3), (5, 5), (4, 5), (5, 5)], EIGHTH, tempo=100)
    for school in ("hybrid", "legato", "fingers", "pattern", "downstart", "downs", "pulse"):
        found = planned(line, school, repeat=True)
        assert found.moves[-1].seam and found.moves[-1].to == 0, school
        assert found.moves[-1].pick_kind != "legato" or found.notes[0].stroke == "none"


MARKS = st.fixed_dictionaries(
    {
        "repeat_start": st.booleans(),
        "repeat_times": st.sampled_from([0, 0, 2, 3]),
        "endings": st.sampled_from([(), (), (1,), (2,), (1, 2), (3,)]),
    }
)


@examples(60)
@given(st.lists(MARKS, min_size=2, max_size=5), st.sampled_from(["free", "pulse", "alternate"]), st.booleans())
def test_any_tangle_of_repeats_is_planned(marks, school, repeat):
    """However odd the repeat marks, every event is reached once and every jump back is a seam."""
    line = phrase([(5, 3 + i % 4) for i in range(2 * len(marks))], QUARTER * 2, tempo=100)
    line = marked(line, **{f"b{i}": m for i, m in enumerate(marks)})
    found = planned(line, school, repeat=repeat)
    assert [m.to for m in found.onward] == list(range(1, len(line.events)))
    assert all(m.to <= m.start for m in found.seams)
    assert playback_of(line, repeat).odd == any("planned as it is written" in s for s in found.notices)
    assert repeat <= bool(found.seams)


@examples(15)
@given(PLACES, st.sampled_from(["free", "economy", "hybrid", "legato"]))
def test_loops_come_out_the_same_through_all_states_and_through_the_hopeful_ones(places, school):
    pad = [*places, *[(5, 5)] * (4 - len(places) % 4)]
    line = marked(phrase([*pad, *pad], QUARTER), b0={"repeat_start": True, "repeat_times": 2})
    asked = request(line, school, keep=frozenset())
    costs = []
    for few in (1e-9, 1e9):
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(loop_search, "_AHEAD_PER_PASS", few)
            patch.setattr(loop_search, "_SUMS_PER_PASS", few)
            costs.append(solve(asked).route.cost)
    assert costs[0] == pytest.approx(costs[1])


@examples(20)
@given(
    st.lists(st.tuples(st.integers(1, 6), st.integers(0, 9)), min_size=4, max_size=4),
    st.lists(st.sampled_from(["down", "up"]), min_size=4, max_size=4),
    st.sampled_from(["alternate", "economy"]),
)
@example([(5, 5), (5, 7), (5, 8), (4, 5)], ["up", "up", "down", "up"], "alternate")
def test_the_fewest_strokes_are_let_go_of_over_a_repeat(places, pinned, school):
    """|: A :| A, every stroke pinned: as few are let go of as any choice of them allows that is tried out."""
    line = marked(phrase(places * 2, QUARTER), b0={"repeat_start": True, "repeat_times": 2})
    layers = solve(request(line, school)).layers
    pins = [Pin(event, 0, "stroke", stroke) for event, stroke in enumerate(pinned)]
    free = {"free_seams": True}
    fewest = next(
        size
        for size in range(len(pins) + 1)
        if any(
            best_route(MaskedLattice(layers, masks_of(layers, kept), **free)) is not None
            for kept in itertools.combinations(pins, len(pins) - size)
        )
    )
    assert len(fewest_broken(layers, pins)) == fewest


@examples(30)
@given(PLACES, st.booleans(), st.sampled_from([1.0, 1.5, 2.0]), st.sampled_from([1.0, 0.5]), st.integers(20, 399))
def test_times_at_a_slower_tempo_are_those_of_the_slower_phrase(places, repeat, swing, pace, tempo):
    line = marked(
        replace(phrase([*places, *places], EIGHTH, tempo=400), swing=Swing(Fraction(1, 2), Fraction(swing))),
        b0={"repeat_start": True, "repeat_times": 2, "pace": pace},
    )
    asked = Rhythm(line, playback_of(line, repeat))
    slower, anew = asked.at_tempo(tempo, repeat), line.at_tempo(tempo)
    made = Rhythm(anew, playback_of(anew, repeat))
    assert (slower.ms, slower.playback.step_ms, slower.playback.seams, slower.before) == (
        made.ms, made.playback.step_ms, made.playback.seams, made.before
    )  # fmt: skip
    assert (slower.ticks, slower.beat_ticks, slower.end_ticks) == (made.ticks, made.beat_ticks, made.end_ticks)
    assert slower.asked is asked

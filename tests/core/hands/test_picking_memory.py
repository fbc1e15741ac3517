"""What the picking hand remembers: the long way of the search must agree with the short one, and forget as it says."""

from fractions import Fraction as F

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.core.hands.articulation_options import EventOptions, articulation_options
from dromic.core.hands.event_facts import NEVER
from dromic.core.hands.picking_states import OLD, PickingStateFactory
from dromic.core.prices.price_list import PRICES
from dromic.core.search import minplus
from dromic.core.search.minplus import Gather, Leg, Plain, gather
from dromic.core.search.planner import solve
from dromic.core.timing.pick_timing import Rhythm
from dromic.core.timing.playback_order import playback_of
from dromic.core.values.vocabulary import HAMMER_NEW, PICK, PINCH, PLUCK, SLUR
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned, request
from tests.examples import examples

LINES = st.lists(st.tuples(st.integers(1, 6), st.integers(0, 9)), min_size=2, max_size=6)


@examples(30)
@given(LINES, st.sampled_from(["alternate", "pulse", "economy", "sweep", "downstart", "free"]))
def test_remembering_everything_comes_to_the_same_plan(places, school):
    """Within the hand's memory, ways that carry whole memories cost what ways that only know places do."""
    line = phrase(places, SIXTEENTH)
    short = solve(request(line, school))
    plain = PickingStateFactory.offered

    def remembering(self, made, rhythm):
        found = plain(self, made, rhythm)
        found.remembers = True
        return found

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(PickingStateFactory, "offered", remembering)
        long = solve(request(line, school))
    assert long.layers.builder.ways.remembers and not short.layers.builder.ways.remembers
    assert long.route.cost == pytest.approx(short.route.cost)


def offered(line, school, **options):
    wanted = request(line, school, **options)
    return articulation_options(wanted, "eighth", Rhythm(wanted.phrase, playback_of(wanted.phrase, False)))


def test_each_school_offers_what_it_lives_by():
    line = phrase([(5, 7), (3, 9), (2, 10), (5, 7)], EIGHTH)
    assert [o.attacks for o in offered(line, "alternate")] == [(PICK,)] * 4
    assert [o.attacks for o in offered(line, "hybrid")] == [(PICK,), (PLUCK,), (PLUCK,), (PICK,)]
    assert [o.attacks for o in offered(line, "fingers")] == [(PLUCK,)] * 4
    assert [o.attacks for o in offered(line, "legato")][1:] == [(PICK, SLUR, HAMMER_NEW)] * 3
    chord = phrase([[(5, 7), (3, 9)], (5, 7)], EIGHTH)
    assert offered(chord, "hybrid")[0].attacks == (PINCH,)
    full = phrase([[(6, 3), (5, 2), (4, 0), (3, 0), (2, 0), (1, 3)]], [1])
    assert offered(full, "hybrid")[0].attacks == (PICK,)  # more strings than fingers: only a strum takes them


def test_what_the_phrase_states_stands_unless_it_is_not_kept():
    line = phrase([(3, 5), (3, 7), (2, 5)], attacks={1: "hammer", 2: "pluck"}, strokes={2: "a"})
    kept = offered(line, "alternate")
    assert [o.attacks for o in kept] == [(PICK,), ("hammer",), (PLUCK,)] and kept[2].fingers == (3,)
    free = offered(line, "alternate", keep=frozenset({"positions"}))
    assert [o.attacks for o in free] == [(PICK,)] * 3
    assert offered(phrase([(3, 5)], attacks={0: "pull"}), "alternate")[0].attacks == (HAMMER_NEW,)


def test_turnarounds_are_the_notes_after_the_first_on_the_string_where_a_line_turns():
    line = phrase([(3, 5), (2, 5), (1, 5), (1, 8), (1, 5), (2, 5), (3, 5), (3, 7), (2, 5)])
    made = offered(line, "economy", legato="turnarounds")
    assert [i for i, o in enumerate(made) if o.chosen] == [3, 4, 7]
    assert not any(o.certain for o in made if o.chosen) and made[0].certain


def test_the_hand_forgets_what_is_long_ago():
    line = phrase([(5, 5), (3, 5), (2, 5), (5, 5)], [EIGHTH, EIGHTH, QUARTER, QUARTER], tempo=60)
    made = tuple(EventOptions((PICK,) if i in (0, 3) else (PLUCK,), (1, -1), (2, 3)) for i in range(4))
    solved = solve(request(line, "free"))
    ways = PickingStateFactory(solved.request.player, 6, False, PRICES).offered(made, solved.layers.rhythm)
    parts = ways.after(0, ways.nothing(), ways.held(0, ways.nothing()), ((5,),))
    fresh = ways.held(1, parts)
    assert {m[0][7] for m in ways.nothing()[0].memory[0]} == {NEVER}
    assert {m[0][7] for m in fresh.memories} == {OLD}  # half a second ago, past the pick's memory
    quick = Rhythm(phrase([(5, 5), (3, 5)], SIXTEENTH, tempo=120), playback_of(phrase([(5, 5), (3, 5)]), False))
    ways = PickingStateFactory(solved.request.player, 6, False, PRICES).offered(made, quick)
    assert {m[0][7] for m in ways.held(1, parts).memories} == {0}


def test_ways_are_gathered_by_memory():
    numbers = np.array([[0, 1, 0], [1, 1, 0]])
    made = gather(numbers, np.array([0, 0, 1]), 2)
    assert isinstance(made, Gather)
    reached = np.array([[5.0, 2.0, 1.0], [3.0, 4.0, 9.0], [7.0, 6.0, 8.0]])
    assert made.held(reached).tolist() == [[1.0, 2.0], [3.0, 4.0], [8.0, 6.0]]
    assert (made.way(reached, 0, 0), made.way(reached, 2, 1)) == (2, 1)


@examples(20)
@given(st.integers(2, 5), st.integers(2, 5), st.integers(0, 1000), st.sampled_from([(0, Leg), (10**9, Plain)]))
def test_many_searches_side_by_side_are_what_each_is_alone(nodes, ways, seed, held):
    most, kind = held
    maker = np.random.default_rng(seed)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(minplus, "MOST_PLAIN", most)
        solved = solve(request(phrase([48 + nodes, 50 + ways, 55], SIXTEENTH), "free"))
    step = solved.layers.step_to(1)
    assert isinstance(step.legs[0], kind)
    many = maker.random((7, *solved.lattice.forward[0].shape))
    assert np.allclose(step.relax_many(many), np.stack([step.relax(one) for one in many]))


def test_one_finger_twice_is_dearer_than_two_in_turn():
    line = phrase([(3, 5), (2, 5)], SIXTEENTH, tempo=120, attacks={0: "pluck", 1: "pluck"})
    turn = planned(line, "free")
    again = planned(
        phrase([(3, 5), (2, 5)], SIXTEENTH, tempo=120, attacks={0: "pluck", 1: "pluck"}, strokes={0: "m", 1: "m"})
    )
    hand = turn.request.player.picking
    assert turn.moves[0].pick_load == pytest.approx(hand.pluck_other_ms / 125)
    assert again.moves[0].pick_load == pytest.approx(hand.pluck_same_ms / 125)


def test_a_pick_after_a_pluck_needs_both_its_own_way_and_the_finger_gone():
    line = phrase([(5, 5), (3, 5), (5, 5)], F(1, 8), tempo=120, attacks={1: "pluck"})
    move = planned(line, "free").moves[1]
    hand = planned(line, "free").request.player.picking
    assert move.pick_gap_ms == pytest.approx(125)
    assert move.pick_load == pytest.approx(max(hand.pick_after_pluck_ms / 62.5, hand.alternate_ms / 125))

"""The picking hand's moves against a plain rewriting of the rules, one move at a time."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.hands.pick_moves import Picking, PickPositions
from dromic.core.prices.price_list import PRICES
from dromic.core.setup.school import KINDS
from tests.build import phrase, planned

GUITAR = presets.instruments()["guitar"]
FLUENT = presets.players()["fluent"]


def place(string, down):
    at = np.array([[6 - string]])
    return PickPositions(np.array([[1 if down else -1]]), at, at, at, at, np.zeros_like(at))


def one_move(string_a, down_a, string_b, down_b, player=FLUENT):
    """(kind, hops, buried, ms) of a move between two single strings, from the planner's tables."""
    moves = Picking(player, GUITAR, PRICES).moves(place(string_a, down_a), place(string_b, down_b))
    at = (0, 0, 0, 0)
    return KINDS[moves.kind[at]], int(moves.hops[at]), bool(moves.buried[at]), float(moves.time_ms[at])


def by_the_book(string_a, down_a, string_b, down_b):
    """The same, written out from the table of moves for an up-clear fluent player."""
    towards_one = string_a - string_b
    step = towards_one if down_a else -towards_one
    skipped = abs(towards_one) - 1
    clear = not down_a

    def surcharge(hops):
        return 12.0 * math.log2(1 + 2 * hops)

    if towards_one == 0:
        return ("repeat", 1, False, 150.0) if down_a == down_b else ("same-string", 0, False, 83.0)
    if down_a == down_b:
        if step == 1:
            outermost = string_b == (1 if down_b else 6)
            return "carry-through", 0, False, 50.0 + (15.0 if clear else 0.0) + (25.0 if outermost else 0.0)
        if step > 1:
            return "skip-through", skipped, not clear, 50.0 + surcharge(skipped) + (0.0 if clear else 25.0)
        hops = skipped + 2
        return "back", hops, False, 150.0 + surcharge(hops) - surcharge(1)
    hops = skipped + 1
    base = 83.0 + surcharge(hops)
    name = "outside" if step > 0 else "inside"
    if step < 0:
        base *= 1.08
    base += 17.0 * skipped
    return ("skip-" if skipped else "") + name, hops, not clear, base + (0.0 if clear else 25.0)


@given(st.integers(1, 6), st.booleans(), st.integers(1, 6), st.booleans())
def test_every_move_agrees_with_the_table(string_a, down_a, string_b, down_b):
    kind, hops, buried, ms = one_move(string_a, down_a, string_b, down_b)
    book = by_the_book(string_a, down_a, string_b, down_b)
    assert (kind, hops, buried) == book[:3]
    assert ms == pytest.approx(book[3])


def test_three_notes_a_string_alternating_change_outside_from_down_and_inside_from_up():
    line = phrase([(4, 5), (4, 7), (4, 9), (3, 5)])
    for start, kind in (("down", "outside"), ("up", "inside")):
        assert planned(line, "alternate", start=start).moves[-1].pick_kind == kind


def test_a_chord_is_swept_to_beyond_its_last_string():
    """After a down over strings 6 to 4 the pick is between 4 and 3: an up over the same strings needs no hop."""
    chord = [(6, 0), (5, 2), (4, 2)]
    found = planned(phrase([chord, chord, (3, 2)], [1, 1, 1]), "free", keep=frozenset({"positions", "attacks"}))
    assert found.totals.picked == 3
    again = planned(phrase([chord, chord]), "alternate")
    assert (again.moves[0].pick_kind, again.moves[0].hops) == ("same-string", 0)
    down_again = planned(phrase([chord, chord]), "downs", pulse="sixteenth")
    assert (down_again.moves[0].pick_kind, down_again.moves[0].hops) == ("repeat", 3)


def test_lean_mirrors():
    """Strings reversed, strokes swapped and the lean mirrored: the same moves at the same price."""
    mirrored = FLUENT.with_leans(presets.leans()["down-clear"])
    for a in range(1, 7):
        for b in range(1, 7):
            for down_a in (True, False):
                for down_b in (True, False):
                    assert one_move(a, down_a, b, down_b) == one_move(7 - a, not down_a, 7 - b, not down_b, mirrored)


def test_a_player_who_switches_never_pays_more():
    line = phrase([(4, 5), (3, 5), (4, 7), (2, 5), (5, 5), (3, 7), (1, 5), (2, 5)], tempo=60)
    for school in ("alternate", "pulse", "economy"):
        costs = {lean: planned(line, school, lean=lean).cost for lean in ("up-clear", "down-clear", "switching")}
        assert costs["switching"] <= min(costs["up-clear"], costs["down-clear"]) + 1e-9


def test_a_pick_move_counts_from_the_last_picked_note():
    line = phrase([(3, 5), (3, 7), (2, 5)], attacks={1: "hammer"}, tempo=120)
    move = planned(line, "alternate").moves[1]
    assert move.gap_ms == pytest.approx(125.0) and move.pick_gap_ms == pytest.approx(250.0)
    assert move.pick_load == pytest.approx(move.pick_ms / 250.0)
    assert planned(line, "alternate").moves[0].pick_load is None


def test_rest_strokes():
    economy = planned(phrase([(5, 5), (4, 5), (3, 5), (1, 5), (1, 7)]), "economy", start="down")
    assert [n.rest_on for n in economy.notes] == [4, 3, 2, None, None]
    long = planned(phrase([(4, 5), (1, 5), (4, 5)], [1, 1, 1]), "downs")
    assert [n.rest_on for n in long.notes] == [3, None, 3]
    before_slur = planned(phrase([(4, 5), (4, 7)], [1, 1], attacks={1: "hammer"}), "downs")
    assert before_slur.notes[0].rest_on is None

"""The search's sums taken apart: what the rows of the price list cost along a route is what the route costs."""

from fractions import Fraction

import numpy as np
import pytest

from bench.same import SONGBOOK
from dromic import presets
from dromic.core.prices.load_price import load_price
from dromic.core.reports.explain import dear_words
from dromic.core.search.planner import judge, solve
from dromic.core.search.row_costs import row_costs
from dromic.core.setup.choices import Choices
from dromic.formats.document.document import read_songbook
from dromic.plan_requests import request_for
from tests.build import phrase, request

ENTRIES = read_songbook(SONGBOOK.read_bytes()).entries


@pytest.mark.parametrize("school", presets.schools())
def test_the_rows_of_a_route_are_what_it_costs(school):
    for entry in ENTRIES:
        chosen = Choices(tempo=entry.phrase.tempo, school=school, pattern="ddu" if school == "pattern" else "")
        solved = solve(request_for(entry.phrase, chosen, presets.players()))
        if solved.layers.rhythm.playback.seams:
            continue
        told = sum(
            cost.cost for e in range(len(entry.phrase.events)) for cost in row_costs(solved.path, e, asked=False)
        )
        assert told == pytest.approx(solved.route.cost, abs=1e-9), entry.phrase.title


def test_a_note_says_which_rows_make_it_dear_and_by_how_much():
    """The demo's worst place: the pick must get out from between the strings."""
    solved = solve(request_for(ENTRIES[0].phrase, Choices(tempo=132.0, school="pulse"), presets.players()))
    worst = max(judge(solved).moves, key=lambda move: move.pick_load or 0.0)
    words = dear_words(row_costs(solved.path, worst.to))
    assert words.startswith("Costs most here, estimated: picking load ") and "lifting out 25 ms" in words
    load = row_costs(solved.path, worst.to)[0]
    assert sum(ms for _, ms in load.parts) == pytest.approx(worst.pick_ms)
    assert dear_words(()) == ""


def beyond(school):
    """Slow notes between fast ones, asked far beyond their ceiling: searched at a slow tempo, the hand forgets them."""
    lengths = ([Fraction(1)] * 2 + [Fraction(1, 4)] * 6) * 3
    places = [(5, 3), (3, 0), (2, 1), (1, 0), (2, 1), (3, 0), (4, 2), (2, 3)] * 3
    solved = solve(request(phrase(places, lengths, tempo=300), school, player="settled"))
    assert solved.tempo < 0.5 * 300
    return solved, judge(solved)


def test_beyond_the_ceiling_loads_are_those_of_the_tempo_asked_for():
    solved, plan = beyond("alternate")
    judging = solved.request.player.judging
    for move in plan.moves:
        (load,) = (row for row in row_costs(solved.path, move.to) if row.name == "picking load")
        told = load_price(np.array(move.pick_load), judging.dial, judging.over_price)
        assert load.cost == pytest.approx(judging.picking_weight * float(told))


@pytest.mark.parametrize("school", ["hybrid", "fingers"])
def test_beyond_the_ceiling_rows_follow_the_fingers_that_plucked(school):
    solved, plan = beyond(school)
    for move in plan.moves:
        before, now = plan.leads[move.start], plan.leads[move.to]
        if move.pick_kind == "pluck" and before.attack == "pluck":
            (load,) = (row for row in row_costs(solved.path, move.to) if row.name == "plucking load")
            assert ("another finger" in dict(load.parts)) == (before.stroke != now.stroke)

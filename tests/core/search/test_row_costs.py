"""The search's sums taken apart: what the rows of the price list cost along a route is what the route costs."""

import pytest

from bench.same import SONGBOOK
from dromic import presets
from dromic.core.reports.explain import dear_words
from dromic.core.search.planner import judge, solve
from dromic.core.search.row_costs import row_costs
from dromic.core.setup.choices import Choices
from dromic.formats.document.document import read_songbook
from dromic.plan_requests import request_for

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
    assert words.startswith("Costs most here, estimated: picking load ") and "lifting out 27 ms" in words
    load = row_costs(solved.path, worst.to)[0]
    assert sum(ms for _, ms in load.parts) == pytest.approx(worst.pick_ms)
    assert dear_words(()) == ""

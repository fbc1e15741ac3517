"""The search's sums taken apart: what the rows of the price list cost along a route is what the route costs."""

import pytest

from bench.same import SONGBOOK
from dromic import presets
from dromic.core.search.planner import solve
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

"""The frontier of both hands' work, told from its meaning; plans of real tunes on the neck, side by side and from afar."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.chart.stand_view import StandView
from dromic.app.drawing.picture import ticks
from dromic.app.weigh.candidates import SCHOOL, Candidate
from dromic.app.weigh.frontier_plot import FrontierPlot
from dromic.app.weigh.side_by_side import SideBySide
from dromic.core.questions.alternatives import Balance, balance, frontier_requests, unbeaten
from dromic.core.reports.comparison import ceilings_by_bar, differing
from dromic.core.reports.neck import neck
from dromic.core.search.planner import plan
from dromic.core.setup.choices import Choices
from tests.build import EIGHTH, phrase, planned, request
from tests.examples import examples

LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7), (4, 7), (3, 5)], tempo=140)
SCHOOLS = ("alternate", "economy", "downs", "free", "hybrid", "legato")


def beaten(one: Balance, others: list[Balance]) -> bool:
    """Whether another is no worse at all three and better at one."""
    mine = (one.picking_work, one.fretting_work, one.unpicked)
    for other in others:
        theirs = (other.picking_work, other.fretting_work, other.unpicked)
        if all(t <= m + 1e-9 for t, m in zip(theirs, mine, strict=True)) and any(
            t < m - 1e-6 for t, m in zip(theirs, mine, strict=True)
        ):
            return True
    return False


def test_the_unbeaten_are_just_those_that_none_beats():
    plans = [plan(r) for r in frontier_requests(request(LINE, "free"))]
    kept = unbeaten(plans)
    everyone = [balance(p) for p in plans]
    assert kept and not any(beaten(k, everyone) for k in kept)
    places = {(round(k.picking_work, 6), round(k.fretting_work, 6), k.unpicked) for k in kept}
    for one in everyone:
        if not beaten(one, everyone):
            assert (round(one.picking_work, 6), round(one.fretting_work, 6), one.unpicked) in places


@pytest.mark.parametrize("school", SCHOOLS)
def test_the_least_of_the_bars_is_the_ceiling(school):
    found = planned(phrase([(3, 5), (2, 5), (1, 8), (2, 5), (4, 7), (2, 8)] * 6, tempo=130), school)
    bars = ceilings_by_bar(found)
    assert min(bars.values()) == pytest.approx(found.ceiling)
    for bar, ceiling in bars.items():
        loads = [m.load for m in found.moves if found.events[m.to][0].bar_number - 1 == bar]
        assert ceiling == pytest.approx(found.request.phrase.tempo / max(loads))


@given(st.lists(st.tuples(st.integers(1, 6), st.integers(0, 14)), min_size=2, max_size=14))
@examples(15)
def test_the_neck_shows_what_is_played_whatever_it_is(places):
    found = planned(phrase(list(places), EIGHTH, tempo=80), "alternate")
    instrument = found.request.instrument
    for event in range(len(places)):
        shown = neck(found, event, count=4)
        played = [n for e in range(event, min(event + 4, len(places))) for n in found.events[e]]
        assert {(d.string, d.fret) for d in shown.dots} == {(n.string, n.fret) for n in played}
        assert sorted(t for d in shown.dots for t in d.order) == list(range(1, len(played) + 1))
        for dot in shown.dots:
            behind = instrument.fret_mm(dot.fret) - dot.along_mm
            assert behind == pytest.approx(found.request.player.fretting.behind_fret_mm if dot.fret else 0)
            assert shown.frame.low_mm - 1e-6 <= dot.along_mm <= shown.frame.high_mm + 1e-6 or not dot.fret
        for outline in shown.outlines:
            assert outline.high_mm <= shown.frame.high_mm + 1e-6 or outline.high_mm > instrument.fret_mm(
                instrument.highest_fret
            )


def entries(*schools):
    return [Candidate(s, SCHOOL, Choices(school=s), planned(LINE, s)) for s in schools]


def test_plans_side_by_side_share_their_time(qtbot):
    view = SideBySide()
    qtbot.addWidget(view)
    view.resize(1000, 600)
    made = [*entries("alternate", "economy", "downs"), Candidate("none", SCHOOL, Choices(), None, "cannot be")]
    view.show_entries(made, 1)
    assert view.rows == [1, 0, 2]  # what all are held against is on top; what has no plan has no row
    plan_on_top = made[1].plan
    starts = [plan_on_top.events[e][0].start_s for e in range(len(LINE.events))]
    xs = [view.x_at(s) for s in starts]
    assert np.allclose(np.diff(xs), np.diff(starts) * view.px_per_s)
    for number in view.rows:
        assert view.marked[number] == set(differing(made[number].plan, plan_on_top))
    assert not view.marked[1]
    view.set_current(2)
    picture = view.viewport().grab().toImage()
    view.set_current(0)
    assert view.viewport().grab().toImage() != picture


@pytest.mark.parametrize(("size", "school"), [((1280, 800), "economy"), ((1920, 1080), "hybrid")])
def test_the_large_view_is_legible_from_two_metres(qtbot, size, school):
    """Numbers at least 8 mm tall at 96 dots an inch, and never on top of one another."""
    view = StandView()
    qtbot.addWidget(view)
    view.resize(*size)
    view.show_plan(planned(LINE, school), 0)
    from dromic.app.chart.stand_view import NUMBER_PX

    assert NUMBER_PX / 96 * 25.4 >= 8
    times = view.chart.event_s
    gaps = [view.x_at(b) - view.x_at(a) for a, b in pairwise(times)]
    assert min(gaps) >= 1.2 * NUMBER_PX
    rows = [view.y_at(mm) for mm in view.chart.string_mm]
    steps = [a - b for a, b in pairwise(rows)]
    assert min(abs(s) for s in steps) >= NUMBER_PX and max(steps) == pytest.approx(min(steps))
    assert all(0 < y < size[1] for y in rows)
    assert presets.schools()[school].label in view.plan.request.school.label


def test_a_point_of_the_plot_is_chosen_where_it_is_drawn(qtbot):
    """Its axes hold every point, with round ticks; a click beside all of them chooses none."""
    plans = {name: plan(request(LINE, name)) for name in ("alternate", "downs", "economy")}
    entries = [Candidate(name, SCHOOL, Choices(), found) for name, found in plans.items()]
    view = FrontierPlot()
    qtbot.addWidget(view)
    view.resize(900, 500)
    with qtbot.waitExposed(view):
        view.show()
    view.show_entries(entries)
    chosen = []
    view.chosen.connect(chosen.append)
    axes = view.plot.axes()
    for n, found in enumerate(plans.values()):
        one = balance(found)
        where = axes.at(one.picking_work, one.fretting_work)
        assert axes.box.contains(where)
        QTest.mouseClick(view.plot, Qt.MouseButton.LeftButton, pos=where.toPoint())
        assert chosen[-1:] == [n] or balance(plans[list(plans)[chosen[-1]]]) == one
    count = len(chosen)
    QTest.mouseClick(view.plot, Qt.MouseButton.LeftButton, pos=axes.box.topRight().toPoint())
    assert len(chosen) == count and list(ticks(*axes.across, axes.box.width()))


def test_ticks_are_round_and_far_enough_apart():
    assert list(ticks(0.0, 10.0, 600.0)) == [float(n) for n in range(11)]
    assert list(ticks(-0.3, 1.1, 180.0)) == [0.0, 0.5, 1.0]

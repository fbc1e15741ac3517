"""The neck as data and on screen: true millimetres, the hand's outline, order, shifts, stretches; mirrored for the left-handed."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic.app.chart.lanes import Lanes
from dromic.app.chart.neck_view import NeckView
from dromic.core.reports.chart import chart
from dromic.core.reports.neck import neck
from dromic.core.search.planner import plan
from tests.build import EIGHTH, phrase, planned, request

LINE = phrase([(6, 3), (5, 2), (5, 5), (4, 0), (2, 12), (2, 15)], EIGHTH, tempo=70)


def left_handed(asked):
    return replace(asked, player=replace(asked.player, habits=replace(asked.player.habits, left_handed=True)))


def test_dots_lie_where_the_frets_are():
    found = planned(LINE, "alternate")
    shown = neck(found, 0)
    instrument, behind = found.request.instrument, found.request.player.fretting.behind_fret_mm
    by_place = {(d.string, d.fret): d for d in shown.dots}
    assert set(by_place) == {(6, 3), (5, 2), (5, 5), (4, 0), (2, 12), (2, 15)}
    # the twelfth fret halves the string
    assert by_place[2, 12].along_mm == pytest.approx(instrument.scale_mm / 2 - behind)
    assert by_place[4, 0].along_mm == 0 and by_place[4, 0].finger == "0"
    middle = (instrument.nut_spacing_mm + instrument.bridge_spacing_mm) / 2
    assert by_place[2, 12].across_mm == pytest.approx(1.5 * middle, rel=0.02)  # half way the strings lie half way apart
    assert by_place[6, 3].now and by_place[6, 3].order == (1,) and by_place[2, 15].order == (6,)


def test_order_counts_from_the_cursor_and_places_played_again_keep_all_turns():
    found = planned(phrase([(3, 5), (3, 7), (3, 5), (2, 5), (3, 5)], EIGHTH), "alternate")
    shown = neck(found, 1, count=4)
    turns = {(d.string, d.fret): d.order for d in shown.dots}
    assert turns == {(3, 7): (1,), (3, 5): (2, 4), (2, 5): (3,)}
    assert (shown.first, shown.last) == (1, 4)


def test_the_hand_shifts_by_the_plan_s_own_millimetres():
    found = planned(LINE, "alternate")
    shifts = [m.shift_mm for m in found.onward if m.fret_kind == "shift"]
    shown = neck(found, 0)
    assert [abs(a.to_mm - a.from_mm) for a in shown.arrows] == pytest.approx(shifts)
    assert [o.now for o in shown.outlines] == [True] + [False] * len(shifts)
    hand = found.request.player.fretting
    for outline in shown.outlines:  # a finger a fret, opened and closed only so far
        assert hand.closed_mm[-1] <= outline.high_mm - outline.low_mm <= hand.offsets_mm[-1]


def test_stretches_are_told_from_the_limit_on():
    wide = planned(phrase([(6, 1), (6, 5), (6, 1), (6, 5)], EIGHTH), "alternate")
    shown = neck(wide, 0)
    assert shown.stretches
    for one in shown.stretches:
        assert abs(one.mm) > wide.request.player.fretting.stretch_from_mm
    assert max(abs(s.mm) for s in shown.stretches) <= wide.totals.max_stretch_mm + 1e-6
    assert not neck(planned(phrase([(3, 7), (3, 8), (3, 9)], EIGHTH), "alternate"), 0).stretches


def test_left_handed_pictures_are_mirrored(qtbot):
    asked = request(LINE, "alternate")
    views = []
    for one in (asked, left_handed(asked)):
        view = NeckView()
        qtbot.addWidget(view)
        view.resize(700, 150)
        view.show_plan(plan(one), 0)
        views.append(view)
    right, left = views
    for along, across in ((50.0, -10.0), (300.0, 20.0)):
        a, b = right.place(along, across), left.place(along, across)
        assert a.x() + b.x() == pytest.approx(700) and a.y() == b.y()
    # true proportion: a millimetre is as long along as across
    step = right.place(101.0, 0).x() - right.place(100.0, 0).x()
    assert step == pytest.approx(right.place(0, 1.0).y() - right.place(0, 0.0).y()) == pytest.approx(right.scale())
    drawn = [Lanes(chart(plan(one)), 900, 600, 200.0, 0.0) for one in (asked, left_handed(asked))]
    assert drawn[0].fret_y(100.0) > drawn[0].fret_y(300.0) and drawn[1].fret_y(100.0) < drawn[1].fret_y(300.0)
    assert drawn[0].pick_y(10.0) == drawn[1].pick_y(10.0)  # the low string lies on top for both
    assert plan(asked).cost == plan(left_handed(asked)).cost


def test_the_neck_follows_the_cursor_and_what_sounds(qtbot, demo_window):
    place = demo_window.plan_place
    place.chart.setFocus()
    QTest.keyClick(place.chart, Qt.Key.Key_End)
    last = place.planning.plan.notes[-1].event
    assert place.neck.event_shown == last and place.neck.neck.dots[0].now
    place.chart.select(3)
    assert (
        place.neck.event_shown == 3 and f"Notes {place.planning.plan.events[3][0].index + 1} to" in place.neck.toolTip()
    )
    place.show_playing(place.planning.plan.request.phrase.events[7].onset)
    assert place.neck.event_shown == 7
    QTest.keyClicks(place.chart, "n")
    assert not place.neck.isVisible()
    QTest.keyClicks(place.chart, "n")
    assert place.neck.isVisible()


def test_what_is_damped_is_shown_when_asked_for(demo_window):
    chart = demo_window.plan_place.chart
    before = chart.viewport().grab().toImage()
    QTest.keyClicks(chart, "m")
    assert chart.show_damping and chart.viewport().grab().toImage() != before
    QTest.keyClicks(chart, "m")
    assert not chart.show_damping and chart.viewport().grab().toImage() == before


def test_the_large_view_follows_what_sounds_a_page_at_a_time(qtbot, demo_window):
    QTest.keyClick(demo_window, Qt.Key.Key_F11)
    view = demo_window.pages.stand
    demo_window.resize(1280, 800)
    assert demo_window.pages.place == "Stand" and not demo_window.top_bar.isVisible() and view.isVisible()
    page = view.start_s
    times = view.chart.event_s
    turns = 0
    for seconds in [t + 0.01 for t in times]:
        view.show_playing(seconds)
        assert view.now == max(e for e, t in enumerate(times) if t <= seconds)
        assert 0 < view.x_at(times[view.now]) < view.width()
        turns += view.start_s != page
        page = view.start_s
    assert 1 <= turns < len(times) / 4
    QTest.keyClick(view, Qt.Key.Key_Home)
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert view.now == 1 == demo_window.plan_place.chart.selected
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert demo_window.pages.place == "Plan" and demo_window.top_bar.isVisible()


def test_a_chart_zoomed_out_to_a_long_phrase_shows_the_worst(qtbot):
    from dromic.app.chart.chart_view import ChartView

    view = ChartView()
    qtbot.addWidget(view)
    view.resize(900, 540)
    found = planned(phrase([(3, 5), (3, 7), (1, 5), (3, 8)] * 400, tempo=150), "alternate")
    view.show_plan(found, False)
    view.zoom_to_all()
    lanes = view.lanes()
    assert lanes.x(lanes.chart.end_s) <= 900
    image = view.viewport().grab().toImage()
    worst = max(found.moves, key=lambda m: m.pick_load or 0)
    x = int(lanes.x(lanes.chart.event_s[worst.to]))
    assert image.pixelColor(x, int(lanes.middle_top) - 12) != image.pixelColor(x, int(lanes.pick_loads_top) - 4)

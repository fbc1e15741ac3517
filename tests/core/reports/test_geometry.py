"""Laws every chart keeps, over the demo songbook and lines made at random: nothing is in two places, nothing is left out."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.chart.time_index import ChartIndex, IntervalIndex
from dromic.app.main import demo_songbook
from dromic.core.reports.chart import chart
from dromic.core.search.planner import plan
from dromic.core.setup.choices import Choices
from dromic.formats.table import read
from dromic.plan_requests import first_choices, request_for
from tests.examples import examples

TUNES = range(1, 8)
SPANS = st.lists(st.tuples(st.floats(0, 60), st.floats(0, 9)).map(lambda s: (s[0], s[0] + s[1])), max_size=30)


@pytest.fixture(scope="module", params=TUNES)
def drawn(request):
    """Every phrase of the demo songbook, planned and drawn."""
    phrase = read(demo_songbook(), request.param)
    players = presets.players()
    found = plan(request_for(phrase, first_choices(phrase, Choices()), players))
    return found, chart(found)


def test_every_note_is_drawn_once_and_in_its_time(drawn):
    found, made = drawn
    assert [x.at_s for x in made.labels] == sorted(x.at_s for x in made.labels)
    assert len(made.labels) == len(made.event_s) == len(found.events)
    struck = {n.event for n in found.notes if n.stroke in ("down", "up")}
    assert {s.event for s in made.strokes} == struck
    for stroke in made.strokes:
        assert (stroke.start_s + stroke.end_s) / 2 == pytest.approx(made.event_s[stroke.event])
        assert stroke.down == (stroke.end_mm > stroke.start_mm) == (found.events[stroke.event][0].stroke == "down")
    plucked = {n.event for n in found.notes if n.stroke not in ("down", "up", "none", "tap")}
    assert plucked <= {p.event for p in made.plucks}


def test_no_finger_is_at_two_frets_at_once(drawn):
    _, made = drawn
    for finger in "1234":
        bars = sorted((b for b in made.fingers if b.finger == finger), key=lambda b: (b.start_s, b.end_s))
        for a, b in itertools.combinations(bars, 2):
            if b.start_s >= a.end_s - 1e-6:
                continue
            assert a.fret == b.fret or a.kind == "slide" or b.kind == "slide", (a, b)


def test_the_hand_is_in_one_position_at_a_time(drawn):
    _, made = drawn
    for a, b in itertools.pairwise(made.bands):
        assert a.start_s < a.end_s <= b.start_s + 1e-9 and a.position != b.position
    for bar in made.fingers:
        if bar.finger in "1234":
            assert made.fret_mm[0] <= bar.mm <= made.fret_mm[bar.fret]


def test_the_picks_travel_is_the_plans_own(drawn):
    found, made = drawn
    spacing = found.request.instrument.pick_spacing_mm
    assert sum(t.hops for t in made.travels) * spacing == pytest.approx(
        sum(abs(t.end_mm - t.start_mm) for t in made.travels)
    )
    for travel in made.travels:
        assert travel.start_s <= travel.end_s and travel.load >= 0
    across = [s.start_mm for s in made.strokes] + [s.end_mm for s in made.strokes]
    assert not across or (-spacing <= min(across) and max(across) <= made.string_mm[0] + spacing)


@given(SPANS, st.floats(0, 70), st.floats(0, 20))
@examples(200)
def test_what_a_window_shows_is_all_that_touches_it(spans, start, wide):
    found = list(IntervalIndex(spans, lambda s: s[0], lambda s: s[1]).within(start, start + wide))
    touching = [s for s in spans if s[0] <= start + wide and s[1] >= start]
    assert sorted(s for s in found if s[1] >= start) == sorted(touching)
    assert found == sorted(found, key=lambda s: s[0]) and all(s[0] <= start + wide for s in found)


def test_windows_together_show_the_whole_chart(drawn):
    _, made = drawn
    shown = ChartIndex(made)
    for kind in ("strokes", "travels", "fingers", "labels", "moves", "turns", "plucks", "damped"):
        of = getattr(shown, kind)
        pieces = {id(i) for n in range(int(made.end_s) + 2) for i in of.within(n, n + 1)}
        assert pieces == {id(i) for i in of.items}, kind


def test_zoom_goes_from_one_beat_to_the_whole_tune_about_the_pointer(qtbot, demo_window):
    view = demo_window.plan_place.chart
    beat_s = 60 / demo_window.plan.request.phrase.tempo
    for _ in range(40):
        demo_window.pages.zoom(1.25)
    assert view.lanes().end_s - view.lanes().start_s <= beat_s * 1.05
    QTest.keyClick(demo_window, Qt.Key.Key_0, Qt.KeyboardModifier.ControlModifier)
    lanes = view.lanes()
    assert lanes.start_s <= 0 and lanes.end_s >= view.chart.end_s


def test_pointing_at_the_overview_moves_the_chart_there(qtbot, demo_window):
    place = demo_window.plan_place
    place.chart.zoom(4)
    strip = place.overview
    for share in (0.9, 0.5):
        seconds = share * place.chart.chart.end_s
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(strip._x(seconds)), 20))
        lanes = place.chart.lanes()
        assert lanes.start_s <= seconds <= lanes.end_s
        assert strip._window == pytest.approx((lanes.start_s, lanes.end_s), abs=0.02)

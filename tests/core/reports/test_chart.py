"""The chart's geometry, from data: strokes, travel, fingers and bands in seconds and millimetres."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QImage, QPainter

from dromic.app.chart.chart_fingers import ARRIVALS
from dromic.app.chart.chart_view import ChartView
from dromic.app.chart.lanes import GUTTER, LEAST_TALL, Lanes
from dromic.app.chart.overview import Overview
from dromic.app.drawing.glyphs import round_pen
from dromic.core.plan.damping import muting
from dromic.core.reports.chart import chart
from dromic.core.reports.explain import explain_event
from tests.build import EIGHTH, SIXTEENTH, phrase, planned


def test_strokes_cross_their_strings_at_the_onset():
    found = planned(phrase([(6, 3), (5, 5), (5, 7)], EIGHTH, tempo=120), "alternate")
    drawn = chart(found)
    spacing = found.request.instrument.pick_spacing_mm
    for stroke, onset, string in zip(drawn.strokes, (0.0, 0.25, 0.5), (6, 5, 5), strict=True):
        assert (stroke.start_s + stroke.end_s) / 2 == pytest.approx(onset)
        place = (6 - string) * spacing
        assert (stroke.start_mm + stroke.end_mm) / 2 == pytest.approx(place)
        assert stroke.end_mm - stroke.start_mm == pytest.approx(spacing if stroke.down else -spacing)


def test_travel_joins_strokes_and_its_length_is_its_hops():
    found = planned(phrase([(6, 3), (3, 5), (4, 5), (1, 7), (2, 5)], SIXTEENTH), "alternate")
    drawn = chart(found)
    spacing = found.request.instrument.pick_spacing_mm
    for a, travel, b in zip(drawn.strokes, drawn.travels, drawn.strokes[1:], strict=False):
        assert (travel.start_mm, travel.end_mm) == (a.end_mm, b.start_mm)
        assert abs(travel.end_mm - travel.start_mm) == pytest.approx(travel.hops * spacing)
        assert travel.start_s < travel.end_s
    assert sum(t.buried for t in drawn.travels) == found.totals.buried_hops


def test_fingers_lie_just_behind_their_frets_from_press_to_lift():
    found = planned(phrase([(6, 3), (5, 0), (5, 12)], EIGHTH, tempo=60), "alternate")
    drawn = chart(found)
    assert [b.fret for b in drawn.fingers] == [3, 12]
    behind = found.request.player.fretting.behind_fret_mm
    assert drawn.fingers[1].mm == pytest.approx(324.0 - behind)
    assert (drawn.fingers[1].start_s, drawn.fingers[1].end_s) == (1.0, 1.5)
    assert len(drawn.bands) == 2 and drawn.bands[1].position in range(8, 13)
    assert drawn.string_mm[0] == pytest.approx(5 * found.request.instrument.pick_spacing_mm)
    assert drawn.string_names == ("E", "B", "G", "D", "A", "E")


def test_pixels_keep_true_time_and_true_distance():
    drawn = chart(planned(phrase([(6, 3), (5, 5), (4, 5), (3, 4)], EIGHTH), "alternate"))
    lanes = Lanes(drawn, 900, 600, 200.0, 0.0)
    low = Lanes(drawn, 900, LEAST_TALL, 200.0, 0.0)
    assert low.fret_top + low.fret_height <= LEAST_TALL and low.pick_top + low.pick_height < low.pick_loads_top
    assert lanes.x(0.0) == GUTTER and lanes.x(1.0) - lanes.x(0.5) == pytest.approx(100)
    assert lanes.seconds(lanes.x(0.37)) == pytest.approx(0.37)
    gaps = [lanes.pick_y(b) - lanes.pick_y(a) for a, b in zip(drawn.string_mm, drawn.string_mm[1:], strict=False)]
    assert max(gaps) == pytest.approx(min(gaps))
    # a down-stroke goes down the screen, a higher fret lies higher
    assert lanes.pick_y(10.0) > lanes.pick_y(0.0)
    assert lanes.fret_y(100.0) > lanes.fret_y(200.0)
    assert lanes.fret_top + lanes.fret_height <= 600


def test_labels_count_and_bars():
    drawn = chart(planned(phrase([(6, 3)] * 6, [EIGHTH] * 2 + [SIXTEENTH] * 4), "pulse"))
    assert [x.count for x in drawn.labels] == ["1", "&", "2", "e", "&", "a"]
    from fractions import Fraction

    triplets = chart(planned(phrase([(6, 3)] * 3, Fraction(1, 3)), "pulse", pulse="triplet"))
    assert [x.count for x in triplets.labels] == ["1", "trip", "let"]
    assert drawn.bars == ((0.0, 1),) and drawn.beats[:2] == (0.0, 0.5)


def test_explanations_name_both_hands_and_how_much():
    found = planned(phrase([(3, 5), (2, 5)], SIXTEENTH, tempo=140), "alternate")
    what, pick, fret, idle = explain_event(found, 1, muting(found))
    assert "string 2 fret 5" in what and "up-stroke" in what
    assert "outside" in pick and "107 ms" in pick
    assert fret.startswith("Fretting hand:") and "ms" in fret
    assert idle.startswith("Idle strings damped:") and "3" in idle
    assert Overview.__doc__


def bent_and_slid():
    line = phrase(
        [(3, 7), (3, 9), (2, 8), (2, 8), (2, 10), (4, 7), [(3, 7), (2, 7), (1, 7)]], EIGHTH, attacks={1: "slide"}
    )
    events = list(line.events)
    for at, bend, marks in ((2, 2.0, {"bend"}), (3, 0.0, {"release"}), (5, 0.0, {"vibrato"})):
        notes = tuple(replace(n, bend=bend, marks=frozenset(marks)) for n in events[at].notes)
        events[at] = replace(events[at], notes=notes)
    return line.with_events(events)


def test_slides_start_where_the_finger_was_and_bends_last_as_long_as_their_notes():
    found = planned(bent_and_slid(), "free")
    drawn = chart(found)
    instrument, behind = found.request.instrument, found.request.player.fretting.behind_fret_mm
    slides = [b for b in drawn.fingers if b.slide_from_mm is not None]
    assert [(b.event, b.fret) for b in slides] == [(1, 9)]
    assert slides[0].slide_from_mm == pytest.approx(instrument.fret_mm(7) - behind)
    before = next(b for b in drawn.fingers if b.event == 0)
    assert before.finger == slides[0].finger  # the same finger carries on
    holds = {h.kind: h for b in drawn.fingers for h in b.holds}
    assert set(holds) == {"bend", "release", "vibrato"} and holds["bend"].semitones == 2.0
    for kind, event in (("bend", 2), ("release", 3), ("vibrato", 5)):
        note = found.events[event][0]
        assert (holds[kind].start_s, holds[kind].end_s) == (note.start_s, note.end_s)


def test_every_costly_arrival_of_a_finger_has_a_sign_of_its_own(qtbot):
    """Drawn alone, no two signs look alike; and every kind the planner tells apart by its price has one."""
    pictures = []
    for sign in ARRIVALS.values():
        picture = QImage(40, 40, QImage.Format.Format_RGB32)
        picture.fill(0xFFFFFF)
        painter = QPainter(picture)
        painter.setPen(round_pen(QColor("black"), 2.0))
        sign(painter, QRectF(10, 8, 13, 22))
        painter.end()
        assert all(picture != other for other in pictures)
        pictures.append(picture)
    kinds = {m.fret_kind for line in ("free", "legato") for m in planned(bent_and_slid(), line).moves}
    assert "slide" in kinds and set(ARRIVALS) >= kinds - {"hold", "finger", "open", "slide", "shift"}
    view = ChartView()
    qtbot.addWidget(view)
    view.resize(900, 500)
    plain, bent = phrase([(3, 7), (3, 9)], EIGHTH), bent_and_slid()
    for line in (plain, bent):
        view.show_plan(planned(line, "free"), False)
        assert not view.viewport().grab().isNull()

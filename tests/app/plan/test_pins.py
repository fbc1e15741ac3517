"""Pins and remedies in the real window: set by a key, drawn, undone, lifted; a remedy done and taken back."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic.core.setup.choices import Choices
from dromic.core.setup.pin import Pin

CTRL = Qt.KeyboardModifier.ControlModifier
K = Qt.Key


@pytest.fixture
def window(demo_window):
    return demo_window


def waited(qtbot, window, holds):
    qtbot.waitUntil(lambda: window.plan is not None and bool(holds(window.plan)), timeout=20000)


def test_a_stroke_is_pinned_and_planned_around_and_lifted(qtbot, window):
    chart, before = window.plan_place.chart, window.plan
    window.plan_place.panel.school.setCurrentIndex(window.plan_place.panel.school.findData("free"))
    waited(qtbot, window, lambda plan: plan.request.school.name == "free")
    before = window.plan
    chart.select(3)
    other = {"down": "u", "up": "d"}[before.events[3][0].stroke]
    QTest.keyClicks(chart, other)
    waited(qtbot, window, lambda plan: plan.request.pins)
    assert window.plan.events[3][0].stroke[0] == other and window.plan.cost >= before.cost
    assert "pinned: stroke" in window.plan_place.why.text()
    QTest.keyClicks(chart, "2" if before.events[3][0].finger != "2" else "3")
    waited(qtbot, window, lambda plan: len(plan.request.pins) == 3)
    QTest.keyClick(chart, K.Key_Delete)
    waited(qtbot, window, lambda plan: not plan.request.pins)
    assert window.plan.cost == pytest.approx(before.cost)
    QTest.keyClick(window, K.Key_Z, CTRL)
    waited(qtbot, window, lambda plan: len(plan.request.pins) == 3)
    QTest.keyClick(chart, K.Key_Delete, CTRL)
    waited(qtbot, window, lambda plan: not plan.request.pins)


def test_a_pin_that_cannot_be_is_said_and_the_plan_stays(qtbot, window):
    chart = window.plan_place.chart
    before = window.plan
    chart.select(0)
    QTest.keyClicks(chart, "3")  # an open string takes no finger
    qtbot.waitUntil(lambda: window.notice.isVisible() and "note 1" in window.notice.text(), timeout=20000)
    assert window.plan is before
    QTest.keyClick(window, K.Key_Z, CTRL)
    qtbot.waitUntil(lambda: not window.planning.choices.pins)


def test_the_remedy_of_a_finding_is_done_by_a_key_and_taken_back(qtbot, window):
    place = window.plan_place
    QTest.keyClick(window, K.Key_F9)
    assert "Choose a finding" in window.notice.text()
    qtbot.waitUntil(lambda: any(row[0].remedy for row in place.findings.rows()), timeout=20000)
    before = window.plan
    QTest.keyClick(window, K.Key_F8)
    remedy = place.findings.current().remedy
    assert remedy is not None and remedy.change.attacks  # the worst place: pull off instead of picking
    QTest.keyClick(window, K.Key_F9)
    waited(
        qtbot,
        window,
        lambda plan: all(plan.request.phrase.events[e].attack == a for e, a in remedy.change.attacks),
    )
    assert window.plan.ceiling == pytest.approx(remedy.ceiling) and window.isWindowModified()
    QTest.keyClick(window, K.Key_Z, CTRL)
    waited(qtbot, window, lambda plan: plan.cost == before.cost)
    window.open_book.turn_to(2)
    waited(qtbot, window, lambda plan: plan.request.phrase.title == "Five Oars")
    place.planning.choose(
        replace(place.planning.choices, tempo=98.0)
    )  # a little faster than it goes: a finger mends it
    waited(qtbot, window, lambda plan: plan.request.phrase.tempo == 98.0)
    qtbot.waitUntil(
        lambda: any(row[0].remedy and row[0].remedy.change.pins for row in place.findings.rows()), timeout=20000
    )
    number = next(n for n, row in enumerate(place.findings.rows()) if row[0].remedy and row[0].remedy.change.pins)
    place.findings._choose(number)
    pinning = place.findings.current().remedy
    QTest.keyClick(window, K.Key_F9)
    waited(qtbot, window, lambda plan: set(pinning.change.pins) <= set(plan.request.pins))
    assert window.plan.ceiling == pytest.approx(pinning.ceiling)


def test_pins_of_one_thing_give_way_to_each_other():
    up, down, finger = Pin(1, 0, "stroke", "up"), Pin(1, 0, "stroke", "down"), Pin(1, 0, "finger", "2")
    made = Choices().pinned(up, finger).pinned(down)
    assert made.pins == (finger, down)
    assert made.toggled(down).pins == (finger,) and made.toggled(up).pins == (finger, up)
    assert made.freed(1).pins == () and made.freed(0) == made and made.freed(None).pins == ()


def test_what_is_shown_of_the_phrase_as_it_was_is_not_taken_for_what_it_is(qtbot, demo_window):
    """While a new plan is made the old one is on screen; its notes are not the phrase's."""
    from dromic.core.editing.edit import Span, erase

    window = demo_window
    place, phrase = window.plan_place, window.open_book.phrase
    place.chart.select(len(phrase.events) - 1)
    window.open_book.edit(erase(phrase, Span(phrase.events[5].onset, phrase.end)), "erased")
    assert place.planning.planner.running and len(place.planning.plan.notes) > 5
    place.pin("place", "")
    assert window.open_book.choices.pins == () and "on its way" in window.notice.text()
    sounding, span = place.planning.to_play(window.open_book.phrase, place.chart.selected)
    assert len(sounding.events) == 5 and span is None
    qtbot.waitUntil(lambda: not place.planning.planner.running, timeout=20000)
    place.chart.select(2)
    place.pin("string", "")
    assert [k.event for k in window.open_book.choices.pins] == [2]


def test_a_selection_of_notes_that_are_gone_is_none(qtbot, demo_window):
    """It may have been begun at a note that was there and end at one that still is."""
    from dromic.core.editing.edit import Span, erase

    window = demo_window
    place, phrase = window.plan_place, window.open_book.phrase
    place.chart.select(len(phrase.events) - 1)
    place.chart.select(2, True)
    window.open_book.edit(erase(phrase, Span(phrase.events[5].onset, phrase.end)), "erased")
    qtbot.waitUntil(lambda: window.plan is not None and len(window.plan.events) == 5, timeout=20000)
    assert not place.chart.span
    place.pin("place", "")
    assert window.open_book.choices.pins == ()


def test_what_a_finding_does_is_undone_by_a_key_wherever_the_keyboard_is(qtbot, demo_window):
    """The tempo was stepped just before: its box has the keyboard, and must not take Ctrl+Z for itself."""
    window, panel = demo_window, demo_window.plan_place.panel
    before = window.planning.choices.tempo
    panel.tempo.setFocus()
    QTest.keyClick(panel.tempo, Qt.Key.Key_Up)
    qtbot.waitUntil(lambda: window.planning.choices.tempo == before + 1, timeout=5000)
    QTest.keyClick(panel.tempo, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.planning.choices.tempo == before, timeout=5000)

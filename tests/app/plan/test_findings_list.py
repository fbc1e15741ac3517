"""The list of findings: no sentence is cut off, what a player did at a note is listed too, what is chosen stays chosen."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFontMetricsF
from PyQt6.QtTest import QTest

from dromic.app.kit.theme import font
from dromic.app.plan.findings_list import LABELS
from dromic.core.plan.finding import OF_THE_PLAYER, SET_STROKE


def test_every_sentence_has_the_room_it_needs(qtbot, demo_window):
    findings = demo_window.plan_place.findings
    qtbot.waitUntil(lambda: any(row[0].remedy for row in findings.rows()), timeout=20000)
    QTest.qWait(50)
    for n, place in enumerate(findings.rows()):
        box = findings.visualRect(findings.model().index(n, 0))
        room = QRectF(0, 0, box.width() - 46, 10000)
        flags = int(Qt.TextFlag.TextWordWrap)
        told = QFontMetricsF(font(13)).boundingRect(room, flags, place[0].text).height()
        remedy = findings.model().remedy(n)
        helps = QFontMetricsF(font(13, "strong")).boundingRect(room, flags, remedy).height() if remedy else 0.0
        assert box.height() >= 44 + told + helps


def test_a_stroke_set_by_the_player_is_listed_stepped_to_and_painted(qtbot, demo_window):
    window = demo_window
    place = window.plan_place
    stroke = {"down": "up", "up": "down"}[window.plan.events[6][0].stroke]
    window.planning.choose(replace(window.planning.choices, overrides=((6, stroke),)))
    qtbot.waitUntil(
        lambda: window.plan is not None and any(f.rule == SET_STROKE for f in window.plan.findings), timeout=20000
    )
    at = next(n for n, row in enumerate(place.findings.rows()) if any(f.rule == SET_STROKE for f in row))
    for _ in range(at + 1):
        QTest.keyClick(window, Qt.Key.Key_F8)
    assert place.findings.currentIndex().row() == at
    place.chart.select(6)
    assert not place.findings.grab().isNull() and "is set to" in place.why.text()
    assert set(OF_THE_PLAYER) <= set(LABELS)


def test_what_is_chosen_stays_chosen_when_advice_comes(qtbot, demo_window):
    place = demo_window.plan_place
    QTest.keyClick(demo_window, Qt.Key.Key_F8)
    chosen = place.findings.current()
    place.findings.set_plan(demo_window.plan)
    assert place.findings.current().text == chosen.text
    place.findings.set_plan(replace(demo_window.plan, findings=demo_window.plan.findings[1:]))
    assert place.findings.current() is None or place.findings.current().text == chosen.text

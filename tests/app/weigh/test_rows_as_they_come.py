"""Weigh shows each plan when it is there, and says which are still being planned."""

from __future__ import annotations

from dromic.app.weigh.candidates import WeighScope
from dromic.core.setup.choices import Choices
from tests.build import EIGHTH, phrase

WAIT = 60000
LINE = phrase([(5, 5), (5, 7), (4, 5), (4, 7), (3, 5), (3, 7), (2, 5), (2, 8)], EIGHTH, tempo=140)
SCHOOLS = ("alternate", "economy", "free", "legato")


def test_rows_come_one_by_one_and_old_ones_are_not_shown(qtbot, demo_window):
    demo_window.pages.go_to("Weigh")
    place = demo_window.pages.weigh
    weighing = place.weighing
    qtbot.waitUntil(lambda: bool(place.entries) and not place.bar.isVisible(), timeout=WAIT)
    came: list[tuple[list[bool], str]] = []
    weighing.some_weighed.connect(
        lambda entries: came.append(([e.plan is not None for e in entries], place.words.text()))
    )
    weighing.wanted = WeighScope(SCHOOLS)
    before = weighing._asked
    weighing.weigh(LINE, Choices())
    qtbot.waitUntil(lambda: bool(came) and not place.bar.isVisible(), timeout=WAIT)
    assert [sum(there) for there, _ in came] == list(range(1, len(SCHOOLS) + 1))
    assert came[0][1].endswith(f"1 of {len(SCHOOLS)} so far")
    assert [e.plan is not None for e in place.entries] == [True] * len(SCHOOLS) and "so far" not in place.words.text()
    shown = place.entries
    weighing._came.emit(before, [])  # of the phrase before, on its way when another was asked for
    assert place.entries is shown

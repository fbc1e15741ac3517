"""Weighing: what is best at each measure, where plans differ, and the place in the real window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.weigh_place import BEST
from dromic.app.window import demo_songbook
from dromic.core.weigh import MEASURES, best_at, differing, fastest
from tests.build import phrase, planned

LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7)] * 3)


def test_the_best_of_each_measure_is_found():
    plans = [planned(LINE, school) for school in ("alternate", "economy", "downs")]
    by_label = {m.label: m for m in MEASURES}
    ceilings = [p.ceiling for p in plans]
    costs = [p.cost for p in plans]
    assert best_at(by_label["Work of both hands, the search's cost"], plans) == {costs.index(min(costs))}
    assert best_at(by_label["Picked"], plans) == set()  # neither more nor less is better
    hops = [p.totals.hops for p in plans]
    assert best_at(by_label["Strings passed over"], plans) == {n for n, h in enumerate(hops) if h == min(hops)}
    assert best_at(by_label["Ceiling, an estimate"], [plans[0], None, plans[0]]) == set()
    assert plans[fastest(plans)].ceiling == max(ceilings) and fastest([None]) is None


def test_differing_notes_are_told():
    one, other = planned(LINE, "alternate"), planned(LINE, "downs")
    events = differing(one, other)
    strokes = [n for n in range(18) if one.chord(n)[0].stroke != other.chord(n)[0].stroke]
    assert set(strokes) <= set(events) and strokes and differing(one, one) == []


@pytest.fixture
def window(qtbot, bare_window):
    bare_window.open_file(demo_songbook(), 3)
    qtbot.waitUntil(lambda: bare_window.plan is not None, timeout=20000)
    return bare_window


def test_all_schools_are_weighed_and_one_is_taken_to_plan(qtbot, window):
    QTest.keyClick(window, Qt.Key.Key_F4)
    place = window.weigh_place
    qtbot.waitUntil(lambda: bool(place.answers), timeout=60000)
    table = place.table
    assert [table.horizontalHeaderItem(c).text().replace("\n", " ") for c in range(11)] == [
        s.label for s in presets.schools().values()
    ]
    top = fastest([a.plan for a in place.answers])
    assert (
        table.item(0, top).text() == f"{BEST}{place.answers[top].plan.ceiling:.0f}" and table.item(0, top).font().bold()
    )
    assert presets.schools()[place.schools[top]].label in place.words.text() and "estimate" in place.words.text()
    assert table.item(len(MEASURES), top).text() == "0" and table.currentColumn() == top
    QTest.keyClick(table, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.plan.request.school.name == place.schools[top], timeout=20000)
    assert window.place == "Plan" and window.plan.ceiling == pytest.approx(place.answers[top].plan.ceiling)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.plan.request.school.name == "economy", timeout=20000)


def test_weighing_can_be_cancelled_and_begun_again(qtbot, window):
    window.go_to("Weigh")
    place = window.weigh_place
    place.cancel_button.click()
    assert "Cancelled" in place.words.text() and not place.answers
    window.go_to("Weigh")
    qtbot.waitUntil(lambda: bool(place.answers), timeout=60000)
    window.session.add_phrase()
    assert "no notes yet" in place.words.text()

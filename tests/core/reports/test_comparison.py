"""Weighing: what is best at each measure, where plans differ, and the place in the real window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.weigh.bar_table import LOWEST
from dromic.app.weigh.candidates import ALTERNATIVE, LEAN, SCHOOL, WeighScope
from dromic.app.weigh.totals_table import BEST
from dromic.app.window.window import demo_songbook
from dromic.core.reports.comparison import MEASURES, best_at, differing, fastest
from dromic.formats.sheet.sheet import sheet
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
    one, other = planned(LINE, "alternate"), planned(LINE, "economy")
    events = differing(one, other)
    strokes = [n for n in range(18) if one.events[n][0].stroke != other.events[n][0].stroke]
    assert set(strokes) <= set(events) and strokes and differing(one, one) == []


@pytest.fixture
def window(qtbot, bare_window):
    bare_window.open_file(demo_songbook(), 3)
    qtbot.waitUntil(lambda: bare_window.plan is not None, timeout=20000)
    return bare_window


def weighed(qtbot, window):
    """The Weigh place, once it has weighed."""
    window.go_to("Weigh")
    place = window.weigh_place
    qtbot.waitUntil(lambda: bool(place.entries) and not place.bar.isVisible(), timeout=60000)
    return place


def test_all_schools_are_weighed_and_one_is_taken_to_plan(qtbot, window):
    QTest.keyClick(window, Qt.Key.Key_F4)
    place = weighed(qtbot, window)
    table = place.table
    assert [e.label for e in place.entries] == [s.label for s in presets.schools().values()]
    heads = [table.horizontalHeaderItem(c).text().replace("\n", " ") for c in range(table.columnCount())]
    assert heads == [e.label for e in place.entries]
    top = fastest([e.plan for e in place.entries])
    best = place.entries[top]
    assert table.item(0, top).text() == f"{BEST}{best.plan.ceiling:.0f}" and table.item(0, top).font().bold()
    low, high = best.plan.ceiling_range
    assert table.item(1, top).text() == f"{low:.0f}–{high:.0f}"
    assert best.label in place.words.text() and "estimate" in place.words.text()
    assert table.item(len(MEASURES), top).text() == "0" and table.currentColumn() == top
    QTest.keyClick(table, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.plan.request.school.label == best.label, timeout=20000)
    assert window.place == "Plan" and window.plan.ceiling == pytest.approx(best.plan.ceiling)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.plan.request.school.name == "economy", timeout=20000)


def test_weighing_can_be_cancelled_and_begun_again(qtbot, window):
    window.go_to("Weigh")
    place = window.weigh_place
    place.cancel_button.click()
    assert "Cancelled" in place.words.text() and not place.entries
    weighed(qtbot, window)
    window.open_book.add_phrase()
    assert "no notes yet" in place.words.text()


def test_leans_and_other_ways_are_weighed_too(qtbot, window):
    place = weighed(qtbot, window)
    before = {e.label: e.plan for e in place.entries}
    place.weighing.want(WeighScope(("economy", "alternate"), ("", "down-clear"), 2))
    qtbot.waitUntil(lambda: len(place.entries) < 11 and not place.bar.isVisible(), timeout=60000)
    kinds = [e.kind for e in place.entries]
    assert kinds[:4] == [SCHOOL, LEAN, SCHOOL, LEAN] and set(kinds[4:]) <= {ALTERNATIVE}
    economy, leaning = place.entries[:2]
    assert economy.plan is before["Economy"]  # what is known is not planned again
    assert (
        leaning.label == "Economy, downs end clear"
        and leaning.plan.request.player.leans == presets.leans()["down-clear"]
    )
    place.weighing.want(WeighScope((), (), 0))
    qtbot.waitUntil(lambda: "Nothing is chosen" in place.words.text(), timeout=20000)


def test_every_view_shows_the_same_plan_as_current(qtbot, window):
    place = weighed(qtbot, window)
    place.choose(3)
    for page in (place.bars, place.side):
        place.tabs.setCurrentWidget(page)
    assert place.table.currentColumn() == place.side.current == 3
    assert place.bars.numbers[place.bars.currentRow()] == 3
    QTest.keyClick(place.side, Qt.Key.Key_Down)
    row = place.side.rows.index(3)
    assert place.current == place.side.rows[row + 1] == place.table.currentColumn()
    reference = place.entries[place.side.reference].plan
    for number in place.side.rows:
        plan = place.entries[number].plan
        assert place.side.marked[number] == set(differing(plan, reference))
        line = place.bars.numbers.index(number)
        told = [place.bars.item(line, c).text() for c in range(place.bars.columnCount())]
        assert any(
            t.startswith(LOWEST) and t.endswith(f" {plan.ceiling:.0f}") for t in told
        )  # some bar limits the whole
    place.tabs.setCurrentWidget(place.frontier_page)
    qtbot.waitUntil(lambda: bool(place._plot().frontier), timeout=60000)
    place._plot().list.setCurrentRow(1)
    assert place.current == 1


def test_a_decision_is_kept_in_the_document_and_found_again(qtbot, window, tmp_path):
    place = weighed(qtbot, window)
    number = [e.label for e in place.entries].index("Sweep")
    place.choose(number)
    place.keep("it rests between the arpeggios")
    decision = window.open_book.entry.decision
    assert decision.label == "Sweep" and decision.choices.school == "sweep" and window.isWindowModified()
    assert len(decision.rejected) == 10 and any("ceiling" in r.why and "lower" in r.why for r in decision.rejected)
    path = tmp_path / "kept.dromic"
    assert window.files.save_to(path)
    window.open_file(demo_songbook(), 1)
    qtbot.waitUntil(lambda: window.open_book.phrase.title == "Lantern Gate", timeout=20000)
    window.open_file(path, 3)
    qtbot.waitUntil(lambda: window.open_book.entry.decision is not None, timeout=20000)
    assert window.open_book.entry.decision == decision
    window.go_to("Plan")
    qtbot.waitUntil(lambda: window.plan is not None and window.plan.request.school.name == "sweep", timeout=20000)
    assert window.plan.ceiling == pytest.approx(decision.ceiling)
    qtbot.waitUntil(lambda: window.plan_place.verdict.kept.text() == "Kept: Sweep", timeout=20000)
    assert "Let Sweep go" in [a.text() for a in window.plan_place.verdict.kept_menu().actions()]
    words = [m.text for page in sheet(window.plan, decision) for m in page.marks if hasattr(m, "text")]
    assert any("Kept on" in w and "Sweep" in w for w in words)
    assert any("it rests between the arpeggios" in w for w in words) and sum("Rejected" in w for w in words) == 10
    window.plan_place.panel.school.setCurrentIndex(window.plan_place.panel.school.findData("downs"))
    qtbot.waitUntil(lambda: window.plan.request.school.name == "downs", timeout=20000)
    next(a for a in window.plan_place.verdict.kept_menu().actions() if a.text().startswith("Show Sweep")).trigger()
    qtbot.waitUntil(lambda: window.plan.request.school.name == "sweep", timeout=20000)


def test_keeping_is_one_step_that_can_be_taken_back(qtbot, window):
    place = weighed(qtbot, window)
    place.choose(0)
    place.keep("")
    assert window.open_book.entry.decision.label == "Alternate" and window.planning.choices.school == "alternate"
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.open_book.entry.decision is None and window.planning.choices.school == "economy"


def test_a_plan_that_cannot_be_spoils_no_other(qtbot, window):
    """What is pinned may be impossible in the school on Plan; the schools are weighed all the same."""
    plan = window.plan_place
    event = next(e for e in range(12) if window.plan.events[e][0].stroke == "down")
    plan.chart.select(event)
    plan.panel.school.setCurrentIndex(plan.panel.school.findData("pulse"))
    qtbot.waitUntil(lambda: window.plan.request.school.name == "pulse", timeout=20000)
    stroke = window.plan.events[event][0].stroke
    QTest.keyClicks(plan.chart, "u" if stroke == "down" else "d")
    qtbot.waitUntil(lambda: window.notice.isVisible() and "let go of" in window.notice.text(), timeout=20000)
    assert window.notice.text()[0].isupper()
    place = weighed(qtbot, window)
    place.weighing.want(WeighScope(("economy", "pulse"), alternatives=2))
    qtbot.waitUntil(lambda: len(place.entries) == 4 and not place.bar.isVisible(), timeout=60000)
    planned = {e.label: e.plan is not None for e in place.entries}
    assert planned == {"Economy": True, "Pulse": True, "My way": True, "Other ways": False}
    assert "Not possible here: Other ways" in place.words.text()

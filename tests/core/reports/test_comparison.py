"""Weighing: what is best at each measure, where plans differ, and the place in the real window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.weigh.candidates import ALTERNATIVE, LEAN, SCHOOL, WeighScope
from dromic.app.weigh.totals_table import BEST
from dromic.app.window.window import demo_songbook
from dromic.core.reports.comparison import (
    MEASURES,
    NUMBERED,
    best_at,
    ceilings_by_bar,
    differing,
    equally_fast,
    fastest,
    fastest_words,
)
from dromic.core.reports.standing import STRENGTHS, pressed_bars, ranked, strengths
from dromic.formats.sheet.sheet import sheet
from tests.build import SIXTEENTH, phrase, planned

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


def test_plans_are_ranked_and_named_by_what_they_are_best_at():
    plans = [planned(LINE, school) for school in ("alternate", "economy", "downs")]
    by_ceiling = ranked(NUMBERED["ceiling"], [None, *plans])
    assert by_ceiling[-1] == 0 and [plans[n - 1].ceiling for n in by_ceiling[:3]] == sorted(
        (p.ceiling for p in plans), reverse=True
    )
    travel = [plans[n].totals.pick_travel_mm for n in ranked(NUMBERED["pick-travel"], plans)]
    assert travel == sorted(travel)  # less is better
    words = strengths([*plans, None])
    assert words[-1] == "" and len(set(words)) > 1 and set(words) <= {"", *(word for word, _ in STRENGTHS)}
    for plan, word in zip(plans, words, strict=False):
        if word:
            measure = NUMBERED[dict(STRENGTHS)[word]]
            assert measure.of(plan) == max((measure.of(p) for p in plans), key=lambda v: measure.better * v)
    assert strengths([plans[0], plans[0]]) == ["", ""]  # what all are best at tells none apart
    assert all(name in NUMBERED for _, name in STRENGTHS)


def test_bars_are_pressed_as_far_as_the_tempo_goes_to_their_limit():
    plan = planned(LINE, "alternate")
    pressed, limits = pressed_bars(plan), ceilings_by_bar(plan)
    assert max(p for p in pressed if p) == pytest.approx(plan.request.phrase.tempo / plan.ceiling)
    assert [p is None for p in pressed] == [bar not in limits for bar in range(len(pressed))]


@pytest.fixture
def window(qtbot, bare_window):
    bare_window.open_file(demo_songbook(), 3)
    qtbot.waitUntil(lambda: bare_window.plan is not None, timeout=20000)
    return bare_window


def weighed(qtbot, window):
    """The Weigh place, once it has weighed."""
    window.pages.go_to("Weigh")
    place = window.pages.weigh
    qtbot.waitUntil(lambda: bool(place.entries) and not place.bar.isVisible(), timeout=60000)
    return place


def test_all_schools_are_weighed_and_one_is_taken_to_plan(qtbot, window):
    QTest.keyClick(window, Qt.Key.Key_F4)
    place = weighed(qtbot, window)
    place.ways.arrange("table")
    table = place.ways.table
    assert [e.label for e in place.entries] == [s.label for s in presets.schools().values()]
    heads = [table.horizontalHeaderItem(c).text().replace("\n", " ") for c in range(table.columnCount())]
    order = ranked(NUMBERED["ceiling"], [e.plan for e in place.entries])
    assert heads == [place.entries[n].label for n in order] and table.numbers == order
    number = fastest([e.plan for e in place.entries])
    best, top = place.entries[number], table.numbers.index(number)
    assert table.item(0, top).text() == f"{BEST}{best.plan.ceiling:.0f}" and table.item(0, top).font().bold()
    low, high = best.plan.ceiling_range
    assert table.item(1, top).text() == f"{low:.0f}–{high:.0f}"
    assert best.label in place.words.text() and "estimate" in place.words.text()
    assert table.item(len(MEASURES), top).text() == "0" and table.currentColumn() == top
    QTest.keyClick(table, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.plan.request.school.label == best.label, timeout=20000)
    assert window.pages.place == "Plan" and window.plan.ceiling == pytest.approx(best.plan.ceiling)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.plan.request.school.name == "economy", timeout=20000)


def test_weighing_can_be_cancelled_and_begun_again(qtbot, window):
    window.pages.go_to("Weigh")
    place = window.pages.weigh
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
    rows, table = place.ways.rows, place.ways.table
    place.ways.arrange("table")
    place.tabs.setCurrentWidget(place.side)
    assert table.numbers[table.currentColumn()] == place.side.current == rows.current == 3
    QTest.keyClick(place.side, Qt.Key.Key_Down)
    row = place.side.rows.index(3)
    assert place.current == place.side.rows[row + 1] == table.numbers[table.currentColumn()]
    reference = place.entries[place.side.reference].plan
    for number in place.side.rows:
        plan = place.entries[number].plan
        assert place.side.marked[number] == set(differing(plan, reference))
        told = [rows.told(number, bar) for bar in range(len(rows.bars[number]))]
        assert any(f"up to about {plan.ceiling:.0f};" in t for t in told)  # some bar limits the whole
    place.tabs.setCurrentWidget(place.ways)
    place.ways.arrange("work")
    qtbot.waitUntil(lambda: bool(place.ways.plot().frontier), timeout=60000)
    place.ways.plot().list.setCurrentRow(1)
    assert place.current == 1


def test_weigh_opens_on_a_picture_of_the_plans_gone_through_by_keys_and_pointed_at(qtbot, window):
    place = weighed(qtbot, window)
    rows = place.ways.rows
    assert place.tabs.count() == 3 and place.tabs.currentWidget() is place.ways and rows.isVisible()
    top = rows.order[0]
    assert (
        rows.best == (top,)
        and top == rows.current == fastest([e.plan for e in place.entries])
        and rows.words[top] == "fastest"
    )
    assert window.focusWidget() is rows
    QTest.keyClick(rows, Qt.Key.Key_Down)
    second = rows.order[1]
    assert place.current == rows.current == second and place.entries[second].label in place.take_button.text()
    assert rows.row_rect(second).height() > rows.row_rect(top).height()  # the one chosen tells its bars
    bar = next(n for n, share in enumerate(rows.bars[second]) if share)
    number, found = rows.at(rows.cell_rect(second, bar).center())
    assert (number, found) == (second, bar) and "fits up to about" in rows.told(number, found)
    assert f"Ceiling, an estimate: {place.entries[top].plan.ceiling:.0f}" in rows.told(top)
    # sorted by what the player asks for, in the picture and in the table
    place.ways.sort.setCurrentIndex(place.ways.sort.findData("pick-travel"))
    travel = [place.entries[n].plan.totals.pick_travel_mm for n in rows.order]
    assert travel == sorted(travel)
    QTest.keyClick(window, Qt.Key.Key_B, Qt.KeyboardModifier.AltModifier)
    place.ways.arrange("table")
    assert place.ways.table.numbers == rows.order and place.current == second
    place.ways.table.verticalHeader().sectionClicked.emit(0)
    assert place.ways.sort.currentData() == "ceiling" and place.ways.table.numbers[0] == top
    place.ways.arrange("rows")
    line = rows.line()
    assert line.left < line.x(place.entries[top].plan.ceiling) < line.right
    point = rows.row_rect(top).center().toPoint()
    QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=point)
    assert place.current == top
    QTest.keyClick(rows, Qt.Key.Key_Return)
    assert window.pages.place == "Plan" and window.planning.choices.school == place.entries[top].choices.school


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
    window.pages.go_to("Plan")
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


def test_of_equals_none_is_praised():
    """A line on one string goes as fast in every school that alternates there."""
    line = phrase([(3, 5), (3, 7)] * 8, SIXTEENTH, tempo=100)
    plans = [planned(line, school) for school in ("alternate", "economy", "pulse")]
    assert max(p.ceiling for p in plans) - min(p.ceiling for p in plans) < 0.5
    words = fastest_words(["One", "Two", "Three"], plans)
    assert words.startswith("All ways are equally fast, as planned for 100") and "Fastest" not in words
    assert best_at(NUMBERED["ceiling"], plans) == set() and len(equally_fast(plans)) == 3
    downs = planned(line, "downs", pulse="sixteenth")
    told = fastest_words(["One", "Downs", "Three"], [plans[0], downs, None])
    assert told.startswith("Fastest, as planned for 100: One, a ceiling of about")
    assert equally_fast([downs, plans[0]]) == [1] and fastest_words(["None"], [None]) == "None can play it."


def test_the_work_of_a_plan_counts_no_wish_about_the_beat():
    """Free may do all that pulse does, so what it asks of the beat must not make its work look dearer."""
    line = phrase([(3, 5), (2, 5), (2, 7), (3, 7), (2, 5), (3, 5), (2, 7), (2, 5)], SIXTEENTH, tempo=100)
    free = planned(line, "free")
    assert free.beat_cost >= 0 and free.work == pytest.approx(free.cost - free.beat_cost)
    assert planned(line, "pulse").beat_cost == 0

"""Several accepted ways: kept with their reasons, weighed side by side, one of them current, let go; another reference chosen."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic.app.weigh.candidates import KEPT
from dromic.app.weigh.totals_table import DIFFERING
from dromic.cli.main import main
from dromic.core.reports.comparison import differing
from dromic.core.setup.decision import Decision
from dromic.formats.document.document import songbook_bytes


@pytest.fixture
def window(qtbot, demo_window):
    choices = demo_window.open_book.choices
    for school, why in (("alternate", "the teacher's way"), ("free", "least work")):
        made = Decision(school, replace(choices, school=school), 100.0, why, "2026-03-01")
        demo_window.open_book.decide(made)
    yield demo_window


def weighed(qtbot, window):
    window.pages.go_to("Weigh")
    place = window.pages.weigh
    qtbot.waitUntil(lambda: bool(place.entries) and not place.weighing.worker.running, timeout=60000)
    return place


def test_kept_ways_are_weighed_with_their_reasons_and_one_is_current(qtbot, window):
    place = weighed(qtbot, window)
    kept = [e for e in place.entries if e.kind == KEPT]
    assert [e.label for e in kept] == ["Kept: alternate", "Kept: free, current"]
    assert all(e.plan is not None for e in kept) and kept[0].plan.request.school.name == "alternate"
    place.choose(place.entries.index(kept[0]))
    assert "the teacher's way" in place.words.text()
    place.keep("after all")  # the first is current again, with a new reason
    assert [(d.label, d.why) for d in window.open_book.entry.decisions] == [
        ("free", "least work"),
        ("alternate", "after all"),
    ]


def test_another_plan_is_the_reference(qtbot, window):
    place = weighed(qtbot, window)
    number = next(n for n, e in enumerate(place.entries) if e.kind == KEPT)
    place.against.setCurrentIndex(place.against.findData(number))
    place.against.activated.emit(place.against.currentIndex())
    place.ways.arrange("table")
    table = place.ways.table
    row = table.rowCount() - 1
    assert table.verticalHeaderItem(row).text() == f"{DIFFERING} {place.entries[number].label}"
    reference = place.entries[number].plan
    for column, entry in enumerate(place.entries):
        if entry.plan is not None:
            assert table.item(row, table.numbers.index(column)).text() == str(len(differing(entry.plan, reference)))
    place.tabs.setCurrentWidget(place.side)
    assert place.side.reference == number


def test_a_kept_way_is_let_go_and_comes_back(qtbot, window):
    window.pages.go_to("Plan")
    menu = window.plan_place.verdict.kept_menu()
    texts = [a.text() for a in menu.actions() if a.text()]
    assert texts[0].startswith("Show free") and "least work" in texts[0] and "Let alternate go" in texts
    next(a for a in menu.actions() if a.text() == "Let alternate go").trigger()
    assert [d.label for d in window.open_book.entry.decisions] == ["free"]
    window.open_book.undo.undo()
    assert len(window.open_book.entry.decisions) == 2


def test_the_command_line_plans_a_kept_way(window, tmp_path, capsys):
    book = tmp_path / "kept.dromic"
    book.write_bytes(songbook_bytes(window.open_book.book))
    assert main(["plan", str(book), "--tune", "1", "--way", "1"]) == 0
    assert "Alternate" in capsys.readouterr().out
    assert main(["plan", str(book), "--tune", "1", "--way", "3"]) == 2
    assert "holds 2 kept plans" in capsys.readouterr().err


def test_a_phrase_with_repeats_is_written_out_and_one_without_says_so(qtbot, window):
    write = next(a for a in window.actions() if a.text().startswith("Written out"))
    repeated = next(
        (n for n, p in enumerate(window.open_book.book.phrases) if any(b.repeat_times for b in p.bars)), None
    )
    assert repeated is not None
    window.open_book.turn_to(repeated)
    before = window.open_book.phrase
    write.trigger()
    made = window.open_book.phrase
    assert made.title.endswith("written out") and len(made.events) == before.played_events
    assert not any(bar.repeat_times for bar in made.bars) and len(made.sections) > 1
    write.trigger()
    assert "written out already" in window.notice.text()
    QTest.keyClick(window, Qt.Key.Key_F3)

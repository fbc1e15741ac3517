"""What a player says at a note: on Write and on the chart, saved, on the sheet, in drills; doubtful notes planned both ways."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from dromic import presets
from dromic.app.book.note_dialog import NoteDialog
from dromic.core.drills.drill import Material
from dromic.core.drills.drill_kinds import drills_of
from dromic.core.editing import edit
from dromic.core.editing.readings import doubtful, other_reading, with_words
from dromic.core.plan.finding import DOUBTFUL
from dromic.core.questions.remedies import with_remedies
from dromic.core.reports.chart import chart
from dromic.core.search.planner import plan, solve
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.formats.sheet.sheet import Words, sheet
from dromic.formats.table import FORMATS, Work
from tests.build import phrase, request

LINE = phrase([(3, 5), (3, 7), (2, 5), (2, 8), (3, 7), (4, 7), (4, 5), (3, 5)], tempo=150)
GUITAR = presets.instruments()["guitar"]


def said(event: int, words: str = "", doubt: int = 0):
    onset = LINE.events[event].onset
    return with_words(LINE, onset, LINE.events[event].notes[0], words, doubt)


def dialog() -> NoteDialog:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, NoteDialog) and w.isVisible())


def test_words_typed_on_the_chart_are_shown_saved_and_taken_back(qtbot, demo_window):
    window = demo_window
    view = window.plan_place.chart
    view.select(3)
    QTest.keyClicks(view, "'")
    QTest.keyClicks(dialog().words, "relax the thumb")
    QTest.keyClick(dialog().words, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.plan is not None and window.plan.request.phrase.events[3].words != "", timeout=20000)
    qtbot.waitUntil(lambda: "Your words: relax the thumb" in window.plan_place.why.text(), timeout=20000)
    assert next(label.words for label in view.chart.labels if label.words) == "relax the thumb"
    book = read_songbook(songbook_bytes(window.open_book.book))
    assert book.entries[window.open_book.index].phrase.events[3].words == "relax the thumb"
    window.open_book.undo.undo()
    qtbot.waitUntil(lambda: not window.open_book.phrase.events[3].words)


def test_a_note_is_doubted_on_write_and_its_other_reading_planned(qtbot, demo_window):
    window = demo_window
    QTest.keyClick(window, Qt.Key.Key_F2)
    place = window.pages.write
    place.move_pen(replace(place.pen, at=window.open_book.phrase.events[0].onset,
                           string=window.open_book.phrase.events[0].notes[0].string))  # fmt: skip
    note = place.pen.under(window.open_book.phrase)
    QTest.keyClicks(place.grid, "'")
    dialog().doubtful.setChecked(True)
    dialog().other.setValue(note.fret + 2)
    QTest.keyClick(dialog().words, Qt.Key.Key_Return)
    assert [n.doubt for _, n in doubtful(window.open_book.phrase)] == [2]
    assert "doubtful, or" in place.status.text()
    QTest.keyClick(window, Qt.Key.Key_F3)
    qtbot.waitUntil(lambda: any(f.rule == DOUBTFUL for f in window.plan.findings), timeout=20000)


def test_where_there_is_no_note_it_is_said(qtbot, demo_window):
    QTest.keyClick(demo_window, Qt.Key.Key_F2)
    place = demo_window.pages.write
    place.move_pen(replace(place.pen, string=1))
    QTest.keyClicks(place.grid, "'")
    assert "there is no note here" in demo_window.notice.text()


@pytest.mark.parametrize("event", [1, 3])
def test_what_is_told_of_the_other_reading_is_what_its_own_plan_comes_to(event):
    asked = request(said(event, doubt=1), "alternate", keep=frozenset({"positions", "attacks"}))
    [told] = [f for f in with_remedies(solve(asked), {}).findings if f.rule == DOUBTFUL]
    other = plan(replace(asked, phrase=other_reading(asked.phrase, GUITAR)))
    assert round(other.ceiling) == round(plan(asked).ceiling)
    assert f"the ceiling stays about {other.ceiling:.0f}" in told.text  # no "111 instead of 111"
    assert other.events[event][0].fret == asked.phrase.events[event].notes[0].fret + 1


def test_the_other_reading_of_the_other_reading_is_the_first():
    doubted = said(2, doubt=-3)
    assert other_reading(other_reading(doubted, GUITAR), GUITAR) == doubted
    low = other_reading(said(0, doubt=-24), GUITAR)
    assert low.events[0].notes[0].fret is None  # the neck has no such fret: left to the planner


def test_words_go_with_their_notes_and_onto_the_sheet_and_the_chart():
    whole = said(5, "now the ring finger")
    part = edit.cut(whole, edit.Span(whole.events[4].onset, whole.end))
    assert part.events[1].words == "now the ring finger"
    moved = edit.transposed(whole, edit.Span(whole.events[0].onset, whole.end), 1, GUITAR)
    assert moved.events[5].words == "now the ring finger"
    made = plan(request(whole, "free"))
    texts = [m.text for page in sheet(made) for m in page.marks if isinstance(m, Words)]
    assert "now the ring finger" in texts
    assert chart(made).labels[5].words == "now the ring finger"


def test_a_file_that_cannot_hold_them_says_so():
    work = Work(said(1, "x", 2), GUITAR)
    left = {kind.extensions[0]: kind.left_out(work) for kind in FORMATS if kind.write is not None}
    assert "your words at notes" in left[".mid"] and "the other readings of doubtful notes" in left[".musicxml"]
    assert "your words at notes" not in left[".dromic"] + left[".line"]


def test_words_go_along_into_every_drill_that_plays_their_note():
    made = plan(request(said(4, "let the wrist lead"), "alternate"))
    found = drills_of(Material(made, presets.practice(), 200.0))
    over = [
        d for d in found if 4 in d.events and d.kind in ("whole", "bar", "move", "join", "open", "hammered", "rhythm")
    ]
    assert len({d.kind for d in over}) >= 4
    assert [d.kind for d in over if "let the wrist lead" not in {e.words for e in d.phrase.events}] == []
    assert all(not e.words for d in found if 4 not in d.events for e in d.phrase.events)

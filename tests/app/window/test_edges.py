"""Every page over a phrase that is empty, has one note, fits no plan, or is very long; in any order and at any pace."""

from __future__ import annotations

import random
from dataclasses import replace
from fractions import Fraction

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from dromic import presets
from dromic.app.window.window import MainWindow
from dromic.core.music.songbook import Songbook, empty_phrase
from dromic.core.reports.neck import neck
from dromic.core.setup.pin import Pin
from dromic.formats.document.document import songbook_bytes
from tests.build import EIGHTH, long_phrase, phrase, planned

WAIT = 60000
PAGES = ("Plan", "Weigh", "Hands", "Stand", "Write")
GUITAR = presets.instruments()["guitar"]
FAR = phrase([[(6, 1), (5, 20)], (3, 5)], EIGHTH)  # no hand holds it


def opened(qtbot, window, tmp_path, *phrases):
    path = tmp_path / "edge.dromic"
    path.write_bytes(songbook_bytes(Songbook.of("edge", phrases)))
    window.open_file(path)
    qtbot.waitUntil(lambda: window.open_book.path == path and not window.files.reader.running, timeout=WAIT)
    qtbot.waitUntil(lambda: not window.planning.planner.running, timeout=WAIT)
    return window


def show(window, page):
    (window.pages.toggle_stand if page == "Stand" else lambda: window.pages.go_to(page))()


@pytest.mark.parametrize(
    "edge", [empty_phrase("empty", GUITAR), phrase([(3, 5)]), FAR], ids=["empty", "one", "none fits"]
)
def test_every_page_over_an_edge(qtbot, bare_window, tmp_path, edge):
    window = opened(qtbot, bare_window, tmp_path, replace(edge, title="edge"), phrase([(3, 5), (2, 5)]))
    for page in PAGES:
        show(window, page)
        qtbot.wait(50)
        assert not window.grab().isNull()
        if page == "Weigh":
            weigh = window.pages.weigh
            qtbot.waitUntil(lambda weigh=weigh: not weigh.weighing.worker.running, timeout=WAIT)
            for tab in range(weigh.tabs.count()):
                weigh.tabs.setCurrentIndex(tab)
            weigh.questions.ask(0)
            qtbot.waitUntil(lambda weigh=weigh: not weigh.questions.worker.running, timeout=WAIT)
    window.transport.play()
    qtbot.waitUntil(lambda: not window.transport.worker.running, timeout=WAIT)
    window.transport.stop()
    window.pages.go_to("Plan")
    window.turn_page(1)
    qtbot.waitUntil(lambda: window.plan is not None, timeout=WAIT)
    window.turn_page(-1)
    qtbot.waitUntil(lambda: not window.planning.planner.running, timeout=WAIT)
    assert window.plan is None or len(edge.events) == 1  # no other phrase's plan stays
    assert not window.plan_place.findings.rows() or len(edge.events) == 1


def test_weigh_over_a_phrase_made_empty_shows_nothing_of_the_one_before(qtbot, demo_window):
    window = demo_window
    window.pages.go_to("Weigh")
    weigh = window.pages.weigh
    qtbot.waitUntil(lambda: bool(weigh.entries) and not weigh.weighing.worker.running, timeout=WAIT)
    window.open_book.add_phrase()
    for tab in range(weigh.tabs.count()):
        weigh.tabs.setCurrentIndex(tab)
    for name in ("work", "table", "rows"):
        weigh.ways.arrange(name)
    assert weigh.entries == [] and "no notes" in weigh.words.text() and not weigh.take_button.isEnabled()
    window.open_book.undo.undo()
    qtbot.waitUntil(lambda: bool(weigh.entries), timeout=WAIT)


def test_both_jobs_of_weigh_end_whichever_is_called_off(qtbot, demo_window):
    """The two shared one wish to stop."""
    window = demo_window
    window.pages.go_to("Weigh")
    weigh = window.pages.weigh
    qtbot.waitUntil(lambda: bool(weigh.entries) and not weigh.weighing.worker.running, timeout=WAIT)
    weigh.ways.arrange("work")
    weigh.alternatives.setValue(3)
    weigh.ways.arrange("table")
    weigh.ways.arrange("work")
    qtbot.waitUntil(
        lambda: not weigh.weighing.worker.running and not weigh.weighing.frontier_worker.running, timeout=WAIT
    )
    assert weigh.entries and "Planning" not in weigh.words.text()


def test_three_thousand_notes_turned_and_pinned_at_any_pace(qtbot, bare_window, tmp_path):
    long = long_phrase(3000)
    window = opened(qtbot, bare_window, tmp_path, long, replace(long, title="long, again"))
    qtbot.waitUntil(lambda: window.plan is not None, timeout=WAIT)
    place, rnd = window.plan_place, random.Random(4)
    for _ in range(25):
        place.panel.tempo.stepUp()
        qtbot.wait(20)
    for _ in range(12):
        window.turn_page(rnd.choice([1, -1]))
        qtbot.wait(30)
    for page in rnd.choices(PAGES, k=14):
        show(window, page)
        qtbot.wait(30)
    window.pages.go_to("Plan")
    qtbot.waitUntil(lambda: not place.planning.planner.running, timeout=WAIT)
    assert window.plan is not None and len(window.plan.request.phrase.events) == len(long.events)
    note = next(n for n in window.plan.notes if n.event > 1500 and n.fret)
    finger = "2" if note.finger != "2" else "3"
    place.chart.select(note.event)
    place.pin("finger", finger)
    qtbot.waitUntil(lambda: not place.planning.planner.running, timeout=WAIT)
    assert window.plan.events[note.event][0].finger == finger


def test_a_new_phrase_from_the_start_view_has_its_list_and_its_play_bar(qtbot, bare_window):
    bare_window.start()
    assert not bare_window.transport.isVisible()
    view = bare_window.pages.stack.currentWidget()
    button = next(b for b in view.findChildren(QPushButton) if b.text() == "Write a new phrase")
    button.setFocus()
    QTest.keyClick(button, Qt.Key.Key_Return)
    assert bare_window.pages.place == "Write" and bare_window.transport.isVisible()
    assert [bare_window.tunes.itemText(n) for n in range(bare_window.tunes.count())] == ["Phrase 1"]
    assert bare_window.tunes.isEnabled()


def test_a_window_is_no_larger_than_its_screen(qtbot, tmp_path):
    settings = QSettings(str(tmp_path / "w.ini"), QSettings.Format.IniFormat)
    large = MainWindow(settings)
    qtbot.addWidget(large)
    large.resize(4000, 3000)
    settings.setValue("geometry", large.saveGeometry())
    room = QApplication.primaryScreen().availableGeometry()
    window = MainWindow(settings)
    qtbot.addWidget(window)
    window.show()
    for page in ("Write", "Weigh", "Hands"):
        window.pages.go_to(page)
        QTest.qWait(20)
        assert window.width() <= room.width() and window.height() <= room.height()
        assert window.minimumSizeHint().width() < 900 and window.minimumSizeHint().height() < 500  # 1366 x 768 at 1.5


def test_a_window_scrolls_only_where_it_cannot_be_made_smaller(qtbot, demo_window):
    window = demo_window
    bar = window.centralWidget().verticalScrollBar()
    window.notify("A sentence that is long enough to be wrapped over two lines in a window of this width. " * 3, False)
    for height, scrolls in ((744, False), (690, False), (330, True)):
        window.resize(1280, height)
        for page in ("Write", "Weigh", "Plan"):
            window.pages.go_to(page)
            QTest.qWait(30)
            assert (bar.maximum() > 0) is scrolls, (page, height)


def test_a_title_typed_leaves_the_pen_where_it_is(qtbot, demo_window):
    demo_window.pages.go_to("Write")
    place = demo_window.pages.write
    place.move_pen(replace(place.pen, at=Fraction(3)))
    demo_window.open_book.edit(replace(demo_window.open_book.phrase, title="another"), "title")
    assert place.pen.at == Fraction(3) and demo_window.tunes.currentText() == "another"


def test_only_a_stretch_beyond_reach_does_not_fit():
    wide = planned(phrase([(3, 5), (3, 9), (3, 5), (3, 9)], EIGHTH, tempo=200), "alternate")
    found = [s for event in range(4) for s in neck(wide, event).stretches]
    hand = wide.request.player.fretting
    assert all(s.fits == (s.mm <= hand.reach_mm[int(s.finger) - 1]) for s in found if s.mm > 0)
    assert all(s.fits for s in found)


def test_an_edit_that_no_plan_fits_leaves_no_plan_of_the_phrase_as_it_was(qtbot, demo_window):
    window, open_book = demo_window, demo_window.open_book
    before = window.plan
    open_book.edit(open_book.phrase.with_events([FAR.events[0], *open_book.phrase.events[1:]]), "a chord no hand holds")
    qtbot.waitUntil(lambda: not window.planning.planner.running, timeout=WAIT)
    assert window.plan is None and window.notice.text() and not window.plan_place.findings.rows()
    open_book.undo.undo()
    qtbot.waitUntil(lambda: window.plan is not None, timeout=WAIT)
    assert window.plan.notes == before.notes
    open_book.choose(replace(open_book.choices, pins=(Pin(0, 0, "string", 1),)))  # what is pinned cannot hold
    qtbot.waitUntil(lambda: not window.planning.planner.running, timeout=WAIT)
    assert window.plan is not None  # the plan on screen is still one of this phrase


def test_what_is_selected_behind_the_last_bar_cannot_be_planned_alone(qtbot, demo_window):
    window, end = demo_window, demo_window.open_book.phrase.end
    window.pages.go_to("Write")
    pen = replace(window.pages.write.pen, at=end, anchor=end)
    window.pages.write.move_pen(pen)
    window.pages.plan_selection()
    assert "Nothing is selected" in window.notice.text() and window.pages.place == "Write"
    window.planning.take_passage(pen.selection)  # as one that lay in bars taken away since
    window.pages.go_to("Plan")
    qtbot.waitUntil(lambda: not window.planning.planner.running, timeout=WAIT)
    assert window.planning.phrase == window.open_book.phrase and window.plan is not None


def test_no_page_scrolls_on_a_small_laptop_nor_for_another_page(qtbot, demo_window):
    """1366 x 768 less a title bar."""
    window = demo_window
    window.resize(1366, 740)
    bar = window.centralWidget().verticalScrollBar()
    for page in ("Hands", "Plan", "Weigh", "Write", "Shed", "Listen", "Hands", "Plan"):
        window.pages.go_to(page)
        QTest.qWait(40)
        assert (window.width(), window.height(), bar.maximum()) == (1366, 740, 0), page
    assert window.centralWidget().horizontalScrollBar().maximum() == 0

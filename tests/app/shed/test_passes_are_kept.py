"""No pass is lost or taken for another: the clock put back, another window on the log, a log that cannot be written."""

import json
import sqlite3
import time
from contextlib import closing
from dataclasses import replace
from datetime import date, datetime, timedelta

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMessageBox

from dromic.core.practice.log_pass import Pass
from dromic.store.log.exchange import pass_entry
from dromic.store.log.logbook import Logbook
from dromic.store.log.rows import placed
from dromic.store.log.writer import LogWriter
from tests.app.shed.test_shed import logged, press
from tests.app.shed.test_shed import shed as shed

K = Qt.Key


@pytest.fixture
def drilling(shed):
    """(window, clock) with one drill begun."""
    window, clock = shed
    practising = window.pages.shed.practising
    number = next(n for n, d in enumerate(practising.work.drills) if d.kind == "move")
    window.pages.shed.today.begin_asked.emit(number)
    return window, clock


@pytest.mark.parametrize("back", [timedelta(seconds=2), timedelta(hours=1), timedelta(hours=-25)])
def test_the_time_of_day_may_jump_and_every_pass_is_kept(qtbot, drilling, back):
    """Back by a sync of the time, back by the end of summer time or a flight west, and on by a lid that was closed."""
    window, clock = drilling
    clock.on(9)
    press(qtbot, window, K.Key_Space)
    clock.at -= back
    for _ in range(4):
        clock.on(9)
        press(qtbot, window, K.Key_Space)
    assert [p.seconds for p in logged(window)] == [9.0] * 5 and all(p.clean for p in logged(window))


def test_another_windows_pass_is_not_taken_back(qtbot, drilling):
    window, clock = drilling
    clock.on(9)
    press(qtbot, window, K.Key_Space)
    [mine] = logged(window)
    theirs = placed(Pass(clock.at, mine.phrase, "join:0-3", 200.0, False, (0, 1, 2, 3), "picking", seconds=3.0))
    Logbook(window.practice_log).add([theirs])
    practising = window.pages.shed.practising
    practising.note("stiff")
    assert [p.note for p in logged(window) if p.clean] == ["stiff"] and logged(window)[-1].note == ""
    practising.overrule()  # it was heard wrongly: mine, not theirs
    assert sorted((p.tempo, p.clean) for p in logged(window)) == [(mine.tempo, False), (200.0, False)]
    press(qtbot, window, K.Key_Backspace)
    assert logged(window) == [theirs] and (practising.session.clean, practising.session.missed) == (0, 0)


def test_a_log_that_is_held_holds_no_window_and_loses_no_pass(qtbot, drilling):
    """Another program holds the log: told once, what waits is in a file of its own and goes into the log when it can."""
    window, clock = drilling
    practising, log = window.pages.shed.practising, window.practice_log
    clock.on(9)
    press(qtbot, window, K.Key_Space)
    told = []
    practising.keeper.noticed.connect(lambda words, calm: told.append(words))
    with closing(sqlite3.connect(log, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        for _ in range(3):
            clock.on(9)
            press(qtbot, window, K.Key_Space)  # and goes on, though nobody lets go of the log
        practising.note("stiff")
        press(qtbot, window, K.Key_Backspace)
        qtbot.waitUntil(lambda: bool(told), timeout=20000)
        qtbot.waitUntil(lambda: len(waiting(log)) == 5, timeout=20000)
        assert len(told) == 1 and told[0].startswith("Another program holds the log; ")
        assert practising.keeper.writer.waiting == 2 and practising.session.clean == 3
    qtbot.waitUntil(lambda: practising.keeper.writer.settled(5), timeout=20000)
    assert [p.note for p in logged(window)] == ["", "", ""]
    qtbot.waitUntil(lambda: told[-1] == "What waited is in the log" and waiting(log) == [], timeout=20000)


def test_what_comes_while_the_log_is_held_is_put_aside_at_once(tmp_path, monkeypatch):
    """Not at the next try: that is never, here."""
    monkeypatch.setattr("dromic.store.log.writer.AGAIN_S", 1e6)
    book = Logbook(tmp_path / "log.sqlite")
    book.make()
    writer, told = LogWriter(book, lambda words, calm: told.append(words)), []
    with closing(sqlite3.connect(book.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        for n in range(3):
            writer.keep([Pass(datetime(2026, 11, 20, 20, n), "a", "move:1-4", 80.0, True)])
            end = time.monotonic() + 20
            while len(waiting(book.path)) <= n and time.monotonic() < end:
                time.sleep(0.01)
            assert len(waiting(book.path)) == n + 1
    assert len(told) == 1
    writer.close()
    again = LogWriter(book)
    assert again.settled(20) and len(book.passes()) == 3
    again.close()


DAMAGED = (
    '{"what": "keep", "given": 5}',
    '{"what": "keep", "given": {"passes": [{"at": 1}], "uids": ["x"]}}',
    '{"what": "keep", "given": {"passes": [], "uids": ["x"]}}',
    '{"what": "dance", "given": {}}',
    '{"what": "note", "given": {"uid": 3, "text": []}}',
    '{"what": "take back", "given": {"uids": [[]]}}',
    '{"what": "goal", "given": {"of": 7, "target": 1, "ready": "x"}}',
    '{"what": "goal", "given": {"of": {"title": "a"}, "target": [], "ready": null}}',
    "[" * 5000,
    "\x00",
    "null",
)


@pytest.mark.parametrize("line", DAMAGED)
def test_a_damaged_line_holds_up_nothing_that_waits(tmp_path, line):
    book = Logbook(tmp_path / "log.sqlite")
    one = pass_entry(placed(Pass(datetime(2026, 11, 20, 20), "a", "move:1-4", 80.0, True)))
    sound = json.dumps({"what": "keep", "given": {"passes": [one], "uids": ["u"]}})
    (tmp_path / "log.sqlite.waiting-1").write_text(f"{line}\n{sound}\n{line}\n")
    writer = LogWriter(book)
    assert writer.settled(20) and len(book.passes()) == 1
    writer.close()
    assert not list(tmp_path.glob("*waiting*"))


def waiting(log):
    return [line for path in log.parent.glob(f"{log.name}.waiting-*") for line in path.read_text().splitlines()]


def test_what_waits_when_the_window_goes_is_taken_up_by_the_next(qtbot, drilling):
    window, clock = drilling
    log = window.practice_log
    clock.on(9)
    press(qtbot, window, K.Key_Space)
    with closing(sqlite3.connect(log, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        for _ in range(2):
            clock.on(9)
            press(qtbot, window, K.Key_Space)
        qtbot.waitUntil(lambda: len(waiting(log)) == 2, timeout=20000)
        window.open_book.let_go()
        window.close()
        assert len(waiting(log)) == 2
    with next(log.parent.glob("*.waiting-*")).open("a") as file:
        file.write('{"what": "keep", "given": {"pas')  # its writer was killed in the middle of a line
    told = []
    for _ in range(2):  # taken up once
        writer = LogWriter(Logbook(log), lambda words, calm: told.append(words))
        assert writer.settled(20)
        writer.close()
    assert len(Logbook(log).passes()) == 3 and told == ["What waited is in the log"] and not waiting(log)


def test_a_pass_that_is_in_the_log_is_not_kept_twice_nor_comes_back(tmp_path):
    """Its writer was killed after the log had it, and before what waited was forgotten."""
    book = Logbook(tmp_path / "log.sqlite")
    one = Pass(datetime(2026, 11, 20, 20), "a", "move:1-4", 80.0, True)
    uids = book.add([one, replace(one, tempo=90.0)])
    book.take_back(uids[:1])
    book.add([one, replace(one, tempo=90.0)], uids)
    assert [p.tempo for p in book.passes()] == [90.0] and book.record("a").drills[0].passes == 1


def test_what_is_no_pass_is_none_and_is_told(qtbot, drilling):
    window, clock = drilling
    practising, running = window.pages.shed.practising, window.pages.shed.running
    round_s = float(practising.drill.phrase.end) * 60 / practising.session.rung.tempo
    clock.on(0.5 * round_s)
    press(qtbot, window, K.Key_Right)  # a clean one half as long as its round
    assert logged(window) == [] and "Not counted" in window.notice.text()
    clock.on(0.15 * round_s)
    press(qtbot, window, K.Key_Right)
    assert [p.clean for p in logged(window)] == [True]
    clock.on(0.03)
    press(qtbot, window, K.Key_Right)
    assert "bounced" in window.notice.text()
    clock.on(0.1)
    press(qtbot, window, K.Key_Left)  # a miss counts whenever it is said
    assert [p.clean for p in logged(window)] == [True, False]
    clock.on(round_s)
    for modifier in (
        Qt.KeyboardModifier.ControlModifier,
        Qt.KeyboardModifier.AltModifier,
        Qt.KeyboardModifier.ShiftModifier,
    ):
        clock.on(1)
        qtbot.keyClick(running, K.Key_Right, modifier)
        qtbot.keyClick(running, K.Key_Backspace, modifier)
    assert len(logged(window)) == 2
    tempo = practising.session.rung.tempo
    for _ in range(4):
        clock.on(0.07)
        press(qtbot, window, K.Key_T)
    assert practising.session.rung.tempo == tempo and "No tempo" in window.notice.text()


def test_a_pause_and_another_page_stop_sound_and_clock(qtbot, drilling):
    window, clock = drilling
    practising, running = window.pages.shed.practising, window.pages.shed.running
    clock.on(10)
    press(qtbot, window, K.Key_Right)
    left, drill = practising.seconds_left, practising.drill
    press(qtbot, window, K.Key_P)
    clock.on(3600)
    assert practising.seconds_left == left and running.sound.loop is None and "Paused" in running.why.text()
    press(qtbot, window, K.Key_Left)
    assert len(logged(window)) == 1, "nothing is marked while it stands still"
    press(qtbot, window, K.Key_Space)
    clock.on(9)
    window.pages.go_to("Plan")
    clock.on(3600)
    window.pages.go_to("Shed")
    assert practising.drill is drill and running.isVisible()
    clock.on(1)
    press(qtbot, window, K.Key_Right)
    assert [p.seconds for p in logged(window)] == [10.0, 10.0] and practising.seconds_left == left - 10


def test_another_songbook_is_asked_about_while_a_session_runs(qtbot, drilling, monkeypatch):
    window, _ = drilling
    practising, asked = window.pages.shed.practising, []

    def answer(button):
        def question(*args):
            asked.append(args[1])
            return button

        monkeypatch.setattr("dromic.app.shed.shed_place.QMessageBox.question", question)

    monkeypatch.setattr("dromic.app.book.files.QFileDialog.getOpenFileName", lambda *_: ("", ""))
    answer(QMessageBox.StandardButton.No)
    book = window.open_book.book
    qtbot.keyClick(window, K.Key_N, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClick(window, K.Key_O, Qt.KeyboardModifier.ControlModifier)
    assert asked == ["A session runs"] * 2 and practising.session is not None and window.open_book.book is book
    answer(QMessageBox.StandardButton.Yes)
    qtbot.keyClick(window, K.Key_N, Qt.KeyboardModifier.ControlModifier)
    assert practising.session is None and window.open_book.book is not book and len(asked) == 3


def test_the_hour_that_comes_twice_is_kept_in_its_order(tmp_path, monkeypatch):
    """The end of summer time: Europe/Berlin goes from 3 to 2 on 25 October 2026 (IANA time zones). The next day's passes of the hours
    before midnight in New York are that day's."""
    monkeypatch.setenv("TZ", "Europe/Berlin")
    time.tzset()
    try:
        before = datetime(2026, 10, 25, 2, 50)
        passes = [
            Pass(before, "a", "move:1-4", 80.0, False, seconds=60),
            Pass(before.replace(minute=10, fold=1), "a", "move:1-4", 84.0, True, seconds=60),
        ]
        book = Logbook(tmp_path / "log.sqlite")
        book.add(passes)
        assert [(p.at.minute, p.utc_offset_min) for p in book.passes()] == [(50, 120), (10, 60)]
        book.add([Pass(datetime(2026, 10, 25, 22), "a", "move:1-4", 90.0, True, seconds=60, utc_offset_min=-240)])
        assert book.passes()[-1].day == date(2026, 10, 25) and list(book.record("a").minutes.values()) == [3.0]
    finally:
        monkeypatch.undo()
        time.tzset()

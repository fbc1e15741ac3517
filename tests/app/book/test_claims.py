"""Passes and takes hang on a phrase, not on its title: through the window."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

import pytest

from dromic.app.window.window_actions import copy_phrase
from dromic.core.music.songbook import Songbook, empty_phrase
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.formats.document.document import songbook_bytes
from dromic.formats.table import read_entry
from dromic.formats.text.quick_line import parse
from dromic.store.log.logbook import Logbook
from dromic.store.takes import KeptTake, Takes
from tests.phrases import GUITAR

AT = datetime(2026, 11, 20, 20)


def passes(count, title, id_=""):
    return [
        Pass(AT.replace(minute=n), title, "move:0-3", 60.0 + n, True, (0, 1), seconds=30, phrase_id=id_)
        for n in range(count)
    ]


def phrase(title, line="5.5:q 5.7 4.5 4.7"):
    return parse(line, empty_phrase(title, GUITAR, 1), GUITAR).phrase


@pytest.fixture
def opened(qtbot, bare_window, tmp_path):
    """Opens a songbook of phrases, (title, line) each, in the window; gives the window."""

    def open_(*phrases):
        path = tmp_path / "book.dromic"
        path.write_bytes(songbook_bytes(Songbook.of("Book", [phrase(*one) for one in phrases])))
        with qtbot.waitSignal(bare_window.open_book.opened, timeout=20000):
            bare_window.open_file(path, 1)
        qtbot.waitUntil(lambda: not bare_window.claims.busy, timeout=20000)
        return bare_window

    return open_


def counts(window, *names):
    return [len(Logbook(window.practice_log).passes(name)) for name in names]


def test_what_stands_under_a_title_goes_to_the_phrase_when_it_is_opened_and_back(qtbot, bare_window, opened):
    Logbook(bare_window.practice_log).add(passes(3, "Untitled"))
    takes = Takes(bare_window.practice_log.parent / "takes")
    take = takes.keep(KeptTake(AT, "Untitled", "a take", 90.0, 5.0, 1.0, (), ".flac"), b"sound")
    window = opened(("Untitled",))
    name = window.claims.name
    assert counts(window, name, PhraseName("Untitled")) == [3, 0] and "3 passes and 1 take" in window.notice.text()
    [moved] = takes.of(name)
    assert takes.sound(moved) == b"sound" and moved.at == take.at and not takes.of(PhraseName("Untitled"))
    window.open_book.edit(replace(window.open_book.phrase, title="Weir"), "rename")
    window.pages.go_to("Shed")
    practising = window.pages.shed.practising
    qtbot.waitUntil(lambda: practising.work is not None, timeout=20000)
    assert len(practising.work.history.recent) == 3, "a rename loses the history"
    menu = window.pages.shed.today.strip.log_menu.menu
    menu.aboutToShow.emit()
    [back] = [a for a in menu.actions() if a.isVisible() and a.text().startswith("Put 3 passes")]
    with qtbot.waitSignal(practising.worked, timeout=20000):
        back.trigger()
    qtbot.waitUntil(lambda: not practising.worker.running, timeout=20000)
    assert counts(window, name, PhraseName("Untitled")) == [0, 3] and takes.of(PhraseName("Untitled")) == (take,)
    assert practising.work.history.recent == ()


def test_two_phrases_of_one_title_share_nothing_and_the_player_chooses(qtbot, bare_window, opened):
    Logbook(bare_window.practice_log).add(passes(2, "Untitled"))
    window = opened(("Untitled",), ("Untitled", "3.0:q 3.2 2.0 2.3"))
    first, second = (PhraseName(e.phrase.title, e.id) for e in window.open_book.book.entries)
    assert (
        counts(window, first, second, PhraseName("Untitled")) == [0, 0, 2]
        and "two phrases bear" in window.notice.text()
    )
    window.turn_page(1)
    window.pages.go_to("Shed")
    practising = window.pages.shed.practising
    qtbot.waitUntil(lambda: practising.of == second, timeout=20000)
    qtbot.waitUntil(lambda: second.id in window.claims.contested, timeout=20000)
    assert practising.work.history.recent == ()
    menu = window.pages.shed.today.strip.log_menu.menu
    menu.aboutToShow.emit()
    with qtbot.waitSignal(practising.worked, timeout=20000):
        next(
            a
            for a in menu.actions()
            if a.isVisible() and a.text().startswith("What stands under this title is of this phrase: 2 passes")
        ).trigger()
    qtbot.waitUntil(lambda: not practising.worker.running, timeout=20000)
    assert (
        counts(window, first, second, PhraseName("Untitled")) == [0, 2, 0] and len(practising.work.history.recent) == 2
    )


@pytest.mark.parametrize("along", [True, False])
def test_a_copy_asks_whether_its_history_comes_along(qtbot, bare_window, opened, monkeypatch, along):
    window = opened(("Weir",))
    of = window.claims.name
    Logbook(window.practice_log).add(passes(3, "Weir", of.id))
    with qtbot.waitSignal(window.claims.history_asked, timeout=20000):
        copy_phrase(window)
    box = window.beside.asking
    assert "3 passes" in box.text() and box.defaultButton().text() == "Begin anew"
    take = next(b for b in box.buttons() if b.text() == "Take them along")
    (take if along else box.defaultButton()).click()
    qtbot.waitUntil(lambda: not window.claims.busy, timeout=20000)
    assert counts(window, of, window.claims.name, None) == [3, 3 if along else 0, 3], "nothing stands twice in the log"
    window.pages.go_to("Shed")
    practising = window.pages.shed.practising
    qtbot.waitUntil(lambda: practising.work is not None and practising.of == window.claims.name, timeout=20000)
    said = window.pages.shed.today.next.text()
    assert ("A copy of “Weir”, which has 3 passes" in said) is not along


def test_a_copy_of_what_was_not_practised_asks_nothing(qtbot, opened):
    window = opened(("Weir",))
    copy_phrase(window)
    qtbot.waitUntil(lambda: not window.claims.busy, timeout=20000)
    assert window.beside.asking is None and window.open_book.entry.copy_of


def test_saved_under_another_name_and_moved_a_phrase_keeps_its_history(qtbot, opened, tmp_path):
    window = opened(("Weir",), ("Lock",))
    ids = [e.id for e in window.open_book.book.entries]
    window.open_book.move_phrase(1)
    assert window.files.save_to(tmp_path / "other.dromic")
    assert [read_entry(tmp_path / "other.dromic", n).id for n in (1, 2)] == ids[::-1]


def test_a_phrase_of_a_foreign_file_is_known_by_what_it_plays(tmp_path):
    tune = "X:1\nT:{}\nM:4/4\nL:1/4\nK:C\n{}\n"
    for name, title, notes in (
        ("a", "Weir", "CDEF|"),
        ("b", "Lock", "CDEF|"),
        ("c", "Weir", "CDEG|"),
        ("d", "Weir", "C2EF|"),
    ):
        (tmp_path / f"{name}.abc").write_text(tune.format(title, notes))
    ids = {name: read_entry(tmp_path / f"{name}.abc").id for name in "abcd"}
    assert ids["a"] == ids["b"] and len(set(ids.values())) == 3


def test_pages_turned_fast_pass_no_phrase_over(qtbot, bare_window, opened):
    """What is looked at took the place of what waited, and a phrase passed over was never looked at again."""
    lines = [
        ("A", "3.0:q 3.2 2.0 2.3"),
        ("B", "3.0:q 3.2 2.0 2.5"),
        ("C", "3.0:q 3.2 2.0 2.7"),
        ("D", "3.0:q 3.2 2.0 2.8"),
    ]
    Logbook(bare_window.practice_log).add([p for title, _ in lines for p in passes(2, title)])
    window = opened(*lines)
    for _ in lines:
        window.turn_page(1)
    qtbot.waitUntil(lambda: not window.claims.busy, timeout=20000)
    names = [PhraseName(e.phrase.title, e.id) for e in window.open_book.book.entries]
    assert counts(window, *names) == [2, 2, 2, 2] and set(window.claims.done) == {name.id for name in names}


def test_takes_alone_that_two_phrases_claim_are_told_as_such(bare_window, opened):
    Takes(bare_window.practice_log.parent / "takes").keep(
        KeptTake(AT, "Untitled", "a take", 90.0, 5.0, 1.0, (), ".flac"), b"sound"
    )
    window = opened(("Untitled",), ("Untitled", "3.0:q 3.2 2.0 2.3"))
    assert window.notice.text().startswith("1 take under the title")


def test_what_is_taken_back_is_taken_from_the_copy_too(tmp_path):
    book, copy = Logbook(tmp_path / "log.sqlite"), PhraseName("Weir, again", "2")
    uids = book.add(passes(3, "Weir", "1"))
    book.lend(PhraseName("Weir", "1"), copy)
    book.take_back(uids[2:])
    assert [len(book.passes(of)) for of in (PhraseName("Weir", "1"), copy, None)] == [2, 2, 2]
    assert [d.best_clean for d in book.record(copy).drills] == [61.0]

"""The session: every change is a step back, the unsaved is known, and books of both sorts are turned through."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from dromic.app.book.session import Opened, Session, open_path
from dromic.app.window.window import demo_songbook
from dromic.core.music.songbook import Entry, Songbook
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import songbook_bytes
from dromic.formats.text.quick_line import parse
from tests.phrases import GUITAR


@pytest.fixture
def session(qapp):
    return Session()


def line(session, text):
    return parse(text, session.phrase, GUITAR).phrase


def test_edits_of_one_kind_in_a_row_are_one_step(session):
    empty = session.phrase
    for text in ("6.0", "6.0 6.1", "6.0 6.1 6.2"):
        session.edit(line(session, text), "quick line", merge="line")
    session.edit(line(session, "5.0"), "fret", merge=("fret", 0, 5))
    session.edit(line(session, "5.0 5.0"), "fret")
    assert session.undo.count() == 3
    session.undo.undo()
    session.undo.undo()
    assert len(session.phrase.events) == 3
    session.undo.undo()
    assert session.phrase == empty and not session.unsaved
    session.undo.redo()
    assert session.unsaved


def test_what_changes_nothing_is_no_step(session):
    session.edit(session.phrase, "nothing")
    assert session.undo.count() == 0


def test_it_is_unsaved_until_it_stands_in_a_file(session, tmp_path):
    told = []
    session.saved_changed.connect(lambda: told.append(session.unsaved))
    session.edit(line(session, "6.0"), "fret")
    session.was_saved(tmp_path / "x.dromic", session.book, None)
    assert told == [True, False] and session.path == tmp_path / "x.dromic" and session.name == "x.dromic"
    session.undo.undo()
    assert session.unsaved  # the file holds what was taken back
    session.undo.redo()
    assert not session.unsaved


def test_phrases_come_and_go(session):
    opened = []
    session.opened.connect(lambda: opened.append(session.index))
    session.add_phrase()
    session.copy_phrase()
    assert session.names == ["Phrase 1", "Phrase 2", "Phrase 2, again"] and session.number == 3
    session.move_phrase(-1)
    assert session.names == ["Phrase 1", "Phrase 2, again", "Phrase 2"] and session.index == 1
    session.move_phrase(5)  # off the end: nothing
    session.turn_to(0)
    session.drop_phrase()
    session.drop_phrase()
    session.drop_phrase()
    assert session.names == ["Phrase 1"] and not session.phrase.events
    for _ in range(6):
        session.undo.undo()
    assert session.names == ["Phrase 1"] and opened


def test_a_songbook_is_read_whole_and_a_foreign_book_a_tune_at_a_time(session, tmp_path):
    session.take(open_path(demo_songbook(), 3))
    assert session.number == 3 and len(session.names) == 7
    assert session.path is None  # what ships is not saved over
    book = tmp_path / "tunes.abc"
    book.write_text("X:1\nT:One\nM:4/4\nK:D\nD4|\n\nX:2\nT:Two\nM:4/4\nK:G\nG4|\n")
    session.take(open_path(book, 2))
    assert session.names == ["One", "Two"] and session.number == 2 and session.path is None
    assert session.phrase.title == "Two" and session.phrase.key == "G" and len(session.book.phrases) == 1
    with pytest.raises(DromicError, match="no tune 3"):
        open_path(book, 3)


def test_lost_work_is_unsaved_from_the_start(session):
    session.edit(line(session, "6.0"), "fret")
    session.take(Opened(Path("/music/x.dromic"), session.book, unsaved=True))
    assert session.unsaved and session.path == Path("/music/x.dromic")


def test_a_songbook_keeps_its_phrases_in_order():
    session = Session()
    a, b, c = (Entry(replace(session.phrase, title=t)) for t in "abc")
    book = Songbook("x", (a, b, c))
    assert book.moved(0, 2).titles == ["b", "c", "a"] and book.without(1).titles == ["a", "c"]
    assert book.inserted(1, c).titles == ["a", "c", "b", "c"]
    with pytest.raises(DromicError, match="at least one"):
        Songbook.of("x", ())
    assert songbook_bytes(book)

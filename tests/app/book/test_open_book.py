"""The open songbook: every change is a step back, the unsaved is known, and books of both sorts are turned through."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from dromic.app.book.open_book import OpenBook, Opened, open_path
from dromic.app.window.window import demo_songbook
from dromic.core.music.songbook import Entry, Songbook
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import songbook_bytes
from dromic.formats.text.quick_line import parse
from tests.phrases import GUITAR


@pytest.fixture
def open_book(qapp):
    return OpenBook()


def line(open_book, text):
    return parse(text, open_book.phrase, GUITAR).phrase


def test_edits_of_one_kind_in_a_row_are_one_step(open_book):
    empty = open_book.phrase
    for text in ("6.0", "6.0 6.1", "6.0 6.1 6.2"):
        open_book.edit(line(open_book, text), "quick line", merge="line")
    open_book.edit(line(open_book, "5.0"), "fret", merge=("fret", 0, 5))
    open_book.edit(line(open_book, "5.0 5.0"), "fret")
    assert open_book.undo.count() == 3
    open_book.undo.undo()
    open_book.undo.undo()
    assert len(open_book.phrase.events) == 3
    open_book.undo.undo()
    assert open_book.phrase == empty and not open_book.unsaved
    open_book.undo.redo()
    assert open_book.unsaved


def test_what_changes_nothing_is_no_step(open_book):
    open_book.edit(open_book.phrase, "nothing")
    assert open_book.undo.count() == 0


def test_it_is_unsaved_until_it_stands_in_a_file(open_book, tmp_path):
    told = []
    open_book.saved_changed.connect(lambda: told.append(open_book.unsaved))
    open_book.edit(line(open_book, "6.0"), "fret")
    open_book.was_saved(tmp_path / "x.dromic", open_book.book, None)
    assert told == [True, False] and open_book.path == tmp_path / "x.dromic" and open_book.name == "x.dromic"
    open_book.undo.undo()
    assert open_book.unsaved  # the file holds what was taken back
    open_book.undo.redo()
    assert not open_book.unsaved


def test_phrases_come_and_go(open_book):
    opened = []
    open_book.opened.connect(lambda: opened.append(open_book.index))
    open_book.add_phrase()
    open_book.copy_phrase()
    assert open_book.names == ["Phrase 1", "Phrase 2", "Phrase 2, again"] and open_book.number == 3
    open_book.move_phrase(-1)
    assert open_book.names == ["Phrase 1", "Phrase 2, again", "Phrase 2"] and open_book.index == 1
    open_book.move_phrase(5)  # off the end: nothing
    open_book.turn_to(0)
    open_book.drop_phrase()
    open_book.drop_phrase()
    open_book.drop_phrase()
    assert open_book.names == ["Phrase 1"] and not open_book.phrase.events
    for _ in range(6):
        open_book.undo.undo()
    assert open_book.names == ["Phrase 1"] and opened


def test_a_songbook_is_read_whole_and_a_foreign_book_a_tune_at_a_time(open_book, tmp_path):
    open_book.open(open_path(demo_songbook(), 3))
    assert open_book.number == 3 and len(open_book.names) == 11
    assert open_book.path is None  # what ships is not saved over
    book = tmp_path / "tunes.abc"
    book.write_text("X:1\nT:One\nM:4/4\nK:D\nD4|\n\nX:2\nT:Two\nM:4/4\nK:G\nG4|\n")
    open_book.open(open_path(book, 2))
    assert open_book.names == ["One", "Two"] and open_book.number == 2 and open_book.path is None
    assert open_book.phrase.title == "Two" and open_book.phrase.key == "G" and len(open_book.book.phrases) == 1
    with pytest.raises(DromicError, match="no tune 3"):
        open_path(book, 3)


def test_lost_work_is_unsaved_from_the_start(open_book):
    open_book.edit(line(open_book, "6.0"), "fret")
    open_book.open(Opened(Path("/music/x.dromic"), open_book.book, unsaved=True))
    assert open_book.unsaved and open_book.path == Path("/music/x.dromic")


def test_a_songbook_keeps_its_phrases_in_order():
    open_book = OpenBook()
    a, b, c = (Entry(replace(open_book.phrase, title=t)) for t in "abc")
    book = Songbook("x", (a, b, c))
    assert book.moved(0, 2).titles == ["b", "c", "a"] and book.without(1).titles == ["a", "c"]
    again = c.copied(c.phrase)
    assert book.inserted(1, again).titles == ["a", "c", "b", "c"] and (again.id, again.copy_of) != (c.id, c.copy_of)
    with pytest.raises(DromicError, match="one id"):
        book.inserted(1, c)
    with pytest.raises(DromicError, match="at least one"):
        Songbook.of("x", ())
    assert songbook_bytes(book)

"""Ids of a songbook's entries: what was read without one gets the same at every reading, and what is saved never changes."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest

from dromic.app.book.open_book import OpenBook, open_path
from dromic.cli.main import main
from dromic.core.editing.edit import Span, erase
from dromic.core.music.songbook import Entry, Songbook
from dromic.formats.document.document import read_entry, read_songbook, songbook_bytes
from dromic.formats.table import read_entry as read_entry_of
from tests.build import EIGHTH, phrase
from tests.older import older

LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5)], EIGHTH)
OTHER = phrase([(3, 5), (3, 7), (2, 5), (1, 8)], EIGHTH)
TUNES = "X:1\nT:One\nM:4/4\nK:D\nD4 E4|\n\nX:2\nT:Two\nM:4/4\nK:D\nD4 F4|\n"


def ids(book: Songbook) -> list[str]:
    return [e.id for e in book.entries]


def old(book: Songbook, version: int = 4) -> bytes:
    return older(json.loads(songbook_bytes(book)), version)


def test_a_book_without_ids_gets_the_same_at_every_reading_and_keeps_them_once_saved():
    data = old(Songbook.of("x", (LINE, OTHER, LINE)))
    book = read_songbook(data)
    assert ids(book) == ids(read_songbook(data)) and len(set(ids(book))) == 3
    assert all(ids(read_songbook(old(book, version))) == ids(book) for version in (1, 2, 3))
    assert [read_entry(data, n).id for n in (1, 2, 3)] == ids(book)
    changed = replace(book, title="y").with_entry(0, replace(book.entries[0], phrase=OTHER)).moved(0, 2)
    assert ids(read_songbook(songbook_bytes(changed))) == [*ids(book)[1:], ids(book)[0]]


@pytest.mark.parametrize(
    ("book", "same"),
    [
        (Songbook.of("x", (LINE,)), True),
        (Songbook.of("x", (replace(LINE, title="another", tempo=90.0),)), True),
        (Songbook.of("y", (LINE,)), False),
        (Songbook.of("x", (OTHER,)), False),
        (Songbook.of("x", (OTHER, LINE)).moved(1, 0), True),
    ],
)
def test_the_id_is_computed_from_the_books_name_the_place_and_the_notes(book, same):
    first = read_songbook(old(Songbook.of("x", (LINE,)))).entries[0].id
    assert (read_songbook(old(book)).entries[0].id == first) is same


def test_a_tune_of_another_kind_of_file_is_known_again(tmp_path):
    path = tmp_path / "airs.abc"
    path.write_text(TUNES)
    found = [read_entry_of(path, n).id for n in (1, 2, 1)]
    assert found[0] == found[2] != found[1]
    assert open_path(path, 2).book.entries[0].id == found[1]
    assert main(["convert", str(path), str(tmp_path / "airs.dromic"), "--tune", "2"]) == 0
    assert read_songbook((tmp_path / "airs.dromic").read_bytes()).entries[0].id == found[1]


def test_an_entry_copied_by_hand_in_the_file_gets_an_id_of_its_own():
    book = json.loads(songbook_bytes(Songbook.of("x", (LINE, OTHER))))
    book["entries"].append(book["entries"][0])
    data = json.dumps(book).encode()
    first, _, again = read_songbook(data).entries
    assert again.id != first.id and again.copy_of == first.id and again.phrase == first.phrase
    assert read_songbook(data).entries[2] == again == read_entry(data, 3)


def test_an_entry_keeps_its_id_through_edits_saving_elsewhere_and_reading(qapp, tmp_path):
    open_book = OpenBook()
    open_book.begin_new()
    made = open_book.entry.id
    open_book.edit(LINE.titled("mine"), "all of it")
    shorter = erase(LINE, Span(LINE.events[1].onset, LINE.events[2].onset))
    open_book.edit(replace(shorter, bars=(replace(LINE.bars[0], repeat_times=2),)), "a note removed, played twice")
    assert open_book.entry.id == made
    open_book.copy_phrase()
    copy = open_book.entry
    open_book.write_out()
    assert (copy.copy_of, open_book.entry.copy_of) == (made, copy.id)
    open_book.add_phrase()
    assert open_book.entry.copy_of == "" and len(set(ids(open_book.book))) == 4
    for name in ("a.dromic", "b.dromic"):
        Path(tmp_path / name).write_bytes(songbook_bytes(open_book.book))
        assert ids(open_path(tmp_path / name).book) == ids(open_book.book)
        assert read_entry((tmp_path / name).read_bytes(), 2) == copy


def test_what_is_undone_has_the_id_it_had(qapp):
    open_book = OpenBook()
    open_book.begin_new()
    before = ids(open_book.book)
    open_book.copy_phrase()
    after = ids(open_book.book)
    open_book.undo.undo()
    assert ids(open_book.book) == before
    open_book.undo.redo()
    assert ids(open_book.book) == after


def test_a_passage_taken_out_is_a_copy(tmp_path):
    path, out = tmp_path / "x.dromic", tmp_path / "y.dromic"
    whole = Entry(LINE)
    path.write_bytes(songbook_bytes(Songbook("x", (whole,))))
    found = []
    for _ in range(2):
        assert main(["convert", str(path), str(out), "--bars", "1-1"]) == 0
        (entry,) = read_songbook(out.read_bytes()).entries
        assert entry.copy_of == whole.id != entry.id
        found.append(entry.id)
    assert found[0] == found[1]

"""Dromic's own document: what is written comes back the same, old versions are read, faults are named."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic import presets
from dromic.core.music.songbook import Songbook, empty_songbook
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_document, read_songbook, songbook_bytes
from dromic.formats.document.document_schema import SongbookModel, json_schema, songbook
from tests.older import older
from tests.phrases import phrases

BOOK = Path("dromic/data/songs/copper-wren.dromic")


@given(st.lists(phrases(), min_size=1, max_size=2), st.text(max_size=5))
@settings(max_examples=60, deadline=None)
def test_what_is_written_comes_back_the_same(made, about):
    book = Songbook.of("a book", tuple(made), about.strip())
    data = songbook_bytes(book)
    assert read_songbook(data) == book
    assert [read_document(data, n + 1) for n in range(len(made))] == list(book.phrases)
    songbook(data)  # the published schema knows it too


def test_the_demo_songbook_is_written_as_it_is_read():
    data = BOOK.read_bytes()
    assert json.loads(songbook_bytes(read_songbook(data))) == json.loads(data)


def test_an_older_document_is_read_and_a_newer_one_refused():
    book = json.loads(BOOK.read_bytes())
    for version in (1, 2, 3):
        assert read_songbook(older(book, version)) == read_songbook(BOOK.read_bytes())
    for wrong, words in ((99, "newer Dromic"), (0, "never was"), ("x", "never was"), (None, "never was")):
        with pytest.raises(DromicError, match=words):
            read_songbook(json.dumps({**book, "dromic": wrong}).encode())


def test_tunings_that_are_no_presets_are_kept():
    own = presets.instrument_named("C2,G2,C3,G3,C4,D4").with_capo(2)
    book = empty_songbook(own)
    assert read_songbook(songbook_bytes(book)) == book


def test_the_reader_and_the_schema_know_the_same_shape():
    """A field neither knows is refused by both, wherever it stands."""
    book = json.loads(BOOK.read_bytes())
    bar = ["entries", 0, "phrase", "bars", 0]
    for path in ([], ["entries", 0], ["entries", 0, "phrase"], bar, [*bar, "events", 0, "notes", 0]):
        wrong = json.loads(json.dumps(book))
        inner = wrong
        for key in path:
            inner = inner[key]
        inner["colour"] = "red"
        with pytest.raises(DromicError, match="colour"):
            read_songbook(json.dumps(wrong).encode())


def test_the_published_schema_is_the_one_in_use():
    assert Path("docs/songbook.schema.json").read_text() == json_schema()
    assert set(SongbookModel.model_fields) == {"dromic", "kind", "title", "about", "entries"}

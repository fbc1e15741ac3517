"""Dromic's own document: what is written comes back the same, old versions are read, faults are named by their place."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.music.songbook import Songbook, empty_songbook
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_document, read_songbook, songbook_bytes
from dromic.formats.document.shape import json_schema
from tests.examples import examples
from tests.older import older
from tests.phrases import phrases

BOOK = Path("dromic/data/songs/copper-wren.dromic")
NOTE = ("entries", 0, "phrase", "bars", 2, "events", 6, "notes", 0)


def published(data: bytes) -> None:
    """A document as the published JSON Schema has it, by an independent validator (jsonschema, draft 2020-12)."""
    schema = json.loads(Path("docs/songbook.schema.json").read_text())
    jsonschema.Draft202012Validator(schema).validate(json.loads(data))


def changed(path, value) -> bytes:
    """The demo with one value at a path changed."""
    book = json.loads(BOOK.read_bytes())
    inner = book
    for key in path[:-1]:
        inner = inner[key]
    inner[path[-1]] = value
    return json.dumps(book).encode()


@given(st.lists(phrases(), min_size=1, max_size=2), st.text(max_size=5))
@examples(60)
def test_what_is_written_comes_back_the_same(made, about):
    book = Songbook.of("a book", tuple(made), about.strip())
    data = songbook_bytes(book)
    assert read_songbook(data) == book
    assert [read_document(data, n + 1) for n in range(len(made))] == list(book.phrases)
    published(data)


def test_the_demo_songbook_is_written_as_it_is_read():
    data = BOOK.read_bytes()
    assert json.loads(songbook_bytes(read_songbook(data))) == json.loads(data)


def test_an_older_document_is_read_and_a_newer_one_refused():
    book = json.loads(BOOK.read_bytes())
    for version in (1, 2, 3, 4):
        assert read_songbook(older(book, version)) == read_songbook(BOOK.read_bytes())
    for wrong, words in ((99, "newer Dromic"), (0, "never was"), ("x", "never was"), (None, "never was")):
        with pytest.raises(DromicError, match=words):
            read_songbook(json.dumps({**book, "dromic": wrong}).encode())


def test_tunings_that_are_no_presets_are_kept():
    own = presets.instrument_named("C2,G2,C3,G3,C4,D4").with_capo(2)
    book = empty_songbook(own)
    assert read_songbook(songbook_bytes(book)) == book


@pytest.mark.parametrize(
    ("path", "value", "where", "says"),
    [
        ((*NOTE, "fret"), "x", "entries[0].phrase.bars[2].events[6].notes[0].fret", "a whole number or null, not a text"),
        ((*NOTE, "for"), 0.5, "entries[0].phrase.bars[2].events[6].notes[0].for", "a fraction of a quarter note such as 3/2"),
        ((*NOTE, "for"), "1/0", "entries[0].phrase.bars[2].events[6].notes[0].for", "divide by zero"),
        ((*NOTE, "colour"), "red", "entries[0].phrase.bars[2].events[6].notes[0]", "colour, which Dromic does not know"),
        ((*NOTE, "string"), 12, "bar 3 of 'Lantern Gate'", "string is 12"),
        (("entries", 1, "phrase", "mood"), "glad", "entries[1].phrase", "mood"),
        (("entries", 1, "phrase", "instrument"), 5, "entries[1].phrase.instrument", "not a whole number"),
        (("entries", 1, "colour"), "red", "entries[1]", "colour"),
        (("colour",), "red", "", "colour"),
        (("title",), None, "title", "it must be a text, not null"),
        (("kind",), "sonata", "kind", "sonata"),
        (("entries",), [{}], "entries[0]", "id is missing"),
        (("entries",), 7, "entries", "a list, not a whole number"),
    ],
)  # fmt: skip
def test_a_fault_is_named_by_its_path(path, value, where, says):
    with pytest.raises(DromicError) as told:
        read_songbook(changed(path, value))
    assert told.value.where == where and says in told.value.what


@pytest.mark.parametrize(
    ("damage", "where", "says"),
    [
        (lambda data: data[:4000], "", "ends too early"),
        (lambda data: data.replace(b'"tempo": 132.0,', b'"tempo": ,', 1), "line 12", "no JSON"),
        (lambda data: b"", "", "ends too early"),
        (lambda data: b"[]", "", "version"),
    ],
)
def test_what_is_no_json_is_named_by_its_line(damage, where, says):
    with pytest.raises(DromicError) as told:
        read_songbook(damage(BOOK.read_bytes()))
    assert told.value.where == where and says in told.value.what


def test_a_mark_of_byte_order_before_it_is_no_fault():
    """Some editors put one before UTF-8."""
    assert read_songbook(b"\xef\xbb\xbf" + BOOK.read_bytes()) == read_songbook(BOOK.read_bytes())


def test_the_published_schema_is_the_one_in_use():
    assert Path("docs/songbook.schema.json").read_text() == json_schema()
    with pytest.raises(jsonschema.ValidationError):
        published(changed((*NOTE, "fret"), "x"))

"""A decision in the document: it comes back the same, follows edits, is refused where it is broken, and says what was rejected."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.app.book.open_book import OpenBook
from dromic.core.editing.edit import Span, erase
from dromic.core.music.songbook import Entry, Songbook
from dromic.core.reports.comparison import compared
from dromic.core.setup.choices import Choices
from dromic.core.setup.decision import Decision, Rejected
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook, songbook_bytes
from tests.build import EIGHTH, phrase, planned
from tests.examples import examples
from tests.formats.test_document import published
from tests.older import older
from tests.phrases import TEXT

BOOK = Path("dromic/data/songs/copper-wren.dromic")
LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7)] * 2)
TEMPI = st.none() | st.floats(20, 400, allow_nan=False)

pins = st.builds(
    lambda event, pin: Pin(event, 0, *pin),
    st.integers(0, 11),
    st.sampled_from([("string", 3), ("finger", "2"), ("stroke", "up"), ("finger", "4")]),
)
choices = st.builds(
    Choices,
    school=st.sampled_from(["alternate", "sweep", "free"]),
    tempo=st.floats(40, 300),
    start=st.sampled_from(["", "up", "down"]),
    repeat=st.booleans(),
    pins=st.lists(pins, max_size=3, unique_by=lambda k: (k.event, k.field)).map(tuple),
    overrides=st.lists(st.tuples(st.integers(0, 11), st.sampled_from(["up", "down"])), max_size=2).map(tuple),
)
decisions = st.builds(
    Decision, TEXT, choices, TEMPI, st.just("") | TEXT, st.just("2026-03-01"),
    st.lists(st.builds(Rejected, TEXT, TEMPI, TEXT), max_size=3).map(tuple),
)  # fmt: skip


@given(decisions)
@examples(60)
def test_a_decision_comes_back_the_same(made):
    book = Songbook("a book", (Entry(LINE, made.choices, (made,)),), "")
    data = songbook_bytes(book)
    assert read_songbook(data) == book
    published(data)


def test_a_book_of_the_version_before_has_no_decisions_and_is_read_alike():
    book = json.loads(BOOK.read_bytes())
    assert not any("decisions" in one for one in book["entries"])
    assert read_songbook(older(book, 2)) == read_songbook(BOOK.read_bytes())


def test_a_decision_of_version_3_makes_the_plan_it_made_then():
    """Written strokes and fingers were not kept then."""
    kept = Decision("Sweep", Choices(school="sweep", tempo=90.0), 120.0, "it rests", "2026-03-01")
    book = json.loads(songbook_bytes(Songbook("a book", (Entry(LINE, None, (kept,)),))))
    (entry,) = read_songbook(older(book, 3)).entries
    meant = replace(kept.choices, strokes=False, fingers=False)
    assert entry == Entry(LINE, meant, (replace(kept, choices=meant),), entry.id)


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        (("label",), None, "label"),
        (("mood",), "good", "mood"),
        (("choices", "tempo"), "fast", "tempo"),
        (("choices", "colour"), "red", "colour"),
        (("choices", "pins"), [{"event": 0, "note": 0, "field": "nose", "value": "1"}], "nose"),
        (("rejected",), [{"label": "Economy"}], "decision|rejected|ceiling"),
        (("ceiling",), "high", "ceiling|high"),
    ],
)
def test_a_broken_decision_is_refused_in_a_sentence(path, value, words):
    kept = Decision(
        "Sweep", Choices(school="sweep"), 120.0, "why not", "2026-03-01", (Rejected("Economy", 90.0, "slow"),)
    )
    book = json.loads(songbook_bytes(Songbook("a book", (Entry(LINE, kept.choices, (kept,)),), "")))
    entry = book["entries"][0]["decisions"][0]
    for key in path[:-1]:
        entry = entry[key]
    entry[path[-1]] = value
    with pytest.raises(DromicError, match=words) as told:
        read_songbook(json.dumps(book).encode())
    assert "\n" not in str(told.value)


def test_what_is_pinned_in_a_decision_follows_the_notes(qapp):
    open_book = OpenBook()
    made = Choices(school="sweep", pins=(Pin(4, 0, "finger", "2"),))
    open_book.begin_new()
    open_book.edit(LINE, "all of it")
    open_book.decide(Decision("Sweep", made, 120.0, "", "2026-03-01"))
    assert open_book.choices == made
    shorter = erase(LINE, Span(LINE.events[1].onset, LINE.events[2].onset))
    open_book.edit(shorter, "a note removed")
    assert [k.event for k in open_book.entry.decision.choices.pins] == [3]
    assert open_book.choices == open_book.entry.decision.choices


def test_what_was_rejected_is_told_in_figures():
    one, other = (
        planned(phrase([(3, 5), (3, 7), (2, 5), (2, 7)] * 4, EIGHTH), school) for school in ("alternate", "downs")
    )
    words = compared(one, other)
    by = abs(one.ceiling - other.ceiling)
    assert f"ceiling {by:.0f} {'higher' if other.ceiling > one.ceiling else 'lower'}" in words
    hops = other.totals.hops - one.totals.hops
    assert hops == 0 or f"{abs(hops)} {'more' if hops > 0 else 'fewer'} string" in words
    assert compared(one, one) == "the same ceiling"


def test_what_does_not_carry_a_decision_says_so(tmp_path, capsys):
    from dromic.cli.main import main

    kept = Decision("Sweep", Choices(school="sweep"), 120.0, "it rests", "2026-03-01")
    path = tmp_path / "mine.dromic"
    path.write_bytes(songbook_bytes(Songbook("a book", (Entry(LINE, kept.choices, (kept,)),), "")))
    for ending, told in ((".musicxml", True), (".txt", True), (".mid", True), (".svg", False), (".dromic", False)):
        assert main(["convert", str(path), str(tmp_path / f"out{ending}")]) == 0
        assert ("the plan that was kept" in capsys.readouterr().err) is told, ending

"""The demo songbook is playable music in proper metre, on the instruments it names, and plans in every school that can play it."""

import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest

from dromic import presets
from dromic.app.main import demo_songbook
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.meant_pins import solve_meant
from dromic.core.search.planner import judge, plan, solve
from dromic.core.setup.choices import Choices
from dromic.core.values.errors import DromicError
from dromic.formats.table import read, titles
from dromic.plan_requests import first_choices, request_for
from tests.build import strokes
from tests.demos import demo_requests

BOOK = demo_songbook()
COUNT = len(titles(BOOK))


def test_the_band_brings_eleven_pieces():
    assert COUNT == 11
    phrases = [read(BOOK, n) for n in range(1, COUNT + 1)]
    assert {p.instrument.strings for p in phrases} == {4, 6, 8}
    attacks = {n.attack for p in phrases for _, _, _, n in p.numbered_notes()}
    assert attacks >= {"pull", "hammer", "tap", "pluck"}


@pytest.mark.parametrize("tune", range(1, COUNT + 1))
def test_every_bar_is_full_and_nothing_overlaps(tune):
    phrase = read(BOOK, tune)
    sections = [b for b in phrase.bars if b.length != b.metre.length]
    if sections:
        assert all(a.length + b.length == b.metre.length for a, b in zip(sections[::2], sections[1::2], strict=True))
    for a, b in zip(phrase.events, phrase.events[1:], strict=False):
        assert a.end <= b.onset
    assert phrase.events[-1].end <= phrase.bars[-1].end
    for event in phrase.events:
        assert event.end <= phrase.bars[event.bar].end
        for note in event.notes:
            assert phrase.instrument.places_of(note.pitch)


@pytest.mark.parametrize("tune", range(1, COUNT + 1))
def test_every_piece_plans_in_every_school(tune):
    phrase = read(BOOK, tune)
    for school in presets.schools():
        chosen = replace(first_choices(phrase, Choices()), school=school)
        try:
            found = judge(solve_meant(request_for(phrase, chosen, presets.players())))
        except DromicError as error:  # a line of one school may be none of another's
            assert school == "legato" and "allows no stroke here for this phrase" in str(error)
            continue
        assert found.request.school.name == school and len(found.events) == len(phrase.events)


def test_pieces_fit_their_own_tempo_but_for_two_that_say_what_limits_them():
    """Both have the pick stuck between the strings in a gallop."""
    too_fast = {}
    for asked in demo_requests():
        found = with_remedies(solve(asked), {})
        if found.ceiling < asked.phrase.tempo:
            too_fast[asked.phrase.title] = found.limit.rows
    assert set(too_fast) == {"Lantern Gate", "Iron Lantern"}
    assert all("lifting out" in rows for rows in too_fast.values())


def test_gallops_of_the_riff_are_down_down_up():
    phrase = read(BOOK, 1)
    found = plan(request_for(phrase, first_choices(phrase, Choices()), presets.players()))
    first_bar = strokes(found)[: sum(e.bar == 0 for e in phrase.events)]
    assert first_bar == "DDU" * 4


def test_document_faults_name_their_place(tmp_path: Path):
    book = json.loads(BOOK.read_bytes())
    note = book["entries"][0]["phrase"]["bars"][0]["events"][0]["notes"][0]
    note["for"] = "a while"
    path = tmp_path / "x.dromic"
    path.write_text(json.dumps(book))
    with pytest.raises(DromicError, match=r"entries\[0\]\.phrase\.bars\[0\]\.events\[0\]\.notes\[0\]\.for"):
        read(path)
    note.update({"for": "1/2", "string": 9})
    path.write_text(json.dumps(book))
    phrase = read(path)
    assert phrase.events[0].notes[0].duration == Fraction(1, 2)
    with pytest.raises(DromicError, match="string is 9"):
        from dromic.core.music.stated_positions import resolve_positions

        resolve_positions(phrase, presets.instruments()["guitar"])

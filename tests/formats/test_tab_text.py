"""Plain-text tablature: what is written comes back, and what is passed around is read with what it leaves open said."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.core.editing import edit
from dromic.core.music.phrase import Phrase
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_name
from dromic.core.values.vocabulary import PLUCKERS, SLID_TO
from dromic.formats.text.quick_line import write
from dromic.formats.text.tab_text import looks_like_tab, read_tab
from dromic.formats.text.tab_write import CARRIED, tab_text
from tests.examples import examples
from tests.phrases import GUITAR, phrases


def carried(phrase: Phrase) -> Phrase:
    """What tablature can say of a phrase: every note on a string, lengths up to the next, one stroke a chord."""
    span = edit.Span(Fraction(0), phrase.end)
    placed = edit.change(phrase, span, lambda n: n if n.string else replace(n, **_first(n.pitch)))
    events = []
    for i, event in enumerate(placed.events):
        following = placed.events[i + 1].onset if i + 1 < len(placed.events) else phrase.end
        length = min(following - event.onset, max(n.duration for n in event.notes))
        one = {n.string: n for n in event.notes}
        palm = any("palm-mute" in n.marks for n in one.values())
        notes = []
        for n in one.values():
            marks = (n.marks & CARRIED) - {"palm-mute"} | ({"palm-mute"} if palm else set())
            marks -= {"release"} if "bend" not in marks else set()
            marks -= {"harmonic"} if "dead" in marks else set()
            fret = 0 if "dead" in marks else n.fret
            attack = None if n.attack in ("pick", "pluck") else n.attack
            slid = n.attack == "slide" or (SLID_TO in marks and attack is None)
            marks -= {SLID_TO}
            if slid and event.stroke:
                attack, marks = "pluck" if event.stroke in PLUCKERS else "pick", marks | {SLID_TO}
            elif slid:
                attack = "slide"  # that it is struck needs a stroke
            fingers = [x.finger for x in one.values()]
            finger = n.finger if all(fingers) else None
            notes.append(
                replace(n, duration=length, marks=frozenset(marks), fret=fret, pitch=GUITAR.pitch_at(n.string, fret),
                        attack=attack, stroke=event.stroke, finger=finger, tremolo=0)
            )  # fmt: skip
        events.append(replace(event, notes=tuple(sorted(notes, key=lambda n: (n.pitch, -n.string)))))
    return replace(placed, events=tuple(events), sections=(), school=None)


def _first(pitch):
    string, fret = GUITAR.places_of(pitch)[0]
    return {"string": string, "fret": fret}


@given(phrases(), st.just("a title"))
@examples(100)
def test_what_is_written_comes_back(phrase, title):
    if not phrase.events:
        return
    phrase = replace(carried(phrase), title=title)
    again = read_tab(tab_text(phrase, GUITAR).encode())
    assert [(b.start, b.length, b.metre, b.repeat_times) for b in again.bars] == [
        (b.start, b.length, b.metre, b.repeat_times) for b in phrase.bars
    ]
    strokes = [
        (e.onset, [(n.string, n.fret, n.duration, n.attack, n.marks, n.bend) for n in e.notes]) for e in again.events
    ]
    assert strokes == [
        (e.onset, [(n.string, n.fret, n.duration, n.attack, n.marks, n.bend) for n in e.notes]) for e in phrase.events
    ]
    assert [e.stroke for e in again.events] == [e.stroke for e in phrase.events]
    assert again.tempo == phrase.tempo and again.swing == phrase.swing and again.title == title


PASSED_AROUND = """
Here is the lick, slowly at first:

e|-----------------|-----------------|
B|-----------------|--------10-12~---|
G|-7b9-7-5---------|-9h11------------|
D|---------7-5h7p5-|-----------------|
A|-----------------|-7---------------|
E|-----------------|-5---------------|
"""


def test_a_lick_as_it_is_passed_around():
    found = read_tab(PASSED_AROUND.encode())
    assert write(found).startswith("3.7^2 3.7:e 3.5 4.7 4.5 h4.7 p4.5 | 6.5+5.7+3.9")
    assert any("no tuning" in s for s in found.notices) and any("no lengths" in s for s in found.notices)


@pytest.mark.parametrize(
    "text, line, strings",
    [
        ("G|-0-2-|\nD|-----|\nA|-----|\nE|-----|\n", "1.0:h 1.2", 4),
        ("-0-0-0-3-\n" + "---------\n" * 5, "1.0 1.0 1.0 1.3", 6),
        ("e|----|\n" * 5 + "D|0-0-|\n", "6.0:h 6.0", 6),
        ("D#|-1-2-3-|\n" + "A#|-------|\n" * 7, "1.1:h3 1.2 1.3", 8),
        ("e |--------|\n" + "B |--------|\n" * 4 + "E |-x-x-x-x|\n", "6.0x 6.0x 6.0x 6.0x", 6),
    ],
)
def test_odd_shapes_are_read(text, line, strings):
    found = read_tab(text.encode())
    assert found.instrument is not None and found.instrument.strings == strings
    assert write(found) == line


def test_names_give_the_tuning_and_the_nearest_octave_is_taken():
    found = read_tab(b"e|-0-|\nB|---|\nG|---|\nD|---|\nA|---|\nD|---|\n")
    assert [note_name(n) for n in found.instrument.tuning] == ["D2", "A2", "D3", "G3", "B3", "E4"]
    assert any("octaves are not written" in s for s in found.notices)


@pytest.mark.parametrize(
    "text, words",
    [
        ("a letter, no notes", "holds no tablature"),
        ("e|----|\n" * 6, "holds no notes"),
        ("e|-99-|\n" + "B|----|\n" * 5, "fret"),
        ("bar      ³ 4/4\nlength   q\n" + "e2     |-0-0-|\n" + "B2     |-----|\n" * 5, "fewer lengths than notes"),
        ("length   q\n" + "e2     |-0-0-|\n" + "B2     |-----|\n" * 5, "fewer lengths than notes"),
    ],
)
def test_what_cannot_be_read_is_said(text, words):
    with pytest.raises(DromicError, match=words):
        read_tab(text.encode())
    assert looks_like_tab(PASSED_AROUND) and not looks_like_tab("6.0:e 6.3 | r:h")


@given(st.text("eBGDAE|-0123456789hpb/x~()\n length:qr", max_size=200))
@examples(200)
def test_whatever_stands_there_is_a_phrase_or_one_sentence(text):
    try:
        assert read_tab(text.encode()).events
    except DromicError as error:
        assert "\n" not in str(error)


def test_a_swing_over_nothing_is_told_and_left_out():
    """Found by the broken files: a ratio whose lower number is 0."""
    phrase = read_tab(
        b"swing: 1/2 3/0\n\ne|-0-1-3-0-|\nB|---------|\nG|---------|\nD|---------|\nA|---------|\nE|---------|\n", 1, 1
    )
    assert phrase.swing.ratio == 1 and any("swing is '1/2 3/0'" in words for words in phrase.notices)

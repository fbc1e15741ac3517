"""The quick line: it says what a phrase says, both ways, and names a fault where it lies."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.core.music.songbook import empty_phrase
from dromic.core.values.note_lengths import BASES, length_of, word_of
from dromic.formats.text.quick_line import LineFault, parse, write
from tests.examples import examples
from tests.phrases import GUITAR, phrases

BASE = empty_phrase("line", GUITAR)


def read(text):
    return parse(text, BASE, GUITAR).phrase


@given(phrases())
@examples(150)
def test_a_phrase_comes_back_from_its_line(phrase):
    assert parse(write(phrase), phrase, GUITAR).phrase == phrase


def test_a_line_as_a_player_types_it():
    made = read("|: 4/4 6.0_:e 6.0_:s 6.0_ 5.2!:e h5.3 p5.2 r 4.2+5.2+6.0:q | 3/4 E4:h -:q | 2.12^1r:q. :|3")
    assert [b.metre.upper for b in made.bars] == [4, 3, 3]
    assert made.bars[0].repeat_start and made.bars[2].repeat_times == 3
    first = [(float(e.onset), [(n.string, n.fret) for n in e.notes]) for e in made.events[:4]]
    assert first == [(0, [(6, 0)]), (0.5, [(6, 0)]), (0.75, [(6, 0)]), (1.0, [(5, 2)])]
    assert [e.attack for e in made.events[3:6]] == [None, "hammer", "pull"]
    assert [(n.string, n.fret) for n in made.events[6].notes] == [(6, 0), (5, 2), (4, 2)]
    held = made.events[7].notes[0]
    assert held.pitch == 64 and held.string is None and held.duration == 3
    bent = made.events[8].notes[0]
    assert bent.bend == 1.0 and {"bend", "release"} <= bent.marks


@given(st.sampled_from(sorted(BASES)), st.integers(0, 2), st.sampled_from(["", "3", "5"]))
def test_lengths_have_words(base, dots, tuplet):
    length = length_of(base + "." * dots + tuplet)
    assert length_of(word_of(length)) == length
    if not dots and not tuplet:
        assert word_of(length) == base


def test_three_of_a_triplet_fill_the_time_of_two():
    assert 3 * length_of("e3") == length_of("q") and 5 * length_of("s5") == length_of("q")
    assert length_of("q.") == Fraction(3, 2) and length_of("q..") == Fraction(7, 4)


@pytest.mark.parametrize(
    "text, marked, words",
    [
        ("6.0:q 9.0", "9.0", "string"),
        ("6.0 6.40", "6.40", "fret"),
        ("6.0:h 6.0 6.0", "6.0", "it is full"),
        ("6.0:y", "6.0:y", "not a length"),
        ("6.0?", "6.0?", "not understood"),
        ("6.0 blue", "blue", "not a note"),
        ("6.0 3/4", "3/4", "after a bar line"),
        ("z6.0", "z6.0", "no way to sound"),
        ("6.0/z", "6.0/z", "no stroke"),
        ("6.0{loud}", "6.0{loud}", "no mark"),
        ("- 6.0", "-", "no note before"),
        ('"Verse 6.0', '"Verse 6.0', "ends with a quote"),
        ('"Verse":3 6.0', "0", "longer than what follows"),
        ("6.0:e4", "6.0:e4", "no tuplet of 4"),
        ("E", "E", "not a note"),
        ("6.0^99", "6.0^99", "bend"),
    ],
)
def test_a_fault_is_named_where_it_lies(text, marked, words):
    with pytest.raises(LineFault, match=words) as caught:
        read(text)
    assert text[caught.value.start : caught.value.end] == marked


@given(st.text('6.0:qe|+-r=^@/"[]() 5hpsx3E#', max_size=25))
@examples(300)
def test_whatever_is_typed_is_a_phrase_or_a_fault(text):
    try:
        found = parse(text, BASE, GUITAR).phrase
    except LineFault as fault:
        assert 0 <= fault.start <= fault.end <= len(text) and str(fault).count("\n") == 0
    else:
        assert parse(write(found), found, GUITAR).phrase == found


def test_short_bars_are_left_silent_and_said():
    found = parse("6.0:q | 6.3:w", BASE, GUITAR)
    assert found.remarks == ("bar 1 is 3 quarters short, left silent",)
    assert [e.onset for e in found.phrase.events] == [0, 4]

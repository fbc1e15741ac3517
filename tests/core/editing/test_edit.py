"""Edits of a phrase: what they do, and what none of them may do to the rest."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic import presets
from dromic.core.editing import edit, edit_bars
from dromic.core.editing.edit import Span
from dromic.core.music.phrase import Note
from dromic.core.music.songbook import empty_phrase
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.formats.text.quick_line import parse, write
from tests.examples import examples
from tests.phrases import GUITAR, phrases

F = Fraction


def line(text):
    return parse(text, empty_phrase("x", GUITAR), GUITAR).phrase


def whole(phrase):
    return Span(F(0), phrase.end)


def note(string, fret, length=None):
    return Note(GUITAR.pitch_at(string, fret), length or F(1, 2), string, fret)


def test_notes_are_put_side_by_side_and_in_place_of_one_another():
    phrase = line("6.0:q 6.1 6.2 r")
    assert write(edit.put(phrase, F(1, 2), note(6, 5))) == "6.0:e 6.5 6.1:q 6.2 r"
    assert write(edit.put(phrase, F(1), note(5, 3, F(1)))) == "6.0 6.1+5.3 6.2 r"
    assert write(edit.put(phrase, F(1), note(6, 7, F(4)))) == "6.0 6.7 6.2 r"  # ends where the next begins
    assert write(edit.put(phrase, F(4), note(6, 7, F(1)))) == "6.0 6.1 6.2 r | 6.7 r:h."  # a bar is added


def test_names_make_chords_only_side_by_side():
    phrase = edit.put(empty_phrase("x", GUITAR, 1), F(0), Note(60, F(1)))
    assert [n.pitch for n in edit.put(phrase, F(0), Note(64, F(1))).events[0].notes] == [64]
    assert [n.pitch for n in edit.put(phrase, F(0), Note(64, F(1)), beside=True).events[0].notes] == [60, 64]


def test_erasing_ends_what_began_before():
    phrase = line("6.0:h 5.2+4.2:q r")
    assert write(edit.erase(phrase, Span(F(1), F(3)))) == "6.0 r:h."
    assert write(edit.erase(phrase, Span(F(2), F(3), frozenset({5})))) == "6.0:h 4.2:q r"


def test_marks_and_attacks_go_on_and_off():
    phrase = line("6.0:q 6.3_ 6.5 r")
    muted = edit.toggled(phrase, whole(phrase), "palm-mute")
    assert write(muted) == "6.0_ 6.3_ 6.5_ r"
    assert write(edit.toggled(muted, whole(muted), "palm-mute")) == "6.0 6.3 6.5 r"
    hammered = edit.stated(phrase, Span(F(1), F(2)), "attack", "hammer")
    assert write(hammered) == "6.0 h6.3_ 6.5 r"
    assert write(edit.stated(hammered, Span(F(1), F(2)), "attack", "hammer")) == write(phrase)
    bent = line("3.7^1:w")
    assert write(edit.toggled(bent, whole(bent), "bend")) == "3.7:w"


def test_a_tie_holds_on_up_to_the_next_note():
    phrase = line("6.0:q r 6.2:h")
    assert write(edit.held_on(phrase, F(1), 6, F(1, 2))) == "6.0:q. r:e 6.2:h"
    assert write(edit.held_on(phrase, F(1), 6, F(4))) == "6.0:h 6.2"
    with pytest.raises(DromicError, match="no note on this string"):
        edit.held_on(phrase, F(0), 1, F(1))


def test_copy_and_paste_and_the_bar_again():
    phrase = line("6.0:q 6.1 6.2 6.3 | 5.0 r:h.")
    clip = edit.copied(phrase, Span(F(0), F(2)))
    assert write(edit.pasted(phrase, F(5), clip)) == "6.0 6.1 6.2 6.3 | 5.0 6.0 6.1 r"
    again = edit_bars.repeated_bar(phrase, 0)
    assert write(again) == "6.0 6.1 6.2 6.3 | 6.0 6.1 6.2 6.3 | 5.0 r:h."
    silent = line("6.0:q r:h. | r:w")
    assert len(edit_bars.repeated_bar(silent, 0).bars) == 2


def test_along_the_neck_across_the_strings_and_in_pitch():
    phrase = line("6.5:q 5.7 4.7 E4")
    assert write(edit.shifted(phrase, whole(phrase), 2, GUITAR)) == "6.7 5.9 4.9 F#4"
    assert write(edit.restrung(phrase, Span(F(0), F(2)), -1, GUITAR)) == "5.0 4.2 4.7 E4"
    up = edit.transposed(phrase, whole(phrase), 17, GUITAR)
    assert [n.pitch for e in up.events for n in e.notes] == [n.pitch + 17 for e in phrase.events for n in e.notes]
    assert up.events[0].notes[0].fret == 22 and up.events[1].notes[0].fret == 24
    for wrong, words in (
        (lambda: edit.shifted(phrase, whole(phrase), -6, GUITAR), "not on the neck"),
        (lambda: edit.restrung(phrase, whole(phrase), -1, GUITAR), "no string yet"),
        (lambda: edit.transposed(phrase, whole(phrase), 18, GUITAR), "string 5 has no fret 25"),
        (lambda: edit.transposed(phrase, whole(phrase), -12, GUITAR), "string 6 has no fret -7"),
        (lambda: edit.restrung(phrase, Span(F(0), F(1)), 1, GUITAR), "not on string 7"),
    ):
        with pytest.raises(DromicError, match=words):
            wrong()


def test_lengths_and_order():
    phrase = line("6.0:e 6.1 6.2:q 6.3:h | 5.0:w")
    assert write(edit.stretched(phrase, Span(F(0), F(1)), F(2))) == "6.0 6.1 6.2 6.3 | - 5.0:h. | -:q r:h."
    assert write(edit.turned(phrase, Span(F(0), F(4)))) == "6.3:h 6.2:q 6.1:e 6.0 | 5.0:w"


@given(phrases(), st.data())
@examples(80)
def test_turning_and_shifting_twice_changes_nothing(phrase, data):
    phrase = edit.with_sounds(phrase, [(o, replace(n, duration=F(1, 240))) for o, n in edit.sounds_of(phrase)])
    span = whole(phrase)
    assert edit.turned(edit.turned(phrase, span), span) == phrase
    by = data.draw(st.integers(0, 5))
    assert edit.shifted(edit.shifted(phrase, span, by, GUITAR), span, -by, GUITAR) == phrase
    assert edit.pasted(phrase, F(0), edit.copied(phrase, span)) == phrase


@given(phrases(), st.data())
@examples(80)
def test_bars_put_in_and_taken_out_change_nothing(phrase, data):
    index = data.draw(st.integers(0, len(phrase.bars)))
    count = data.draw(st.integers(1, 2))
    longer = edit_bars.inserted_bars(phrase, index, count)
    assert len(longer.bars) == len(phrase.bars) + count
    assert [b.number for b in longer.bars] == list(
        range(longer.bars[0].number, longer.bars[0].number + len(longer.bars))
    )
    back = edit_bars.deleted_bars(longer, index, index + count - 1)
    assert back.events == phrase.events and back.sections == phrase.sections
    assert [(b.start, b.length) for b in back.bars] == [(b.start, b.length) for b in phrase.bars]


def test_metre_pickup_repeats_and_sections():
    phrase = line("6.0:q 6.1 6.2 6.3 | 6.4 6.5 6.6 6.7")
    three = edit_bars.with_metre(phrase, 0, Metre(3, 4))
    assert write(three) == "3/4 6.0 6.1 6.2 | 6.3 6.4 6.5 | 6.6 6.7 r"
    pickup = edit_bars.with_pickup(phrase, F(1))
    assert write(pickup).startswith("len=q r | 6.0 6.1") and pickup.bars[0].number == 0
    assert write(edit_bars.with_repeat(phrase, 0, 1, 3)).endswith(":|3")
    twice = edit_bars.with_ending(edit_bars.with_repeat(phrase, 0, 0, 2), 0, 0, (1,))
    assert twice.bars[0].endings == (1,)
    named = edit_bars.with_section(edit_bars.with_section(phrase, 0, 0, "A"), 0, 1, "B")
    assert [s.name for s in named.sections] == ["B"]
    assert edit_bars.with_section(named, 1, 1, "").sections == ()


def test_another_tuning_keeps_frets_or_pitches():
    phrase = line("6.0:q 6.3 5.2 6.12")
    drop = presets.instruments()["guitar-drop-d"]
    frets = edit.retuned(phrase, drop, keep_frets=True)
    assert [n.fret for e in frets.events for n in e.notes] == [0, 3, 2, 12]
    assert frets.events[0].notes[0].pitch == phrase.events[0].notes[0].pitch - 2
    pitches = edit.retuned(phrase, drop, keep_frets=False)
    assert [n.pitch for e in pitches.events for n in e.notes] == [n.pitch for e in phrase.events for n in e.notes]
    assert [n.fret for e in pitches.events for n in e.notes] == [2, 5, 2, 14]
    bass = edit.retuned(phrase, presets.instruments()["bass4"], keep_frets=False)
    assert all(n.string is None for e in bass.events for n in e.notes)

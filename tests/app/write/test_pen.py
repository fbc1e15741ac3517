"""The pen and the commands of the Write place, without a window."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from dromic.app.write.pen import FREE, Pen
from dromic.app.write.write_commands import COMMAND, COMMANDS, put_fret, put_name
from dromic.core.music.songbook import empty_phrase
from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import parse, write
from tests.phrases import GUITAR


def line(text, bars=1):
    return parse(text, empty_phrase("x", GUITAR, bars), GUITAR).phrase


def run(phrase, pen, *names):
    for name in names:
        phrase, pen = COMMAND[name].act(phrase, pen, GUITAR)
    return phrase, pen


def test_no_two_commands_share_a_key():
    keys = [k for c in COMMANDS for k in c.keys]
    assert len(keys) == len(set(keys)) and len(COMMANDS) == len(COMMAND)


def test_a_riff_is_written_with_a_few_keys():
    phrase, pen = empty_phrase("x", GUITAR, 1), Pen(string=6)
    for fret, *names in (
        (0, "palm-mute", "right"), (3, "right"), (5, "hammer", "right"), (0, "dot", "right"),
        (2, "dot", "dot", "shorter", "accent", "right", "again"),
    ):  # fmt: skip
        phrase = put_fret(phrase, pen, GUITAR, fret)
        phrase, pen = run(phrase, pen, *names)
    assert write(phrase) == "6.0_:e 6.3 h6.5 6.0:e. 6.2!:s 6.2! r:5/4"


def test_the_pen_steps_to_the_next_note_or_by_its_length():
    phrase = line("6.0:e 6.1:s 6.2 r:h.")
    pen = Pen(string=6, base="q")
    pen = pen.stepped(phrase, True)
    assert pen.at == Fraction(1, 2)
    assert pen.stepped(phrase, True).at == Fraction(3, 4) and pen.stepped(phrase, False).at == 0
    assert pen.moved(phrase, Fraction(99)).at == phrase.end
    assert pen.across(6, -9).string == FREE and pen.across(6, 9).string == 6
    assert pen.barred(phrase, True).at == 4


def test_a_selection_is_changed_as_one():
    phrase = line("6.0:q 6.1 6.2 6.3")
    pen = Pen(string=6, base="q", at=Fraction(1))
    _, pen = run(phrase, pen, "select-right")
    assert pen.selection is not None and (pen.selection.start, pen.selection.end) == (1, 3)
    assert write(run(phrase, pen, "palm-mute")[0]) == "6.0 6.1_ 6.2_ 6.3"
    assert write(run(phrase, pen, "turn")[0]) == "6.0 6.2 6.1 6.3"
    assert write(run(phrase, pen, "fret-up")[0]) == "6.0 6.2 6.3 6.3"
    assert write(run(phrase, pen, "rest")[0]) == "6.0 r:h 6.3:q"
    assert write(run(phrase, pen, "delete")[0]) == "6.0 r:h 6.3:q"
    assert write(run(phrase, pen, "select-all", "octave-up")[0]) == "6.12 6.13 6.14 6.15"


def test_a_slide_may_be_struck_as_well():
    phrase, pen = line("6.3:q 6.5 r:h"), Pen(string=6, base="q", at=Fraction(1))
    assert write(run(phrase, pen, "slide", "pick")[0]) == "6.3 k6.5{slide-to} r:h"
    assert write(run(phrase, pen, "slide", "pick", "pick")[0]) == "6.3 6.5 r:h"
    assert write(run(phrase, pen, "slide", "pick", "slide")[0]) == "6.3 s6.5 r:h"


def test_ties_rests_bends_and_bars():
    phrase, pen = line("6.0:q r:h."), Pen(string=6, base="q")
    tied, after = run(phrase, pen, "tie")
    assert write(tied) == "6.0:h r" and after.at == 2
    assert write(run(phrase, pen, "bend", "bend")[0]) == "6.0^1 r:h."
    assert write(run(phrase, pen, *["bend"] * 6)[0]) == "6.0 r:h."
    assert write(run(phrase, pen, "bar-again")[0]) == "6.0 r:h. | 6.0:q r:h."
    assert write(run(phrase, pen, "insert-bar")[0]) == "r:w | 6.0:q r:h."
    assert write(run(phrase, pen, "repeat", "repeat")[0]) == "|: 6.0 r:h. :|3"
    assert write(run(phrase, pen, "repeat", "repeat", "repeat")[0]) == "6.0 r:h."
    assert run(phrase, pen, "ending")[0].bars[0].endings == (1,)
    assert write(run(phrase, pen, "tuplet")[0]) == "6.0:q3 r:10/3"
    assert write(run(phrase, pen, "stroke-up", "finger-2", "tremolo")[0]) == "6.0%2@2/u r:h."


def test_names_go_to_the_nearest_octave_and_may_stand_side_by_side():
    phrase, pen = empty_phrase("x", GUITAR, 1), Pen(string=FREE, base="q")
    for letter in "dab":
        phrase = put_name(phrase, pen, GUITAR, letter, beside=False)
        pen = pen.stepped(phrase, True)
    assert write(phrase) == "D3 A2 B2 r"
    chord = put_name(put_name(phrase, pen, GUITAR, "c", False), pen, GUITAR, "e", True)
    assert write(chord) == "D3 A2 B2 C3+E3"


@pytest.mark.parametrize(
    "name, words", [("palm-mute", "no note here"), ("tie", "no note on this string"), ("again", "nothing before")]
)
def test_what_cannot_be_done_is_said(name, words):
    with pytest.raises(DromicError, match=words):
        run(empty_phrase("x", GUITAR), Pen(), name)
    with pytest.raises(DromicError, match="takes names"):
        put_fret(empty_phrase("x", GUITAR), replace(Pen(), string=FREE), GUITAR, 3)

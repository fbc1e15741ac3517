"""Eighty-three tablatures in the styles that people pass around, each with the phrase that a player reads from it, as a quick
line. Common practice, no published source; where no lengths are written they are Dromic's guess, and said."""

from __future__ import annotations

from pathlib import Path

import pytest

from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import write
from dromic.formats.text.tab_text import read_tab

FILE = Path(__file__).parents[1] / "data" / "tabs.txt"


def samples():
    for piece in FILE.read_bytes().decode().split("### ")[1:]:
        name, _, rest = piece.partition("\n")
        *text, expected, facts = rest.rstrip("\n").split("\n")
        yield pytest.param("\n".join(text), expected, facts, id=name)


@pytest.mark.parametrize(("text", "expected", "facts"), list(samples()))
def test_a_tablature_is_read_as_a_player_means_it(text, expected, facts):
    if expected.startswith("! "):
        with pytest.raises(DromicError) as refused:
            read_tab(text.encode())
        assert str(refused.value) == expected[2:]
        return
    phrase = read_tab(text.encode())
    instrument = phrase.instrument
    tempo = phrase.tempo if phrase.tempo_stated else "no tempo"
    assert write(phrase) == expected[2:]
    told = f"{instrument.label}; {' '.join(instrument.tuning_names)}; capo {instrument.capo}; {tempo}"
    assert told == facts[2:]
    timed = "length" in text or any("Q" in line.split() for line in text.upper().splitlines())
    assert timed or any("taken as even steps" in s for s in phrase.notices)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("e|-0-§-3-|  Riff A\n" + "B|-------|\n" * 5, "1 sign left out that nobody understands: §"),
        ("e|-0---3-|  Riff A\n" + "B|-------|\n" * 5, "words behind the rows are left out: Riff A"),
        (" 3   3\ne|-0---3-|\n" + "B|-------|\n" * 5, "the tuplets written above are not read"),
        ("G|-0-|\n" * 4 + "\n" + "e|-0-|\n" * 6, "part 1 of 2 is read (4 strings and 6 strings); choose another with --part"),
        ("Q Q\ne|-0-1-3-|\n" + "B|-------|\n" * 5, "the letters above do not go with the notes everywhere; columns are taken there"),
    ],
)  # fmt: skip
def test_what_is_guessed_or_left_out_is_said(text, sentence):
    assert sentence in read_tab(text.encode()).notices


def test_another_part_can_be_chosen():
    text = b"G|-0-|\n" * 4 + b"\n" + b"e|-3-|\n" * 6
    assert len(read_tab(text, 1, 2).instrument.tuning) == 6
    with pytest.raises(DromicError, match="no part 3"):
        read_tab(text, 1, 3)

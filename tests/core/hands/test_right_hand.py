"""The picking hand: strokes of a tremolo count, hybrid begins its figure anew, pinned fingers hold. Common practice, no source."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic import presets
from dromic.core.music.songbook import empty_phrase
from dromic.core.search.planner import judge, solve
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import parse
from tests.build import request

GUITAR = presets.instruments()["guitar"]
WORDS = {"down": "D", "up": "U", "none": "-"}


def strokes(text, school, pins=(), **options):
    """The strokes and plucking fingers, a chord's from the lowest string up where they differ."""
    phrase = parse(text, empty_phrase("x", GUITAR), GUITAR).phrase.at_tempo(100.0)
    asked = replace(request(phrase, school, **options), pins=tuple(Pin(e, n, "stroke", v) for e, n, v in pins))
    plan = judge(solve(asked))
    said = [[WORDS.get(n.stroke, n.stroke) for n in sorted(notes, key=lambda n: -n.string)] for notes in plan.events]
    return " ".join(words[0] if len(set(words)) == 1 else "/".join(words) for words in said)


@pytest.mark.parametrize(
    ("text", "school", "said"),
    [
        ("1.5%2:q 1.7%2 1.8%2 1.7%2", "alternate", "D D D D"),  # four strokes a note
        ("1.5%1:q 1.7 1.8%1 1.7", "alternate", "D D U U"),  # two, one, two, one
        ("1.5%1:q. 1.7:e 1.8:q 1.7", "alternate", "D U D U"),  # three
        ("1.5%2:q 1.0:s 2.0 1.0 2.0", "alternate", "D D U D U"),
        ("3.5%2:q 3.7:e h3.9 3.7%2:q 3.5", "pulse", "D D - D D"),
    ],
)
def test_strokes_of_a_tremolo_count(text, school, said):
    assert strokes(text, school) == said


def test_a_tremolo_counts_where_plucks_are_remembered_too():
    phrase = parse("1.5%2:q 1.7%2 1.8:e 1.7", empty_phrase("x", GUITAR), GUITAR).phrase.at_tempo(100.0)
    down = judge(
        solve(replace(request(phrase, "hybrid"), pins=(Pin(1, 0, "stroke", "down"), Pin(2, 0, "stroke", "down"))))
    )
    assert [m.pick_kind for m in down.moves] == ["same-string", "same-string", "same-string"]
    up = judge(solve(replace(request(phrase, "hybrid"), pins=(Pin(1, 0, "stroke", "down"), Pin(2, 0, "stroke", "up")))))
    assert [m.pick_kind for m in up.moves][:2] == ["same-string", "repeat"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("5.3:s 4.2 3.0 2.1 4.2 3.0 2.1 1.0", "D m a c D m a c"),
        ("5.3:s 3.0 2.1 5.3 3.0 2.1 4.2 3.0", "D m a D m a D m"),
        ("4.2:e 3.0 2.1 3.0 4.2 3.0 2.1 3.0", "D m a m D m a m"),  # back by one string is the same figure
    ],
)
def test_hybrid_begins_its_figure_anew_where_the_line_goes_back(text, said):
    assert strokes(text, "hybrid") == said


@pytest.mark.parametrize(
    ("text", "school", "pins", "begins"),
    [
        ("5.0+1.0:q 3.2 2.1", "fingers", [(0, 0, "p"), (0, 1, "a")], "p/a"),
        ("6.0+3.0+2.1+1.0:q", "fingers", [(0, 0, "p"), (0, 1, "m"), (0, 2, "a"), (0, 3, "c")], "p/m/a/c"),
        ("4.5:e 2.6 3.7 2.6", "hybrid", [(1, 0, "a"), (2, 0, "m"), (3, 0, "a")], "D a m a"),
        ("5.0+3.0+2.1:q", "hybrid", [(0, 1, "p"), (0, 2, "m")], "D/p/m"),
        ("3.0+2.1:q", "hybrid", [(0, 0, "i"), (0, 1, "m")], "i/m"),
        ("6.0:e 2.6 3.7 2.6", "fingers", [(0, 0, "i"), (1, 0, "p")], "i p"),
    ],
)
def test_a_players_own_fingers_can_be_pinned(text, school, pins, begins):
    assert strokes(text, school, pins).startswith(begins)


def test_a_school_that_plucks_nothing_says_so():
    with pytest.raises(DromicError, match="note 2: stroke a"):
        strokes("4.5:e 2.6 3.7 2.6", "alternate", [(1, 0, "a")])

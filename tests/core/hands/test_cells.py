"""Cells that come again keep their fingers, notes that stay keep theirs, no finger walks a string. Common practice, no source."""

from __future__ import annotations

from itertools import pairwise

import pytest

from dromic import presets
from dromic.core.hands.fretting_moves import fretting_moves
from dromic.core.line.cells import usual_fingers
from dromic.core.music.songbook import empty_phrase
from dromic.core.prices.price_list import PRICES
from dromic.core.search.planner import judge, solve
from dromic.formats.text.quick_line import parse
from tests.build import request

GUITAR = presets.instruments()["guitar"]


def line(text, tempo=100.0):
    return parse(text, empty_phrase("x", GUITAR), GUITAR).phrase.at_tempo(tempo)


def fingers(text, tempo=100.0, school="alternate"):
    """The fingers of every note, a chord's from the lowest string up."""
    plan = judge(solve(request(line(text, tempo), school)))
    return ["/".join(n.finger for n in sorted(notes, key=lambda n: -n.string)) for notes in plan.events]


def usual(text):
    """What cells say of every event."""
    solved = solve(request(line(text), "alternate"))
    return [task.usual for task in solved.layers.wishes]


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("6.5:s 6.7 6.9 5.5 5.7 5.9 4.5 4.7 4.9", 3),  # at its frets, string by string
        ("6.3:e 4.5 6.5 4.7 6.7 4.9", 2),  # octaves, up the neck
        ("1.15:e3 1.12 2.15 1.15 1.12 2.15", 3),  # where it was
        ("1.5:e 1.7 1.8 1.10 1.12 1.13", 3),  # along a string
    ],
)
def test_a_cell_has_the_same_fingers_each_time(text, size):
    found = usual(text)
    assert all(found) and all(found[n] == found[n - size] for n in range(size, len(found)))
    played = fingers(text)
    assert all(played[n] == played[n - size] for n in range(size, len(played)))


@pytest.mark.parametrize(
    "text",
    [
        "1.5:e 1.7 1.6 1.8",  # under the hand: fingers 1 3 2 4
        "4.9:e 4.10 3.7 3.9 3.10 2.9 2.10 1.7",  # two notes on neighbour strings are told by the position
        "5.3:e 5.3 5.3 5.3",
        "5.3:e s5.5 5.7 s5.9",  # a finger that slides is the same anyhow
        "4.9:e 3.7 2.5 4.9+3.7 4.10 3.8",
    ],
)
def test_what_is_no_cell_has_none(text):
    assert not any(usual(text))


def test_a_shape_that_moves_farther_than_a_hand_has_one_fingering():
    [first, *others] = [one for one in usual("6.3+5.5+4.5:q 6.8+5.10+4.10 6.3+5.5+4.5") if one]
    assert len(first) == 3 and len(others) == 2 and set(others) == {first}
    assert not any(usual("2.5+1.5:q 2.8+1.8 2.5+1.5 2.8+1.8"))


def test_only_stated_places_are_looked_at():
    frets = fretting_moves(GUITAR, presets.players()["fluent"], PRICES)
    tasks = solve(request(line("E4:e F4 G4 E4 F4 G4"), "alternate", keep=frozenset({"attacks"}))).layers.wishes
    assert usual_fingers(tasks, [False] * len(tasks), frets) == [()] * len(tasks)


@pytest.mark.parametrize(
    "text",
    [
        "1.5:e 1.7 1.8 1.10 1.12 1.13",
        "1.12:e 1.10 1.9 1.7 1.5 1.4",
        "3.2:e 3.4 3.5 3.7 3.9 3.10",
        "6.1:s 6.3 6.5 5.1 5.3 5.5",
    ],
)
def test_no_finger_walks_along_a_string(text):
    plan = judge(solve(request(line(text, 80.0), "alternate")))
    for a, b in pairwise(plan.leads):
        assert a.string != b.string or a.fret == b.fret or a.finger != b.finger


def test_a_note_that_stays_keeps_its_finger():
    played = fingers("4.0+3.2+2.3+1.3:h 4.0+3.2+2.3+1.2 | 4.0+3.2+2.3+1.0 4.0+3.2+2.3+1.2", 80.0, "downs")
    assert len({one.split("/")[1] for one in played}) == 1  # string 3, fret 2

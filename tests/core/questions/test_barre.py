"""A row of notes at one fret: one finger rolls over it, and lies flat where that is asked for. Common practice."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.core.line.one_fret import goes_on_in_a_row, row_around
from dromic.core.questions.whatif import what_if
from dromic.core.search.planner import judge, solve
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from tests.build import phrase, request

PLACES = [(4, 7), (3, 5), (2, 5), (1, 5), (2, 5), (3, 5), (4, 7)]
LINE = phrase(PLACES, tempo=120)


def lain(*events):
    return tuple(Pin(event, 0, "barre", "yes") for event in events)


def test_a_row_is_told_from_stated_places_alone():
    assert row_around(LINE, 3) == range(1, 6) and row_around(LINE, 0) == range(1)
    assert goes_on_in_a_row(LINE) == [False, False, True, True, True, True, False]
    assert not any(goes_on_in_a_row(phrase([(2, 5), (1, 5), (2, 5)])))  # two strings: a finger each is common
    assert not any(goes_on_in_a_row(phrase(["C4", "F4", "A4"])))


def test_one_finger_rolls_over_three_strings():
    found = judge(solve(request(LINE, "economy")))
    assert len({n.finger for n in found.notes[1:6]}) == 1
    assert [m.fret_kind for m in found.moves].count("roll") == 4


def test_a_flat_finger_is_offered_against_the_roll_with_what_it_does_and_can_be_pinned():
    solved = solve(request(LINE, "economy"))
    (offered,) = [c for c in what_if(solved, 3) if "flat" in c.change.text]
    assert "notes 2 to 6" in offered.change.text and "ring together" in offered.change.text
    assert offered.fretting < 0  # it saves the rolls
    found = judge(solve(replace(solved.request, pins=offered.change.pins)))
    assert len({n.finger for n in found.notes[1:6]}) == 1
    assert "roll" not in [m.fret_kind for m in found.moves[2:]]
    later = judge(solved.pinned(*offered.change.pins))  # as the window pins it
    assert [n.finger for n in later.notes] == [n.finger for n in found.notes]
    assert not [c for c in what_if(solve(found.request), 3) if "flat" in c.change.text]


def test_a_barre_over_one_note_is_refused_with_what_to_do():
    with pytest.raises(DromicError, match="pin its neighbour"):
        solve(replace(request(LINE, "economy"), pins=lain(3)))
    free = phrase(["C4", "F4", "A4"])
    with pytest.raises(DromicError, match="keep its place"):
        solve(replace(request(free, "economy"), pins=lain(0, 1, 2)))


def test_that_no_finger_lies_flat_can_be_pinned_too():
    chord = phrase([[(3, 5), (2, 5), (1, 5)]])
    flat = judge(solve(request(chord, "downs")))
    assert len({n.finger for n in flat.notes}) == 1
    apart = judge(solve(replace(request(chord, "downs"), pins=tuple(Pin(0, n, "barre", "no") for n in range(3)))))
    assert len({n.finger for n in apart.notes}) == 3 and apart.cost > flat.cost

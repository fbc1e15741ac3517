"""A school is an entry of data: what it asks of strokes at which place in the bar, in the search and in what is said of one's own
way."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic import presets
from dromic.core.hands import articulation_options as options
from dromic.core.questions.own_way import judge_own_way
from dromic.core.search.planner import plan, rhythm_of
from dromic.core.setup.pin import Pin
from dromic.core.timing.beat_positions import places
from dromic.core.values.errors import DromicError
from tests.build import EIGHTH, phrase, request, strokes

LINE = phrase([(5, 3), (4, 2), (5, 5), (3, 4), (3, 5), (5, 3), (4, 5), (2, 3)], EIGHTH, tempo=100)
QUICK = replace(LINE, events=tuple(replace(e, onset=e.onset / 2) for e in LINE.events))


def school(**entry):
    return presets._school(
        "own", {"label": "Own", "text": "x", "kinds": "all", "start": "either", "rests": False, **entry}
    )


@pytest.mark.parametrize(
    ("strokes_at", "unit", "line", "fixed"),
    [
        ({"beat": "down"}, "", LINE, {0: "D", 2: "D", 4: "D", 6: "D"}),
        ({"beat": "up"}, "", LINE, {0: "U", 2: "U", 4: "U", 6: "U"}),
        ({"beat": "down", "odd": "up"}, "eighth", LINE, dict(enumerate("DUDUDUDU"))),
        ({"grid": "down"}, "eighth", QUICK, {0: "D", 2: "D"}),
    ],
)  # fmt: skip
def test_a_place_in_the_bar_has_the_stroke_a_school_asks_for(strokes_at, unit, line, fixed):
    own = school(strokes=strokes_at, unit=unit)
    found = strokes(plan(replace(request(line), school=own)))
    assert {n: found[n] for n in fixed} == fixed and len(found) == len(line.events)


def test_where_a_school_asks_for_nothing_the_search_chooses():
    """The line crosses outside after a down from its first string: with the beat alone fixed the others are as cheap as can be."""
    free = plan(replace(request(LINE), school=school()))
    some = plan(replace(request(LINE), school=school(strokes={"beat": "down"})))
    whole = plan(
        replace(request(LINE), school=school(strokes={"even": "down", "odd": "up"}, start="place", unit="eighth"))
    )
    assert free.cost <= some.cost <= whole.cost and free.cost < whole.cost
    assert whole.cost == pytest.approx(plan(replace(request(LINE), school=presets.schools()["pulse"])).cost)


def test_ones_own_way_is_blamed_for_nothing_a_school_leaves_open():
    own = school(strokes={"beat": "down"})
    asked = replace(request(LINE), school=own, pins=(Pin(1, 0, "stroke", "down"), Pin(3, 0, "stroke", "up")))
    assert judge_own_way(asked).breaks == ()
    against = replace(asked, pins=(Pin(2, 0, "stroke", "up"),))
    [told] = judge_own_way(against).breaks
    assert told == "Note 3 (bar 1) is struck up; Own wants the other stroke there"


@pytest.mark.parametrize("entry", [{"strokes": {"noon": "down"}}, {"strokes": {"beat": "sideways"}}, {"start": "late"}])
def test_an_entry_that_asks_for_nothing_known_is_refused(entry):
    with pytest.raises(DromicError):
        school(**entry)


@pytest.mark.parametrize("name", ["pulse", "alternate"])
def test_places_in_the_bar_are_looked_at_once_however_long_the_phrase(monkeypatch, name):
    """Looked up for every event they took three quarters of a plan of a thousand notes: a phrase is long to compare."""
    looks = []
    monkeypatch.setattr(options, "places", lambda *of: looks.append(of) or places(*of))
    for notes in (8, 64):
        looks.clear()
        asked = request(phrase([(5, 3), (5, 5), (4, 2), (4, 5)] * (notes // 4), EIGHTH), name)
        options.articulation_options(asked, "eighth", rhythm_of(asked))
        assert len(looks) == (name == "pulse")

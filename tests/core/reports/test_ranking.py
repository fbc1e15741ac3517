"""Tunes ranked: what a plan asks of a player, order by each key, words about the whole."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.core.reports.ranking import Away, Ranked, ranked_of, ranking, summary_words
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned


def one(title: str, ceiling: float | None, work: float = 1.0, needs: tuple[str, ...] = (), **more) -> Ranked:
    return Ranked("f", 1, title, 100.0, 10, ceiling, None, work, needs=needs, **more)


EASY, HARD, FREE = (
    one("easy", 180.0, 2.0, ("slurs",)),
    one("hard", 90.0, 1.0, ("slurs", "shifts")),
    one("free", None, 3.0),
)
REFUSED = Ranked("f", 2, "broken", refused="it holds no notes")


def test_the_easiest_is_first_and_what_cannot_be_planned_last():
    every = [REFUSED, HARD, EASY, FREE]
    assert [r.title for r in ranking(every, "ceiling")] == ["free", "easy", "hard", "broken"]
    assert [r.title for r in ranking(every, "work")] == ["hard", "easy", "free", "broken"]
    assert [r.title for r in ranking(every, "needs")] == ["free", "easy", "hard", "broken"]


def test_of_equally_fast_ones_the_least_work_comes_first():
    alike = [one("a", 180.0, 2.5), one("b", 180.0, 1.9), one("c", 180.0, 2.2)]
    assert [r.title for r in ranking(alike, "ceiling")] == ["b", "c", "a"]


def test_who_plays_at_which_tempo():
    assert FREE.plays(500.0) and EASY.plays(180.0) and not EASY.plays(181.0) and not REFUSED.plays(10.0)
    assert EASY.plays(None) and not HARD.plays(None)  # each at its own tempo, 100
    away = replace(HARD, away=Away("a finger", 1.2, 40.0, 48.0, "ms"))
    assert summary_words([EASY, away, FREE, REFUSED], 120.0) == (
        "2 of 4 go at 120; 1 is one ability away; 1 cannot be planned"
    )
    assert summary_words([EASY], None) == "1 of 1 go at their own tempos"


@pytest.mark.parametrize(
    ("notes", "options", "asks"),
    [
        ([(3, 5), (3, 7), (3, 5), (3, 7)], {}, set()),
        ([(3, 5), (3, 7), (3, 8), (3, 7)], {"attacks": {1: "hammer"}}, {"slurs"}),
        ([(5, 7), (4, 7), (3, 7), (2, 7)], {"school": "sweep"}, {"carrying through"}),
        ([(6, 3), (1, 3), (6, 3), (1, 3)], {"school": "alternate"}, {"string skips"}),
        ([(3, 2), (3, 2), (3, 14), (3, 14)], {}, {"shifts"}),
        ([[(6, 3), (5, 2), (4, 0)], [(6, 3), (5, 2), (4, 0)]], {}, {"chords"}),
    ],
)
def test_what_a_plan_asks_of_a_player(notes, options, asks):
    plan = planned(phrase(notes, SIXTEENTH, attacks=options.get("attacks")), options.get("school", "free"))
    found = ranked_of(plan, "file", 3, "title")
    assert asks <= set(found.needs) and (asks or not found.needs)
    assert (found.file, found.tune, found.title, found.notes) == ("file", 3, "title", len(plan.notes))
    assert found.ceiling == plan.ceiling and found.ceiling_range == plan.ceiling_range
    assert found.sustained == plan.ceiling_sustained


def test_work_is_told_a_second_and_the_limit_where_it_is():
    line = [(3, 5), (3, 7), (2, 5), (1, 17)]
    fast, slow = (ranked_of(planned(phrase(line, length), "alternate"), "f", 1, "t") for length in (EIGHTH, QUARTER))
    assert fast.work > slow.work  # both fill one bar of four: the moves that have less time are dearer
    assert fast.bar == 1 and fast.limit_words.startswith(f"{fast.hand} hand, bar 1: ")
    assert ranked_of(planned(phrase([(3, 5)], QUARTER), "free"), "f", 1, "t").limit_words == ""

"""Ornaments in one stroke, two, or all struck: found, planned each way, told with what else changes."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.core.questions.ornaments import ornaments, told_of_ornaments, ways_of
from dromic.core.search.planner import judge, plan, solve
from tests.build import EIGHTH, QUARTER, phrase, request, strokes

TURN = {2: "hammer", 3: "pull", 4: "pull", 5: "hammer"}
T = [EIGHTH, *[EIGHTH / 5] * 5, *[EIGHTH] * 4]
LINE = phrase(
    [(3, 5), (3, 7), (3, 9), (3, 7), (3, 5), (3, 7), (2, 5), (2, 7), (1, 5), (1, 7)], T, attacks=TURN, tempo=80
)


def test_a_five_note_turn_is_found_and_plain_notes_are_none():
    assert list(ornaments(LINE)) == [range(1, 6)]
    assert list(ornaments(phrase([(3, 5), (3, 7)] * 4))) == []
    slow = phrase([(3, 5), (3, 7), (3, 5)], QUARTER, attacks={1: "hammer", 2: "pull"})
    assert list(ornaments(slow)) == []


@pytest.mark.parametrize("school", ["alternate", "pulse"])
def test_each_latency_strikes_what_it_says_and_the_rest_is_counted(school):
    solved = solve(request(LINE, school))
    now = strokes(judge(solved))
    one, two, every = ways_of(solved, range(1, 6))
    assert [strokes(w.plan)[1:6].count(".") for w in (one, two, every)] == [4, 3, 0]
    assert two.struck == (1, 3)
    for way in (one, two, every):
        after = strokes(way.plan)
        assert way.others == sum(
            a != b for k, (a, b) in enumerate(zip(now, after, strict=True)) if k not in range(1, 6)
        )
    assert one.others == 0 and strokes(one.plan) == strokes(plan(request(LINE, school)))


def test_the_paired_stroke_leaves_alternation_after_it_turned_and_the_pulse_as_it_was():
    """Two strokes instead of one turn around all that follows in strict alternation; by the beat nothing else changes."""
    alternate, pulse = (list(ways_of(solve(request(LINE, s)), range(1, 6)))[1] for s in ("alternate", "pulse"))
    assert alternate.others == 4 and pulse.others == 0


def test_five_struck_notes_that_turn_are_offered_slurred():
    turn = [(3, 7), (3, 9), (3, 7), (3, 6), (3, 7)]
    line = phrase([(3, 5), *turn, (2, 5)], [EIGHTH, *[EIGHTH / 5] * 5, EIGHTH], tempo=80)
    assert list(ornaments(line)) == [range(1, 6)]
    assert list(ornaments(phrase([(3, 5), *turn, (2, 5)], EIGHTH))) == []
    told = told_of_ornaments(solve(request(line, "pulse")), lambda share: True)
    assert "in one stroke" in told[0] and "every note struck, as it is now" in told[2]


def test_a_paired_up_stroke_is_offered_where_one_stroke_differs_and_no_fault_once_it_is_set():
    line = phrase([(4, 0), (3, 0), (3, 2), (2, 0), (2, 1)], [QUARTER, *[EIGHTH] * 4], tempo=100)
    asked = request(line, "pulse")
    told = told_of_ornaments(solve(asked), lambda share: True)
    assert any("Note 2 in bar 1 on the up-stroke" in line and "exactly one stroke differs" in line for line in told)
    assert not any("pair" in line for line in told_of_ornaments(solve(request(line, "alternate")), lambda share: True))
    paired = judge(solve(replace(asked, overrides=((1, "up"),))))
    assert strokes(paired) == "DUUDU" and "beat-not-down" not in {f.rule for f in paired.findings}


def test_they_are_told_in_sentences():
    told = told_of_ornaments(solve(request(LINE, "pulse")), lambda share: True)
    assert len(told) == 3 and "in one stroke, as it is now" in told[0] and "no other stroke differs" in told[1]
    assert told_of_ornaments(solve(request(phrase([(3, 5)] * 4), "pulse")), lambda s: True)[0].startswith("No ornament")

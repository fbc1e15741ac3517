"""Strokes set by the player: whether the line is restored after them or turned around, in every school, told at the note."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.core.plan.damping import muting
from dromic.core.plan.finding import SET_STROKE
from dromic.core.questions.remedies import with_remedies
from dromic.core.reports.explain import explain_event
from dromic.core.search.planner import plan, solve
from dromic.core.setup.pin import Pin
from tests.build import phrase, request, strokes

LINE = phrase([(3, 5), (3, 7), (2, 5), (2, 8), (3, 7), (4, 7), (4, 5), (3, 5)], tempo=150)
EVENT = 3


def told(asked) -> list[str]:
    return [f.text for f in with_remedies(solve(asked), {}).findings if f.rule == SET_STROKE]


@pytest.mark.parametrize("school", ["alternate", "pulse", "downstart", "economy", "sweep", "free"])
def test_what_is_said_is_what_two_plans_made_anew_show(school):
    asked = request(LINE, school)
    usual = strokes(plan(asked))
    other = {"D": "up", "U": "down"}[usual[EVENT]]
    turned = replace(asked, overrides=((EVENT, other),))
    made = strokes(plan(turned))
    [said] = told(turned)
    assert f"Note {EVENT + 1} in bar 1 is set to {other} where " in said
    after = [a == b for a, b in zip(usual[EVENT + 1 :], made[EVENT + 1 :], strict=True)]
    if all(after):
        assert said.endswith(f"the line is restored at note {EVENT + 2}")
    elif not any(after):
        assert said.endswith("every stroke after it is turned around, to the end")
    elif after[-1]:
        back = EVENT + 1 + max(n for n, same in enumerate(after) if not same) + 1
        assert said.endswith(f"the line is restored at note {back + 1}")


def test_alternation_is_turned_around_to_the_end_and_the_pulse_takes_it_back():
    assert "to the end" in told(replace(request(LINE, "alternate"), overrides=((EVENT, "down"),)))[0]
    assert f"restored at note {EVENT + 2}" in told(replace(request(LINE, "pulse"), overrides=((EVENT, "down"),)))[0]


def test_a_pinned_stroke_is_told_too_and_strokes_side_by_side_as_one():
    pinned = replace(request(LINE, "free"), pins=(Pin(EVENT, 0, "stroke", "down"), Pin(EVENT + 1, 0, "stroke", "down")))
    [said] = told(pinned)
    assert said.startswith(f"Notes {EVENT + 1} to {EVENT + 2} from bar 1 on are set")
    assert told(request(LINE, "free")) == []


def test_it_stands_with_the_sentence_of_the_note():
    solved = solve(replace(request(LINE, "alternate"), overrides=((EVENT, "down"),)))
    advised = with_remedies(solved, {})
    damped = muting(advised)
    assert "is set to down" in explain_event(advised, EVENT, damped)[-1]
    assert not any("is set to" in line for line in explain_event(advised, EVENT + 1, damped))

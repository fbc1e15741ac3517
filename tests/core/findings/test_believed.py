"""Ceilings beside what a teacher believes (from memory, written down before the numbers), and hands of different skill."""

from __future__ import annotations

from itertools import pairwise

import pytest

from tests.believed import PLAYERS, believed, on_the_better_hand

PHRASES = believed()
FOREIGN = [one for one in PHRASES if not one.name.startswith("own-")]
NOT_YET = {"own-open-d-a", "own-octaves", "own-string-skips", "own-hybrid-pairs", "own-long-shift"}
"""of our own guesses those that do not come out, at some player's hands"""


@pytest.mark.parametrize("phrase", FOREIGN, ids=lambda one: one.name)
@pytest.mark.parametrize("player", PLAYERS)
def test_a_ceiling_is_as_believed(phrase, player):
    assert phrase.right(player, phrase.ceiling(player))


def test_our_own_guesses_come_out_but_for_those_that_are_named():
    wrong = {one.name for one in PHRASES if not all(one.right(name, one.ceiling(name)) for name in PLAYERS)}
    assert wrong == NOT_YET


@pytest.mark.parametrize("phrase", PHRASES, ids=lambda one: one.name)
def test_a_better_hand_is_never_slower(phrase):
    """It plays a lesser hand's plan no slower, and at that hand's ceiling has a plan of its own that fits."""
    for lesser, better in pairwise(PLAYERS):
        was, now, load = on_the_better_hand(phrase, lesser, better)
        assert now >= was * (1 - 1e-6) and load <= 1.02

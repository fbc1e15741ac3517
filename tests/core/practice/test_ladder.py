"""Tempos from passes: what a player sees of the ladder, and whether hidden learners of another law arrive by it."""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import date, datetime, timedelta

import pytest

from bench.learners import GROWTHS, Hands, Learner
from dromic import presets
from dromic.core.practice.ladder import (
    BEST,
    FAST,
    SCAN,
    SLOW,
    Known,
    best_clean,
    broken_band,
    first_tempo,
    next_rung,
    plateau_days,
)
from dromic.core.practice.limit import Belief
from dromic.core.practice.log_pass import Pass
from dromic.core.values.errors import DromicError

LIMITS = presets.practice().limit
NUMBERS = presets.practice().ladder
TODAY = date(2026, 11, 25)


def passes(words: str, day: date = TODAY) -> list[Pass]:
    """As in '60+ 60- 66*': tempo, and + for clean, - for missed, * for a clean burst."""
    at = datetime(day.year, day.month, day.day, 18)
    return [
        Pass(
            at + timedelta(seconds=20 * n), "x", "move:1-4", float(w[:-1]), w[-1] != "-", burst=w[-1] == "*", seconds=20
        )
        for n, w in enumerate(words.split())
    ]


def test_the_first_rung():
    assert first_tempo(120, 200, NUMBERS) == pytest.approx(54)  # 45 % of the target, 27 % of the ceiling
    assert first_tempo(120, 80, NUMBERS) == pytest.approx(48)  # 60 % of the ceiling is less
    assert first_tempo(120, None, NUMBERS) == pytest.approx(54)
    for target in range(40, 300, 20):
        for ceiling in range(30, 300, 15):
            tempo = first_tempo(target, ceiling, NUMBERS)
            assert tempo <= 0.6 * ceiling + 1e-9 and tempo <= 0.5 * target


def rung(played, target=120.0, ceiling=None, day=TODAY, school=BEST, **known):
    return next_rung(played, day, target, NUMBERS, LIMITS, Known(ceiling, **known), school)


def test_while_it_is_easy_the_next_pass_is_at_the_target():
    assert rung([], 100.0, 361.0).tempo == pytest.approx(45)  # nobody has heard it yet
    assert rung(passes("45+"), 100.0, 361.0).tempo == 100  # far under what these hands can do
    assert rung(passes("45+ 100+"), 100.0, 361.0).reason.startswith("clean 1 of 3 at the target")
    assert "keep it" in rung(passes("45+ 100+ 100+ 100+"), 100.0, 361.0).reason


@pytest.mark.parametrize("ceiling", [60.0, 100.0, 140.0, 361.0])
def test_who_never_misses_has_three_clean_at_the_target_within_a_session(ceiling):
    """Thirty minutes of a round of 16 quarters; the hands are believed to end far lower, or far higher, than they do."""
    played: list[Pass] = []
    seconds = 0.0
    while [p.tempo for p in played[-3:]] != [140.0] * 3:
        tempo = rung(played, 140.0, ceiling).tempo
        seconds += 60 * 20 / tempo
        played += passes(f"{tempo:.2f}+")
        assert seconds < 30 * 60, [round(p.tempo) for p in played]


def test_near_the_limit_steps_are_small():
    """Clean at 100, missed at 110: the next tempo lies about there, and one pass moves it little."""
    played = passes("90+ 95+ 100+ 100+ 104- 100+ 106- 100+ 110- 102+ 105- 101+ 106-")
    for word in ("+", "-"):
        before = rung(played).tempo
        after = rung([*played, *passes(f"{before:.1f}{word}")]).tempo
        assert 90 < after < 112 and abs(after / before - 1) < 0.05


def test_who_holds_that_only_clean_passes_teach_is_asked_for_less_than_who_holds_the_contrary():
    played = passes("90+ 95+ 100+ 100+ 104- 100+ 106- 100+ 110- 102+ 105- 101+ 106-")
    slow, fast = rung(played, school=SLOW).tempo, rung(played, school=FAST).tempo
    assert slow < 0.95 * fast


@pytest.mark.parametrize("growth", GROWTHS)
def test_a_hidden_learner_arrives(growth):
    """By whichever law its limit grows, from 80 to 92 by twenty passes a day."""
    learner = Learner(
        Hands(0.05, 14, 0.04, 5, 0.0004, 0.003, 0.005, 0.003), growth, 124, random.Random(growth), {"a": 80.0}
    )
    played: list[Pass] = []
    for day in range(90):
        today = TODAY + timedelta(day)
        here: list[Pass] = []
        for n in range(20):
            tempo = round(rung(played, 92.0, 85.0, today).tempo, 2)
            at = datetime(today.year, today.month, today.day, 18) + timedelta(seconds=20 * n)
            played.append(Pass(at, "x", "move:1-4", tempo, learner.play("a", tempo)))
            here.append(played[-1])
            if [p.clean and p.tempo == 92.0 for p in here[-3:]] == [True] * 3:
                return
        learner.sleep()
    raise AssertionError(f"after 90 days the limit is {learner.limits['a']:.0f}")


def test_a_belief_comes_near_the_limit_and_says_how_near():
    """Tempos about a limit of 100 that never moves, clean by a law of another shape: nine of ten beliefs hold it within two
    standard deviations."""
    held = 0
    for seed in range(40):
        learner = Learner(Hands(0.05, 14, 0.0, 5, 0.0, 0.0, 0.0, 0.0), "near", 1e9, random.Random(seed), {"a": 100.0})
        belief = Belief.of(130.0, 0.25, replace(LIMITS, cold=0.0, tired=0.0, gain=0.0, gain_spread=0.0001)).on(TODAY)
        for _ in range(60):
            tempo = belief.limit * 0.95
            belief = belief.told(tempo, learner.play("a", tempo))
        held += abs(belief.limit / 100 - 1) < 2 * belief.spread
    assert held >= 36


def test_a_week_off_costs_three_to_five_percent():
    week = Belief.of(100.0, 0.03, LIMITS).on(TODAY).on(TODAY + timedelta(8))
    assert 0.03 < 1 - week.limit / Belief.of(100.0, 0.03, LIMITS).on(TODAY).limit < 0.05
    year = Belief.of(100.0, 0.03, LIMITS).on(TODAY).on(TODAY + timedelta(400))
    assert year.limit > 0.8 * Belief.of(100.0, 0.03, LIMITS).on(TODAY).limit


def test_another_day_begins_with_a_check_a_little_below_what_was_clean():
    yesterday = passes("60+ 80+ 80+ 84- 80+", TODAY - timedelta(1))
    check = rung(yesterday, ceiling=90.0)
    assert 0.85 * 80 < check.tempo < 80 and "a check" in check.reason
    then = rung([*yesterday, *passes(f"{check.tempo:.1f}+")], ceiling=90.0)
    assert then.tempo > 0.95 * 80 and then.tempo > check.tempo


def test_what_was_missed_yesterday_is_not_asked_for_again():
    """Never clean: each day begins lower than the one before, not at the same tempo every day."""
    days = [passes("63- 60- 57- 54- 51-", TODAY - timedelta(n)) for n in (3, 2, 1)]
    firsts = [
        rung([p for of in days[:n] for p in of], ceiling=140.0, day=days[n][0].day if n < 3 else TODAY).tempo
        for n in (1, 2, 3)
    ]
    assert firsts[0] < 60 and firsts[2] < firsts[1] < firsts[0]


def test_misses_among_five_ask_for_a_rest_and_none_counts_twice():
    assert rung(passes("60- 60- 60+ 60- 60-")).rest_s == 60
    assert rung(passes("60- 60+ 60+ 60- 60-")).rest_s == 0
    assert rung(passes("60- 60- 60+ 60- 60- 60-")).rest_s == 0


def test_a_plateau_does_not_stand_still():
    """Clean at 80 for a week and no faster: a little more is tried each day, and it is said that another way is wanted."""
    tempos = []
    for count in (5, 6, 7):
        days = [p for n in range(count, 0, -1) for p in passes("80+ 84- 80+ 85- 80+ 84- 79+ 84-", TODAY - timedelta(n))]
        here = days + passes("75+ 80+")
        assert plateau_days(here, TODAY) == count
        found = rung(here)
        assert found.plateau and "another way" in found.reason
        tempos.append(found.tempo)
    assert tempos[-1] > tempos[0]


def test_a_clean_burst_is_believed():
    assert best_clean(passes("60+ 70* 65-")) == 70
    assert rung(passes("60+ 110*"), ceiling=90.0).tempo > rung(passes("60+ 62+"), ceiling=90.0).tempo


def test_sore_hands_climb_no_further():
    for played in ("60+", "60+ 60+ 60+", "60+ 60-"):
        found = rung(passes(played), ceiling=200.0, climb=False)
        assert found.tempo <= 60 and "sore" in found.reason


def test_clean_passes_before_a_step_are_the_players_own_number():
    three = replace(NUMBERS, clean_to_step=3)
    tempos = [
        next_rung(passes(p), TODAY, 120.0, three, LIMITS, Known(110.0)).tempo for p in ("60+", "60+ 60+", "60+ 60+ 60+")
    ]
    assert tempos[0] == tempos[1] == 60 < tempos[2]


def test_passes_in_the_background_do_not_count():
    aside = [Pass(p.at, "x", p.drill, 110.0, True, attentive=False) for p in passes("110+")]
    assert rung(aside, ceiling=200.0).tempo == pytest.approx(54)


def test_a_pass_that_cannot_be():
    with pytest.raises(DromicError, match="soreness"):
        Pass(datetime(2026, 1, 1), "x", "y", 60.0, True, soreness=9)
    with pytest.raises(DromicError, match="hand"):
        Pass(datetime(2026, 1, 1), "x", "y", 60.0, True, hand="third")


def test_a_scan_goes_once_through_all_tempos_and_names_the_band_that_breaks():
    played: list[Pass] = []
    while len(played) < 40:
        now = rung(played, 120.0, 200.0, school=SCAN)
        if "through" in now.reason:
            break
        clean = not 80 < now.tempo < 100  # slow is clean, fast is another motion, between them it breaks
        played.append(Pass(datetime(2026, 11, 25, 18) + timedelta(seconds=len(played)), "x", "m:1-4", now.tempo, clean))
    tempos = [p.tempo for p in played]
    assert tempos[0] == pytest.approx(54) and tempos[-1] > 120 and tempos == sorted(tempos)
    low, high = broken_band(played)
    assert 80 < low < high < 100 and f"{low:.0f} and {high:.0f}" in now.reason
    assert broken_band(passes("60+ 70+ 80- 90-")) is None and broken_band(passes("60-")) is None

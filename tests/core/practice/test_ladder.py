"""Tempos from passes, each example worked by hand with the numbers that ship (docs/model.md tells the rules)."""

from __future__ import annotations

from datetime import date, datetime, timedelta

import pytest

from dromic import presets
from dromic.core.practice.ladder import FAST, SCAN, best_clean, broken_band, first_tempo, next_rung, plateau_days
from dromic.core.practice.log_pass import Pass
from dromic.core.values.errors import DromicError

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


@pytest.mark.parametrize(
    ("played", "tempo", "words"),
    [
        ("60+", 60.0, "clean 1 of 3"),
        ("60+ 60+ 60+", 62.4, "4% faster"),  # the first step of the day: 60 x 1.04
        ("60-", 60.0, "once more"),
        ("60+ 60+ 60-", 60.0, "once more"),
        ("60- 60-", 55.2, "2 misses in a row"),  # 60 x 0.92
        ("60+ 60+ 60+ 62.4+ 62.4+ 62.4+ 64.9+ 64.9+ 64.9+", 71.39, "burst"),  # every third step: 64.9 x 1.1
        ("64.9+ 71.4*", 64.9, "back to where it is clean"),
        ("118+ 118+ 118+", 120.0, "faster"),  # no further than the target
        ("120+ 120+ 120+", 120.0, "clean at the target"),
    ],
)
def test_what_comes_after_these_passes(played, tempo, words):
    rung = next_rung(passes(played), TODAY, 120.0, 200.0, NUMBERS)
    assert rung.tempo == pytest.approx(tempo, abs=0.01) and words in rung.reason


def test_after_its_burst_a_rung_is_left_for_the_next():
    played = passes("60+ 60+ 60+ 62.4+ 62.4+ 62.4+ 64.9+ 64.9+ 64.9+ 71.4*")
    for _ in range(2):
        rung = next_rung(played, TODAY, 120.0, 200.0, NUMBERS)
        played = [*played, *passes(f"{rung.tempo:.1f}+")]
    assert rung.tempo == pytest.approx(64.9 * 1.04, abs=0.1) and not rung.burst


def test_who_never_misses_reaches_the_target():
    played: list[Pass] = []
    for n in range(200):
        rung = next_rung(played, TODAY, 120.0, 200.0, NUMBERS)
        played.append(
            Pass(datetime(2026, 11, 25, 18) + timedelta(seconds=n), "x", "m:1-4", rung.tempo, True, burst=rung.burst)
        )
    assert best_clean(played) == 120.0


def test_three_misses_of_five_ask_for_a_rest():
    assert next_rung(passes("60- 60+ 60- 60+ 60-"), TODAY, 120, 200, NUMBERS).rest_s == 60
    assert next_rung(passes("60- 60+ 60+ 60+ 60-"), TODAY, 120, 200, NUMBERS).rest_s == 0


def test_another_day_begins_below_the_best_and_lower_after_days_away():
    yesterday = passes("60+ 80+ 90-", TODAY - timedelta(1))
    assert next_rung(yesterday, TODAY, 120, 200, NUMBERS).tempo == pytest.approx(72)  # 90 % of 80
    assert next_rung(yesterday, TODAY, 120, 200, NUMBERS, FAST).tempo == pytest.approx(76)  # 95 %
    week = passes("80+", TODAY - timedelta(6))
    rung = next_rung(week, TODAY, 120, 200, NUMBERS)
    assert rung.tempo == pytest.approx(80 * 0.9 * 0.95) and "5 days missed" in rung.reason
    assert next_rung(passes("80+", TODAY - timedelta(400)), TODAY, 120, 200, NUMBERS).tempo == pytest.approx(
        80 * 0.9 * 0.8
    )


def test_a_plateau_is_answered_with_something_other_than_speed():
    days = [p for n in range(5, 0, -1) for p in passes("80+ 80+ 80+ 84-", TODAY - timedelta(n))]
    here = days + passes("80+ 80+ 80+")
    assert plateau_days(here, TODAY) == 5
    rung = next_rung(here, TODAY, 120, 200, NUMBERS)
    assert rung.plateau and rung.tempo == 80 and "fewer notes" in rung.reason


def test_below_the_best_a_plateau_keeps_nobody_from_climbing():
    days = [p for n in range(6, 0, -1) for p in passes("80+ 80+ 80+ 84-", TODAY - timedelta(n))]
    rung = next_rung(days + passes("72+ 72+ 72+"), TODAY, 120, 200, NUMBERS)
    assert not rung.plateau and rung.tempo == pytest.approx(72 * 1.04)


def test_passes_in_the_background_do_not_count():
    aside = [Pass(p.at, "x", p.drill, 110.0, True, attentive=False) for p in passes("110+")]
    assert next_rung(aside, TODAY, 120, 200, NUMBERS).tempo == pytest.approx(54)
    assert best_clean(passes("60+ 70* 65-")) == 60


def test_a_pass_that_cannot_be():
    with pytest.raises(DromicError, match="soreness"):
        Pass(datetime(2026, 1, 1), "x", "y", 60.0, True, soreness=9)
    with pytest.raises(DromicError, match="hand"):
        Pass(datetime(2026, 1, 1), "x", "y", 60.0, True, hand="third")


def test_a_scan_goes_once_through_all_tempos_and_names_the_band_that_breaks():
    played: list[Pass] = []
    while len(played) < 40:
        rung = next_rung(played, TODAY, 120.0, 200.0, NUMBERS, SCAN)
        if "through" in rung.reason:
            break
        clean = not 80 < rung.tempo < 100  # slow is clean, fast is another motion, between them it breaks
        played.append(
            Pass(datetime(2026, 11, 25, 18) + timedelta(seconds=len(played)), "x", "m:1-4", rung.tempo, clean)
        )
    tempos = [p.tempo for p in played]
    assert tempos[0] == pytest.approx(54) and tempos[-1] > 120 and tempos == sorted(tempos)
    low, high = broken_band(played)
    assert 80 < low < high < 100 and f"{low:.0f} and {high:.0f}" in rung.reason
    assert broken_band(passes("60+ 70+ 80- 90-")) is None and broken_band(passes("60-")) is None

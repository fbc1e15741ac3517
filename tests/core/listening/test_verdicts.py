"""The rules of the verdicts, worked by hand; the same take under two ideals."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.judging import _slope
from dromic.core.listening.verdicts import DRIVEN, EXACT, RING, SEPARATE, Evidence, Manner, timing_room, verdict_of
from tests.core.drills.test_drills import material_of

NUMBERS = presets.listening().judge


@pytest.fixture(scope="module")
def fine() -> Evidence:
    one = next(d for d in due_notes(material_of(2).plan) if d.picked)
    return Evidence(one, 1.0, 0.0, 0.2, 1.0, 0.0, False, -3.0, -40.0, None)


def test_the_room_for_an_error_grows_with_the_time_beside_it():
    assert timing_room(0.05, NUMBERS) == pytest.approx(0.018)  # the least of listen.toml
    assert timing_room(0.5, NUMBERS) == pytest.approx(0.14 * 0.5)


@pytest.mark.parametrize(
    ("changed", "verdict"),
    [
        ({}, "ok"),
        ({"heard_s": None, "error_s": None}, "missed"),
        ({"fits": 0.0}, "wrong"),
        ({"twice": True}, "doubled"),
        ({"error_s": 0.029}, "late"),  # 14 % of 200 ms is 28 ms
        ({"error_s": 0.027}, "ok"),
        ({"error_s": -0.029}, "early"),
        ({"db": -7.5}, "weak"),
        ({"db": 7.5}, "loud"),
        ({"cents": 30.0}, "wrong"),
        ({"late_db": -25.0}, "short"),
        ({"after_db": -6.0}, "ringing"),
        ({"late_db": None, "after_db": None}, "ok"),
    ],
)
def test_one_rule_after_the_other(fine, changed, verdict):
    assert verdict_of(replace(fine, **changed), NUMBERS, Manner()) == verdict


def test_the_same_take_under_another_ideal(fine):
    rings, short = replace(fine, after_db=-6.0), replace(fine, late_db=-25.0)
    touches = replace(fine, after_db=-15.0)
    assert verdict_of(rings, NUMBERS, Manner(RING)) == "ok" and verdict_of(short, NUMBERS, Manner(RING)) == "short"
    assert verdict_of(short, NUMBERS, Manner(SEPARATE)) == "ok"
    assert verdict_of(touches, NUMBERS, Manner(EXACT)) == "ringing" and verdict_of(touches, NUMBERS, Manner()) == "ok"


def test_a_driven_signal_says_little_of_loudness(fine):
    assert verdict_of(replace(fine, db=-9.0), NUMBERS, Manner(signal=DRIVEN)) == "ok"


def test_loudness_is_told_at_each_pitch():
    """High notes that are quieter all along are not weak; one that is quieter than its neighbours in pitch is."""
    pitch = np.arange(40, 70, dtype=float)
    db = -0.4 * (pitch - 40)
    db[7] -= 9.0  # one weak note does not turn the line
    assert _slope(pitch, db) == pytest.approx(-0.4, abs=0.02)
    figure = np.tile([50.0, 57.0], 300)  # every second note is the same one
    assert _slope(figure, np.where(figure == 57.0, -3.5, 0.0)) == pytest.approx(-0.5)
    assert _slope(pitch[:5], db[:5]) == 0.0 and _slope(np.full(20, 50.0), np.zeros(20)) == 0.0

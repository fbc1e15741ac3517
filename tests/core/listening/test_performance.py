"""The simulated player: as planned it is clean; over its ceiling it goes wrong where the loads are, and says so."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from tests.core.drills.test_drills import material_of

SETTINGS = presets.listening()


@pytest.fixture(scope="module")
def due():
    return due_notes(material_of(2).plan)


def test_as_planned_nothing_is_wrong_and_times_are_near(due):
    played = perform(due, SETTINGS, 0.0, 3)
    assert {one.verdict for one in played} == {"ok"}
    off = [one.start_s - one.due.start_s for one in played]
    assert np.std(off) * 1000 == pytest.approx(SETTINGS.perform.timing_ms, rel=0.3)


def test_the_same_seed_is_the_same_take_and_another_is_not(due):
    assert perform(due, SETTINGS, 0.7, 1) == perform(due, SETTINGS, 0.7, 1) != perform(due, SETTINGS, 0.7, 2)


def test_over_the_ceiling_faults_grow_and_follow_the_loads(due):
    faults = Counter()
    loads, all_loads = [], []
    for seed in range(12):
        for level in (0.3, 1.0):
            for one in perform(due, SETTINGS, level, seed):
                all_loads.append(one.due.load)
                if one.verdict != "ok":
                    faults[level] += 1
                    loads.append(one.due.load)
    assert faults[1.0] > 2 * faults[0.3] > 0
    assert np.mean(loads) > np.mean(all_loads)


def test_faster_is_faster(due):
    slow, fast = perform(due, SETTINGS, 0.0, 1), perform(due, SETTINGS, 0.0, 1, 1.25)
    assert fast[-1].start_s == pytest.approx(slow[-1].start_s / 1.25, abs=0.02)


def test_repeats_are_played_and_a_chord_is_one_turn(due):
    plan = material_of(2).plan
    phrase = plan.request.phrase
    assert len({one.turn for one in due}) == len(phrase.unrolled().events) > len(phrase.events)
    chords = due_notes(material_of(10, "free").plan)
    turns = Counter(one.turn for one in chords)
    assert max(turns.values()) > 1 and len(turns) == len(material_of(10, "free").plan.events)

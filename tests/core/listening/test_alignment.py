"""Notes and onsets brought together: what is missing, too many, swapped, and a tempo that drifts."""

from __future__ import annotations

import numpy as np
import pytest

from dromic import presets
from dromic.core.listening.alignment import aligned, pitch_fits

NUMBERS = presets.listening().align


def take(
    seed: int, count: int = 120, missed: float = 0.1, extra: float = 0.05, drift: float = 0.08, ratio: float = 1.0
):
    """(due, onsets, strength, fits, own onset of each note or -1) of a drawn take of eighths and sixteenths on five pitches."""
    chance = np.random.default_rng(seed)
    due = np.cumsum(chance.choice([0.12, 0.12, 0.24], count)) - 0.12
    pitch = chance.integers(0, 5, count)
    tempo = 1.0 + drift * np.sin(np.linspace(0, 3, count))
    true = 0.7 + ratio * np.concatenate([[0.0], np.cumsum(np.diff(due) * tempo[1:])]) + chance.normal(0, 0.006, count)
    there = chance.random(count) >= missed
    there[0] = there[-1] = True
    more = chance.uniform(0.5, true[-1], int(extra * count))
    onsets = np.concatenate([true[there], more])
    kinds = np.concatenate([pitch[there], chance.integers(0, 5, len(more))])
    strength = np.concatenate([np.full(there.sum(), 0.9), np.full(len(more), 0.4)])
    order = np.argsort(onsets)
    own = np.full(count, -1)
    own[np.flatnonzero(there)] = np.argsort(order)[: there.sum()]
    fits = np.where(pitch[:, None] == kinds[order][None, :], 1.0, 0.1)
    return due, onsets[order], strength[order], fits, own


@pytest.mark.parametrize("ratio", [1.0, 0.8, 1.25])
@pytest.mark.parametrize("seed", range(6))
def test_nearly_all_notes_find_their_own_front(seed, ratio):
    due, onsets, strength, fits, own = take(seed, ratio=ratio)
    found = aligned(due, onsets, strength, fits, NUMBERS)
    there = own >= 0
    assert (found.onset[there] == own[there]).mean() >= 0.98
    assert (found.onset[~there] >= 0).mean() <= 0.2  # what is missing takes nobody else's onset
    assert found.ratio == pytest.approx(ratio, rel=0.1)
    assert np.all(np.diff(found.onset[found.onset >= 0]) > 0)


def test_a_perfect_take_is_due_where_it_was_heard():
    due, onsets, strength, fits, own = take(1, missed=0.0, extra=0.0, drift=0.0)
    found = aligned(due, onsets, strength, fits, NUMBERS)
    assert (found.onset == own).all() and not found.extra
    assert np.abs(onsets - found.due_s).mean() < 0.007


def test_two_notes_the_wrong_way_round_are_not_forced_together():
    due, onsets, strength, fits, _ = take(2, missed=0.0, extra=0.0)
    fits[:, [40, 41]] = fits[:, [41, 40]]
    found = aligned(due, onsets, strength, fits, NUMBERS)
    others = [n for n in range(len(due)) if n not in (40, 41)]
    assert (found.onset[others] == others).all()


def test_what_speaks_after_a_front_tells_which_note_it_is():
    speaks = np.array([[1.0, 0.4], [0.5, 1.0]])
    fits = pitch_fits([[60], [64], []], speaks, (60, 64))
    assert fits[0, 0] == 1 and fits[0, 1] == 0 and fits[1, 1] == 1 and (fits[2] == 1).all()

"""The way from playing to hearing: clicks that come back late, claps that scatter, rooms that answer."""

from __future__ import annotations

import numpy as np
import pytest

from dromic import presets
from dromic.core.listening.latency import latency_of
from dromic.core.values.errors import DromicError

NUMBERS = presets.listening().latency
CLICKS = [0.5 + 0.75 * n for n in range(8)]


def test_clicks_that_come_back_tell_their_way_exactly():
    found = latency_of(CLICKS, [c + 0.062 for c in CLICKS], NUMBERS)
    assert (
        found.seconds == pytest.approx(0.062) and found.sure_s == pytest.approx(0) and (found.heard, found.of) == (8, 8)
    )


def test_claps_scatter_and_the_middle_is_near():
    chance = np.random.default_rng(4)
    claps = [c + 0.04 + chance.normal(0, 0.012) for c in CLICKS]
    found = latency_of(CLICKS, claps, NUMBERS)
    assert found.seconds == pytest.approx(0.04, abs=0.012) and 0.002 < found.sure_s < 0.025


def test_echoes_and_a_door_do_not_mislead():
    onsets = sorted([c + 0.03 for c in CLICKS[1:]] + [c + 0.21 for c in CLICKS[::3]] + [0.1, 2.345])
    found = latency_of(CLICKS, onsets, NUMBERS)
    assert found.seconds == pytest.approx(0.03) and found.heard == 7


def test_what_does_not_agree_is_refused_in_a_sentence():
    with pytest.raises(DromicError, match="no click was heard"):
        latency_of(CLICKS, [], NUMBERS)
    with pytest.raises(DromicError, match="of 8 clicks agree"):
        latency_of(CLICKS, [c + 0.05 * n for n, c in enumerate(CLICKS)], NUMBERS)

"""What a microphone hears of the loudspeaker, learned and taken off: ways of known impulse responses."""

from __future__ import annotations

import numpy as np
import pytest

from dromic import presets
from dromic.sound.hearing.bleed import counted_in, learned, loudest_moment
from dromic.sound.render import click_sound
from dromic.sound.string import pluck

RATE = 44100
LENGTH = round(0.25 * RATE)


def clicks(seconds: float, gap: float = 0.5) -> np.ndarray:
    out = np.zeros(round(seconds * RATE))
    one = click_sound(RATE, presets.sound().click, 1)
    for at in np.arange(0.05, seconds - 0.1, gap):
        out[round(at * RATE) : round(at * RATE) + len(one)] += one
    return out


def room(delay_ms: float = 31.0) -> np.ndarray:
    """A way with a direct sound and two echoes."""
    way = np.zeros(LENGTH)
    for ms, gain in ((delay_ms, 0.5), (delay_ms + 9.0, -0.2), (delay_ms + 40.0, 0.1)):
        way[round(ms / 1000 * RATE)] = gain
    return way


def through(played: np.ndarray, way: np.ndarray) -> np.ndarray:
    return np.convolve(played, way)[: len(played)]


def test_the_click_goes_and_the_note_stays():
    out, way = clicks(4.0), room()
    note = np.zeros(len(out))
    note[3 * RATE : 3 * RATE + RATE // 2] = 0.3 * pluck(220.0, RATE // 2, RATE, 1.0, 0.5, 1.0, 0.2, seed=1)
    heard = through(out, way) + note + np.random.default_rng(1).normal(0.0, 1e-4, len(out))
    counted = 2 * RATE
    found = learned(heard[:counted], out[:counted], LENGTH)
    assert found is not None
    start = round(2.5 * RATE)
    begin = start + found.late
    left = found.bleed.without(heard[begin:], out[start - LENGTH + 1 : len(out) - found.late]).samples
    start = begin
    bled = heard[start:] - note[start:]
    assert np.sqrt(np.mean((left - note[start:]) ** 2)) < 0.1 * np.sqrt(np.mean(bled**2))  # 20 dB of it gone
    assert np.corrcoef(left, note[start:])[0, 1] > 0.99


def lose(heard: np.ndarray, at: int, lost: int) -> np.ndarray:
    """A recording in which so many samples are lost from one on, or came twice."""
    return np.concatenate([heard[:at], heard[at + lost :], np.zeros(max(0, lost))])[: len(heard)]


def drift(heard: np.ndarray, share: float) -> np.ndarray:
    """A recording by a clock that is slower by this share."""
    at = np.arange(len(heard), dtype=float)
    return np.interp(at * (1.0 + share), at, heard)


@pytest.mark.parametrize(
    ("mishap", "late"),
    [
        (lambda heard: lose(heard, round(6.8 * RATE), 3), -3),
        (lambda heard: lose(heard, round(6.8 * RATE), 400), -400),
        (lambda heard: lose(heard, round(6.8 * RATE), -400), 400),
        (lambda heard: drift(heard, 1e-4), -1e-4 * 10.0 * RATE),
    ],
)
@pytest.mark.parametrize("played", [0.0, 0.3])
def test_lost_samples_and_two_clocks_are_followed(mishap, late, played):
    out = clicks(12.0)
    heard, notes = through(out, room()), np.zeros(len(out))
    for n in range(40):
        at, one = (
            round((5.0 + 0.17 * n) * RATE),
            pluck(82.0 * 2 ** (n % 13 / 12), 8000, RATE, 1.0, 0.5, 1.0, 0.2, seed=n),
        )
        notes[at : at + 8000] += played * one
    found = learned(heard[: 2 * RATE], out[: 2 * RATE], LENGTH)
    assert found is not None and found.late + found.bleed.delay == pytest.approx(0.031 * RATE, abs=20)
    bled, begin, end = mishap(heard), 6 * RATE, 10 * RATE
    begin, end = begin + found.late, end + found.late
    left = found.bleed.without((bled + notes)[begin:end], out[begin - found.late - LENGTH + 1 : end - found.late])
    over = left.samples - notes[begin:end]
    assert np.sqrt(np.mean(over**2)) < 0.1 * np.sqrt(np.mean(bled[begin:end] ** 2))  # 20 dB of it gone
    assert left.late == pytest.approx(late, abs=6)
    assert left.lost == pytest.approx(abs(late) if abs(late) > 50 else 0, abs=30)


@pytest.mark.parametrize("heard", ["silence", "something else"])
def test_without_a_way_nothing_is_taken_off(heard):
    out = clicks(2.0)
    chance = np.random.default_rng(2)
    assert learned(np.zeros(len(out)) if heard == "silence" else chance.normal(0.0, 0.1, len(out)), out, LENGTH) is None
    assert learned(chance.normal(0.0, 0.1, len(out)), np.zeros(len(out)), LENGTH) is None


@pytest.mark.parametrize("noise", [1e-4, 0.02])
def test_a_known_way_is_kept_while_it_tells_and_another_room_is_learned(noise):
    out = clicks(2.0)
    played = np.concatenate([np.zeros(LENGTH - 1), out])
    quiet = np.random.default_rng(3).normal(0.0, noise, len(out))
    known, late = counted_in(through(out, room()) + quiet, played, LENGTH, None)
    assert late + known.delay == pytest.approx(0.031 * RATE, abs=20)
    ahead = np.concatenate([np.zeros(LENGTH - 1 + late), out])[: len(played)]  # where its front was found
    kept, moved_by = counted_in(through(out, room()) + quiet[::-1], ahead, LENGTH, known)
    assert kept is known and abs(moved_by) <= 3
    moved, _ = counted_in(
        through(out, -room(52.0)), ahead, LENGTH, known
    )  # the microphone was turned around and put elsewhere
    assert moved is not known
    assert counted_in(np.zeros(len(out)), ahead, LENGTH, known) == (known, 0)


def test_a_spike_is_no_moment_of_playing():
    spike, note = np.zeros(RATE), np.zeros(RATE)
    spike[5000:5006] = 0.5
    note[5000:9000] = 0.2 * np.sin(np.arange(4000) / 20.0)
    assert loudest_moment(spike) < 0.5 * loudest_moment(note) and loudest_moment(note) == pytest.approx(0.14, abs=0.02)
    assert loudest_moment(np.zeros(0)) == 0.0

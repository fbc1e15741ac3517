"""A plain drum groove on the exact grid: a low drum on the first beat and half way, a snare on the beats between, a cymbal on every
half beat. Made of sines and noise here; no recording."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from functools import cache

import numpy as np

from dromic.core.music.phrase import Bar, Phrase
from dromic.core.setup.sound_settings import DrumNumbers
from dromic.sound.string import Samples

LOW, SNARE, CYMBAL = "low", "snare", "cymbal"


def strokes(passage: Phrase, lead: float) -> Iterator[tuple[float, str]]:
    """(second, drum) of every stroke through a passage whose first bar begins at `lead` seconds."""
    for bar in passage.bars:
        for at, drum in _of_bar(bar):
            if 0 <= at < bar.length:
                yield lead + passage.seconds_at(bar.start + at), drum


def _of_bar(bar: Bar) -> Iterator[tuple[Fraction, str]]:
    at = -bar.lead
    beats = bar.metre.beats()
    for number, length in enumerate(beats):
        if len(beats) == 1 or number % 2 == 0:
            yield at, LOW
        else:
            yield at, SNARE
        parts = 3 if bar.metre.compound else 2
        for part in range(parts):
            yield at + length * part / parts, CYMBAL
        at += length


@cache
def drum(name: str, rate: int, setting: DrumNumbers) -> Samples:
    """The sound of a drum at so many samples a second; `setting` is its entry in sound.toml."""
    time = np.arange(int(rate * setting.length_ms / 1000)) / rate
    fade = np.exp(-time * 1000 / setting.decay_ms)
    noise = np.random.default_rng(7).uniform(-1, 1, len(time))
    if setting.noise >= 1:  # what changes from sample to sample is the bright part of noise
        noise = np.diff(noise, prepend=0.0) / 2
    sweep = setting.hz * (1 + setting.drop * np.exp(-time * 1000 / setting.drop_ms))
    tone = np.sin(2 * np.pi * np.cumsum(sweep) / rate)
    return np.asarray(setting.level * fade * (setting.noise * noise + (1 - setting.noise) * tone))

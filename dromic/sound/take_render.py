"""A performed take as sound: each note at the very sample it was played at, as loud and as long as it was."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dromic import presets
from dromic.core.listening.performance import Played
from dromic.core.music.phrase import Phrase
from dromic.core.values.progress import Cancelled, Progress
from dromic.sound.note_sound import note_sound
from dromic.sound.string import Samples

LEAD_S = 0.5
"""Seconds before the first note."""
TAIL_S = 0.8
"""Seconds after the last."""
_NOISE = 2e-4
"""of the whole scale: the hiss of a quiet line"""
_PEAK = 0.8
_EVERY = 16
_NOISE_S = 0.006
"""Seconds in which the noise of a pick dies away."""
_CLICK = 0.12
"""Level it begins with."""


def take_sound(
    played: Sequence[Played], phrase: Phrase, seed: int = 0, go_on: Progress = lambda share: True
) -> tuple[Samples, int]:
    """(samples of one channel, samples a second) of a take; its first note is due at LEAD_S."""
    setting = presets.sound()
    rate = setting.rate
    ends = [one.end_s for one in played if one.end_s is not None]
    out = np.zeros(round((LEAD_S + max(ends, default=0.0) + TAIL_S) * rate))
    again = _next_on_string(played)
    for number, one in enumerate(played):
        if number % _EVERY == 0 and not go_on(number / len(played)):
            raise Cancelled
        if one.start_s is None or one.end_s is None:
            continue
        until = min(one.end_s, again[number])
        fronts = [(one.start_s, one.again_s or until)] + ([(one.again_s, until)] if one.again_s else [])
        note = replace(
            one.due.written, pitch=one.due.note.pitch, string=one.due.note.string, attack=one.due.note.attack
        )
        if note.bend:
            note = replace(note, bend=note.bend + one.cents / 100)
        if one.apart_s:
            _add(out, round((LEAD_S + one.start_s - one.apart_s) * rate), _pick_noise(rate, number))
            note = replace(note, attack="hammer")
        if one.brushed is not None:
            string, pitch = one.brushed
            open_string = replace(note, string=string, pitch=pitch, fret=0, bend=0.0, marks=frozenset())
            length = max(1, round((until - one.start_s) * rate))
            loud = 10 ** ((one.db + presets.listening().perform.brush_db) / 20)
            at = round((LEAD_S + one.start_s) * rate)
            _add(out, at, note_sound(open_string, length, rate, setting, (0.0, 0.0), phrase) * loud)
        for start, end in fronts:
            length = max(1, round((max(end, start + 0.02) - start) * rate))
            at = round((LEAD_S + start) * rate)
            _add(out, at, note_sound(note, length, rate, setting, (0.0, 0.0), phrase) * 10 ** (one.db / 20))
    peak = float(np.abs(out).max())
    if peak > _PEAK:
        out *= _PEAK / peak
    out += np.random.default_rng(seed).normal(0.0, _NOISE, len(out))
    return out, rate


def _add(out: Samples, at: int, sound: Samples) -> None:
    room = min(len(sound), len(out) - at)
    if room > 0:
        out[at : at + room] += sound[:room]


def _pick_noise(rate: int, seed: int) -> Samples:
    """The pick on a string that no finger holds yet: a click without a pitch."""
    time = np.arange(round(_NOISE_S * 6 * rate)) / rate
    return np.asarray(_CLICK * np.random.default_rng(seed).normal(0.0, 1.0, len(time)) * np.exp(-time / _NOISE_S))


def _next_on_string(played: Sequence[Played]) -> list[float]:
    """For each note when its string sounds again, in seconds; far away where it does not."""
    found = [float("inf")] * len(played)
    following: dict[int, float] = {}
    for number in range(len(played) - 1, -1, -1):
        one = played[number]
        found[number] = following.get(one.due.note.string, float("inf"))
        if one.start_s is not None:
            following[one.due.note.string] = one.start_s
    return found

"""Whether notes sound as long as they should in a recording, and at which pitch a bend is held: the partials that a note has for
itself, looked at late in its own time and in the time of the next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.core.values.arrays import Floats
from dromic.core.values.pitch import frequency_hz
from dromic.sound.fronts import RATE
from dromic.sound.string import Samples

_WINDOW = 2048
_PARTIALS, _OTHERS = 6, 10
_CLOSE, _CLOSE_HZ = 0.03, 70.0
"""partials of two notes nearer than this share or this many Hz cannot be told apart"""
_LATE, _AFTER = 0.75, 0.6
"""where in its own time and in the time of the next note a note is looked at"""
_SHORTEST_S = 0.07
"""times shorter than this cannot be looked into"""
_FFT = 32768
_CENT_S, _FAR_CENTS = 0.18, 130.0
_FLOOR = 1e-6


@dataclass(frozen=True, slots=True)
class Sounded:
    """A note to look at: its front, its pitch, when it is to end, when the one after it ends, and the pitches that sound beside it or
    next."""

    start_s: float
    pitch: float
    until_s: float
    next_until_s: float
    beside: tuple[int, ...]


def levels(samples: Samples, notes: Sequence[Sounded]) -> list[tuple[float | None, float | None]]:
    """For each note (dB of what is left of it late in its own time, dB in the time of the next), both against how it began; None
    where that cannot be told."""
    return [_levels(samples, note) for note in notes]


def _levels(samples: Samples, note: Sounded) -> tuple[float | None, float | None]:
    bins = _own_bins(note)
    own, after = note.until_s - note.start_s, note.next_until_s - note.until_s
    if not len(bins) or own < _SHORTEST_S:
        return None, None
    began = max(_power(samples, note.start_s + share * _WINDOW / RATE, bins) for share in (0.35, 0.6, 0.85))
    late = _power(samples, max(note.start_s + _LATE * own, note.start_s + 0.5 * _WINDOW / RATE), bins)
    then = _power(samples, note.until_s + _AFTER * after, bins) if after >= _SHORTEST_S else None
    return 10 * float(np.log10(late / began)), None if then is None else 10 * float(np.log10(then / began))


def _power(samples: Samples, middle_s: float, bins: np.ndarray) -> float:
    """The power of some bins in a window about a second."""
    at = int(middle_s * RATE) - _WINDOW // 2
    part = samples[max(0, at) : max(0, at) + _WINDOW]
    if len(part) < _WINDOW:
        return _FLOOR**2
    spectrum = np.abs(np.fft.rfft(part * np.hanning(_WINDOW))) / _WINDOW
    return float(sum((spectrum[bins + d] ** 2).sum() for d in (-1, 0, 1))) + _FLOOR**2


def _own_bins(note: Sounded) -> np.ndarray:
    """Bins of the partials that no note beside it has."""
    hz: Floats = frequency_hz(1) * 2 ** ((note.pitch - 1) / 12) * np.arange(1, _PARTIALS + 1)
    others = np.array([frequency_hz(p) * n for p in note.beside for n in range(1, _OTHERS)])
    if len(others):
        hz = hz[[bool(np.all(np.abs(others - h) > max(_CLOSE * h, _CLOSE_HZ))) for h in hz]]
    bins = np.round(hz * _WINDOW / RATE).astype(int)
    return np.asarray(bins[(bins > 1) & (bins < _WINDOW // 2 - 1)])


def cents_off(samples: Samples, start_s: float, end_s: float, pitch: float) -> float | None:
    """How far what is held late in a note lies from a pitch, in cents; None where nothing of it is heard. The median over the lowest
    partials, each placed by a parabola through the logarithms about its peak (J. O. Smith, Spectral Audio Signal
    Processing, 2011)."""
    middle = start_s + 0.65 * (end_s - start_s)
    length = int(min(_CENT_S, 0.5 * (end_s - start_s)) * RATE)
    at = int(middle * RATE) - length // 2
    part = samples[max(0, at) : at + length]
    if len(part) < _WINDOW // 2:
        return None
    spectrum = np.log(np.abs(np.fft.rfft(part * np.hanning(len(part)), _FFT)) + 1e-12)
    base = frequency_hz(1) * 2 ** ((pitch - 1) / 12)
    found = []
    for partial in range(1, 5):
        low = int(base * partial * 2 ** (-_FAR_CENTS / 1200) * _FFT / RATE)
        high = int(base * partial * 2 ** (_FAR_CENTS / 1200) * _FFT / RATE) + 1
        if high + 2 >= len(spectrum):
            break
        peak = low + int(np.argmax(spectrum[low : high + 1]))
        if peak in (low, high) or spectrum[peak] < spectrum.max() - 7.0:
            continue
        a, b, c = spectrum[peak - 1 : peak + 2]
        place = peak + 0.5 * (a - c) / (a - 2 * b + c)
        found.append(1200 * np.log2(place * RATE / _FFT / (base * partial)))
    return float(np.median(found)) if found else None

"""Whether notes sound as long as they should in a recording, and at which pitch a bend is held: the partials that a note has for
itself, looked at late in its own time and in the time of the next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.core.values.arrays import Floats
from dromic.core.values.pitch import frequency_hz
from dromic.sound.hearing.rate import RATE
from dromic.sound.string import Samples

_SIZES = 11.0, 13.0
"""powers of two that the window's samples lie between"""
_SHARE = 0.7
"""of a time, for the window that looks into it"""
_PARTIALS = 6
"""Partials of a note that are followed."""
_OTHERS = 24
"""Partials of the notes beside it that are kept away from, up to this one."""
_CLOSE_BINS = 3.3
"""partials of two notes nearer than this cannot be told apart through the window"""
_OWN_SHARE = 0.1
"""of a note's power that must lie in those partials"""
_CHORD_PARTIALS = 3
"""partials of its own that a note of a chord must have, or nothing is said of it"""
_EARLY = 0.2
"""Share of its own time after which it is first measured, at least."""
_LATE = 0.75
"""Share of its own time at which it is measured again, or in the middle of a window if that is later."""
_AFTER = 0.6
"""Share of the next note's time at which it is measured last."""
_SHORTEST_S = 0.07
"""times shorter than this cannot be looked into"""
_LEAST_LEFT = 1e-3
_CARRIES = 0.1
"""Share of the strongest partial from which on one is followed."""
_UNEVENLY = 8.0
"""Times as much as its own share that the weakest partial may leave of the note: partials decay unevenly."""
_BEGINS = (0.35, 0.6, 0.85)
"""of the window, after an onset: where it is looked at as it began"""
_FFT = 32768
_CENT_S = 0.18
"""Seconds over which a bend's pitch is measured."""
_FAR_CENTS = 130.0
"""Cents around the due pitch that are looked at."""
_LEAST_SAMPLES = 1024
"""Samples under which no pitch is told."""
_FLOOR = 1e-6


@dataclass(frozen=True, slots=True)
class Sounded:
    """A note to look at: its onset, its pitch, when it is to end, when the one after it ends, the pitches that sound beside it or
    next, and those that sound in the time of the next one."""

    start_s: float
    pitch: float
    until_s: float
    next_until_s: float
    beside: tuple[int, ...]
    next_beside: tuple[int, ...]
    chord: bool = False


def levels(samples: Samples, notes: Sequence[Sounded]) -> list[tuple[float | None, float | None]]:
    """For each note (dB of what is left of it late in its own time, dB in the time of the next), both against how it began; None
    where that cannot be told."""
    return [_levels(samples, note) for note in notes]


def _levels(samples: Samples, note: Sounded) -> tuple[float | None, float | None]:
    own = note.until_s - note.start_s
    return (None, None) if own < _SHORTEST_S else (_late(samples, note, own), _after(samples, note, own))


def _late(samples: Samples, note: Sounded, own: float) -> float | None:
    size = window_size(own)
    bins = own_bins(note.pitch, note.beside, size)
    if len(bins) < _fewest(note) or not _tells(samples, note, bins, size):
        return None
    began = _began(samples, note, bins, size)
    late_s = max(note.start_s + _LATE * own, note.start_s + 0.5 * size / RATE)
    left = power(samples, late_s, bins, size) / began
    dying = _decayed(samples, note, bins, began, late_s - note.start_s, size)
    return 10 * float(np.log10(left / dying))


def _after(samples: Samples, note: Sounded, own: float) -> float | None:
    after = note.next_until_s - note.until_s
    size = min(window_size(own), window_size(after))
    bins = own_bins(note.pitch, note.next_beside, size)
    if after < _SHORTEST_S or len(bins) < _fewest(note) or not _tells(samples, note, bins, size):
        return None
    began = np.max([powers(samples, note.start_s + share * size / RATE, bins, size) for share in _BEGINS], axis=0)
    then = powers(samples, note.until_s + _AFTER * after, bins, size)
    carries = (
        began >= _CARRIES * began.max()
    )  # what rings on does so in all that carries it; another string shares a partial or two
    return 10 * float(np.log10(min((then / began)[carries].min(initial=np.inf) * _UNEVENLY, then.sum() / began.sum())))


def _fewest(note: Sounded) -> int:
    """How many partials of its own a note must have."""
    return _CHORD_PARTIALS if note.chord else 1


def _began(samples: Samples, note: Sounded, bins: np.ndarray, size: int) -> float:
    """The power of bins [bins] at a note's beginning, the loudest of some places."""
    return max(power(samples, note.start_s + share * size / RATE, bins, size) for share in _BEGINS)


def _tells(samples: Samples, note: Sounded, bins: np.ndarray, size: int) -> bool:
    """Whether the partials [bins] a note has for itself are enough of it to tell how it goes on."""
    if not len(bins):
        return False
    every = own_bins(note.pitch, (), size)
    middle = note.start_s + 0.6 * size / RATE
    return power(samples, middle, bins, size) >= _OWN_SHARE * power(samples, middle, every, size)


def window_size(seconds: float) -> int:
    """Samples of the window that a time can be looked into with: the longer the finer partials are told apart."""
    wanted = _SHARE * seconds * RATE
    return int(2 ** np.clip(np.floor(np.log2(max(wanted, 1.0))), *_SIZES))


def _decayed(samples: Samples, note: Sounded, bins: np.ndarray, began: float, until: float, size: int) -> float:
    """What would be left of a note's bins [bins] if it went on dying away as it does at first, as a share of how it began."""
    first = max(_EARLY * (note.until_s - note.start_s), 1.2 * size / RATE)
    if until <= first:
        return 1.0
    share = min(1.0, power(samples, note.start_s + first, bins, size) / began)
    return float(max(share ** (until / first), _LEAST_LEFT))


def power(samples: Samples, middle_s: float, bins: np.ndarray, size: int) -> float:
    """The power of some bins [bins], all together, in a window about a second."""
    return float((powers(samples, middle_s, bins, size) - _FLOOR**2).sum()) + _FLOOR**2


def powers(samples: Samples, middle_s: float, bins: np.ndarray, size: int) -> Floats:
    """[bins]: the power of each of some bins, its neighbours counted in."""
    at = int(middle_s * RATE) - size // 2
    part = samples[max(0, at) : max(0, at) + size]
    if len(part) < size:
        return np.full(len(bins), _FLOOR**2)
    spectrum = np.abs(np.fft.rfft(part * np.hanning(size))) / size
    return np.asarray(sum(spectrum[bins + d] ** 2 for d in (-1, 0, 1)) + _FLOOR**2)


def own_bins(pitch: float, beside: Sequence[int], size: int) -> np.ndarray:
    """[bins]: bins of a pitch's partials that no pitch beside it has."""
    hz = np.asarray(frequency_hz(1) * 2 ** ((pitch - 1) / 12) * np.arange(1, _PARTIALS + 1))
    others = np.array([frequency_hz(p) * n for p in beside for n in range(1, _OTHERS)])
    if len(others):
        near = _CLOSE_BINS * RATE / size
        hz = hz[[bool(np.all(np.abs(others - h) > near)) for h in hz]]
    bins = np.round(hz * size / RATE).astype(int)
    return np.asarray(bins[(bins > 1) & (bins < size // 2 - 1)])


def cents_off(samples: Samples, start_s: float, end_s: float, pitch: float) -> float | None:
    """How far what is held late in a note lies from a pitch, in cents; None where nothing of it is heard. The median over the lowest
    partials, each placed by a parabola through the logarithms about its peak (J. O. Smith, Spectral Audio Signal
    Processing, 2011)."""
    middle = start_s + 0.65 * (end_s - start_s)
    length = int(min(_CENT_S, 0.5 * (end_s - start_s)) * RATE)
    at = int(middle * RATE) - length // 2
    part = samples[max(0, at) : at + length]
    if len(part) < _LEAST_SAMPLES:
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

"""Onsets of notes in a recording: where, how strong, how loud, and how much each of some pitches speaks after it.

The detection function is the positive difference of logarithmic magnitudes in bands, the earlier frame widened by a
maximum filter against vibrato (S. Boeck and G. Widmer, Maximum Filter Vibrato Suppression for Onset Detection,
DAFx 2013). Its peaks are then placed to the millisecond where the energy of short windows rises most.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d, median_filter, uniform_filter1d
from scipy.signal import butter, sosfilt

from dromic.core.values.arrays import Floats
from dromic.core.values.pitch import frequency_hz
from dromic.core.values.progress import Cancelled, Progress
from dromic.sound.hearing.rate import RATE
from dromic.sound.string import Samples

_WINDOW = 1024
"""Samples of a frame."""
_HOP = 128
"""Samples from frame to frame."""
_LAG = 5
"""Frames between the two that are compared."""
_LOW_HZ = 60.0
"""Lowest band."""
_HIGH_HZ = 14000.0
"""Highest band."""
_BANDS_AN_OCTAVE = 12
"""Bands an octave: a semitone each."""
_GAIN = 1000.0
"""Of the logarithmic compression, log(1 + gain * magnitude)."""
_PEAK = 0.8
"""Peak that the samples are levelled to, however low the input was set."""
_NEAR_S = 0.022
"""Seconds within which the highest peak alone counts, and two onsets are one."""
_MEAN_S = 0.10
"""Seconds of the mean around a peak."""
_OVER = 0.10
"""Threshold above the local mean, as a share of the strong peaks."""
_LEAST = 0.03
"""Absolute threshold."""
_LEAST_CLOSELY = 0.006
"""Absolute threshold where a note is due."""
_FRESH = 0.12
"""Share of its pitch that is new from which on a peak is an onset."""
_FALLS = -0.5
"""dB that its energy rises by at least (under 0: falls) to be an onset all the same."""
_STRUCK_AGAIN = 0.15
"""about such a time an onset as strong as this is one even if there is less sound after it: the same note again, but softer"""
_CLOSE_S = 0.045
"""Seconds around a note that is due and not heard, which are searched again."""
_CLOSER = 0.3
"""Share of the usual threshold that will do there."""
_CLICK_HZ = 4000.0
"""Over what strings have of their own some time after they were struck."""
_CLICK_BEFORE_S = 0.022
"""Seconds before an onset that are compared."""
_CLICK_AFTER_S = 0.030
"""Seconds after it."""
_FINE_S = 0.0015
"""Seconds of a window of the fine energy, of which there are six to its length."""
_BACK_S = 0.016
"""Seconds before a peak in which its rise is looked for."""
_ON_S = 0.020
"""Seconds after it."""
_FIRST_RISE = 0.6
"""of the steepest rise about an onset: the first one so steep is it, the later ones are the string's own pulses"""
_LEAVES = 0.2
"""share of a rise at which it counts as begun"""
_LOUD_S = 0.045
_PITCH_S = 0.06
"""Seconds after an onset that its pitch is told from, at most."""
_PARTIALS = 6
"""Partials of a pitch."""
_FFT = 16384
"""Samples of the transform it is told from, zeros added."""
_CHUNK_FRAMES = 1024
"""Frames worked out at a time."""
_CHUNK_STEPS = 20000
"""Steps of the fine energy worked out at a time."""


@dataclass(frozen=True)
class Onsets:
    """Onsets in order: seconds from the start, strength 0 to 1, loudness in dB, and [onsets, pitches] how much of each pitch asked
    for speaks after an onset against the loudest of them (0 to 1)."""

    seconds: Floats
    strength: Floats
    db: Floats
    speaks: Floats
    pitches: tuple[int, ...]
    rise_db: Floats
    """how much more there is after an onset than before it"""
    click_db: Floats
    """the same of what lies so high that only a pick or a finger makes it: a low string's own pulses do not"""

    def __len__(self) -> int:
        return len(self.seconds)


@dataclass(frozen=True)
class _Levelled:
    """Samples that are brought to one level piece by piece: a whole take is held once."""

    whole: Samples
    gain: float

    def __len__(self) -> int:
        return len(self.whole)

    def part(self, start: int, end: int) -> Samples:
        """The samples there are from one number up to another."""
        part: Samples = np.multiply(self.whole[max(0, start) : max(0, end)], self.gain, dtype=np.float32)
        return part

    def piece(self, start: int, length: int) -> Samples:
        """So many samples from a place on; silence before the first and after the last."""
        found, part = np.zeros(length), self.part(start, start + length)
        found[max(0, -start) : max(0, -start) + len(part)] = part
        return found


class Hearing:
    """A recording at RATE, looked into once; its onsets can be asked for again, more closely about some times."""

    def __init__(self, samples: Samples, pitches: Sequence[int], go_on: Progress = lambda share: True) -> None:
        loudest = max(float(samples.max(initial=0.0)), -float(samples.min(initial=0.0)), 1e-9)
        self.samples = _Levelled(samples, _PEAK / loudest)  # however low the input was set
        self.pitches, self.go_on = tuple(pitches), go_on
        self.novelty, self.energy = _novelty(self.samples, go_on), _energy(self.samples)
        self._cache: dict[tuple[float, float], tuple[Floats, float]] = {}

    def onsets(self, closely: Floats | None = None) -> Onsets:
        """The onsets; about the times given ([times], seconds) weaker ones are taken too, if one of the pitches begins to speak
        there."""
        peaks, weak = _peaks(self.novelty, closely)
        strong = float(np.percentile(self.novelty[peaks[~weak]], 90)) if (~weak).any() else 1.0
        seconds: list[float] = []
        kept: list[float] = []
        for peak in peaks:
            second = _placed(self.energy, peak * _HOP / RATE)
            if not seconds or second - seconds[-1] > _NEAR_S:
                seconds.append(second)
                kept.append(min(1.0, float(self.novelty[peak]) / strong))
        times, strength = np.array(seconds), np.array(kept)
        speaks, fresh = _speaks(self.samples, times, self.pitches, self.go_on, self._cache)
        rise = _rise(self.energy, times)
        real = (fresh >= _FRESH) | (rise >= _FALLS)
        if closely is not None and len(times):
            due = np.abs(times[:, None] - closely[None, :]).min(axis=1, initial=np.inf) <= _CLOSE_S
            real |= due & (strength >= _STRUCK_AGAIN)
        times = times[real]
        loud, click = _loudness(self.samples, times), _clicks(self.samples, times)
        return Onsets(times, strength[real], loud, speaks[real], self.pitches, rise[real], click)


def onsets(samples: Samples, pitches: Sequence[int], go_on: Progress = lambda share: True) -> Onsets:
    """The onsets of a recording at RATE."""
    return Hearing(samples, pitches, go_on).onsets()


def _novelty(samples: _Levelled, go_on: Progress) -> Floats:
    """[frames]: the detection function (spectral flux against a maximum-filtered spectrum, after Böck and Widmer 2013), a value
    a hop; frame n is centred on sample n * hop."""
    filters = _filters()
    count = len(samples) // _HOP + 1
    window = np.hanning(_WINDOW)
    rise = np.zeros(count)
    before = np.zeros(
        (0, filters.shape[1])
    )  # the last frames of the piece before, so that a long take takes no more room
    for start in range(0, count, _CHUNK_FRAMES):
        if not go_on(0.6 * start / count):
            raise Cancelled
        frames = min(_CHUNK_FRAMES, count - start)
        piece = samples.piece(start * _HOP - _WINDOW // 2, (frames - 1) * _HOP + _WINDOW)
        view = np.lib.stride_tricks.sliding_window_view(piece, _WINDOW)[::_HOP]
        part = np.abs(np.fft.rfft(view * window, axis=1)) / _WINDOW
        bands = np.concatenate([before, np.log10(1.0 + _GAIN * part @ filters)])
        wide = maximum_filter1d(bands, 3, axis=1)
        risen = np.maximum(0.0, bands[_LAG:] - wide[:-_LAG]).mean(axis=1)
        rise[start + frames - len(risen) : start + frames] = risen
        before = bands[-_LAG:]
    return rise


def _filters() -> Floats:
    """[bins, bands]: triangles evenly spaced on a logarithmic scale, none narrower than a bin."""
    bins = np.fft.rfftfreq(_WINDOW, 1 / RATE)
    count = int(np.log2(_HIGH_HZ / _LOW_HZ) * _BANDS_AN_OCTAVE) + 2
    edges = np.unique(np.round(_LOW_HZ * 2 ** (np.arange(count) / _BANDS_AN_OCTAVE) / bins[1]).astype(int))
    made = np.zeros((len(bins), len(edges) - 2))
    for n, (low, middle, high) in enumerate(zip(edges, edges[1:], edges[2:], strict=False)):
        made[low:middle, n] = np.linspace(0, 1, middle - low, endpoint=False)
        made[middle:high, n] = np.linspace(1, 0, high - middle, endpoint=False)
    return np.asarray(made / np.maximum(made.sum(axis=0), 1.0))


def _peaks(novelty: Floats, closely: Floats | None) -> tuple[np.ndarray, np.ndarray]:
    """(frames of peaks [peaks], which of them are only peaks because they were looked for closely [peaks]), of a detection
    function [frames]."""
    frames = RATE / _HOP
    near, far = int(_NEAR_S * frames), int(_MEAN_S * frames)
    highest = maximum_filter1d(novelty, 2 * near + 1)
    mean = uniform_filter1d(novelty, 2 * far + 1)
    middle = median_filter(novelty, 2 * far + 1)
    strong = float(np.percentile(novelty, 98)) if len(novelty) else 0.0
    floor = np.maximum(0.5 * (mean + middle) + _OVER * strong, _LEAST)
    lower = floor.copy()
    for second in () if closely is None else closely:
        at = slice(max(0, int((second - _CLOSE_S) * frames)), max(0, int((second + _CLOSE_S) * frames)) + 1)
        lower[at] = np.minimum(lower[at], np.maximum(_CLOSER * floor[at], _LEAST_CLOSELY))
    found = np.flatnonzero((novelty == highest) & (novelty > lower))
    return found, novelty[found] <= floor[found]


def _energy(samples: _Levelled) -> Floats:
    """[steps]: logarithm of the energy in short windows, a value a quarter of a millisecond, of what lies over the lowest
    octave."""
    step, size = int(_FINE_S * RATE / 6), int(_FINE_S * RATE)
    filters = butter(2, 150.0, "highpass", fs=RATE, output="sos")
    state = np.zeros((len(filters), 2))
    found, tail, at = [], np.zeros(size), 0  # `tail`: squares that the windows of the next piece reach back over
    while at < len(samples) + size:
        heard, state = sosfilt(filters, samples.piece(at, _CHUNK_STEPS * step), zi=state)
        squares = np.concatenate([tail, heard**2])
        whole = np.concatenate([[0.0], np.cumsum(squares)])
        ends = np.arange(size, len(squares), step)  # windows that end before these
        found.append((whole[ends] - whole[ends - size]) / size)
        tail, at = squares[len(squares) - size :], at + _CHUNK_STEPS * step
    smooth = np.concatenate(found)[size // 2 // step :][: -(-len(samples) // step)]
    del found
    np.maximum(smooth, 0.0, out=smooth)
    smooth += 1e-9
    np.log10(smooth, out=smooth)
    return np.asarray(smooth)


def _placed(energy: Floats, second: float) -> float:
    """Where the energy [steps] rises most around a peak of the detection function, in seconds."""
    per_s = RATE / int(_FINE_S * RATE / 6)
    lag = int(0.003 * per_s)
    low, high = max(0, int((second - _BACK_S) * per_s)), min(len(energy) - 2 * lag - 1, int((second + _ON_S) * per_s))
    if high <= low:
        return second
    window = energy[low : high + 2 * lag]
    rise = window[2 * lag :] - window[: -2 * lag]
    steep = int(np.argmax(rise >= _FIRST_RISE * float(rise.max())))
    steep += int(np.argmax(rise[steep : steep + lag]))
    # back from the steepest place to where the energy leaves what was before it
    before, after = window[steep], window[steep + 2 * lag]
    on_the_way = np.flatnonzero(window[steep : steep + 2 * lag] < before + _LEAVES * (after - before))
    return float((low + steep + (int(on_the_way[-1]) + 1 if len(on_the_way) else lag)) / per_s)


def _loudness(samples: _Levelled, seconds: Floats) -> Floats:
    """[onsets]: dB of the loudest stretch of 10 ms within the first 45 ms after each onset, less what sounded before it."""
    size, length = int(0.010 * RATE), int(_LOUD_S * RATE)
    reach = 3 * size
    found = []
    for second in seconds:
        at = int(second * RATE)
        square = uniform_filter1d(samples.piece(at - reach, reach + length + size) ** 2, size)
        before = float(square[reach - min(at, 2 * size) : reach - size // 2].mean()) if at > size // 2 else 0.0
        after = float(square[reach : reach + length].max(initial=0.0))
        found.append(10 * np.log10(max(after - 0.8 * before, 0.22 * after) + 1e-10))
    return np.array(found)


def _speaks(
    samples: _Levelled,
    seconds: Floats,
    pitches: Sequence[int],
    go_on: Progress,
    known: dict[tuple[float, float], tuple[Floats, float]],
) -> tuple[Floats, Floats]:
    """(how much of each pitch speaks after an onset and did not before, [onsets, pitches], the strongest pitch at 1; which share
    of what speaks most is new, [onsets]): partials of the spectrum."""
    if not len(seconds) or not pitches:
        return np.zeros((len(seconds), len(pitches))), np.ones(len(seconds))
    partials = np.arange(1, _PARTIALS + 1)
    hz = np.array([frequency_hz(p) for p in pitches])
    bins = np.round(hz[:, None] * partials * _FFT / RATE).astype(int)
    bins = np.minimum(bins, _FFT // 2 - 3)
    weight = 1.0 / partials**0.5
    found, fresh = np.zeros((len(seconds), len(pitches))), np.zeros(len(seconds))
    for n, second in enumerate(seconds):
        if n % 64 == 0 and not go_on(0.6 + 0.4 * n / len(seconds)):
            raise Cancelled
        room = float(np.clip(seconds[n + 1] - second if n + 1 < len(seconds) else 1.0, 0.03, _PITCH_S))
        if (second, room) in known:
            found[n], fresh[n] = known[second, room]
            continue
        length = int(room * RATE)
        at = int(second * RATE)
        after, before = _spectrum(samples, at + 100, length), _spectrum(samples, at - length - 100, length)
        sides = np.stack([after[bins + d] for d in (-2, -1, 0, 1, 2)]).max(axis=0)
        was = np.stack([before[bins + d] for d in (-2, -1, 0, 1, 2)]).max(axis=0)
        new = np.maximum(sides - was, 0.15 * sides)
        level = (np.log1p(200.0 * new) * weight).sum(axis=1)
        share = (np.maximum(sides - was, 0.0) * weight).sum(axis=1) / np.maximum((sides * weight).sum(axis=1), 1e-12)
        found[n], fresh[n] = level / max(float(level.max()), 1e-9), float(share[int(np.argmax(level))])
        known[second, room] = found[n], fresh[n]
    return found, fresh


def _rise(energy: Floats, seconds: Floats) -> Floats:
    """[onsets]: by how many dB the energy [steps] after each onset is over that before it."""
    per_s = RATE / int(_FINE_S * RATE / 6)
    found = []
    for second in seconds:
        at, back, on = int(second * per_s), int(0.022 * per_s), int(0.030 * per_s)
        before, after = energy[max(0, at - back) : max(1, at - back // 8)], energy[at : at + on]
        found.append(10 * float(after.mean() - before.mean()) if len(after) and len(before) else 0.0)
    return np.array(found)


def _clicks(samples: _Levelled, seconds: Floats) -> Floats:
    """[onsets]: that rise for what lies so high that only a pick or a finger makes it."""
    filters = butter(4, _CLICK_HZ, "highpass", fs=RATE, output="sos")
    before, after, size = int(_CLICK_BEFORE_S * RATE), int(_CLICK_AFTER_S * RATE), int(_FINE_S * RATE)
    near = before // 8
    found = []
    for second in seconds:
        heard = sosfilt(filters, samples.piece(int(second * RATE) - 2 * before, 2 * before + after))[before:]
        level = np.log10(uniform_filter1d(heard**2, size) + 1e-9)
        found.append(10 * float(level[before:].mean() - level[: before - near].mean()))
    return np.array(found)


def _spectrum(samples: _Levelled, start: int, length: int) -> Floats:
    """[bins]: magnitudes of so many samples under a Hann window."""
    part = samples.part(start, start + length)
    if len(part) < 32:
        return np.zeros(_FFT // 2 + 1)
    return np.abs(np.fft.rfft(part * np.hanning(len(part)), _FFT)) / len(part)

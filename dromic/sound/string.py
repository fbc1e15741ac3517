"""A plucked string: a burst of noise going round a delay line, a little duller and softer each time.

Sources: K. Karplus and A. Strong, Digital Synthesis of Plucked-String and Drum Timbres, Computer Music Journal 7(2),
1983; D. Jaffe and J. Smith, Extensions of the Karplus-Strong Plucked-String Algorithm, in the same issue (tuning by a
fractional delay, the pick's place as a comb).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float64]
_SIXTY_DB = 1000.0
_LEAST_PERIOD = 4


def pluck(
    hz: float, length: int, rate: int, decay_s: float, bright: float, softness: float, pluck_at: float, seed: int
) -> Samples:
    """So many samples of a string at a frequency in Hz.

    `decay_s` is the time to fall by 60 dB; `bright` (0..1) how little each pass dulls; `softness` (0..1] how dull the
    pluck itself is; `pluck_at` its place as a share of the string; the same `seed` gives the same sound.
    """
    period = rate / hz
    # a two-tap average delays by its second weight; the rest of the period is whole samples and a fraction
    smooth = 0.5 * (1.0 - bright)
    whole = max(_LEAST_PERIOD, int(period - smooth - 1e-9))
    fraction = period - smooth - whole
    gain = _SIXTY_DB ** (-1.0 / max(decay_s * hz, 1e-3))
    taps = gain * np.convolve([1.0 - smooth, smooth], [1.0 - fraction, fraction])
    burst = _burst(whole, softness, pluck_at, seed)
    out = np.zeros(max(length, whole) + whole + 3)
    lead = len(taps) - 1
    out[lead : lead + whole] = burst
    # every sample is three of one period before; a whole period at a time depends only on what is done
    at = lead + whole
    end = lead + max(length, whole)
    while at < end:
        size = min(whole, end - at)
        back = at - whole
        block = taps[0] * out[back : back + size]
        for n in range(1, len(taps)):
            block += taps[n] * out[back - n : back - n + size]
        out[at : at + size] = block
        at += size
    return np.asarray(out[lead : lead + length])


def _burst(size: int, softness: float, pluck_at: float, seed: int) -> Samples:
    """One period of noise, dulled, with the notch of the pick's place, of even loudness."""
    noise = np.random.default_rng(seed).uniform(-1.0, 1.0, size)
    spectrum = np.fft.rfft(noise)
    partial = np.arange(len(spectrum))
    spectrum *= np.abs(np.sin(np.pi * partial * pluck_at)) / (1.0 + (partial * softness / 6.0) ** 2)
    spectrum[0] = 0.0
    burst = np.fft.irfft(spectrum, size)
    level = np.sqrt(np.mean(burst**2))
    return np.asarray(burst / level * 0.2 if level else burst)


def warped(sound: Samples, semitones: Samples) -> Samples:
    """A sound whose pitch moves: `semitones` off at each sample of what comes out."""
    place = np.concatenate([[0.0], np.cumsum(2.0 ** (semitones[:-1] / 12.0))])
    return np.asarray(np.interp(place, np.arange(len(sound)), sound, right=0.0))

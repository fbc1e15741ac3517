"""What a microphone hears of the loudspeaker. The way from the one to the other is learned from a stretch in which only the
loudspeaker sounds, as the filter of least squares (the Wiener-Hopf equations, solved by Levinson's recursion: S. Haykin,
Adaptive Filter Theory, 2014, chapters 2 and 3), and what it makes of the rest is taken off."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.linalg import solve_toeplitz
from scipy.signal import fftconvolve

from dromic.sound.string import Samples

_FLOOR = 1e-4
"""of what is played: noise that is counted as played too, so that frequencies in which there is nothing tell nothing"""
_EXPLAINS = 0.2
"""share of what is heard that must come from the loudspeaker, or there is no way between them"""


@dataclass(frozen=True)
class Bleed:
    """The way from loudspeaker to microphone: its impulse response, sample by sample."""

    way: Samples

    def without(self, recorded: Samples, played: Samples) -> Samples:
        """A recording with what bled into it taken off. `played` begins as much earlier as the way is long, less one sample."""
        lead = len(self.way) - 1
        return np.asarray(recorded - fftconvolve(played, self.way)[lead : lead + len(recorded)])


def learned(recorded: Samples, played: Samples, length: int) -> Bleed | None:
    """The way of so many samples, from what was recorded while only `played` sounded, both from the same sample on; None where
    nothing of it is heard."""
    size = 1 << (len(recorded) + length - 1).bit_length()
    sent, came = np.fft.rfft(played, size), np.fft.rfft(recorded, size)
    own, across = (np.fft.irfft(one * np.conj(sent), size)[:length] for one in (sent, came))
    if not own[0] or not float((recorded**2).sum()):
        return None
    own[0] *= 1.0 + _FLOOR
    way = solve_toeplitz(own, across)
    left = recorded - fftconvolve(played, way)[: len(recorded)]
    explained = 1.0 - float((left**2).sum()) / float((recorded**2).sum())
    return Bleed(way) if explained > _EXPLAINS else None

"""What a microphone hears of the loudspeaker. The way from the one to the other is learned from a stretch in which only the
loudspeaker sounds, as a filter by regularised division of spectra (deconvolution: A. V. Oppenheim and R. W. Schafer,
Discrete-Time Signal Processing, 2010, chapter 8), and what it makes of the rest is taken off."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.signal import fftconvolve

from dromic.sound.string import Samples

_FLOOR = 1e-3
"""of the strongest frequency's power: those weaker tell nothing of the way"""
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
    power = np.abs(sent) ** 2
    if not power.max(initial=0.0) or not float((recorded**2).sum()):
        return None
    way = np.fft.irfft(came * np.conj(sent) / (power + _FLOOR * power.max()), size)[:length]
    left = recorded - fftconvolve(played, way)[: len(recorded)]
    explained = 1.0 - float((left**2).sum()) / float((recorded**2).sum())
    return Bleed(way) if explained > _EXPLAINS else None

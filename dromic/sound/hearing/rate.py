"""Brings sound to the rate that is heard at, whole or block by block."""

from __future__ import annotations

import numpy as np
from scipy.signal import resample_poly

from dromic.sound.string import Samples

RATE = 44100
"""samples a second that everything here is heard at"""
_HALF = 10
"""samples of the slower rate on either side that a sample is made of: half the length of the filter of `resample_poly`"""


def at_rate(samples: Samples, rate: int) -> Samples:
    """The same sound at the rate that is heard at."""
    if rate == RATE:
        return samples
    divisor = int(np.gcd(RATE, rate))
    return np.asarray(resample_poly(samples, RATE // divisor, rate // divisor))


class Resampler:
    """The same for sound that comes in blocks [frames, channels]: what all of them give is what the whole gives."""

    def __init__(self, rate: int, channels: int) -> None:
        divisor = int(np.gcd(RATE, rate))
        self._up, self._down = RATE // divisor, rate // divisor
        beside = -(-_HALF * max(self._up, self._down) // self._up)
        self._pad = -(-beside // self._down) * self._down
        """frames on either side of a block, so many that they are whole frames at both rates"""
        self._held: Samples = np.zeros((self._pad, channels), np.float32)

    def feed(self, block: Samples) -> Samples:
        """What can be said once this much is there."""
        if self._up == self._down:
            return block
        self._held = np.concatenate([self._held, block])
        ready = (len(self._held) - 2 * self._pad) // self._down * self._down
        if ready <= 0:
            return self._held[:0]
        out = self._resampled(self._held[: ready + 2 * self._pad], ready)
        self._held = self._held[ready:]
        return out

    def end(self) -> Samples:
        """The rest."""
        left = len(self._held) - self._pad
        if self._up == self._down or left <= 0:
            return self._held[:0]
        return self._resampled(np.concatenate([self._held, np.zeros_like(self._held[: self._pad])]), left)

    def _resampled(self, held: Samples, frames: int) -> Samples:
        first = self._pad * self._up // self._down
        out = resample_poly(held, self._up, self._down, axis=0)
        return np.asarray(out[first : first - (-frames * self._up // self._down)], np.float32)

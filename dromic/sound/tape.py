"""Sound as it waits to be played: 16 bits a sample, put down piece by piece while its front is already heard."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

from dromic.core.values.progress import Cancelled, Progress
from dromic.sound.string import Samples

_FULL = 32767
AHEAD_S = 3.0
"""what is put down before the front is played; the rest comes many times faster than it is heard"""


class Tape:
    """`length` samples of one channel, `rate` a second; those not put down yet are silent."""

    def __init__(self, length: int, rate: int, pieces: Iterable[Samples]) -> None:
        self.rate = rate
        self.data: NDArray[np.int16] = np.zeros(length, dtype="<i2")
        self._pieces: Iterator[Samples] = iter(pieces)
        self._done = 0

    def __len__(self) -> int:
        return len(self.data)

    @property
    def length_s(self) -> float:
        return len(self.data) / self.rate

    def put_down(self, go_on: Progress = lambda share: True, ahead_s: float | None = None) -> Tape:
        """Go on until so much lies ahead of where it was, or to the end; Cancelled where it may not go on."""
        upto = len(self.data) if ahead_s is None else min(len(self.data), self._done + round(ahead_s * self.rate))
        while self._done < upto:
            if not go_on(self._done / len(self.data)):
                raise Cancelled
            piece = next(self._pieces, None)
            if piece is None:  # they were fewer than was thought; the rest is silent
                self._done = len(self.data)
                break
            piece = piece[: len(self.data) - self._done]
            self.data[self._done : self._done + len(piece)] = np.clip(piece, -1.0, 1.0) * _FULL
            self._done += len(piece)
        return self

    def samples(self, numbers: NDArray[np.int64]) -> Samples:
        """What is heard at samples [n] counted from the front, round and round."""
        return np.asarray(self.data[numbers % len(self.data)] / _FULL)


def taped(samples: Samples, rate: int) -> Tape:
    """Samples at hand."""
    return Tape(len(samples), rate, [samples]).put_down()

"""Slower at the same pitch: overlapping pieces laid farther apart, each where it goes on best from the one before (W. Verhelst and
M. Roelands, An Overlap-Add Technique Based on Waveform Similarity, ICASSP 1993)."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from dromic.sound.string import Samples

_PIECE_S = 0.046
"""Seconds of an overlapping piece."""
_SEARCH_S = 0.012
"""Seconds in which the best fit of the next is looked for."""


def slowed(samples: Samples, rate: int, share: float) -> Iterator[Samples]:
    """The sound at a share of its speed (0 < share), its pitch kept, piece by piece; together they are at least as long as it is
    then, or end in silence."""
    size = int(_PIECE_S * rate) // 2 * 2
    if abs(share - 1.0) < 1e-3 or len(samples) < 2 * size:
        yield from (samples[at : at + rate] for at in range(0, len(samples), rate))
        return
    hop, search = size // 2, int(_SEARCH_S * rate)
    window = np.hanning(size + 1)[:-1]
    padded = np.concatenate([np.zeros(search), samples, np.zeros(size + 2 * search + hop)])
    fading = np.zeros(hop)
    """what the last piece leaves to be added to"""
    last = search
    for number in range(int(len(samples) / share / hop) + 1):
        wanted = search + int(number * hop * share)
        if wanted + size + search >= len(padded):
            return
        at = wanted
        if number:
            onward = padded[last + hop : last + hop + size]
            around = padded[wanted - search : wanted + search + size]
            likeness = np.correlate(around, onward, mode="valid") if len(onward) == size else np.zeros(1)
            at = wanted - search + int(np.argmax(likeness))
        piece = window * padded[at : at + size]
        yield fading + piece[:hop]
        fading, last = piece[hop:], at

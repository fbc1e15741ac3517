"""Slower at the same pitch: overlapping pieces laid farther apart, each where it goes on best from the one before (W. Verhelst and
M. Roelands, An Overlap-Add Technique Based on Waveform Similarity, ICASSP 1993)."""

from __future__ import annotations

import numpy as np

from dromic.sound.string import Samples

_PIECE_S, _SEARCH_S = 0.046, 0.012


def slowed(samples: Samples, rate: int, share: float) -> Samples:
    """The sound at a share of its speed (0 < share), its pitch kept."""
    if abs(share - 1.0) < 1e-3 or len(samples) < 4 * int(_PIECE_S * rate):
        return samples
    size = int(_PIECE_S * rate) // 2 * 2
    hop, search = size // 2, int(_SEARCH_S * rate)
    window = np.hanning(size + 1)[:-1]
    count = int(len(samples) / share / hop)
    padded = np.concatenate([np.zeros(search), samples, np.zeros(size + 2 * search + hop)])
    out = np.zeros(count * hop + size)
    last = search
    for number in range(count):
        wanted = search + int(number * hop * share)
        if wanted + size + search >= len(padded):
            break
        at = wanted
        if number:
            onward = padded[last + hop : last + hop + size]
            around = padded[wanted - search : wanted + search + size]
            likeness = np.correlate(around, onward, mode="valid") if len(onward) == size else np.zeros(1)
            at = wanted - search + int(np.argmax(likeness))
        out[number * hop : number * hop + size] += window * padded[at : at + size]
        last = at
    return np.asarray(out[: int(len(samples) / share)])

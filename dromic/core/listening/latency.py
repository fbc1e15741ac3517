"""The latency from playing to hearing: how long after a click goes out the input hears it, or hears the player clap with it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.core.setup.listen_settings import LatencyNumbers
from dromic.core.values.errors import DromicError


@dataclass(frozen=True, slots=True)
class Latency:
    """How long it is and how sure that is (twice the standard error of the median), in seconds; how many clicks were heard, of
    how many."""

    seconds: float
    sure_s: float
    heard: int
    of: int


def latency_of(clicks_s: Sequence[float], onsets_s: Sequence[float], numbers: LatencyNumbers) -> Latency:
    """Latency from clicks that went out and onsets that were heard, both in seconds. `numbers` are those of [latency] in listen.toml.

    The latency is the median over the clicks that agree. The standard error of a median of n normal values is 1.253 of their deviation
    over the root of n (asymptotic efficiency of the median). DromicError where too few clicks agree.
    """
    clicks, onsets = np.asarray(clicks_s, dtype=float), np.asarray(onsets_s, dtype=float)
    apart = onsets[None, :] - clicks[:, None]
    likely = np.where((apart >= numbers.least_s) & (apart <= numbers.most_s), apart, np.nan)
    every = np.sort(likely[~np.isnan(likely)])
    need = int(np.ceil(numbers.need * len(clicks)))
    if not len(every):
        raise DromicError("no click was heard; turn the sound up, lay the microphone near it, or clap along")
    agree = [int((np.abs(every - one) <= numbers.agree_s).sum()) for one in every]
    middle = float(every[int(np.argmax(agree))])
    nearest = np.full(likely.shape[0], np.nan)
    for row, values in enumerate(likely):
        if not np.isnan(values).all():
            nearest[row] = values[int(np.nanargmin(np.abs(values - middle)))]
    kept = nearest[np.abs(nearest - middle) <= numbers.agree_s]
    if len(kept) < need:
        raise DromicError(
            f"only {len(kept)} of {len(clicks)} clicks agree; try again, evenly and with nothing else sounding"
        )
    found = float(np.median(kept))
    spread = 1.4826 * float(np.median(np.abs(kept - found)))
    return Latency(found, 2 * 1.253 * spread / len(kept) ** 0.5, len(kept), len(clicks))

"""The loudspeaker's echo in a microphone. Its impulse response is learned from a stretch in which only the loudspeaker sounds, as the
filter of least squares (the Wiener-Hopf equations: S. Haykin, Adaptive Filter Theory, 2014, chapter 2;
solved by conjugate gradients with T. Chan's circulant preconditioner: R. Chan, M. Ng, Conjugate gradient methods for Toeplitz systems,
SIAM Review 38, 1996). The echo it predicts is subtracted from the rest, wherever it came."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from scipy.ndimage import uniform_filter1d
from scipy.signal import fftconvolve
from scipy.sparse.linalg import LinearOperator, cg

from dromic.sound.hearing.following import NEAR, PIECE, energies, lateness, shifted
from dromic.sound.string import Samples

_FLOOR = 1e-6
"""Regularisation: white noise added to what is played, as a share of its energy, where a band is silent."""
_EXPLAINS = 0.2
"""Share of what is heard that the filter must explain, or there is no path from the loudspeaker."""
_PLENTY = 0.99
"""Share from which on a known filter need not be learned anew."""
_WORSE = 2.0
"""Times the residual of one learned anew that a known filter may leave."""
_AROUND = 4
"""Half-blocks searched on either side of a suspected sample loss."""
_ROUNDS = 10
"""Rounds at most: filter and delay are learned from one another in turn."""
_SETTLED = 0.05
"""Samples by which the delay may still move when it has converged."""
_STEPS = 30
"""Conjugate-gradient steps towards each filter."""
_LOSS = 32
"""Samples from one block's shift to the next from which on sound was lost between them."""
_FIRM = 4
"""Blocks with sound from which on a line is fitted through the shifts between two losses."""
_MOMENT = 512
"""Samples of a moment of which the energy is told."""
_BEFORE = 0.1
"""Share of the impulse response that lies before its peak."""


class Residual(NamedTuple):
    """A recording with the loudspeaker's echo subtracted."""

    samples: Samples
    """the recording without the echo"""
    late: int
    """samples by which the echo had moved at the end of the recording"""
    lost: int
    """samples lost or repeated by the devices on the way"""
    explained: float
    """share of the recording's energy that the echo was"""
    off: float
    """energy of the loudest moment that was subtracted"""


@dataclass(frozen=True)
class Bleed:
    """An echo path from loudspeaker to microphone."""

    way: Samples
    """impulse response [samples]"""
    delay: int
    """latency: samples from playing to the loudest of what is heard; beside noise the response's own peak is not to be trusted"""

    def without(self, recorded: Samples, played: Samples) -> Residual:
        """A recording [samples] with the echo of what was `played` subtracted, wherever it came in reach. `played` begins earlier by
        the length of the response, less one sample."""
        lead = len(self.way) - 1
        came = fftconvolve(played, self.way)[lead : lead + len(recorded)]
        late = lateness(recorded, came)
        left = recorded - shifted(came, late)
        changes = np.abs(np.diff(late, prepend=0.0))
        losses = changes > NEAR + 1
        for lost in np.flatnonzero(losses[1:]):
            part = slice(max(0, (lost - _AROUND) * PIECE // 2), (lost + _AROUND) * PIECE // 2)
            before, after = ((recorded - shifted(came, np.full(len(late), by)))[part] for by in late[lost : lost + 2])
            left[part] = _joined(before, recorded[part], after, max(0, round(late[lost + 1] - late[lost])))
        explained = _explained(left, recorded)
        if explained <= 0:
            return Residual(recorded, 0, 0, 0.0, 0.0)
        return Residual(left, round(late[-1]), round(changes[losses].sum()), explained, loudest_moment(came))


class Learned(NamedTuple):
    """An echo path as it was learned."""

    bleed: Bleed
    late: int
    """samples by which the echo came later at the end than `played` has it"""
    explained: float
    """share of the recording's energy that the echo was"""


def learned(recorded: Samples, played: Samples, length: int) -> Learned | None:
    """The echo path with a response of `length` samples, from what was recorded while only `played` sounded; both begin at the same
    sample, give or take `length`. None where no echo is heard."""
    recorded, played = (np.pad(one, (length, 0)) for one in (recorded, played))  # so that it may come earlier
    size = 1 << (len(recorded) + 2 * length).bit_length()
    whole, heard = float((played**2).sum()), float((recorded**2).sum())
    if not whole or not heard:
        return None
    across = np.fft.irfft(np.fft.rfft(recorded, size) * np.conj(np.fft.rfft(played, size)), size)
    across = np.concatenate([across[-length:], across[: length + 1]])
    loudest = int(np.abs(across).argmax())
    front = loudest - length - round(_BEFORE * length)
    delay = loudest - length - front
    sent, late, way, explained = _moved(played, front), np.zeros(1), np.zeros(length), 0.0
    way[delay] = across[loudest] / whole  # the loudest alone, to begin with
    for n in range(_ROUNDS):
        came, before = fftconvolve(sent, way)[: len(recorded)], late
        late = _in_runs(lateness(recorded, came), energies(came), steady=n == 0)
        there = shifted(sent, late)
        way = _least_squares(recorded, there, length)
        explained = _explained(recorded - fftconvolve(there, way)[: len(recorded)], recorded)
        if explained < _EXPLAINS:
            return None
        if n and np.abs(late - before).max() < _SETTLED:
            break
    return Learned(Bleed(way, delay), front + round(late[-1]), explained)


def _in_runs(late: Samples, loud: Samples, steady: bool) -> Samples:
    """Shifts made lines between losses, by the pieces that sound. They are level lines as long as the way is not known: until then
    clicks of another pitch seem to come at another time."""
    cuts = [0, *(np.flatnonzero(np.abs(np.diff(late)) > _LOSS) + 1), len(late)]
    lines = []
    for low, high in pairwise(cuts):
        weights = np.sqrt(loud[low:high])
        if steady or np.count_nonzero(weights) < _FIRM:
            lines.append(np.full(high - low, np.round(np.median(late[low:high]))))
        else:
            at = np.arange(high - low)
            lines.append(np.polyval(np.polyfit(at, late[low:high], 1, w=weights), at))
    return np.concatenate(lines)


def counted_in(recorded: Samples, played: Samples, length: int, known: Bleed | None) -> tuple[Bleed | None, int]:
    """The way after another bar was counted in, and how many samples later the front of what is played was: the known one or, where it
    leaves twice as much as one learned anew, that. `played` begins as much earlier as the way is long, less one sample."""
    left = known.without(recorded, played) if known is not None else None
    if left is not None and left.explained > _PLENTY:
        return known, left.late
    anew = learned(recorded, played[length - 1 :], length)
    if anew is None:
        return known, 0
    if left is not None and 1.0 - left.explained < _WORSE * (1.0 - anew.explained):
        return known, left.late
    return anew.bleed, anew.late


def _least_squares(recorded: Samples, sent: Samples, length: int) -> Samples:
    """The way that leaves least of what was recorded, by conjugate gradients with a circulant preconditioner."""
    size = 1 << (len(recorded) + length - 1).bit_length()
    there, came = np.fft.rfft(sent, size), np.fft.rfft(recorded, size)
    own, across = (np.fft.irfft(one * np.conj(there), size)[:length] for one in (there, came))
    own[0] *= 1.0 + _FLOOR
    turned = np.concatenate([[0.0], own[:0:-1]])
    round_ = np.fft.rfft(np.concatenate([own, turned]))
    share = np.arange(length) / length
    near = np.maximum(np.fft.rfft((1 - share) * own + share * turned).real, _FLOOR * own[0])

    def times(way: Samples) -> Samples:
        return np.asarray(np.fft.irfft(round_ * np.fft.rfft(way, 2 * length), 2 * length)[:length])

    def about(way: Samples) -> Samples:
        return np.asarray(np.fft.irfft(np.fft.rfft(way) / near, length))

    product, guess = (LinearOperator((length, length), one, dtype=np.float64) for one in (times, about))
    return np.asarray(cg(product, across, maxiter=_STEPS, M=guess)[0])


def _moved(sound: Samples, by: int) -> Samples:
    """The same so many samples later, cut to its length."""
    if by < 0:
        return np.concatenate([sound[-by:], np.zeros(min(-by, len(sound)))])
    return np.concatenate([np.zeros(min(by, len(sound))), sound[: max(0, len(sound) - by)]])


def loudest_moment(sound: Samples) -> float:
    """The root mean square of the loudest some milliseconds: a spike of a few samples is nothing that was played."""
    if not len(sound):
        return 0.0
    return float(np.sqrt(max(0.0, float(uniform_filter1d(sound**2, _MOMENT, mode="constant").max()))))


def _explained(left: Samples, recorded: Samples) -> float:
    whole = float((recorded**2).sum())
    return 1.0 - float((left**2).sum()) / whole if whole else 0.0


def _joined(before: Samples, none: Samples, after: Samples, gap: int) -> Samples:
    """What is left before a loss, nothing taken off in a gap of so many samples, and what is left after it, cut where least is."""
    one, gone, other = (np.concatenate([[0.0], np.cumsum(left**2)]) for left in (before, none, after))
    begin = np.arange(max(1, len(before) - gap))
    end = np.minimum(begin + gap, len(before))
    at = int(np.argmin(one[begin] + gone[end] - gone[begin] - other[end]))
    return np.concatenate([before[:at], none[at : at + gap], after[at + gap :]])

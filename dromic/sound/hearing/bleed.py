"""What a microphone hears of the loudspeaker. The way from the one to the other is learned from a stretch in which only the
loudspeaker sounds, as the filter of least squares (the Wiener-Hopf equations, solved by Levinson's recursion: S. Haykin,
Adaptive Filter Theory, 2014, chapters 2 and 3), and what it makes of the rest is taken off.

Two devices have two clocks, and a busy machine loses samples: a tenth of a millisecond undoes it. So what is played is followed
piece by piece, and shifted to where the microphone heard it, by dynamic programming over the shifts."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import solve_toeplitz
from scipy.ndimage import maximum_filter1d
from scipy.signal import fftconvolve

from dromic.sound.string import Samples

_FLOOR = 1e-6
"""of what is played: noise that is counted as played too, so that frequencies in which there is nothing tell nothing"""
EXPLAINS = 0.2
"""share of what is heard that must come from the loudspeaker, or there is no way between them"""
_PIECE = 4096
"""samples that are shifted as one, half of which are the next piece's too: a few of a click, so that a loss is found where it is"""
_REACH = 2048
"""samples that what was played may have moved at once, either way"""
_NEAR = 2
"""samples that two clocks may part by from piece to piece"""
_AROUND = 4
"""halves of pieces round about a loss in which it may have been"""
_PART, _JUMP = 0.01, 0.3
"""what a parting of clocks and a loss must each be worth, in energy, of the loudest piece"""


class Left(NamedTuple):
    """What is left of a recording, how many samples later than it was looked for what bled into it came at its end, and the share of
    the recording's energy that it was."""

    samples: Samples
    late: int
    explained: float


@dataclass(frozen=True)
class Bleed:
    """The way from loudspeaker to microphone: its impulse response, sample by sample."""

    way: Samples

    @property
    def delay(self) -> int:
        """How many samples later what is played is heard."""
        return int(np.abs(self.way).argmax())

    def without(self, recorded: Samples, played: Samples) -> Left:
        """A recording with what bled into it taken off, wherever it came within reach. `played` begins as much earlier as the way is
        long, less one sample."""
        lead = len(self.way) - 1
        came = fftconvolve(played, self.way)[lead : lead + len(recorded)]
        late = _late(recorded, came)
        left = recorded - _shifted(came, late)
        for lost in np.flatnonzero(np.abs(np.diff(late)) > _NEAR + 1):
            part = slice(max(0, (lost - _AROUND) * _PIECE // 2), (lost + _AROUND) * _PIECE // 2)
            before, after = ((recorded - _shifted(came, np.full(len(late), by)))[part] for by in late[lost : lost + 2])
            left[part] = _joined(before, recorded[part], after, max(0, round(late[lost + 1] - late[lost])))
        explained = _explained(left, recorded)
        return Left(left, round(late[-1]), explained) if explained > 0 else Left(recorded, 0, 0.0)


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
    return Bleed(way) if _explained(left, recorded) > EXPLAINS else None


def _explained(left: Samples, recorded: Samples) -> float:
    whole = float((recorded**2).sum())
    return 1.0 - float((left**2).sum()) / whole if whole else 0.0


def _windows(length: int) -> tuple[NDArray[np.int64], Samples]:
    """Where pieces begin that cover so many samples twice, the first of them half outside, and what each takes of them: at every
    sample the two shares come to one."""
    half = _PIECE // 2
    return np.arange(-half, length, half), np.sin(np.pi * (np.arange(_PIECE) + 0.5) / _PIECE) ** 2


def _joined(before: Samples, none: Samples, after: Samples, gap: int) -> Samples:
    """What is left before a loss, nothing taken off in a gap of so many samples, and what is left after it, cut where least is."""
    one, gone, other = (np.concatenate([[0.0], np.cumsum(left**2)]) for left in (before, none, after))
    begin = np.arange(max(1, len(before) - gap))
    end = np.minimum(begin + gap, len(before))
    at = int(np.argmin(one[begin] + gone[end] - gone[begin] - other[end]))
    return np.concatenate([before[:at], none[at : at + gap], after[at + gap :]])


def _late(recorded: Samples, came: Samples) -> Samples:
    """How much later than looked for each piece of what came was heard, in samples and parts of them."""
    begins, window = _windows(len(came))
    room = _PIECE // 2 + _REACH
    heard, looked_for = (np.pad(one, (room, room + _PIECE)) for one in (recorded, came))
    size = 1 << (2 * _PIECE + 2 * _REACH).bit_length()
    gains = np.empty((len(begins), 2 * _REACH + 1))
    energies = np.empty(len(begins))
    for n, begin in enumerate(begins + room):
        piece = looked_for[begin : begin + _PIECE] * window
        around = heard[begin - _REACH : begin + _PIECE + _REACH]
        energies[n] = float((piece**2).sum())
        across = np.fft.irfft(np.fft.rfft(around, size) * np.conj(np.fft.rfft(piece, size)), size)[: 2 * _REACH + 1]
        gains[n] = 2 * across - energies[n]
    return _path(gains, float(energies.max(initial=0.0)))


def _path(gains: Samples, loudest: float) -> Samples:
    """The shifts, from -_REACH on, that take off most, where a change costs; before the first piece there is none."""
    part, jump = _PART * loudest, _JUMP * loudest
    best = np.full(2 * _REACH + 1, -jump)
    best[_REACH - _NEAR : _REACH + _NEAR + 1] = -part
    best[_REACH] = 0.0
    kept = []
    for gain in gains:
        now = best + gain
        kept.append(now)
        best = np.maximum(now, np.maximum(maximum_filter1d(now, 2 * _NEAR + 1) - part, now.max() - jump))
    at = int(kept[-1].argmax())
    found = [at]
    for now in kept[-2::-1]:
        low = max(0, at - _NEAR)
        near = low + int(now[low : at + _NEAR + 1].argmax())
        costs = ((now[at], at), (now[near] - part, near), (now.max() - jump, int(now.argmax())))
        at = max(costs, key=lambda c: float(c[0]))[1]
        found.append(at)
    return np.array([_peak(gain, at) for gain, at in zip(gains, found[::-1], strict=True)]) - _REACH


def _peak(gain: Samples, at: int) -> float:
    """The top of the parabola through the best shift and its neighbours."""
    if not 0 < at < len(gain) - 1:
        return float(at)
    before, here, after = gain[at - 1 : at + 2]
    bent = before - 2 * here + after
    return at + (float(np.clip(0.5 * (before - after) / bent, -0.5, 0.5)) if bent < 0 else 0.0)


def _shifted(came: Samples, late: Samples) -> Samples:
    """All pieces laid where they were heard."""
    begins, window = _windows(len(came))
    room = _PIECE // 2 + _REACH + 1
    source, out = np.pad(came, (room, room + _PIECE)), np.zeros(len(came) + 2 * room + _PIECE)
    for begin, by in zip(begins + room, late, strict=True):
        whole, share = int(np.floor(by)), by - np.floor(by)
        piece = source[begin : begin + _PIECE] * window
        out[begin + whole : begin + whole + _PIECE] += (1.0 - share) * piece
        out[begin + whole + 1 : begin + whole + 1 + _PIECE] += share * piece
    return out[room : room + len(came)]

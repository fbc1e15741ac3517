"""The delay of a known sound in a recording, block by block. Two devices have two clocks, and a busy machine loses samples: the delays
of all blocks are found together, by the Viterbi algorithm."""

from __future__ import annotations

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d
from scipy.signal import welch

from dromic.sound.string import Samples

PIECE = 4096
"""Samples of a block; blocks overlap by half. A few to a click, so that a loss is found where it is."""
_REACH = 6144
"""Largest delay searched, samples either way."""
NEAR = 2
"""Largest drift of two clocks from block to block, samples."""
_PART = 0.01
"""Price of a small change of the shift, as when clocks drift, as a share of the loudest block's energy."""
_JUMP = 1.0
"""Price of a loss: a click found elsewhere is worth two of these, a note beside it seldom one."""
_BAND = 2048
"""Samples of the spectrum by which frequencies are weighed."""
_FLOOR = 3e-3
"""Share of the loudest frequency that counts as there everywhere."""
_SOUNDS = 1e-4
"""Share of the loudest block's energy under which a block tells no delay."""


def lateness(recorded: Samples, came: Samples) -> Samples:
    """[pieces] the delay of each block of a known sound in a recording, in samples and parts of them."""
    recorded, came = _evened(recorded, came)
    begins, window = _windows(len(came))
    room = PIECE // 2 + _REACH
    heard, looked_for = (np.pad(one, (room, room + PIECE)) for one in (recorded, came))
    size = 1 << (2 * PIECE + 2 * _REACH).bit_length()
    loud = energies(came)
    loudest = float(loud.max(initial=0.0))
    gains = np.zeros((len(begins), 2 * _REACH + 1))
    for n in np.flatnonzero(loud > _SOUNDS * loudest):
        begin = begins[n] + room
        around = heard[begin - _REACH : begin + PIECE + _REACH]
        piece = np.fft.rfft(looked_for[begin : begin + PIECE] * window, size)
        across = np.fft.irfft(np.fft.rfft(around, size) * np.conj(piece), size)[: 2 * _REACH + 1]
        gains[n] = 2 * across - loud[n]
    return _path(gains, loudest)


def _evened(recorded: Samples, came: Samples) -> tuple[Samples, Samples]:
    """Both with the frequencies weighed down that are loud in the recording: what is played beside it is loud in few."""
    size = scipy.fft.next_fast_len(len(recorded), real=True)
    at, power = welch(recorded, nperseg=min(_BAND, len(recorded)))
    power = np.interp(np.linspace(0, at[-1], size // 2 + 1), at, power)
    weight = 1.0 / np.sqrt(power + _FLOOR * power.max() + 1e-30)
    return tuple(scipy.fft.irfft(scipy.fft.rfft(one, size) * weight, size)[: len(one)] for one in (recorded, came))


def shifted(came: Samples, late: Samples) -> Samples:
    """All pieces laid where they were heard."""
    begins, window = _windows(len(came))
    room = PIECE // 2 + _REACH + 1
    source, out = np.pad(came, (room, room + PIECE)), np.zeros(len(came) + 2 * room + PIECE)
    for begin, by in zip(begins + room, late, strict=True):
        whole, share = int(np.floor(by)), by - np.floor(by)
        piece = source[begin : begin + PIECE] * window
        out[begin + whole : begin + whole + PIECE] += (1.0 - share) * piece
        out[begin + whole + 1 : begin + whole + 1 + PIECE] += share * piece
    return out[room : room + len(came)]


def energies(came: Samples) -> Samples:
    """[pieces]: the energy of each piece."""
    begins, window = _windows(len(came))
    padded = np.pad(came, (PIECE // 2, PIECE))
    return np.array([float(((padded[at : at + PIECE] * window) ** 2).sum()) for at in begins + PIECE // 2])


def _windows(length: int) -> tuple[NDArray[np.int64], Samples]:
    """Where pieces [pieces] begin that cover so many samples twice, the first of them half outside, and what each takes of them
    [samples of a piece]: at every sample the two shares come to one."""
    half = PIECE // 2
    return np.arange(-half, length, half), np.sin(np.pi * (np.arange(PIECE) + 0.5) / PIECE) ** 2


def _path(gains: Samples, loudest: float) -> Samples:
    """Viterbi path over the blocks' delays [pieces], in samples: the one that removes most energy, with a penalty for each change. It
    begins at no delay."""
    part, jump = _PART * loudest, _JUMP * loudest
    best = np.full(2 * _REACH + 1, -jump)
    best[_REACH - NEAR : _REACH + NEAR + 1] = -part
    best[_REACH] = 0.0
    kept = []
    for gain in gains:
        now = best + gain
        kept.append(now)
        best = np.maximum(now, np.maximum(maximum_filter1d(now, 2 * NEAR + 1) - part, now.max() - jump))
    at = int(kept[-1].argmax())
    found = [at]
    for now in kept[-2::-1]:
        low = max(0, at - NEAR)
        near = low + int(now[low : at + NEAR + 1].argmax())
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

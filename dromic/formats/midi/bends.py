"""Bent notes as the pitch wheel has them, out and in.

Source: MIDI 1.0 Detailed Specification: pitch bend change, and registered parameter 0 (its range in semitones, 2 where
nothing is said).
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from fractions import Fraction

import mido

from dromic.core.music.phrase import Note

FULL = 8192
"""steps of the wheel from its middle to an end"""
RANGE = 12
"""semitones that files written state for the wheel"""
_USUAL_RANGE = 2
_STEPS = 8
"""wheel changes on the way up or down; a setting of ours"""
_LEAST = 0.4
"""semitones: less is vibrato or a note slightly out of tune, not a bend; a setting of ours"""
_HALF = 0.5
_MOST = 6.0


def range_messages(channel: int) -> list[mido.Message]:
    """What tells a channel the range of its wheel."""
    numbers = ((101, 0), (100, 0), (6, RANGE), (38, 0))
    return [mido.Message("control_change", channel=channel, control=c, value=v) for c, v in numbers]


def wheel_of(note: Note, onset: Fraction, channel: int) -> Iterator[tuple[Fraction, mido.Message]]:
    """(time, wheel change) of a bent note: up over its first third, let down over its last where it is released."""
    if "bend" not in note.marks or not note.bend:
        return
    third = note.duration / 3
    points: list[tuple[Fraction, float]] = []
    if "prebend" in note.marks:
        points.append((onset, note.bend))
    else:
        points += [(onset + third * n / _STEPS, note.bend * n / _STEPS) for n in range(_STEPS + 1)]
    if "release" in note.marks:
        points += [
            (onset + 2 * third + third * n / (_STEPS + 1), note.bend * (1 - n / _STEPS)) for n in range(1, _STEPS + 1)
        ]
    points.append((onset + note.duration, 0.0))
    for at, semitones in points:
        value = min(round(semitones / RANGE * FULL), FULL - 1)
        yield at, mido.Message("pitchwheel", channel=channel, pitch=value)


class Wheels:
    """The wheels of a track's channels while it is read: what each stood at, in semitones, from which tick on."""

    def __init__(self) -> None:
        self._range: dict[int, float] = {}
        self._parameter: dict[int, dict[int, int]] = {}
        self._moves: dict[int, list[tuple[int, float]]] = {}

    def take(self, message: mido.Message, now: int) -> None:
        """A message of the track at a tick; anything but a wheel's is passed over."""
        if message.type == "pitchwheel":
            semitones = message.pitch / FULL * self._range.get(message.channel, _USUAL_RANGE)
            self._moves.setdefault(message.channel, []).append((now, semitones))
        elif message.type == "control_change" and message.control in (100, 101):
            self._parameter.setdefault(message.channel, {})[message.control] = message.value
        elif message.type == "control_change" and message.control == 6:
            stated = message.value if self._parameter.get(message.channel) == {100: 0, 101: 0} else 0
            self._range[message.channel] = float(stated) or self._range.get(message.channel, _USUAL_RANGE)

    def bend_of(self, channel: int, start: int, end: int) -> tuple[float, frozenset[str]]:
        """How far a note is bent up between two ticks, in semitones, and its marks; 0 and none for one that is not."""
        moves = self._moves.get(channel)
        if not moves:
            return 0.0, frozenset()
        ticks = [at for at, _ in moves]
        first = bisect_right(ticks, start)
        stood = moves[first - 1][1] if first else 0.0
        inside = [value for at, value in moves[first:] if at < end]
        highest = max([stood, *inside])
        if highest < _LEAST:
            return 0.0, frozenset()
        marks = {"bend"}
        if stood >= highest - _LEAST:
            marks.add("prebend")
        if inside and inside[-1] <= highest - _LEAST:
            marks.add("release")
        return min(round(highest / _HALF) * _HALF, _MOST), frozenset(marks)

    def below(self, channel: int, start: int, end: int) -> bool:
        """Whether the wheel goes below the note's own pitch: dips, which no finger makes."""
        return any(value <= -_LEAST for at, value in self._moves.get(channel, ()) if start < at < end)

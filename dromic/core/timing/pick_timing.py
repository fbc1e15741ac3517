"""When events sound, which event is played before which, and how the swing of the picking hand stands to them.

At speed the picking hand is an oscillator: it swings at the smallest subdivision around it, and a stroke against the
phase of that swing needs a stop and a restart. Let u be the shortest gap between picked notes within a beat either
side of a move, and n its gap / u; whether n is even or odd decides which stroke the swing would bring. Where the
planner may leave notes unpicked, u is told from the notes that are picked in any case, and from the gap itself.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from fractions import Fraction
from functools import cached_property
from itertools import pairwise
from math import lcm

from dromic.core.music.phrase import Phrase
from dromic.core.timing.playback_order import PlaybackOrder
from dromic.core.values.metre import QUARTER

_IN_TICKS = ("ticks_per_quarter", "ticks", "beat_ticks", "end_ticks")


class Rhythm:
    """Exact times of a phrase's events, and the course it takes. `asked` are the times at the tempo asked for, where these are
    those of a slower one."""

    def __init__(self, phrase: Phrase, playback: PlaybackOrder, asked: Rhythm | None = None) -> None:
        self.phrase, self.playback = phrase, playback
        self.asked = asked or self
        self._quarters: list[float] = asked._quarters if asked else [phrase.quarters_at(e.onset) for e in phrase.events]
        self.ms = [1000.0 * (at * 60.0 / phrase.tempo) for at in self._quarters]
        self.before = playback.predecessor

    def at_tempo(self, tempo: float, repeat: bool) -> Rhythm:
        """The same at another tempo than that asked for, in quarters a minute; `repeat` whether the whole is."""
        slower = self.asked.phrase.at_tempo(tempo)
        made = Rhythm(slower, self.asked.playback.at_tempo(slower, repeat), self.asked)
        for name in _IN_TICKS:  # what counts in ticks is the same at every tempo
            made.__dict__[name] = getattr(self.asked, name)
        return made

    @cached_property
    def beats(self) -> list[Fraction]:
        """Length of the beat each event lies in, in quarters."""
        return [beat_length(self.phrase, i) for i in range(len(self.phrase.events))]

    # whole numbers of the finest step in the phrase are exact too, and much quicker than fractions
    @cached_property
    def ticks_per_quarter(self) -> int:
        """The finest step in the phrase."""
        times = {e.onset.denominator for e in self.phrase.events} | {b.denominator for b in self.beats}
        return lcm(*times, *(n.duration.denominator for e in self.phrase.events for n in e.notes))

    def _in_ticks(self, quarters: Fraction) -> int:
        return quarters.numerator * (self.ticks_per_quarter // quarters.denominator)

    @cached_property
    def ticks(self) -> list[int]:
        """When every event begins."""
        return [self._in_ticks(e.onset) for e in self.phrase.events]

    @cached_property
    def beat_ticks(self) -> list[int]:
        """How long the beat is that each event lies in."""
        return [self._in_ticks(b) for b in self.beats]

    @cached_property
    def end_ticks(self) -> list[int]:
        """When the longest note of every event ends."""
        durations = [max(self._in_ticks(n.duration) for n in e.notes) for e in self.phrase.events]
        return [t + d for t, d in zip(self.ticks, durations, strict=True)]

    def near(self, i: int, beats: float = 1.0) -> range:
        """The events within so many beats either side of an event, itself included."""
        beat, now = self.beat_ticks[i] * beats, self.ticks[i]
        return range(bisect_left(self.ticks, now - beat), bisect_right(self.ticks, now + beat))

    def step_ms(self, i: int) -> float:
        """Time from the event played before to event i."""
        return self.playback.step_ms[i]

    def gap_ms(self, a: int, b: int) -> float:
        """Time from one event to a later one, by the way it is played."""
        if self.before[b] == a:
            return self.playback.step_ms[b]
        if self.playback.straight:
            return self.ms[b] - self.ms[a]
        total, at = 0.0, b
        while at != a:
            total += self.playback.step_ms[at]
            at = self.before[at]
        return total

    def straight(self, a: int, b: int) -> bool:
        """Whether everything between two events is played in the order it is written."""
        return self.playback.straight or all(self.before[e] == e - 1 for e in range(a + 1, b + 1))

    def rested(self, last: int, now: int) -> bool:
        """Whether a silence longer than a beat lies between two events."""
        end, beat = self.end_ticks[last], self.beat_ticks[last]
        if now == last + 1:
            return self.ticks[now] - end > beat
        for event in range(last + 1, now + 1):
            if self.ticks[event] - end > beat:
                return True
            end = max(end, self.end_ticks[event])
        return False


class Parity:
    """n % 2 for moves of the pick, told from the events that are picked in any case."""

    def __init__(self, rhythm: Rhythm, certain: Sequence[bool], possible: Sequence[bool]) -> None:
        self.rhythm = rhythm
        ticks = rhythm.ticks
        self._starts: list[int] = []
        self._ends: list[int] = []
        maybe = [i for i, p in enumerate(possible) if p]
        for a, b in pairwise(maybe):
            if certain[a] and certain[b]:
                self._starts.append(ticks[a])
                self._ends.append(ticks[b])
        self._memo: dict[tuple[int, int], int | None] = {}

    def of(self, a: int, b: int) -> int | None:
        """n % 2 of the move from a picked event to the next, None where n is not a whole number of at least 2."""
        key = (a, b)
        try:
            return self._memo[key]
        except KeyError:
            found = self._memo[key] = self._of(a, b)
            return found

    def _of(self, a: int, b: int) -> int | None:
        rhythm = self.rhythm
        beat = rhythm.beat_ticks[a]
        low, high = rhythm.ticks[a], rhythm.ticks[b]
        return self._told(high - low, self._shortest(low - beat, high + beat))

    def over(self, a: int, b: int, gap: Fraction) -> int | None:
        """The same for a jump from event a back to event b that takes `gap` quarters."""
        rhythm = self.rhythm
        beat = rhythm.beat_ticks[a]
        end, start = rhythm.ticks[a], rhythm.ticks[b]
        whole = gap * rhythm.ticks_per_quarter
        if whole.denominator != 1:
            return None
        around = [self._shortest(end - beat, end), self._shortest(start, start + beat)]
        return self._told(int(whole), min((s for s in around if s is not None), default=None))

    @staticmethod
    def _told(gap: int, shortest: int | None) -> int | None:
        unit = gap if shortest is None else min(gap, shortest)
        if unit <= 0:
            return None
        n, part = divmod(gap, unit)
        return n % 2 if n >= 2 and not part else None

    def _shortest(self, low: int, high: int) -> int | None:
        first, last = bisect_left(self._starts, low), bisect_right(self._ends, high)
        return min((e - s for s, e in zip(self._starts[first:last], self._ends[first:last], strict=True)), default=None)


def beat_length(phrase: Phrase, event: int) -> Fraction:
    """Length of the beat an event lies in, in quarters."""
    bar = phrase.bars[phrase.events[event].bar]
    return bar.metre.beat_at(bar.offset_of(phrase.events[event].onset))[2] or QUARTER

"""Which items of a chart a window of time shows, found by halving, so that painting does not grow with the phrase."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from itertools import accumulate
from typing import Any, Generic, TypeVar

from dromic.core.plan.plan import Move
from dromic.core.reports.chart import (
    Band,
    Chart,
    Damped,
    FingerBar,
    Label,
    Part,
    Pluck,
    RepeatSign,
    Stroke,
    Travel,
    Turn,
)

T = TypeVar("T")


class Timed(Generic[T]):
    """Items in the order of their starts."""

    def __init__(self, items: Sequence[T], start: Callable[[T], float], end: Callable[[T], float]) -> None:
        self.items = sorted(items, key=start)
        self.starts = [start(i) for i in self.items]
        self.reach = list(accumulate((end(i) for i in self.items), max))
        """the latest end of all items up to each"""

    def within(self, start_s: float, end_s: float) -> Iterator[T]:
        """The items that touch a window; a few that ended before it may come along."""
        yield from self.items[bisect_left(self.reach, start_s) : bisect_right(self.starts, end_s)]


def _spans(items: Sequence[Any]) -> Timed[Any]:
    return Timed(items, lambda i: i.start_s, lambda i: i.end_s)


def _points(items: Sequence[Any]) -> Timed[Any]:
    return Timed(items, lambda i: i.at_s, lambda i: i.at_s)


class Shown:
    """The items of one chart, each kind made ready when it is first painted."""

    def __init__(self, chart: Chart) -> None:
        self.chart = chart

    @cached_property
    def beats(self) -> Timed[float]:
        return Timed(self.chart.beats, lambda at: at, lambda at: at)

    @cached_property
    def bars(self) -> Timed[tuple[float, int]]:
        return Timed(self.chart.bars, lambda b: b[0], lambda b: b[0])

    @cached_property
    def strokes(self) -> Timed[Stroke]:
        return _spans(self.chart.strokes)

    @cached_property
    def travels(self) -> Timed[Travel]:
        return _spans(self.chart.travels)

    @cached_property
    def plucks(self) -> Timed[Pluck]:
        return _points(self.chart.plucks)

    @cached_property
    def damped(self) -> Timed[Damped]:
        return _spans(self.chart.damped)

    @cached_property
    def fingers(self) -> Timed[FingerBar]:
        return _spans(self.chart.fingers)

    @cached_property
    def bands(self) -> Timed[tuple[Band, Band | None]]:
        """Each with the one before it."""
        bands = self.chart.bands
        return Timed(list(zip(bands, (None, *bands), strict=False)), lambda b: b[0].start_s, lambda b: b[0].end_s)

    @cached_property
    def moves(self) -> Timed[Move]:
        times = self.chart.event_s
        return Timed(self.chart.moves, lambda m: times[m.to - 1], lambda m: times[m.to])

    @cached_property
    def knots(self) -> Timed[Move]:
        times = self.chart.event_s
        return Timed([m for m in self.chart.moves if m.knot], lambda m: times[m.to - 1], lambda m: times[m.to])

    @cached_property
    def labels(self) -> Timed[Label]:
        return _points(self.chart.labels)

    @cached_property
    def parts(self) -> Timed[Part]:
        return _spans(self.chart.parts)

    @cached_property
    def repeats(self) -> Timed[RepeatSign]:
        return _points(self.chart.repeats)

    @cached_property
    def turns(self) -> Timed[Turn]:
        return _points(self.chart.turns)

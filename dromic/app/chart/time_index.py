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
    Palm,
    PartLabel,
    Pluck,
    RepeatSign,
    Stroke,
    Travel,
    Turn,
)

T = TypeVar("T")


class IntervalIndex(Generic[T]):
    """Items in the order of their starts."""

    def __init__(self, items: Sequence[T], start: Callable[[T], float], end: Callable[[T], float]) -> None:
        self.items = sorted(items, key=start)
        self.starts = [start(i) for i in self.items]
        self.reach = list(accumulate((end(i) for i in self.items), max))
        """the latest end of all items up to each"""

    def within(self, start_s: float, end_s: float) -> Iterator[T]:
        """The items that touch a window; a few that ended before it may come along."""
        yield from self.items[bisect_left(self.reach, start_s) : bisect_right(self.starts, end_s)]


def _spans(items: Sequence[Any]) -> IntervalIndex[Any]:
    return IntervalIndex(items, lambda i: i.start_s, lambda i: i.end_s)


def _points(items: Sequence[Any]) -> IntervalIndex[Any]:
    return IntervalIndex(items, lambda i: i.at_s, lambda i: i.at_s)


class ChartIndex:
    """The items of one chart, each kind made ready when it is first painted."""

    def __init__(self, chart: Chart) -> None:
        self.chart = chart

    @cached_property
    def said(self) -> IntervalIndex[Label]:
        """Labels that hold words of the player's own."""
        return _points([label for label in self.chart.labels if label.words])

    @cached_property
    def palms(self) -> IntervalIndex[Palm]:
        return _spans(self.chart.palms)

    @cached_property
    def beats(self) -> IntervalIndex[float]:
        return IntervalIndex(self.chart.beats, lambda at: at, lambda at: at)

    @cached_property
    def bars(self) -> IntervalIndex[tuple[float, int]]:
        return IntervalIndex(self.chart.bars, lambda b: b[0], lambda b: b[0])

    @cached_property
    def strokes(self) -> IntervalIndex[Stroke]:
        return _spans(self.chart.strokes)

    @cached_property
    def travels(self) -> IntervalIndex[Travel]:
        return _spans(self.chart.travels)

    @cached_property
    def plucks(self) -> IntervalIndex[Pluck]:
        return _points(self.chart.plucks)

    @cached_property
    def damped(self) -> IntervalIndex[Damped]:
        return _spans(self.chart.damped)

    @cached_property
    def fingers(self) -> IntervalIndex[FingerBar]:
        return _spans(self.chart.fingers)

    @cached_property
    def bands(self) -> IntervalIndex[tuple[Band, Band | None]]:
        """Each with the one before it."""
        bands = self.chart.bands
        return IntervalIndex(
            list(zip(bands, (None, *bands), strict=False)), lambda b: b[0].start_s, lambda b: b[0].end_s
        )

    @cached_property
    def moves(self) -> IntervalIndex[Move]:
        times = self.chart.event_s
        return IntervalIndex(self.chart.moves, lambda m: times[m.to - 1], lambda m: times[m.to])

    @cached_property
    def knots(self) -> IntervalIndex[Move]:
        times = self.chart.event_s
        return IntervalIndex([m for m in self.chart.moves if m.knot], lambda m: times[m.to - 1], lambda m: times[m.to])

    @cached_property
    def labels(self) -> IntervalIndex[Label]:
        return _points(self.chart.labels)

    @cached_property
    def parts(self) -> IntervalIndex[PartLabel]:
        return _spans(self.chart.parts)

    @cached_property
    def repeats(self) -> IntervalIndex[RepeatSign]:
        return _points(self.chart.repeats)

    @cached_property
    def turns(self) -> IntervalIndex[Turn]:
        return _points(self.chart.turns)

"""From seconds and millimetres to pixels: the rows of the two-hand chart."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from dromic.app.chart.time_index import ChartIndex
from dromic.core.reports.chart import Chart

GUTTER = 64.0
"""px at the left for names"""
RULER = 26.0
LOADS = 34.0
MIDDLE = 88.0
MARGIN = 12.0
LEAST_FREE = 96.0
"""Height of both hands' lanes at least, px; a chart of LEAST_TALL holds them."""
LEAST_NECK = 36.0
"""Height of the neck's lane at least, px."""
LEAST_TALL = 312
"""px: lower, the lanes would lie over one another"""


@dataclass(frozen=True)
class Lanes:
    """Pixel places for one chart in a widget of a given size, scrolled and zoomed. All in px but `scroll_s`."""

    chart: Chart
    width: float
    height: float
    px_per_s: float
    scroll_s: float
    shown: ChartIndex | None = None
    """the chart's items by time, where they have been made ready"""
    low_on_top: bool = True
    """whether the strings lie as they are looked down upon; else as in tablature"""

    def visible(self, kind: str, before_s: float = 0.1) -> Iterator[Any]:
        """The items of one kind (a name of Shown) that the window shows."""
        shown = self.shown or ChartIndex(self.chart)
        yield from getattr(shown, kind).within(self.start_s - before_s, self.end_s + 0.1)

    @cached_property
    def _free(self) -> float:
        return max(LEAST_FREE, self.height - RULER - 2 * LOADS - MIDDLE - 4 * MARGIN)

    @cached_property
    def pick_top(self) -> float:
        return RULER + MARGIN

    @cached_property
    def pick_height(self) -> float:
        return 0.47 * self._free

    @cached_property
    def pick_loads_top(self) -> float:
        return self.pick_top + self.pick_height + MARGIN

    @cached_property
    def middle_top(self) -> float:
        return self.pick_loads_top + LOADS

    @cached_property
    def fret_loads_top(self) -> float:
        return self.middle_top + MIDDLE

    @cached_property
    def fret_top(self) -> float:
        return self.fret_loads_top + LOADS + MARGIN

    @cached_property
    def fret_height(self) -> float:
        return max(LEAST_NECK, self.height - self.fret_top - MARGIN)

    @cached_property
    def start_s(self) -> float:
        return self.scroll_s

    @cached_property
    def end_s(self) -> float:
        return self.scroll_s + (self.width - GUTTER) / self.px_per_s

    def x(self, seconds: float) -> float:
        return GUTTER + (seconds - self.scroll_s) * self.px_per_s

    def seconds(self, x: float) -> float:
        return self.scroll_s + (x - GUTTER) / self.px_per_s

    @cached_property
    def pick_scale(self) -> float:
        """px per mm across the strings; half a spacing is left free beyond the outermost strings."""
        return self.pick_height / (self.chart.string_mm[0] + 1.6 * self._spacing)

    @cached_property
    def _spacing(self) -> float:
        return self.chart.string_mm[0] / (len(self.chart.string_mm) - 1)

    def pick_y(self, mm: float) -> float:
        """The lowest string is on top, as a player sees the strings, so that a down-stroke goes down; or as in tablature."""
        mm = mm if self.low_on_top else self.chart.string_mm[0] - mm
        return self.pick_top + (mm + 0.8 * self._spacing) * self.pick_scale

    @cached_property
    def fret_scale(self) -> float:
        """px per mm along the neck."""
        return self.fret_height / max(self._neck[1] - self._neck[0], 1.0)

    @cached_property
    def _neck(self) -> tuple[float, float]:
        low, high = self.chart.fret_mm[self.chart.lowest_fret], self.chart.fret_mm[self.chart.highest_fret]
        return low - 6.0, high + 6.0

    def fret_y(self, mm: float) -> float:
        """Towards the body is up, as pitch rises; down for a left-hander, whose neck lies the other way round."""
        low, high = self._neck
        return self.fret_top + (mm - low if self.chart.left_handed else high - mm) * self.fret_scale

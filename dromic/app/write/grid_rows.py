"""Where everything of the writing grid lies: rows of whole bars, strings as lanes, time in true proportion.

Lengths in pixels. A row is as tall as its lanes; bars follow each other without gaps, so that time runs evenly.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from dromic.core.music.phrase import Phrase

GUTTER = 46
"""Width of the strings' names, px."""
MARGIN = 16
"""Room around the grid, px."""
HEADER = 30
"""Height of the bar's numbers, px."""
LANE = 24
"""Height of a string, px."""
FREE_LANE = 24
"""Height of the lane of notes without a string, px."""
BETWEEN = 12
"""Room between rows, px."""
LEAST_PX = 24.0
"""Width of a quarter note at least, px."""
MOST_PX = 400.0
"""Width of a quarter note at most, px."""
MOST_STRETCH = 1.5
"""how much wider than asked for time may be drawn so that rows fill the width"""


@dataclass(frozen=True, slots=True)
class Row:
    """Bars `first` to `last` by index, from `start` up to `end`."""

    first: int
    last: int
    start: Fraction
    end: Fraction
    top: int


@dataclass(frozen=True, slots=True)
class GridRows:
    rows: tuple[Row, ...]
    strings: int
    px: float
    """pixels a quarter note takes"""

    @property
    def row_height(self) -> int:
        return HEADER + FREE_LANE + self.strings * LANE + BETWEEN

    @property
    def height(self) -> int:
        return len(self.rows) * self.row_height + BETWEEN

    def row_of(self, time: Fraction) -> Row:
        """The row that holds a time; the last for the very end."""
        return next((r for r in self.rows if time < r.end), self.rows[-1])

    def x(self, row: Row, time: Fraction) -> float:
        return GUTTER + float(time - row.start) * self.px

    def lane_y(self, row: Row, string: int) -> int:
        """The middle of a lane: 0 for notes without a string, then string 1 and on."""
        top = row.top + HEADER
        return top + FREE_LANE // 2 if string == 0 else top + FREE_LANE + (string - 1) * LANE + LANE // 2

    def place(self, x: float, y: float, step: Fraction) -> tuple[Fraction, int]:
        """The time, on the grid of `step` from the bar line, and the lane at a point."""
        row = self.rows[min(len(self.rows) - 1, max(0, int((y - BETWEEN / 2) // self.row_height)))]
        lane = int((y - row.top - HEADER - FREE_LANE) // LANE) + 1
        time = row.start + Fraction(max(0.0, x - GUTTER) / self.px).limit_denominator(960)
        return min(time // step * step if step else time, row.end - step), max(0, min(self.strings, lane))


def grid_rows(phrase: Phrase, strings: int, width: int, px: float) -> GridRows:
    """Rows that fill a width, as many whole bars in each as fit, at least one."""
    room = max(120, width - GUTTER - MARGIN)
    longest = max(float(b.length) for b in phrase.bars)
    px = min(px, room / longest)
    rows: list[Row] = []
    height = HEADER + FREE_LANE + strings * LANE + BETWEEN
    first, start = 0, Fraction(0)
    for index, bar in enumerate(phrase.bars):
        if index > first and float(bar.end - start) * px > room + 0.5:
            rows.append(Row(first, index - 1, start, bar.start, BETWEEN // 2 + len(rows) * height))
            first, start = index, bar.start
    rows.append(Row(first, len(phrase.bars) - 1, start, phrase.end, BETWEEN // 2 + len(rows) * height))
    widest = max(float(r.end - r.start) for r in rows)
    return GridRows(tuple(rows), strings, min(room / widest, px * MOST_STRETCH))

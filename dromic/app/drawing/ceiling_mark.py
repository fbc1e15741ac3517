"""A ceiling drawn on a line of tempos: the mark with its range, what can be kept up, and the tempo asked for as a flag."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen, QPolygonF

from dromic.app.kit.theme import SMALL, Theme, font
from dromic.core.plan.plan import Plan

_ROOM = 0.08
"""share of the span left free at either end"""
_MARK = 9.0
"""Half the mark's height, px."""
_BAND = 7.0
"""Half the band's height, px."""
_FLAG = 20.0
"""Height of the flag over the line, px."""


class Ceiling(NamedTuple):
    """A ceiling in quarters a minute with its range, what can be kept up for half a minute, and the tempo asked for.
    Estimates, but the tempo."""

    at: float
    low: float
    high: float
    sustained: float
    tempo: float

    @property
    def fits(self) -> bool:
        return self.at >= self.tempo


def ceiling_of(plan: Plan | None) -> Ceiling | None:
    """None where nothing limits a plan, or there is none."""
    if plan is None or plan.ceiling is None or plan.ceiling_range is None or plan.ceiling_sustained is None:
        return None
    return Ceiling(plan.ceiling, *plan.ceiling_range, plan.ceiling_sustained, plan.request.phrase.tempo)


class Line(NamedTuple):
    """A line of tempos from `low` to `high` that stands between two places in px."""

    low: float
    high: float
    left: float
    right: float

    def x(self, tempo: float) -> float:
        share = (tempo - self.low) / max(1e-9, self.high - self.low)
        return self.left + min(1.0, max(0.0, share)) * (self.right - self.left)


def line_over(ceilings: list[Ceiling], left: float, right: float) -> Line:
    """The line on which all of these have room."""
    low = min(min(c.low, c.sustained, c.tempo) for c in ceilings)
    high = max(max(c.high, c.tempo) for c in ceilings)
    room = _ROOM * max(1.0, high - low)
    return Line(low - room, high + room, left, right)


def paint_ceiling(painter: QPainter, theme: Theme, line: Line, y: float, shown: Ceiling) -> None:
    """The range as a band, the ceiling as a mark, what can be kept up as a ring; between a ceiling and a tempo over it the line is
    hatched in the colour of hurt."""
    asked, at = line.x(shown.tempo), line.x(shown.at)
    painter.setPen(QPen(theme.colour("line"), 1))
    painter.drawLine(QLineF(line.left, y, line.right, y))
    if not shown.fits:
        gap = QRectF(at, y - _BAND / 2, asked - at, _BAND)
        painter.fillRect(gap, theme.colour("hurt"))
        painter.fillRect(gap, QBrush(theme.colour("raised"), Qt.BrushStyle.BDiagPattern))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("soft", 0.45))
    painter.drawRect(QRectF(line.x(shown.low), y - _BAND / 2, line.x(shown.high) - line.x(shown.low), _BAND))
    painter.setPen(QPen(theme.colour("ink"), 1.5))
    painter.setBrush(theme.colour("raised"))
    painter.drawEllipse(QPointF(line.x(shown.sustained), y), 3.5, 3.5)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("ink"))
    painter.drawRoundedRect(QRectF(at - 2.5, y - _MARK, 5, 2 * _MARK), 2, 2)


def paint_flag(painter: QPainter, theme: Theme, x: float, top: float, bottom: float, hurts: bool) -> None:
    """The tempo asked for: a pole with a flag to its left, so that what lies over it stays free."""
    colour = theme.colour("hurt" if hurts else "ink")
    painter.setPen(QPen(colour, 2))
    painter.drawLine(QLineF(x, top, x, bottom))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawPolygon(QPolygonF([QPointF(x, top), QPointF(x - 9, top + 4), QPointF(x, top + 8)]))


def paint_alone(painter: QPainter, theme: Theme, box: QRectF, shown: Ceiling) -> None:
    """One ceiling with its numbers, in a box at least 56 px high."""
    line = line_over([shown], box.left() + 14, box.right() - 14)
    y, hurts = box.top() + 32.0, not shown.fits
    paint_flag(painter, theme, line.x(shown.tempo), y - _FLAG + 4, y + 10, hurts)
    paint_ceiling(painter, theme, line, y, shown)
    painter.setFont(font(SMALL, "strong"))
    _under(painter, theme, "hurt" if hurts else "ink", f"asked {shown.tempo:.0f}", line.x(shown.tempo), box.top(), box)
    painter.setFont(font(SMALL))
    _under(painter, theme, "soft", f"{shown.low:.0f} to {shown.high:.0f}", line.x(shown.at), y + 9, box)


def _under(painter: QPainter, theme: Theme, colour: str, words: str, x: float, top: float, box: QRectF) -> None:
    """Words about a place, moved aside where they would leave the box."""
    wide = painter.fontMetrics().horizontalAdvance(words) + 4.0
    left = min(max(x - wide / 2, box.left()), box.right() - wide)
    painter.setPen(theme.colour(colour))
    painter.drawText(QRectF(left, top, wide, 14), Qt.AlignmentFlag.AlignCenter, words)

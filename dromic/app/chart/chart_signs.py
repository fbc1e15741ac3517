"""Painting of what stands on the chart's ruler and over its strokes: parts, repeats, endings, leans and turnarounds."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from dromic.app.chart.lanes import GUTTER, RULER, Lanes
from dromic.app.chart.time_index import ChartIndex
from dromic.app.kit.theme import Theme, font

_PART_LEFT = 62.0
"""px from a bar line to a part's name: past the bar's number"""


def paint_signs(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """Everything of the ruler beyond bars, and the picking hand's turns."""
    _parts(painter, lanes, theme)
    _repeats(painter, lanes, theme)
    _turns(painter, lanes, theme)


def _parts(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    for part in lanes.chart.parts:
        left, right = lanes.x(part.start_s), lanes.x(part.end_s)
        if right < GUTTER or left > lanes.width:
            continue
        painter.setFont(font(13, "heavy"))
        painter.setPen(theme.colour("ink"))
        if part.ending:
            # the bracket of an ending: open at its right
            painter.setPen(QPen(theme.colour("ink"), 1.6))
            painter.drawLine(QLineF(left + 2, 3, right - 4, 3))
            painter.drawLine(QLineF(left + 2, 3, left + 2, 12))
        wide = max(0.0, min(right, lanes.width) - max(left, GUTTER) - _PART_LEFT - 6)
        words = painter.fontMetrics().elidedText(part.name, Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(QPointF(max(left, GUTTER) + _PART_LEFT, 18), words)


def _repeats(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """A thick line with two dots on the side that is played again, and how often if more than twice."""
    for sign in lanes.chart.repeats:
        x = lanes.x(sign.at_s)
        if not GUTTER - 10 <= x <= lanes.width + 10:
            continue
        way = -1 if sign.times else 1
        painter.setPen(QPen(theme.colour("ink"), 3.0))
        painter.drawLine(QLineF(x, 4, x, RULER))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("ink"))
        for y in (RULER / 2 - 3.5, RULER / 2 + 5.5):
            painter.drawEllipse(QPointF(x + 7 * way, y), 2.2, 2.2)
        if sign.times > 2:
            painter.setPen(theme.colour("ink"))
            painter.setFont(font(12, "strong"))
            painter.drawText(QRectF(x - 52, 4, 40, 18), Qt.AlignmentFlag.AlignRight, f"{sign.times} times")


def _turns(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """A hook over the note where a sweep turns; a short line tilted as the pick's path where the lean changes."""
    y = lanes.pick_top + 4
    for turn in (lanes.shown or ChartIndex(lanes.chart)).turns.within(lanes.start_s - 0.1, lanes.end_s + 0.1):
        x = lanes.x(turn.at_s)
        if not GUTTER <= x <= lanes.width:
            continue
        painter.setPen(QPen(theme.colour("pick"), 2.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if not turn.lean:
            painter.drawArc(QRectF(x - 6, y - 4, 12, 12), 0, 180 * 16)
            painter.drawLine(QLineF(x - 6, y + 2, x - 9, y - 1))
            painter.drawLine(QLineF(x - 6, y + 2, x - 3, y - 1))
            continue
        rise = 5.0 if turn.tilt_deg > 0 else -5.0
        painter.drawLine(QLineF(x - 9, y + rise, x + 9, y - rise))
        painter.setFont(font(11))
        painter.drawText(QPointF(x + 12, y + 5), "lean")

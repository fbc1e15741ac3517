"""Painting of what stands on the chart's ruler and over its strokes: parts, repeats, endings, leans and turnarounds."""

from __future__ import annotations

from itertools import zip_longest

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from dromic.app.chart.lanes import GUTTER, RULER, Lanes
from dromic.app.chart.time_index import ChartIndex
from dromic.app.kit.theme import BODY, SMALL, Theme, font

_WORDS_BEFORE_S = 6.0
"""words this much before the window may reach into it"""
_WORDS_WIDE = 260.0
"""px that words at a note may take"""
_PART_LEFT = 62.0
"""px from a bar line to a part's name: past the bar's number"""


def paint_signs(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """Everything of the ruler beyond bars, and the picking hand's turns."""
    _parts(painter, lanes, theme)
    _repeats(painter, lanes, theme)
    _turns(painter, lanes, theme)
    _palms(painter, lanes, theme)
    _words(painter, lanes, theme)


def _palms(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """A bracket under the picking hand for as long as the palm lies on the strings."""
    y = lanes.pick_top + lanes.pick_height + 5
    for palm in lanes.visible("palms"):
        left, right = max(GUTTER, lanes.x(palm.start_s) - 6), lanes.x(palm.end_s) - 8
        if right < GUTTER:
            continue
        painter.setPen(QPen(theme.colour("pick"), 2.0))
        painter.drawLine(QLineF(left, y, max(left + 8, right), y))
        painter.drawLine(QLineF(max(left + 8, right), y, max(left + 8, right), y - 5))
        if lanes.x(palm.start_s) >= GUTTER:
            painter.drawLine(QLineF(left, y, left, y - 5))
        painter.setFont(font(SMALL, "strong"))
        wide = painter.fontMetrics().horizontalAdvance("palm")
        if right - left > wide + 24:
            painter.fillRect(QRectF(left + 8, y - 7, wide + 6, 13), theme.colour("paper"))
            painter.drawText(QRectF(left + 8, y - 8, wide + 6, 14), Qt.AlignmentFlag.AlignCenter, "palm")


def _words(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    """The player's own words, on a flag at the foot of the chart over the note they belong to."""
    painter.setFont(font(SMALL))
    metrics = painter.fontMetrics()
    bottom = lanes.height - 5
    said = list(lanes.visible("said", _WORDS_BEFORE_S))
    for label, following in zip_longest(said, said[1:]):
        left = lanes.x(label.at_s)
        room = (lanes.x(following.at_s) if following is not None else lanes.width) - left - 18
        words = metrics.elidedText(label.words, Qt.TextElideMode.ElideRight, int(max(20.0, min(_WORDS_WIDE, room))))
        box = QRectF(left, bottom - 18, metrics.horizontalAdvance(words) + 12, 18)
        if box.right() < GUTTER:
            continue
        painter.setPen(QPen(theme.colour("soft"), 1.2))
        painter.drawLine(QLineF(left, lanes.fret_top, left, bottom))
        painter.setBrush(theme.colour("paper"))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(theme.colour("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _parts(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    for part in lanes.chart.parts:
        left, right = lanes.x(part.start_s), lanes.x(part.end_s)
        if right < GUTTER or left > lanes.width:
            continue
        painter.setFont(font(BODY, "heavy"))
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
            painter.setFont(font(SMALL, "strong"))
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
        painter.setFont(font(SMALL))
        painter.drawText(QPointF(x + 12, y + 5), "lean")

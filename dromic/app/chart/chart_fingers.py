"""Painting of the fretting fingers: a bar from press to lift, how the finger gets there, and what it does while down."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPolygonF

from dromic.app.chart.lanes import Lanes
from dromic.app.drawing.glyphs import round_pen
from dromic.app.kit.theme import SMALL, Theme, font
from dromic.core.reports.chart import BEND, RELEASE, FingerBar, Hold

CENTRE = Qt.AlignmentFlag.AlignCenter
_SIGN = QSizeF(14.0, 10.0)
"""of how a finger comes, over the left end of its bar"""


def paint_fingers(painter: QPainter, lanes: Lanes, theme: Theme) -> None:
    thick = max(19.0, min(26.0, 13.0 * lanes.fret_scale))
    for bar in lanes.visible("fingers"):
        left, right = lanes.x(bar.start_s), lanes.x(bar.end_s)
        y = lanes.fret_y(bar.mm)
        rect = QRectF(left, y - thick / 2, max(right - left - 2, thick * 0.8), thick)
        if bar.slide_from_mm is not None:
            _slide(painter, theme, QPointF(left, lanes.fret_y(bar.slide_from_mm)), QPointF(left, y), thick)
        _bar(painter, theme, bar, rect, thick)
        aside = _SIGN.width() + 2 if bar.kind in ARRIVALS else 0.0
        for hold in bar.holds:
            _hold(painter, theme, hold, lanes.x(hold.start_s) + aside, lanes.x(hold.end_s), rect)


def _bar(painter: QPainter, theme: Theme, bar: FingerBar, rect: QRectF, thick: float) -> None:
    left, y = rect.left(), rect.center().y()
    tapped = bar.attack == "tap"
    sign = ARRIVALS.get(bar.kind)
    painter.setPen(Qt.PenStyle.NoPen)
    if sign is not None:
        painter.setPen(round_pen(theme.colour("hurt" if bar.load > 1 else "ink"), 2.6 if bar.load > 1 else 2.0))
    painter.setBrush(theme.colour("fret"))
    if tapped:
        # a finger of the other hand: the other hand's colour, hollow and square
        painter.setPen(round_pen(theme.colour("pick"), 2.4))
        painter.setBrush(theme.colour("paper"))
    radius = 2 if tapped else thick / 2
    painter.drawRoundedRect(rect, radius, radius)
    if sign is not None and not tapped:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        sign(painter, QRectF(QPointF(left + 3, rect.top() - _SIGN.height() - 3), _SIGN))
    if bar.again:
        # a press that a finger left down would have saved: the gap it could have bridged
        painter.setPen(round_pen(theme.colour("fret"), 2.0, Qt.PenStyle.DotLine))
        painter.drawLine(QLineF(left - 16, y, left, y))
    painter.setPen(theme.colour("pick" if tapped else "on_fret"))
    painter.setFont(font(thick * 0.86, "heavy"))
    painter.drawText(QRectF(rect.left(), rect.top(), max(thick, 14.0), thick), CENTRE, bar.finger)
    if rect.width() > 3.2 * thick:
        painter.setFont(font(thick * 0.66))
        painter.drawText(rect.adjusted(thick, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter, f"string {bar.string}")


def _stretch(painter: QPainter, box: QRectF) -> None:
    """A spring."""
    y, step = box.center().y(), box.width() / 6
    points = [QPointF(box.left() + n * step, y + (0 if n in (0, 6) else 4 if n % 2 else -4)) for n in range(7)]
    painter.drawPolyline(QPolygonF(points))


def _jump(painter: QPainter, box: QRectF) -> None:
    """A leap with its arrow."""
    y = box.center().y()
    painter.drawArc(QRectF(box.left(), y - 6, box.width(), 12), 0, 180 * 16)
    painter.drawPolyline(
        QPolygonF([QPointF(box.right() - 4, y - 4), QPointF(box.right(), y), QPointF(box.right() + 3, y - 5)])
    )


def _roll(painter: QPainter, box: QRectF) -> None:
    """A rocking wave."""
    y, half = box.center().y(), box.width() / 2
    path = QPainterPath(QPointF(box.left(), y))
    path.quadTo(QPointF(box.left() + half / 2, y - 9), QPointF(box.left() + half, y))
    path.quadTo(QPointF(box.left() + 1.5 * half, y + 9), QPointF(box.right(), y))
    painter.drawPath(path)


def _barre(painter: QPainter, box: QRectF) -> None:
    """A finger laid flat across the strings."""
    for x in (box.left() + 4, box.left() + 9):
        painter.drawLine(QLineF(x, box.top(), x, box.bottom()))


ARRIVALS: dict[str, Callable[[QPainter, QRectF], None]] = {
    "stretch": _stretch, "jump": _jump, "roll": _roll, "barre": _barre,
}  # fmt: skip
"""the moves of a finger that cost something of their own, each with its sign"""


def _slide(painter: QPainter, theme: Theme, start: QPointF, end: QPointF, thick: float) -> None:
    """The finger slides in along its string: a band from where it was."""
    painter.setPen(round_pen(theme.colour("fret"), thick * 0.3))
    painter.drawLine(QPointF(start.x() - 12, start.y()), QPointF(end.x() + 2, end.y()))


def _hold(painter: QPainter, theme: Theme, hold: Hold, left: float, right: float, rect: QRectF) -> None:
    """A bend rises over the bar, with its semitones; a release falls; vibrato waves."""
    top = rect.top() - 2
    painter.setPen(round_pen(theme.colour("fret"), 2.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if hold.kind not in (BEND, RELEASE):
        wide = max(12.0, min(right - left - 6, 60.0))
        path = QPainterPath(QPointF(left + 4, top - 4))
        for n in range(int(wide // 6)):
            path.quadTo(QPointF(left + 7 + 6 * n, top - 9 if n % 2 else top + 1), QPointF(left + 10 + 6 * n, top - 4))
        painter.drawPath(path)
        return
    low, high = QPointF(left + 6, top), QPointF(left + 20, top - 13)
    start, end = (low, high) if hold.kind == BEND else (QPointF(low.x(), high.y()), QPointF(high.x(), low.y()))
    path = QPainterPath(start)
    path.quadTo(QPointF(end.x(), start.y()), end)
    painter.drawPath(path)
    way = 1 if hold.kind == BEND else -1
    painter.setBrush(theme.colour("fret"))
    painter.drawPolygon(
        QPolygonF([end, QPointF(end.x() - 4, end.y() + 6 * way), QPointF(end.x() + 4, end.y() + 6 * way)])
    )
    if hold.semitones:
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(SMALL, "heavy"))
        painter.drawText(QRectF(end.x() + 5, top - 18, 34, 14), Qt.AlignmentFlag.AlignLeft, f"\u2191{hold.semitones:g}")

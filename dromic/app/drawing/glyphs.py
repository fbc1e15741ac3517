"""Small signs that more than one view draws."""

from __future__ import annotations

from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from dromic.app.kit.theme import font

CENTRE = Qt.AlignmentFlag.AlignCenter


def round_pen(colour: QColor, width: float = 1.0, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """A pen whose lines end and meet roundly."""
    return QPen(_pen(colour.rgba(), width, style))


@lru_cache(maxsize=512)
def _pen(rgba: int, width: float, style: Qt.PenStyle) -> QPen:
    return QPen(QBrush(QColor.fromRgba(rgba)), width, style, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)


def stroke_glyph(painter: QPainter, colour: QColor, centre: QPointF, stroke: str, size: float) -> None:
    """The bowing signs players read: a bracket for down, a wedge for up; letters for plucks, a dot for none."""
    x, y, h = centre.x(), centre.y(), size / 2
    painter.setPen(QPen(colour, size / 7))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if stroke == "down":
        painter.drawPolyline(QPolygonF([QPointF(x - h * 0.8, y + h), QPointF(x - h * 0.8, y - h * 0.8),
                                        QPointF(x + h * 0.8, y - h * 0.8), QPointF(x + h * 0.8, y + h)]))  # fmt: skip
        painter.drawLine(QPointF(x - h * 0.8, y - h * 0.62), QPointF(x + h * 0.8, y - h * 0.62))
    elif stroke == "up":
        painter.drawPolyline(QPolygonF([QPointF(x - h * 0.7, y - h), QPointF(x, y + h), QPointF(x + h * 0.7, y - h)]))
    elif stroke == "none":
        painter.setBrush(colour)
        painter.drawEllipse(centre, 1.6, 1.6)
    else:
        painter.setFont(font(size, "strong"))
        painter.drawText(QRectF(x - size, y - size, 2 * size, 2 * size), CENTRE, stroke)

"""Errors against loads: whether it went wrong where the plan said it would."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, font
from dromic.core.listening.report import TakeReport

_LEFT = 40.0
"""Room left of the plot for numbers, px."""
_RIGHT = 12.0
"""Room right of it, px."""
_TOP = 26.0
"""Room over it for the title, px."""
_BOTTOM = 34.0
"""Room under it for numbers and unit, px."""
_MOST_MS = 60.0
"""Errors farther out stand at the edge, ms."""
_MOST_LOAD = 1.5
"""Loads farther out stand at the edge."""
_MISSED_MS = 58.0


class ErrorPlot(Picture):
    """A dot a note: to the right the load, upwards how far off; filled where something is said of it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.report: TakeReport | None = None
        self.setMinimumHeight(170)
        self.setAccessibleName("errors against predicted loads")

    def show_report(self, report: TakeReport | None) -> None:
        self.report = report
        self.update()

    def paint(self, painter: QPainter) -> None:
        right, ground = self.width() - _RIGHT, self.height() - _BOTTOM

        def x(load: float) -> float:
            return _LEFT + (right - _LEFT) * min(load, _MOST_LOAD) / _MOST_LOAD

        def y(ms: float) -> float:
            return ground - (ground - _TOP) * min(ms, _MOST_MS) / _MOST_MS

        painter.setFont(font(BODY, "strong"))
        painter.setPen(self.theme.colour("ink"))
        painter.drawText(QPointF(8, 17), "How far off (ms), by predicted load")
        painter.setFont(font(BODY))
        for ms in (0, 20, 40):
            painter.setPen(QPen(self.theme.colour("faint_line"), 1))
            painter.drawLine(QLineF(_LEFT, y(ms), right, y(ms)))
            painter.setPen(self.theme.colour("soft"))
            where = QRectF(0, y(ms) - 9, _LEFT - 6, 18)
            painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(ms))
        for load in (0.0, 0.5, 1.0, 1.5):
            painter.drawText(QRectF(x(load) - 20, ground + 3, 40, 16), Qt.AlignmentFlag.AlignCenter, f"{load:g}")
        painter.drawText(
            QRectF(_LEFT, ground + 17, right - _LEFT, 16), Qt.AlignmentFlag.AlignCenter, "load; 1 is the limit"
        )
        painter.setPen(QPen(self.theme.colour("ink"), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(QLineF(x(1.0), _TOP, x(1.0), ground))
        for note in self.report.notes if self.report is not None else ():
            fault = note.verdict != "ok"
            off = _MISSED_MS if note.heard_s is None else abs(note.error_ms or 0.0)
            painter.setPen(QPen(self.theme.colour("hurt" if fault else "ink", 0.8), 1.4))
            painter.setBrush(self.theme.colour("hurt", 0.8) if fault else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x(note.load), y(off)), 3.4, 3.4)

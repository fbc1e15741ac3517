"""Evenness as a picture: for each kind of note how late it is in the mean, how widely it scatters, and how loud it is."""

from __future__ import annotations

from itertools import groupby

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QScrollArea, QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import SMALL, Theme, font
from dromic.core.listening.report import Even, TakeReport

_LABEL = 150.0
"""Width of the names, px."""
_LOUD = 56.0
"""Width of the loudness, px."""
_ROW = 18.0
"""Height of a row, px."""
_HEAD = 22.0
"""Height of the titles, px."""
_TOP = 22.0
"""Room over the titles, px."""
_MOST_MS = 30.0
"""what is later than this stands at the edge"""
_DOT = 3.6


class EvenView(QScrollArea):
    """Rows as high as the report needs."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rows = _Rows()
        self.setWidget(self.rows)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("evenness by kind of note")

    def set_theme(self, theme: Theme) -> None:
        self.rows.theme = theme
        self.rows.update()

    def show_report(self, report: TakeReport | None) -> None:
        self.rows.show_rows(report.even if report is not None else ())
        worst = max(self.rows.even, key=lambda e: abs(e.late_ms), default=None)
        self.setAccessibleDescription(f"{worst.kind}: {worst.late_ms:+.0f} ms" if worst else "no take yet")


class _Rows(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.even: tuple[Even, ...] = ()

    def show_rows(self, even: tuple[Even, ...]) -> None:
        self.even = even
        groups = len({e.group for e in even})
        self.setMinimumHeight(int(_TOP + _ROW * len(even) + _HEAD * groups + 6))
        self.update()

    def paint(self, painter: QPainter) -> None:
        left, right = _LABEL, self.width() - _LOUD
        middle = (left + right) / 2
        aside, upright = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignVCenter

        def x(ms: float) -> float:
            return middle + (right - left - 8) / 2 * max(-1.0, min(1.0, ms / _MOST_MS))

        painter.setFont(font(SMALL))
        painter.setPen(self.theme.colour("soft"))
        for ms in (-20, 0, 20):
            painter.drawText(QRectF(x(ms) - 30, 2, 60, 16), Qt.AlignmentFlag.AlignCenter, f"{ms:+d}" if ms else "ms")
            painter.setPen(QPen(self.theme.colour("faint_line"), 1))
            painter.drawLine(QLineF(x(ms), _TOP - 2, x(ms), self.height() - 4))
            painter.setPen(self.theme.colour("soft"))
        painter.drawText(QRectF(right, 2, _LOUD - 6, 16), aside, "dB")
        y = _TOP
        for group, rows in groupby(self.even, key=lambda e: e.group):
            painter.setFont(font(SMALL, "strong"))
            painter.setPen(self.theme.colour("ink"))
            painter.drawText(QRectF(6, y, left, _HEAD), upright, f"By {group}" if group != "turn" else "At the turns")
            y += _HEAD
            painter.setFont(font(SMALL))
            for row in rows:
                where = y + _ROW / 2
                painter.setPen(self.theme.colour("ink"))
                painter.drawText(QRectF(6, y, left - 14, _ROW), aside, f"{row.kind} ({row.count})")
                painter.drawText(QRectF(right, y, _LOUD - 6, _ROW), aside, f"{row.db:+.1f}")
                painter.setPen(QPen(self.theme.colour("soft"), 2))
                painter.drawLine(QLineF(x(row.late_ms - row.timing_ms), where, x(row.late_ms + row.timing_ms), where))
                painter.setPen(QPen(self.theme.colour("paper"), 1))
                painter.setBrush(self.theme.colour("ink"))
                painter.drawEllipse(QPointF(x(row.late_ms), where), _DOT, _DOT)
                y += _ROW

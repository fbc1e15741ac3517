"""What painted views share: a ground in the theme's colour and smooth lines; and axes of two numbers with their ticks."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import ceil, floor, log10

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from dromic.app.kit.theme import BODY, LIGHT, SMALL, Theme, font

_STEPS = (1.0, 2.0, 5.0, 10.0)
"""what a tick's step may begin with: readers count by these"""
_TICK_PX = 44.0
"""Distance of the words beside an upright axis from it, px."""
_WORDS_PX = 18.0
"""Distance of the words under a level axis from it, px."""
_TICK_GAP = 6.0
"""Distance of a tick's number from its axis, px."""
Words = Callable[[float], str]


class Picture(QWidget):
    """A widget that is painted whole; what it shows is painted by `paint`."""

    ground = "paper"
    """colour it is filled with, none where what lies under it shows"""
    smooth = True
    """whether edges are smoothed; pictures of upright boxes alone are crisper without"""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = LIGHT

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def paint(self, painter: QPainter) -> None:
        """Paint what it shows."""
        raise NotImplementedError

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        try:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, self.smooth)
            if self.ground:
                painter.fillRect(self.rect(), self.theme.colour(self.ground))
            self.paint(painter)
        finally:
            painter.end()  # not when the last reference to it goes: a fault keeps one, and the toolkit ends the program then


@dataclass(frozen=True, slots=True)
class Axes:
    """A box, and the ranges of two numbers it spans: to the right, and upwards."""

    box: QRectF
    across: tuple[float, float]
    upwards: tuple[float, float]

    def x(self, value: float) -> float:
        low, high = self.across
        return self.box.left() + self.box.width() * (value - low) / (high - low)

    def y(self, value: float) -> float:
        low, high = self.upwards
        return self.box.bottom() - self.box.height() * (value - low) / (high - low)

    def at(self, across: float, upwards: float) -> QPointF:
        return QPointF(self.x(across), self.y(upwards))

    def paint(
        self, painter: QPainter, theme: Theme, words: tuple[str, str], told: Words = lambda value: f"{value:g}"
    ) -> None:
        """Lines at the ticks, their numbers, and what the axes are, below and along the left edge."""
        right, middle = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignCenter
        painter.setFont(font(SMALL))
        for value in ticks(*self.across, self.box.width()):
            painter.setPen(QPen(theme.colour("faint_line"), 1))
            painter.drawLine(QLineF(self.x(value), self.box.top(), self.x(value), self.box.bottom()))
            painter.setPen(theme.colour("soft"))
            painter.drawText(QRectF(self.x(value) - 40, self.box.bottom() + 3, 80, 16), middle, told(value))
        for value in ticks(*self.upwards, self.box.height()):
            painter.setPen(QPen(theme.colour("faint_line"), 1))
            painter.drawLine(QLineF(self.box.left(), self.y(value), self.box.right(), self.y(value)))
            painter.setPen(theme.colour("soft"))
            beside = QRectF(self.box.left() - 60, self.y(value) - 9, 60 - _TICK_GAP, 18)
            painter.drawText(beside, right, told(value))
        painter.setPen(QPen(theme.colour("soft"), 1))
        painter.drawLine(QLineF(self.box.bottomLeft(), self.box.bottomRight()))
        painter.drawLine(QLineF(self.box.topLeft(), self.box.bottomLeft()))
        painter.setFont(font(BODY))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QRectF(self.box.left(), self.box.bottom() + _WORDS_PX, self.box.width(), 18), middle, words[0])
        painter.save()
        painter.translate(self.box.left() - _TICK_PX, self.box.center().y())
        painter.rotate(-90)
        painter.drawText(QRectF(-self.box.height() / 2, -18, self.box.height(), 18), middle, words[1])
        painter.restore()


def ticks(low: float, high: float, px: float, apart: float = 60.0) -> Iterator[float]:
    """Round numbers from `low` to `high`, at least so many px apart on an axis so many px long."""
    rough = (high - low) * apart / max(px, apart)
    ten = 10.0 ** floor(log10(rough)) if rough > 0 else 1.0
    step = next(ten * s for s in _STEPS if ten * s >= rough * (1 - 1e-9))
    yield from (n * step for n in range(ceil(low / step - 1e-9), floor(high / step + 1e-9) + 1))

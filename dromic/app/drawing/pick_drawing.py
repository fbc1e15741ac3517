"""A drawing of the pick among the strings, to scale: its path, its depth, and which stroke ends clear or buried."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, SMALL, font
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Lean, Player

CENTRE = Qt.AlignmentFlag.AlignCenter
_STRING_RADIUS_MM = 0.6
"""for looking at, not measured"""
_SHOWN_SPACINGS = 1.45
"""how far to each side of the string played the drawing goes, in string spacings"""
_ABOVE_MM = 5.0
"""Room over the strings' plane, mm of the drawing."""
_BELOW_MM = 5.0
"""Room under the strings' plane, mm of the drawing."""
_WORDS_AT = 0.27
"""how far to each side of the middle the words of a stroke stand, as a share of the width"""


class PickDrawing(Picture):
    """Looks along the strings. The string played is in the middle; a down-stroke goes to the right (for a left-hander to
    the left)."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("the pick's path among the strings")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.player: Player | None = None
        self.instrument: Instrument | None = None

    def sizeHint(self) -> QSize:
        return QSize(420, 128)

    def show_player(self, player: Player, instrument: Instrument) -> None:
        self.player, self.instrument = player, instrument
        self.setToolTip(told(player, instrument))
        self.update()

    def scale(self) -> float:
        """px per mm."""
        assert self.instrument is not None
        wide = 2 * _SHOWN_SPACINGS * self.instrument.pick_spacing_mm
        return min(self.width() / wide, (self.height() - 40) / (_ABOVE_MM + _BELOW_MM))

    def place(self, across_mm: float, height_mm: float) -> QPointF:
        """Pixels of a place, mm from the string played towards string 1 and over the strings' plane."""
        way = -1 if self.player is not None and self.player.habits.left_handed else 1
        plane = 20 + (self.height() - 40) * _ABOVE_MM / (_ABOVE_MM + _BELOW_MM)
        return QPointF(self.width() / 2 + way * across_mm * self.scale(), plane - height_mm * self.scale())

    def paint(self, painter: QPainter) -> None:
        if self.player is None or self.instrument is None:
            return
        spacing, theme = self.instrument.pick_spacing_mm, self.theme
        painter.setPen(QPen(theme.colour("line"), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(0, self.place(0, 0).y()), QPointF(self.width(), self.place(0, 0).y()))
        clear = self.place(0, self.player.clearance_mm).y()
        painter.setPen(QPen(theme.colour("soft"), 1.0, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(0, clear), QPointF(self.width(), clear))
        painter.setFont(font(SMALL))
        painter.drawText(
            QRectF(6, clear - 16, 200, 14), Qt.AlignmentFlag.AlignLeft, f"clear from {self.player.clearance_mm:g} mm up"
        )
        for lean in reversed(self.player.leans):
            self._path(painter, lean, faint=lean is not self.player.leans[0])
        for n in (-1, 0, 1):
            at = self.place(n * spacing, 0)
            painter.setPen(QPen(theme.colour("ink"), 1.5))
            painter.setBrush(theme.colour("ink" if not n else "raised"))
            radius = max(4.0, _STRING_RADIUS_MM * self.scale())
            painter.drawEllipse(at, radius, radius)
        for sign, name in ((1, "down"), (-1, "up")):
            self._verdict(painter, self.player.leans[0], sign, name)
        self._sample(painter)

    def _path(self, painter: QPainter, lean: Lean, faint: bool) -> None:
        assert self.player is not None and self.instrument is not None
        most = 1.22 * self.instrument.pick_spacing_mm
        path = QPainterPath(self.place(-most, lean.height_mm(-most, self.player.depth_mm)))
        steps = 40
        for n in range(1, steps + 1):
            u = -most + 2 * most * n / steps
            path.lineTo(self.place(u, lean.height_mm(u, self.player.depth_mm)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        style = Qt.PenStyle.DotLine if faint else Qt.PenStyle.SolidLine
        painter.setPen(QPen(self.theme.colour("pick", 0.6 if faint else 1.0), 2.0 if faint else 3.4, style))
        painter.drawPath(path)
        if faint:
            return
        # the tip, at its deepest under the string played
        tip = self.place(0, lean.height_mm(0.0, self.player.depth_mm))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("pick"))
        painter.drawPolygon(QPolygonF([tip, QPointF(tip.x() - 9, tip.y() - 26), QPointF(tip.x() + 9, tip.y() - 26)]))

    def _verdict(self, painter: QPainter, lean: Lean, sign: int, name: str) -> None:
        """At the neighbour string: how high the tip is there, and what that comes to."""
        assert self.player is not None and self.instrument is not None
        spacing = self.instrument.pick_spacing_mm
        height = lean.height_mm(sign * spacing, self.player.depth_mm)
        clears = self.player.clears(lean, sign, spacing)
        at = self.place(sign * spacing, height)
        theme = self.theme
        painter.setPen(QPen(theme.colour("pick"), 2.4))
        painter.setBrush(theme.colour("pick") if not clears else theme.colour("paper"))
        painter.drawEllipse(at, 6, 6)
        painter.setFont(font(BODY, "heavy"))
        painter.setPen(theme.colour("pick"))
        way = -1 if self.player.habits.left_handed else 1
        x = self.width() * (0.5 + way * sign * _WORDS_AT)
        painter.drawText(QRectF(x - 110, 2, 220, 18), CENTRE, f"{name}-stroke ends {'clear' if clears else 'buried'}")
        side = "higher" if sign > 0 else "lower"
        painter.setFont(font(SMALL))
        painter.setPen(theme.colour("soft"))
        painter.drawText(QRectF(x - 110, self.height() - 18, 220, 16), CENTRE, f"next {side} string: {height:+.1f} mm")

    def _sample(self, painter: QPainter) -> None:
        long = 5.0 * self.scale()
        painter.setPen(QPen(self.theme.colour("soft"), 2.0))
        y = self.height() - 22
        middle = self.width() / 2
        painter.drawLine(QLineF(middle - long / 2, y, middle + long / 2, y))
        painter.setFont(font(SMALL))
        painter.drawText(QRectF(middle - 30, y + 3, 60, 15), CENTRE, "5 mm")


def told(player: Player, instrument: Instrument) -> str:
    """What the drawing shows, in words."""
    words = []
    for sign, name in ((1, "Down-strokes"), (-1, "Up-strokes")):
        clears = [player.clears(lean, sign, instrument.pick_spacing_mm) for lean in player.leans]
        words.append(f"{name} end {'clear' if all(clears) else 'buried' if not any(clears) else 'clear with one lean'}")
    return "; ".join(words)

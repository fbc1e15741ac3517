"""A small drawing of a lean beside its name: three strings, looked along, and the path the pick's tip takes among them."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QIcon, QPainter, QPainterPath, QPen, QPixmap

from dromic.app.kit.theme import Theme
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Lean, Player

ICON = QSize(44, 20)
_DENSE = 2
"""pixels drawn for one shown, so that it stays sharp on dense screens"""
_WIDE = 1.35
"""how far to each side it goes, in string spacings"""
_STEPS = 16


def path_of(
    lean: Lean, player: Player, instrument: Instrument, size: QSize = ICON
) -> tuple[list[QPointF], list[QPointF]]:
    """Where the tip's path and the three strings lie in a drawing of a size, to scale; mirrored for the left-handed."""
    spacing = instrument.pick_spacing_mm
    scale = size.width() / (2 * _WIDE * spacing)
    way = -1 if player.habits.left_handed else 1

    def place(across_mm: float, height_mm: float) -> QPointF:
        return QPointF(size.width() / 2 + way * across_mm * scale, size.height() / 2 - height_mm * scale)

    across = [(2 * n / _STEPS - 1) * 1.2 * spacing for n in range(_STEPS + 1)]
    return [place(u, lean.height_mm(u, player.depth_mm)) for u in across], [place(n * spacing, 0) for n in (-1, 0, 1)]


def paint_lean(
    painter: QPainter, leans: Sequence[Lean], player: Player, instrument: Instrument, theme: Theme, at: QPointF
) -> None:
    """The drawing, its left upper corner at a place; a second lean the player can change to is dotted."""
    painter.save()
    painter.translate(at)
    for lean in reversed(leans):
        points, strings = path_of(lean, player, instrument)
        path = QPainterPath(points[0])
        for point in points[1:]:
            path.lineTo(point)
        style = Qt.PenStyle.SolidLine if lean is leans[0] else Qt.PenStyle.DotLine
        painter.setPen(QPen(theme.colour("pick"), 2.0, style))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("ink"))
        for string in strings:
            painter.drawEllipse(string, 2.2, 2.2)
    painter.restore()


def lean_icon(leans: Sequence[Lean], player: Player, instrument: Instrument, theme: Theme) -> QIcon:
    """The drawing as a picture, for a list."""
    picture = QPixmap(ICON * _DENSE)
    picture.fill(Qt.GlobalColor.transparent)
    picture.setDevicePixelRatio(_DENSE)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_lean(painter, leans, player, instrument, theme, QPointF(0, 0))
    painter.end()
    return QIcon(picture)

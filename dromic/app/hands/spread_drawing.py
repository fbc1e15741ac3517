"""How far each finger spreads from the next, drawn on a ruler as a player would measure it: four fingertips in mm."""

from __future__ import annotations

from itertools import accumulate, pairwise

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, SMALL, font
from dromic.core.setup.player import Player

NAMES = ("index", "middle", "ring", "little")
_SHOWN_MM = 130.0
_TIP_MM = 6.0
"""radius of a fingertip, for looking at"""


class SpreadDrawing(Picture):
    """Fingertips over a ruler, the spread at ease between neighbours written between them."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("fingertips on a ruler")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.player: Player | None = None

    def sizeHint(self) -> QSize:
        return QSize(420, 70)

    def show_player(self, player: Player) -> None:
        self.player = player
        spreads = ", ".join(
            f"{a} to {b} {mm:g} mm" for a, b, mm in zip(NAMES, NAMES[1:], player.fretting.spread_mm, strict=False)
        )
        self.setToolTip(f"Lay a hand on a ruler and open it without effort: {spreads}")
        self.update()

    def tips_mm(self) -> tuple[float, ...]:
        """Where each fingertip lies on the ruler, the index at 0."""
        return (0.0, *accumulate(self.player.fretting.spread_mm)) if self.player is not None else ()

    def paint(self, painter: QPainter) -> None:
        tips = self.tips_mm()
        scale, left, line = (self.width() - 40) / _SHOWN_MM, 24.0, 44.0
        painter.setPen(QPen(self.theme.colour("line"), 1.0))
        painter.setFont(font(SMALL))
        for mm in range(0, int(_SHOWN_MM) + 1, 5):
            x = left + mm * scale
            painter.drawLine(QPointF(x, line), QPointF(x, line + (10 if mm % 10 == 0 else 5)))
            if mm % 20 == 0:
                painter.drawText(
                    QRectF(x - 20, line + 11, 40, 16), Qt.AlignmentFlag.AlignCenter, f"{mm} mm" if not mm else str(mm)
                )
        painter.setPen(QPen(self.theme.colour("fret"), 1.6))
        for name, at in zip(NAMES, tips, strict=False):
            x = left + at * scale
            painter.setBrush(self.theme.colour("raised"))
            painter.drawEllipse(QPointF(x, line - 13), _TIP_MM * scale * 0.7, 10.0)
            painter.drawText(QRectF(x - 40, 1, 80, 16), Qt.AlignmentFlag.AlignCenter, name)
        painter.setFont(font(BODY, "strong"))
        for a, b in pairwise(tips):
            middle = left + (a + b) / 2 * scale
            painter.drawText(QRectF(middle - 30, line - 23, 60, 20), Qt.AlignmentFlag.AlignCenter, f"{b - a:g}")

"""The skyline: the phrase from left to right, how fast each note has been clean, under its ceiling and the target."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, SMALL, font
from dromic.core.practice.skyline import Tower

LEFT = 58.0
"""Room left of the picture for numbers, px."""
RIGHT = 76.0
"""Room right of it for names, px."""
TOP = 26.0
"""Room over it for the caption, px."""
BOTTOM = 22.0
"""Room under it for bars, px."""
_LEGEND = (
    ("Filled: the tempo a note has been clean at. Roof: its ceiling, an estimate, set by the", "soft"),
    ("picking hand", "pick"), ("or the", "soft"), ("fretting hand", "fret"), ("– under the target", "soft"),
    ("it does not fit", "hurt"),
)  # fmt: skip
_GAP = 0.18
"""of a tower's width that stays free"""
_SHOWN = 1.5
"""Top edge as a share of the target, at least."""
_MOST_SHOWN = 3.0
"""Top edge as a share of the target, at most: ceilings over it are cut off."""
_LOWEST = 0.25
"""share of the ceilings, the lowest, that are to be seen under it"""
_ROOM = 1.05
"""by how much the edge lies over the highest of these"""


class SkylineView(Picture):
    """A tower a note: filled up to the tempo it has been clean at, a roof at its ceiling in the colour of the hand that sets it
    (an estimate), the target across. Where a roof lies under the target it is red: the plan must change, not the practice."""

    picked = pyqtSignal(int)
    """an event, clicked"""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.towers: tuple[Tower, ...] = ()
        self.target = self.top = 0.0
        """in quarters a minute, the tempo at the upper edge too"""
        self.marked: tuple[int, ...] = ()
        """events of the drill chosen"""
        self.setMinimumHeight(150)
        self.setAccessibleName("tempo at which each note has been clean, under its ceiling")

    def show_towers(self, towers: tuple[Tower, ...], target: float) -> None:
        self.towers, self.target = towers, target
        ceilings = sorted(t.ceiling for t in towers if t.ceiling is not None)
        lowest = ceilings[int(_LOWEST * len(ceilings))] if ceilings else 0.0
        self.top = target * min(max(_SHOWN, _ROOM * lowest / target), _MOST_SHOWN) if target else 0.0
        best = sum(t.clean is not None for t in towers)
        self.setAccessibleDescription(f"{best} of {len(towers)} notes have been clean; target {target:g}")
        self.update()

    def mark(self, events: tuple[int, ...]) -> None:
        self.marked = events
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.towers:
            number = int((event.position().x() - LEFT) / self._step())
            if 0 <= number < len(self.towers):
                self.picked.emit(number)

    def paint(self, painter: QPainter) -> None:
        if not self.towers:
            painter.setPen(self.theme.colour("soft"))
            painter.setFont(font(BODY))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Nothing planned to practise")
            return
        self._scale(painter)
        for number, tower in enumerate(self.towers):
            self._tower(painter, number, tower)
        self._target(painter)

    def _step(self) -> float:
        return (self.width() - LEFT - RIGHT) / max(1, len(self.towers))

    def _y(self, tempo: float) -> float:
        return self.height() - BOTTOM - (self.height() - TOP - BOTTOM) * min(tempo, self.top) / self.top

    def _scale(self, painter: QPainter) -> None:
        painter.setFont(font(BODY))
        step = next(s for s in (10, 20, 25, 50, 100, 200, 400) if self.top / s <= 6 or s == 400)
        for n in range(int(self.top // step) + 1):
            y = self._y(n * step)
            painter.setPen(QPen(self.theme.colour("faint_line"), 1))
            painter.drawLine(QLineF(LEFT, y, self.width() - RIGHT, y))
            painter.setPen(self.theme.colour("soft"))
            where = QRectF(0, y - 9, LEFT - 8, 18)
            painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{n * step}")
        x = LEFT
        for words, colour in _LEGEND:
            painter.setPen(self.theme.colour(colour))
            painter.setFont(font(BODY, "normal" if colour == "soft" else "strong"))
            painter.drawText(QPointF(x, 16), words)
            x += painter.fontMetrics().horizontalAdvance(words + " ")

    def _tower(self, painter: QPainter, number: int, tower: Tower) -> None:
        step, ground = self._step(), self._y(0)
        x, width = LEFT + number * step + step * _GAP / 2, max(1.5, step * (1 - _GAP))
        if number in self.marked:
            painter.fillRect(QRectF(LEFT + number * step, TOP, step, ground - TOP), self.theme.colour("band"))
        if tower.clean is not None:
            y = self._y(tower.clean)
            painter.fillRect(QRectF(x, y, width, ground - y), self.theme.colour("ink", 0.62))
        else:
            painter.setPen(QPen(self.theme.colour("line"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(x, ground - 6, width, 6))
        if tower.ceiling is not None and tower.ceiling <= self.top:
            fits = tower.ceiling >= self.target
            colour = ("pick" if tower.hand == "picking" else "fret") if fits else "hurt"
            pen = QPen(self.theme.colour(colour), 4)
            pen.setCapStyle(Qt.PenCapStyle.FlatCap)
            painter.setPen(pen)
            y = self._y(tower.ceiling)
            painter.drawLine(QLineF(x, y, x + width, y))
        if tower.bar is not None:
            painter.setPen(self.theme.colour("soft"))
            painter.setFont(font(SMALL))
            painter.drawText(QPointF(x, self.height() - 6), str(tower.bar))

    def _target(self, painter: QPainter) -> None:
        y = self._y(self.target)
        painter.setPen(QPen(self.theme.colour("ink"), 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(QLineF(LEFT, y, self.width() - RIGHT, y))
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(BODY, "strong"))
        painter.drawText(QPointF(self.width() - RIGHT + 6, y - 2), "target")
        painter.drawText(QPointF(self.width() - RIGHT + 6, y + 13), f"{self.target:g}")

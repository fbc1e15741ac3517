"""What a player plays, chosen once: a card for each kind of music with eight strokes of the school it begins in."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QPushButton, QSizePolicy, QWidget

from dromic import presets
from dromic.app.drawing.glyphs import stroke_glyph
from dromic.app.kit.theme import BODY, LIGHT, SMALL, Theme, font

SETTING = "plays"
"""under which name it is kept"""
TALL = 50
"""Height of a card, px."""
_PICTURE = 132.0
"""Width of its picture, px."""
_EDGE = 12.0
"""Room around its words and picture, px."""
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


def kinds() -> list[dict[str, Any]]:
    """What can be played, each with its school and a line in eight strokes."""
    found: list[dict[str, Any]] = presets.data("plays.toml")["plays"]
    return found


def school_of(plays: str) -> str:
    """The school that what a player plays begins in; empty where nothing has been said, or nothing known."""
    return next((str(kind["school"]) for kind in kinds() if kind["name"] == plays), "")


class SchoolCard(QPushButton):
    """One kind of music: its strokes on the strings they meet, its name and its school."""

    def __init__(self, kind: dict[str, Any], theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.kind, self.theme = kind, theme
        self.school = presets.schools()[kind["school"]]
        self.setObjectName("glance")
        self.setCheckable(True)
        self.setFixedHeight(TALL)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip(f"{self.school.label}: {self.school.text}")
        self.setAccessibleName(f"{kind['label']}, begins in {self.school.label}")
        # the string of each word of the line
        self.strings = [int(word.partition(".")[0]) for word in kind["line"].split()]

    def sizeHint(self) -> QSize:
        return QSize(320, TALL)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter, theme = QPainter(self), self.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(_EDGE, 7, _PICTURE, TALL - 12)
        low, high = min(self.strings) - 1, max(self.strings) + 1
        lines = range(max(1, low), high + 1)
        gap = (box.height() - 14) / max(1, len(lines) - 1)

        def y(string: int) -> float:
            return box.top() + 14 + (lines[-1] - string) * gap

        painter.setPen(QPen(theme.colour("line"), 0.8))
        for string in lines:
            painter.drawLine(QLineF(box.left(), y(string), box.right(), y(string)))
        step = box.width() / len(self.strings)
        for n, (string, stroke) in enumerate(zip(self.strings, self.kind["strokes"], strict=True)):
            x = box.left() + (n + 0.5) * step
            stroke_glyph(painter, theme.colour("pick"), QPointF(x, box.top() + 3), stroke, 10)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("pick"))
            painter.drawEllipse(QPointF(x, y(string)), 3.2, 3.2)
        left = box.right() + 14
        for top, words, size, weight, colour in (
            (6.0, self.kind["label"], BODY, "strong", "ink"),
            (25.0, f"begins in {self.school.label}", SMALL, "normal", "soft"),
        ):
            painter.setFont(font(size, weight))
            painter.setPen(theme.colour(colour))
            room = QRectF(left, top, self.width() - left - _EDGE, 20)
            cut = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, _LEFT, cut)


class SchoolCards(QWidget):
    """All of them; `chosen` carries the name of what is played."""

    chosen = pyqtSignal(str)

    def __init__(self, plays: str, theme: Theme = LIGHT, columns: int = 1, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(6)
        self.cards = [SchoolCard(kind, theme, self) for kind in kinds()]
        for n, card in enumerate(self.cards):
            card.clicked.connect(partial(self._choose, card.kind["name"]))
            grid.addWidget(card, n // columns, n % columns)
        self.show_played(plays)

    def show_played(self, plays: str) -> None:
        """Mark what is played."""
        for card in self.cards:
            card.setChecked(card.kind["name"] == plays)

    def set_theme(self, theme: Theme) -> None:
        for card in self.cards:
            card.theme = theme
            card.update()

    def _choose(self, plays: str, _checked: bool = False) -> None:
        self.show_played(plays)
        self.chosen.emit(plays)

"""What is said of the chosen note, laid out by hand: what is played, what each hand does, what is damped, and what is yours."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, font

_ASIDE = 84.0
"""Width of the column that names the hand, px."""
_EDGE = 8.0
"""Room around everything, px."""
_GAP = 1.0
"""Room between rows, px."""
_TALL = 148
_WRAPPED = int(Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap)
_HANDS = {
    "Picking hand": ("picking", "pick"), "Fretting hand": ("fretting", "fret"), "Idle strings damped": ("damped", "ink"),
    "Costs most here, estimated": ("costs most", "ink"), "Your words": ("your words", "ink"),
}  # fmt: skip
"""what a line begins with: how its row is named, and the colour of the name"""
_YOURS = "yours", "ink"
Laid = tuple[QRectF, str, str, str]
"""where, what, its colour, its weight"""


class NoteWords(Picture):
    """A heading and rows, each with its hand at the left; or one text where no note is chosen. Painted, since it is said anew
    with every plan and every note, where a form of labels would be laid out anew."""

    ground = ""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._lines: tuple[str, ...] = ()
        self._laid: list[Laid] = []
        self.setMinimumHeight(_TALL)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)

    def sizeHint(self) -> QSize:
        return QSize(200, _TALL)

    def text(self) -> str:
        """All that is said."""
        return "\n".join(self._lines)

    def say(self, lines: Sequence[str]) -> None:
        """The lines of a note: what is played first, then a row each. One line alone is a text of no note."""
        if tuple(lines) == self._lines:
            return
        self._lines = tuple(lines)
        self.setAccessibleDescription(self.text())
        self._lay_out()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay_out()

    def _lay_out(self) -> None:
        self._laid = list(self._rows())
        bottom = max((rect.bottom() for rect, *_ in self._laid), default=0.0)
        self.setMinimumHeight(max(_TALL, int(bottom + _EDGE)))
        self.update()

    def _rows(self) -> Iterator[Laid]:
        measured, top = QFontMetricsF(font(BODY)), _EDGE
        for n, line in enumerate(self._lines):
            who, parted, said = line.partition(": ")
            name, look = _HANDS.get(who, _YOURS) if parted else _YOURS
            left = _EDGE + (_ASIDE if n else 0.0)
            words = said if n and who in _HANDS else line
            room = QRectF(left, top, max(80.0, self.width() - left - _EDGE), 10000.0)
            told = measured.boundingRect(room, _WRAPPED, words)
            if n:
                yield QRectF(_EDGE, top, _ASIDE - _GAP, told.height()), name, look, "strong"
            yield QRectF(left, top, room.width(), told.height() + _GAP), words, "ink", "normal"
            top = told.bottom() + _GAP

    def paint(self, painter: QPainter) -> None:
        for rect, words, look, weight in self._laid:
            painter.setPen(self.theme.colour(look))
            painter.setFont(font(BODY, weight))
            painter.drawText(rect, _WRAPPED, words)

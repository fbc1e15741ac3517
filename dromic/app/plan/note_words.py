"""What is said of the chosen note, laid out by hand: what is played, what each hand does, what is damped, and what is yours."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QSizePolicy, QWidget

from dromic.app.kit.theme import font, relook

_HANDS = {"Picking hand": "pick", "Fretting hand": "fret", "Idle strings damped": "ink", "Your words": "ink"}
"""what a line begins with: the colour it is told in"""
_SHORT = {
    "Picking hand": "picking",
    "Fretting hand": "fretting",
    "Idle strings damped": "damped",
    "Your words": "your words",
}
_YOURS = "yours"
_MOST_ROWS, _SIZE = 7, 13


class NoteWords(QWidget):
    """A heading and rows, each with its hand at the left; or one text where no note is chosen."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._lines: tuple[str, ...] = ()
        self.head = QLabel()
        self.rows = [(QLabel(), QLabel()) for _ in range(_MOST_ROWS)]
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(1)
        grid.addWidget(self.head, 0, 0, 1, 2)
        for n, (hand, words) in enumerate(self.rows, start=1):
            grid.addWidget(hand, n, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(words, n, 1)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(_MOST_ROWS + 1, 1)
        for label in (self.head, *(words for _, words in self.rows)):
            label.setWordWrap(True)
            label.setFont(font(_SIZE))
            label.setTextFormat(Qt.TextFormat.PlainText)
            label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.say(())

    def text(self) -> str:
        """All that is said."""
        return "\n".join(self._lines)

    def setText(self, text: str) -> None:
        """Say one text, of no note."""
        self._show((text,), ())

    def say(self, lines: Sequence[str]) -> None:
        """The lines of a note: what is played first, then a row each."""
        self._show(tuple(lines[:1]), tuple(lines[1:]))

    def _show(self, head: tuple[str, ...], rest: tuple[str, ...]) -> None:
        self._lines = (*head, *rest)
        self.head.setText("\n".join(head))
        self.setAccessibleDescription(self.text())
        for n, (hand, words) in enumerate(self.rows):
            shown = n < len(rest)
            hand.setVisible(shown)
            words.setVisible(shown)
            if not shown:
                continue
            who, _, said = rest[n].partition(": ")
            known = who in _HANDS
            hand.setText(_SHORT[who] if known else _YOURS)
            look = _HANDS.get(who, "ink")
            if hand.objectName() != look:
                relook(hand, look)
            words.setText(said if known else rest[n])

"""What there is to say above every page: one sentence, which stays until it was there to be read and the player goes on."""

from __future__ import annotations

from PyQt6.QtCore import QElapsedTimer
from PyQt6.QtWidgets import QLabel, QWidget

from dromic.app.book.planning import READ_MS
from dromic.app.kit import theme


class Notice(QLabel):
    """Nothing takes a sentence away but another one, another phrase, or another page."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMargin(8)
        self.setWordWrap(True)
        self.setObjectName("hurt")
        self._said = QElapsedTimer()
        self.hide()

    def say(self, sentence: str, calm: bool) -> None:
        """Say it, calmly or as a fault; nothing hides what there was."""
        if sentence:
            theme.relook(self, "soft" if calm else "hurt")
            self.setText(sentence)
            self._said.start()
        self.setVisible(bool(sentence))

    def leave(self) -> None:
        """The player goes to another page; a sentence younger than READ_MS comes along: it was said on the way there."""
        if self._said.isValid() and self._said.hasExpired(READ_MS):
            self.hide()

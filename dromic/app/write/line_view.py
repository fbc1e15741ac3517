"""The quick line as it is typed: the text, the fault underlined where it is, and what it means in words below."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QTextCharFormat, QTextCursor
from PyQt6.QtWidgets import QLabel, QPlainTextEdit, QTextEdit, QVBoxLayout, QWidget

from dromic.app.kit.theme import HEAD, LIGHT, Theme, relook

PARSE_AFTER_MS = 120
HELP = (
    "6.0 string.fret   E4 a name   + together   :e length (w h q e s t z, dots, 3 for triplets)   r rest   - hold on   "
    "| bar   |: :|3 repeat   [1] ending\n"
    "before a note: h hammer  p pull  s slide  n hammer from nowhere  t tap      after it: _ palm mute  ! accent  x dead  "
    "* ring  v vibrato  ^1 bend  ^1r and back  /d /u stroke  @2 finger  ?1 doubtful, or a semitone higher  'your words'"
)


class LineView(QWidget):
    """Says what was typed, once the player pauses; is told the text of the phrase and the fault in it."""

    typed = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.text, self.words = QPlainTextEdit(), QLabel(HELP)
        self.text.setAccessibleName("quick line")
        self.text.setTabChangesFocus(True)
        self.text.setPlaceholderText("The phrase as one line: 6.0:e 6.3 5.2:q | …")
        self.words.setAccessibleName("what the quick line says")
        self.words.setWordWrap(True)
        self.words.setObjectName("soft")
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 6)
        column.setSpacing(4)
        column.addWidget(self.text, 1)
        column.addWidget(self.words)
        self.theme: Theme = LIGHT
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(PARSE_AFTER_MS)
        self._soon.timeout.connect(lambda: self.typed.emit(self.text.toPlainText()))
        self.text.textChanged.connect(self._soon.start)
        shown = QFont(self.text.font())
        shown.setPixelSize(HEAD)
        self.text.setFont(shown)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme

    def show_line(self, line: str) -> None:
        """The line of a phrase changed elsewhere; what is being typed is left alone."""
        if line == self.text.toPlainText() or self._soon.isActive():
            return
        with QSignalBlocker(self.text):
            self.text.setPlainText(line)
        self.show_fault(None)

    def flush(self) -> None:
        """Take over at once what was typed last."""
        if self._soon.isActive():
            self._soon.stop()
            self.typed.emit(self.text.toPlainText())

    def show_fault(self, fault: tuple[int, int, str] | None, remarks: tuple[str, ...] = ()) -> None:
        """Underline a fault and say it in words; None where there is none."""
        marked = []
        if fault is not None:
            start, end, words = fault
            part = QTextEdit.ExtraSelection()
            cursor = QTextCursor(self.text.document())
            last = len(self.text.toPlainText())
            cursor.setPosition(min(start, max(last - 1, 0)))
            cursor.setPosition(min(max(end, start + 1), last), QTextCursor.MoveMode.KeepAnchor)
            look = QTextCharFormat()
            look.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            look.setUnderlineColor(QColor(self.theme.hurt))
            look.setFontWeight(QFont.Weight.Bold)
            part.cursor, part.format = cursor, look
            marked.append(part)
            self._say(f"Column {start + 1}: {words}. The grid keeps the last line that was right.", "hurt")
        elif remarks:
            self._say("; ".join(remarks), "soft")
        else:
            self._say(HELP, "soft")
        self.text.setExtraSelections(marked)

    def _say(self, words: str, look: str) -> None:
        self.words.setText(words)
        relook(self.words, look)

"""What a window without a phrase shows: begin, open, go on where one stopped, or take back what was lost."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from dromic.store.recovery import Leftover


class StartView(QWidget):
    """A column of choices, each a button."""

    begin = pyqtSignal()
    ask_open = pyqtSignal()
    paste = pyqtSignal()
    open_path = pyqtSignal(object)
    recover = pyqtSignal(object)

    def __init__(self, demo: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.demo = demo
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(120, 60, 120, 60)
        self.column.setSpacing(8)

    def show_choices(self, recent: list[Path], lost: list[Leftover]) -> None:
        while (item := self.column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        heading = QLabel("Both hands, planned")
        heading.setObjectName("big")
        self.column.addWidget(heading)
        self._words("Write a phrase or open one; Dromic finds the strokes and the fingers, and says where it hurts.")
        if lost:
            self._section("Not saved when Dromic last went away")
            for left in lost:
                name = left.path.name if left.path else "a songbook without a file"
                self._button(f"Take back {name}", partial(self.recover.emit, left))
        self._section("Begin")
        first = self._button("Write a new phrase", self.begin.emit)
        self._button("Paste   (tablature, ABC, a quick line, MusicXML)", self.paste.emit)
        self._button("Open a file…   (songbook, MusicXML, MIDI, ABC, tablature)", self.ask_open.emit)
        self._button("Open the demo songbook", lambda: self.open_path.emit(self.demo))
        if recent:
            self._section("Go on with")
            for path in recent:
                button = self._button(path.name, partial(self.open_path.emit, path))
                button.setToolTip(str(path))
        self.column.addStretch(1)
        first.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter does what Space does: the button that has the keyboard is pressed."""
        chosen = self.focusWidget()
        if event is not None and event.matches(QKeySequence.StandardKey.Paste):
            self.paste.emit()
            return
        enter = event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and isinstance(chosen, QPushButton):
            chosen.click()
        else:
            super().keyPressEvent(event)

    def _words(self, text: str) -> None:
        label = QLabel(text)
        label.setObjectName("soft")
        label.setWordWrap(True)
        self.column.addWidget(label)

    def _section(self, text: str) -> None:
        self.column.addSpacing(14)
        label = QLabel(text)
        label.setObjectName("section")
        self.column.addWidget(label)

    def _button(self, text: str, act: Callable[[], object]) -> QPushButton:
        button = QPushButton(text)
        button.setMinimumHeight(34)
        button.setMaximumWidth(520)
        button.setStyleSheet("text-align: left; padding: 4px 12px;")
        button.clicked.connect(lambda _checked=False: act())
        self.column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        button.setMinimumWidth(520)
        return button

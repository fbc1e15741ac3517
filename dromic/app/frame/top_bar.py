"""The bar along the top of the window: the places in the order of the work, the phrases of the songbook, its menu."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QSizePolicy, QWidget

PLACES = ("Write", "Plan", "Weigh", "Shed", "Listen")
KEYS = {"Shed": "Ctrl+5", "Listen": "Ctrl+6"}
"""of places whose key is not the next one"""
_LIST_PX = 280
"""the least width of the list of phrases"""


class TopBar(QWidget):
    """Holds the buttons and the list."""

    chosen = pyqtSignal(str)
    """a place, by its name"""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 4, 10, 0)
        row.setSpacing(2)
        self.places: dict[str, QPushButton] = {}
        for name in PLACES:
            button = QPushButton(name)
            button.setObjectName("place")
            button.setCheckable(True)
            button.setChecked(name == "Plan")
            button.setAutoExclusive(True)
            button.clicked.connect(lambda _, name=name: self.chosen.emit(name))
            number = PLACES.index(name) + 1
            key = KEYS.get(name, f"F{number + 1}")
            button.setToolTip(f"{name} ({key})")
            self.places[name] = button
            row.addWidget(button)
        row.addStretch(1)
        self.tunes = QComboBox()
        self.tunes.setAccessibleName("phrase")
        self.tunes.setMinimumWidth(_LIST_PX)
        self.tunes.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        row.addWidget(self.tunes)
        self.book_button, self.open_button = QPushButton("Songbook"), QPushButton("Open…")
        self.theme_button = QPushButton()
        self.book_button.setObjectName("menu")
        for button in (self.book_button, self.open_button, self.theme_button):
            row.addSpacing(6)
            row.addWidget(button)

    def show_names(self, names: list[str], number: int) -> None:
        """List the phrases, the one with this number (from 1) as the open one."""
        self.tunes.clear()
        self.tunes.addItems(names)
        self.tunes.setCurrentIndex(number - 1)

    def show_place(self, name: str) -> None:
        """A place is shown; a page that has no button belongs to Plan."""
        self.places[name if name in self.places else "Plan"].setChecked(True)

    def leave(self) -> None:
        """No place is shown."""
        for button in self.places.values():
            button.setAutoExclusive(False)
            button.setChecked(False)
            button.setAutoExclusive(True)

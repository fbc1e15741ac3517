"""A column of widgets that may be made smaller than they would like to be, and scrolls only when they cannot be."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget


class _Column(QVBoxLayout):
    """Its least height counts. Lines that wrap would have it ask for the height it likes best instead, so that a window a
    little lower than that would scroll although everything fits."""

    def hasHeightForWidth(self) -> bool:
        return False


class Roomy(QScrollArea):
    """Holds a column of widgets."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        inside = QWidget()
        self.column = _Column(inside)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(4)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidget(inside)

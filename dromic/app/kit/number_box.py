"""A box for a number whose steps are on the window's undo stack: unless something is being typed, Ctrl+Z is the window's there too."""

from __future__ import annotations

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QDoubleSpinBox

_STEPS = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)


class NumberBox(QDoubleSpinBox):
    """Leaves undo and redo to the window unless there is something typed to take back."""

    def event(self, event: QEvent | None) -> bool:
        edit = self.lineEdit()
        asked = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride
        if asked and edit is not None and not (edit.isUndoAvailable() or edit.isRedoAvailable()):
            assert isinstance(event, QKeyEvent)
            if any(event.matches(step) for step in _STEPS):
                event.ignore()
                return False
        return super().event(event)

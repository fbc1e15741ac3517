"""One ring around whatever has the keyboard, the same for every kind of control."""

from __future__ import annotations

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtWidgets import QApplication, QFocusFrame, QWidget


class FocusRing(QObject):
    """Follows the focus within one window; menus and questions, windows of their own, keep their own look."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.window = window
        self.frame = QFocusFrame(window)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._moved)

    def _moved(self, _before: QWidget | None, now: QWidget | None) -> None:
        if now is None or now.window() is self.window:
            reached = now is not None and now.focusPolicy() & Qt.FocusPolicy.TabFocus
            self.frame.setWidget(now if reached else None)

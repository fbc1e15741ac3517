"""One ring around whatever has the keyboard, the same for every kind of control."""

from __future__ import annotations

from PyQt6 import sip
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
        if now is not None and now.window() is not self.window:
            return
        reached = now is not None and now.focusPolicy() & Qt.FocusPolicy.TabFocus
        if sip.isdeleted(self.frame):
            # Qt lets the frame stand in the nearest area that scrolls, and deletes it with that area
            if not reached:
                return
            self.frame = QFocusFrame(self.window)
        self.frame.setWidget(now if reached else None)

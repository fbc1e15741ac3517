"""Timers that fire once."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer


def once(parent: QObject, after_ms: int, act: Callable[[], object]) -> QTimer:
    """A timer, not started yet, that does something once so long after it is started."""
    timer = QTimer(parent)
    timer.setSingleShot(True)
    timer.setInterval(after_ms)
    timer.timeout.connect(act)
    return timer

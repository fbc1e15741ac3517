"""How long the interface thread is held: the longest time between two beats of a timer that should beat every millisecond."""

from __future__ import annotations

import time

BEAT_MS = 1


class Heartbeat:
    """Beats from now on."""

    def __init__(self) -> None:
        from PyQt6.QtCore import QTimer

        self._last, self.longest_ms = time.perf_counter(), 0.0
        self._timer = QTimer()
        self._timer.setInterval(BEAT_MS)
        self._timer.timeout.connect(self._beat)
        self._timer.start()

    def _beat(self) -> None:
        now = time.perf_counter()
        self.longest_ms = max(self.longest_ms, 1000 * (now - self._last))
        self._last = now

    def begin(self) -> None:
        """Count from here."""
        self._last, self.longest_ms = time.perf_counter(), 0.0

    def stop(self) -> None:
        self._timer.stop()

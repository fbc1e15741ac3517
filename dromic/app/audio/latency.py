"""Measures the latency from playing to hearing for an input, and keeps it from day to day."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QSettings, QTimer, pyqtSignal

from dromic import presets
from dromic.app.audio.input import GONE, RATE, Input, best_input
from dromic.app.audio.output import Output, best_output
from dromic.app.audio.sync import Sync
from dromic.app.kit.worker import Worker
from dromic.core.listening.latency import Latency, latency_of

if TYPE_CHECKING:
    from dromic.sound.string import Samples

_KEY = "ways"
"""name of the setting, as the first versions wrote it"""
_LOOK_MS = 50
_LEAD_S = 0.5
"""of silence before the first click"""


class Latencies:
    """The latencies that were measured, in seconds, by the label of the input."""

    def __init__(self, settings: QSettings | None) -> None:
        self.settings = settings

    def of(self, label: str) -> float | None:
        """None where it was not measured."""
        found = self._all().get(label)
        return found if isinstance(found, float) and abs(found) < 1 else None

    def keep(self, label: str, seconds: float | None) -> None:
        """Keep it, or forget it."""
        found = self._all()
        if seconds is None:
            found.pop(label, None)
        else:
            found[label] = round(float(seconds), 5)
        if self.settings is not None:
            self.settings.setValue(_KEY, found)

    def _all(self) -> dict[str, object]:
        held = self.settings.value(_KEY) if self.settings is not None else None
        return {str(k): v for k, v in held.items()} if isinstance(held, dict) else {}


class LatencyMeasure(QObject):
    """Clicks go out while the input records; a moment after the last one the latency is told."""

    measured = pyqtSignal(object)
    failed = pyqtSignal(str)
    level = pyqtSignal(float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.input: Input | None = best_input(self)
        self.output: Output | None = None
        self.running = False
        self._clicks_s: tuple[float, ...] = ()
        self._sync, self._length = Sync(self), 0.0
        self.worker = Worker(self)
        self.worker.answered.connect(self._answered)
        self.worker.refused.connect(self.failed)
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self._look)

    @property
    def label(self) -> str:
        """What is recorded from."""
        return self.input.label if self.input is not None else "No input device here"

    def start(self) -> None:
        """Click and record."""
        if self.input is None or self.running:
            return
        from dromic.sound.tape import taped

        samples, self._clicks_s = _clicks()
        self._length = len(samples) / RATE
        if self.output is None:
            self.output = best_output(self)
        self.running = True
        self.input.level.connect(self.level)
        self.input.gone.connect(self._gone)
        self.input.start()
        self.output.start(taped(samples, RATE), False)
        self._sync.begin(self.input, self.output)
        self._timer.start()

    def stop(self) -> None:
        """Stop, measured or not."""
        self._timer.stop()
        self._sync.stop()
        if self.running and self.input is not None:
            self.input.level.disconnect(self.level)
            self.input.gone.disconnect(self._gone)
            self.input.stop()
        self.running = False
        if self.output is not None:
            self.output.stop()

    def _gone(self) -> None:
        self.stop()
        self.failed.emit(GONE)

    def close(self) -> None:
        """The dialog closes."""
        self.stop()
        self.worker.close()

    def _look(self) -> None:
        assert self.input is not None
        start = self._sync.start
        if self.input.position() - start < self._length * RATE:
            return
        samples = self.input.between(start, self.input.position())
        self.stop()
        clicks_s = self._clicks_s

        def job(_go_on: object) -> Latency:
            from dromic.sound.hearing.onsets import onsets

            return latency_of(clicks_s, onsets(samples, ()).seconds.tolist(), presets.listening().latency)

        self.worker.start(job)

    def _answered(self, latency: object) -> None:
        self.measured.emit(latency)


def _clicks() -> tuple[Samples, tuple[float, ...]]:
    """(what goes out, when its clicks begin in seconds)."""
    import numpy as np

    from dromic.sound.render import click_sound

    numbers = presets.listening().latency
    gap = 60.0 / numbers.tempo
    at = tuple(_LEAD_S + n * gap for n in range(int(numbers.clicks)))
    out = np.zeros(round((at[-1] + numbers.most_s + _LEAD_S) * RATE))
    one = click_sound(RATE, presets.sound().click, 1)
    for second in at:
        out[round(second * RATE) : round(second * RATE) + len(one)] += one
    return out, at

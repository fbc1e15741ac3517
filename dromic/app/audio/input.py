"""Where sound comes from: the system's input device or, where there is none, one that gives what it is handed."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QIODevice, QObject, QTimer, pyqtSignal

from dromic.app.audio.server import answers
from dromic.sound.string import Samples

if TYPE_CHECKING:
    from PyQt6.QtMultimedia import QAudioDevice, QAudioSource

RATE = 44100
_LOOK_MS = 10
_GONE_S = 3.0
"""without a sample, after which an input is taken for gone"""
GONE = "Nothing comes from the input any more: see whether it is plugged in and the sound server runs"
_BUFFER_S = 2.0
"""kept by the device until it is fetched: so long may the interface be busy without a loss"""


class Input(QObject):
    """Records one channel at RATE; `level` tells the loudest sample since the last time, 0 to 1. What was recorded can be taken while
    it goes on, by sample numbers counted from the start."""

    level = pyqtSignal(float)
    gone = pyqtSignal()
    """nothing has come for a while, though it was started; told once"""
    label = ""
    live = False
    """whether a device of the system's own records"""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.sink: Callable[[Samples], None] | None = None
        """what is to have everything that comes, as it comes"""
        self._parts: list[Samples] = []
        self._first = self._count = 0
        """the number of the first sample still kept, and how many there were"""

    def start(self) -> None:
        raise NotImplementedError

    def stop(self) -> Samples:
        """Stop, and give what was recorded and not forgotten."""
        raise NotImplementedError

    def position(self) -> int:
        """How many samples there were so far."""
        return self._count

    def between(self, start: int, end: int) -> Samples:
        """Samples from one number up to another; silence for those forgotten or not there yet."""
        found = np.zeros(max(0, end - start))
        at = self._first
        for part in self._parts:
            low, high = max(start, at), min(end, at + len(part))
            if low < high:
                found[low - start : high - start] = part[low - at : high - at]
            at += len(part)
        return found

    def forget(self, before: int) -> None:
        """Let go of what lies before a sample, so that an hour takes no more room than a minute."""
        while self._parts and self._first + len(self._parts[0]) <= before:
            self._first += len(self._parts.pop(0))

    def _took(self, part: Samples) -> None:
        self._parts.append(part)
        self._count += len(part)
        if self.sink is not None:
            self.sink(part)
        self.level.emit(float(np.abs(part).max(initial=0.0)))

    def _all(self) -> Samples:
        whole = np.concatenate([*self._parts, np.zeros(0)])
        self._anew()
        return whole

    def _anew(self) -> None:
        self._parts, self._first, self._count = [], 0, 0


class SimulatedInput(Input):
    """Gives the samples it is handed, as if they had been played now."""

    label = "A simulated input"

    def __init__(self, samples: Samples | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.samples = np.zeros(0) if samples is None else samples
        self.running = False

    def start(self) -> None:
        self.running = True
        self._anew()
        self.hand(self.samples)

    def hand(self, samples: Samples) -> None:
        """Play so much more."""
        if self.running and len(samples):
            self._took(samples)

    def stop(self) -> Samples:
        self.running = False
        return self._all()


class SystemInput(Input):
    """The system's own input. It is asked for what there is, not listened to: its word may come when it is gone already."""

    live = True

    def __init__(self, device: QAudioDevice, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.device = device
        self.label = f"Recording from {device.description()}"
        self._source: QAudioSource | None = None
        self._stream: QIODevice | None = None
        self._odd, self._last = b"", QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self._take)

    def start(self) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSource

        self._halt()
        self._anew()
        self._last.start()
        self._timer.start()
        if not answers():
            return
        kind = QAudioFormat()
        kind.setSampleRate(RATE)
        kind.setChannelCount(1)
        kind.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        self._odd, self._source = b"", QAudioSource(self.device, kind, self)
        self._source.setBufferSize(round(_BUFFER_S * RATE) * 2)
        self._stream = self._source.start()

    def _take(self) -> None:
        new = self._odd + (bytes(self._stream.readAll().data()) if self._stream is not None else b"")
        whole = len(new) // 2 * 2
        self._odd = new[whole:]
        if whole:
            self._last.restart()
            self._took(np.frombuffer(new[:whole], dtype="<i2").astype(np.float64) / 32768.0)
        elif self._timer.isActive() and self._last.hasExpired(round(1000 * _GONE_S)):
            self._timer.stop()
            self.gone.emit()

    def stop(self) -> Samples:
        self._timer.stop()  # so that it is not told gone on the way
        self._take()
        self._halt()
        return self._all()

    def _halt(self) -> None:
        self._timer.stop()
        source, self._source, self._stream = self._source, None, None
        if source is not None:
            source.stop()
            source.deleteLater()


def best_input(parent: QObject | None = None) -> Input | None:
    """The system's input where there is one; None where there is none."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return None
    device = QMediaDevices.defaultAudioInput()
    return None if device.isNull() or not answers() else SystemInput(device, parent)

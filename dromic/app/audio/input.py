"""Where sound comes from: the system's input device or, where there is none, one that gives what it is handed."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QIODevice, QObject, QTimer, pyqtSignal

from dromic.sound.string import Samples

RATE = 44100
_EVERY_MS = 50


class Input(QObject):
    """Records one channel; `level` tells the loudest sample since the last time, 0 to 1."""

    level = pyqtSignal(float)
    label = ""

    def start(self) -> None:
        raise NotImplementedError

    def stop(self) -> Samples:
        """Stop, and give what was recorded at RATE."""
        raise NotImplementedError


class SimulatedInput(Input):
    """Gives the samples it was handed, as if they had been played now."""

    label = "No input device here"

    def __init__(self, samples: Samples | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.samples = np.zeros(0) if samples is None else samples
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY_MS)
        self._timer.timeout.connect(lambda: self.level.emit(float(np.abs(self.samples).max(initial=0.0))))

    def start(self) -> None:
        self._timer.start()

    def stop(self) -> Samples:
        self._timer.stop()
        return self.samples


class SystemInput(Input):
    """The system's own input."""

    def __init__(self, device: object, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.device = device
        self.label = f"Recording from {device.description()}"  # type: ignore[attr-defined]
        self._source: object | None = None
        self._data = bytearray()

    def start(self) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSource

        kind = QAudioFormat()
        kind.setSampleRate(RATE)
        kind.setChannelCount(1)
        kind.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        source = QAudioSource(self.device, kind, self)  # type: ignore[call-overload]
        self._data, self._source = bytearray(), source
        stream = source.start()
        if stream is not None:
            stream.readyRead.connect(lambda: self._take(stream))

    def _take(self, stream: QIODevice) -> None:
        new = bytes(stream.readAll().data())
        self._data += new
        part = np.frombuffer(new[: len(new) // 2 * 2], dtype="<i2")
        self.level.emit(float(np.abs(part / 32768.0).max(initial=0.0)))

    def stop(self) -> Samples:
        source, self._source = self._source, None
        if source is not None:
            source.stop()  # type: ignore[attr-defined]
            source.deleteLater()  # type: ignore[attr-defined]
        data = bytes(self._data[: len(self._data) // 2 * 2])
        return np.frombuffer(data, dtype="<i2").astype(float) / 32768.0


def best_input(parent: QObject | None = None) -> Input | None:
    """The system's input where there is one; None where there is none."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return None
    device = QMediaDevices.defaultAudioInput()
    return None if device.isNull() else SystemInput(device, parent)

"""Where sound goes: the system's device or, where there is none, an output that only keeps the time."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QElapsedTimer, QIODevice, QObject, QTimer, pyqtSignal

from dromic.app.audio.server import answers
from dromic.sound.tape import Tape

if TYPE_CHECKING:
    from PyQt6.QtMultimedia import QAudioDevice, QAudioSink

_END_CHECK_MS = 20
AWAY = "The sound server is away: played silently, in time"
_BUFFER_S = 1.0
"""handed to the device ahead, so that it goes on while the interface is busy"""


class Output(QObject):
    """Plays a tape, round and round if asked. Without a device it is silent and keeps the time, so that everything else works as with
    one."""

    ended = pyqtSignal()

    def __init__(self, label: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.label = label
        self.live = False
        """whether a device of the system's own sounds"""
        self._length, self._loop = 0.0, False
        self._clock, self._check = QElapsedTimer(), QTimer(self)
        self._check.setInterval(_END_CHECK_MS)
        self._check.timeout.connect(self._look)

    def start(self, tape: Tape, loop: bool) -> None:
        self.stop()
        self._length, self._loop = tape.length_s, loop
        self._begin(tape)
        if not loop:
            self._check.start()

    def stop(self) -> None:
        """Silence; what is asked for of the time after it is cut to the length."""
        self._check.stop()

    def elapsed_s(self) -> float:
        """How many seconds were heard since the start, all rounds together."""
        return self._clock.elapsed() / 1000 if self._clock.isValid() else 0.0

    def seconds(self) -> float:
        """What is heard just now, in seconds from the tape's front."""
        at = self.elapsed_s()
        return at % self._length if self._loop and self._length else min(at, self._length)

    def _begin(self, tape: Tape) -> None:
        self._clock.start()

    def _over(self) -> bool:
        """Whether all of it was heard."""
        return self.elapsed_s() >= self._length

    def _look(self) -> None:
        if self._over():
            self.stop()
            self.ended.emit()


class SimulatedOutput(Output):
    """A device that is not there."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__("No sound device here: played silently, in time", parent)


class _Stream(QIODevice):
    """A tape's bytes one after the other, joined end to start where they loop; what is put down later is read later."""

    def __init__(self, data: memoryview, loop: bool, parent: QObject) -> None:
        super().__init__(parent)
        self.data, self.loop, self.place = data, loop, 0

    def readData(self, most: int) -> bytes:
        found = self._next(most)
        while self.loop and len(found) < most and len(self.data):  # what is given short is taken for the end
            found += self._next(most - len(found))
        return found

    def _next(self, most: int) -> bytes:
        if self.loop and self.place >= len(self.data):
            self.place = 0
        found = self.data[self.place : self.place + most].tobytes()
        self.place += len(found)
        return found

    def writeData(self, a0: object) -> int:
        return -1

    @property
    def at_end(self) -> bool:
        return not self.loop and self.place >= len(self.data)

    def bytesAvailable(self) -> int:
        left = len(self.data) if self.loop else len(self.data) - self.place
        return left + super().bytesAvailable()

    def isSequential(self) -> bool:
        return True


class SystemOutput(Output):
    """The system's own sound device. It is asked how it is, not listened to: what it says of itself may come from a thread of its own
    when the tape is gone already."""

    def __init__(self, device: QAudioDevice, parent: QObject | None = None) -> None:
        super().__init__(f"Sound goes to {device.description()}", parent)
        self.device, self._usual = device, self.label
        self._sink: QAudioSink | None = None
        self._stream: _Stream | None = None

    def stop(self) -> None:
        super().stop()
        sink, self._sink, self._stream, self.live = self._sink, None, None, False
        if sink is not None:
            sink.stop()
            sink.deleteLater()

    def elapsed_s(self) -> float:
        return self._sink.processedUSecs() / 1e6 if self._sink is not None else super().elapsed_s()

    def _begin(self, tape: Tape) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink

        self._clock.invalidate()
        self.live = answers()
        self.label = self._usual if self.live else AWAY
        if not self.live:
            super()._begin(tape)
            return
        kind = QAudioFormat()
        kind.setSampleRate(tape.rate)
        kind.setChannelCount(1)
        kind.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        self._sink = QAudioSink(self.device, kind, self)
        self._sink.setBufferSize(round(_BUFFER_S * tape.rate) * tape.data.itemsize)
        self._stream = _Stream(tape.data.data.cast("B"), self._loop, self._sink)
        self._stream.open(QIODevice.OpenModeFlag.ReadOnly)
        self._sink.start(self._stream)

    def _over(self) -> bool:
        from PyQt6.QtMultimedia import QAudio

        if self._sink is None or self._stream is None:
            return super()._over()
        return self._stream.at_end and self._sink.state() != QAudio.State.ActiveState


def best_output(parent: QObject | None = None) -> Output:
    """The system's device where there is one."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return SimulatedOutput(parent)
    device = QMediaDevices.defaultAudioOutput()
    return SimulatedOutput(parent) if device.isNull() else SystemOutput(device, parent)

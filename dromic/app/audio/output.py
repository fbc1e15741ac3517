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
_BUFFER_S = 0.5
"""handed to the device ahead, so that it goes on while the interface is busy"""


class Output(QObject):
    """Plays a tape, round and round if asked."""

    ended = pyqtSignal()
    label = ""
    live = False
    """whether a device of the system's own sounds"""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._length, self._loop = 0.0, False
        self._check = QTimer(self)
        self._check.setInterval(_END_CHECK_MS)
        self._check.timeout.connect(self._look)

    def start(self, tape: Tape, loop: bool) -> None:
        self.stop()
        self._length, self._loop = tape.length_s, loop
        self._begin(tape)
        if not loop:
            self._check.start()

    def stop(self) -> None:
        self._check.stop()
        self._halt()

    def elapsed_s(self) -> float:
        """How many seconds were heard since the start, all rounds together."""
        raise NotImplementedError

    def seconds(self) -> float:
        """What is heard just now, in seconds from the tape's front."""
        at = self.elapsed_s()
        return at % self._length if self._loop and self._length else min(at, self._length)

    def _begin(self, tape: Tape) -> None:
        raise NotImplementedError

    def _halt(self) -> None:
        raise NotImplementedError

    def _over(self) -> bool:
        """Whether all of it was heard."""
        raise NotImplementedError

    def _look(self) -> None:
        if self._over():
            self.stop()
            self.ended.emit()


class SimulatedOutput(Output):
    """Keeps the time of a device that is not there, so that everything else works as with one."""

    label = "No sound device here: played silently, in time"

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._clock = QElapsedTimer()

    def elapsed_s(self) -> float:
        return self._clock.elapsed() / 1000 if self._clock.isValid() else 0.0

    def _begin(self, tape: Tape) -> None:
        self._clock.start()

    def _halt(self) -> None:
        """The clock goes on: what is asked for after the end is cut to the length."""

    def _over(self) -> bool:
        return self.elapsed_s() >= self._length


class _Stream(QIODevice):
    """A tape's bytes one after the other, joined end to start where they loop; what is put down later is read later."""

    def __init__(self, data: memoryview, loop: bool, parent: QObject) -> None:
        super().__init__(parent)
        self.data, self.loop, self.place = data, loop, 0

    def readData(self, most: int) -> bytes:
        if self.loop and self.place >= len(self.data):
            self.place = 0
        found = self.data[self.place : self.place + most].tobytes()
        self.place += len(found)
        return found

    def writeData(self, a0: object) -> int:
        return -1

    @property
    def at_end(self) -> bool:
        return self.place >= len(self.data)

    def bytesAvailable(self) -> int:
        return len(self.data) - self.place + super().bytesAvailable()

    def isSequential(self) -> bool:
        return True


class SystemOutput(Output):
    """The system's own sound device. It is asked how it is, not listened to: what it says of itself may come from a thread of its own
    when the tape is gone already."""

    def __init__(self, device: QAudioDevice, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.device = device
        self._clock = QElapsedTimer()
        """for when the server does not answer"""
        self._sink: QAudioSink | None = None
        self._stream: _Stream | None = None

    @property
    def live(self) -> bool:  # type: ignore[override]
        return self._sink is not None

    @property
    def label(self) -> str:  # type: ignore[override]
        return AWAY if self._clock.isValid() else f"Sound goes to {self.device.description()}"

    def elapsed_s(self) -> float:
        if self._sink is not None:
            return self._sink.processedUSecs() / 1e6
        return self._clock.elapsed() / 1000 if self._clock.isValid() else 0.0

    def _begin(self, tape: Tape) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink

        self._clock.invalidate()
        if not answers():
            self._clock.start()
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

    def _halt(self) -> None:
        sink, self._sink, self._stream = self._sink, None, None
        if sink is not None:
            sink.stop()
            sink.deleteLater()

    def _over(self) -> bool:
        from PyQt6.QtMultimedia import QAudio

        if self._sink is None or self._stream is None:
            return self.elapsed_s() >= self._length
        return self._stream.at_end and self._sink.state() != QAudio.State.ActiveState


def best_output(parent: QObject | None = None) -> Output:
    """The system's device where there is one."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return SimulatedOutput(parent)
    device = QMediaDevices.defaultAudioOutput()
    return SimulatedOutput(parent) if device.isNull() else SystemOutput(device, parent)

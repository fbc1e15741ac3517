"""Where sound goes: the system's device or, where there is none, an output that only keeps the time."""

from __future__ import annotations

from PyQt6.QtCore import QElapsedTimer, QIODevice, QObject, QTimer, pyqtSignal

from dromic.sound.tape import Tape

_END_CHECK_MS = 20


class Output(QObject):
    """Plays a tape, round and round if asked."""

    ended = pyqtSignal()
    label = ""
    silent = False

    def start(self, tape: Tape, loop: bool) -> None:
        raise NotImplementedError

    def stop(self) -> None:
        raise NotImplementedError

    def seconds(self) -> float:
        """What is heard just now, in seconds from the tape's front."""
        raise NotImplementedError


class SimulatedOutput(Output):
    """Keeps the time of a device that is not there, so that everything else works as with one."""

    label = "No sound device here: played silently, in time"
    silent = True

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._clock, self._check = QElapsedTimer(), QTimer(self)
        self._check.setInterval(_END_CHECK_MS)
        self._check.timeout.connect(self._look)
        self._length, self._loop = 0.0, False

    def start(self, tape: Tape, loop: bool) -> None:
        self._length, self._loop = tape.length_s, loop
        self._clock.start()
        self._check.start()

    def stop(self) -> None:
        self._check.stop()

    def seconds(self) -> float:
        at = self._clock.elapsed() / 1000
        return at % self._length if self._loop and self._length else min(at, self._length)

    def _look(self) -> None:
        if not self._loop and self._clock.elapsed() / 1000 >= self._length:
            self.stop()
            self.ended.emit()


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

    def bytesAvailable(self) -> int:
        return len(self.data) - self.place + super().bytesAvailable()

    def isSequential(self) -> bool:
        return True


class SystemOutput(Output):
    """The system's own sound device."""

    def __init__(self, device: object, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.device = device
        self.label = f"Sound goes to {device.description()}"  # type: ignore[attr-defined]
        self._sink: object | None = None
        self._length = 0.0
        self._loop = False

    def start(self, tape: Tape, loop: bool) -> None:
        from PyQt6.QtMultimedia import QAudio, QAudioFormat, QAudioSink

        self.stop()
        kind = QAudioFormat()
        kind.setSampleRate(tape.rate)
        kind.setChannelCount(1)
        kind.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        sink = QAudioSink(self.device, kind, self)  # type: ignore[call-overload]
        stream = _Stream(tape.data.data.cast("B"), loop, sink)
        stream.open(QIODevice.OpenModeFlag.ReadOnly)
        self._length, self._loop = tape.length_s, loop

        def changed(state: QAudio.State) -> None:
            if state == QAudio.State.IdleState and not loop and self._sink is sink:
                self.stop()
                self.ended.emit()

        sink.stateChanged.connect(changed)
        self._sink = sink
        sink.start(stream)

    def stop(self) -> None:
        sink, self._sink = self._sink, None
        if sink is not None:
            sink.stop()  # type: ignore[attr-defined]
            sink.deleteLater()  # type: ignore[attr-defined]

    def seconds(self) -> float:
        if self._sink is None:
            return 0.0
        at: float = self._sink.processedUSecs() / 1e6  # type: ignore[attr-defined]
        return at % self._length if self._loop and self._length else min(at, self._length)


def best_output(parent: QObject | None = None) -> Output:
    """The system's device where there is one."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return SimulatedOutput(parent)
    device = QMediaDevices.defaultAudioOutput()
    return SimulatedOutput(parent) if device.isNull() else SystemOutput(device, parent)

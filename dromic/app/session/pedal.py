"""A foot pedal that speaks MIDI, where there is a port and what can open it; one that sends keys needs nothing of this."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

_LOOK_MS = 10
_SUSTAIN = 64
"""Controller of a sustain pedal (MIDI 1.0)."""
_DOWN = 64
"""Value from which it counts as down (MIDI 1.0)."""


class MidiPedal(QObject):
    """Listens while a session runs. Any note, or a sustain pedal going down, is a press."""

    pressed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.port: Any = None
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self.look)

    def open(self) -> str:
        """Listen at the first port; a sentence that says where, or nothing where there is none."""
        self.close()
        self.port = first_port()
        if self.port is None:
            return ""
        self._timer.start()
        return f"Pedal: {self.port.name}"

    def look(self) -> None:
        """Take what has come in."""
        if self.port is None:
            return
        for message in self.port.iter_pending():
            down = message.type == "note_on" and message.velocity > 0
            sustained = message.type == "control_change" and message.control == _SUSTAIN and message.value >= _DOWN
            if down or sustained:
                self.pressed.emit()

    def close(self) -> None:
        """Listen no more."""
        self._timer.stop()
        port, self.port = self.port, None
        if port is not None:
            port.close()


class SimulatedPort:
    """A pedal that is not there: it is pressed from the program, and speaks MIDI as one that is."""

    name = "a simulated pedal"

    def __init__(self) -> None:
        self._waiting: list[Any] = []

    def press(self) -> None:
        """Down and up again."""
        import mido

        for value in (127, 0):
            self._waiting.append(mido.Message("control_change", control=_SUSTAIN, value=value))

    def send(self, message: Any) -> None:
        """Any other message."""
        self._waiting.append(message)

    def iter_pending(self) -> list[Any]:
        waiting, self._waiting = self._waiting, []
        return waiting

    def close(self) -> None:
        self._waiting = []


def first_port() -> Any:
    """The first MIDI input, open; None where there is none, or nothing that could open one (the package python-rtmidi)."""
    import mido

    try:
        names = mido.get_input_names()
        return mido.open_input(names[0]) if names else None
    except (ImportError, OSError, RuntimeError):
        return None

"""Which key does what on the writing grid: the table's own keys, and those a player put in their place."""

from __future__ import annotations

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence

from dromic.app.write.write_commands import COMMANDS
from dromic.core.values.errors import DromicError

DIGITS = tuple("0123456789")
_GROUP = "keys"


class KeyMap:
    """Commands by key. Changes are kept in the settings."""

    def __init__(self, settings: QSettings) -> None:
        self.settings = settings
        self._keys: dict[str, tuple[str, ...]] = {c.name: c.keys for c in COMMANDS}
        for command in COMMANDS:
            own = settings.value(f"{_GROUP}/{command.name}")
            if isinstance(own, str):
                self._keys[command.name] = (own,) if own else ()
        self._index()

    def _index(self) -> None:
        self._of: dict[str, str] = {}
        for name, keys in self._keys.items():
            for key in keys:
                self._of.setdefault(_text(QKeySequence(key)), name)

    def words(self, name: str) -> str:
        """The keys of a command, as they are written on a keyboard here."""
        return " or ".join(QKeySequence(k).toString(QKeySequence.SequenceFormat.NativeText) for k in self._keys[name])

    def command_of(self, event: QKeyEvent) -> str | None:
        """The command a key press means, if it means one."""
        if event.key() in (Qt.Key.Key_unknown, Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta):
            return None
        pressed = QKeySequence(event.keyCombination())
        found = self._of.get(_text(pressed))
        if found is None and len(event.text()) == 1 and event.text() in "[].-|":
            # signs that some keyboards only reach with another key held
            found = self._of.get(_text(QKeySequence(event.text())))
        return found

    def change(self, name: str, key: str) -> None:
        """Give a command another key (none if empty); DromicError if it is taken."""
        sequence = _text(QKeySequence(key))
        if sequence in DIGITS:
            raise DromicError(f"{sequence} writes a fret; choose another key")
        taken = self._of.get(sequence) if sequence else None
        if taken is not None and taken != name:
            label = next(c.label for c in COMMANDS if c.name == taken)
            raise DromicError(f"{sequence} is the key of “{label}”; give that another key first")
        self._keys[name] = (sequence,) if sequence else ()
        self.settings.setValue(f"{_GROUP}/{name}", sequence)
        self._index()

    def as_shipped(self) -> None:
        """Every key as Dromic came."""
        self.settings.remove(_GROUP)
        self._keys = {c.name: c.keys for c in COMMANDS}
        self._index()


def _text(sequence: QKeySequence) -> str:
    return sequence.toString(QKeySequence.SequenceFormat.PortableText)

"""The window's log of practice: read where it is asked for, written beside everything else, and what waits is told."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

if TYPE_CHECKING:
    from dromic.core.practice.log_pass import Pass, PhraseName
    from dromic.core.practice.log_summary import Goal
    from dromic.store.log.logbook import Logbook
    from dromic.store.log.writer import LogWriter

SETTLE_S = 1.0
"""How long a reader waits for what is just being written, s."""
KEPT_S = 0.03
"""How long the interface waits, so that a pass that is told is on the disk where nothing holds the log, s."""


class LogKeeper(QObject):
    """One log, shared by all pages. Passes are known by what `keep` gives, whether they are in the log yet or wait for it."""

    noticed = pyqtSignal(str, bool)
    changed = pyqtSignal()
    """the log holds something else"""
    upgrading = pyqtSignal(float)
    """the share of an older log that is brought up"""

    def __init__(self, path: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.path, self._closed = path, False
        self.upgrading.connect(self._tell_upgrade)

    def start(self) -> None:
        """Take up what waited when the last window closed."""
        _ = self.writer

    @cached_property
    def book(self) -> Logbook:
        """The log, to be read off the interface's thread."""
        from dromic.store.log.logbook import Logbook

        return Logbook(self.path, self._upgrading)

    @cached_property
    def writer(self) -> LogWriter:
        """The one that writes; it begins when it is first wanted."""
        from dromic.store.log.writer import LogWriter

        return LogWriter(self.book, self.noticed.emit, self.changed.emit)

    def keep(self, passes: Sequence[Pass]) -> list[str]:
        """Keep passes; gives what each is known by."""
        uids = self.writer.keep(passes)
        self.writer.settled(KEPT_S)
        return uids

    def take_back(self, uids: Sequence[str]) -> None:
        """Take passes back."""
        self.writer.take_back(uids)

    def note(self, uid: str, text: str) -> None:
        """Put a note on a pass."""
        self.writer.note(uid, text)

    def set_goal(self, of: PhraseName, goal: Goal) -> None:
        """What is worked towards with a phrase."""
        self.writer.set_goal(of, goal)

    def settle(self) -> Logbook:
        """The log with what was just handed over in it, off the interface's thread."""
        if "writer" in self.__dict__:
            self.writer.settled(SETTLE_S)
        return self.book

    def close(self) -> None:
        """The window closes."""
        self._closed = True
        if "writer" in self.__dict__:
            self.writer.close()

    def _upgrading(self, share: float) -> bool:
        if not self._closed:
            self.upgrading.emit(share)
        return not self._closed

    def _tell_upgrade(self, share: float) -> None:
        words = f"The log of practice is of an older Dromic and is brought up: {share:.0%}"
        self.noticed.emit(words if share < 1 else "The log of practice is brought up", True)

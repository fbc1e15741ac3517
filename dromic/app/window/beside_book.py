"""What a window keeps beside its songbook: the log of practice, what of it and which takes are whose, recordings that are not kept
yet, and what differs between phrases; joined to the window."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QMessageBox, QWidget

from dromic.app.book.claims import Claims
from dromic.app.book.differences_box import Differences
from dromic.app.book.history_box import ask_history
from dromic.app.book.log_keeper import LogKeeper
from dromic.app.book.recordings import Recordings
from dromic.app.window.shell import Shell
from dromic.core.practice.log_pass import PhraseName
from dromic.store.log.waiting import waits
from dromic.store.takes import KeptTake

if TYPE_CHECKING:
    from dromic.app.book.start_view import StartView


class BesideBook(QObject):
    """Tells the window what it has to say; closed with it."""

    def __init__(self, shell: Shell, window: QWidget, log: Path) -> None:
        super().__init__(window)
        self.shell, self.window = shell, window
        self.log = LogKeeper(log, self)
        self.claims = Claims(self.log, shell.open_book, self)
        self.recordings = Recordings(self.claims.takes, shell.files, self)
        self.differences = Differences(shell.open_book, window)
        if waits(log):
            self.log.start()
        self.asking: QMessageBox | None = None
        """the question that was asked last"""
        for teller in (self.log, self.claims, self.recordings, self.differences):
            teller.noticed.connect(shell.notify)
        self.recordings.opened.connect(self._hear)
        self.claims.history_asked.connect(self._ask_history)

    def begin(self, view: StartView) -> None:
        """The window begins with a view to start from: recordings that are not kept yet are offered there."""
        self.recordings.found.connect(view.offer_recordings)
        view.hear.connect(self.recordings.open)
        self.recordings.look()

    def _hear(self, take: KeptTake) -> None:
        """Hear a recording as soon as what was played in it is planned."""
        self.shell.pages.go_to("Listen")
        self.shell.pages.listen.hear_when_planned(take)

    def _ask_history(self, count: int, of: PhraseName, to: PhraseName) -> None:
        self.asking = ask_history(self.claims, self.window, count, of, to)

    def close(self) -> None:
        """The window closes."""
        for worker in (self.differences, self.claims, self.recordings, self.log):
            worker.close()

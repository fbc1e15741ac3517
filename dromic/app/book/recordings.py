"""Recordings that are not kept yet: what a sudden end left of them is set right, and the start offers them."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from dromic.app.book.files import Files
from dromic.app.kit.worker import Worker
from dromic.core.values.errors import DromicError
from dromic.store.takes import KeptTake, Takes

MOST_OFFERED = 3


class Recordings(QObject):
    """Looks for them off the interface's thread."""

    found = pyqtSignal(object)
    """the newest of them, and what may be told of each"""
    opened = pyqtSignal(object)
    """what was played in one stands open: it can be heard"""
    noticed = pyqtSignal(str, bool)

    def __init__(self, takes: Takes, files: Files, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.takes, self.files = takes, files
        self._wanted: KeptTake | None = None
        self.worker = Worker(self)
        self.worker.answered.connect(self.found)
        files.open_book.opened.connect(self._was_opened)
        files.refused.connect(self._forget)

    def look(self) -> None:
        """Set right what killed writers left, and say what there is."""
        if not self.takes.folder.exists():
            return

        def job(_progress: object) -> list[KeptTake]:
            self.takes.mend()
            return self.takes.pending()[:MOST_OFFERED]

        self.worker.start(job)

    def open(self, take: KeptTake) -> None:
        """Open what was played in a recording."""
        try:
            data = self.takes.played(take)
        except DromicError as error:
            self.noticed.emit(str(error), False)
            return
        self._wanted = take
        self.files.open_book_of(data)

    def _was_opened(self) -> None:
        take, self._wanted = self._wanted, None
        if take is not None:
            QTimer.singleShot(0, lambda: self.opened.emit(take))  # when everything else follows the book

    def _forget(self) -> None:
        self._wanted = None

    def close(self) -> None:
        """The window closes."""
        self.worker.close()

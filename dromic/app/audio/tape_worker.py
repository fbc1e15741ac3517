"""Tapes made off the interface thread: once the front of one is down it is told of, and the rest is put down while it is heard."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from dromic.app.kit.worker import Worker
from dromic.core.values.progress import Progress

if TYPE_CHECKING:
    from dromic.sound.tape import Tape


class TapeWorker(Worker):
    """One tape at a time; another takes the place of the one that is made."""

    begun = pyqtSignal(object, object)
    """what was laid out, and the tape with its front down"""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.answered.connect(self._was_put_down)

    def begin(self, make: Callable[[], tuple[object, Tape]]) -> None:
        """Put down a tape; `make` gives what is told with it and the tape, nothing of it being down."""

        def job(progress: Progress) -> tuple[object, Tape]:
            from dromic.sound.tape import AHEAD_S

            about, tape = make()
            return about, tape.put_down(progress, AHEAD_S)

        self.start(job)

    def _was_put_down(self, answer: object) -> None:
        if isinstance(answer, tuple):  # its front; all of it answers with the tape
            about, tape = answer
            self.start(tape.put_down)
            self.begun.emit(about, tape)

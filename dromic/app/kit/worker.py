"""Work off the interface thread: a frozen job goes out with a number, its answer comes back with it or is dropped."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable

from PyQt6 import sip
from PyQt6.QtCore import QObject, pyqtSignal

from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.processes import give_back

Job = Callable[[Progress], object]
STOPPED = "it was stopped before it was done; ask again"


class Worker(QObject):
    """Runs one kind of job at a time on a thread of its own; a newer job takes the place of one that waits and makes
    the answer of one that runs unwanted. Every job that is still wanted reports, however it ends."""

    answered = pyqtSignal(object)
    refused = pyqtSignal(str)
    busy = pyqtSignal(bool)
    _ended = pyqtSignal(int, object, object)
    """the job's number, what it answers, the error it ended with or None; carried over to the interface thread"""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.running = False
        """whether an answer is waited for"""
        self.share = 0.0
        """of the job that is waited for, how much is done"""
        self._latest = 0
        self._waiting: tuple[int, Job] | None = None
        self._turn = threading.Condition()
        self._closed = False
        self._thread: threading.Thread | None = None
        self._ended.connect(self._report)

    def start(self, job: Job) -> None:
        """Run a job; what is still running or waiting is cancelled. Nothing is begun once the window has closed."""
        if self._closed:
            return
        self.share = 0.0
        with self._turn:
            self._latest += 1
            self._waiting = self._latest, job
            self._turn.notify()
        if self._thread is None:
            # the interpreter does not wait for it: `close` does
            self._thread = threading.Thread(target=self._work, daemon=True)
            self._thread.start()
        self._set_running(True)

    def cancel(self) -> None:
        """Make the running job's answer unwanted, and forget one that waits."""
        with self._turn:
            self._latest += 1
            self._waiting = None
        self._set_running(False)

    def close(self) -> None:
        """The window closes: let what runs end, and begin nothing more."""
        self._closed = True
        self.cancel()
        with self._turn:
            self._turn.notify()
        if self._thread is not None:
            self._thread.join()
            self._thread = None

    def _set_running(self, on: bool) -> None:
        self.running = on
        self.busy.emit(on)

    def _work(self) -> None:
        """On the worker's thread: one job after the other, until it closes."""
        while True:
            with self._turn:
                self._turn.wait_for(lambda: self._closed or self._waiting is not None)
                if self._waiting is None:
                    return
                number, job = self._waiting
                self._waiting = None
            answer, error = self._run(number, job)
            if sip.isdeleted(self):
                return  # its owner went without closing it: there is nobody left to tell
            self._ended.emit(number, answer, error)
            del job, answer, error  # nothing is held on to while waiting for the next one
            give_back()

    def _run(self, number: int, job: Job) -> tuple[object, BaseException | None]:
        def progress(share: float) -> bool:
            wanted = number == self._latest and not sip.isdeleted(self)
            if wanted:
                self.share = share
            return wanted

        try:
            return job(progress), None
        except BaseException as error:  # noqa: BLE001 - whatever it is, it is told on the interface thread
            return None, error

    def _report(self, number: int, answer: object, error: BaseException | None) -> None:
        wanted = number == self._latest
        if wanted:
            self._set_running(False)
        if error is None:
            if wanted:
                self.answered.emit(answer)
        elif isinstance(error, DromicError | Cancelled):
            if wanted:
                self.refused.emit(str(error) or STOPPED)
        else:
            # a fault of Dromic's own: told like any other, whether its answer is wanted or not
            sys.excepthook(type(error), error, error.__traceback__)
            if wanted:
                self.refused.emit(f"Dromic has a fault here ({error!r:.120}); your work is untouched, go on elsewhere")

"""Work off the interface thread: a frozen job goes out with a number, its answer comes back with it or is dropped."""

from __future__ import annotations

import traceback
from collections.abc import Callable

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from dromic.core.errors import DromicError
from dromic.core.planner import Cancelled, Progress

Job = Callable[[Progress], object]


class _Signals(QObject):
    finished = pyqtSignal(int, object)
    failed = pyqtSignal(int, str)


class _Task(QRunnable):
    def __init__(self, number: int, job: Job, wanted: Callable[[int], bool]) -> None:
        super().__init__()
        self.number, self.job, self.wanted = number, job, wanted
        self.signals = _Signals()

    def run(self) -> None:
        try:
            answer = self.job(lambda share: self.wanted(self.number))
        except Cancelled:
            return
        except DromicError as error:
            self.signals.failed.emit(self.number, str(error))
        except Exception as error:  # noqa: BLE001 - a fault of Dromic's own must not take the window and the work in it away
            traceback.print_exc()
            self.signals.failed.emit(
                self.number, f"Dromic has a fault here ({error!r}); your work is untouched, go on elsewhere"
            )
        else:
            self.signals.finished.emit(self.number, answer)


class Worker(QObject):
    """Runs one kind of job at a time; a newer job makes the older one's answer unwanted."""

    answered = pyqtSignal(object)
    refused = pyqtSignal(str)
    busy = pyqtSignal(bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._latest = 0
        self.running = False
        """whether an answer is waited for"""
        self._closed = False
        self._tasks: dict[int, _Task] = {}

    def start(self, job: Job) -> None:
        """Run a job; what is still running or waiting is cancelled. Nothing is begun once the window has closed."""
        if self._closed:
            return
        self._latest += 1
        task = _Task(self._latest, job, lambda number: number == self._latest)
        task.setAutoDelete(False)
        task.signals.finished.connect(self._finished)
        task.signals.failed.connect(self._failed)
        self._tasks = {n: t for n, t in self._tasks.items() if n >= self._latest - 8}
        self._tasks[self._latest] = task
        self._set_running(True)
        self._pool.start(task)

    def cancel(self) -> None:
        """Make the running job's answer unwanted."""
        self._latest += 1
        self._set_running(False)

    def _set_running(self, on: bool) -> None:
        self.running = on
        self.busy.emit(on)

    def close(self) -> None:
        """The window closes: let what runs end, and begin nothing more."""
        self._closed = True
        self.cancel()
        self._pool.waitForDone()

    def _finished(self, number: int, answer: object) -> None:
        if number == self._latest:
            self._set_running(False)
            self.answered.emit(answer)

    def _failed(self, number: int, sentence: str) -> None:
        if number == self._latest:
            self._set_running(False)
            self.refused.emit(sentence)

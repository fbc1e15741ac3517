"""What happens when Dromic itself fails: the work is kept aside at once, the player hears it in one sentence, and goes on."""

from __future__ import annotations

import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QFontDatabase
from PyQt6.QtWidgets import QMessageBox, QTextEdit, QWidget

from dromic.store.fault_log import read_log, write_down

AGAIN_S = 60.0
"""after which a fault of one place is told again"""
NO_FAULTS = "Nothing has gone wrong so far."


class Faults(QObject):
    """The one hook for errors that nothing else has caught, in slots, timers, painting and threads.

    `keep` keeps the work aside and answers whether it is safe; `say` tells the player. An error in either, or one that
    comes again and again (in painting, say), is dealt with once a minute and leads to no other.
    """

    _elsewhere = pyqtSignal(object, object, object)
    """an error of another thread"""

    def __init__(self, log: Path, keep: Callable[[], bool], say: Callable[[str], object], parent: QObject) -> None:
        super().__init__(parent)
        self.log, self.keep, self.say = log, keep, say
        self.clock: Callable[[], float] = time.monotonic
        self._busy = False
        self._told: dict[tuple[object, ...], float] = {}
        """when each place was told last"""
        self._elsewhere.connect(self.caught, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]

    def install(self) -> None:
        """Catch what nothing else catches, from now on and for the whole program."""
        sys.excepthook = self.caught
        threading.excepthook = self._thread_failed

    def _thread_failed(self, told: threading.ExceptHookArgs) -> None:
        if told.exc_value is not None:
            self._elsewhere.emit(told.exc_type, told.exc_value, told.exc_traceback)

    def caught(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Keep the work, write the fault down, say so; the program goes on."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        if self._busy:
            return
        self._busy = True
        try:
            self._handle(kind, error, trace)
        except Exception:  # noqa: BLE001 - whatever else fails, the program goes on
            sys.__excepthook__(kind, error, trace)
        finally:
            self._busy = False

    def _handle(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        place = (kind, *_place(trace))
        now = self.clock()
        if now - self._told.get(place, -AGAIN_S) < AGAIN_S:
            return  # the work is kept aside every few seconds anyway; in painting this would come at every frame
        self._told[place] = now
        safe = self.keep()
        try:
            write_down(self.log, kind, error, trace)
        except OSError:
            sys.__excepthook__(kind, error, trace)
        work = "your work is kept aside" if safe else "your work could NOT be kept aside: save it now"
        self.say(
            f"Something in Dromic failed ({kind.__name__}: {str(error)[:100]}); {work}. What went wrong is written in "
            "the songbook's menu"
        )


def _place(trace: TracebackType | None) -> tuple[object, ...]:
    """Where an error was raised."""
    while trace is not None and trace.tb_next is not None:
        trace = trace.tb_next
    return (trace.tb_frame.f_code.co_filename, trace.tb_lineno) if trace is not None else ()


def show_faults(log: Path, parent: QWidget) -> QMessageBox:
    """What has gone wrong lately, and where it is written."""
    words = read_log(log)
    box = QMessageBox(QMessageBox.Icon.NoIcon, "What went wrong", "", QMessageBox.StandardButton.Close, parent)
    box.setText("Faults of Dromic's own, the latest last" if words else NO_FAULTS)
    box.setInformativeText(f"They are written to {log}. Nothing is sent anywhere.")
    if words:
        box.setDetailedText(words)
        for edit in box.findChildren(QTextEdit):
            edit.setFont(QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont))
    box.setModal(False)
    box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    box.open()
    return box

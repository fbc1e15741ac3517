"""The real window under watch: exceptions, warnings of the toolkit, standstills, what never comes to an end, and memory."""

from __future__ import annotations

import importlib
import os
import random
import sys
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QEventLoop, QSettings, QTimer, qInstallMessageHandler
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox

from dromic.app.book.files import LEAVE, OVERWRITE, RELOAD, SAVE_AS, Files
from dromic.app.kit import theme
from dromic.app.listen.listen_place import ListenPlace
from dromic.app.window.window import MainWindow, demo_songbook

HARMLESS = (
    "propagateSizeHints",
    "libva",
    "Couldn't",
    "FFmpeg",
    "PulseAudio",
    "pa_context",
    "pipewire",
    "va_openDriver",
)
"""what the toolkit says of a machine without screen and sound"""
LONG_S = 60
ABC = "X:1\nT:One\nM:4/4\nL:1/8\nK:D\nD2 FA d2 fd|edcB A4|\n\nX:2\nT:Two\nM:6/8\nL:1/8\nK:G\nGAB cde|f3 g3|\n"


def megabytes() -> list[float]:
    """Resident memory of this process and of each it has started."""
    found = []
    for pid in (os.getpid(), *children()):
        try:
            pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
        except (OSError, IndexError):
            continue
        found.append(round(pages * os.sysconf("SC_PAGE_SIZE") / 1e6, 1))
    return found


def children() -> list[int]:
    found = []
    for task in Path("/proc/self/task").iterdir():
        try:
            found += [int(p) for p in (task / "children").read_text().split()]
        except OSError:
            continue
    return found


@dataclass
class Report:
    """What came of a sitting. `faults` holds everything that must not happen, each kind once with what led to it."""

    seed: int
    commands: int = 0
    faults: dict[str, str] = field(default_factory=dict)
    given_up: int = 0
    """weighings that went on for so long that the player cancelled them"""
    longest_ms: float = 0.0
    longest_at: str = ""
    mb_at: dict[int, list[float]] = field(default_factory=dict)
    """resident memory by number of commands, of the window and of each process it has started, amid whatever goes on"""
    mb_at_rest: dict[int, list[float]] = field(default_factory=dict)
    """the same once nothing went on and what was freed had been given back"""


class WatchedWindow:
    """One window on a folder of its own; what must not happen there is noticed."""

    def __init__(self, seed: int, folder: Path) -> None:
        self.rnd, self.folder, self.report = random.Random(seed), folder, Report(seed)
        self.log: list[str] = []
        self.app = QApplication.instance() or QApplication([])
        theme.load_fonts()
        sys.excepthook = lambda kind, error, trace: self.fault(
            "exception", "".join(traceback.format_exception(kind, error, trace))
        )
        importlib.import_module("PyQt6.QtMultimedia")  # it says things while it is loaded, when no Python may be called
        qInstallMessageHandler(self._heard)
        self._answer_for_the_player()
        (folder / "tunes.abc").write_text(ABC)
        settings = QSettings(str(folder / "w.ini"), QSettings.Format.IniFormat)
        self.window = MainWindow(settings, folder / "recovery", folder / "players")
        self.window.resize(1280, 800)
        self.window.show()
        self._beat = QTimer()
        self._beat.setInterval(2)
        self._beat.timeout.connect(self._beating)
        self._last = time.perf_counter()
        self._beat.start()

    # what is noticed

    def fault(self, kind: str, words: str) -> None:
        key = f"{kind}: {words.strip().splitlines()[-1][:160]}"
        self.report.faults.setdefault(key, f"{words[-1500:]}\nafter {self.log[-14:]}")

    def _heard(self, _kind: object, _context: object, words: str) -> None:
        if not any(one in words for one in HARMLESS):
            self.fault("toolkit", words)

    def _beating(self) -> None:
        now = time.perf_counter()
        held, self._last = 1000 * (now - self._last), now
        if held > self.report.longest_ms:
            self.report.longest_ms, self.report.longest_at = held, " / ".join(self.log[-3:])

    def pump(self, seconds: float) -> None:
        end = time.perf_counter() + seconds
        while True:
            self.app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
            if time.perf_counter() >= end:
                return
            time.sleep(0.002)

    def until(self, true: Callable[[], bool], what: str, seconds: float = LONG_S) -> bool:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            self.pump(0.01)
            if true():
                return True
        self.fault("stuck", f"{what} for over {seconds:g} s")
        return False

    def weighed(self) -> None:
        """Weighing ends. Many heavy plans take long: a player who sees them go on has patience for a while, then cancels."""
        place = self.window.pages.weigh
        began = moved = time.monotonic()
        share = place.weighing.worker.share
        while place.weighing.worker.running:
            self.pump(0.01)
            now = time.monotonic()
            if place.weighing.worker.share != share:
                share, moved = place.weighing.worker.share, now
            if now - moved > LONG_S:
                self.fault("stuck", f"weighing, at {share:.0%} for over {LONG_S} s")
                return
            if now - began > LONG_S:
                place.weighing.cancel()
                self.report.given_up += 1

    def _answer_for_the_player(self) -> None:
        rnd, buttons = self.rnd, QMessageBox.StandardButton
        QInputDialog.getText = staticmethod(lambda *a, **k: (rnd.choice(["why", "", "näme <b>"]), rnd.random() < 0.8))
        QInputDialog.getItem = staticmethod(lambda w, t, x, items, *a, **k: (rnd.choice(list(items)), True))
        QFileDialog.getOpenFileName = staticmethod(lambda *a, **k: (str(rnd.choice(self.files())), ""))
        QFileDialog.getSaveFileName = staticmethod(lambda *a, **k: (str(self.folder / "s3.dromic"), ""))
        QMessageBox.question = staticmethod(
            lambda *a, **k: rnd.choice([buttons.Yes, buttons.No])
        )  # whether a session ends
        Files.ask_unsaved = lambda files: rnd.choice([buttons.Save, buttons.Discard, buttons.Discard, buttons.Cancel])
        ListenPlace.ask_unkept = lambda place, count: rnd.choice([buttons.Save, buttons.Discard, buttons.Ignore])
        Files.ask_changed = lambda files, path: rnd.choice([SAVE_AS, RELOAD, OVERWRITE, LEAVE])

    def files(self) -> list[Path]:
        made = [p for n in (1, 2, 3) if (p := self.folder / f"s{n}.dromic").exists()]
        return [demo_songbook(), self.folder / "tunes.abc", self.folder / "missing.dromic", *made]

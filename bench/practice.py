"""Practice: drills of a plan beside the plan itself, the log's summary with a hundred times the passes, Shed opened, and writers
of the log killed at work."""

from __future__ import annotations

import signal
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
from contextlib import closing
from dataclasses import replace
from datetime import date, datetime, timedelta
from pathlib import Path

from bench.lines import forget, line, median_ms, request, row
from dromic import presets
from dromic.app.book.log_keeper import LogKeeper
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.practice.todays_work import todays_work
from dromic.core.search.planner import plan
from dromic.store.log.logbook import Logbook

NOTES, FEW, MANY, ONE, MARKED = 256, 2_000, 200_000, 60_000, 50
KILLS = 100
_WRITER = """
import sys
from datetime import datetime
from pathlib import Path
from dromic.core.practice.log_pass import Pass
from dromic.store.log.logbook import Logbook
book = Logbook(Path(sys.argv[1]))
while True:
    book.add([Pass(datetime(2026, 1, 1), "a", "move:1-4", 60.0, True, (1,), note=sys.argv[2])])
    print(1, flush=True)
"""


def bench_practice() -> None:
    asked = request(line(NOTES))
    made = plan(asked)

    def afresh() -> object:
        forget()
        return plan(asked)

    whole, drills = median_ms(afresh, 5), median_ms(lambda: todays_work(made, presets.practice()), 5)
    row(f"drills of a {NOTES}-note plan / that plan", f"{drills / whole:.2f} times", "aim: at most 2")
    with tempfile.TemporaryDirectory() as folder:
        times = []
        for count in (FEW, MANY):
            book = Logbook(Path(folder) / f"{count}.sqlite")
            book.add(_passes(count))
            book.summary(date(2026, 1, 1))
            times.append(median_ms(lambda book=book: book.summary(date(2026, 1, 1)), 5))  # type: ignore[misc]
    row(f"summary of {MANY} passes / of {FEW}", f"{times[1] / times[0]:.1f} times", "aim: at most 20")
    row("  the larger one", f"{times[1]:.1f} ms")
    with tempfile.TemporaryDirectory() as folder:
        _of_one_phrase(Path(folder) / "log.sqlite")
        _held(Path(folder) / "held.sqlite")
    row("Shed opened for the first time, the demo's reel", f"{statistics.median(_opened() for _ in range(3)):.0f} ms",
        "aim: under 150 ms")  # fmt: skip


def _of_one_phrase(path: Path) -> None:
    """A log with a phrase practised without end: what Shed reads of it, and taking a pass back."""
    book, of = Logbook(path), PhraseName("one", "1")
    first = datetime(2026, 10, 1)
    uids = book.add([
        replace(one, phrase="one", phrase_id="1", at=first + n * timedelta(days=59) / ONE) for n, one in enumerate(_passes(ONE))
    ])  # fmt: skip
    newest = max(one.day for one in book.passes(of))
    cpu = []
    for act in (lambda: book.history(of, newest), lambda: book.take_back([uids.pop()])):
        times = []
        for _ in range(5):
            began = time.process_time()
            act()
            times.append(1000 * (time.process_time() - began))
        cpu.append(statistics.median(times))
    row(
        f"Shed read of {ONE} passes of one phrase in 59 days, CPU",
        f"{cpu[0]:.0f} ms",
        "aim: under 300 ms, on the worker",
    )
    row("  one of them taken back, CPU", f"{cpu[1]:.0f} ms", "on the writer's thread")


def _held(path: Path) -> None:
    """Passes marked while another program holds the log."""
    keeper = LogKeeper(path)
    keeper.book.make()
    keeper.start()
    with closing(sqlite3.connect(path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        times = []
        for one in _passes(MARKED):
            began = time.perf_counter()
            keeper.keep([one])
            times.append(1000 * (time.perf_counter() - began))
    keeper.close()
    row(f"{MARKED} passes marked while the log is held, longest hold", f"{max(times):.0f} ms", "aim: at most 50 ms")


def bench_log_kills(share: float = 1.0) -> None:
    """Writers of one log killed while another writes: passes that were told and are not there."""
    lost = kept = 0
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "log.sqlite"
        for turn in range(max(1, round(KILLS * share / 2))):
            both = [
                subprocess.Popen(
                    [sys.executable, "-c", _WRITER, str(file), f"{turn}.{n}"], stdout=subprocess.PIPE, text=True
                )
                for n in range(2)
            ]
            told = [process.stdout.readline() for process in both if process.stdout is not None]
            time.sleep(0.02 + 0.01 * (turn % 20))
            for n, process in enumerate(both):
                process.send_signal(signal.SIGKILL)
                count = len((told[n] + process.communicate()[0]).split())
                there = sum(p.note == f"{turn}.{n}" for p in Logbook(file).passes())
                lost, kept = lost + max(0, count - there), kept + there
    row(f"{KILLS * share:.0f} writers of the log killed: passes kept, lost", f"{kept}, {lost}", "aim: none lost")


def _passes(count: int) -> list[Pass]:
    """Ten years of practice, or a hundredth of it: some twenty drills of three phrases a day."""
    one = Pass(datetime(2016, 1, 1, 18), "a", "move:0-4", 60.0, True, (1, 2, 3), seconds=12)
    return [
        replace(
            one, at=one.at + timedelta(days=n // 55, seconds=12 * (n % 55)), phrase="abc"[n % 3], drill=f"move:{n % 20}-24",
            tempo=60.0 + n % 90, clean=n % 5 > 0,
        )
        for n in range(count)
    ]  # fmt: skip


def _opened() -> float:
    from PyQt6.QtCore import QSettings
    from PyQt6.QtTest import QTest
    from PyQt6.QtWidgets import QApplication

    from dromic.app.kit import theme
    from dromic.app.window.window import MainWindow, demo_songbook

    app = QApplication.instance() or QApplication([])
    theme.load_fonts()
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(QSettings(str(Path(folder) / "w.ini"), QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        window.open_file(demo_songbook(), 2)
        while window.plan is None:
            QTest.qWait(20)
        QTest.qWait(500)
        began = time.perf_counter()
        window.pages.go_to("Shed")
        app.processEvents()
        took = time.perf_counter() - began
        window.close()
    return took * 1000

"""`./run bench --holds`: the longest standstill of the interface on a phrase of 3000 notes, by what the player does."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from bench.heartbeat import Heartbeat
from bench.lines import row

NOTES, AFTER_S, LATEST_S = 3000, 0.3, 120
AIMED = {"a pin", "an edit", "a page"}


def bench_holds() -> None:
    """Everything here runs offscreen."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtCore import QEventLoop, QSettings, Qt
    from PyQt6.QtTest import QTest
    from PyQt6.QtWidgets import QApplication

    from dromic.app.kit import theme
    from dromic.app.window.window import MainWindow
    from dromic.core.music.songbook import Songbook
    from dromic.formats.document.document import songbook_bytes
    from tests.build import long_phrase

    app = QApplication.instance() or QApplication([])
    theme.load_fonts()
    heart = Heartbeat()

    def pump(until: Callable[[], bool], least_s: float = AFTER_S) -> None:
        began = time.monotonic()
        while time.monotonic() - began < least_s or (not until() and time.monotonic() - began < LATEST_S):
            app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
            time.sleep(0.002)

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.dromic"
        path.write_bytes(songbook_bytes(Songbook.of("long", [long_phrase(NOTES)] * 2)))
        window = MainWindow(QSettings(f"{folder}/w.ini", QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        window.open_file(path)
        place = window.plan_place
        pump(lambda: window.plan is not None)

        def idle() -> bool:
            return not place.planning.planner.running and not place.planning.waiting_for_advice

        pump(idle)
        for what, act, done in (
            ("a pin", lambda: (place.chart.select(NOTES // 2), place.pin("string", "")), idle),
            ("undo of it", window.open_book.undo.undo, idle),
            ("the tempo", place.panel.tempo.stepUp, idle),
            ("to Write", lambda: window.pages.go_to("Write"), idle),
            ("an edit", lambda: QTest.keyClick(window.pages.write.grid, Qt.Key.Key_7), idle),
            ("to Plan", lambda: window.pages.go_to("Plan"), idle),
            ("a page", lambda: window.turn_page(1), idle),
            ("to Weigh", lambda: window.pages.go_to("Weigh"), lambda: not window.pages.weigh.weighing.worker.running),
            ("the other theme", window.looks.switch_theme, idle),
            ("a save", lambda: window.files.save_to(path), idle),
        ):
            heart.begin()
            act()
            pump(done)
            row(f"{what}, {NOTES} notes", f"{heart.longest_ms:.0f} ms", "aim: under 300 ms" if what in AIMED else "")
        window.open_book.let_go()
        window.close()

"""From nothing to a drawn demo window, against a bare window; what either takes to end again is left out."""

from __future__ import annotations

import os
import subprocess
import sys
import time

from bench.lines import row

BARE = """
import sys, numpy, scipy
from PyQt6.QtWidgets import QApplication, QWidget
app = QApplication([]); w = QWidget(); w.resize(1280, 800); w.show(); app.processEvents(); w.grab()
"""
# as dromic/app/__main__.py starts
OURS = """
import gc; gc.disable()
import sys, tempfile, pathlib
from PyQt6.QtCore import QEventLoop, QSettings
from PyQt6.QtWidgets import QApplication
from dromic.app.kit import theme
from dromic.app.main import demo_songbook
from dromic.app.window.window import MainWindow
app = QApplication([]); theme.load_fonts()
w = MainWindow(QSettings(tempfile.mkdtemp() + "/w.ini", QSettings.Format.IniFormat)); w.show()
w.open_file(demo_songbook())
# wait as the running application does, without taking time from the planner's thread
loop = QEventLoop(); w.planning.planner.answered.connect(loop.quit); loop.exec()
w.grab()
"""
DRAWN = "import time; print(time.monotonic(), flush=True)"

# as on a machine that keeps compiled modules, whatever is set here
RUNS = 9
COMPILED = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}


def bench_start() -> None:
    def run(code: str) -> float:
        began = time.monotonic()
        done = subprocess.run(
            [sys.executable, "-c", f"{code}{DRAWN}"], check=True, capture_output=True, text=True, env=COMPILED
        )
        return float(done.stdout) - began

    run(BARE), run(OURS)
    pairs = [(run(BARE), run(OURS)) for _ in range(RUNS)]
    # the quickest of many: other work on the machine only ever adds
    bare, ours = (min(p[i] for p in pairs) for i in (0, 1))
    row(
        "start to a drawn demo window / a bare window, the quickest of each",
        f"{ours / bare:.2f} times",
        f"aim: at most 2.5 ({ours:.2f} s / {bare:.2f} s)",
    )

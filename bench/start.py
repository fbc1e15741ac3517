"""From nothing to a drawn demo window, against a bare window."""

from __future__ import annotations

import os
import statistics
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
from dromic.app import theme
from dromic.app.main import demo_songbook
from dromic.app.window import MainWindow
app = QApplication([]); theme.load_fonts()
w = MainWindow(QSettings(tempfile.mkdtemp() + "/w.ini", QSettings.Format.IniFormat)); w.show()
w.open_file(demo_songbook())
# wait as the running application does, without taking time from the planner's thread
loop = QEventLoop(); w.plan_place.planner.answered.connect(loop.quit); loop.exec()
w.grab(); w.close()
"""


# as on a machine that keeps compiled modules, whatever is set here
COMPILED = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}


def bench_start() -> None:
    def run(code: str) -> float:
        began = time.perf_counter()
        subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, env=COMPILED)
        return time.perf_counter() - began

    run(BARE), run(OURS)
    pairs = [(run(BARE), run(OURS)) for _ in range(7)]
    ratio = statistics.median(b / a for a, b in pairs)
    bare, ours = (statistics.median(p[i] for p in pairs) for i in (0, 1))
    row(
        "start to a drawn demo window / a bare window",
        f"{ratio:.2f} times",
        f"aim: at most 2 ({ours:.2f} s / {bare:.2f} s)",
    )

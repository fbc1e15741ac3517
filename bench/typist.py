"""`python -m bench.typist FOLDER KIND SEED`: a window in which somebody works until this process is killed, and a record of
what was done when, for bench/kills.py."""

from __future__ import annotations

import os
import random
import sys
import time
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QEventLoop, QSettings
from PyQt6.QtWidgets import QApplication

from dromic.app.kit import theme
from dromic.app.window.window import MainWindow, demo_songbook
from dromic.formats.document.document import songbook_bytes

SAVING, EDITING, JOB, PRACTISING = "saving", "editing", "job", "practising"
EDIT_S = 1.0
"""an edit a second"""


def main(folder: Path, kind: str, seed: int) -> None:
    rnd = random.Random(seed)
    app = QApplication([])
    theme.load_fonts()
    settings = QSettings(str(folder / "w.ini"), QSettings.Format.IniFormat)
    window = MainWindow(settings, folder / "recovery", log=folder / "faults.log")
    window.show()

    def pump(seconds: float) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
            time.sleep(0.002)

    window.open_file(demo_songbook(), rnd.randrange(1, 8))
    while window.plan is None:
        pump(0.05)
    open_book, path = window.open_book, folder / "book.dromic"
    log = (folder / "log").open("w")

    def done(number: int, words: str) -> None:
        log.write(f"{time.time()} {number} {words}\n")
        log.flush()

    number = 0
    if kind == PRACTISING:
        window.go_to("Shed")
        practising = window.shed_place.practising
        while practising.work is None:
            pump(0.02)
    while kind == PRACTISING:
        while practising.drill is None:
            if practising.sitting is None:
                window.shed_place.today.begin_asked.emit(None)
            else:
                practising.go_on()
        practising.mark(rnd.random() < 0.8)
        number += 1
        done(number, "passed")
        pump(rnd.uniform(0.0, 0.05))
    while True:
        number += 1
        about = "x" * (number * 997 % 50_000)  # so that files differ in length
        open_book.edit(replace(open_book.phrase, title=f"v{number}", about=about), "edit")
        (folder / f"v{number}").write_bytes(songbook_bytes(open_book.book))
        done(number, "edited")
        if kind == SAVING:
            window.files.save_to(path)
            done(number, "saved")
            pump(0.0)
            continue
        if kind == JOB:
            window.go_to(rnd.choice(["Weigh", "Hands", "Plan"]))
            window.planning.choose(replace(open_book.choices, legato=rnd.choice(["anywhere", "never"])))
            (folder / f"v{number}").write_bytes(songbook_bytes(open_book.book))
        pump(EDIT_S)


if __name__ == "__main__":
    main(Path(sys.argv[1]), sys.argv[2], int(sys.argv[3]))

"""`python -m bench.typist FOLDER KIND SEED`: a window in which somebody works until this process is killed, and a record of
what was done when, for bench/kills.py."""

from __future__ import annotations

import os
import random
import sys
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtCore import QEventLoop, QSettings
from PyQt6.QtWidgets import QApplication

from dromic.app.audio.input import RATE, SimulatedInput
from dromic.app.kit import theme
from dromic.app.window.window import MainWindow, demo_songbook
from dromic.core.practice.log_pass import Pass
from dromic.formats.document.document import songbook_bytes
from dromic.store.log.logbook import Logbook

SAVING, EDITING, JOB, PRACTISING = "saving", "editing", "job", "practising"
RECORDING, OPENING, UPGRADING = "recording", "opening", "bringing a log up"
PIECE_S = 0.05
"""of a recording, handed over at once"""
Pump, Done = Callable[[float], None], Callable[[int, str], None]
CLEAN = 0.2
"""share of marks that say a pass was clean, which is none where it comes too early; a miss counts whenever it is said"""
EDIT_S = 1.0
"""an edit a second"""


def main(folder: Path, kind: str, seed: int) -> None:
    rnd = random.Random(seed)
    if kind == UPGRADING:
        _bring_up(folder)
        return
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
    if kind == RECORDING:
        _record(window, pump, done, seed)
    if kind == OPENING:
        _open(window, pump, done, folder, rnd)
    if kind == PRACTISING:
        window.pages.go_to("Shed")
        practising = window.pages.shed.practising
        while practising.work is None:
            pump(0.02)
        keeper = window.log_keeper
        keep = keeper.keep

        def kept(passes: Sequence[Pass]) -> list[str]:
            """What is no pass never comes here, and is told as none."""
            nonlocal number
            uids = keep(passes)
            number += len(passes)
            done(number, "passed")
            done(number - keeper.writer.waiting, "kept")
            return uids

        keeper.keep = kept  # type: ignore[method-assign]
    while kind == PRACTISING:
        while practising.drill is None:
            if practising.session is None:
                window.pages.shed.today.begin_asked.emit(None)
            else:
                practising.go_on()
        practising.mark(rnd.random() < CLEAN)
        pump(rnd.uniform(0.0, 0.15))
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
            window.pages.go_to(rnd.choice(["Weigh", "Hands", "Plan"]))
            window.planning.choose(replace(open_book.choices, legato=rnd.choice(["anywhere", "never"])))
            (folder / f"v{number}").write_bytes(songbook_bytes(open_book.book))
        pump(EDIT_S)


def _bring_up(folder: Path) -> None:
    """Read an old log, which brings it up, and say how far it is."""
    with (folder / "log").open("w") as log:

        def said(share: float) -> bool:
            log.write(f"{time.time()} {round(100 * share)} up\n")
            log.flush()
            return True

        log.write(f"{time.time()} 0 begun\n")
        log.flush()
        Logbook(folder / "log.sqlite", said).passes()
        said(1.0)


def _record(window: MainWindow, pump: Pump, done: Done, seed: int) -> None:
    """Record noise of a known seed as it comes, and say how many pieces were handed over."""
    window.pages.go_to("Listen")
    place = window.pages.listen
    input_ = place.taking.input = SimulatedInput(parent=place)
    place.record.click()
    noise, number, began = np.random.default_rng(seed), 0, time.monotonic()
    while True:
        while time.monotonic() - began > number * PIECE_S:
            input_.hand(noise.uniform(-0.5, 0.5, round(PIECE_S * RATE)))
            number += 1
            done(number, "handed")
        pump(PIECE_S / 2)


def _open(window: MainWindow, pump: Pump, done: Done, folder: Path, rnd: random.Random) -> None:
    """Open a take again and again, the log and the kept takes beside."""
    window.pages.go_to("Listen")
    place = window.pages.listen
    place.taking.simulate(0.2, 1)
    while place.taking.take is None:
        pump(0.02)
    place.keeping.keep()
    while place.keeping.worker.running:
        pump(0.02)
    take = place.keeping.kept()[0]
    place.keeping.log()
    window.log_keeper.settle()
    (folder / "take.flac").write_bytes(place.keeping.takes.sound(take))
    number = 0
    while True:
        number += 1
        done(number, "opening")
        place.taking.open(folder / "take.flac")
        pump(rnd.uniform(0.05, 0.6))


if __name__ == "__main__":
    main(Path(sys.argv[1]), sys.argv[2], int(sys.argv[3]))

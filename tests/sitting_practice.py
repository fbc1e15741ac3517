"""A simulated player who practises and records: sessions by the keys, takes, another window on the log, a log that is held, a time of
day that jumps. What was played is written down here, and set against what is kept in the end."""

from __future__ import annotations

import sqlite3
import threading
import time
from contextlib import closing
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

from dromic.app.audio.input import RATE, SimulatedInput
from dromic.app.shed.today_strip import TodayStrip
from dromic.app.window.window import MainWindow
from dromic.core.drills.drill_kinds import BY_NAME
from dromic.core.practice.ladder import SCHOOLS
from dromic.core.practice.log_pass import Pass
from dromic.store.log.logbook import Logbook
from dromic.store.log.writer import LogWriter
from dromic.store.takes import KeptTake, Takes
from tests.watched_window import WatchedWindow

SHED_KEYS = (
    "Space",
    "Right",
    "Left",
    "Up",
    "Down",
    "Return",
    "T",
    "+",
    "Backspace",
    "M",
    "P",
    "O",
    "Ctrl+Right",
    "1",
    "N",
)


class Practising(WatchedWindow):
    """A player who practises; what the windows said is kept is listed by what it is known by."""

    def __init__(self, *given: Any) -> None:
        super().__init__(*given)
        self.kept: set[str] = set()
        self.recorded: set[str] = set()
        self._ahead, self._off = 0.0, timedelta(0)
        self.log_path = self.window.practice_log
        self.other = LogWriter(Logbook(self.log_path))
        self._holders: list[threading.Thread] = []
        for writer in (self.window.log_keeper.writer, self.other):
            self._listed(writer)

    def _listed(self, writer: LogWriter) -> None:
        keep, take_back = writer.keep, writer.take_back

        def kept(passes: list[Pass]) -> list[str]:
            uids = keep(passes)
            self.kept |= set(uids)
            return uids

        def taken_back(uids: list[str]) -> None:
            take_back(uids)
            self.kept -= set(uids)

        writer.keep, writer.take_back = kept, taken_back  # type: ignore[method-assign,assignment]

    def key(self, widget: QWidget, keys: str) -> None:
        combination = QKeySequence(keys)[0]
        QTest.keyClick(widget, combination.key(), combination.keyboardModifiers())

    def do_shed(self) -> str:
        """Practice by the pedal: some passes, a drill looked at, other wishes, a drill taken to Plan."""
        place, rnd = self._at("Shed").pages.shed, self.rnd
        kind = rnd.randrange(6)
        place.practising.clock = lambda: time.monotonic() + self._ahead
        place.practising.now = lambda: datetime.now() + self._off
        if place.practising.work is None:
            self.until(lambda: not place.practising.worker.running, "today's work")
        if place.practising.session is not None or kind < 2:
            if place.practising.session is None:
                place.today.begin_asked.emit(None if kind or place.today.drill is None else place.today._rows[-1][1])
            for _ in range(rnd.randrange(1, 12)):
                self._ahead += rnd.choice([0.0, 0.03, 4.0, 20.0, 90.0])
                if rnd.random() < 0.1:  # the time of day is set, the lid was closed, summer time ends
                    self._off += timedelta(seconds=rnd.choice([-3600, -2, 3600, 90_000, -90_000]))
                self.key(place.running, rnd.choice(SHED_KEYS))
            if rnd.random() < 0.4:
                self.key(place.running, "Esc")
        elif kind == 2:
            place.today.strip.minutes.setValue(rnd.choice([5, 30, 240]))
        elif kind == 3:
            self._wish(place.practising, place.today.strip)
        elif kind == 4 and place.today._rows:
            place.today.list.setCurrentItem(rnd.choice(place.today._rows)[2])
        elif place.today.drill is not None:
            place.today.open.click()
        return f"shed {kind}"

    def _wish(self, practising: Any, strip: TodayStrip) -> None:
        """Something else is wanted of practice: how sore, towards what, by when, how."""
        rnd = self.rnd
        kind = rnd.randrange(4)
        if kind == 0:
            strip.sore.setCurrentIndex(rnd.randrange(4))
        elif kind == 1:
            strip.target.setValue(rnd.randrange(40, 240))
            strip.target.editingFinished.emit()
        elif kind == 2:
            strip.ready.setValue(rnd.choice([0, 1, 30]))
        else:
            left = tuple(rnd.sample(sorted(BY_NAME), rnd.randrange(len(BY_NAME) + 1)))
            practising.wish(first_hand=rnd.choice(["picking", "fretting"]), school=rnd.choice(SCHOOLS), without=left)

    def do_listen(self) -> str:
        """A take of the simulated player, looked at, judged otherwise, practised, logged."""
        place, rnd = self._at("Listen").pages.listen, self.rnd
        kind = rnd.randrange(5)
        if kind == 0 or place.taking.take is None:
            place.level.setValue(rnd.randrange(101))
            place.simulate.click()
        elif kind == 1:
            rnd.choice([place.ideal, place.signal]).setCurrentIndex(rnd.randrange(2))
        elif kind == 2:
            place.list.setCurrentRow(rnd.randrange(max(1, place.list.count())))
            place.hear.click()
        elif kind == 3:
            place.days.log.click()
        else:
            place.practise.click()
        return f"listen {kind}"

    def do_record(self) -> str:
        """A recording: begun, played on, ended, or left to what comes next; kept, thrown away, heard again."""
        place, rnd = self._at("Listen").pages.listen, self.rnd
        taking, kind = place.taking, rnd.randrange(5)
        if taking.recording:
            taking.input.hand(np.random.default_rng(1).uniform(-0.4, 0.4, RATE))
            if kind:
                place.record.click()
            return "record on"
        if kind < 3 and self.window.plan is not None:
            taking.input = SimulatedInput(np.random.default_rng(2).uniform(-0.4, 0.4, RATE // 2), place)
            place.record.click()
            self.recorded |= set(taking.recorded)
            return "record"
        if place.days.list.count():
            place.days.list.setCurrentRow(rnd.randrange(place.days.list.count()))
        if kind == 3:
            place.days.keep.click()
        else:
            (place.days.throw if rnd.random() < 0.5 else place.days.back).click()
        return f"record {kind}"

    def do_log(self) -> str:
        """Another window keeps passes and takes some back; another program holds the log for a moment."""
        rnd = self.rnd
        passes = [
            Pass(datetime.now().replace(microsecond=0), "Elsewhere", "move:0-3", 60.0 + n, rnd.random() < 0.5, (1,))
            for n in range(rnd.randrange(1, 5))
        ]
        uids = self.other.keep(passes)
        if rnd.random() < 0.3:
            self.other.take_back(uids[:1])
        if rnd.random() < 0.3:
            thread = threading.Thread(target=self._hold, args=(rnd.uniform(0.1, 2.0),), daemon=True)
            self._holders = [*(t for t in self._holders if t.is_alive()), thread]
            thread.start()
        return "another window"

    def _hold(self, seconds: float) -> None:
        with closing(sqlite3.connect(self.log_path, timeout=5, isolation_level=None)) as base:
            try:
                base.execute("BEGIN IMMEDIATE")
            except sqlite3.OperationalError:
                return
            time.sleep(seconds)
            base.execute("ROLLBACK")

    def check_what_is_kept(self) -> None:
        """After the window has closed: the log has what the player's list has, and every recording is there or was thrown away."""
        for thread in self._holders:
            thread.join()
        self.other.close()
        last = LogWriter(Logbook(self.log_path))  # what waits is taken up by the next start
        if not last.settled(20):
            self.fault("kept", f"{last.waiting} passes still wait")
        last.close()
        with closing(sqlite3.connect(self.log_path)) as base:
            found = [row[0] for row in base.execute("SELECT uid FROM pass WHERE lent IS NULL")] if self.kept else []
        if sorted(found) != sorted(self.kept):
            lost, more = self.kept - set(found), set(found) - self.kept
            self.fault("kept", f"{len(lost)} passes lost, {len(more)} too many, {len(found) - len(set(found))} twice")
        takes = Takes(self.log_path.parent / "takes")
        there = {path.stem.removesuffix(".json") for path in takes.folder.rglob("*.json*")}
        thrown = {take.number for take in self.thrown}
        if gone := self.recorded - there - thrown:
            self.fault("kept", f"{len(gone)} recordings are gone")

    @property
    def thrown(self) -> list[KeptTake]:
        """What was thrown away in this window."""
        return self.window.pages.listen.keeping.thrown if "Listen" in self.window.pages.stack else []

    def _at(self, name: str) -> MainWindow:
        if self.window.pages.place != name:
            self.window.pages.go_to(name)
        return self.window

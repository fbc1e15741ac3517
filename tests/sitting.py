"""A simulated player at the real window: chosen at random, the same for the same seed; everything that goes wrong is told.

`python -m tests.sitting SEED SECONDS [STEPS]` runs one sitting in this process and prints what came of it as JSON. The sittings
of the bench and of the tests are such processes, so that a crash ends one and is seen.
"""

from __future__ import annotations

import faulthandler
import json
import os
import sys
import tempfile
import time
import traceback
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QDialog, QMenu, QMessageBox

from dromic import presets
from dromic.app.book.files import Files
from dromic.app.window.window import demo_songbook
from dromic.app.write.write_commands import COMMANDS
from dromic.core.music.songbook import Songbook
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.processes import share_arenas
from tests.sitting_practice import Practising
from tests.watched_window import Report, children, megabytes

AWAY = {"Quit", "Print the sheet…", "Open…", "Export this phrase…", "Save as…", "Large, for the music stand"}
"""what the sitting does in ways of its own"""
LINES = ("5.3:e 5.5 4.2 | 4.4:q", "6.0:q 5.2 4.2 | 3.1:e 3.2", "][", "5.5:s h5.7 p5.5 4.7", "6.0+5.2+4.2:h_", "")
RESTS = (100, 400, 700, 1100)
"""after how many commands a warm sitting comes to rest"""
REST_S = 6
CHART = (
    *"DU01234SPWMN", "Delete", "Left", "Right", "Home", "End", "Shift+Right", "Shift+Left", "Return", "Space", "Up", "Down",
    "F8", "F9", "PgDown", "PgUp",
)  # fmt: skip


class Sitting(Practising):
    """A player who does anything."""

    def begin(self) -> None:
        w = self.window
        if self.rnd.random() < 0.3:
            w.start()
            self.pump(0.1)
            w.new_book()
        else:
            w.open_file(demo_songbook(), self.rnd.randrange(1, 8))
            self.until(lambda: w.plan is not None, "the first plan was not there")
        w.activateWindow()
        self.pump(0.1)

    def look_round(self) -> None:
        """Every page once, with what it works out, so that all libraries and processes are there: what memory comes after that
        stays for what is done, not for what is loaded once."""
        w = self.window
        w.open_file(demo_songbook(), 1)
        self.until(lambda: not w.files.reader.running, "reading")
        w.pages.go_to("Plan")
        self.until(lambda: w.plan is not None, "a plan to look round with")
        for name in ("Write", "Hands", "Stand", "Shed", "Listen", "Weigh", "Plan"):
            if name == "Stand":
                w.pages.toggle_stand()
                w.pages.toggle_stand()
                continue
            w.pages.go_to(name)
            if name == "Shed":
                self.until(lambda: w.pages.shed.practising.work is not None, "today's work")
            elif name == "Listen":
                w.pages.listen.simulate.click()
                self.until(lambda: w.pages.listen.taking.take is not None, "a take")
            elif name == "Weigh":
                self.weighed()
                w.pages.weigh.ways.arrange("work")
                self.until(lambda: bool(w.pages.weigh.ways.plot().frontier), "the frontier")
            self.report.commands += 1
            self.pump(0.1)
        w.plan_place.ask_what_if()
        w.files.open(self.folder / "tunes.abc")
        self.until(lambda: not w.files.reader.running, "reading")

    def do_write(self) -> str:
        place, rnd = self._at("Write").pages.write, self.rnd
        kind = rnd.choices(("command", "digit", "move", "name", "text", "line"), (35, 25, 20, 5, 7, 8))[0]
        if kind == "command":
            command = rnd.choice(COMMANDS)
            if command.keys and rnd.random() < 0.6:
                self.key(place.grid, rnd.choice(command.keys))
            else:
                place.run(command.name)
            return f"command {command.name}"
        if kind == "digit":
            QTest.keyClicks(place.grid, rnd.choice("0123456789"))
        elif kind == "move":
            self.key(
                place.grid,
                rnd.choice(["Right", "Left", "Up", "Down", "Shift+Right", "Home", "End", "Ctrl+Right", "Shift+End"]),
            )
        elif kind == "name":
            place.type_name(rnd.choice("abcdefg"), rnd.random() < 0.3)
        elif kind == "text":
            place.run_text(rnd.choice(["copy", "cut", "paste"]))
        else:
            place.line.text.setPlainText(rnd.choice(LINES))
            if rnd.random() < 0.5:
                place.line.flush()
        return kind

    def do_panel(self) -> str:
        panel, rnd = self._at("Write").pages.write.panel, self.rnd
        kind = rnd.randrange(5)
        if kind == 0:
            name, values = rnd.choice([
                ("title", ["a", "", "Ω", "x" * 300]), ("section", ["A", "", "B"]), ("key", ["D", "Bm", "", "H"]),
                ("tuning", ["D2,A2,D3,G3,B3,E4", "E1,A1,D2,G2", "B1,E2,A2,D3,G3,B3,E4", "junk", ""]),
                ("metre", ["4/4", "7/8 (2+2+3)", "12/8", "64/32", "0/4", "x"]), ("pickup", ["q", "", "e.", "99"]),
            ])  # fmt: skip
            box = getattr(panel, name)
            box.setText(rnd.choice(values))
            box.editingFinished.emit()
            return f"panel {name}"
        if kind == 1:
            panel.capo.setValue(rnd.randrange(13))
        elif kind == 2:
            panel.tempo.setValue(rnd.choice([10, 90.5, 1000]))
        else:
            box = panel.instrument if kind == 3 else panel.swing
            box.setCurrentIndex(rnd.randrange(box.count()))
            box.activated.emit(box.currentIndex())
        return f"panel {kind}"

    def do_chart(self) -> str:
        keys = self.rnd.choice(CHART)
        if self.window.pages.place not in ("Plan", "Stand"):
            self._at("Plan")
        self.key(self.window.plan_place.chart if self.window.pages.place == "Plan" else self.window.pages.stand, keys)
        return f"chart {keys}"

    def do_choose(self) -> str:
        rnd, open_book = self.rnd, self.window.open_book
        name, values = rnd.choice([
            ("school", [*presets.schools()]), ("lean", ["", *presets.leans()]), ("tempo", [10.0, 60.0, 137.5, 400.0]),
            ("player", [*self.window.roster.players]), ("instrument", ["", *presets.instruments()]),
            ("start", ["", "down", "up", "either"]), ("legato", ["never", "turnarounds", "anywhere"]),
            ("repeat", [False, True]), ("positions", [False, True]), ("strokes", [False, True]),
            ("unit", ["", "eighth", "triplet"]), ("pattern", ["", "ddu", "du"]),
        ])  # fmt: skip
        self.window.planning.choose(replace(open_book.choices, **{name: rnd.choice(values)}))
        return f"choose {name}"

    def do_wheel(self) -> str:
        self._at("Plan")
        for _ in range(self.rnd.randrange(3, 12)):
            self.window.plan_place.panel.tempo.stepBy(self.rnd.choice([-1, 1]))
            self.pump(0.01)
        return "tempo wheel"

    def do_tab(self) -> str:
        self.window.plan_place.tabs.setCurrentIndex(self.rnd.randrange(4))
        place = self.window.plan_place
        button = self.rnd.choice([place.panel.more, place.verdict.try_button])
        if button.isVisible() and button.isEnabled():
            button.click()
        return "tab"

    def do_action(self) -> str:
        action = self.rnd.choice([a for a in self.window.actions() if a.text() not in AWAY])
        keys = action.shortcuts()
        if keys and self.rnd.random() < 0.5 and self.window.isActiveWindow():
            self.key(self.window.focusWidget() or self.window, keys[0].toString())
        else:
            action.trigger()
        return f"action {action.text()}"

    def do_page(self) -> str:
        name = self.rnd.choice(["Write", "Plan", "Weigh", "Shed", "Hands", "Stand"])
        if name == "Stand":
            self.window.pages.toggle_stand()
        else:
            self.window.pages.go_to(name)
        return f"page {name}"

    def do_pages(self) -> str:
        """Pages turned at thirty a second."""
        for _ in range(self.rnd.randrange(4, 20)):
            self.window.turn_page(self.rnd.choice([-1, 1, 1]))
            self.pump(0.03)
        return "pages turned"

    def do_undo(self) -> str:
        stack = self.window.open_book.undo
        for _ in range(self.rnd.choice([1, 1, 3, 10])):
            (stack.undo if self.rnd.random() < 0.6 else stack.redo)()
        return "undo"

    def do_save(self) -> str:
        path = self.folder / self.rnd.choice(["s1.dromic", "s2.dromic"])
        saved = (
            self.window.files.save()
            if self.window.open_book.path is not None and self.rnd.random() < 0.5
            else self.window.files.save_to(path)
        )
        return f"save {saved}"

    def do_open(self) -> str:
        path = self.rnd.choice(self.files())
        self.window.open_file(path, self.rnd.choice([1, 1, 2, 5]))
        if self.rnd.random() < 0.6:
            self.until(lambda: not self.window.files.reader.running, "reading")
        return f"open {path.name}"

    def do_weigh(self) -> str:
        place, rnd = self._at("Weigh").pages.weigh, self.rnd
        kind = rnd.randrange(9)
        if kind == 0:
            place.tabs.setCurrentIndex(rnd.randrange(place.tabs.count()))
        elif kind == 7:
            place.ways.arrange(rnd.choice(["rows", "rows", "work", "table"]))
            place.ways.sort.setCurrentIndex(rnd.randrange(place.ways.sort.count()))
        elif kind == 8:
            self.key(place.ways.rows, rnd.choice(["Up", "Down", "Home", "End", "Return"]))
        elif kind == 1:
            place.alternatives.setValue(rnd.randrange(5))
        elif kind == 2:
            place.own.toggle()
        elif kind in (3, 4):
            self.weighed()
            place.choose(rnd.randrange(max(1, len(place.entries))))
            (place.take_button.click if kind == 3 else place.ask_keep)()
        elif kind == 5:
            place.weighing.cancel()
        else:
            rnd.choice(rnd.choice([place.schools_button, place.leans_button]).menu().actions()).toggle()
        return f"weigh {kind}"

    def do_hands(self) -> str:
        place, rnd = self._at("Hands").pages.hands, self.rnd
        kind = rnd.randrange(6)
        if kind == 0:
            rnd.choice(list(place.numbers.values())).value.setValue(rnd.choice([0.0, 1.0, 80.0, 150.0, 300.0]))
        elif kind == 1:
            name = rnd.choice(list(place.habits))
            place._set_habit(name, rnd.choice([o.value for o in place.habits[name].of.options]))
        elif kind == 5:
            place.switching.toggle()
        else:
            place.buttons[("Copy", "Delete", "Rename")[kind - 2]].click()
        return f"hands {kind}"

    def do_other(self) -> str:
        window, kind = self.window, self.rnd.randrange(6)
        if kind == 0:
            window.resize(self.rnd.choice([400, 900, 1280, 2500]), self.rnd.choice([300, 700, 1600]))
        elif kind == 1:
            window.transport.loop.toggle()
        elif kind == 2:
            window.transport.toggle()
        elif kind == 3:
            window.plan_place.ask_what_if()
            QTest.keyClick(window.plan_place.what_if, Qt.Key.Key_Return)
        elif kind == 4:
            path = window.open_book.path
            if path is not None and path.parent == self.folder:  # a sync, another window
                path.write_bytes(
                    songbook_bytes(replace(read_songbook(path.read_bytes()), about=str(self.rnd.random())))
                )
        else:
            window.notify("", True)
        return f"other {kind}"

    ACTS = (
        (do_write, 30), (do_panel, 6), (do_chart, 20), (do_tab, 4), (do_action, 10), (do_page, 8), (do_pages, 2),
        (do_undo, 8), (do_save, 3), (do_open, 2), (do_weigh, 6), (Practising.do_shed, 8), (Practising.do_listen, 4),
        (Practising.do_record, 4), (Practising.do_log, 3), (do_hands, 4), (do_other, 6), (do_choose, 6), (do_wheel, 3),
    )  # fmt: skip

    def step(self) -> None:
        act = self.rnd.choices([a for a, _ in self.ACTS], [w for _, w in self.ACTS])[0]
        self.log.append(act.__name__)
        try:
            self.log[-1] = act(self)
        except Exception:  # noqa: BLE001
            self.fault("raised", traceback.format_exc())
        self.pump(self.rnd.choice([0, 0, 0.01, 0.05, 0.2]))
        for box in self.app.topLevelWidgets():
            if isinstance(box, QDialog | QMenu) and box.isVisible():
                box.close()
        self.report.commands += 1

    def run(self, seconds: float, steps: int, warm: bool = False) -> Report:
        """Go on for so long, or for so many commands; then save, and open again what was saved."""
        self.begin()
        if warm:
            self.look_round()
        end = time.monotonic() + seconds
        while time.monotonic() < end and self.report.commands < steps:
            self.step()
            if self.report.commands % 100 == 0:
                self.report.mb_at[self.report.commands] = megabytes()
            if warm and self.report.commands in RESTS:
                self._rest()
            if self.report.commands % 40 == 0:
                self._settle()
        self._settle()
        self._save_and_read()
        self.report.mb_at[self.report.commands] = megabytes()
        if warm:
            self._rest()
        Files.ask_unsaved = lambda files: QMessageBox.StandardButton.Discard
        self.window.close()
        self.pump(0.2)
        self.check_what_is_kept()
        if _children_left(self):
            self.fault("left behind", f"processes that outlive the window: {children()}")
        return self.report

    def _settle(self) -> None:
        """Everything comes to an end, and what is shown is of the phrase that stands open."""
        window = self.window
        planning = window.planning
        self.until(lambda: not planning.planner.running and not window.files.reader.running, "planning")
        if window.pages.place == "Weigh":
            self.weighed()
        plan, phrase = window.plan, planning.phrase
        if (
            plan is not None
            and not planning.stale
            and phrase is not None
            and len(plan.request.phrase.events) != len(phrase.events)
        ):
            self.fault("another plan", f"{plan.request.phrase.title[:40]} for {phrase.title[:40]}")

    def _rest(self) -> None:
        """Nothing sounds and nothing is worked out, for long enough that memory is given back."""
        self._settle()
        self.window.transport.stop()
        self.pump(REST_S)
        self.report.mb_at_rest[self.report.commands] = megabytes()

    def _save_and_read(self) -> None:
        path = self.folder / "last.dromic"
        book = self.window.open_book.book
        if not self.window.files.save_to(path):
            self.fault("not saved", self.window.notice.text())
        elif plain(read_songbook(path.read_bytes())) != plain(book):
            self.fault("another book", "what was saved reads otherwise than what was there")


def _children_left(sitting: Sitting) -> bool:
    """Whether processes other than those that read files and hear takes, and what multiprocessing keeps, still run."""
    return len(children()) > 3


def plain(book: Songbook) -> Songbook:
    """A songbook without what only the moment of reading said."""
    entries = (replace(e, phrase=replace(e.phrase, notices=(), tempo_stated=True)) for e in book.entries)
    return replace(book, entries=tuple(entries))


def main(arguments: list[str]) -> int:
    warm = "warm" in arguments
    seed, seconds, *more = [one for one in arguments if one != "warm"]
    faulthandler.enable()
    share_arenas()  # as the program does
    with tempfile.TemporaryDirectory() as folder:
        report: Any = Sitting(int(seed), Path(folder)).run(float(seconds), int(more[0]) if more else 10**9, warm)
    print(json.dumps(asdict(report)), flush=True)
    os._exit(0)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

"""Redraws the pictures of docs/screenshots from the demo songbook, offscreen."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from dromic import presets
from dromic.app.audio.input import RATE, SimulatedInput
from dromic.app.audio.output import SimulatedOutput
from dromic.app.book.start_view import StartView
from dromic.app.kit import theme
from dromic.app.weigh.weigh_place import WeighPlace
from dromic.app.window.window import MainWindow, demo_songbook
from dromic.core.learning.simulated_player import practised
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import perform
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.planner import solve
from dromic.core.setup.choices import Choices
from dromic.core.setup.player_settings import HABITS
from dromic.formats.sheet.sheet import sheet
from dromic.formats.sheet.sheet_paint import png_bytes
from dromic.formats.table import read
from dromic.plan_requests import first_choices, request_for
from dromic.sound.take_render import LEAD_S, take_sound
from dromic.store.log.logbook import Logbook

SIZE = (1280, 800)
LOG_DAYS, TODAY = 10, datetime(2026, 11, 25, 18)
MOST_WAITS, WAIT_MS, HELD_S = 1200, 50, 2.6
ROUND_S = 6.0  # longer than any round of the figures that measure a hand
Look = Callable[[MainWindow], None]


def wait_for(done: Callable[[], bool]) -> None:
    """Let the window go on until something is so."""
    for _ in range(MOST_WAITS):
        if done():
            return
        QTest.qWait(WAIT_MS)
    raise RuntimeError("the window never came to show it")


def plan_view(window: MainWindow) -> None:
    if window.plan is not None and window.plan.findings:
        window.plan_place.findings.step(1)


def what_if_view(window: MainWindow) -> None:
    """Every other way to play the note that hurts most."""
    plan_view(window)
    place = window.plan_place
    place.ask_what_if()
    wait_for(lambda: bool(place.what_if.choices()))


def left_handed_view(window: MainWindow) -> None:
    """The same for a left-handed player, well into the phrase."""
    habit = next(h for h in HABITS if h.name == "left_handed")
    place = window.plan_place
    window.roster.put(replace(habit.set(presets.players()["fluent"], True), name="lefty", label="Left-handed"))
    place.show_players()
    place.planning.choose(replace(place.planning.choices, player="lefty"))
    wait_for(lambda: window.plan is not None and window.plan.request.player.name == "lefty")
    settle(window)
    place.chart.select(3)


def hands_view(window: MainWindow) -> None:
    window.pages.go_to("Hands")
    place = window.pages.hands
    wait_for(lambda: place.worker.running)  # what each number would bring is worked out a moment later
    wait_for(lambda: not place.worker.running)


def fretting_view(window: MainWindow) -> None:
    window.pages.go_to("Hands")
    window.pages.hands.tabs.setCurrentIndex(1)
    hands_view(window)


def large_view(window: MainWindow) -> None:
    window.pages.toggle_stand()
    window.pages.stand.follow(5)


def write_view(window: MainWindow) -> None:
    """A bar selected, and a fault in the line."""
    window.pages.go_to("Write")
    place = window.pages.write
    for name in ("next-bar", "select-bar"):
        place.run(name)
    place.line.text.setPlainText(place.line.text.toPlainText().replace(" | ", " 7.99 | ", 1))
    place.line.flush()


def weighed(window: MainWindow) -> WeighPlace:
    window.pages.go_to("Weigh")
    place = window.pages.weigh
    wait_for(lambda: bool(place.entries) and not place.weighing.worker.running)
    return place


def weigh_view(window: MainWindow) -> None:
    weighed(window)


def question_view(window: MainWindow) -> None:
    """What one must be able to do to play it at the target."""
    place = weighed(window)
    place.tabs.setCurrentWidget(place.questions)
    place.questions.list.setCurrentRow(1)
    wait_for(lambda: not place.questions.worker.running)


def practised_log(window: MainWindow) -> None:
    """Ten days of the simulated player's practice, whose hands are slower than those planned for."""
    assert window.plan is not None
    passes = practised(
        window.plan, presets.players()["settled"], presets.practice(), presets.practice().learning, LOG_DAYS, 45.0, 7,
        TODAY - timedelta(LOG_DAYS),
    )  # fmt: skip
    phrase_id = window.planning.name.id
    Logbook(window.practice_log).add([replace(one, phrase_id=phrase_id) for one in passes])


def shed_view(window: MainWindow) -> None:
    practised_log(window)
    window.pages.shed.practising.now = lambda: TODAY
    window.pages.go_to("Shed")
    wait_for(lambda: window.pages.shed.practising.work is not None)


def running_view(window: MainWindow) -> None:
    """The hard move, marked by ear: the simulated player plays two rounds into a simulated input."""
    shed_view(window)
    place = window.pages.shed
    running, practising = place.running, place.practising
    running.sound.output, running.ear.input = SimulatedOutput(place), SimulatedInput(parent=place)
    practising.remember(by_ear=True)
    place.today.begin_asked.emit(next(n for n, d in enumerate(practising.work.drills) if d.kind == "join"))
    wait_for(lambda: running.ear._stretches is not None)
    plan, tempo = practising.session.course.plan(practising.session.drill), practising.session.rung.tempo
    rendering = running.sound.rendering
    one = np.zeros(round(rendering.music_s * RATE))
    take, _ = take_sound(perform(due_notes(plan, tempo), presets.listening(), 0.0, 2), plan.request.phrase)
    front = round((rendering.seconds[0] - LEAD_S) * RATE)
    one[front:] += np.resize(take, len(one) - front)
    for _ in range(3):  # a round is judged once some of the next is heard
        running.ear.input.hand(one)
    wait_for(lambda: practising.session.clean + practising.session.missed == 2)
    running.sound.output.seconds = lambda: rendering.seconds[0] + 0.8
    wait_for(lambda: running.figure.now is not None)


def days_view(window: MainWindow) -> None:
    shed_view(window)
    window.pages.shed.today.pictures.setCurrentIndex(1)


def measuring_view(window: MainWindow) -> None:
    """A figure of the hands' measuring, some passes in."""
    window.pages.go_to("Shed")
    place = window.pages.shed
    wait_for(lambda: place.practising.work is not None)
    place.running.sound.output = SimulatedOutput(place)
    place.practising.measure()
    wait_for(lambda: place.practising.session is not None)
    began = place.practising.clock()
    for rounds, clean in enumerate((False, True, False, True), 1):
        place.practising.clock = lambda rounds=rounds: began + rounds * ROUND_S
        place.practising.mark(clean)
    wait_for(lambda: not place.running.sound.worker.running)  # the tempo that the last mark led to
    place.running.sound.output.seconds = lambda: place.running.sound.rendering.seconds[0] + 0.5
    wait_for(lambda: place.running.figure.now is not None)


def listen_view(window: MainWindow) -> None:
    """A take of the simulated player, over its ceiling, and how even it is by kind of note."""
    window.pages.go_to("Listen")
    place = window.pages.listen
    place.level.setValue(100)
    place.simulate.click()
    wait_for(lambda: place.taking.take is not None)
    place.tabs.setCurrentWidget(place.evenness)
    place.list.setCurrentRow(0)


def takes_view(window: MainWindow) -> None:
    """Takes of four days beside each other, the newest on top."""
    window.pages.go_to("Listen")
    place = window.pages.listen
    for day, level in enumerate((100, 80, 60, 90)):
        place.keeping.now = lambda day=day: TODAY - timedelta(3 - day)
        place.level.setValue(level)
        place.seed.setValue(day + 1)
        before = place.taking.take
        place.simulate.click()
        wait_for(lambda before=before: place.taking.take is not before)
        place.keeping.keep()
        wait_for(lambda day=day: len(place.keeping.kept()) == day + 1)
    place.tabs.setCurrentWidget(place.days)
    place.days.list.setCurrentRow(0)


# name, theme, phrase of the songbook, what is shown of it
SHOTS: tuple[tuple[str, theme.Theme, int, Look], ...] = (
    ("plan-light", theme.LIGHT, 1, plan_view),
    ("plan-dark", theme.DARK, 7, plan_view),
    ("plan-plucked", theme.LIGHT, 4, plan_view),
    ("what-if", theme.LIGHT, 1, what_if_view),
    ("neck-left-handed", theme.DARK, 6, left_handed_view),
    ("hands", theme.LIGHT, 1, hands_view),
    ("hands-fretting", theme.LIGHT, 1, fretting_view),
    ("large", theme.LIGHT, 1, large_view),
    ("write", theme.LIGHT, 7, write_view),
    ("weigh", theme.LIGHT, 3, weigh_view),
    ("weigh-question", theme.LIGHT, 1, question_view),
    ("shed", theme.LIGHT, 3, shed_view),
    ("shed-running", theme.DARK, 2, running_view),
    ("shed-days", theme.DARK, 3, days_view),
    ("shed-measuring", theme.LIGHT, 3, measuring_view),
    ("listen", theme.DARK, 2, listen_view),
    ("listen-light", theme.LIGHT, 1, takes_view),
)
SHEET_OF = 3


def settle(window: MainWindow) -> None:
    """Wait until what was asked for is on screen."""
    wait_for(
        lambda: (
            window.plan is not None
            and window.plan.request.phrase.title == window.open_book.phrase.title
            and window.plan_place.verdict.isEnabled()
            and not window.planning.waiting_for_advice
        )
    )


def shoot(folder: Path, wanted: list[str]) -> None:
    """Redraw the pictures named, or all of them."""
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        for name, colours, tune, show in SHOTS:
            if wanted and name not in wanted:
                continue
            window = _window(Path(scratch) / name / "window.ini", colours)
            window.open_file(demo_songbook(), tune)
            settle(window)
            show(window)
            _grab(window, folder / f"{name}.png")
        if not wanted or "start" in wanted:
            _grab(_started(Path(scratch) / "start"), folder / "start.png")
    if not wanted or "sheet" in wanted:
        phrase = read(demo_songbook(), SHEET_OF)
        asked = request_for(phrase, first_choices(phrase, Choices()), presets.players())
        advised = with_remedies(solve(asked), presets.other_leans(), schools=presets.carrying_schools())
        (folder / "sheet.png").write_bytes(png_bytes(sheet(advised)[:1]))


def _started(folder: Path) -> MainWindow:
    """A window that has been started for the first time, its picture held still."""
    window = _window(folder / "window.ini", theme.LIGHT)
    window.start()
    view = window.pages.stack.currentWidget()
    assert isinstance(view, StartView) and view.live is not None
    view.live.hold(HELD_S)
    return window


def _window(settings: Path, colours: theme.Theme) -> MainWindow:
    settings.parent.mkdir()
    window = MainWindow(QSettings(str(settings), QSettings.Format.IniFormat))
    window.looks.set_theme(colours)
    window.resize(*SIZE)
    window.show()
    return window


def _grab(window: MainWindow, to: Path) -> None:
    QTest.qWait(100)
    window.resize(*SIZE)
    QTest.qWait(100)
    window.grab().save(str(to))
    window.open_book.let_go()
    window.close()


def main() -> int:
    app = QApplication(sys.argv[:1])
    theme.load_fonts()
    shoot(Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots"), sys.argv[2:])
    app.quit()
    return 0


if __name__ == "__main__":
    sys.exit(main())

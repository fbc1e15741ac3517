"""Redraws the pictures of docs/screenshots from the demo songbook, offscreen."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from dromic import presets
from dromic.app import theme
from dromic.app.asked import choices_for, request_for
from dromic.app.window import MainWindow, demo_songbook
from dromic.core.choices import Choices
from dromic.core.planner import solve
from dromic.core.remedies import with_remedies
from dromic.formats.sheet import sheet
from dromic.formats.sheet_paint import png_bytes
from dromic.formats.table import read

SIZE = (1280, 800)
MOST_WAITS = 600


def plan_view(window: MainWindow) -> None:
    if window.plan is not None and window.plan.findings:
        window.plan_place.findings.step(1)


def write_view(window: MainWindow) -> None:
    """A bar selected, and a fault in the line."""
    window.go_to("Write")
    place = window.write_place
    for name in ("next-bar", "select-bar"):
        place.run(name)
    place.line.text.setPlainText(place.line.text.toPlainText().replace(" | ", " 7.99 | ", 1))
    place.line.flush()


def weigh_view(window: MainWindow) -> None:
    """All schools of a phrase, once they are planned."""
    window.go_to("Weigh")
    for _ in range(MOST_WAITS):
        QTest.qWait(50)
        if window.weigh_place.answers:
            return


# name, theme, phrase of the songbook, what is shown of it
SHOTS: tuple[tuple[str, theme.Theme, int, Callable[[MainWindow], None]], ...] = (
    ("plan-light", theme.LIGHT, 1, plan_view),
    ("plan-dark", theme.DARK, 7, plan_view),
    ("plan-plucked", theme.LIGHT, 4, plan_view),
    ("write", theme.LIGHT, 7, write_view),
    ("weigh", theme.LIGHT, 3, weigh_view),
)
SHEET_OF = 3


def settle(window: MainWindow) -> None:
    """Wait until what was asked for is on screen."""
    for _ in range(400):
        QTest.qWait(25)
        if window.plan is not None:
            wanted = window.session.phrase.title
            done = window.plan.request.phrase.title == wanted and window.plan_place.verdict.isEnabled()
            if done and not window.plan_place.waiting_for_advice:
                break
    QTest.qWait(50)


def shoot(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        for name, colours, tune, show in SHOTS:
            window = _window(f"{scratch}/{name}.ini", colours)
            window.open_file(demo_songbook(), tune)
            settle(window)
            show(window)
            _grab(window, folder / f"{name}.png")
        window = _window(f"{scratch}/start.ini", theme.LIGHT)
        window.start()
        _grab(window, folder / "start.png")
    phrase = read(demo_songbook(), SHEET_OF)
    asked = request_for(phrase, choices_for(phrase, Choices(), presets.players()), presets.players())
    (folder / "sheet.png").write_bytes(png_bytes(sheet(with_remedies(solve(asked), presets.other_leans()))[:1]))


def _window(settings: str, colours: theme.Theme) -> MainWindow:
    window = MainWindow(QSettings(settings, QSettings.Format.IniFormat))
    window.set_theme(colours)
    window.resize(*SIZE)
    window.show()
    return window


def _grab(window: MainWindow, to: Path) -> None:
    QTest.qWait(100)
    window.grab().save(str(to))
    window.close()


def main() -> int:
    app = QApplication(sys.argv[:1])
    theme.load_fonts()
    shoot(Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots"))
    app.quit()
    return 0


if __name__ == "__main__":
    sys.exit(main())

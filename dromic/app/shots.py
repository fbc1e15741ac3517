"""Redraws the pictures of docs/screenshots from the demo songbook, offscreen."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from dromic.app import theme
from dromic.app.window import MainWindow, demo_songbook

SIZE = (1280, 800)
# name, theme, phrase of the songbook, finding chosen
SHOTS = (
    ("plan-light", theme.LIGHT, 1, 0),
    ("plan-dark", theme.DARK, 7, 0),
    ("plan-plucked", theme.LIGHT, 4, 0),
)


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
        for name, colours, tune, finding in SHOTS:
            window = MainWindow(QSettings(f"{scratch}/{name}.ini", QSettings.Format.IniFormat))
            window.set_theme(colours)
            window.resize(*SIZE)
            window.show()
            window.open_file(demo_songbook(), tune)
            settle(window)
            if window.plan is not None and len(window.plan.findings) > finding:
                window.plan_place.findings.step(1)
            QTest.qWait(50)
            window.grab().save(str(folder / f"{name}.png"))
            window.close()


def main() -> int:
    app = QApplication(sys.argv[:1])
    theme.load_fonts()
    shoot(Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots"))
    app.quit()
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""Starts the window."""

from __future__ import annotations

import argparse
import ctypes
import os
import sys
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtWidgets import QApplication

from dromic.app.kit import theme
from dromic.app.window.window import MainWindow, demo_songbook
from dromic.processes import settle, share_arenas
from dromic.store import folders

STARTED_AFTER_MS = 3000
"""when the start counts as over, and what it made as here to stay"""


def no_display() -> str:
    """Why no window can be shown, in a sentence; empty where one can, as far as can be told without showing it."""
    shown = os.environ.get("QT_QPA_PLATFORM", "")
    display, wayland = os.environ.get("DISPLAY", ""), os.environ.get("WAYLAND_DISPLAY", "")
    if shown and shown != "xcb":
        return ""
    if not display and not wayland:
        return "there is no display to show a window on; start it in a desktop session, or use the command line"
    if wayland and not shown:
        return ""
    try:
        opened = ctypes.CDLL("libX11.so.6").XOpenDisplay
    except (OSError, AttributeError):
        return ""
    opened.restype = ctypes.c_void_p
    if opened(None):
        return ""
    return f"the display {display!r} cannot be opened; see what DISPLAY says, or start it in a desktop session"


def main(arguments: Sequence[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="dromic-window", description="Dromic's window.")
    parser.add_argument("file", nargs="?", type=Path, help="a phrase to open")
    parser.add_argument("--tune", type=int, default=1, help="the Nth tune of a book")
    parser.add_argument("--demo", action="store_true", help="open the demo songbook")
    options = parser.parse_args(arguments)
    if why := no_display():
        sys.stderr.write(f"dromic-window: {why}\n")
        return 2
    share_arenas()
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Dromic")
    theme.load_fonts()
    settings = QSettings(str(folders.settings_file()), QSettings.Format.IniFormat)
    window = MainWindow(
        settings,
        folders.recovery_folder(),
        folders.players_folder(),
        folders.fault_log(),
        folders.data_folder() / "log.sqlite",
    )
    window.faults.install()
    path = demo_songbook() if options.demo and options.file is None else options.file
    if path is None:
        window.start()
    window.show()
    if path is not None:
        window.open_file(path, options.tune)
    QTimer.singleShot(STARTED_AFTER_MS, settle)
    return app.exec()

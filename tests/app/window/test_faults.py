"""When Dromic itself fails: the work is on the disk, the player hears it, the fault is written down, and the program goes on."""

from __future__ import annotations

import subprocess
import sys
import textwrap
from dataclasses import replace

from dromic.app.frame.faults import show_faults
from dromic.store.fault_log import MOST_BYTES, read_log, write_down
from dromic.store.recovery import leftovers


def raised(error):
    try:
        raise error
    except type(error) as caught:
        return type(caught), caught, caught.__traceback__


def test_the_work_is_kept_and_the_fault_told_and_written_down(demo_window):
    window = demo_window
    window.open_book.edit(replace(window.open_book.phrase, title="half done"), "title")
    window.faults.caught(*raised(RuntimeError("the bridge fell off")))
    assert "the bridge fell off" in window.notice.text() and "kept aside" in window.notice.text()
    assert list(window.files.folder.glob("*.unsaved"))
    assert "RuntimeError: the bridge fell off" in read_log(window.faults.log)
    box = show_faults(window.faults.log, window)
    assert "bridge" in box.detailedText()
    box.close()


def test_one_that_comes_again_and_again_is_told_once(demo_window):
    window = demo_window
    fault = raised(ValueError("in painting"))
    for _ in range(50):
        window.faults.caught(*fault)
    assert read_log(window.faults.log).count("ValueError: in painting") == 1


def test_a_fault_while_a_fault_is_handled_leads_to_no_other(demo_window, monkeypatch, capfd):
    window = demo_window
    monkeypatch.setattr(window.faults, "keep", lambda: 1 / 0)
    window.faults.caught(*raised(RuntimeError("first")))
    assert "first" in capfd.readouterr().err


def test_the_log_stays_small(tmp_path):
    log = tmp_path / "deep" / "faults.log"
    for number in range(30):
        write_down(log, *raised(ValueError("x" * 20_000 + f" number {number}")))
    assert log.stat().st_size <= MOST_BYTES and "number 29" in read_log(log)


def test_an_exception_in_a_slot_or_a_timer_does_not_end_the_program(tmp_path):
    """In a process of its own, with the hook the program installs: the toolkit aborts without one."""
    script = f"""
        import os
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        from dataclasses import replace
        from pathlib import Path
        from PyQt6.QtCore import QSettings, QTimer
        from PyQt6.QtWidgets import QApplication
        app = QApplication([])
        from dromic.app.window.window import MainWindow
        folder = Path({str(tmp_path)!r})
        window = MainWindow(QSettings(str(folder / "w.ini"), QSettings.Format.IniFormat))
        window.faults.install()
        window.new_book()
        window.open_book.edit(replace(window.open_book.phrase, title="half done"), "title")
        def fails():
            raise RuntimeError("in a timer")
        QTimer.singleShot(10, fails)
        window.top_bar.theme_button.clicked.connect(lambda: [][1])
        QTimer.singleShot(50, window.top_bar.theme_button.click)
        QTimer.singleShot(300, app.quit)
        app.exec()
        print(window.notice.text())
    """
    words = [sys.executable, "-c", textwrap.dedent(script)]
    done = subprocess.run(words, check=False, capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stderr
    log = read_log(tmp_path / "faults.log")
    assert "in a timer" in log and "IndexError" in log and "IndexError" in done.stdout
    (left,) = leftovers(tmp_path / "recovery")
    assert b"half done" in left.data

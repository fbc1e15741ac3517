"""Tries an installed Dromic from outside its source: `python -I tools/installed.py DEMO`, by the interpreter it is installed for.

Plans the demo on the command line, opens the window with it offscreen, shows the start view and the guide with its pictures.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import sysconfig
import tempfile
import time
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
STANDS_S, LATEST_S = 6, 60


def main() -> None:
    import dromic
    from dromic.presets import DATA

    scripts = Path(sysconfig.get_path("scripts"))
    assert Path(dromic.__file__).is_relative_to(sys.prefix), f"{dromic.__file__} is not the installed one"
    os.environ |= {f"XDG_{name}_HOME": tempfile.mkdtemp() for name in ("CONFIG", "DATA", "STATE", "CACHE")}
    demo = DATA / "songs" / "copper-wren.dromic"
    command = [scripts / "dromic", "plan", demo, "--json"]
    found = json.loads(subprocess.run(command, check=True, capture_output=True, text=True).stdout)["plans"][0]["notes"]
    assert found, "the command line planned nothing"
    seen = _window(demo)
    window = subprocess.Popen([scripts / "dromic-window"])
    time.sleep(STANDS_S)
    assert window.poll() is None, "dromic-window ended by itself"
    window.terminate()
    window.wait(LATEST_S)
    print(f"planned {len(found)} notes; window: {seen}")


def _window(demo: Path) -> str:
    """Open the demo in a window of this process; what was seen."""
    from PyQt6.QtCore import QSettings
    from PyQt6.QtWidgets import QApplication

    from dromic.app.frame.guide import open_guide
    from dromic.app.kit import theme
    from dromic.app.window.window import MainWindow

    app = QApplication([])
    theme.load_fonts()
    window = MainWindow(QSettings(f"{tempfile.mkdtemp()}/w.ini", QSettings.Format.IniFormat))
    window.start()
    window.show()
    begun = not window.grab().isNull() and window.plan is None
    guide = open_guide(window)
    pictures = guide.page.toMarkdown().count("![")
    assert pictures > 3 and "not here" not in guide.page.toPlainText(), "the guide did not come along"
    guide.close()
    window.open_file(demo, 1)
    end = time.monotonic() + LATEST_S
    while window.plan is None and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.01)
    assert begun and window.plan is not None, "the window planned nothing"
    plan = window.plan
    window.close()
    return f"start view, guide with {pictures} pictures, {len(plan.notes)} notes planned, ceiling {plan.ceiling:.0f}"


if __name__ == "__main__":
    main()

"""The window's own speed: painting, from a pin to the redrawn chart, and how long the interface thread is ever held."""

from __future__ import annotations

import os
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from bench.heartbeat import Heartbeat
from bench.lines import lick, line, median_ms, request, row
from dromic.core.music.songbook import Songbook
from dromic.core.search.planner import judge, solve
from dromic.formats.document.document import songbook_bytes
from dromic.processes import settle

if TYPE_CHECKING:
    from dromic.app.window.window import MainWindow

ZOOM_PX_PER_S = 330.0
SIZE = (950, 540)
AFTER_MS, WEIGHINGS = 150, 5


def bench_window() -> None:
    """Everything here runs offscreen."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtWidgets import QApplication

    from dromic.app.kit import theme

    app = QApplication.instance() or QApplication([])
    theme.load_fonts()
    _painting(app)
    _pinning_and_weighing()


def _painting(app: object) -> None:
    from PyQt6.QtGui import QImage

    from dromic.app.chart.chart_view import ChartView

    def painter(notes: int, px_per_s: float) -> Callable[[], None]:
        view = ChartView()
        view.resize(*SIZE)
        view.show_plan(judge(solve(request(line(notes)))), False)
        view.px_per_s = px_per_s
        view._fit_scrollbar()
        view.horizontalScrollBar().setValue(view.horizontalScrollBar().maximum() // 2)
        image = QImage(view.viewport().size(), QImage.Format.Format_ARGB32_Premultiplied)
        return lambda: view.viewport().render(image)

    short, long = painter(400, ZOOM_PX_PER_S), painter(4000, ZOOM_PX_PER_S)
    short(), long()
    pairs = [(median_ms(short, 3), median_ms(long, 3)) for _ in range(9)]
    ratio = statistics.median(b / a for a, b in pairs)
    row("painting a window of 4000 notes / of 400, same zoom", f"{ratio:.2f} times", "aim: at most 1.3")
    row("  the longer one, offscreen", f"{statistics.median(b for _, b in pairs):.1f} ms", "aim: under 16 ms")
    whole = painter(4000, 1.0)
    row("  the same zoomed out as far as it goes", f"{median_ms(whole, 5):.0f} ms")


def _pinning_and_weighing() -> None:
    from PyQt6.QtCore import QEventLoop, QSettings

    from dromic.app.window.window import MainWindow

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "lick.dromic"
        path.write_bytes(songbook_bytes(Songbook.of("lick", (lick(64),))))
        window = MainWindow(QSettings(f"{folder}/w.ini", QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        place = window.plan_place

        def wait(signal: object, begin: Callable[[], object]) -> None:
            loop = QEventLoop()
            signal.connect(loop.quit)  # type: ignore[attr-defined]
            begin()
            loop.exec()

        wait(place.planning.planned, lambda: window.open_file(path))
        times = []
        for event in (5, 9, 14, 20, 27, 33, 40, 46, 52, 58, 61):
            place.chart.select(event)
            stroke = place.planning.plan.events[event][0].stroke if place.planning.plan is not None else "down"
            began = time.perf_counter()
            wait(
                place.planning.planned, lambda stroke=stroke: place.pin("stroke", "up" if stroke == "down" else "down")
            )
            place.chart.viewport().repaint()
            times.append(1000 * (time.perf_counter() - began))
            wait(place.planning.planned, lambda: place.pin("none", "all"))
        row(
            "from a pin to the redrawn chart, 64 notes",
            f"{statistics.median(times):.0f} ms",
            "aim: under 150 ms at the median",
        )
        weigh = window.pages.weigh
        weigh.weighing.workers.start()
        settle()  # as the application does once it has started
        longest = [
            _longest_hold(lambda: wait(weigh.weighing.worker.answered, lambda: _weigh_anew(window)))
            for _ in range(WEIGHINGS)
        ]
        figure = f"{statistics.median(longest):.0f} ms (at most {max(longest):.0f})"
        row("longest hold of the interface thread while weighing 64 notes", figure, "aim: under 50 ms")
        window.open_book.let_go()
        window.close()


def _weigh_anew(window: MainWindow) -> None:
    """Have everything planned again."""
    weigh = window.pages.weigh
    weigh.weighing._asked, weigh.weighing._for = (), ()
    window.pages.go_to("Plan")
    window.pages.go_to("Weigh")


def _longest_hold(act: Callable[[], None]) -> float:
    """The longest time in ms between two beats of a timer that should beat every millisecond, until a little after."""
    from PyQt6.QtCore import QEventLoop, QTimer

    heart = Heartbeat()
    act()
    loop = QEventLoop()
    QTimer.singleShot(AFTER_MS, loop.quit)
    loop.exec()
    heart.stop()
    return heart.longest_ms

"""What is opened over the window for a moment is gone when it is closed, however often it is opened."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QEvent, QPoint
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtWidgets import QApplication, QDialog, QInputDialog, QMenu

from dromic.app.frame.faults import show_faults
from dromic.app.listen.input_dialog import InputDialog

TIMES = 3


def _menu_at(widget):
    """The menu of the right button in the middle of a widget; a menu that waits for an answer is closed from within."""
    middle = QPoint(widget.width() // 2, widget.height() // 2)
    event = QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, middle, widget.mapToGlobal(middle))
    QApplication.sendEvent(widget, event)


def _days(window):
    window.pages.go_to("Shed")
    return window.pages.shed.today.strip


OPENED = {
    "guide": lambda window: window.show_guide(),
    "differences": lambda window: window.ask_differences(),
    "faults": lambda window: show_faults(window.faults.log, window),
    "how one practises": lambda window: _days(window).ask_how(),
    "today on paper": lambda window: _days(window).print_sheet(),
    "results": lambda window: _days(window).ask_results(),
    "words at a note": lambda window: window.plan_place.chart.words_asked.emit(),
    "instrument": lambda window: window.pages.write.panel.ask_instrument(),
    "input": lambda window: InputDialog(window.pages.listen.latencies, window).open(),
    "the chart's menu": lambda window: _menu_at(window.plan_place.chart),
    "the sheet": lambda window: window.papers.print_sheet(),
}


def _passing(window):
    """All dialogs and menus, but those menus that belong to a button or another menu."""
    found = [*window.findChildren(QDialog), *window.findChildren(QMenu)]
    return [one for one in found if one.isWindow() and not isinstance(one.parent(), QMenu)]


@pytest.mark.parametrize("name", OPENED)
def test_what_was_open_for_a_moment_is_gone(qtbot, demo_window, name, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getItem", lambda w, t, x, items, *a, **k: (items[0], True))
    demo_window.plan_place.chart.select(0)
    if name in ("how one practises", "today on paper", "results"):
        _days(demo_window)
        qtbot.waitUntil(lambda: demo_window.pages.shed.practising.work is not None, timeout=60000)
    demo_window.pages.go_to("Listen")
    before = len(_passing(demo_window))
    for _ in range(TIMES):
        OPENED[name](demo_window)
        qtbot.waitUntil(lambda: len(_passing(demo_window)) == before + 1, timeout=10000)
        opened = next(one for one in _passing(demo_window) if one.isVisible())
        opened.close()
        qtbot.wait(10)
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        assert len(_passing(demo_window)) == before

"""One session with the program from end to end: read a finding, do its remedy, take it back, weigh, keep, save, reopen."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest

from dromic.app.window.window import MainWindow
from dromic.core.reports.comparison import differing
from dromic.formats.document.document import read_songbook

WAIT = 60000
K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


def strokes_drawn(window):
    """What the chart shows of the picking hand, in seconds and millimetres."""
    return window.plan_place.chart.chart.strokes


def test_a_session_from_a_finding_to_a_decision_found_again(qtbot, demo_window, tmp_path):
    window, place = demo_window, demo_window.plan_place
    path = tmp_path / "mine.dromic"
    assert window.files.save_to(path)
    qtbot.waitUntil(lambda: any(row[0].remedy for row in place.findings.rows()), timeout=WAIT)
    before, drawn, phrase = window.plan, strokes_drawn(window), window.open_book.phrase

    # the worst place is read, and the remedy it offers is done
    QTest.keyClick(window, K.Key_F8)
    finding = place.findings.current()
    assert finding.remedy is not None and place.chart.selected in (finding.at, before.notes[finding.at].event)
    QTest.keyClick(window, K.Key_F9)
    qtbot.waitUntil(lambda: window.plan is not before and not window.planning.planner.running, timeout=WAIT)
    assert window.plan.ceiling == pytest.approx(finding.remedy.ceiling) and window.plan.ceiling > before.ceiling
    assert strokes_drawn(window) != drawn and window.isWindowModified()

    # it is taken back, and everything is as it was
    QTest.keyClick(window, K.Key_Z, CTRL)
    qtbot.waitUntil(lambda: window.plan.request == before.request, timeout=WAIT)
    assert strokes_drawn(window) == drawn and window.open_book.phrase == phrase and not window.isWindowModified()

    # plans are weighed: two are told apart, note by note
    QTest.keyClick(window, K.Key_F4)
    weigh = window.pages.weigh
    qtbot.waitUntil(lambda: bool(weigh.entries) and not weigh.bar.isVisible(), timeout=WAIT)
    labels = [e.label for e in weigh.entries]
    weigh.tabs.setCurrentWidget(weigh.side)
    reference = weigh.entries[weigh.side.reference].plan
    one, other = labels.index("Alternate"), labels.index("Downs")
    for number in (one, other):
        assert weigh.side.marked[number] == set(differing(weigh.entries[number].plan, reference))
    assert weigh.side.marked[one] != weigh.side.marked[other]

    # one is kept, and is the plan shown from now on
    weigh.choose(one)
    weigh.keep("it feels even")
    QTest.keyClick(window, K.Key_F3)
    qtbot.waitUntil(lambda: window.plan.request.school.name == "alternate", timeout=WAIT)
    assert window.plan.ceiling == pytest.approx(weigh.entries[one].plan.ceiling) and window.isWindowModified()
    shown = strokes_drawn(window)
    QTest.keyClick(window, K.Key_S, CTRL)
    assert not window.isWindowModified()
    assert read_songbook(path.read_bytes()).entries[0].decision.why == "it feels even"

    # another day
    window.close()
    again = MainWindow(QSettings(str(tmp_path / "other.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(again)
    again.show()
    again.open_file(path)
    qtbot.waitUntil(lambda: again.plan is not None, timeout=WAIT)
    assert again.plan.request.school.name == "alternate" and strokes_drawn(again) == shown
    assert again.plan_place.verdict.kept.text() == "Kept: Alternate"
    assert again.open_book.phrase.events == phrase.events
    again.close()


def test_a_decision_can_be_asked_for_by_key(qtbot, demo_window, monkeypatch):
    from PyQt6.QtWidgets import QInputDialog

    window = demo_window
    QTest.keyClick(window, K.Key_D, CTRL)
    assert "Weigh" in window.notice.text() and window.open_book.entry.decision is None  # nothing is weighed yet
    QTest.keyClick(window, K.Key_F4)
    weigh = window.pages.weigh
    qtbot.waitUntil(lambda: bool(weigh.entries) and not weigh.bar.isVisible(), timeout=WAIT)
    weigh.choose(2)
    monkeypatch.setattr(QInputDialog, "getText", lambda *args, **more: ("  never mind ", False))
    QTest.keyClick(window, K.Key_D, CTRL)
    assert window.open_book.entry.decision is None
    monkeypatch.setattr(QInputDialog, "getText", lambda *args, **more: ("  it is quiet ", True))
    QTest.keyClick(window, K.Key_D, CTRL)
    kept = window.open_book.entry.decision
    assert (kept.label, kept.why) == (weigh.entries[2].label, "it is quiet")

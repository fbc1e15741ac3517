"""The real window, offscreen: open, read, plan, choose, jump, undo, refuse, remember."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, QSettings, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest

from dromic.app import theme
from dromic.app.main import demo_songbook
from dromic.app.window import PLACES, MainWindow

BOOK = demo_songbook()


@pytest.fixture
def settings(tmp_path):
    return QSettings(str(tmp_path / "window.ini"), QSettings.Format.IniFormat)


@pytest.fixture
def window(qtbot, qapp, settings):
    theme.load_fonts()
    made = MainWindow(settings)
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    yield made
    made.close()


def opened(qtbot, window, path=BOOK, tune=1):
    window.open_file(path, tune)
    qtbot.waitUntil(lambda: window.opened is not None and window.opened[:2] == (path, tune), timeout=20000)
    settle(qtbot, window)
    return window


def settle(qtbot, window):
    def done():
        request = window.plan.request if window.plan else None
        return request is not None and (request.phrase.title, request.school.name, request.phrase.tempo) == (
            window.opened[3].title, window.choices.school, window.choices.tempo,
        )  # fmt: skip

    qtbot.waitUntil(done, timeout=20000)


def test_a_phrase_is_planned_and_drawn(qtbot, window):
    opened(qtbot, window)
    assert window.chart.chart is not None and len(window.chart.chart.strokes) > 20
    assert window.tunes.count() == 7
    assert window.verdict.ceiling.text() == f"{window.plan.ceiling:.0f}"
    assert "picking hand in bar 3" in window.verdict.words.text()
    picture = window.chart.viewport().grab().toImage()
    colours = {
        picture.pixelColor(x, y).name() for x in range(0, picture.width(), 3) for y in range(0, picture.height(), 3)
    }
    assert theme.LIGHT.pick in colours and theme.LIGHT.fret in colours and theme.LIGHT.hurt in colours


def test_only_what_works_is_offered(window):
    assert tuple(window.places) == PLACES == ("Write", "Plan", "Weigh", "Shed", "Listen")
    assert [n for n, b in window.places.items() if b.isEnabled()] == ["Plan"]


def test_choices_replan_at_once_and_can_be_undone(qtbot, window):
    opened(qtbot, window)
    before = window.plan
    window.panel.school.setCurrentIndex(window.panel.school.findData("alternate"))
    settle(qtbot, window)
    assert window.plan.request.school.name == "alternate" and window.plan.cost != before.cost
    assert not window.panel.unit.isEnabled()
    window.panel.tempo.setValue(100)
    settle(qtbot, window)
    window.panel.lean.setCurrentIndex(window.panel.lean.findData("both-clear"))
    qtbot.waitUntil(lambda: window.plan.request.player.leans[0].name == "both-clear")
    assert window.plan.totals.buried_hops == 0
    for _ in range(3):
        QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    qtbot.waitUntil(lambda: window.plan.request.player.leans[0].name == "up-clear")
    assert window.plan.cost == pytest.approx(before.cost)
    assert window.panel.school.currentData() == "pulse"


def test_findings_jump_to_their_place(qtbot, window):
    opened(qtbot, window)
    QTest.keyClick(window, Qt.Key.Key_F8)
    worst = window.findings.rows()[0][0]
    assert window.chart.selected == window.plan.notes[worst.notes[-1]].chord
    assert "buried" in window.why.text()
    lanes = window.chart.lanes()
    at = window.chart.chart.event_s[window.chart.selected]
    assert lanes.start_s < at < lanes.end_s


def test_keys_walk_and_zoom_the_chart(qtbot, window):
    opened(qtbot, window)
    window.chart.setFocus()
    for _ in range(3):
        QTest.keyClick(window.chart, Qt.Key.Key_Right)
    assert window.chart.selected == 2 and "note 3" in window.why.text()
    QTest.keyClick(window.chart, Qt.Key.Key_End)
    assert window.chart.selected == len(window.chart.chart.event_s) - 1
    assert window.chart.horizontalScrollBar().value() > 0
    before = window.chart.px_per_s
    QTest.keyClick(window, Qt.Key.Key_Equal, Qt.KeyboardModifier.ControlModifier)
    assert window.chart.px_per_s > before
    QTest.keyClick(window, Qt.Key.Key_0, Qt.KeyboardModifier.ControlModifier)
    lanes = window.chart.lanes()
    assert lanes.start_s <= 0 and lanes.end_s >= window.chart.chart.end_s


def test_pointing_explains(qtbot, window):
    opened(qtbot, window)
    lanes = window.chart.lanes()
    x = lanes.x(window.chart.chart.event_s[5])
    assert window.chart.event_at(x) == 5
    qtbot.mouseClick(window.chart.viewport(), Qt.MouseButton.LeftButton, pos=QPointF(x, 200).toPoint())
    assert window.chart.selected == 5
    assert "load" in window.why.text()


def test_another_phrase_of_the_book_brings_its_own_school_and_tempo(qtbot, window):
    opened(qtbot, window)
    QTest.keyClick(window, Qt.Key.Key_PageDown, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.opened[1] == 2, timeout=20000)
    settle(qtbot, window)
    assert "Quayside Reel" in window.windowTitle()
    assert window.panel.tempo.value() == window.opened[3].tempo


def test_a_bad_file_is_one_sentence_and_loses_nothing(qtbot, window, tmp_path):
    opened(qtbot, window)
    before = window.plan
    bad = tmp_path / "bad.musicxml"
    bad.write_text("<score-partwise>")
    window.open_file(bad)
    qtbot.waitUntil(lambda: window.notice.isVisible() and "bad.musicxml" in window.notice.text(), timeout=20000)
    assert "\n" not in window.notice.text()
    assert window.plan is before and window.chart.chart is not None


def test_dropping_a_file_opens_it(qtbot, window):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(BOOK))])
    window.dropEvent(
        QDropEvent(
            QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )
    qtbot.waitUntil(lambda: window.plan is not None, timeout=20000)


def test_the_window_remembers_its_theme_and_size(qtbot, qapp, settings):
    first = MainWindow(settings)
    qtbot.addWidget(first)
    first.resize(780, 640)
    first.switch_theme()
    assert first.theme is theme.DARK
    first.close()
    second = MainWindow(QSettings(settings.fileName(), QSettings.Format.IniFormat))
    qtbot.addWidget(second)
    assert second.theme is theme.DARK and (second.width(), second.height()) == (780, 640)
    second.switch_theme()
    second.close()


def test_late_answers_are_dropped(qtbot, window):
    opened(qtbot, window)
    for name in ("alternate", "economy", "downs", "free"):
        window.panel.school.setCurrentIndex(window.panel.school.findData(name))
    settle(qtbot, window)
    qtbot.wait(200)
    assert window.plan.request.school.name == "free"


def test_the_shipped_font_is_used(window):
    from PyQt6.QtGui import QFontDatabase

    assert theme.FAMILY in QFontDatabase.families()
    assert (Path(theme.__file__).parents[1] / "data" / "fonts" / "OFL.txt").exists()

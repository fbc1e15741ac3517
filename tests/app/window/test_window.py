"""The real window, offscreen: open, read, plan, choose, jump, undo, refuse, remember."""

import pytest
from PyQt6.QtCore import QMimeData, QPointF, QSettings, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.frame.top_bar import PLACES
from dromic.app.kit import theme
from dromic.app.window.window import MainWindow, demo_songbook

BOOK = demo_songbook()


@pytest.fixture
def settings(tmp_path):
    return QSettings(str(tmp_path / "window.ini"), QSettings.Format.IniFormat)


@pytest.fixture
def window(bare_window):
    return bare_window


def opened(qtbot, window, path=BOOK, tune=1):
    window.open_file(path, tune)
    qtbot.waitUntil(
        lambda: (
            window.open_book.source is not None
            and window.open_book.source.path == path
            and window.open_book.number == tune
        ),
        timeout=20000,
    )
    settle(qtbot, window)
    return window


def settle(qtbot, window):
    def done():
        request = window.plan.request if window.plan else None
        return request is not None and (request.phrase.title, request.school.name, request.phrase.tempo) == (
            window.open_book.phrase.title, window.planning.choices.school, window.planning.choices.tempo,
        )  # fmt: skip

    qtbot.waitUntil(done, timeout=20000)


def test_a_phrase_is_planned_and_drawn(qtbot, window):
    opened(qtbot, window)
    assert window.plan_place.chart.chart is not None and len(window.plan_place.chart.chart.strokes) > 20
    assert window.tunes.count() == 11
    assert window.plan_place.verdict.ceiling.text() == f"{window.plan.ceiling:.0f}"
    assert "picking hand in bar 3" in window.plan_place.verdict.words.text()
    QTest.keyClick(window, Qt.Key.Key_F8)  # the worst place comes into view
    picture = window.plan_place.chart.viewport().grab().toImage()
    colours = {
        picture.pixelColor(x, y).name() for x in range(0, picture.width(), 3) for y in range(0, picture.height(), 3)
    }
    assert theme.LIGHT.pick in colours and theme.LIGHT.fret in colours and theme.LIGHT.hurt in colours


def test_every_place_is_offered(window):
    assert tuple(window.top_bar.places) == PLACES == ("Write", "Plan", "Weigh", "Shed", "Listen")
    assert all(button.isEnabled() for button in window.top_bar.places.values())


def test_choices_replan_at_once_and_can_be_undone(qtbot, window):
    opened(qtbot, window)
    before = window.plan
    window.plan_place.panel.school.setCurrentIndex(window.plan_place.panel.school.findData("alternate"))
    settle(qtbot, window)
    assert window.plan.request.school.name == "alternate" and window.plan.cost != before.cost
    assert not window.plan_place.panel.unit.isEnabled()
    window.plan_place.panel.tempo.setValue(100)
    settle(qtbot, window)
    window.plan_place.panel.lean.setCurrentIndex(window.plan_place.panel.lean.findData("both-clear"))
    qtbot.waitUntil(lambda: window.plan.request.player.leans[0].name == "both-clear")
    assert window.plan.totals.buried_hops == 0
    for _ in range(3):
        QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    qtbot.waitUntil(lambda: window.plan.request.player.leans[0].name == "up-clear")
    assert window.plan.cost == pytest.approx(before.cost)
    assert window.plan_place.panel.school.currentData() == "pulse"


def test_findings_jump_to_their_place(qtbot, window):
    opened(qtbot, window)
    QTest.keyClick(window, Qt.Key.Key_F8)
    worst = window.plan_place.findings.rows()[0][0]
    assert window.plan_place.chart.selected == window.plan.notes[worst.notes[-1]].event
    assert "stuck between the strings" in window.plan_place.why.text()
    lanes = window.plan_place.chart.lanes()
    at = window.plan_place.chart.chart.event_s[window.plan_place.chart.selected]
    assert lanes.start_s < at < lanes.end_s


def test_keys_walk_and_zoom_the_chart(qtbot, window):
    opened(qtbot, window)
    window.plan_place.chart.setFocus()
    for _ in range(3):
        QTest.keyClick(window.plan_place.chart, Qt.Key.Key_Right)
    assert window.plan_place.chart.selected == 2 and "note 3" in window.plan_place.why.text()
    QTest.keyClick(window.plan_place.chart, Qt.Key.Key_End)
    assert window.plan_place.chart.selected == len(window.plan_place.chart.chart.event_s) - 1
    assert window.plan_place.chart.horizontalScrollBar().value() > 0
    before = window.plan_place.chart.px_per_s
    QTest.keyClick(window, Qt.Key.Key_Equal, Qt.KeyboardModifier.ControlModifier)
    assert window.plan_place.chart.px_per_s > before
    QTest.keyClick(window, Qt.Key.Key_0, Qt.KeyboardModifier.ControlModifier)
    lanes = window.plan_place.chart.lanes()
    assert lanes.start_s <= 0 and lanes.end_s >= window.plan_place.chart.chart.end_s


def test_pointing_explains(qtbot, window):
    opened(qtbot, window)
    lanes = window.plan_place.chart.lanes()
    x = lanes.x(window.plan_place.chart.chart.event_s[5])
    assert window.plan_place.chart.event_at(x) == 5
    qtbot.mouseClick(window.plan_place.chart.viewport(), Qt.MouseButton.LeftButton, pos=QPointF(x, 200).toPoint())
    assert window.plan_place.chart.selected == 5
    assert "load" in window.plan_place.why.text()


def test_another_phrase_of_the_book_brings_its_own_school_and_tempo(qtbot, window):
    opened(qtbot, window)
    QTest.keyClick(window, Qt.Key.Key_PageDown, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.open_book.number == 2, timeout=20000)
    settle(qtbot, window)
    assert "Quayside Reel" in window.windowTitle()
    assert window.plan_place.panel.tempo.value() == window.open_book.phrase.tempo


def test_a_bad_file_is_one_sentence_and_loses_nothing(qtbot, window, tmp_path):
    opened(qtbot, window)
    before = window.plan
    bad = tmp_path / "bad.musicxml"
    bad.write_text("<score-partwise>")
    window.open_file(bad)
    qtbot.waitUntil(lambda: window.notice.isVisible() and "bad.musicxml" in window.notice.text(), timeout=20000)
    assert "\n" not in window.notice.text()
    assert window.plan.request is before.request and window.plan_place.chart.chart is not None


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
    first.looks.switch_theme()
    assert first.theme is theme.DARK
    first.close()
    second = MainWindow(QSettings(settings.fileName(), QSettings.Format.IniFormat))
    qtbot.addWidget(second)
    assert second.theme is theme.DARK and (second.width(), second.height()) == (780, 640)
    second.looks.switch_theme()
    second.close()


def test_late_answers_are_dropped(qtbot, window):
    opened(qtbot, window)
    for name in ("alternate", "economy", "downs", "free"):
        window.plan_place.panel.school.setCurrentIndex(window.plan_place.panel.school.findData(name))
    settle(qtbot, window)
    qtbot.wait(200)
    assert window.plan.request.school.name == "free"


def test_the_shipped_font_is_used(window):
    from PyQt6.QtGui import QFontDatabase

    assert theme.FAMILY in QFontDatabase.families()
    assert (presets.DATA / "fonts" / "OFL.txt").exists()


def test_no_key_stands_twice(window):
    """On one action or on two, such a key does nothing; what redo is depends on the platform."""
    from dromic.app.window.window_actions import sequences

    assert [s.toString() for s in sequences(["Ctrl+Y", "Ctrl+Shift+Z", "Ctrl+Y"])] == ["Ctrl+Y", "Ctrl+Shift+Z"]
    keys = [key.toString() for action in window.actions() for key in action.shortcuts()]
    assert len(keys) == len(set(keys))


def test_the_own_font_is_taken_whatever_style_the_platform_begins_with(window):
    from PyQt6.QtGui import QFont
    from PyQt6.QtWidgets import QApplication

    app = QApplication.instance()
    app.setStyle("Fusion")
    app.setFont(QFont("Sans", 7))
    window.looks.set_theme(theme.DARK)
    assert app.font() == theme.font(14)
    window.looks.set_theme(theme.LIGHT)
    assert app.font() == theme.font(14)

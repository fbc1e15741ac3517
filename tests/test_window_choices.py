"""What the player may choose beside the chart, driven through the real window: schools, patterns, legato, loops, advice."""

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app import theme
from dromic.app.main import demo_songbook
from dromic.app.window import MainWindow

BOOK = demo_songbook()
WAIT = 20000


@pytest.fixture
def window(qtbot, qapp, tmp_path):
    theme.load_fonts()
    made = MainWindow(QSettings(str(tmp_path / "w.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    yield made
    made.close()


def opened(qtbot, window, tune):
    window.open_file(BOOK, tune)
    qtbot.waitUntil(lambda: window.plan is not None and window.opened[1] == tune, timeout=WAIT)


def chosen(qtbot, window, name, value, holds):
    combo = getattr(window.panel, name)
    combo.setCurrentIndex(combo.findData(value))
    qtbot.waitUntil(lambda: holds(window.plan), timeout=WAIT)


def pixels(widget):
    picture = widget.grab().toImage()
    return {
        picture.pixelColor(x, y).name() for x in range(0, picture.width(), 2) for y in range(0, picture.height(), 2)
    }


def test_every_school_is_offered_and_draws(qtbot, window):
    opened(qtbot, window, 3)
    for name in presets.schools():
        chosen(qtbot, window, "school", name, lambda plan, name=name: plan.request.school.name == name)
        assert window.chart.chart is not None and window.chart.viewport().grab().width() > 100
    assert window.panel.school.count() == len(presets.schools())


def test_a_pattern_is_typed_where_the_pulse_stood(qtbot, window):
    opened(qtbot, window, 1)
    assert not window.panel.pattern.isVisible() and window.panel.unit.isEnabled()
    chosen(qtbot, window, "school", "pattern", lambda plan: plan.request.school.name == "pattern")
    assert window.panel.pattern.isVisible() and not window.panel.legato.isEnabled()
    window.panel.pattern.setFocus()
    QTest.keyClicks(window.panel.pattern, "dxDu")  # what is no stroke cannot be typed
    QTest.keyClick(window.panel.pattern, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.plan.request.pattern == "ddu", timeout=WAIT)
    strokes = [n.stroke for n in window.plan.notes if n.chord < 6]
    assert strokes[:6] == ["down", "down", "up"] * 2
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.plan.request.pattern == "", timeout=WAIT)


def test_legato_start_and_loop(qtbot, window):
    opened(qtbot, window, 3)
    before = window.plan.totals.legato
    chosen(qtbot, window, "legato", "anywhere", lambda plan: plan.request.legato == "anywhere")
    assert window.plan.totals.legato > before
    chosen(qtbot, window, "start", "up", lambda plan: plan.request.start == "up")
    assert window.plan.notes[0].stroke == "up"
    window.panel.repeat.click()
    qtbot.waitUntil(lambda: window.plan.request.repeat, timeout=WAIT)
    assert window.chart.chart.seams and window.plan.moves[-1].to == 0
    opened(qtbot, window, 4)
    assert not window.choices.repeat and window.choices.start == ""  # another phrase starts from its own


def test_advice_comes_after_the_plan_and_keeps_the_place(qtbot, window):
    opened(qtbot, window, 1)
    QTest.keyClick(window, Qt.Key.Key_F8)
    place = window.chart.selected
    qtbot.waitUntil(lambda: window.plan.findings[0].remedy is not None, timeout=WAIT)
    assert window.chart.selected == place and window.findings.currentIndex().row() == 0
    model = window.findings.model()
    said = model.data(model.index(0), Qt.ItemDataRole.AccessibleTextRole)
    assert "Try: " in said and "ceiling about" in said
    # a new choice throws old advice away
    chosen(qtbot, window, "school", "free", lambda plan: plan.request.school.name == "free")
    assert all(f.remedy is None for f in window.plan.findings)


def test_damping_plucks_and_presses_are_drawn(qtbot, window):
    opened(qtbot, window, 4)
    chart = window.chart.chart
    assert {p.finger for p in chart.plucks} <= set("mac") and chart.plucks
    assert {d.by for d in chart.damped} >= {"palm"} and all(d.start_s < d.end_s for d in chart.damped)
    window.chart.select(5)
    assert "Idle strings damped:" in window.why.text()
    QTest.keyClick(window, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    assert theme.DARK.pick in pixels(window.chart.viewport())


def test_choices_are_reached_by_their_keys(qtbot, window):
    opened(qtbot, window, 1)
    for key, part in (
        (Qt.Key.Key_S, window.panel.school), (Qt.Key.Key_A, window.panel.start), (Qt.Key.Key_L, window.panel.player),
        (Qt.Key.Key_N, window.panel.lean), (Qt.Key.Key_T, window.panel.tempo), (Qt.Key.Key_G, window.panel.legato),
    ):  # fmt: skip
        QTest.keyClick(window, key, Qt.KeyboardModifier.AltModifier)
        qtbot.waitUntil(lambda part=part: window.focusWidget() is part, timeout=2000)
    was = window.choices.positions
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.AltModifier)
    qtbot.waitUntil(lambda: window.choices.positions != was, timeout=2000)


def test_a_wish_that_cannot_be_planned_is_said_and_the_old_plan_stays(qtbot, window):
    opened(qtbot, window, 7)
    before = window.plan
    window.panel.instrument.setCurrentIndex(window.panel.instrument.findData("bass4"))
    qtbot.waitUntil(window.notice.isVisible, timeout=WAIT)
    assert "string" in window.notice.text() and window.plan is before


@pytest.mark.parametrize("colours", [theme.LIGHT, theme.DARK])
@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080)])
def test_nothing_beside_the_chart_is_cut_off(qtbot, window, size, colours):
    window.set_theme(colours)
    window.resize(*size)
    opened(qtbot, window, 1)
    panel = window.panel
    for combo in (panel.school, panel.unit, panel.start, panel.legato, panel.player, panel.lean, panel.instrument):
        needs = combo.fontMetrics().horizontalAdvance(combo.currentText())
        assert needs <= combo.width() - 24, (combo.accessibleName(), combo.currentText())
    for part in (panel, window.verdict, window.findings, window.why):
        corner = part.mapTo(window, part.rect().bottomRight())
        assert corner.x() <= window.width() and corner.y() <= window.height()
    assert window.findings.height() >= 2 * 104  # two places at least stand in view


def test_a_jump_back_is_drawn_with_its_load(qtbot, window):
    opened(qtbot, window, 2)
    (first, *_) = window.chart.chart.seams
    assert first.to < first.start and first.load > 0
    window.chart.select(first.start)
    before = pixels(window.chart.viewport())
    assert theme.LIGHT.soft in before or theme.LIGHT.hurt in before

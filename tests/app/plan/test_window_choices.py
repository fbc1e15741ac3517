"""What the player may choose beside the chart, driven through the real window: schools, patterns, legato, loops, advice."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from dromic import presets
from dromic.app.kit import theme
from dromic.app.plan.choices_panel import unusual
from dromic.app.plan.verdict import LOOKING
from dromic.app.window.window import demo_songbook
from dromic.core.search.meant_pins import Stated
from dromic.core.setup.choices import Choices

BOOK = demo_songbook()
WAIT = 20000


@pytest.fixture
def window(bare_window):
    return bare_window


def opened(qtbot, window, tune):
    window.open_file(BOOK, tune)
    qtbot.waitUntil(lambda: window.plan is not None and window.open_book.number == tune, timeout=WAIT)


def chosen(qtbot, window, name, value, holds):
    combo = getattr(window.plan_place.panel, name)
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
        assert window.plan_place.chart.chart is not None and window.plan_place.chart.viewport().grab().width() > 100
    assert window.plan_place.panel.school.count() == len(presets.schools())


def test_a_pattern_is_typed_where_the_pulse_stood(qtbot, window):
    opened(qtbot, window, 1)
    assert not window.plan_place.panel.pattern.isVisible() and window.plan_place.panel.unit.isEnabled()
    chosen(qtbot, window, "school", "pattern", lambda plan: plan.request.school.name == "pattern")
    assert window.plan_place.panel.pattern.isVisible() and not window.plan_place.panel.legato.isEnabled()
    window.plan_place.panel.pattern.setFocus()
    QTest.keyClicks(window.plan_place.panel.pattern, "dxDu")  # what is no stroke cannot be typed
    QTest.keyClick(window.plan_place.panel.pattern, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.plan.request.pattern == "ddu", timeout=WAIT)
    strokes = [n.stroke for n in window.plan.notes if n.event < 6]
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
    window.plan_place.panel.repeat.click()
    qtbot.waitUntil(lambda: window.plan.request.repeat, timeout=WAIT)
    assert window.plan_place.chart.chart.seams and window.plan.moves[-1].to == 0
    opened(qtbot, window, 4)
    assert (
        not window.planning.choices.repeat and window.planning.choices.start == ""
    )  # another phrase starts from its own


def test_advice_comes_after_the_plan_and_keeps_the_place(qtbot, window):
    opened(qtbot, window, 1)
    QTest.keyClick(window, Qt.Key.Key_F8)
    place = window.plan_place.chart.selected
    qtbot.waitUntil(lambda: window.plan.findings[0].remedy is not None, timeout=WAIT)
    assert window.plan_place.chart.selected == place and window.plan_place.findings.currentIndex().row() == 0
    model = window.plan_place.findings.model()
    notices = model.data(model.index(0), Qt.ItemDataRole.AccessibleTextRole)
    assert "Try: " in notices and "ceiling about" in notices
    # a new choice throws old advice away
    chosen(qtbot, window, "school", "free", lambda plan: plan.request.school.name == "free")
    assert all(f.remedy is None for f in window.plan.findings)


def test_damping_plucks_and_presses_are_drawn(qtbot, window):
    opened(qtbot, window, 4)
    chart = window.plan_place.chart.chart
    assert {p.finger for p in chart.plucks} <= set("mac") and chart.plucks
    assert {d.by for d in chart.damped} >= {"palm"} and all(d.start_s < d.end_s for d in chart.damped)
    window.plan_place.chart.select(5)
    assert "Idle strings damped:" in window.plan_place.why.text()
    QTest.keyClick(window, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    assert theme.DARK.pick in pixels(window.plan_place.chart.viewport())


def test_choices_are_reached_by_their_keys(qtbot, window):
    opened(qtbot, window, 1)
    panel = window.plan_place.panel
    for key, part in (
        (Qt.Key.Key_S, panel.school), (Qt.Key.Key_A, panel.start), (Qt.Key.Key_L, panel.player),
        (Qt.Key.Key_N, panel.lean), (Qt.Key.Key_T, panel.tempo), (Qt.Key.Key_G, panel.legato),
    ):  # fmt: skip
        QTest.keyClick(window, key, Qt.KeyboardModifier.AltModifier)
        qtbot.waitUntil(lambda part=part: window.focusWidget() is part, timeout=2000)
    was = window.planning.choices.positions
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.AltModifier)
    qtbot.waitUntil(lambda: window.planning.choices.positions != was, timeout=2000)


def test_what_is_seldom_chosen_is_folded_away_and_told_where_it_is_not_as_usual(qtbot, window):
    opened(qtbot, window, 1)
    panel = window.plan_place.panel
    assert panel.more.text().endswith("More") and not panel.legato.isVisible() and panel.school.isVisible()
    assert panel.height() < 2 * panel.school.height()
    chosen(qtbot, window, "legato", "turnarounds", lambda plan: window.planning.choices.legato == "turnarounds")
    panel.repeat.click()
    assert panel.more.accessibleName().endswith("legato turns, looped") and "legato" in panel.more.toolTip()
    assert panel.more.fontMetrics().horizontalAdvance(panel.more.text()) <= panel.more.width()
    assert unusual(Choices(strokes=False, fingers=False), Stated(0, 3)) == ("fingers let go",)  # it states no strokes
    panel.more.click()
    assert panel.legato.isVisible() and panel.instrument.isVisible()
    tall = window.plan_place.chart.height()
    panel.legato.setFocus()
    QTest.keyClick(panel.legato, Qt.Key.Key_Escape)
    assert not panel.legato.isVisible() and window.focusWidget() is panel.more
    QTest.keyClick(window, Qt.Key.Key_M, Qt.KeyboardModifier.AltModifier)
    assert panel.legato.isVisible() and window.plan_place.chart.height() == tall  # it lies over the chart
    panel.school.setCurrentIndex(panel.school.findData("pattern"))
    panel.more.click()
    assert not panel.pattern.isVisible()
    panel.school.setCurrentIndex(panel.school.findData("alternate"))
    panel.school.setCurrentIndex(panel.school.findData("pattern"))
    qtbot.waitUntil(panel.pattern.isVisible, timeout=WAIT)  # what there is to choose now comes into view


def test_the_one_change_that_helps_most_stands_over_the_findings_and_is_tried_from_there(qtbot, window):
    opened(qtbot, window, 1)
    place = window.plan_place
    qtbot.waitUntil(place.verdict.try_button.isEnabled, timeout=WAIT)
    before = window.plan
    best = max(f.remedy.ceiling for f in before.findings if f.remedy is not None)
    assert f"{best:.0f}" in place.verdict.helps.text() and best > before.ceiling
    QTest.mouseClick(place.verdict.try_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.plan is not before, timeout=WAIT)
    assert window.plan.ceiling == pytest.approx(best) and not place.verdict.try_button.isEnabled()
    assert (
        place.verdict.most is None and place.verdict.helps.text() == LOOKING
    )  # what helped before is not offered again
    tall = place.findings.height()
    qtbot.waitUntil(lambda: place.verdict.helps.text() != LOOKING, timeout=WAIT)
    assert abs(place.findings.height() - tall) < 60  # nor does the list jump by a box


def test_list_chart_and_strip_agree_on_what_is_chosen(qtbot, window):
    opened(qtbot, window, 1)
    place = window.plan_place
    place.next_finding(1)
    first = place.findings.current()
    event = window.plan.notes[first.at].event
    assert place.chart.selected == place.overview.chosen == event
    other = next(f for f in window.plan.findings if f.at not in first.notes and first.at not in f.notes)
    place.chart.select(window.plan.notes[other.at].event)
    assert place.findings.current().at == other.at and place.overview.chosen == place.chart.selected
    silent = next(e for e in range(len(window.plan.events)) if not any(
        window.plan.notes[n].event == e for f in window.plan.findings for n in f.notes))  # fmt: skip
    place.chart.select(silent)
    assert place.findings.current() is None


def test_a_wish_that_cannot_be_planned_is_said_and_the_old_plan_stays(qtbot, window):
    opened(qtbot, window, 7)
    before = window.plan
    window.plan_place.panel.instrument.setCurrentIndex(window.plan_place.panel.instrument.findData("bass4"))
    qtbot.waitUntil(window.notice.isVisible, timeout=WAIT)
    assert "string" in window.notice.text() and window.plan is before


@pytest.mark.parametrize("colours", [theme.LIGHT, theme.DARK])
@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080)])
def test_nothing_beside_the_chart_is_cut_off(qtbot, window, size, colours):
    window.looks.set_theme(colours)
    window.resize(*size)
    opened(qtbot, window, 1)
    panel = window.plan_place.panel
    for combo in (panel.school, panel.unit, panel.start, panel.legato, panel.player, panel.lean, panel.instrument):
        needs = combo.fontMetrics().horizontalAdvance(combo.currentText())
        assert needs <= combo.width() - 24, (combo.accessibleName(), combo.currentText())
    for part in (panel, window.plan_place.verdict, window.plan_place.findings, window.plan_place.why):
        corner = part.mapTo(window, part.rect().bottomRight())
        assert corner.x() <= window.width() and corner.y() <= window.height()
    assert window.plan_place.findings.height() >= 2 * 104  # two places at least stand in view


def test_a_jump_back_is_drawn_with_its_load(qtbot, window):
    opened(qtbot, window, 2)
    (first, *_) = window.plan_place.chart.chart.seams
    assert first.to < first.start and first.load > 0
    window.plan_place.chart.select(first.start)
    before = pixels(window.plan_place.chart.viewport())
    assert theme.LIGHT.soft in before or theme.LIGHT.hurt in before


def test_what_sets_the_ceiling_is_told_with_what_it_stands_on_and_is_gone_where_nothing_is_known_to(qtbot, window):
    opened(qtbot, window, 1)
    verdict = window.plan_place.verdict
    qtbot.waitUntil(lambda: "starting guesses" in verdict.set_by.text(), timeout=WAIT)
    assert verdict.set_by.isVisible() and "note 36" in verdict.set_by.text()
    verdict.show_plan(window.plan)
    assert "Looking" in verdict.set_by.text()
    verdict.show_help(replace(window.plan, limit=None))
    assert not verdict.set_by.isVisible()

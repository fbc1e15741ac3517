"""Which string is on top: one switch for chart, neck, large view and Weigh, kept from session to session."""

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest

from dromic.app.chart.lanes import Lanes
from dromic.app.window.window import MainWindow
from dromic.core.reports.chart import chart
from tests.build import phrase, planned


def test_one_key_turns_the_strings_everywhere_and_is_kept(qtbot, demo_window, tmp_path):
    window, place = demo_window, demo_window.plan_place
    place.chart.select(2)
    drawn, neck = place.chart.lanes(), place.neck
    strings = drawn.chart.string_mm
    assert drawn.pick_y(strings[-1]) < drawn.pick_y(strings[0])  # the low string on top, as it is looked down upon
    low = neck.place(100.0, 10.0).y()
    before = window.grab().toImage()
    QTest.keyClick(window, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier)
    turned = place.chart.lanes()
    assert turned.pick_y(strings[-1]) > turned.pick_y(strings[0])
    assert low > neck.height() / 2 > neck.place(100.0, 10.0).y()
    assert "String 1 is on top" in window.notice.text() and window.grab().toImage() != before
    window.pages.go_to("Weigh")  # made only now, and turned like the others
    assert not window.pages.weigh.side.low_on_top and not window.pages.weigh.questions.own_way.strips.low_on_top
    window.pages.toggle_stand()
    assert not window.pages.stand.low_on_top
    window.pages.toggle_stand()
    window.settings.sync()
    again = MainWindow(QSettings(window.settings.fileName(), QSettings.Format.IniFormat))
    qtbot.addWidget(again)
    assert not again.plan_place.chart.low_on_top and not again.plan_place.neck.low_on_top
    again.looks.turn_strings()
    assert again.plan_place.chart.low_on_top and "looks down" not in again.notice.text()
    assert "look down" in again.notice.text() and "sheet" in again.notice.text()


def test_a_down_stroke_points_down_as_looked_down_upon_and_up_as_in_tablature():
    plan = planned(phrase([(3, 5), (3, 7), (2, 5), (2, 8)]), "alternate")
    drawn = chart(plan)
    for low_on_top in (True, False):
        lanes = Lanes(drawn, 900, 600, 200.0, 0.0, None, low_on_top)
        down = next(stroke for stroke in drawn.strokes if stroke.down)
        assert (lanes.pick_y(down.end_mm) > lanes.pick_y(down.start_mm)) is low_on_top

"""Without a mouse: every control of every page is reached by Tab, shows that it is, and has a name to be read out."""

from __future__ import annotations

from itertools import product

import pytest
from PyQt6 import sip
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QComboBox,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QScrollBar,
    QTabBar,
    QVBoxLayout,
    QWidget,
)

from dromic.app.kit import theme
from dromic.app.kit.focus_ring import FocusRing

WAIT = 60000
K = Qt.Key


def weighed(qtbot, window):
    window.pages.go_to("Weigh")
    place = window.pages.weigh
    qtbot.waitUntil(lambda: bool(place.entries) and not place.bar.isVisible(), timeout=WAIT)
    return place


def page(qtbot, window, name):
    if not name.startswith("Weigh"):
        window.pages.go_to(name)
        return
    _, tab, *how = name.split()
    if how == ["own"]:  # something of one's own
        window.planning.choose(window.planning.choices.overridden(4, "up"))
    place = weighed(qtbot, window)
    place.tabs.setCurrentIndex(int(tab))
    if how == ["own"]:
        place.questions.list.setCurrentRow(place.questions.list.count() - 1)
        qtbot.waitUntil(lambda: place.questions.own_way.found is not None, timeout=WAIT)
    elif how:
        place.ways.arrange(how[0])


def takes_tab(widget: QWidget) -> bool:
    return (
        widget.isVisible() and widget.isEnabled() and bool(widget.focusPolicy().value & Qt.FocusPolicy.TabFocus.value)
    )


def controls(window) -> list[QWidget]:
    """What a hand with a mouse could use: not the parts other controls are made of."""
    found = []
    for widget in window.findChildren(QWidget):
        inside = widget.parent()
        made_of = isinstance(inside, QComboBox | QAbstractItemView) or widget.objectName() == "qt_spinbox_lineedit"
        proxied = widget.focusProxy() is not None
        if takes_tab(widget) and not made_of and not proxied and not isinstance(widget, QScrollBar):
            found.append(widget)
    return found


def name_of(widget: QWidget) -> str:
    text = widget.text() if isinstance(widget, QAbstractButton) else ""
    labels = [w.text() for w in widget.window().findChildren(QLabel) if w.buddy() is widget]
    return (widget.accessibleName() or text or "".join(labels)).strip()


PAGES = ["Write", "Plan", "Hands", "Weigh 0", "Weigh 1", "Weigh 2", "Weigh 0 work", "Weigh 0 table", "Weigh 2 own"]


@pytest.mark.parametrize("name", PAGES)
def test_tab_comes_to_every_control_and_each_has_a_name(qtbot, demo_window, name):
    page(qtbot, demo_window, name)
    wanted = controls(demo_window)
    assert len(wanted) > 5
    for widget in wanted:
        assert name_of(widget) or isinstance(widget, QTabBar), widget
    start = wanted[0]
    start.setFocus()
    reached, now = [], start
    for _ in range(400):
        reached.append(now)
        now = now.nextInFocusChain()
        if now is start:
            break
    assert {id(w) for w in wanted} <= {id(w) for w in reached}
    # and Tab itself gets out of wherever it goes in
    stuck = demo_window.focusWidget()
    for _ in range(3):
        QTest.keyClick(demo_window.focusWidget(), K.Key_Tab)
    assert demo_window.focusWidget() is not stuck or name == "Write"


@pytest.mark.parametrize("name", PAGES)
def test_focus_can_be_seen(qtbot, demo_window, name):
    """Round a control the window looks otherwise with the focus than without it, in either theme."""
    page(qtbot, demo_window, name)
    demo_window.activateWindow()
    unseen = []

    def round_it(widget):
        place = QRect(widget.mapTo(demo_window, QPoint(0, 0)), widget.size()).adjusted(-4, -4, 4, 4)
        return demo_window.grab(place & demo_window.rect()).toImage()

    for colours in (theme.LIGHT, theme.DARK):
        demo_window.looks.set_theme(colours)
        wanted = controls(demo_window)
        for widget, other in zip(wanted, [*wanted[1:], wanted[0]], strict=True):
            pictures = []
            for now in (other, widget):
                now.setFocus(Qt.FocusReason.TabFocusReason)
                qtbot.waitUntil(now.hasFocus, timeout=5000)
                pictures.append(round_it(widget))
            if pictures[0] == pictures[1]:
                unseen.append((colours.name, type(widget).__name__, name_of(widget)))
    assert not unseen


@pytest.mark.parametrize("name", ["Hands", "Plan", "Weigh 0", "Weigh 0 table", "Weigh 2 own"])
def test_no_words_are_cut_off(qtbot, demo_window, name):
    page(qtbot, demo_window, name)
    for size, colours in product([(1280, 800), (1920, 1080)], [theme.LIGHT, theme.DARK]):
        demo_window.looks.set_theme(colours)
        demo_window.resize(*size)
        QTest.qWait(50)
        assert (demo_window.width(), demo_window.height()) == size
        for widget in demo_window.findChildren(QWidget):
            if widget.isVisible() and widget.window() is demo_window:
                assert_whole(widget, demo_window, size)


def assert_whole(widget, window, size):
    """Its words, and a control itself, lie inside what is seen."""
    corner = widget.mapTo(window, widget.rect().bottomRight())
    if isinstance(widget, QAbstractButton | QComboBox | QLineEdit) and not isinstance(
        widget.parent(), QAbstractItemView
    ):
        assert corner.x() <= size[0] and corner.y() <= size[1], name_of(widget)
    if isinstance(widget, QComboBox):
        needs = widget.fontMetrics().horizontalAdvance(widget.currentText())
        assert needs <= widget.width() - 24, (name_of(widget), widget.currentText())
    if isinstance(widget, QLabel) and not widget.wordWrap() and widget.text():
        told = widget.text().replace("&", "")
        assert widget.fontMetrics().horizontalAdvance(told) <= widget.width() + 1, told


def test_the_pages_are_reached_and_left_by_keys_alone(qtbot, demo_window):
    for key, name in (
        (K.Key_F2, "Write"),
        (K.Key_F7, "Hands"),
        (K.Key_F4, "Weigh"),
        (K.Key_F11, "Stand"),
        (K.Key_F3, "Plan"),
    ):
        QTest.keyClick(demo_window, key)
        assert demo_window.pages.place == name
        assert demo_window.focusWidget() is not None
    assert demo_window.top_bar.isVisible()  # F3 leaves the large view too


def test_the_ring_outlives_an_area_that_scrolls(qtbot):
    """Qt lets the ring stand in the area round the control, and deletes it with that area."""
    window = QWidget()
    qtbot.addWidget(window)
    column, ring = QVBoxLayout(window), FocusRing(window)
    area, inside, beside = QScrollArea(), QPushButton("inside"), QPushButton("beside")
    area.setWidget(inside)
    column.addWidget(area)
    column.addWidget(beside)
    window.show()
    window.activateWindow()
    inside.setFocus()
    qtbot.waitUntil(lambda: ring.frame.widget() is inside)
    sip.delete(area)
    beside.setFocus()
    qtbot.waitUntil(lambda: ring.frame.widget() is beside)


def test_enter_takes_the_plan_that_is_chosen_on_weigh(qtbot, demo_window):
    """The keyboard is on what is compared as soon as the page is shown, and after another tab too."""
    place = weighed(qtbot, demo_window)
    chosen = place.entries[place.current].choices.school
    QTest.keyClick(demo_window.focusWidget(), K.Key_Return)
    qtbot.waitUntil(lambda: demo_window.pages.place == "Plan")
    assert demo_window.planning.choices.school == chosen
    place = weighed(qtbot, demo_window)
    place.tabs.setCurrentIndex(1)
    place.setFocus()
    assert (
        place.tabs.currentWidget().isAncestorOf(demo_window.focusWidget())
        or place.tabs.currentWidget() is demo_window.focusWidget()
    )

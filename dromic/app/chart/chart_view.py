"""The widget that shows the two-hand chart: scrolling, zooming, pointing and the keyboard."""

from __future__ import annotations

from bisect import bisect_left

from PyQt6.QtCore import QEvent, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QMenu, QToolTip, QWidget

from dromic.app.chart.chart_paint import paint_chart
from dromic.app.chart.lanes import GUTTER, LEAST_TALL, RULER, Lanes
from dromic.app.chart.time_index import ChartIndex
from dromic.app.drawing.canvas import CanvasArea
from dromic.app.drawing.lean_icon import paint_lean
from dromic.app.kit.theme import HEAD, LIGHT, Theme, font
from dromic.core.plan.plan import Plan
from dromic.core.reports.chart import Chart, chart
from dromic.core.reports.explain import explain_event

NEAREST_PX_PER_S = 4000.0
"""Largest zoom: a beat of 240 a minute fills a window of usual width."""
FARTHEST_PX_PER_S = 0.5
"""Smallest zoom: half an hour fits into it."""
LEAN_AT = QPointF(10, 4)
"""where the drawing of the lean stands, in the corner of ruler and gutter"""
COMFORT_PX = 36.0
"""width of the shortest gap when a plan is first shown"""


_PINS: dict[str, tuple[str, str]] = {
    "d": ("stroke", "down"),
    "u": ("stroke", "up"),
    "s": ("string", ""),
    "p": ("place", ""),
    **{f: ("finger", f) for f in "01234"},
}
"""keys of the chart that pin what the selected note has, or should have"""


class ChartView(CanvasArea):
    """Shows one plan. `selected` is an event number; pointing explains, arrows move, the wheel zooms and scrolls."""

    selected_changed = pyqtSignal(int)
    window_changed = pyqtSignal(float, float)
    play_asked = pyqtSignal()
    pin_asked = pyqtSignal(str, str)
    """what of the selected event to pin (stroke, finger, string, or nothing more) and as what"""
    what_if_asked = pyqtSignal()
    words_asked = pyqtSignal()
    """what the player has to say at the chosen note"""
    neck_asked = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("two-hand chart")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(self.Shape.NoFrame)
        self.setMinimumHeight(LEAST_TALL)
        self.viewport().setMouseTracking(True)
        self.theme = LIGHT
        self.plan: Plan | None = None
        self.chart: Chart | None = None
        self._shown: ChartIndex | None = None
        self.px_per_s = 200.0
        self.selected: int | None = None
        self.anchor: int | None = None
        """the other end of a selected passage"""
        self.show_damping = False
        self.low_on_top = True
        self.playing: float | None = None
        self._hovered: int | None = None
        self._message = "Open a phrase: a Dromic songbook, MusicXML or ABC"
        self.horizontalScrollBar().valueChanged.connect(self._scrolled)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.viewport().update()

    def set_way_up(self, low_on_top: bool) -> None:
        """Which string is on top."""
        self.low_on_top = low_on_top
        self.viewport().update()

    def show_message(self, text: str) -> None:
        """Words in place of a chart, until a plan is shown."""
        self.plan = self.chart = None
        self._message = text
        self._fit_scrollbar()
        self.viewport().update()

    def show_plan(self, plan: Plan, keep_view: bool, drawn: Chart | None = None) -> None:
        """Show a plan; `keep_view` holds scroll, zoom and selection where the phrase is the same. `drawn` is the plan's
        chart, where it has been made already."""
        self.plan, self.chart = plan, drawn or chart(plan)
        self._shown = ChartIndex(self.chart)
        if not keep_view:
            self.selected = self.anchor = None
            gaps = [m.gap_ms / 1000 for m in plan.moves]
            self.px_per_s = self._clamped(COMFORT_PX / min(gaps)) if gaps else 200.0
            self.horizontalScrollBar().setValue(0)
        elif self.span and self.span[-1] >= len(self.chart.event_s):
            self.selected = self.anchor = None
        self._fit_scrollbar()
        self.viewport().update()

    def lanes(self) -> Lanes | None:
        if self.chart is None:
            return None
        size = self.viewport().size()
        scroll = self.horizontalScrollBar().value() / self.px_per_s - self._lead_s()
        return Lanes(self.chart, size.width(), size.height(), self.px_per_s, scroll, self._shown, self.low_on_top)

    def _lead_s(self) -> float:
        """Room before the first note."""
        return 26.0 / self.px_per_s

    @staticmethod
    def _clamped(px_per_s: float) -> float:
        return min(NEAREST_PX_PER_S, max(FARTHEST_PX_PER_S, px_per_s))

    def _fit_scrollbar(self) -> None:
        bar = self.horizontalScrollBar()
        room = self.viewport().width() - GUTTER
        total = 0.0 if self.chart is None else (self.chart.end_s + 2 * self._lead_s()) * self.px_per_s
        bar.setPageStep(max(1, int(room)))
        bar.setSingleStep(40)
        bar.setRange(0, max(0, int(total - room)))
        self._scrolled()

    def _scrolled(self) -> None:
        self.viewport().update()
        lanes = self.lanes()
        if lanes is not None:
            self.window_changed.emit(lanes.start_s, lanes.end_s)

    def zoom(self, factor: float, at_x: float | None = None) -> None:
        """Zoom about a place of the window, its middle if none is given."""
        lanes = self.lanes()
        if lanes is None:
            return
        x = at_x if at_x is not None else GUTTER + (lanes.width - GUTTER) / 2
        held = lanes.seconds(x)
        self.px_per_s = self._clamped(self.px_per_s * factor)
        self._fit_scrollbar()
        self.horizontalScrollBar().setValue(round((held + self._lead_s()) * self.px_per_s - (x - GUTTER)))

    def zoom_to_all(self) -> None:
        if self.chart is not None:
            self.px_per_s = self._clamped((self.viewport().width() - GUTTER - 60) / max(self.chart.end_s, 0.1))
            self._fit_scrollbar()

    @property
    def span(self) -> range:
        """The events selected: one, a passage, or none."""
        if self.selected is None:
            return range(0)
        ends = self.selected, self.selected if self.anchor is None else self.anchor
        return range(min(ends), max(ends) + 1)

    def select(self, event: int, extend: bool = False) -> None:
        """Select an event and bring it into view; `extend` selects up to it from the one selected before."""
        if self.chart is None or not 0 <= event < len(self.chart.event_s):
            return
        self.anchor = (self.selected if self.anchor is None else self.anchor) if extend else None
        self.selected = event
        lanes = self.lanes()
        assert lanes is not None
        at = self.chart.event_s[event]
        margin = 0.12 * (lanes.end_s - lanes.start_s)
        if not lanes.start_s + margin / 2 <= at <= lanes.end_s - margin:
            self.horizontalScrollBar().setValue(
                round((at + self._lead_s()) * self.px_per_s - (lanes.width - GUTTER) / 3)
            )
        self.viewport().update()
        self.selected_changed.emit(event)

    def show_playing(self, seconds: float | None) -> None:
        """Mark what sounds just now, and keep it in view."""
        if seconds is None and self.playing is None:
            return
        self.playing = seconds
        lanes = self.lanes()
        if seconds is not None and lanes is not None:
            room = lanes.end_s - lanes.start_s
            if not lanes.start_s <= seconds <= lanes.end_s - 0.1 * room:
                self.horizontalScrollBar().setValue(
                    round((seconds + self._lead_s()) * self.px_per_s - (lanes.width - GUTTER) * 0.1)
                )
        self.viewport().update()

    def centre_on(self, seconds: float) -> None:
        room = self.viewport().width() - GUTTER
        self.horizontalScrollBar().setValue(round((seconds + self._lead_s()) * self.px_per_s - room / 2))

    def event_at(self, x: float) -> int | None:
        """The event whose column holds a place of the window: from the note before it to itself."""
        lanes = self.lanes()
        if lanes is None or self.chart is None or x < GUTTER:
            return None
        at = lanes.seconds(x) - 8.0 / self.px_per_s
        return min(bisect_left(self.chart.event_s, at), len(self.chart.event_s) - 1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self.viewport())
        lanes = self.lanes()
        if lanes is None:
            painter.fillRect(self.viewport().rect(), self.theme.colour("paper"))
            painter.setFont(font(HEAD))
            painter.setPen(self.theme.colour("soft"))
            box = self.viewport().rect().adjusted(40, 0, -40, 0)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._message)
        else:
            marked = [(self._hovered, 0.10), *((e, 0.20) for e in self.span)]
            paint_chart(painter, lanes, self.theme, marked, self.show_damping)
            assert self.plan is not None
            player, instrument = self.plan.request.player, self.plan.request.instrument
            paint_lean(painter, player.leans, player, instrument, self.theme, LEAN_AT)
            self._paint_pins(painter, lanes)
            if self.playing is not None:
                x = lanes.x(self.playing)
                painter.setPen(QPen(self.theme.colour("hurt"), 2))
                painter.drawLine(QPointF(x, 0), QPointF(x, lanes.height))
            if self.hasFocus():
                painter.setPen(self.theme.colour("focus"))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.viewport().rect().adjusted(0, 0, -1, -1))

    def _paint_pins(self, painter: QPainter, lanes: Lanes) -> None:
        """A pin over the number of every note of which something is pinned."""
        assert self.plan is not None and self.chart is not None
        asked = self.plan.request
        for event in {pin.event for pin in asked.pins} | {event for event, _ in asked.overrides}:
            x, y = lanes.x(self.chart.event_s[event]), lanes.middle_top + 3
            if x >= GUTTER:
                painter.setPen(QPen(self.theme.colour("ink"), 1.5))
                painter.setBrush(self.theme.colour("ink"))
                painter.drawEllipse(QPointF(x, y), 3.5, 3.5)
                painter.drawLine(QPointF(x, y), QPointF(x, y + 9))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit_scrollbar()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        step = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.0015**step, event.position().x())
        else:
            self.horizontalScrollBar().setValue(self.horizontalScrollBar().value() - step)
        event.accept()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self.event_at(event.position().x())
        if at is not None:
            self.select(at, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """What can be pinned of the note under the pointer, or of the one chosen where the menu key asks."""
        assert event is not None
        if event.reason() == QContextMenuEvent.Reason.Mouse:
            at = self.event_at(event.pos().x())
            if at is not None and at not in self.span:
                self.select(at)
        if self.selected is not None:
            menu = self.pin_menu()
            menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            menu.popup(event.globalPos())

    def pin_menu(self) -> QMenu:
        menu = QMenu(self)
        for key, (what, value) in _PINS.items():
            words = {"string": "Pin its string", "place": "Pin string, finger and stroke"}.get(
                what, f"Pin {what} {value}"
            )
            menu.addAction(f"{words}\t{key.upper()}", lambda what=what, value=value: self.pin_asked.emit(what, value))
        menu.addSeparator()
        menu.addAction("What if…\tW", self.what_if_asked.emit)
        menu.addAction("Your words here, doubtful…\t'", self.words_asked.emit)
        menu.addSeparator()
        menu.addAction("Lift its pins\tDel", lambda: self.pin_asked.emit("none", ""))
        menu.addAction("Lift all pins\tCtrl+Del", lambda: self.pin_asked.emit("none", "all"))
        return menu

    def toggle_damping(self) -> None:
        """Show or hide what damps the idle strings."""
        self.show_damping = not self.show_damping
        self.viewport().update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().x() < GUTTER and event.position().y() < RULER and self.plan is not None:
            from dromic.app.drawing.pick_drawing import told

            words = f"The pick's path, looked at along the strings. {told(self.plan.request.player, self.plan.request.instrument)}"
            QToolTip.showText(event.globalPosition().toPoint(), words, self)
        at = self.event_at(event.position().x())
        if at != self._hovered:
            self._hovered = at
            self.viewport().update()
        if at is not None and self.plan is not None and self.chart is not None:
            QToolTip.showText(
                event.globalPosition().toPoint(), "\n".join(explain_event(self.plan, at, self.chart.muting)), self
            )

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hovered = None
        self.viewport().update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        count = len(self.chart.event_s) if self.chart else 0
        now = self.selected
        targets = {
            Qt.Key.Key_Right: 0 if now is None else min(now + 1, count - 1),
            Qt.Key.Key_Left: 0 if now is None else max(now - 1, 0),
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: count - 1,
        }
        key = Qt.Key(event.key())
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        pin = None if control else _PINS.get(event.text().lower())
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.pin_asked.emit("none", "all" if control else "")
        elif pin is not None and now is not None:
            self.pin_asked.emit(*pin)
        elif key == Qt.Key.Key_Space:
            self.play_asked.emit()
        elif key == Qt.Key.Key_W and now is not None:
            self.what_if_asked.emit()
        elif event.text() == "'" and now is not None:
            self.words_asked.emit()
        elif key == Qt.Key.Key_M:
            self.toggle_damping()
        elif key == Qt.Key.Key_N:
            self.neck_asked.emit()
        elif count and key in targets:
            self.select(targets[key], bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            super().keyPressEvent(event)

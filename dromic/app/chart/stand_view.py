"""Large mode for the music stand: tablature with the pick's path through it, strokes and fingers, legible at two metres."""

from __future__ import annotations

from bisect import bisect_left, bisect_right

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen
from PyQt6.QtWidgets import QWidget

from dromic.app.drawing.glyphs import stroke_glyph
from dromic.app.drawing.load_bar import HIGHEST_LOAD
from dromic.app.drawing.picture import Picture
from dromic.app.kit.theme import BODY, HEAD, SMALL, font
from dromic.core.plan.plan import Plan
from dromic.core.reports.ceiling_words import ceiling_about
from dromic.core.reports.chart import Chart, chart

CENTRE = Qt.AlignmentFlag.AlignCenter
TITLES = 74.0
"""Height of the title over the strings, px."""
STROKES = 66.0
"""Height of the row of strokes, px."""
FINGERS = 62.0
"""Height of the row of fingers, px."""
COUNTS = 46.0
"""Height of the row that counts, px."""
LOADS = 40.0
"""Height of the row of loads, px."""
GUTTER = 78.0
NUMBER_PX = 44.0
"""Type of fret numbers: 12 mm high at 96 dots to the inch, px."""
FINGER_PX = 34.0
"""Type of fingers, px."""
COUNT_PX = 30.0
"""Type of what is counted: 8 mm high, px."""
SHORTEST_PX = 62.0
"""the shortest gap between notes"""
TURN_AT = 0.78
"""Where in the window what sounds stands when the page turns, a share of its width."""
TURN_TO = 0.10
"""Where it stands then."""


class StandView(Picture):
    """Shows one plan, large. What sounds is followed a page at a time, so that the eye has rest between."""

    left = pyqtSignal()
    play_asked = pyqtSignal()
    selected_changed = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("large view for the music stand")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.low_on_top = True
        self.plan: Plan | None = None
        self.chart: Chart | None = None
        self.px_per_s, self.start_s = 200.0, 0.0
        self.now = 0
        """the event chosen, or the one that sounds"""

    def set_way_up(self, low_on_top: bool) -> None:
        """Which string is on top."""
        self.low_on_top = low_on_top
        self.update()

    def show_plan(self, plan: Plan | None, event: int, drawn: Chart | None = None) -> None:
        """Show a plan; `drawn` is its chart, where it has been made already."""
        self.plan, self.chart = plan, drawn or (chart(plan) if plan is not None else None)
        if plan is not None:
            gaps = [m.gap_ms / 1000 for m in plan.onward]
            self.px_per_s = SHORTEST_PX / min(gaps) if gaps else 200.0
            self.start_s = 0.0
            self.follow(min(event, plan.notes[-1].event))
        self.update()

    def follow(self, event: int) -> None:
        """Make an event the current one; the page turns when it nears the right edge."""
        if self.chart is None:
            return
        self.now = event
        at, room = self.chart.event_s[event], (self.width() - GUTTER) / self.px_per_s
        if not self.start_s <= at <= self.start_s + TURN_AT * room:
            self.start_s = max(0.0, at - TURN_TO * room)
        self.update()

    def show_playing(self, seconds: float | None) -> None:
        """Follow what sounds."""
        if self.chart is not None and seconds is not None:
            self.follow(max(0, bisect_right(self.chart.event_s, seconds + 1e-6) - 1))

    def zoom(self, factor: float) -> None:
        self.px_per_s = min(1600.0, max(20.0, self.px_per_s * factor))
        self.follow(self.now)

    def x_at(self, seconds: float) -> float:
        return GUTTER + 36 + (seconds - self.start_s) * self.px_per_s

    @property
    def _below(self) -> float:
        return STROKES + FINGERS + COUNTS + LOADS + 12

    def y_at(self, mm: float) -> float:
        """The low string on top, as on the chart, or string 1 as in tablature."""
        assert self.chart is not None
        mm = mm if self.low_on_top else self.chart.string_mm[0] - mm
        top = TITLES + NUMBER_PX * 0.7
        tall = self.height() - top - self._below - NUMBER_PX * 0.7
        return top + mm / self.chart.string_mm[0] * tall

    def paint(self, painter: QPainter) -> None:
        if self.plan is None or self.chart is None:
            return
        theme, data = self.theme, self.chart
        end_s = self.start_s + (self.width() - GUTTER) / self.px_per_s
        shown = range(bisect_left(data.event_s, self.start_s - 0.5), bisect_right(data.event_s, end_s))
        x = self.x_at(data.event_s[self.now])
        painter.fillRect(QRectF(x - 30, TITLES - 6, 60, self.height() - TITLES), theme.colour("band"))
        painter.setPen(QPen(theme.colour("ink"), 2))
        painter.drawRect(QRectF(x - 30, TITLES - 6, 60, self.height() - TITLES - 4))
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        self._bars(painter, end_s)
        for n, mm in enumerate(data.string_mm):
            painter.setPen(QPen(theme.colour("line"), 1.4 + 0.5 * n))
            painter.drawLine(QLineF(GUTTER, self.y_at(mm), self.width(), self.y_at(mm)))
        self._path(painter, end_s)
        for number in shown:
            self._event(painter, number)
        painter.restore()
        self._gutter(painter)
        self._head(painter)

    def _bars(self, painter: QPainter, end_s: float) -> None:
        assert self.chart is not None
        for at, number in self.chart.bars:
            if self.start_s - 1 <= at <= end_s:
                x = self.x_at(at) - 34
                painter.setPen(QPen(self.theme.colour("line"), 3))
                painter.drawLine(QLineF(x, TITLES - 6, x, self.height()))
                painter.setFont(font(2 * SMALL, "strong"))
                painter.setPen(self.theme.colour("soft"))
                painter.drawText(QPointF(x + 6, TITLES - 14), f"bar {number}")

    def _path(self, painter: QPainter, end_s: float) -> None:
        """The pick's path through the strings: solid where it sounds, dashed where it is lifted over strings."""
        assert self.chart is not None
        theme = self.theme
        for travel in self.chart.travels:
            if travel.end_s < self.start_s or travel.start_s > end_s:
                continue
            start = QPointF(self.x_at(travel.start_s), self.y_at(travel.start_mm))
            end = QPointF(self.x_at(travel.end_s), self.y_at(travel.end_mm))
            hurts = travel.load > 1
            pen = QPen(theme.colour("hurt" if hurts else "pick", 0.9), 6 if hurts else 3.5)
            pen.setStyle(Qt.PenStyle.DashLine if travel.hops else Qt.PenStyle.SolidLine)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            path = QPainterPath(start)
            middle = (start.x() + end.x()) / 2
            path.cubicTo(QPointF(middle, start.y()), QPointF(middle, end.y()), end)
            painter.drawPath(path)
        for stroke in self.chart.strokes:
            if self.start_s - 0.2 <= stroke.start_s <= end_s:
                painter.setPen(QPen(theme.colour("pick"), 7))
                painter.drawLine(
                    QPointF(self.x_at(stroke.start_s), self.y_at(stroke.start_mm)),
                    QPointF(self.x_at(stroke.end_s), self.y_at(stroke.end_mm)),
                )

    def _event(self, painter: QPainter, number: int) -> None:
        assert self.plan is not None and self.chart is not None
        theme, data, notes = self.theme, self.chart, self.plan.events[number]
        x = self.x_at(data.event_s[number])
        for note in notes:
            words = "x" if "dead" in note.marks else str(note.fret)
            painter.setFont(font(NUMBER_PX, "heavy"))
            wide = painter.fontMetrics().horizontalAdvance(words) + 6
            box = QRectF(x - wide / 2, self.y_at(data.string_mm[note.string - 1]) - NUMBER_PX * 0.5, wide, NUMBER_PX)
            painter.fillRect(box.adjusted(0, 4, 0, -4), theme.colour("band" if number == self.now else "paper", 0.86))
            painter.setPen(theme.colour("ink"))
            painter.drawText(box, CENTRE, words)
        top = self.height() - self._below + 6
        lead = notes[0]
        if lead.stroke == "none":
            painter.setFont(font(2 * BODY, "heavy"))
            painter.setPen(theme.colour("fret"))
            painter.drawText(QRectF(x - 40, top, 80, STROKES - 8), CENTRE, lead.attack[:1])
        else:
            stroke_glyph(painter, theme.colour("pick"), QPointF(x, top + STROKES / 2 - 4), lead.stroke, 36)
        top += STROKES
        fingers = "".join(n.finger for n in reversed(notes) if n.finger != "0")
        if fingers:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("fret"))
            chip = max(46.0, 24.0 * len(fingers))
            painter.drawRoundedRect(QRectF(x - chip / 2, top + 3, chip, 46), 23, 23)
            painter.setFont(font(FINGER_PX, "heavy"))
            painter.setPen(theme.colour("on_fret"))
            painter.drawText(QRectF(x - chip / 2, top + 3, chip, 46), CENTRE, fingers)
        top += FINGERS
        label = data.labels[number]
        painter.setFont(font(COUNT_PX, "heavy" if label.beat else "normal"))
        painter.setPen(theme.colour("ink" if label.beat else "soft"))
        painter.drawText(QRectF(x - 50, top, 100, COUNTS - 4), CENTRE, label.count)
        move = self.plan.arriving(number)
        if move is not None:
            self._load(painter, move.load, move.hand, (self.x_at(data.event_s[number - 1]) + x) / 2)

    def _load(self, painter: QPainter, load: float, hand: str, x: float) -> None:
        """The larger hand's load; hatched, with a number, where it does not fit."""
        base = self.height() - 8.0
        tall = min(load, HIGHEST_LOAD) / HIGHEST_LOAD * (LOADS - 6)
        rect = QRectF(x - 12, base - tall, 24, tall)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(
            self.theme.colour("hurt" if load > 1 else "pick" if hand == "picking" else "fret", 1.0 if load > 1 else 0.5)
        )
        painter.drawRect(rect)
        if load > 1:
            painter.setBrush(QBrush(self.theme.colour("paper"), Qt.BrushStyle.BDiagPattern))
            painter.drawRect(rect)

    def _gutter(self, painter: QPainter) -> None:
        assert self.chart is not None
        theme = self.theme
        painter.fillRect(QRectF(0, TITLES - 8, GUTTER - 6, self.height()), theme.colour("panel"))
        painter.setFont(font(2 * BODY, "heavy"))
        painter.setPen(theme.colour("ink"))
        for mm, name in zip(self.chart.string_mm, self.chart.string_names, strict=True):
            painter.drawText(QRectF(0, self.y_at(mm) - 20, GUTTER - 14, 40), CENTRE, name)
        painter.setFont(font(HEAD, "strong"))
        top = self.height() - self._below + 6
        for words, tall, name in (
            ("stroke", STROKES, "pick"), ("finger", FINGERS, "fret"), ("count", COUNTS, "soft"), ("load", LOADS, "soft"),
        ):  # fmt: skip
            painter.setPen(theme.colour(name))
            painter.drawText(QRectF(0, top, GUTTER - 8, tall - 6), CENTRE, words)
            top += tall

    def _head(self, painter: QPainter) -> None:
        assert self.plan is not None and self.chart is not None
        theme, request = self.theme, self.plan.request
        painter.fillRect(QRectF(0, 0, self.width(), TITLES - 40), theme.colour("panel"))
        painter.setFont(font(2 * SMALL, "heavy"))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(14, 26), request.phrase.title)
        ceiling = ceiling_about(self.plan.ceiling)
        words = f"{request.school.label}, {request.phrase.tempo:g} a minute, {ceiling}    Esc leaves"
        painter.setFont(font(2 * SMALL))
        painter.setPen(theme.colour("soft"))
        painter.drawText(QRectF(0, 4, self.width() - 14, 28), Qt.AlignmentFlag.AlignRight, words)

    def event_at(self, x: float) -> int | None:
        if self.chart is None or x < GUTTER:
            return None
        seconds = self.start_s + (x - GUTTER - 36) / self.px_per_s
        return min(range(len(self.chart.event_s)), key=lambda e: abs(self.chart.event_s[e] - seconds))  # type: ignore[union-attr]

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self.event_at(event.position().x())
        if at is not None:
            self._select(at)

    def _select(self, event: int) -> None:
        if self.chart is not None:
            self.follow(max(0, min(event, len(self.chart.event_s) - 1)))
            self.selected_changed.emit(self.now)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        last = len(self.chart.event_s) - 1 if self.chart is not None else 0
        targets = {
            Qt.Key.Key_Right: self.now + 1, Qt.Key.Key_Left: self.now - 1, Qt.Key.Key_Home: 0, Qt.Key.Key_End: last,
            Qt.Key.Key_PageDown: self.now + 8, Qt.Key.Key_PageUp: self.now - 8,
        }  # fmt: skip
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape:
            self.left.emit()
        elif key == Qt.Key.Key_Space:
            self.play_asked.emit()
        elif key in targets:
            self._select(targets[key])
        else:
            super().keyPressEvent(event)

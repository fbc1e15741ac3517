"""Plans side by side on one time axis: a strip of strings, strokes and loads for each, what differs marked."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QBrush,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from dromic.app.drawing.canvas import CanvasArea
from dromic.app.drawing.glyphs import stroke_glyph
from dromic.app.drawing.load_bar import HIGHEST_LOAD
from dromic.app.kit.theme import BODY, HEAD, LIGHT, SMALL, Theme, font
from dromic.app.weigh.candidates import Candidate
from dromic.core.plan.plan import Plan
from dromic.core.reports.comparison import differing
from dromic.core.reports.explain import many

GUTTER = 170.0
"""Width of the names, px."""
RULER = 26.0
"""Height of the ruler, px."""
STRING_GAP = 11.0
"""Distance of strings, px."""
OVER = 16.0
"""Room above the top string, px."""
FEET = 40.0
"""Room below the lowest for strokes and loads, px."""
_COMFORT_PX = 30.0
_LOAD_PX = 16.0
CENTRE = Qt.AlignmentFlag.AlignCenter


class SideBySide(CanvasArea):
    """`chosen` carries the number of the plan pointed at. Marked are notes that are played otherwise than in the plan
    everything is held against."""

    chosen = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("plans on one time axis")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFrameShape(self.Shape.NoFrame)
        self.theme = LIGHT
        self.low_on_top = True
        self.entries: list[Candidate] = []
        self.rows: list[int] = []
        """numbers of the entries that have a plan, from the top"""
        self.marked: dict[int, frozenset[int]] = {}
        """for each entry the events it plays otherwise than the reference"""
        self.reference = self.current = 0
        self.px_per_s = 200.0
        for bar in (self.horizontalScrollBar(), self.verticalScrollBar()):
            bar.valueChanged.connect(lambda _: self.viewport().update())

    def set_way_up(self, low_on_top: bool) -> None:
        """Which string is on top."""
        self.low_on_top = low_on_top
        self.viewport().update()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.viewport().update()

    def show_entries(self, entries: Sequence[Candidate], reference: int | None) -> None:
        """Show plans of one phrase; the reference stands on top."""
        self.entries = list(entries)
        planned = [n for n, e in enumerate(entries) if e.plan is not None]
        self.reference = reference if reference is not None else (planned[0] if planned else 0)
        self.rows = sorted(planned, key=lambda n: (n != self.reference, n))
        against = self.entries[self.reference].plan if planned else None
        self.marked = {
            n: frozenset(differing(plan, against)) for n in planned if (plan := entries[n].plan) is not None and against
        }
        if against is not None:
            gaps = [m.gap_ms / 1000 for m in against.moves]
            self.px_per_s = _COMFORT_PX / min(gaps) if gaps else 200.0
        self._fit()
        self.viewport().update()

    def set_current(self, number: int) -> None:
        self.current = number
        if number in self.rows:
            top = self.rows.index(number) * self.row_height
            bar = self.verticalScrollBar()
            if not bar.value() <= top <= bar.value() + self.viewport().height() - self.row_height - RULER:
                bar.setValue(int(top))
        self.viewport().update()

    @property
    def row_height(self) -> float:
        strings = next((e.plan.request.instrument.strings for e in self.entries if e.plan is not None), 6)
        return OVER + (strings - 1) * STRING_GAP + FEET

    def x_at(self, seconds: float) -> float:
        return GUTTER + 16 + seconds * self.px_per_s - self.horizontalScrollBar().value()

    def _fit(self) -> None:
        plan = self._plan
        long = 0.0 if plan is None else max(n.end_s for n in plan.notes)
        room = self.viewport().width() - GUTTER
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        across.setPageStep(max(1, int(room)))
        across.setSingleStep(40)
        across.setRange(0, max(0, int(long * self.px_per_s + 40 - room)))
        down.setPageStep(max(1, int(self.viewport().height() - RULER)))
        down.setSingleStep(20)
        down.setRange(0, max(0, int(len(self.rows) * self.row_height - (self.viewport().height() - RULER))))

    @property
    def _plan(self) -> Plan | None:
        return self.entries[self.reference].plan if self.rows else None

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        step = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.px_per_s = min(1600.0, max(20.0, self.px_per_s * 1.0015**step))
            self._fit()
            self.viewport().update()
        else:
            sideways = event.modifiers() & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x()
            bar = self.horizontalScrollBar() if sideways else self.verticalScrollBar()
            bar.setValue(bar.value() - step)
        event.accept()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        row = int((event.position().y() - RULER + self.verticalScrollBar().value()) // self.row_height)
        if event.position().y() > RULER and 0 <= row < len(self.rows):
            self.chosen.emit(self.rows[row])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        along = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()))
        if step is not None and self.rows:
            now = self.rows.index(self.current) if self.current in self.rows else 0
            self.chosen.emit(self.rows[max(0, min(now + step, len(self.rows) - 1))])
        elif along is not None:
            bar = self.horizontalScrollBar()
            bar.setValue(bar.value() + along * 80)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, size = self.theme, self.viewport().size()
        painter.fillRect(self.viewport().rect(), theme.colour("paper"))
        plan = self._plan
        if plan is None:
            return
        for n, number in enumerate(self.rows):
            top = RULER + n * self.row_height - self.verticalScrollBar().value()
            if -self.row_height < top < size.height():
                self._row(painter, number, top)
        painter.fillRect(QRectF(0, 0, size.width(), RULER), theme.colour("panel"))
        painter.setFont(font(SMALL))
        painter.setPen(theme.colour("soft"))
        painter.drawText(
            QRectF(12, 0, GUTTER - 16, RULER),
            Qt.AlignmentFlag.AlignVCenter,
            "low string on top" if self.low_on_top else "string 1 on top",
        )
        painter.setFont(font(BODY, "strong"))
        for bar in plan.request.phrase.bars:
            x = self.x_at(plan.request.phrase.seconds_at(bar.start))
            if GUTTER <= x <= size.width():
                painter.setPen(theme.colour("soft"))
                painter.drawText(QPointF(x + 4, 18), f"bar {bar.number}")
                painter.setPen(QPen(theme.colour("line"), 1.4))
                painter.drawLine(QLineF(x, 4, x, size.height()))
        painter.setPen(QPen(theme.colour("line")))
        painter.drawLine(QLineF(GUTTER, 0, GUTTER, size.height()))

    def _row(self, painter: QPainter, number: int, top: float) -> None:
        entry, theme = self.entries[number], self.theme
        plan = entry.plan
        assert plan is not None
        wide = self.viewport().width()
        if number == self.current:
            painter.fillRect(QRectF(0, top, wide, self.row_height), theme.colour("band", 0.55))
            painter.fillRect(QRectF(0, top, 5, self.row_height), theme.colour("focus"))
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, wide - GUTTER, self.viewport().height()))
        first = top + OVER
        strings = plan.request.instrument.strings
        low = first + (strings - 1) * STRING_GAP
        marked = self.marked.get(number, frozenset())
        starts = [lead.start_s for lead in plan.leads]
        shown = range(
            bisect_left(starts, (GUTTER - 40 - self.x_at(0)) / self.px_per_s),
            bisect_right(starts, (wide + 40 - self.x_at(0)) / self.px_per_s),
        )
        for event in shown:
            if event in marked:
                self._mark(painter, self.x_at(starts[event]), top, low)
        for string in range(strings):
            painter.setPen(QPen(theme.colour("line"), 0.8))
            painter.drawLine(QLineF(GUTTER, first + string * STRING_GAP, wide, first + string * STRING_GAP))
        for event in shown:
            self._event(painter, plan, event, self.x_at(starts[event]), first, low)
        self._loads(painter, plan, starts, low + FEET - 3, shown)
        painter.restore()
        self._name(painter, entry, number, top, len(marked))
        painter.setPen(QPen(theme.colour("line")))
        painter.drawLine(QLineF(0, top + self.row_height, wide, top + self.row_height))

    def _mark(self, painter: QPainter, x: float, top: float, low: float) -> None:
        """A band over the note with a wedge on top: told by shape, not by colour alone."""
        painter.fillRect(QRectF(x - 9, top + 8, 18, low - top + 14), self.theme.colour("ink", 0.13))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("ink"))
        painter.drawPolygon(QPolygonF([QPointF(x - 5, top + 3), QPointF(x + 5, top + 3), QPointF(x, top + 9)]))

    def _event(self, painter: QPainter, plan: Plan, event: int, x: float, first: float, low: float) -> None:
        theme = self.theme
        notes = plan.events[event]
        painter.setFont(font(SMALL, "heavy"))
        for note in notes:
            from_top = plan.request.instrument.strings - note.string if self.low_on_top else note.string - 1
            y = first + from_top * STRING_GAP
            words = "x" if "dead" in note.marks else str(note.fret)
            box = QRectF(x - 4 - 4 * len(words), y - 7, 8 + 8 * len(words), 14)
            painter.fillRect(box.adjusted(2, 2, -2, -2), theme.colour("paper"))
            painter.setPen(theme.colour("ink"))
            painter.drawText(box, CENTRE, words)
        lead = notes[0]
        if lead.stroke == "none":
            painter.setFont(font(SMALL, "strong"))
            painter.setPen(theme.colour("fret"))
            painter.drawText(QRectF(x - 10, low + 5, 20, 14), CENTRE, lead.attack[:1])
        else:
            stroke_glyph(painter, theme.colour("pick"), QPointF(x, low + 12), lead.stroke, 10)

    def _loads(self, painter: QPainter, plan: Plan, starts: Sequence[float], base: float, shown: range) -> None:
        """The larger hand's load of each move, hatched where it passes 1."""
        theme = self.theme
        for event in shown:
            move = plan.arriving(event)
            if move is None:
                continue
            tall = min(move.load, HIGHEST_LOAD) / HIGHEST_LOAD * _LOAD_PX
            middle = (self.x_at(starts[event - 1]) + self.x_at(starts[event])) / 2
            rect = QRectF(middle - 4, base - tall, 8, tall)
            name = "hurt" if move.load > 1 else "pick" if move.hand == "picking" else "fret"
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour(name, 1.0 if move.load > 1 else 0.5))
            painter.drawRect(rect)
            if move.load > 1:
                painter.setBrush(QBrush(theme.colour("paper"), Qt.BrushStyle.BDiagPattern))
                painter.drawRect(rect)

    def _name(self, painter: QPainter, entry: Candidate, number: int, top: float, marked: int) -> None:
        theme = self.theme
        assert entry.plan is not None
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(BODY, "heavy"))
        box = QRectF(12, top + 6, GUTTER - 18, 36)
        painter.drawText(box, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, entry.label)
        ceiling = "no limit" if entry.plan.ceiling is None else f"{entry.plan.ceiling:.0f}"
        painter.setFont(font(HEAD, "heavy"))
        painter.drawText(QRectF(12, top + 38, GUTTER - 18, 28), Qt.AlignmentFlag.AlignVCenter, ceiling)
        wide = painter.fontMetrics().horizontalAdvance(ceiling)
        painter.setFont(font(SMALL))
        painter.setPen(theme.colour("soft"))
        if entry.plan.ceiling is not None:
            painter.drawText(
                QRectF(18 + wide, top + 40, GUTTER - wide - 24, 28), Qt.AlignmentFlag.AlignVCenter, "ceiling, estimate"
            )
        told = "all are held against this" if number == self.reference else f"{many(marked, 'note')} otherwise"
        painter.drawText(QRectF(12, top + 68, GUTTER - 16, 16), Qt.AlignmentFlag.AlignVCenter, told)

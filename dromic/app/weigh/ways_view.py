"""The plans as a picture: a row each with its ceiling on one line of tempos, its bars by how near they are to their limit, the notes
it leaves unpicked, and what it is best at."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QBrush,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from dromic.app.drawing.canvas import CanvasArea
from dromic.app.drawing.ceiling_mark import Line, ceiling_of, line_over, paint_ceiling, paint_flag
from dromic.app.drawing.load_bar import HIGHEST_LOAD
from dromic.app.kit.theme import BODY, HEAD, LIGHT, SMALL, Theme, font
from dromic.app.weigh.candidates import Candidate
from dromic.core.plan.plan import Plan
from dromic.core.reports.comparison import MEASURES
from dromic.core.reports.standing import pressed_bars, strengths

ROW = 44.0
"""Height of a row at least, px."""
ROOMY_ROW = 64.0
"""Height of a row at most, px."""
TELLING = 22.0
"""What the chosen row has more, to tell its bars, px."""
RULER = 40.0
"""Height of the titles, px."""
NAME = 176.0
"""Width of the names, px."""
UNPICKED = 76.0
"""Width of the notes left unpicked, px."""
EDGE = 12.0
"""Room beside everything, px."""
_LINE_SHARE = 0.34
"""Share of the rest that the line of ceilings has."""
_NUMBER = 56.0
"""Width of the number beside a line, px."""
_CELL = 26.0
"""Width of a bar that is told at least, px."""
BEST = "\u25c6"
_CENTRE, _LEFT, _RIGHT = (
    Qt.AlignmentFlag.AlignCenter, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft,
    Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
)  # fmt: skip


class WaysView(CanvasArea):
    """`chosen` carries the number of the plan that is current; Enter or a double click takes it."""

    chosen = pyqtSignal(int)
    taken = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("the plans, a row each")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.theme = LIGHT
        self.entries: list[Candidate] = []
        self.order: list[int] = []
        """numbers of the entries from the top"""
        self.best: tuple[int, ...] = ()
        self.current = -1
        self.bars: dict[int, list[float | None]] = {}
        self._spans: dict[int, tuple[float, float]] = {}
        """top and height of each row, under the titles and before scrolling"""
        self.words: list[str] = []

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.viewport().update()

    def show_entries(self, entries: Sequence[Candidate], order: Sequence[int], best: Sequence[int]) -> None:
        """Show these, in this order, with those marked that are the fastest."""
        self.entries, self.order, self.best = list(entries), list(order), tuple(best)
        self.words = strengths([e.plan for e in entries])
        self.bars = {n: pressed_bars(e.plan) for n, e in enumerate(entries) if e.plan is not None}
        self._fit()
        self.viewport().update()

    def set_current(self, number: int) -> None:
        self.current = number
        self._fit()
        if number in self.order:
            bar, (top, tall) = self.verticalScrollBar(), self._spans[number]
            shown = self.viewport().height() - RULER
            if not bar.value() <= top <= bar.value() + shown - tall:
                bar.setValue(int(top))
        self.setAccessibleDescription(self.told(number))
        self.viewport().update()

    # where things are

    @property
    def tall(self) -> float:
        """Of a row: more where there is room for all."""
        room = self.viewport().height() - RULER - TELLING
        return min(ROOMY_ROW, max(ROW, room / max(1, len(self.order))))

    def row_rect(self, number: int) -> QRectF:
        top, tall = self._spans[number]
        return QRectF(0, RULER + top - self.verticalScrollBar().value(), self.viewport().width(), tall)

    @property
    def _line_wide(self) -> float:
        return _LINE_SHARE * (self.viewport().width() - NAME - UNPICKED - 3 * EDGE)

    def line(self) -> Line | None:
        """The one line of tempos of all rows."""
        ceilings = [c for e in self.entries if (c := ceiling_of(e.plan)) is not None]
        left = EDGE + NAME
        return line_over(ceilings, left, left + self._line_wide - _NUMBER) if ceilings else None

    def cell_rect(self, number: int, bar: int) -> QRectF:
        """Where a bar of a plan is drawn."""
        row, left = self.row_rect(number), EDGE + NAME + self._line_wide + EDGE
        wide = (self.viewport().width() - left - UNPICKED - EDGE) / max(1, len(self.bars[number]))
        return QRectF(left + bar * wide, row.top() + 9, max(1.0, wide - (2 if wide > 6 else 0)), self.tall - 18)

    def at(self, point: QPointF) -> tuple[int, int | None] | None:
        """The plan at a point, and the bar if it is on one."""
        if point.y() < RULER:
            return None
        for number in self.order:
            if self.row_rect(number).contains(point):
                bars = range(len(self.bars.get(number, ())))
                return number, next((b for b in bars if self.cell_rect(number, b).contains(point)), None)
        return None

    def _fit(self) -> None:
        """Rows anew: there are others, another is chosen, or there is other room."""
        top, usual, self._spans = 0.0, self.tall, {}
        for number in self.order:
            tall = usual + (TELLING if number == self.current and number in self.bars else 0.0)
            self._spans[number] = top, tall
            top += tall
        bar, room = self.verticalScrollBar(), self.viewport().height() - RULER
        bar.setPageStep(max(1, int(room)))
        bar.setSingleStep(int(usual))
        bar.setRange(0, max(0, int(top - room)))

    # what is told

    def told(self, number: int, bar: int | None = None) -> str:
        """The numbers of a plan, or of one of its bars, in words."""
        if not 0 <= number < len(self.entries):
            return ""
        entry = self.entries[number]
        if entry.plan is None:
            return f"{entry.label}: {entry.refused}"
        if bar is not None:
            share, phrase = self.bars[number][bar], entry.plan.request.phrase
            where = f"{entry.label}, bar {phrase.bars[bar].number}"
            return (
                f"{where}: no move takes time" if share is None
                else f"{where}: fits up to about {phrase.tempo / share:.0f}; asked at {phrase.tempo:g}"
            )  # fmt: skip
        lines = [f"{m.label}: {m.text(entry.plan)}" for m in MEASURES[:7]]
        return "\n".join([entry.label, *([entry.why] if entry.why else []), *lines])

    # painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), self.theme.colour("paper"))
        line = self.line()
        painter.setClipRect(QRectF(0, RULER, self.viewport().width(), self.viewport().height()))
        for number in self.order:
            rect = self.row_rect(number)
            if rect.bottom() >= RULER and rect.top() <= self.viewport().height():
                self._row(painter, number, rect, line)
        painter.setClipping(False)
        self._titles(painter, line)

    def _titles(self, painter: QPainter, line: Line | None) -> None:
        theme, wide = self.theme, self.viewport().width()
        painter.fillRect(QRectF(0, 0, wide, RULER), theme.colour("panel"))
        painter.setPen(theme.colour("soft"))
        painter.setFont(font(SMALL))
        left = EDGE + NAME + self._line_wide + EDGE
        painter.drawText(QRectF(EDGE, 0, NAME, RULER), _LEFT, "plan, and what it is best at")
        painter.drawText(QRectF(left, 0, wide - left - UNPICKED, RULER), _LEFT, "bar by bar, how near to its limit")
        painter.drawText(QRectF(wide - UNPICKED, 0, UNPICKED - EDGE, RULER), _RIGHT, "unpicked")
        tempo = next((e.plan.request.phrase.tempo for e in self.entries if e.plan is not None), None)
        if line is None or tempo is None:
            return
        painter.drawText(QRectF(line.left, 0, line.right - line.left, RULER / 2), _LEFT, "ceiling, an estimate")
        x = line.x(tempo)
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(SMALL, "strong"))
        painter.drawText(QRectF(x - 106, RULER / 2, 92, RULER / 2), _RIGHT, f"asked {tempo:g}")
        paint_flag(painter, theme, x, RULER / 2 + 2, RULER, False)

    def _row(self, painter: QPainter, number: int, rect: QRectF, line: Line | None) -> None:
        theme, entry = self.theme, self.entries[number]
        chosen = number == self.current
        if chosen:
            painter.fillRect(rect, theme.colour("band"))
            painter.fillRect(QRectF(rect.left(), rect.top(), 4, rect.height()), theme.colour("focus"))
        painter.setPen(theme.colour("faint_line"))
        painter.drawLine(rect.bottomLeft(), rect.bottomRight())
        name = QRectF(EDGE, rect.top() + 4, NAME - 8, self.tall / 2 - 2)
        painter.setPen(theme.colour("ink" if entry.plan is not None else "soft"))
        painter.setFont(font(BODY, "heavy" if chosen else "strong"))
        label = painter.fontMetrics().elidedText(entry.label, Qt.TextElideMode.ElideRight, int(name.width()))
        word = self.words[number] if entry.plan is not None else ""
        painter.drawText(name if word else name.translated(0, self.tall / 4 - 2), _LEFT, label)
        painter.setFont(font(BODY))
        painter.setPen(theme.colour("soft"))
        if entry.plan is None:
            painter.drawText(
                QRectF(EDGE + NAME, rect.top(), rect.width() - NAME - 2 * EDGE, self.tall), _LEFT, entry.refused
            )
            return
        painter.drawText(name.translated(0, self.tall / 2 - 4), _LEFT, word)
        if line is not None:
            self._ceiling(painter, number, entry.plan, rect.top(), line)
        for bar in range(len(self.bars[number])):
            self._bar(painter, number, bar, chosen)
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(BODY))
        unpicked = QRectF(rect.right() - UNPICKED, rect.top(), UNPICKED - EDGE, self.tall)
        painter.drawText(unpicked, _RIGHT, f"{entry.plan.totals.legato}")

    def _ceiling(self, painter: QPainter, number: int, plan: Plan, top: float, line: Line) -> None:
        theme, shown = self.theme, ceiling_of(plan)
        number_box = QRectF(line.right, top, _NUMBER, self.tall)
        painter.setFont(font(HEAD, "heavy"))
        if shown is None:
            painter.setPen(theme.colour("ink"))
            painter.drawText(number_box, _RIGHT, "none")
            return
        x = line.x(shown.tempo)
        painter.setPen(QPen(theme.colour("line"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, top), QPointF(x, top + self.tall))
        paint_ceiling(painter, theme, line, top + self.tall / 2, shown)
        painter.setFont(font(HEAD, "heavy"))
        painter.setPen(theme.colour("ink" if shown.fits else "hurt"))
        painter.drawText(number_box, _RIGHT, f"{shown.at:.0f}")
        if number in self.best:
            painter.setFont(font(SMALL))
            painter.setPen(theme.colour("ink"))
            painter.drawText(QRectF(line.right - 2, top, 14, self.tall), _CENTRE, BEST)

    def _bar(self, painter: QPainter, number: int, bar: int, chosen: bool) -> None:
        theme, share, cell = self.theme, self.bars[number][bar], self.cell_rect(number, bar)
        painter.fillRect(cell, theme.colour("faint_line", 0.6))
        if share is None:
            return
        tall = min(share, HIGHEST_LOAD) / HIGHEST_LOAD * cell.height()
        full = QRectF(cell.left(), cell.bottom() - tall, cell.width(), tall)
        painter.fillRect(full, theme.colour("hurt" if share > 1 else "soft", 1.0 if share > 1 else 0.55))
        if share > 1:
            painter.fillRect(full, QBrush(theme.colour("paper"), Qt.BrushStyle.BDiagPattern))
        limit = cell.bottom() - cell.height() / HIGHEST_LOAD
        painter.setPen(QPen(theme.colour("ink"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(cell.left(), limit), QPointF(cell.right(), limit))
        if chosen and cell.width() >= _CELL:
            plan = self.entries[number].plan
            assert plan is not None
            painter.setFont(font(SMALL, "strong" if share > 1 else "normal"))
            painter.setPen(theme.colour("hurt" if share > 1 else "ink"))
            painter.drawText(
                QRectF(cell.left() - 4, cell.bottom() + 2, cell.width() + 8, 18),
                _CENTRE,
                f"{plan.request.phrase.tempo / share:.0f}",
            )

    # hands on it

    def viewportEvent(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            found = self.at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), self.told(*found) if found else "", self.viewport())
            return True
        return super().viewportEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.verticalScrollBar().setValue(self.verticalScrollBar().value() - event.angleDelta().y())
        event.accept()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = self.at(event.position()) if event is not None else None
        if found is not None:
            self.chosen.emit(found[0])

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.at(event.position()) is not None:
            self.taken.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, now = event.key(), self.order.index(self.current) if self.current in self.order else 0
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit()
        elif key in _STEPS and self.order:
            self.chosen.emit(self.order[max(0, min(len(self.order) - 1, now + _STEPS[key]))])
        else:
            super().keyPressEvent(event)


_MANY = 10_000
_STEPS: dict[int, int] = {
    key.value: step
    for key, step in (
        (Qt.Key.Key_Up, -1), (Qt.Key.Key_Down, 1), (Qt.Key.Key_Home, -_MANY), (Qt.Key.Key_End, _MANY),
        (Qt.Key.Key_PageUp, -8), (Qt.Key.Key_PageDown, 8),
    )
}  # fmt: skip

"""The ceiling bar by bar for each plan: where each plan gives first."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QAbstractItemView, QTableWidget, QTableWidgetItem, QWidget

from dromic.app.kit.theme import LIGHT, Theme
from dromic.app.weigh.candidates import Candidate
from dromic.core.reports.comparison import ceilings_by_bar

LOWEST, TOO_SLOW = "\u25bc ", "! "
"""stand before the bars that limit a plan, and before every bar whose ceiling is under the tempo asked for"""
_COLUMN_PX, _WIDE_PX, MANY_BARS = 74, 130, 8


class BarTable(QTableWidget):
    """A row for each plan, a column for each bar; `chosen` carries the number of the plan."""

    chosen = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = LIGHT
        self.setAccessibleName("ceiling by bar")
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.numbers: list[int] = []
        self.entries: list[Candidate] = []
        self.currentCellChanged.connect(self._moved)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.show_entries(self.entries)

    def show_entries(self, entries: Sequence[Candidate]) -> None:
        self.entries = list(entries)
        self.numbers = [n for n, e in enumerate(entries) if e.plan is not None]
        self.blockSignals(True)
        self.clear()
        self.setRowCount(len(self.numbers))
        first = entries[self.numbers[0]].plan if self.numbers else None
        bars = first.request.phrase.bars if first is not None else ()
        self.setColumnCount(len(bars))
        self.setHorizontalHeaderLabels([f"bar {b.number}" for b in bars])
        self.setVerticalHeaderLabels([entries[n].label for n in self.numbers])
        for row, number in enumerate(self.numbers):
            plan = entries[number].plan
            assert plan is not None
            found = ceilings_by_bar(plan)
            least = min(found.values(), default=0.0)
            for column in range(len(bars)):
                value = found.get(column)
                self.setItem(row, column, self._item(value, least, plan.request.phrase.tempo))
        for column in range(len(bars)):
            self.setColumnWidth(column, _COLUMN_PX if len(bars) > MANY_BARS else _WIDE_PX)
        self.blockSignals(False)

    def _item(self, value: float | None, least: float, tempo: float) -> QTableWidgetItem:
        slow = value is not None and value < tempo
        lowest = value is not None and value <= least * 1.001
        words = "\u2013" if value is None else f"{LOWEST if lowest else ''}{TOO_SLOW if slow else ''}{value:.0f}"
        item = QTableWidgetItem(words)
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if slow:
            item.setForeground(self.theme.colour("hurt"))
            item.setToolTip(f"Under the {tempo:.0f} asked for")
        if lowest:
            look = QFont(item.font())
            look.setBold(True)
            item.setFont(look)
        return item

    def set_current(self, number: int) -> None:
        if number in self.numbers:
            self.blockSignals(True)
            self.setCurrentCell(self.numbers.index(number), max(0, self.currentColumn()))
            self.blockSignals(False)

    def _moved(self, row: int, *_: int) -> None:
        if 0 <= row < len(self.numbers):
            self.chosen.emit(self.numbers[row])

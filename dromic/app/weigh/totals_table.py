"""The table of totals: a column for each plan, a row for each measure, the best of each row marked."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QAbstractItemView, QTableWidget, QTableWidgetItem, QWidget

from dromic.app.drawing.canvas import there
from dromic.app.kit.theme import HIGH
from dromic.app.weigh.candidates import Candidate
from dromic.core.reports.comparison import MEASURES, best_at, differing, fastest

MOST_LETTERS = 11
"""of a plan's name on one line of a column's head"""
COLUMN_PX = 84
BEST = "◆ "
"""stands before the best of a row, so that it is not told by weight alone"""
DIFFERING = "Notes played another way than"


def wrapped(label: str) -> str:
    """A plan's name for the head of a narrow column."""
    lines = [""]
    for word in label.split():
        if lines[-1] and len(lines[-1]) + len(word) >= MOST_LETTERS:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return "\n".join(lines)


class TotalsTable(QTableWidget):
    """`chosen` carries the number of the entry whose column is current; a double click or Enter takes it."""

    chosen = pyqtSignal(int)
    taken = pyqtSignal()
    sort_asked = pyqtSignal(str)
    """the name of a measure"""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("totals of the plans")
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectColumns)
        self.setAlternatingRowColors(True)
        self.numbers: list[int] = []
        """the entry of each column"""
        side = self.verticalHeader()
        if side is not None:
            side.setDefaultSectionSize(HIGH)
            side.setSectionsClickable(True)
            side.sectionClicked.connect(self._ask_sort)
        self.currentCellChanged.connect(
            lambda row, column, *_: self.chosen.emit(self.numbers[column]) if 0 <= column < len(self.numbers) else None
        )
        self.itemActivated.connect(lambda _: self.taken.emit())

    def _ask_sort(self, row: int) -> None:
        if row < len(MEASURES) and MEASURES[row].words is None:
            self.sort_asked.emit(MEASURES[row].name)

    def show_entries(
        self, every: Sequence[Candidate], reference: int | None = None, order: Sequence[int] | None = None
    ) -> None:
        """A column for each entry, in the order of their numbers or another; what is played otherwise is counted against the
        reference, else against the fastest."""
        self.numbers = list(range(len(every)) if order is None else order)
        reference = self.numbers.index(reference) if reference in self.numbers else None
        entries = [every[n] for n in self.numbers]
        plans = [e.plan for e in entries]
        self.blockSignals(True)
        self.setColumnCount(len(entries))
        self.setRowCount(len(MEASURES) + 1)
        self.setHorizontalHeaderLabels([wrapped(e.label) for e in entries])
        top = fastest(plans) if reference is None else reference
        other = entries[top].label if top is not None else "fastest"
        self.setVerticalHeaderLabels([*(m.label for m in MEASURES), f"{DIFFERING} {other}"])
        for r, measure in enumerate(MEASURES):
            best = best_at(measure, plans)
            for c, plan in enumerate(plans):
                text = "–" if plan is None else measure.text(plan)
                self._put(r, c, (BEST if c in best else "") + text, c in best, entries[c].refused)
        against = plans[top] if top is not None else None
        for c, plan in enumerate(plans):
            count = "–" if plan is None or against is None else str(len(differing(plan, against)))
            self._put(len(MEASURES), c, count, False, entries[c].refused)
        room = (
            there(self.viewport()).width()
            if (side := self.verticalHeader()) is None
            else self.width() - side.sizeHint().width()
        )
        for c in range(len(entries)):
            self.setColumnWidth(c, max(COLUMN_PX, room // max(1, len(entries))))
        self.blockSignals(False)

    def _put(self, row: int, column: int, text: str, best: bool, refused: str) -> None:
        item = QTableWidgetItem(text)
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if best:
            look = QFont(item.font())
            look.setBold(True)
            item.setFont(look)
        if refused:
            item.setToolTip(refused)
        self.setItem(row, column, item)

    def set_current(self, number: int) -> None:
        column = self.numbers.index(number) if number in self.numbers else -1
        if column >= 0 and column != self.currentColumn():
            self.blockSignals(True)
            self.setCurrentCell(max(0, self.currentRow()), column)
            self.blockSignals(False)

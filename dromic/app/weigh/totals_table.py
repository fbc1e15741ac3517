"""The table of totals: a column for each plan, a row for each measure, the best of each row marked."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QAbstractItemView, QTableWidget, QTableWidgetItem, QWidget

from dromic.app.kit.canvas import there
from dromic.app.weigh.candidates import Candidate
from dromic.core.reports.comparison import MEASURES, best_at, differing, fastest

MOST_LETTERS = 11
"""of a plan's name on one line of a column's head"""
ROW_PX, COLUMN_PX = 26, 92
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

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("totals of the plans")
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectColumns)
        self.setAlternatingRowColors(True)
        side = self.verticalHeader()
        if side is not None:
            side.setDefaultSectionSize(ROW_PX)
        self.currentCellChanged.connect(lambda row, column, *_: self.chosen.emit(column) if column >= 0 else None)
        self.itemActivated.connect(lambda _: self.taken.emit())

    def show_entries(self, entries: Sequence[Candidate], reference: int | None = None) -> None:
        """A column for each entry; what is played otherwise is counted against the reference, else against the fastest."""
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
        if 0 <= number < self.columnCount() and number != self.currentColumn():
            self.blockSignals(True)
            self.setCurrentCell(max(0, self.currentRow()), number)
            self.blockSignals(False)

"""The first page of Weigh: the plans as a picture, in the order asked for; by both hands' work; or as a table."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from dromic.app.kit.theme import LIGHT, Theme
from dromic.app.weigh.candidates import Candidate
from dromic.app.weigh.totals_table import BEST, TotalsTable
from dromic.app.weigh.ways_view import WaysView
from dromic.core.reports.comparison import NUMBERED, equally_fast
from dromic.core.reports.standing import ranked

if TYPE_CHECKING:
    from dromic.app.weigh.frontier_plot import FrontierPlot

ROWS, WORK, TABLE = "rows", "work", "table"
ARRANGEMENTS = (
    (ROWS, "&Rows", f"{BEST.strip()} the fastest; band: range; ring: kept up for half a minute; hatched: does not fit. Point for the "
     "numbers, Enter takes a plan"),
    (WORK, "&Both hands' work", "further left and further down is less work; click a point to choose it"),
    (TABLE, "&Table", f"{BEST.strip()} the best of its row; click the name of a row to sort by it"),
)  # fmt: skip
"""name, label, and what its marks mean"""


class WaysPage(QWidget):
    """`chosen` carries the number of the plan that is current, `taken` says that it is wanted on Plan."""

    chosen = pyqtSignal(int)
    taken = pyqtSignal()
    arranged = pyqtSignal(str)
    """another arrangement is looked at"""
    balanced = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = LIGHT
        self.entries: list[Candidate] = []
        self.current, self.reference = -1, -1
        self._stale: set[str] = set()
        """arrangements that do not show the latest entries yet"""
        self.rows, self.table, self.frontier_page = WaysView(), TotalsTable(), QWidget()
        self.frontier: FrontierPlot | None = None
        """made when it is first looked at: plots load slowly"""
        self.sort, self.stack, self.buttons = QComboBox(), QStackedWidget(), QButtonGroup(self)
        self._build()

    def _build(self) -> None:
        self.sort.setAccessibleName("sorted by")
        for name, measure in NUMBERED.items():
            self.sort.addItem(measure.label, name)
        label = QLabel("S&orted by")
        label.setBuddy(self.sort)
        top = QHBoxLayout()
        top.setContentsMargins(12, 4, 12, 4)
        top.setSpacing(8)
        top.addWidget(label)
        top.addWidget(self.sort)
        top.addStretch(1)
        for n, (name, words, _) in enumerate(ARRANGEMENTS):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setChecked(n == 0)
            button.setAccessibleName(f"shown as {name}")
            self.buttons.addButton(button, n)
            top.addWidget(button)
        self.buttons.setExclusive(True)
        QVBoxLayout(self.frontier_page).setContentsMargins(0, 0, 0, 0)
        for page in (self.rows, self.frontier_page, self.table):
            self.stack.addWidget(page)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(top)
        column.addWidget(self.stack, 1)
        self.stack.setContentsMargins(4, 4, 4, 4)  # where the ring of the focus is seen
        for view in (self.rows, self.table):
            view.chosen.connect(self.chosen)
            view.taken.connect(self.taken)
        self.table.sort_asked.connect(self._sort_by)
        self.sort.currentIndexChanged.connect(lambda _: self._sorted_anew())
        self.buttons.idClicked.connect(lambda n: self.arrange(ARRANGEMENTS[n][0]))
        self.setFocusProxy(self.rows)

    @property
    def arrangement(self) -> str:
        """What is looked at."""
        return ARRANGEMENTS[self.stack.currentIndex()][0]

    @property
    def legend(self) -> str:
        """What the marks of it mean."""
        return ARRANGEMENTS[self.stack.currentIndex()][2]

    def arrange(self, name: str) -> None:
        """Look at another arrangement, the keyboard on it."""
        at = [one[0] for one in ARRANGEMENTS].index(name)
        button = self.buttons.button(at)
        if button is not None:
            button.setChecked(True)
        self.stack.setCurrentIndex(at)
        self._fill()
        page = self.stack.currentWidget()
        self.setFocusProxy(page)
        if page is not None:
            page.setFocus()
        self.arranged.emit(name)

    def show_entries(self, entries: Sequence[Candidate], reference: int | None) -> None:
        """Other entries, or another one to hold them against."""
        self.entries, self.reference = list(entries), -1 if reference is None else reference
        self._stale = {ROWS, WORK, TABLE}
        self._fill()

    def set_current(self, number: int) -> None:
        """Another plan is the current one."""
        self.current = number
        for name, view in ((ROWS, self.rows), (TABLE, self.table), (WORK, self.frontier)):
            if view is not None and name not in self._stale:
                view.set_current(number)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.rows.set_theme(theme)
        if self.frontier is not None:
            self.frontier.set_theme(theme)

    @property
    def order(self) -> list[int]:
        """Numbers of the entries, the best at what they are sorted by first."""
        return ranked(NUMBERED[self.sort.currentData()], [e.plan for e in self.entries])

    def _sorted_anew(self) -> None:
        self._stale |= {ROWS, TABLE}
        self._fill()

    def _sort_by(self, name: str) -> None:
        self.sort.setCurrentIndex(max(0, self.sort.findData(name)))

    def _fill(self) -> None:
        """Show the entries in the arrangement that is looked at; the others wait, so that none is held up."""
        name = self.arrangement
        if name not in self._stale:
            return
        self._stale.discard(name)
        if name == ROWS:
            self.rows.show_entries(self.entries, self.order, equally_fast([e.plan for e in self.entries]))
            self.rows.set_current(self.current)
        elif name == TABLE:
            self.table.show_entries(self.entries, self.reference if self.reference >= 0 else None, self.order)
            self.table.set_current(self.current)
        else:
            self.plot().show_entries(self.entries)
            self.plot().set_current(self.current)

    def plot(self) -> FrontierPlot:
        """The plot of both hands' work, made when it is first asked for."""
        if self.frontier is None:
            from dromic.app.weigh.frontier_plot import FrontierPlot

            plot = FrontierPlot()
            plot.set_theme(self.theme)
            plot.chosen.connect(self.chosen)
            plot.balanced.connect(self.balanced)
            layout = self.frontier_page.layout()
            assert layout is not None
            layout.addWidget(plot)
            self.frontier_page.setFocusProxy(plot)
            self.frontier = plot
        return self.frontier

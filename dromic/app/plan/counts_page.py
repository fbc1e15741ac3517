"""What is counted in a plan, and the lists of its places to be gone through one by one."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QListWidget, QListWidgetItem, QStackedWidget, QVBoxLayout, QWidget

from dromic.app.kit.theme import Theme
from dromic.app.plan.counts_list import CountsList
from dromic.core.plan.plan import Plan

_COUNTED = "Counted"


class CountsPage(QWidget):
    """A choice over two pages: the counts, and the list chosen; a place of it is asked for when it is gone to."""

    asked = pyqtSignal(int)
    """an event to go to"""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.what, self.list, self.places, self.pages = QComboBox(), CountsList(), QListWidget(), QStackedWidget()
        self.plan: Plan | None = None
        self.what.setAccessibleName("what is listed")
        self.places.setAccessibleName("places of this list")
        self.places.setWordWrap(True)
        for page in (self.list, self.places):
            self.pages.addWidget(page)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 4, 0, 0)
        whole.addWidget(self.what)
        whole.addWidget(self.pages, 1)
        self.what.addItem(_COUNTED, "")
        self.what.currentIndexChanged.connect(lambda _: self._fill())
        self.places.currentRowChanged.connect(lambda _: self._go())
        self.setFocusProxy(self.what)

    def set_theme(self, theme: Theme) -> None:
        self.list.set_theme(theme)

    def show_plan(self, plan: Plan | None) -> None:
        """The counts of a plan, and the list that was chosen."""
        self.list.show_plan(plan)
        if plan is self.plan:
            return
        self.plan = plan
        if plan is not None and self.what.count() == 1:
            from dromic.core.reports.places.lists import LISTS

            for one in LISTS:
                self.what.addItem(one.title, one.name)
                self.what.setItemData(
                    self.what.count() - 1, one.why[:1].upper() + one.why[1:], Qt.ItemDataRole.ToolTipRole
                )
        self._fill()

    def _fill(self) -> None:
        name = self.what.currentData()
        self.pages.setCurrentWidget(self.places if name else self.list)
        self.places.blockSignals(True)
        self.places.clear()
        if name and self.plan is not None:
            from dromic.core.reports.places.lists import places_of

            for place in places_of(self.plan, name):
                item = QListWidgetItem(f"Bar {place.bar}, note {place.note}: {place.words}")
                item.setData(Qt.ItemDataRole.UserRole, place.event)
                self.places.addItem(item)
            if not self.places.count():
                self.places.addItem("None here.")
        self.places.blockSignals(False)

    def _go(self) -> None:
        item = self.places.currentItem()
        event = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if isinstance(event, int):
            self.asked.emit(event)

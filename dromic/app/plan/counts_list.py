"""The list of what is counted in the plan shown, in groups for the picking hand, the fretting hand and both."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from dromic.core.plan.plan import Plan


class CountsList(QListWidget):
    """Counted when it is looked at."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("what is counted in this plan")
        self.setWordWrap(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSpacing(2)
        self.plan: Plan | None = None

    def show_plan(self, plan: Plan | None) -> None:
        if plan is self.plan:
            return
        from dromic.core.reports.statistics_rows import counts

        self.plan = plan
        self.clear()
        for group in counts(plan) if plan is not None else ():
            title = QListWidgetItem(group.title)
            title.setFlags(Qt.ItemFlag.ItemIsEnabled)
            look = QFont(self.font())
            look.setBold(True)
            title.setFont(look)
            self.addItem(title)
            for row in group.rows:
                item = QListWidgetItem(f"{row.label}: {row.words}")
                item.setToolTip(row.why)
                self.addItem(item)

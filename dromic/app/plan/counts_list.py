"""The list of what is counted in the plan shown, in groups for the picking hand, the fretting hand and both."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from dromic.app.kit.theme import LIGHT, Theme
from dromic.core.plan.plan import Plan

if TYPE_CHECKING:
    from dromic.app.plan.counts_picture import CountsPicture


class CountsList(QListWidget):
    """Counted when it is looked at."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("what is counted in this plan")
        self.setWordWrap(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSpacing(2)
        self.setVerticalScrollMode(self.ScrollMode.ScrollPerPixel)
        self.plan: Plan | None = None
        self.picture: CountsPicture | None = None
        self.theme = LIGHT

    def show_plan(self, plan: Plan | None) -> None:
        if plan is self.plan:
            return
        from dromic.core.reports.counts.count_rows import counts

        self.plan = plan
        self.clear()
        self.picture = None
        if plan is not None:
            self._add_picture(plan)
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

    def _add_picture(self, plan: Plan) -> None:
        """The pictures over the words, scrolled with them."""
        from dromic.app.plan.counts_picture import CountsPicture

        picture = CountsPicture()
        picture.set_theme(self.theme)
        picture.show_plan(plan)
        item = QListWidgetItem()
        item.setFlags(Qt.ItemFlag.ItemIsEnabled)
        item.setSizeHint(picture.sizeHint())
        item.setToolTip(picture.told())
        self.addItem(item)
        self.setItemWidget(item, picture)
        self.picture = picture

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        if self.picture is not None:
            self.picture.set_theme(theme)

"""What leaves the window: other kinds of file, the printed sheet, and the picture of what was saved that the next start shows."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QWidget

from dromic.app.frame.pages import Pages
from dromic.core.music.songbook import Entry
from dromic.store.roster import Roster

if TYPE_CHECKING:
    from dromic.app.book.export import Exporter
    from dromic.core.drills.drill import Drill


class Papers:
    """The exporter is made when it is first wanted."""

    def __init__(self, pages: Pages, roster: Roster, window: QWidget, folder: Path) -> None:
        self._pages, self._planning, self._roster = pages, pages.planning, roster
        self._window, self.glances_folder = window, folder
        self.exporter: Exporter | None = None

    def _ready(self) -> Exporter:
        if self.exporter is None:
            from dromic.app.book.export import Exporter

            self.exporter = Exporter(self._window, self._roster)
            self.exporter.noticed.connect(self._pages.notice.say)
        self._pages.leave_write()
        return self.exporter

    def export(self) -> None:
        """Write the phrase as another kind of file."""
        self._ready().ask(self._planning.open_book.entry, self._planning.open_book.choices)

    def print_sheet(self) -> None:
        """The sheet of the phrase, seen before it is printed."""
        self._ready().preview(self._planning.open_book.entry, self._planning.open_book.choices)

    def export_drill(self, drill: Drill) -> None:
        """Write a drill as another kind of file, a sound with its click."""
        self._ready().ask(Entry(drill.phrase), self._planning.open_book.choices, click=True)

    def keep_glance(self, path: Path) -> None:
        """What was saved, as the next start shows it; the plan on screen serves, and none is made for it."""
        planning = self._planning
        if planning.plan is not None and planning.up_to_date and planning.passage is None:
            from dromic.core.reports.glance import glance_of
            from dromic.store.glances import Glances

            Glances(self.glances_folder).keep(path, glance_of(planning.plan))

    def close(self) -> None:
        if self.exporter is not None:
            self.exporter.close()

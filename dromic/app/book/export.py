"""Writing a phrase as another kind of file, and printing its sheet; both off the interface thread."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PyQt6.QtWidgets import QFileDialog, QWidget

from dromic import presets
from dromic.app.kit.worker import Worker
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import Entry
from dromic.core.plan.plan import Plan
from dromic.core.plan.write_back import POSITIONS, phrase_with_plan
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.meant_pins import solve_meant
from dromic.core.setup.choices import Choices
from dromic.core.setup.player import Player
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.formats.sheet.sheet import PAGE_W, Page, sheet
from dromic.formats.sheet.sheet_paint import a4, paint_page
from dromic.formats.table import FORMATS, NOTHING, PLAN, Format, Work, writer_of
from dromic.plan_requests import request_for
from dromic.store.roster import Roster
from dromic.store.saving import save

Players = Mapping[str, Player]
Then = Callable[[object], None]


def work_for(entry: Entry, choices: Choices, players: Players, kind: Format, progress: Progress) -> Work:
    """What is written, planned as far as the kind needs it; DromicError where there is no plan."""
    phrase = entry.phrase
    instrument = phrase.instrument or presets.usual_instrument()
    bare = any(n.string is None or n.fret is None for e in phrase.events for n in e.notes)
    if kind.needs == NOTHING or (kind.needs != PLAN and not bare):
        return Work(phrase, instrument, entry=entry)
    plan = advised(phrase, choices, players, progress)
    if kind.needs == PLAN:
        return Work(plan.request.phrase, plan.request.instrument, plan, entry)
    return Work(phrase_with_plan(phrase, plan, frozenset({POSITIONS})), instrument, entry=entry)


def advised(phrase: Phrase, choices: Choices, players: Players, progress: Progress) -> Plan:
    """The plan with its remedies, as a sheet shows them."""
    solved = solve_meant(request_for(phrase, choices, players), progress)
    return with_remedies(solved, presets.other_leans(), progress, presets.carrying_schools())


class Exporter(QObject):
    """Asks where to, then works on its own thread; says what could not be carried over."""

    noticed = pyqtSignal(str, bool)
    written = pyqtSignal(str)

    def __init__(self, window: QWidget, roster: Roster) -> None:
        super().__init__(window)
        self.window, self.roster = window, roster
        self.worker = Worker(self)
        self.worker.answered.connect(self._answered)
        self.worker.refused.connect(lambda sentence: self.noticed.emit(sentence, False))
        self._then: Then = lambda answer: None

    def _answered(self, answer: object) -> None:
        self._then(answer)

    def ask(self, entry: Entry, choices: Choices, click: bool = False) -> None:
        """Ask where to and as what; a sound with a click where one is asked for."""
        kinds = [f"{f.label} ({' '.join('*' + e for e in f.extensions)})" for f in FORMATS if f.write]
        name, chosen = QFileDialog.getSaveFileName(
            self.window, "Export this phrase", entry.phrase.title, ";;".join(kinds)
        )
        if not name:
            return
        path = Path(name)
        if not path.suffix:
            path = path.with_name(path.name + next(f for f in FORMATS if chosen.startswith(f.label)).extensions[0])
        self.write(entry, choices, path, click)

    def write(self, entry: Entry, choices: Choices, path: Path, click: bool = False) -> None:
        """Write the phrase to a file of any kind."""
        try:
            kind = writer_of(path)
        except DromicError as error:
            self.noticed.emit(str(error), False)
            return

        players = self.roster.players

        def job(progress: Progress) -> str:
            assert kind.write is not None
            work = replace(work_for(entry, choices, players, kind, progress), click=click)
            save(path, kind.write(work))
            lost = kind.left_out(work)
            return f"Exported {path.name}" + (f"; not carried over: {'; '.join(lost)}" if lost else "")

        def done(answer: object) -> None:
            self.noticed.emit(str(answer), True)
            self.written.emit(str(path))

        self._then = done
        self.worker.start(job)

    def preview(self, entry: Entry, choices: Choices) -> None:
        """Show the sheet as it will be printed."""

        players = self.roster.players

        def job(progress: Progress) -> tuple[Page, ...]:
            return sheet(advised(entry.phrase, choices, players, progress), entry.decision)

        self._then = self._show
        self.worker.start(job)

    def _show(self, answer: object) -> None:
        assert isinstance(answer, tuple)
        pages = answer
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setPageLayout(a4())
        printer.setFullPage(True)
        dialog = QPrintPreviewDialog(printer, self.window)
        dialog.setWindowTitle("The sheet")
        dialog.resize(980, 760)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.paintRequested.connect(lambda to: draw_pages(to, pages))
        self.printer, self.dialog = printer, dialog  # the dialog draws on it as long as it is open
        dialog.open()

    def close(self) -> None:
        self.worker.close()


def draw_pages(printer: QPrinter, pages: tuple[Page, ...]) -> None:
    """All pages on a printer, as large as its paper lets them be."""
    painter = QPainter(printer)
    per_mm = printer.pageRect(QPrinter.Unit.DevicePixel).width() / PAGE_W
    for n, page in enumerate(pages):
        if n:
            printer.newPage()
        paint_page(painter, page, per_mm)
    painter.end()

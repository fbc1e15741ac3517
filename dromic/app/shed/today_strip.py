"""The strip over today's work: begin, how long, towards which tempo and day, how sore; the rest behind three buttons."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QTextDocument
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QMenu, QPushButton, QSpinBox, QWidget

from dromic.app.kit.theme import FAMILY
from dromic.app.session.practising import Practising
from dromic.app.shed.day_sheet import ResultsDialog, sheet_html
from dromic.app.shed.log_menu import LogMenu
from dromic.app.shed.practice_dialog import PracticeDialog
from dromic.core.practice.log_pass import SORENESS
from dromic.core.practice.log_summary import Goal

MOST_READY = 365
"""Days in which a phrase is to be ready, at most."""
SHEET_PT = 11
"""Type of the printed sheet, pt."""
_SLOWEST = 10
"""Slowest target, a minute."""
_FASTEST = 1000
"""Fastest target, a minute."""


class TodayStrip(QWidget):
    """Every choice goes to the model at once."""

    begin_asked = pyqtSignal()

    def __init__(self, practising: Practising, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.practising = practising
        self.begin, self.minutes, self.target = QPushButton("Begin the session"), QSpinBox(), QSpinBox()
        self.ready, self.sore = QSpinBox(), QComboBox()
        self.how, self.paper, self.log = QPushButton("How I practise…"), QPushButton("Sheet"), QPushButton("Log")
        self.log_menu = LogMenu(practising.keeper, self)
        self._build()
        self.begin.clicked.connect(self.begin_asked)
        self.minutes.valueChanged.connect(lambda n: practising.wish(minutes=float(n)))
        self.sore.currentIndexChanged.connect(lambda n: practising.wish(soreness=n))
        self.ready.valueChanged.connect(practising.ready_by)
        self.target.editingFinished.connect(self._aim)
        self.how.clicked.connect(self.ask_how)
        self.log_menu.noticed.connect(practising.noticed)
        self.log_menu.changed.connect(practising.refresh)

    def _build(self) -> None:
        self.minutes.setRange(5, 240)
        self.minutes.setSingleStep(5)
        self.minutes.setValue(round(self.practising.wishes.minutes))
        self.minutes.setSuffix(" min today")
        self.minutes.setAccessibleName("minutes today")
        self.target.setRange(_SLOWEST, _FASTEST)
        self.target.setPrefix("Towards ")
        self.target.setAccessibleName("target tempo in quarters a minute")
        self.target.setToolTip("The tempo worked towards, in quarters a minute; kept with the phrase in the log")
        self.ready.setRange(0, MOST_READY)
        self.ready.setSpecialValueText("No date")
        self.ready.setPrefix("Ready in ")
        self.ready.setSuffix(" days")
        self.ready.setAccessibleName("ready in days")
        for n, words in enumerate(SORENESS):
            self.sore.addItem(f"Soreness: {words}", n)
        self.sore.setAccessibleName("soreness")
        self.begin.setToolTip("Runs by itself: keep both hands on the instrument (Ctrl+Return)")
        self.begin.setShortcut("Ctrl+Return")
        self.how.setToolTip("Which hand first, which school of tempo, breaks, which drills")
        paper = QMenu(self)
        for words, act in (("Print today's sheet…", self.print_sheet), ("Enter results…", self.ask_results)):
            entry = paper.addAction(words)
            assert entry is not None
            entry.triggered.connect(act)
        for button in (self.paper, self.log):
            button.setObjectName("menu")
        self.paper.setMenu(paper)
        self.paper.setToolTip("Today's drills on paper, with strokes, tempos and boxes to tick")
        self.log.setMenu(self.log_menu.menu)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        for part in (self.begin, self.minutes, self.target, self.ready, self.sore, self.how, self.paper, self.log):
            row.addWidget(part)
        row.addStretch(1)

    def show_wishes(self) -> None:
        """The strip follows what is wished, and the goal of the phrase."""
        work = self.practising.work
        blocked = [QSignalBlocker(part) for part in (self.minutes, self.target, self.ready, self.sore)]
        self.minutes.setValue(round(self.practising.wishes.minutes))
        self.sore.setCurrentIndex(self.practising.wishes.soreness)
        self.target.setValue(round(work.target) if work is not None else _SLOWEST)
        self.ready.setValue(self.practising.ready_in())
        for part in (self.begin, self.target, self.ready, self.paper):
            part.setEnabled(work is not None)
        del blocked

    def _aim(self) -> None:
        work = self.practising.work
        if work is None or self.target.value() == round(work.target):
            return
        own = work.plan.request.phrase.tempo
        target = None if self.target.value() == round(own) else float(self.target.value())
        self.practising.set_goal(Goal(target, work.history.goal.ready))

    def ask_how(self) -> None:
        """Ask how the player practises."""
        self.dialog = dialog = PracticeDialog(self.practising.wishes, self)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.accepted.connect(lambda: self.practising.wish_for(dialog.wishes()))
        dialog.open()

    def print_sheet(self) -> None:
        """Today's sheet, seen before it is printed."""
        from PyQt6.QtPrintSupport import QPrinter, QPrintPreviewDialog

        work = self.practising.work
        if work is None:
            return
        document = QTextDocument()
        document.setDefaultFont(QFont(FAMILY, SHEET_PT))
        document.setHtml(sheet_html(work, f"{self.practising.now():%d.%m.%Y}"))
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        layout = document.documentLayout()
        if layout is not None:
            layout.setPaintDevice(printer)
        dialog = QPrintPreviewDialog(printer, self)
        dialog.setWindowTitle("Today's sheet")
        dialog.resize(980, 760)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.paintRequested.connect(document.print)
        self.preview = dialog, printer, document  # the dialog draws with them as long as it is open
        dialog.open()

    def ask_results(self) -> None:
        """What was played from the sheet, taken into the log."""
        if self.practising.work is None:
            return
        self.entering = dialog = ResultsDialog(self.practising.work, self.practising.of, self)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.accepted.connect(lambda: self.practising.keep(dialog.passes(self.practising.now())))
        dialog.open()

    def stop(self) -> None:
        """The window closes."""
        self.log_menu.stop()

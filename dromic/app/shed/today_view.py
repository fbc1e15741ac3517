"""Today on Shed: the skyline of the phrase, the sitting as a list, the drill chosen, and what the player asks of it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QSpinBox,
    QTabWidget,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dromic.app.kit.theme import FAMILY, LIGHT, Theme
from dromic.app.shed.day_sheet import ResultsDialog, sheet_html
from dromic.app.shed.days_view import DaysView
from dromic.app.shed.figure_view import FigureView
from dromic.app.shed.learned_view import LearnedView
from dromic.app.shed.practising import MINUTES, Practising
from dromic.app.shed.skyline import SkylineView
from dromic.app.shed.words import HANDS, slot_name
from dromic.core.learning.history import days_of, ready_words
from dromic.core.practice.drill import FRETTING, PICKING, Drill
from dromic.core.practice.drill_kinds import AS_WRITTEN, words_of
from dromic.core.practice.ladder import FAST, SCAN, SLOW
from dromic.core.practice.log_pass import SORENESS, Pass
from dromic.core.practice.log_summary import next_words, record_of
from dromic.core.practice.sitting import STOP, Slot
from dromic.core.practice.skyline import skyline
from dromic.core.values.errors import DromicError

_LIST_PX, MOST_READY, SHEET_PT, MOST_NAMED = 470, 365, 11, 3
_FIGURE_PX = 190


class TodayView(QWidget):
    """Shows today's work of its model; every drill there is can be looked at, those of the sitting stand first."""

    begin_asked = pyqtSignal(object)
    """the number of a drill to run alone, None for the whole sitting"""
    drill_opened = pyqtSignal(object)
    """a drill to be taken to Plan as a phrase of its own"""

    def __init__(self, practising: Practising, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.practising = practising
        self.theme = LIGHT
        self.skyline, self.figure, self.days = SkylineView(), FigureView(), DaysView()
        self.hands, self.pictures = LearnedView(practising), QTabWidget()
        self.head, self.reason, self.next, self.care = QLabel(), QLabel(), QLabel(), QLabel(STOP)
        self.list = QTreeWidget()
        self.minutes, self.hand, self.ladder, self.sore = QSpinBox(), QComboBox(), QComboBox(), QComboBox()
        self.begin, self.ready = QPushButton("Begin the sitting"), QSpinBox()
        self.sheet, self.results = QPushButton("Print…"), QPushButton("Enter results…")
        self.alone, self.open = QPushButton("This drill alone"), QPushButton("Open it in Plan")
        self._rows: list[tuple[Slot, int | None, QTreeWidgetItem]] = []
        self._build()
        practising.worked.connect(self.show_work)
        self.list.currentItemChanged.connect(lambda *_: self._show_row())
        self.list.itemActivated.connect(lambda *_: self._run_row())
        self.skyline.picked.connect(self._to_event)
        self.begin.clicked.connect(lambda: self.begin_asked.emit(None))
        self.alone.clicked.connect(self._run_row)
        self.open.clicked.connect(self._open_row)
        self.minutes.valueChanged.connect(lambda n: practising.wish(minutes=float(n)))
        self.hand.currentIndexChanged.connect(lambda _: practising.wish(first_hand=self.hand.currentData()))
        self.ladder.currentIndexChanged.connect(lambda _: practising.wish(ladder=self.ladder.currentData()))
        self.sore.currentIndexChanged.connect(lambda n: practising.wish(soreness=n))
        self.ready.valueChanged.connect(lambda _: self.show_work())
        self.sheet.clicked.connect(self.print_sheet)
        self.results.clicked.connect(self.ask_results)

    def _build(self) -> None:
        self.minutes.setRange(5, 240)
        self.minutes.setSingleStep(5)
        self.minutes.setValue(MINUTES)
        self.minutes.setSuffix(" min today")
        self.minutes.setAccessibleName("minutes today")
        for words, value in (("Fretting hand first", FRETTING), ("Picking hand first", PICKING)):
            self.hand.addItem(words, value)
        for words, value in (
            ("Slow until clean", SLOW),
            ("Fast often, once warm", FAST),
            ("Scan for what breaks", SCAN),
        ):
            self.ladder.addItem(words, value)
        for n, words in enumerate(SORENESS):
            self.sore.addItem(f"Soreness: {words}", n)
        for widget, name in (
            (self.hand, "which hand first"),
            (self.ladder, "school of tempo"),
            (self.sore, "soreness"),
        ):
            widget.setAccessibleName(name)
        self.list.setAccessibleName("today's sitting, and the drills left out of it")
        self.list.setFixedWidth(_LIST_PX)
        self.list.setColumnCount(4)
        self.list.setHeaderLabels(["Minutes", "What", "Hand", "From"])
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        header = self.list.header()
        assert header is not None
        header.setStretchLastSection(False)
        for column in range(4):
            mode = QHeaderView.ResizeMode.Stretch if column == 1 else QHeaderView.ResizeMode.ResizeToContents
            header.setSectionResizeMode(column, mode)
        self.head.setObjectName("section")
        self.care.setObjectName("soft")
        for label in (self.reason, self.next, self.care):
            label.setWordWrap(True)
        self.begin.setToolTip("Runs by itself: keep both hands on the instrument (Ctrl+Return)")
        self.begin.setShortcut("Ctrl+Return")
        self.figure.setMinimumHeight(_FIGURE_PX)
        top = QHBoxLayout()
        self.ready.setRange(0, MOST_READY)
        self.ready.setSpecialValueText("No date")
        self.ready.setPrefix("Ready in ")
        self.ready.setSuffix(" days")
        self.ready.setAccessibleName("ready in days")
        self.sheet.setToolTip("Today's drills on paper, with strokes, tempos and boxes to tick")
        row_of: tuple[QWidget, ...] = (
            self.begin, self.minutes, self.hand, self.ladder, self.sore, self.ready, self.sheet, self.results,
        )  # fmt: skip
        for part in row_of:
            top.addWidget(part)
        top.addStretch(1)
        right = QVBoxLayout()
        right.addWidget(self.head)
        right.addWidget(self.reason)
        right.addWidget(self.figure, 1)
        row = QHBoxLayout()
        row.addWidget(self.alone)
        row.addWidget(self.open)
        row.addStretch(1)
        right.addLayout(row)
        right.addWidget(self.care)
        below = QHBoxLayout()
        below.addWidget(self.list)
        below.addLayout(right, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(10, 4, 10, 4)
        whole.addLayout(top)
        whole.addWidget(self.next)
        self.pictures.addTab(self.skyline, "Skyline")
        self.pictures.addTab(self.days, "Day by day")
        self.pictures.addTab(self.hands, "Your hands")
        self.pictures.setDocumentMode(True)
        whole.addWidget(self.pictures, 2)
        whole.addLayout(below, 3)
        self.setFocusProxy(self.list)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.skyline.set_theme(theme)
        self.figure.set_theme(theme)
        self.days.set_theme(theme)
        if self._rows:
            self.show_work()  # the rows have colours of their own

    def show_work(self) -> None:
        """What there is to do today."""
        work = self.practising.work
        chosen = self._row()
        with QSignalBlocker(self.list):
            self.list.clear()
            self._rows = []
            for slot in work.schedule.slots if work is not None else ():
                self._add(slot, slot.drill)
            left_out = [
                n for n in range(len(work.drills) if work is not None else 0) if work and not work.minutes_of(n)
            ]
            if left_out:
                line = QTreeWidgetItem(["", f"Not today: {len(left_out)} more", "", ""])
                line.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self.list.addTopLevelItem(line)
            for number in left_out:
                self._add(Slot("drill", 0.0, number), number)
        for button in (self.begin, self.alone, self.open):
            button.setEnabled(work is not None)
        if work is None:
            self.next.setText(self.practising.why_none)
            self.skyline.show_towers((), 1.0)
            self.days.show_days((), 1.0, "Nothing planned")
            self._show_row()
            return
        self._show_log()
        first = next((i for i, (_, drill, _) in enumerate(self._rows) if drill is not None), 0)
        row = chosen if 0 < chosen < len(self._rows) else first
        if self._rows:
            self.list.setCurrentItem(self._rows[row][2])
        self._show_row()

    def _row(self) -> int:
        """The number of the row chosen, -1 for none."""
        item = self.list.currentItem()
        return next((i for i, (_, _, of) in enumerate(self._rows) if of is item), -1)

    def _add(self, slot: Slot, number: int | None) -> None:
        work = self.practising.work
        assert work is not None
        drill = work.drills[number] if number is not None else None
        cells = [
            f"{slot.minutes:.0f}" if slot.minutes else "",
            slot_name(slot, drill),
            "" if drill is None else drill.hand,
            "" if number is None else f"{work.rungs[number].tempo:.0f}",
        ]
        item = QTreeWidgetItem(cells)
        for column in range(len(cells)):
            item.setForeground(column, self.theme.colour("ink" if slot.minutes and drill is not None else "soft"))
            if column in (0, 3):
                item.setTextAlignment(column, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.list.addTopLevelItem(item)
        self._rows.append((slot, number, item))

    def _show_log(self) -> None:
        work = self.practising.work
        assert work is not None
        phrase = work.plan.request.phrase.title
        try:
            record = self.practising.logbook.record(phrase)
        except DromicError as error:
            self.next.setText(str(error))
            record = record_of(phrase, ())
        else:
            ready = (
                (ready_words(work.target, days_of(_as_written(work.passes)), self.ready.value()),)
                if self.ready.value()
                else ()
            )
            said = " ".join((next_words(record, self.practising.now().date())[1], *ready, *work.schedule.said))
            self.next.setText(said)
        self.skyline.show_towers(skyline(work.plan, record.clean_by_note), work.target)
        self.hands.show_for(work.plan)

    @property
    def drill(self) -> Drill | None:
        """The drill of the row chosen."""
        work, row = self.practising.work, self._row()
        number = self._rows[row][1] if 0 <= row < len(self._rows) else None
        return work.drills[number] if work is not None and number is not None else None

    def _show_row(self) -> None:
        row, work, drill = self._row(), self.practising.work, self.drill
        self.alone.setEnabled(drill is not None)
        self.open.setEnabled(drill is not None)
        self.figure.show_phrase(drill.phrase if drill is not None else None)
        self.skyline.mark(drill.events if drill is not None else ())
        if work is None or drill is None:
            self.head.setText("")
            self.reason.setText("")
            return
        passes = [p for p in work.passes if p.drill == drill.name]
        name = slot_name(self._rows[row][0], drill)
        self.days.show_days(
            days_of(passes or work.passes), work.target, name if passes else "All drills together", _spent(work.passes)
        )
        slot, number, _ = self._rows[row]
        assert number is not None
        rung = work.rungs[number]
        self.head.setText(f"{slot_name(slot, drill)}, {HANDS[drill.hand]}: begins at {rung.tempo:.0f}")
        self.reason.setText(f"{_sentence(drill.reason)} {_sentence(rung.reason)}")

    def print_sheet(self) -> None:
        """Today's sheet, seen before it is printed."""
        from PyQt6.QtGui import QFont, QTextDocument
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
        dialog.paintRequested.connect(document.print)
        self.preview = dialog, printer, document  # the dialog draws with them as long as it is open
        dialog.open()

    def ask_results(self) -> None:
        """What was played from the sheet, taken into the log."""
        if self.practising.work is None:
            return
        self.dialog = dialog = ResultsDialog(self.practising.work, self)
        dialog.accepted.connect(lambda: self.practising.keep(dialog.passes(self.practising.now())))
        dialog.open()

    def show_measured(self, figures: object) -> None:
        """What the hands came to, beside the numbers planned with."""
        self.pictures.setCurrentWidget(self.hands)
        self.hands.show_measured(figures)

    def _to_event(self, event: int) -> None:
        """The first drill of the list that goes over an event."""
        work = self.practising.work
        for _, number, item in self._rows:
            if work is not None and number is not None and event in work.drills[number].events:
                self.list.setCurrentItem(item)
                return

    def _run_row(self) -> None:
        row = self._row()
        if 0 <= row < len(self._rows) and self._rows[row][1] is not None:
            self.begin_asked.emit(self._rows[row][1])

    def _open_row(self) -> None:
        if self.drill is not None:
            self.drill_opened.emit(self.drill)


def _spent(passes: Sequence[Pass]) -> str:
    """What most of the minutes of a phrase went to."""
    minutes: dict[str, float] = {}
    for one in passes:
        kind = one.drill.split(":")[0]
        minutes[kind] = minutes.get(kind, 0.0) + one.seconds / 60
    most = sorted(minutes.items(), key=lambda m: -m[1])[:MOST_NAMED]
    return "Most minutes: " + ", ".join(f"{words_of(kind)} {spent:.0f}" for kind, spent in most) + "." if most else ""


def _as_written(passes: Sequence[Pass]) -> list[Pass]:
    """Passes that played the notes as they are written, with both hands."""
    return [p for p in passes if p.drill.split(":")[0] in AS_WRITTEN]


def _sentence(words: str) -> str:
    return words[:1].upper() + words[1:] + "."

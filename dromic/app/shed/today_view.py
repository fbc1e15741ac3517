"""Today on Shed: the skyline of the phrase, the session as a list, the drill chosen, and what the player asks of it."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTabWidget,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dromic.app.kit.theme import LIGHT, Theme
from dromic.app.progress.days_view import DaysView
from dromic.app.progress.learned_view import LearnedView
from dromic.app.progress.skyline import SkylineView
from dromic.app.session.figure_view import FigureView
from dromic.app.session.practising import Practising
from dromic.app.session.words import HANDS, slot_name
from dromic.app.shed.today_strip import TodayStrip
from dromic.core.drills.drill import Drill
from dromic.core.drills.drill_kinds import AS_WRITTEN, BY_NAME
from dromic.core.learning.history import ready_words
from dromic.core.practice.log_summary import next_words
from dromic.core.practice.session import STOP, Slot
from dromic.core.practice.skyline import skyline
from dromic.core.practice.todays_work import Work

_LIST_PX = 470
"""Width of today's list, px."""
_FIGURE_PX = 190
"""Height of the drill's notes, px."""


class TodayView(QWidget):
    """Shows today's work of its model; every drill there is can be looked at, those of the session stand first."""

    begin_asked = pyqtSignal(object)
    """the number of a drill to run alone, None for the whole session"""
    drill_opened = pyqtSignal(object)
    """a drill to be taken to Plan as a phrase of its own"""
    drill_exported = pyqtSignal(object)
    """a drill to be written to a file"""

    def __init__(self, practising: Practising, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.practising = practising
        self.theme = LIGHT
        self.skyline, self.figure, self.days = SkylineView(), FigureView(), DaysView()
        self.hands, self.pictures = LearnedView(practising), QTabWidget()
        self.head, self.reason, self.next, self.care = QLabel(), QLabel(), QLabel(), QLabel(STOP)
        self.list, self.strip = QTreeWidget(), TodayStrip(practising)
        self.alone, self.open = QPushButton("This drill alone"), QPushButton("Open it in Plan")
        self.export = QPushButton("Export it…")
        self._rows: list[tuple[Slot, int | None, QTreeWidgetItem]] = []
        self._build()
        practising.worked.connect(self.show_work)
        self.list.currentItemChanged.connect(lambda *_: self._show_row())
        self.list.itemActivated.connect(lambda *_: self._run_row())
        self.skyline.picked.connect(self.to_event)
        self.strip.begin_asked.connect(lambda: self.begin_asked.emit(None))
        self.alone.clicked.connect(self._run_row)
        self.open.clicked.connect(lambda: self._give(self.drill_opened))
        self.export.clicked.connect(lambda: self._give(self.drill_exported))

    def _build(self) -> None:
        self.list.setAccessibleName("today's session, and the drills left out of it")
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
        self.figure.setMinimumHeight(_FIGURE_PX)
        right = QVBoxLayout()
        right.addWidget(self.head)
        right.addWidget(self.reason)
        right.addWidget(self.figure, 1)
        row = QHBoxLayout()
        row.addWidget(self.alone)
        row.addWidget(self.open)
        row.addWidget(self.export)
        row.addStretch(1)
        right.addLayout(row)
        right.addWidget(self.care)
        below = QHBoxLayout()
        below.addWidget(self.list)
        below.addLayout(right, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(10, 4, 10, 4)
        whole.addWidget(self.strip)
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
            left_out = _left_out(work) if work is not None else []
            if left_out:
                line = QTreeWidgetItem(["", f"Not today: {len(left_out)} more", "", ""])
                line.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self.list.addTopLevelItem(line)
            for number in left_out:
                self._add(Slot("drill", 0.0, number), number)
        self.strip.show_wishes()
        for button in (self.alone, self.open, self.export):
            button.setEnabled(work is not None)
        if work is None:
            self.next.setText(self.practising.why_none)
            self.skyline.show_towers((), 1.0)
            self.days.show_days((), 1.0, "Nothing planned", {})
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
        record, days = work.history.record, self.practising.ready_in()
        words = [next_words(record, self.practising.now().date())[1], *work.schedule.said]
        if self.practising.origin:
            words.insert(1, self.practising.origin)
        if days:
            as_written = work.history.days_of(lambda name: name.split(":")[0] in AS_WRITTEN)
            words.insert(1, ready_words(work.target, as_written, days))
        if record.background >= 1:
            words.append(f"{record.background:.0f} min lately were in the background, and are not counted.")
        self.next.setText(" ".join(words))
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
        self.export.setEnabled(drill is not None)
        self.figure.show_phrase(drill.phrase if drill is not None else None)
        self.skyline.mark(drill.events if drill is not None else ())
        if work is None or drill is None:
            self.head.setText("")
            self.reason.setText("")
            return
        own = work.history.days.get(drill.name, ())
        name = slot_name(self._rows[row][0], drill)
        self.days.show_days(
            own or work.history.days_of(lambda _: True), work.target, name if own else "All drills together",
            work.history.record.by_technique,
        )  # fmt: skip
        slot, number, _ = self._rows[row]
        assert number is not None
        rung = work.rungs[number]
        self.head.setText(f"{slot_name(slot, drill)}, {HANDS[drill.hand]}: begins at {rung.tempo:.0f}")
        rest = work.resting.get(drill.name)
        again = f" Clean lately: it comes round again on {rest.day}.{rest.month}." if rest is not None else ""
        self.reason.setText(f"{_sentence(drill.reason)} {_sentence(rung.reason)}{again}{_turns(work, drill)}")

    def show_measured(self, figures: object) -> None:
        """What the hands came to, beside the numbers planned with."""
        self.pictures.setCurrentWidget(self.hands)
        self.hands.show_measured(figures)

    def to_event(self, event: int) -> None:
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

    def _give(self, signal: object) -> None:
        if self.drill is not None:
            signal.emit(self.drill)  # type: ignore[attr-defined]


def _left_out(work: Work) -> list[int]:
    """Drills that are no part of today's session; of those that take turns the one whose turn it is."""
    planned = {work.drills[s.drill].kind for s in work.schedule.slots if s.drill is not None}
    clean = work.history.record.ever_clean
    seen: set[str] = set()
    found = []
    order = sorted(range(len(work.drills)), key=lambda n: work.drills[n].name in clean)  # those not clean yet first
    for n in order:
        kind = work.drills[n].kind
        if work.minutes_of(n) or (BY_NAME[kind].in_turn and kind in planned | seen):
            continue
        seen.add(kind)
        found.append(n)
    return sorted(found)


def _turns(work: Work, drill: Drill) -> str:
    """Which of the drills that take turns with this one were clean already."""
    if not BY_NAME[drill.kind].in_turn:
        return ""
    clean = work.history.record.ever_clean
    row = [d for d in work.drills if d.kind == drill.kind]
    ticked = sum(d.name in clean for d in row)
    return f" Clean so far: {ticked} of {len(row)}."


def _sentence(words: str) -> str:
    return words[:1].upper() + words[1:] + "."

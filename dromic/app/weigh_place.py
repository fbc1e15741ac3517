"""The Weigh place: all schools' plans of one phrase, planned together on worker processes, in one table."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from dromic import presets
from dromic.app.asked import request_for
from dromic.app.worker import Worker
from dromic.core.choices import Choices
from dromic.core.phrase import Phrase
from dromic.core.planner import Progress
from dromic.core.weigh import MEASURES, best_at, differing, fastest
from dromic.store.roster import Roster
from dromic.together import Answer, Workers

MOST_LETTERS = 11
"""of a school's name on one line of a column's head"""
ROW_PX = 28
BEST = "◆ "
"""stands before the best of a row, so that it is not told by weight alone"""
_SHOW_MS = 100


def wrapped(label: str) -> str:
    """A school's name for the head of a narrow column."""
    return label if len(label) <= MOST_LETTERS else label.replace(" ", "\n", 1)


class WeighPlace(QWidget):
    """Weighs the schools against each other; choosing one takes it to Plan."""

    noticed = pyqtSignal(str, bool)
    school_chosen = pyqtSignal(str)

    def __init__(self, roster: Roster, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.roster = roster
        self.workers = Workers()
        self.worker = Worker(self)
        self.schools: list[str] = []
        self.answers: list[Answer] = []
        self._asked: tuple[Phrase, Choices] | None = None
        self._share = 0.0
        self.words, self.table = QLabel(), QTableWidget()
        self.bar, self.cancel_button = QProgressBar(), QPushButton("Cancel")
        self.take_button = QPushButton("Take this school to Plan")
        self._build()
        self._tick = QTimer(self)
        self._tick.setInterval(_SHOW_MS)
        self._tick.timeout.connect(lambda: self.bar.setValue(round(100 * self._share)))
        self.worker.answered.connect(self._was_weighed)
        self.worker.refused.connect(self._was_refused)
        self.worker.busy.connect(self._busy)
        self.cancel_button.clicked.connect(self.cancel)
        self.take_button.clicked.connect(self._take)
        self.table.itemActivated.connect(lambda _: self._take())
        self._busy(False)

    def _build(self) -> None:
        self.words.setWordWrap(True)
        self.words.setMargin(10)
        self.words.setAccessibleName("what the comparison says")
        self.table.setAccessibleName("plans side by side")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectColumns)
        self.table.setAlternatingRowColors(True)
        side = self.table.verticalHeader()
        if side is not None:
            side.setDefaultSectionSize(ROW_PX)
        self.bar.setAccessibleName("share planned")
        row = QHBoxLayout()
        row.setContentsMargins(10, 0, 10, 0)
        row.addWidget(self.bar, 1)
        row.addWidget(self.cancel_button)
        row.addWidget(self.take_button)
        row.addStretch(1)
        self.take_button.setToolTip("Or double-click its column")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.words)
        column.addWidget(self.table, 1)
        column.addLayout(row)
        self.setFocusProxy(self.table)

    def weigh(self, phrase: Phrase, choices: Choices) -> None:
        """Plan the phrase in every school, unless that has been done just so."""
        if not phrase.events:
            self.words.setText("This phrase has no notes yet: write some on Write")
            return
        if self._asked == (phrase, choices):
            return
        self._asked = phrase, choices
        self.schools = list(presets.schools())
        self._share = 0.0
        self.words.setText("Planning the phrase in every school…")

        players = self.roster.players

        def job(progress: Progress) -> list[Answer]:
            requests = []
            for name in self.schools:
                chosen = replace(choices, school=name, start="", locks=() if name != choices.school else choices.locks)
                requests.append(request_for(phrase, chosen, players))

            def heard(share: float) -> bool:
                self._share = share
                return progress(share)

            return self.workers.plan(requests, None, heard)

        self.worker.start(job)

    def cancel(self) -> None:
        self.worker.cancel()
        self._asked = None
        self.words.setText("Cancelled. Come back to this place to plan again.")

    def _busy(self, on: bool) -> None:
        self.bar.setVisible(on)
        self.cancel_button.setVisible(on)
        self.take_button.setVisible(not on)
        self.take_button.setEnabled(bool(self.answers))
        (self._tick.start if on else self._tick.stop)()

    def _was_refused(self, sentence: str) -> None:
        self._asked = None
        self.words.setText(sentence)

    def _was_weighed(self, answer: object) -> None:
        assert isinstance(answer, list)
        self.answers = answer
        plans = [a.plan for a in self.answers]
        labels = [presets.schools()[name].label for name in self.schools]
        self.table.setColumnCount(len(plans))
        self.table.setRowCount(len(MEASURES) + 1)
        self.table.setHorizontalHeaderLabels([wrapped(label) for label in labels])
        self.table.setVerticalHeaderLabels([*(m.label for m in MEASURES), "Notes played another way than fastest"])
        top = fastest(plans)
        for r, measure in enumerate(MEASURES):
            best = best_at(measure, plans)
            for c, plan in enumerate(plans):
                value = measure.of(plan) if plan is not None else None
                text = "–" if value is None else f"{value:.{measure.digits}f}"
                self._put(r, c, (BEST if c in best else "") + text, c in best, self.answers[c].refused)
        for c, plan in enumerate(plans):
            count = len(differing(plan, plans[top])) if plan is not None and top is not None and plans[top] else None  # type: ignore[arg-type]
            self._put(len(MEASURES), c, "–" if count is None else str(count), False, self.answers[c].refused)
        header = self.table.horizontalHeader()
        if header is not None:
            header.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        if top is not None:
            self.table.selectColumn(top)
        self.words.setText(self._verdict(top, labels))
        self._busy(False)

    def _put(self, row: int, column: int, text: str, best: bool, refused: str) -> None:
        item = QTableWidgetItem(text)
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if best:
            look = QFont(item.font())
            look.setBold(True)
            item.setFont(look)
        if refused:
            item.setToolTip(refused)
        self.table.setItem(row, column, item)

    def _verdict(self, top: int | None, labels: list[str]) -> str:
        if top is None:
            return "No school can play this phrase so: " + self.answers[0].refused
        plan = self.answers[top].plan
        assert plan is not None
        ceiling = "no move limits it" if plan.ceiling is None else f"a ceiling of about {plan.ceiling:.0f}, an estimate"
        refused = [labels[n] for n, a in enumerate(self.answers) if a.plan is None]
        words = f"Fastest in these hands: {labels[top]}, {ceiling}. {BEST.strip()} marks the best of each row."
        return words + (f" Not possible here: {', '.join(refused)}." if refused else "")

    def _take(self) -> None:
        column = self.table.currentColumn()
        if 0 <= column < len(self.answers) and self.answers[column].plan is not None:
            self.school_chosen.emit(self.schools[column])

    def stop(self) -> None:
        """The window closes."""
        self.worker.wait()
        self.workers.close()

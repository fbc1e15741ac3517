"""How a player practises, set once: which hand first, which school of tempo, breaks, and which kinds of drill are left out."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from dromic import presets
from dromic.core.drills.drill import FRETTING, PICKING
from dromic.core.drills.drill_kinds import KINDS
from dromic.core.practice.ladder import BEST, FAST, SCAN, SLOW
from dromic.core.practice.wishes import OWN, Wishes

_FIRST = (
    ("Fretting hand first: it knows the way before the pick joins in", FRETTING),
    ("Picking hand first: its strokes are the plan, the fingers follow", PICKING),
)
_SCHOOLS = (
    ("What lifts you most: your own passes say where", BEST),
    ("Slow until clean: a little under what holds", SLOW),
    ("Fast often, once warm: each day begins near what was clean", FAST),
    ("Scan for what breaks: once at every tempo from slow to fast", SCAN),
)
_NUMBERS = {
    "break_every_min": ("A break at least every", " min"),
    "warm_up_min": ("Warm-up", " min"),
    "clean_to_step": ("Clean passes before a step up", ""),
}
_LIST_PX = 250


class PracticeDialog(QDialog):
    """Takes the wishes apart and puts them together again."""

    def __init__(self, wishes: Wishes, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("How I practise")
        self.given = wishes
        self.first, self.school, self.kinds = QComboBox(), QComboBox(), QListWidget()
        self.numbers = {name: QSpinBox() for name in OWN}
        settings = wishes.settings(presets.practice())
        form = QFormLayout()
        for box, entries, held, words in (
            (self.first, _FIRST, wishes.first_hand, "Which hand first"),
            (self.school, _SCHOOLS, wishes.school, "Tempo"),
        ):
            for label, value in entries:
                box.addItem(label, value)
            box.setCurrentIndex(box.findData(held))
            form.addRow(words, box)
        for name, (group, low, high) in OWN.items():
            spin = self.numbers[name]
            spin.setRange(round(low), round(high))
            spin.setSuffix(_NUMBERS[name][1])
            spin.setValue(round(getattr(getattr(settings, group), name)))
            form.addRow(_NUMBERS[name][0], spin)
        for kind in KINDS:
            item = QListWidgetItem(f"{kind.label}: {kind.meaning}")
            item.setData(Qt.ItemDataRole.UserRole, kind.name)
            item.setCheckState(Qt.CheckState.Unchecked if kind.name in wishes.without else Qt.CheckState.Checked)
            self.kinds.addItem(item)
        self.kinds.setAccessibleName("kinds of drill; those not ticked are left out")
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        columns = QHBoxLayout()
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addLayout(form)
        left.addStretch(1)
        right.addWidget(QLabel("Drills that may be part of a session (Space ticks one on or off)"))
        right.addWidget(self.kinds, 1)
        self.kinds.setMinimumSize(_LIST_PX * 2, _LIST_PX)
        self.kinds.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.kinds.setWordWrap(True)
        columns.addLayout(left)
        columns.addLayout(right, 1)
        whole = QVBoxLayout(self)
        whole.addLayout(columns, 1)
        whole.addWidget(buttons)
        self.resize(1180, 470)

    def wishes(self) -> Wishes:
        """What was set."""
        items = [item for n in range(self.kinds.count()) if (item := self.kinds.item(n)) is not None]
        left = [i.data(Qt.ItemDataRole.UserRole) for i in items if i.checkState() == Qt.CheckState.Unchecked]
        usual = self.given.settings(presets.practice())
        made = replace(
            self.given, first_hand=self.first.currentData(), school=self.school.currentData(), without=tuple(left)
        )
        for name, box in self.numbers.items():
            if box.value() != round(getattr(getattr(usual, OWN[name][0]), name)):
                made = made.with_own(name, float(box.value()))
        return made

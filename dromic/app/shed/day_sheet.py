"""A day's practice on paper: drills, strokes, tempos, boxes to tick; and what was ticked, entered afterwards."""

from __future__ import annotations

from datetime import datetime
from html import escape

from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHeaderView,
    QLabel,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dromic.app.session.words import HANDS, SAID, slot_name
from dromic.core.music.phrase import Phrase
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.practice.session import STOP
from dromic.core.practice.todays_work import Work

_BOXES = 8
"""Boxes to tick behind a drill on paper."""
_MOST_NOTES = 24
"""Notes of a drill shown on paper at most."""
_SIGNS = {"down": "⊓", "up": "V"}
_MOST_PASSES = 99


def sheet_html(work: Work, day: str) -> str:
    """The sheet of a day, a row a part of the session."""
    title = escape(work.plan.request.phrase.title)
    rows = [
        f"<h2>{title}, {escape(day)}</h2>",
        f"<p>Target {work.target:g}. Tempos are where to begin. {escape(STOP)}</p>",
    ]
    for slot in work.schedule.slots:
        if slot.drill is None:
            rows.append(
                f"<p><b>{slot.minutes:.0f} min {escape(slot_name(slot, None))}.</b> {escape(' '.join(SAID[slot.what]))}</p>"
            )
            continue
        drill, rung = work.drills[slot.drill], work.rungs[slot.drill]
        rows.append(
            f"<p><b>{slot.minutes:.0f} min {escape(slot_name(slot, drill))}</b>, {HANDS[drill.hand]}, from "
            f"<b>{rung.tempo:.0f}</b>. {escape(drill.reason[:1].upper() + drill.reason[1:])}.<br/>{_tablature(drill.phrase)}<br/>"
            f"clean {'☐ ' * _BOXES} missed {'☐ ' * (_BOXES // 2)} last tempo ______</p>"
        )
    return f"<body style='color: black'>{''.join(rows)}</body>"


def _tablature(phrase: Phrase) -> str:
    """The first notes of a drill as string.fret with their strokes."""
    words = []
    for event in phrase.events[:_MOST_NOTES]:
        notes = "+".join(f"{n.string}.{n.fret}" for n in event.notes)
        words.append(f"{notes}{_SIGNS.get(event.notes[0].stroke or '', '')}")
    more = " …" if len(phrase.events) > _MOST_NOTES else ""
    return f"<tt>{escape('  '.join(words))}{more}</tt>"


class ResultsDialog(QDialog):
    """What was played from the sheet: for each drill of the session the last tempo, and how many passes were clean and missed."""

    def __init__(self, work: Work, of: PhraseName, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.work, self.of = work, of
        self.setWindowTitle("Results of today's sheet")
        self.numbers = [s.drill for s in work.schedule.slots if s.drill is not None]
        self.table = QTableWidget(len(self.numbers), 4)
        self.table.setHorizontalHeaderLabels(["Drill", "Last tempo", "Clean", "Missed"])
        header = self.table.horizontalHeader()
        assert header is not None
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.spins: list[tuple[QSpinBox, QSpinBox, QSpinBox]] = []
        for row, number in enumerate(self.numbers):
            slot = next(s for s in work.schedule.slots if s.drill == number)
            self.table.setItem(row, 0, QTableWidgetItem(slot_name(slot, work.drills[number])))
            spins = QSpinBox(), QSpinBox(), QSpinBox()
            for column, (spin, most) in enumerate(zip(spins, (1000, _MOST_PASSES, _MOST_PASSES), strict=True), start=1):
                spin.setRange(0, most)
                self.table.setCellWidget(row, column, spin)
            spins[0].setValue(round(work.rungs[number].tempo))
            self.spins.append(spins)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        whole = QVBoxLayout(self)
        whole.addWidget(QLabel("Drills left at no passes are not logged."))
        whole.addWidget(self.table)
        whole.addWidget(buttons)
        self.resize(720, 420)

    def passes(self, at: datetime) -> list[Pass]:
        """What was entered, as passes that all ended now; the clean ones after the missed."""
        found = []
        for number, (tempo, clean, missed) in zip(self.numbers, self.spins, strict=True):
            drill = self.work.drills[number]
            for done in [False] * missed.value() + [True] * clean.value():
                found.append(
                    Pass(
                        at.replace(microsecond=0), self.of.title, drill.name, float(max(10, tempo.value())),
                        done, self.work.notes_of(drill), note="from the sheet", phrase_id=self.of.id,
                    )
                )  # fmt: skip
        return found

"""What the player chose beside the chart, as one frozen value, and the panel of controls that shows and changes it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from PyQt6.QtCore import QSignalBlocker, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QDoubleSpinBox, QFormLayout, QLabel, QWidget

from dromic import presets
from dromic.core.metre import UNITS
from dromic.core.phrase import Phrase
from dromic.core.plan import Request
from dromic.core.settle import settled

OWN = ""
"""the value that leaves a choice to the file or the player"""
_UNIT_LABELS = {
    OWN: "As the metre suggests", "eighth": "Eighths", "sixteenth": "Sixteenths", "triplet": "Triplets",
    "compound": "Compound, each group from a down", "compound-alternate": "Compound, alternating through",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Choices:
    school: str = "free"
    unit: str = OWN
    player: str = "fluent"
    lean: str = OWN
    tempo: float = 120.0
    instrument: str = OWN
    positions: bool = True


def choices_for(phrase: Phrase, before: Choices) -> Choices:
    """The choices for a newly opened phrase: its own school and tempo, the player as before."""
    school = phrase.school if phrase.school in presets.schools() else before.school
    return replace(before, school=school, tempo=phrase.tempo, instrument=OWN, unit=OWN)


def request_for(phrase: Phrase, choices: Choices) -> Request:
    """What to plan for a phrase under some choices."""
    named = presets.instruments()[choices.instrument] if choices.instrument else phrase.instrument
    instrument = named or presets.instruments()["guitar"]
    player = presets.players()[choices.player]
    if choices.lean:
        player = player.with_leans(presets.leans()[choices.lean])
    return Request(
        phrase=settled(phrase.at_tempo(choices.tempo), instrument),
        instrument=instrument,
        player=player,
        school=presets.schools()[choices.school],
        pulse=choices.unit or None,
        keep=frozenset({"positions", "attacks"} if choices.positions else {"attacks"}),
    )


class ChoicesPanel(QWidget):
    """A thin view of Choices: shows a value, says when the player makes another one."""

    changed = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._choices = Choices()
        self.school = self._combo("school", [(s.name, s.label, s.text) for s in presets.schools().values()])
        self.unit = self._combo("unit", [(u, _UNIT_LABELS[u], "") for u in (OWN, *UNITS)])
        self.player = self._combo("player", [(p.name, p.label, "") for p in presets.players().values()])
        leans = [(OWN, "The player's own", ""), *((n, t, "") for n, t in presets.lean_labels().items())]
        self.lean = self._combo("lean", leans)
        instruments = [(i.name, i.label, " ".join(i.tuning_names)) for i in presets.instruments().values()]
        self.instrument = self._combo("instrument", [(OWN, "As the phrase says", ""), *instruments])
        self.tempo = QDoubleSpinBox()
        self.tempo.setRange(10, 1000)
        self.tempo.setDecimals(0)
        self.tempo.setSuffix(" quarters a minute")
        self.tempo.setKeyboardTracking(False)
        self.tempo.setAccelerated(True)
        self.tempo.valueChanged.connect(lambda value: self._set("tempo", float(value)))
        self.positions = QCheckBox("Keep the strings and frets written")
        self.positions.toggled.connect(lambda on: self._set("positions", bool(on)))
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        form.setHorizontalSpacing(10)
        form.setVerticalSpacing(6)
        for text, widget in (
            ("&School", self.school), ("P&ulse", self.unit), ("P&layer", self.player), ("Lea&n", self.lean),
            ("&Tempo", self.tempo), ("&Instrument", self.instrument),
        ):  # fmt: skip
            label = QLabel(text)
            label.setBuddy(widget)
            widget.setAccessibleName(text.replace("&", ""))
            form.addRow(label, widget)
        form.addRow(self.positions)

    def _combo(self, name: str, entries: list[tuple[str, str, str]]) -> QComboBox:
        combo = QComboBox()
        combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for value, label, tip in entries:
            combo.addItem(label, value)
            combo.setItemData(combo.count() - 1, tip or None, 3)
        combo.currentIndexChanged.connect(lambda _: self._set(name, combo.currentData()))
        return combo

    def _set(self, name: str, value: Any) -> None:
        changed = replace(self._choices, **{name: value})
        if changed != self._choices:
            self.changed.emit(changed)

    def show_choices(self, choices: Choices) -> None:
        """Show a value without echoing it."""
        self._choices = choices
        for name in ("school", "unit", "player", "lean", "instrument"):
            combo: QComboBox = getattr(self, name)
            with QSignalBlocker(combo):
                combo.setCurrentIndex(max(0, combo.findData(getattr(choices, name))))
        with QSignalBlocker(self.tempo), QSignalBlocker(self.positions):
            self.tempo.setValue(choices.tempo)
            self.positions.setChecked(choices.positions)
        self.unit.setEnabled(presets.schools()[choices.school].places != "any")
        self.school.setToolTip(presets.schools()[choices.school].text)

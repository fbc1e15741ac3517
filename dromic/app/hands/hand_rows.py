"""Rows of the page of the hands: a number with its slider, a habit with its sides, and the effect of each."""

from __future__ import annotations

import math

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QLabel, QSlider, QWidget

from dromic.app.kit.number_box import NumberBox
from dromic.core.reports.explain import SAME_TEMPO
from dromic.core.setup.player import Player
from dromic.core.setup.player_settings import Habit, HandNumber
from dromic.core.setup.school import School

EFFECT_PX = 52
NOT_HERE = "not here"


def effect_text(gain: float | None) -> str:
    """A gain as it stands beside its row."""
    if gain is None:
        return ""
    if abs(gain) < SAME_TEMPO:
        return "="
    return f"{'▲' if gain > 0 else '▼'} {abs(gain):.0f} /min"


def _effect(name: str) -> QLabel:
    label = QLabel()
    label.setMinimumWidth(EFFECT_PX)
    label.setAccessibleName(f"{name}: effect on the ceiling")
    return label


class NumberRow(QWidget):
    """`widgets` go into a grid: name, slider, value, effect."""

    changed = pyqtSignal(float)

    def __init__(self, number: HandNumber) -> None:
        super().__init__()
        self.of = number
        self.slider, self.value, self.effect = (
            QSlider(Qt.Orientation.Horizontal),
            NumberBox(),
            _effect(number.label),
        )
        name = QLabel(number.label)
        name.setBuddy(self.value)
        for widget in (name, self.slider, self.value):
            widget.setToolTip(number.help)
        self.slider.setAccessibleName(number.label)
        self.slider.setRange(0, round((number.high - number.low) / number.step))
        self.slider.setPageStep(10)
        self.value.setAccessibleName(f"{number.label}, {number.unit}")
        self.value.setRange(number.low, number.high)
        self.value.setSingleStep(number.step)
        self.value.setDecimals(max(0, -math.floor(math.log10(number.step))))
        self.value.setSpecialValueText(number.lowest)
        short = {"quarters a minute": "/min", "times a second": "/s", "a second": "/s", "degrees": "°"}
        unit = short.get(number.unit, number.unit)
        self.value.setSuffix(unit if unit == "°" else f" {unit}")
        self.value.setKeyboardTracking(False)
        self.value.setMinimumWidth(96)
        self.widgets = (name, self.slider, self.value, self.effect)
        self.slider.valueChanged.connect(lambda at: self.changed.emit(number.low + at * number.step))
        self.value.valueChanged.connect(lambda value: self.changed.emit(float(value)))

    def show_player(self, player: Player) -> None:
        value = self.of.bounded(self.of.get(player))
        with QSignalBlocker(self.slider), QSignalBlocker(self.value):
            self.slider.setValue(round((value - self.of.low) / self.of.step))
            self.value.setValue(value)

    def show_effect(self, gain: float | None) -> None:
        self.effect.setText(effect_text(gain))
        told = "" if gain is None else f"A tenth better would change the ceiling by about {gain:+.1f} quarters a minute"
        self.effect.setToolTip(told)


class HabitRow(QWidget):
    """`widgets` go into a grid: name, sides, effect."""

    changed = pyqtSignal(object)

    def __init__(self, habit: Habit) -> None:
        super().__init__()
        self.of = habit
        self.combo, self.effect = QComboBox(), _effect(habit.label)
        name = QLabel(habit.label)
        name.setBuddy(self.combo)
        for widget in (name, self.combo):
            widget.setToolTip(habit.help)
        self.combo.setAccessibleName(habit.label)
        for option in habit.options:
            self.combo.addItem(option.label)
        self.widgets = (name, self.combo, self.effect)
        self.combo.currentIndexChanged.connect(lambda at: self.changed.emit(habit.options[at].value))

    def show_player(self, player: Player) -> None:
        values = [option.value for option in self.of.options]
        now = self.of.get(player)
        with QSignalBlocker(self.combo):
            self.combo.setCurrentIndex(values.index(now) if now in values else -1)

    def show_effect(self, best: tuple[float, object] | None, school: School) -> None:
        """The other side that would bring most, or that the school leaves the habit nothing to do."""
        if not self.of.works_in(school):
            self.effect.setText(NOT_HERE)
            self.effect.setToolTip(f"{school.label} leaves this habit nothing to do")
            return
        self.effect.setText(effect_text(best[0] if best else None))
        if best:
            label = next(o.label for o in self.of.options if o.value == best[1])
            self.effect.setToolTip(f"“{label}” would change the ceiling by about {best[0]:+.1f} quarters a minute")

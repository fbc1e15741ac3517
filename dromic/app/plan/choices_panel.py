"""The strip of choices over the chart, the seldom ones folded away: shows the player's choices and says when others are made."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import partial
from itertools import pairwise
from typing import Any

from PyQt6.QtCore import QPoint, QRegularExpression, QSignalBlocker, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QRegularExpressionValidator, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QStyledItemDelegate,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from dromic import presets
from dromic.app.drawing.lean_icon import ICON, lean_icon
from dromic.app.kit.number_box import NumberBox
from dromic.app.kit.theme import LIGHT, Theme
from dromic.core.search.meant_pins import Stated
from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Player
from dromic.core.setup.school import MOST_PATTERN
from dromic.core.values.metre import UNITS

_UNIT_LABELS = {
    OWN: "As the metre suggests", "eighth": "Eighths", "sixteenth": "Sixteenths", "triplet": "Triplets",
    "compound": "Compound, each group from a down", "compound-alternate": "Compound, alternating through",
}  # fmt: skip


_START_LABELS = {OWN: "School's", "down": "Down", "up": "Up", "either": "Either"}
_MORE = "Pulse, start, legato, graces, instrument, loop, and what is kept as written (Alt+M)"
TEMPO_WIDE = 112
"""Width of the tempo, px."""
LEANS_WIDE = 230
"""Width of the list of leans: a drawing and a name, px."""
_GRACE_LABELS = {OWN: "Player's", "slurred": "Slurred", "picked": "Picked"}
_GRACE_TIME_LABELS = {OWN: "player's time", "before": "before the beat", "on": "on the beat"}
_LEGATO_LABELS = {"never": "Written", "turnarounds": "Turns", "anywhere": "Anywhere"}


class ChoicesPanel(QWidget):
    """A thin view of Choices: shows a value, says when the player makes another one."""

    changed = pyqtSignal(object)
    hands_asked = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._choices = Choices()
        self.theme = LIGHT
        self._folded_keys: list[QShortcut] = []
        self._stated = Stated(0, 0)
        self._hand: tuple[Player, Instrument] | None = None
        """whose leans are drawn, and among which strings"""
        self.school = self._combo("school", [(s.name, s.label, s.text) for s in presets.schools().values()])
        self.unit = self._combo("unit", [(u, _UNIT_LABELS[u], "") for u in (OWN, *UNITS)])
        self.player = self._combo("player", [])
        leans = [(OWN, "Player's own", ""), *((n, t, "") for n, t in presets.lean_labels().items())]
        self.lean = self._combo("lean", leans)
        # in the list beside every name, but not in the closed box, where the name needs the room
        self.lean.setIconSize(QSize(0, 0))
        view = self.lean.view()
        assert view is not None
        view.setIconSize(ICON)
        self.lean.setItemDelegate(QStyledItemDelegate(self.lean))
        view.setMinimumWidth(LEANS_WIDE)
        instruments = [(i.name, i.label, " ".join(i.tuning_names)) for i in presets.instruments().values()]
        self.instrument = self._combo("instrument", [(OWN, "As the phrase says", ""), *instruments])
        self.tempo = NumberBox()
        self.tempo.setRange(10, 1000)
        self.tempo.setDecimals(0)
        self.tempo.setFixedWidth(TEMPO_WIDE)
        self.tempo.setToolTip("Quarter notes a minute")
        self.tempo.setKeyboardTracking(False)
        self.tempo.setAccelerated(True)
        self.tempo.valueChanged.connect(lambda value: self._set("tempo", float(value)))
        self.start = self._combo("start", [(v, t, "") for v, t in _START_LABELS.items()])
        self.legato = self._combo("legato", [(v, t, "") for v, t in _LEGATO_LABELS.items()])
        self.legato.setToolTip("Which picked notes the planner may hammer, pull or slide instead")
        self.graces = self._combo("graces", [(v, t, "") for v, t in _GRACE_LABELS.items()])
        self.graces.setToolTip("Grace notes: one stroke for the grace and its note, or a stroke each")
        self.grace_time = self._combo("grace_time", [(v, t, "") for v, t in _GRACE_TIME_LABELS.items()])
        self.grace_time.setToolTip("Whose time a grace note takes: that of the note before, or of its own")
        self.grace_time.setAccessibleName("when grace notes sound")
        self.pattern = QLineEdit()
        self.pattern.setPlaceholderText("d and u, such as ddu")
        self.pattern.setMaxLength(MOST_PATTERN)
        self.pattern.setValidator(QRegularExpressionValidator(QRegularExpression("[dDuU]*")))
        self.pattern.editingFinished.connect(lambda: self._set("pattern", self.pattern.text().lower()))
        self.positions = QCheckBox("&Keep positions")
        self.positions.setToolTip("Keep the strings and frets that the phrase states")
        self.positions.toggled.connect(lambda on: self._set("positions", bool(on)))
        self.strokes, self.fingers, self.kept_words = QCheckBox("Strokes"), QCheckBox("Fingers"), QLabel()
        for box, name, what in (
            (self.strokes, "strokes", "strokes"), (self.fingers, "fingers", "fretting fingers"),
        ):  # fmt: skip
            box.setToolTip(f"Keep the {what} that the phrase states, as far as the school lets them hold together")
            box.setAccessibleName(f"keep the written {what}")
            box.toggled.connect(lambda on, name=name: self._set(name, bool(on)))
        self.repeat = QCheckBox("Loop&ed")
        self.repeat.setToolTip("The whole comes round again: plan and judge the seam too")
        self.repeat.toggled.connect(lambda on: self._set("repeat", bool(on)))
        self.hands = QPushButton("Hands…")
        self.hands.setToolTip("What this player's hands can do (F7)")
        self.hands.clicked.connect(self.hands_asked)
        self._labels: dict[QWidget, QLabel] = {}
        for text, widget in (
            ("&School", self.school), ("P&ulse", self.unit), ("St&art", self.start), ("Le&gato", self.legato),
            ("Gra&ces", self.graces), ("P&layer", self.player), ("Lea&n", self.lean), ("&Tempo", self.tempo),
            ("&Instrument", self.instrument),
        ):  # fmt: skip
            label = QLabel(text)
            label.setBuddy(widget)
            widget.setAccessibleName(text.replace("&", ""))
            self._labels[widget] = label
        self.pattern.setAccessibleName("Pattern")
        self.pattern.setFixedHeight(self.unit.sizeHint().height())
        self.kept_words.setText("Keep as written")
        self.more = QPushButton()
        self.more.setObjectName("fold")
        self.more.setCheckable(True)
        self.more.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        QShortcut(QKeySequence("Alt+M"), self).activated.connect(self.more.toggle)
        self.fold = QFrame()
        self.fold.setObjectName("card")
        self._lay_out()
        self.more.toggled.connect(self._unfold)
        away = QShortcut(QKeySequence("Esc"), self.fold)
        away.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        away.activated.connect(self._put_away)
        self._unfold(False)
        self.show_stated(Stated(0, 0))

    def _lay_out(self) -> None:
        """What is always there in one row, the rest in two rows under it."""
        whole = QVBoxLayout(self)
        whole.setContentsMargins(8, 4, 8, 4)
        whole.setSpacing(4)
        strip, first, second = QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        below = QVBoxLayout(self.fold)
        below.setContentsMargins(8, 8, 8, 8)
        below.setSpacing(4)
        for row in (first, second):
            below.addLayout(row)
        whole.addLayout(strip)
        for row, parts in (
            (strip, ((self.school, 6), (self.tempo, 0), (self.player, 6), (self.hands, 0), (self.lean, 6), (self.more, 4))),
            (first, ((self.unit, 4), (self.pattern, 4), (self.start, 2), (self.legato, 3), (self.graces, 3), (self.grace_time, 4))),
            (second, ((self.instrument, 4), (self.positions, 0), (self.kept_words, 0), (self.strokes, 0), (self.fingers, 0),
                      (self.repeat, 0))),
        ):  # fmt: skip
            row.setSpacing(8)
            for widget, share in parts:
                if widget in self._labels:
                    row.addWidget(self._labels[widget])
                row.addWidget(widget, share)
        second.addStretch(1)
        first.addStretch(1)
        self._folded = (
            self.unit, self.pattern, self.start, self.legato, self.graces, self.grace_time, self.instrument, self.positions,
            self.strokes, self.fingers, self.repeat,
        )  # fmt: skip
        for key, act in (
            ("Alt+U", self.unit.setFocus), ("Alt+A", self.start.setFocus), ("Alt+G", self.legato.setFocus),
            ("Alt+C", self.graces.setFocus), ("Alt+I", self.instrument.setFocus), ("Alt+K", self.positions.click),
            ("Alt+E", self.repeat.click),
        ):  # fmt: skip
            shortcut = QShortcut(QKeySequence(key), self)
            shortcut.activated.connect(partial(self._reach, act))
            self._folded_keys.append(shortcut)

    def _put_away(self) -> None:
        self.more.setChecked(False)
        self.more.setFocus()

    def _reach(self, act: Callable[[], object]) -> None:
        """A key of what is folded away."""
        self.more.setChecked(True)
        act()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._place_fold()
        self._tell_more()

    def _place_fold(self) -> None:
        """Under the strip and over what lies there, which keeps its room."""
        beside = self.parentWidget()
        if beside is not None:
            if self.fold.parentWidget() is not beside:
                shown = self.more.isChecked()
                self.fold.setParent(beside)
                self.fold.setVisible(shown)
                for before, after in pairwise((self.more, *self._folded)):
                    QWidget.setTabOrder(before, after)
            corner = self.mapTo(beside, QPoint(0, self.height()))
            self.fold.setGeometry(corner.x(), corner.y(), self.width(), self.fold.sizeHint().height())

    def _unfold(self, on: bool) -> None:
        """Show or hide what is seldom chosen; its keys work either way."""
        self._place_fold()
        self.fold.setVisible(on)
        self.fold.raise_()
        for shortcut in self._folded_keys:
            shortcut.setEnabled(not on)
        self._tell_more()

    def _tell_more(self) -> None:
        """What of the folded choices is not as usual."""
        told = ", ".join(unusual(self._choices, self._stated))
        sign, room = "\u25be" if self.more.isChecked() else "\u25b8", max(60, self.more.width() - 20)
        words = f"{sign} {told or 'More'}"
        self.more.setText(self.more.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room))
        self.more.setAccessibleName(f"more choices, not as usual: {told}" if told else "more choices")
        self.more.setToolTip((f"Not as usual: {told}. " if told else "") + _MORE)

    def _combo(self, name: str, entries: list[tuple[str, str, str]]) -> QComboBox:
        combo = QComboBox()
        combo.setMinimumContentsLength(4)
        combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for value, label, tip in entries:
            combo.addItem(label, value)
            combo.setItemData(combo.count() - 1, tip or None, 3)
        combo.currentIndexChanged.connect(lambda _: self._set(name, combo.currentData()))
        return combo

    def show_players(self, players: Mapping[str, Player]) -> None:
        """The players to choose from, by name."""
        with QSignalBlocker(self.player):
            self.player.clear()
            for name, player in players.items():
                self.player.addItem(player.label, name)
            self.player.setCurrentIndex(max(0, self.player.findData(self._choices.player)))

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        if self._hand is not None:
            hand, self._hand = self._hand, None
            self.draw_leans(*hand)

    def draw_leans(self, player: Player, instrument: Instrument) -> None:
        """Draw every lean of the list, to scale for a player and an instrument, unless they are drawn so."""
        if self._hand == (player, instrument):
            return
        self._hand = player, instrument
        for row in range(self.lean.count()):
            name = self.lean.itemData(row)
            leans = presets.leans().get(name) or player.leans
            self.lean.setItemIcon(row, lean_icon(leans, player, instrument, self.theme))

    def _set(self, name: str, value: Any) -> None:
        changed = replace(self._choices, **{name: value})
        if changed != self._choices:
            self.changed.emit(changed)

    def show_stated(self, found: Stated) -> None:
        """What the phrase states that can be kept; what it does not state is not asked about."""
        self.strokes.setText(f"{found.strokes} strokes" if found.strokes != 1 else "1 stroke")
        self.fingers.setText(f"{found.fingers} fingers" if found.fingers != 1 else "1 finger")
        self.strokes.setVisible(found.strokes > 0)
        self.fingers.setVisible(found.fingers > 0)
        self._stated = found
        self._tell_more()
        self.kept_words.setVisible(found.strokes + found.fingers > 0)
        for widget in (self._labels[self.graces], self.graces, self.grace_time):
            widget.setVisible(found.graces > 0)

    def show_choices(self, choices: Choices) -> None:
        """Show a value without echoing it."""
        was_by_pattern = self.pattern.isVisibleTo(self.fold)
        self._choices = choices
        for name in ("school", "unit", "player", "lean", "instrument", "start", "legato", "graces", "grace_time"):
            combo: QComboBox = getattr(self, name)
            with QSignalBlocker(combo):
                combo.setCurrentIndex(max(0, combo.findData(getattr(choices, name))))
        with QSignalBlocker(self.tempo):
            self.tempo.setValue(choices.tempo)
        for name in ("positions", "repeat", "strokes", "fingers"):
            box: QCheckBox = getattr(self, name)
            with QSignalBlocker(box):
                box.setChecked(getattr(choices, name))
        self.pattern.setText(choices.pattern)
        school = presets.schools().get(choices.school) or presets.schools()["free"]
        by_pattern = bool(school.pattern)
        self.pattern.setVisible(by_pattern)
        self.unit.setVisible(not by_pattern)
        self._labels[self.unit].setText("Patte&rn" if by_pattern else "P&ulse")
        self._labels[self.unit].setBuddy(self.pattern if by_pattern else self.unit)
        self.unit.setEnabled(bool(school.strokes))
        self.start.setEnabled(not by_pattern)
        self.legato.setEnabled(not by_pattern and school.legato == "never")
        self.school.setToolTip(school.text)
        self._tell_more()
        if by_pattern and not was_by_pattern:
            self.more.setChecked(True)  # the pattern is what there is to choose now


def unusual(choices: Choices, stated: Stated) -> tuple[str, ...]:
    """What of the choices that are folded away is not as usual, in words; what a phrase does not state cannot be let go."""
    usual = Choices()
    told = [
        _UNIT_LABELS[choices.unit].partition(",")[0] if choices.unit != usual.unit else "",
        f"pattern {choices.pattern}" if choices.pattern and choices.school == "pattern" else "",
        f"from {_START_LABELS[choices.start].lower()}" if choices.start != usual.start else "",
        f"legato {_LEGATO_LABELS[choices.legato].lower()}" if choices.legato != usual.legato else "",
        f"graces {_GRACE_LABELS[choices.graces].lower()}" if choices.graces != usual.graces else "",
        f"graces {_GRACE_TIME_LABELS[choices.grace_time]}" if choices.grace_time != usual.grace_time else "",
        presets.instruments()[choices.instrument].label if choices.instrument in presets.instruments() else "",
        "looped" if choices.repeat else "",
        "positions let go" if not choices.positions else "",
        *(f"{what} let go" for what in ("strokes", "fingers") if getattr(stated, what) and not getattr(choices, what)),
    ]
    return tuple(words for words in told if words)

"""The page of the hands: what a player's hands can do, in a player's words, each with what it would bring here and now."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QSignalBlocker, pyqtSignal
from PyQt6.QtGui import QUndoCommand
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QPushButton,
    QSizePolicy,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from dromic import presets
from dromic.app.book.planning import Planning
from dromic.app.book.school_cards import SchoolCards
from dromic.app.drawing.pick_drawing import PickDrawing
from dromic.app.hands.hand_rows import HabitRow, NumberRow
from dromic.app.hands.sides_view import SidesView
from dromic.app.hands.spread_drawing import SpreadDrawing
from dromic.app.kit.theme import BIG, Theme
from dromic.app.kit.timers import once
from dromic.app.kit.worker import Worker
from dromic.core.music.songbook import Songbook
from dromic.core.plan.plan import Plan
from dromic.core.search.meant_pins import solve_meant
from dromic.core.setup.choices import OWN, Choices
from dromic.core.setup.player import Player
from dromic.core.setup.player_settings import FRETTING, HABITS, LEANING, NUMBERS, PICKING, able_to_switch
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.store.roster import player_bytes
from dromic.store.saving import save

ASK_AFTER_MS = 250
"""How long a number stands before its effects are worked out, ms."""
KEEP_AFTER_MS = 800
"""How long it stands before it is written down, ms."""


class _Retune(QUndoCommand):
    """One change of the players at hand and of who plays; changes of one number in a row are one step."""

    def __init__(self, place: HandsPlace, text: str, after: tuple[dict[str, Player], Songbook], key: str) -> None:
        super().__init__(text)
        open_book = place.planning.open_book
        self.place, self.after, self.key, self.index = place, after, key, open_book.index
        self.before = dict(place.roster.own), open_book.book

    def redo(self) -> None:
        self.place.apply(*self.after, self.index)

    def undo(self) -> None:
        self.place.apply(*self.before, self.index)

    def id(self) -> int:
        return 3 if self.key else -1

    def mergeWith(self, other: QUndoCommand | None) -> bool:
        if not isinstance(other, _Retune) or other.key != self.key:
            return False
        self.after = other.after
        return True


class HandsPlace(QWidget):
    """Shows and changes the player who plays; a starting player is copied before it is changed."""

    noticed = pyqtSignal(str, bool)
    done = pyqtSignal()

    def __init__(self, planning: Planning, plays: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.planning, self.roster = planning, planning.roster
        self.worker = Worker(self)
        self.who, self.ceiling, self.words = QComboBox(), QLabel(), QLabel()
        self.switching = QCheckBox("Can change the lean between strokes")
        self.drawing, self.spreads, self.tabs = PickDrawing(), SpreadDrawing(), QTabWidget()
        self.sides = SidesView()
        self.school_cards = SchoolCards(plays, columns=2)
        self.numbers = {n.name: NumberRow(n) for n in NUMBERS}
        self.habits = {h.name: HabitRow(h) for h in HABITS}
        self.buttons: dict[str, QPushButton] = {}
        self._ask, self._keep = once(self, ASK_AFTER_MS, self._ask_effects), once(self, KEEP_AFTER_MS, self.flush)
        self._build()
        self.who.currentIndexChanged.connect(lambda _: self._choose(self.who.currentData()))
        self.switching.toggled.connect(lambda on: self.set_player(able_to_switch(self.player, on), "lean"))
        for name, row in self.numbers.items():
            row.changed.connect(partial(self._set_number, name))
        for name, habit_row in self.habits.items():
            habit_row.changed.connect(partial(self._set_habit, name))
        self.worker.answered.connect(self._show_effects)
        self.planning.planned.connect(self._planned)
        self.show_player()

    def _build(self) -> None:
        top = QHBoxLayout()
        self.who.setAccessibleName("player")
        self.who.setMinimumWidth(190)
        top.addWidget(self.who)
        for text, act, tip in (
            ("Copy", self.copy, "Another player, like this one"),
            ("Rename…", self.ask_name, "Another name for this player"),
            ("Delete", self.delete, "Forget this player; Ctrl+Z brings it back"),
            ("Import…", self.ask_import, "A player from a player file"),
            ("Export…", self.ask_export, "This player as a player file"),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, act=act: act())
            self.buttons[text.rstrip("…")] = button
            top.addWidget(button)
        top.addStretch(1)
        self.ceiling.setObjectName("big")
        self.ceiling.setFixedHeight(BIG)  # figures have nothing under the line, and the page needs the room
        self.ceiling.setAccessibleName("ceiling")
        self.words.setObjectName("soft")
        top.addWidget(self.words)
        top.addWidget(self.ceiling)
        back = QPushButton("Back to the plan")
        back.setToolTip("F3")
        back.clicked.connect(self.done)
        top.addWidget(back)
        lean = QVBoxLayout()
        lean.addWidget(self.drawing)
        switch = QVBoxLayout()
        switch.addWidget(self.switching)
        spread = QVBoxLayout()
        spread.addWidget(self.spreads)
        self.tabs.addTab(self._page((PICKING, LEANING), switch, lean), PICKING)
        self.tabs.addTab(self._page((FRETTING,), None, spread), FRETTING)
        self.tabs.addTab(self.sides, "Where players disagree")
        self.tabs.addTab(self._played(), "What you play")
        self.tabs.setDocumentMode(True)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(16, 0, 16, 4)
        whole.setSpacing(4)
        whole.addLayout(top)
        whole.addWidget(self.tabs, 1)
        note = QLabel("Every number is an estimate, yours to set. Beside each: what the ceiling of this phrase would gain "
                      "if it were a tenth better, or with the other side of a habit.")  # fmt: skip
        note.setObjectName("soft")
        note.setWordWrap(True)
        whole.addWidget(note)

    def _played(self) -> QWidget:
        """What is played, by whatever hands."""
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 12, 0, 0)
        column.setSpacing(12)
        words = QLabel(
            "Every phrase without a word of its own begins in the school of what you play: a new one, a pasted one, a file. "
            "On Plan each phrase may have another."
        )
        words.setWordWrap(True)
        column.addWidget(words)
        column.addWidget(self.school_cards)
        column.addStretch(1)
        return page

    def _page(self, groups: tuple[str, ...], left: QVBoxLayout | None, right: QVBoxLayout | None) -> QWidget:
        """One hand: its numbers on the left, its habits on the right and what both make of it in a picture under either."""
        page = QWidget()
        columns = QHBoxLayout(page)
        columns.setContentsMargins(0, 4, 0, 0)
        columns.setSpacing(34)
        for rows, beside, share in ((self.numbers, left, 5), (self.habits, right, 4)):
            column = QVBoxLayout()
            column.addLayout(self._filled(groups, rows))
            if beside is not None:
                column.addLayout(beside)
            column.addStretch(1)
            columns.addLayout(column, share)
        return page

    @staticmethod
    def _filled(groups: tuple[str, ...], rows: dict[str, Any]) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(2)
        line = 0
        for group in groups:
            inside = [r for r in rows.values() if r.of.group == group]
            if inside and line:
                title = QLabel(group)
                title.setObjectName("section")
                title.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
                grid.addWidget(title, line, 0, 1, 3)
                line += 1
            for row in inside:
                for column, widget in enumerate(row.widgets):
                    grid.addWidget(widget, line, column)
                line += 1
        grid.setColumnStretch(1, 1)
        return grid

    # the player

    @property
    def player(self) -> Player:
        return self.roster.named(self.planning.choices.player)

    def set_player(self, player: Player, key: str) -> None:
        """Another state of the player who plays; a starting player becomes one's own first."""
        if player == self.player:
            return
        choices = self.planning.choices
        if player.name not in self.roster.own:
            player = replace(player, name=self.roster.fresh_name("own-hands"), label="Own hands")
        if player.leans != self.player.leans or choices.lean:
            choices = replace(choices, lean=OWN)
        own = {**self.roster.own, player.name: player}
        self._push("hands", (own, replace(choices, player=player.name)), key)

    def _push(self, text: str, after: tuple[dict[str, Player], Choices], key: str = "") -> None:
        open_book = self.planning.open_book
        own, choices = after
        book = open_book.book.with_entry(open_book.index, replace(open_book.entry, choices=choices))
        open_book.undo.push(_Retune(self, text, (own, book), key))

    def apply(self, own: dict[str, Player], book: Songbook, index: int) -> None:
        """Take over players and who plays, as a step on the undo stack says."""
        for name in set(self.roster.own) - set(own):
            self.roster.drop(name)
        for name, player in own.items():
            if self.roster.own.get(name) != player:
                self.roster.put(player)
        self._keep.start()
        self.planning.players_changed.emit()
        self.planning.open_book.show(book, index)  # whereupon all that is shown is planned anew
        self.show_player()

    def _set_number(self, name: str, value: float) -> None:
        number = self.numbers[name].of
        try:
            self.set_player(number.set(self.player, value), name)
        except DromicError as error:
            self.noticed.emit(str(error), False)
            self.show_player()

    def _set_habit(self, name: str, value: object) -> None:
        self.set_player(self.habits[name].of.set(self.player, value), "")

    def _choose(self, name: str) -> None:
        if name and name != self.planning.choices.player:
            self._push("player", (dict(self.roster.own), replace(self.planning.choices, player=name)))

    def copy(self) -> None:
        label = f"{self.player.label}, again"
        self._add(replace(self.player, name=self.roster.fresh_name(label), label=label))

    def _add(self, player: Player) -> None:
        own = {**self.roster.own, player.name: player}
        self._push("new player", (own, replace(self.planning.choices, player=player.name)))

    def ask_name(self) -> None:
        text, sure = QInputDialog.getText(self, "Rename", "Name of this player", text=self.player.label)
        if sure and text.strip():
            self.set_player(replace(self.player, label=text.strip()), "")

    def delete(self) -> None:
        own = {k: v for k, v in self.roster.own.items() if k != self.player.name}
        self._push("deleted player", (own, replace(self.planning.choices, player="fluent")))

    def ask_import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Import a player", "", "Player files (*.toml)")
        if name:
            self.import_file(Path(name))

    def import_file(self, path: Path) -> None:
        """A player from a file, under a name of its own."""
        try:
            player = presets.player_from_file(path)
        except DromicError as error:
            self.noticed.emit(str(error), False)
        else:
            self._add(replace(player, name=self.roster.fresh_name(player.label)))

    def ask_export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Export this player", f"{self.player.name}.toml", "Player files (*.toml)"
        )
        if name:
            self.export_file(Path(name))

    def export_file(self, path: Path) -> None:
        try:
            save(path, player_bytes(self.player))
        except DromicError as error:
            self.noticed.emit(str(error), False)
        else:
            self.noticed.emit(f"{self.player.label} is written to {path.name}", True)

    def flush(self) -> None:
        """Bring what changed to the disk."""
        try:
            self.roster.flush()
        except DromicError as error:
            self.noticed.emit(str(error), False)

    # what is shown

    def show_player(self) -> None:
        player = self.player
        with QSignalBlocker(self.who), QSignalBlocker(self.switching):
            self.who.clear()
            for name, one in self.roster.players.items():
                self.who.addItem(one.label, name)
            self.who.setCurrentIndex(self.who.findData(player.name))
            self.switching.setChecked(len(player.leans) > 1)
        for number_row in self.numbers.values():
            number_row.show_player(player)
        for habit_row in self.habits.values():
            habit_row.show_player(player)
        for name in ("Delete", "Rename"):
            self.buttons[name].setEnabled(player.name in self.roster.own)
        phrase = self.planning.phrase
        named = presets.instruments().get(self.planning.choices.instrument)
        self.spreads.show_player(player)
        self.sides.show_player(player)
        self.drawing.show_player(player, named or (phrase.instrument if phrase else None) or presets.usual_instrument())
        self._planned()

    def _planned(self) -> None:
        if not self.isVisible():
            return
        plan = self.planning.plan
        self.ceiling.setText("…" if plan is None else "none" if plan.ceiling is None else f"{plan.ceiling:.0f}")
        title = plan.request.phrase.title if plan is not None else "no phrase"
        self.words.setText(f"Ceiling of {title}, an estimate")
        for habit_row in self.habits.values():
            if plan is not None and not habit_row.of.works_in(plan.request.school):
                habit_row.show_effect(None, plan.request.school)
        self._ask.start()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.show_player()

    def _ask_effects(self) -> None:
        """What each number a tenth better, and the other sides of each habit, would do to the ceiling."""
        plan, player = self.planning.plan, self.player
        if plan is None or (plan.request.player != player and not self.planning.choices.lean):
            return
        asked: dict[tuple[str, Any], Player] = {}
        school = plan.request.school
        for number in NUMBERS:
            better = number.improved(player)
            if better is not None:
                asked[number.name, None] = better
        for habit in HABITS:
            for option in habit.options:
                if option.value != habit.get(player) and habit.name != "left_handed" and habit.works_in(school):
                    asked[habit.name, option.value] = habit.set(player, option.value)
        self.worker.start(lambda progress: effects(plan, asked, progress))

    def _show_effects(self, answer: object) -> None:
        assert isinstance(answer, dict)
        plan = self.planning.plan
        school = plan.request.school if plan is not None else presets.schools()[self.planning.choices.school]
        for name, number_row in self.numbers.items():
            number_row.show_effect(answer.get((name, None)))
        for name, habit_row in self.habits.items():
            gains = [(gain, value) for (n, value), gain in answer.items() if n == name]
            habit_row.show_effect(max(gains, key=lambda g: g[0]) if gains else None, school)

    def set_theme(self, theme: Theme) -> None:
        self.drawing.set_theme(theme)
        self.school_cards.set_theme(theme)
        self.spreads.set_theme(theme)

    def stop(self) -> None:
        """The window closes."""
        self.flush()
        self.worker.close()


def effects(plan: Plan, asked: dict[tuple[str, Any], Player], progress: Progress) -> dict[tuple[str, Any], float]:
    """What the ceiling of a plan's request gains with each of some players instead, in quarters a minute."""
    found = {}
    for n, (key, player) in enumerate(asked.items()):
        if not progress(n / len(asked)):
            raise Cancelled
        habits = player.habits
        request = replace(
            plan.request, player=player, rest_through=habits.rest_through, skip_through=habits.skip_through
        )
        try:
            ceiling = solve_meant(request, progress).metrics.ceiling
        except DromicError:
            continue
        found[key] = (ceiling or 0.0) - (plan.ceiling or 0.0)
    return found

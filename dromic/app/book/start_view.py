"""What a window without a phrase shows: begin, open, go on where one stopped, take back what was lost; and one plan played before
one's eyes."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from dromic import presets
from dromic.app.book.glance_picture import GlanceCard, LivePicture
from dromic.app.book.school_cards import SchoolCards
from dromic.app.kit.theme import LIGHT, Theme
from dromic.core.reports.glance import Glance
from dromic.presets import DATA
from dromic.store.glances import read_glance
from dromic.store.recovery import Leftover
from dromic.store.takes import KeptTake

LIVE = "metal"
"""whose demo is played"""
MOST_CARDS = 5
_WIDE = 430
"""Width of the column of what can be begun with, px."""
_TITLE = 30
"""Size of the name over it, px."""


def demo_glance(player: str) -> Glance | None:
    """What a demo looks like, as it ships."""
    return read_glance(DATA / "songs" / f"{player}.glance.json")


class StartView(QWidget):
    """At the left what can be begun with, at the right what Dromic does."""

    begin = pyqtSignal()
    ask_open = pyqtSignal()
    paste = pyqtSignal()
    open_path = pyqtSignal(object, int)
    """a file, and which of its phrases"""
    recover = pyqtSignal(object)
    plays = pyqtSignal(str)
    """what the player says to play"""
    guide = pyqtSignal()
    hear = pyqtSignal(object)
    """a recording that is not kept yet"""

    def __init__(self, demo: Path, theme: Theme = LIGHT, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.demo, self.theme = demo, theme
        whole = QHBoxLayout(self)
        whole.setContentsMargins(40, 24, 40, 24)
        whole.setSpacing(40)
        left = QWidget()
        left.setFixedWidth(_WIDE)
        self.column, self.right = QVBoxLayout(left), QVBoxLayout()
        self.column.setContentsMargins(4, 0, 4, 0)
        self.column.setSpacing(8)
        self.right.setSpacing(8)
        whole.addWidget(left)
        whole.addLayout(self.right, 1)
        self.cards: list[GlanceCard] = []
        self.live: LivePicture | None = None
        self.first: QPushButton | None = None
        self.school_cards: SchoolCards | None = None
        self._front = 0
        """where in the column what was lost or not kept stands"""

    def _show_live(self) -> None:
        """One plan that is played, and a demo for each kind of player under it."""
        shown = demo_glance(LIVE)
        demos = presets.data("demos.toml")["demo"]
        if shown is not None:
            self.live = LivePicture(shown)
            self.live.set_theme(self.theme)
            tune = next(d["tune"] for d in demos if d["player"] == LIVE)
            self.live.pressed.connect(lambda: self.open_path.emit(self.demo, tune))
            self.right.addWidget(self.live, 1)
        told = QLabel(
            "Above, the pick on its way through the strings; below, the fingers. A bar that is hatched does not fit at this tempo: "
            "there it hurts, and Dromic says which one change helps most."
        )
        told.setObjectName("soft")
        told.setWordWrap(True)
        self.right.addWidget(told)
        title = QLabel("See it done: a demo for each kind of player")
        title.setObjectName("section")
        self.right.addWidget(title)
        grid = QGridLayout()
        grid.setSpacing(8)
        for n, one in enumerate(demos):
            card = GlanceCard(one["label"], one["about"], demo_glance(one["player"]), self.theme)
            card.clicked.connect(partial(self._open_demo, one["tune"]))
            card.setToolTip(one["about"])
            grid.addWidget(card, n // 2, n % 2)
            self.cards.append(card)
        self.right.addLayout(grid)

    def _open_demo(self, tune: int) -> None:
        self.open_path.emit(self.demo, tune)

    def show_choices(
        self, recent: list[Path], lost: list[Leftover], glance_of: Callable[[Path], Glance | None] = lambda _: None,
        plays: str = "",
    ) -> None:  # fmt: skip
        """What there is to begin with; `glance_of` tells what saved work looks like, `plays` what the player plays."""
        while (item := self.column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        recent = [path for path in recent if path != self.demo.resolve()]  # the demos have a place of their own
        heading = QLabel("Both hands, planned")
        heading.setObjectName("big")
        self.column.addWidget(heading)
        asks = not plays and not recent and not lost  # before the first phrase; later the page of the hands has it
        if not asks:
            self._words(
                "Write a phrase or open one; Dromic finds the strokes and the fingers, and says where it hurts."
            )
        self._front = self.column.count()
        if lost:
            self._section("Not saved when Dromic last went away")
            for left in lost:
                name = left.path.name if left.path else "a songbook without a file"
                self._button(f"Take back {name}", partial(self.recover.emit, left))
        if asks:
            self._ask_played()
        self._section("Begin")
        first = self._button("Write a new phrase", self.begin.emit)
        self._button("Paste   (tablature, ABC, a quick line, MusicXML)", self.paste.emit)
        self._button("Open a file…   (songbook, MusicXML, MIDI, ABC, tablature)", self.ask_open.emit)
        self._button("The first five minutes   (a guide, with pictures)", self.guide.emit)
        if recent:
            self._section("Go on with")
            for path in recent[:MOST_CARDS]:
                card = GlanceCard(path.name, str(path.parent), glance_of(path), self.theme, True)
                card.clicked.connect(partial(self._open_recent, path))
                card.setToolTip(str(path))
                self.column.addWidget(card)
                self.cards.append(card)
        self.column.addStretch(1)
        self._show_live()
        self.first = first
        self.setFocusProxy(first)

    def offer_recordings(self, takes: list[KeptTake]) -> None:
        """Recordings that are not kept yet, under the heading."""
        at = self._front
        for take in takes:
            button = QPushButton(f"Hear “{take.phrase[:_TITLE]}”, recorded {take.at:%-d %b %H:%M}")
            button.setObjectName("begin")
            button.clicked.connect(partial(self.hear.emit, take))
            self.column.insertWidget(at, button)
            at += 1
        if takes:
            label = QLabel("Recorded, not kept yet")
            label.setObjectName("section")
            self.column.insertWidget(self._front, label)
            self.column.insertSpacing(self._front, 12)

    def _ask_played(self) -> None:
        """What is played, asked once: every phrase without a word of its own begins in its school."""
        self._section("What do you play?")
        self._words("Every new phrase begins in its strokes; the page of the hands changes it.")
        self.school_cards = SchoolCards("", self.theme)
        self.school_cards.chosen.connect(self.plays)
        self.column.addWidget(self.school_cards)

    def _open_recent(self, path: Path) -> None:
        self.open_path.emit(path, 1)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        if self.live is not None:
            self.live.set_theme(theme)
        if self.school_cards is not None:
            self.school_cards.set_theme(theme)
        for card in self.cards:
            card.theme = theme
            card.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter does what Space does: the button that has the keyboard is pressed."""
        chosen = self.focusWidget()
        if event is not None and event.matches(QKeySequence.StandardKey.Paste):
            self.paste.emit()
            return
        enter = event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and isinstance(chosen, QPushButton):
            chosen.click()
        else:
            super().keyPressEvent(event)

    def _words(self, text: str) -> None:
        label = QLabel(text)
        label.setObjectName("soft")
        label.setWordWrap(True)
        self.column.addWidget(label)

    def _section(self, text: str) -> None:
        self.column.addSpacing(12)
        label = QLabel(text)
        label.setObjectName("section")
        self.column.addWidget(label)

    def _button(self, text: str, act: Callable[[], object]) -> QPushButton:
        button = QPushButton(text)
        button.setObjectName("begin")
        button.clicked.connect(lambda _checked=False: act())
        self.column.addWidget(button)
        return button

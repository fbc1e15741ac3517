"""The first five minutes: one hint at a time, which goes once it has been followed; all can be put away for good."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QWidget

from dromic.app.kit import stored
from dromic.app.window.shell import Shell

PUT_AWAY = "put away"
FEW_NOTES = 4
"""Notes in a bar that make something to plan."""
LOOK_MS = 400
"""How often it is looked whether a hint was followed, ms."""


class Hint(NamedTuple):
    """What to do, and when it has been done."""

    name: str
    words: str
    followed: Callable[[Shell], bool]


def _beyond_remedy(shell: Shell) -> bool:
    """Whether no single change helps anywhere, so that there is none to try."""
    findings = shell.plan.findings if shell.plan is not None else ()
    return bool(findings) and all(f.remedy is None for f in findings) and any(f.tried for f in findings)


HINTS: tuple[Hint, ...] = (
    Hint(
        "write", "Write a bar: choose a string with the arrow keys, type a fret, go on with the right arrow. Space plays it.",
        lambda w: len(w.open_book.phrase.events) >= FEW_NOTES,
    ),
    Hint("plan", "Now plan it: F3. Both hands are laid out, the picking hand above, the fretting hand below.",
         lambda w: w.pages.place == "Plan" and w.plan is not None and w.planning.up_to_date),
    Hint("worst", "Where does it hurt most? F8 goes to the worst place, and on to the next. Nothing listed? Raise the tempo (Alt+T).",
         lambda w: w.plan_place.findings.current() is not None),
    Hint("remedy", "Do what would help: F9 tries the remedy of the place chosen, or press Try it. Ctrl+Z takes it back.",
         lambda w: w.planning.changes_made > 0 or _beyond_remedy(w)),
    Hint("weigh", "Hold the schools against each other: F4. Enter takes the one you want to Plan.",
         lambda w: w.pages.place == "Weigh" and bool(w.pages.weigh.entries)),
)  # fmt: skip


class Hints(QFrame):
    """Shows the first hint that has not been followed yet, once `begin` is called; looks from time to time whether it was."""

    def __init__(self, shell: Shell, settings: QSettings, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shell, self.settings = shell, settings
        self.setObjectName("card")
        self.words, self.away = QLabel(), QPushButton("Put the hints away")
        self.words.setWordWrap(True)
        self.words.setAccessibleName("hint")
        self.away.setToolTip("For good; the songbook's menu shows them again")
        self.away.clicked.connect(self.put_away)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 4, 4)
        row.addWidget(self.words, 1)
        row.addWidget(self.away)
        self._beat = QTimer(self)
        self._beat.setInterval(LOOK_MS)
        self._beat.timeout.connect(self.look)
        self.hide()

    @property
    def done(self) -> list[str]:
        """Names of what has been followed."""
        return [name for name in stored.text(self.settings, "hints").split(",") if name]

    @property
    def now(self) -> Hint | None:
        """The hint to show: none where all are followed or put away."""
        done = self.done
        return None if PUT_AWAY in done else next((h for h in HINTS if h.name not in done), None)

    def begin(self) -> None:
        """From an empty window: what has not been followed yet is shown from now on."""
        if self.now is not None:
            self._beat.start()
            self.look()

    def begin_again(self) -> None:
        """All of them, from the first on."""
        self.settings.setValue("hints", "")
        self.begin()

    def put_away(self) -> None:
        self.settings.setValue("hints", PUT_AWAY)
        self._beat.stop()
        self.hide()

    def look(self) -> None:
        """A hint that has been followed goes, and the next comes."""
        while (hint := self.now) is not None and hint.followed(self.shell):
            self.settings.setValue("hints", ",".join([*self.done, hint.name]))
        self.setVisible(hint is not None)
        if hint is None:
            self._beat.stop()
        else:
            self.words.setText(f"{[h.name for h in HINTS].index(hint.name) + 1} of {len(HINTS)}   {hint.words}")

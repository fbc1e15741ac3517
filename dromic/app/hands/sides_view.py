"""Where players disagree, on the page of the hands: both sides with their reasons, the one taken marked."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QTextBrowser, QWidget

from dromic.core.setup.disagreements import DISAGREEMENTS, Disagreement
from dromic.core.setup.player import Habits, Player


class SidesView(QTextBrowser):
    """A page to read; sides are taken at the places it names."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shown: Habits | None = None
        self.setAccessibleName("where players disagree")
        self.setFrameShape(self.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_player(self, player: Player) -> None:
        """Every point, with the side that this player has taken."""
        if player.habits == self.shown:
            return  # a number of the hands takes no side
        self.shown = player.habits
        at = self.verticalScrollBar()
        place = at.value() if at is not None else 0
        self.setHtml("".join(_point(one, player) for one in DISAGREEMENTS))
        if at is not None:
            at.setValue(place)


def _point(one: Disagreement, player: Player) -> str:
    taken = one.taken(player)
    sides = "".join(
        f"<li><b>{escape(side.label)}</b>{' (yours)' if side is taken else ''}: {escape(side.why)}</li>"
        for side in one.sides
    )
    return f"<p><b>{escape(one.point)}</b> <span>({escape(one.where)})</span></p><ul>{sides}</ul>"

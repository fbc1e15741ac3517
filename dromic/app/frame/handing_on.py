"""What one page hands to another: a plan chosen, a drill, a place that went wrong, hands that were learned."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QSettings

from dromic.app.book.school_cards import SETTING, school_of
from dromic.app.frame.pages import Pages

if TYPE_CHECKING:
    from dromic.core.drills.drill import Drill
    from dromic.core.setup.choices import Choices
    from dromic.core.setup.decision import Decision
    from dromic.core.setup.player import Player


class HandingOn:
    """An answer to each thing a page hands over."""

    def __init__(self, pages: Pages, settings: QSettings) -> None:
        self._pages, self._planning, self._settings = pages, pages.planning, settings

    def take_choices(self, choices: Choices) -> None:
        """What was chosen on Weigh, taken to Plan."""
        self._planning.choose(choices)
        self._pages.go_to("Plan")

    def keep_decision(self, decision: Decision) -> None:
        """The plan decided on, kept with the phrase and taken to Plan."""
        self._planning.open_book.decide(decision)
        kept = f"Kept: {decision.label}. It is saved with the phrase and stands on its sheet; Ctrl+Z takes it back"
        self._pages.notice.say(kept, True)

    def take_drill(self, drill: Drill) -> None:
        """A drill as a phrase of its own, after the one it came from, with its strokes and fingers as they are written."""
        self._planning.open_book.add_phrase(drill.phrase)
        self._pages.go_to("Plan")

    def practise_event(self, event: int) -> None:
        """To Shed, and the drill for a place that went wrong."""
        self._pages.go_to("Shed")
        self._pages.shed.choose(event)

    def take_hands(self, player: Player) -> None:
        """Numbers learned from the log, as a change of the hands like any other."""
        self._pages.hands.set_player(player, "")
        self._pages.notice.say(
            "Your hands are now as your passes have them (F7 shows them); Ctrl+Z takes it back", True
        )

    def play_kind(self, plays: str) -> None:
        """What the player plays, from now on."""
        self._settings.setValue(SETTING, plays)
        self._planning.open_book.play(school_of(plays))

"""A pin: what the player pins about a note, and the search must leave as it is."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dromic.core.values.checks import check_choice, check_whole
from dromic.core.values.vocabulary import ATTACKS, FINGERS, STROKES

BARRE = "barre"
FIELDS = ("string", "fret", "finger", "position", "stroke", "attack", "lean", BARRE)
WHOLE = {"string": (1, 9), "fret": (0, 36), "position": (1, 36)}
_WORDS = {"finger": FINGERS, "stroke": (*STROKES, "none"), "attack": ATTACKS, BARRE: ("yes", "no")}


@dataclass(frozen=True, slots=True, order=True)
class Pin:
    """One thing pinned: `event` and `note` count from 0, the notes of an event from the lowest pitch up."""

    event: int
    note: int
    field: str
    value: int | str

    def __post_init__(self) -> None:
        check_choice("what a pin pins", self.field, FIELDS)
        if self.field in WHOLE:
            check_whole(self.field, self.value, *WHOLE[self.field])
        elif self.field in _WORDS:
            check_choice(self.field, self.value, _WORDS[self.field])

    def moved(self, by: int) -> Pin:
        """The same of an event so many further on."""
        return replace(self, event=self.event + by)

    def __str__(self) -> str:
        return f"note {self.event + 1}: {self.field} {self.value}"

"""What stands out in a plan, the change that would help, and what it would bring."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.setup.pin import Pin

SET_STROKE, DOUBTFUL = "set-stroke", "doubtful"
COUNTED = "count-on-string"
GRACE_LIMITS, FASTER_PLACES = "grace-limits", "faster-places"
OF_THE_PLAYER = (SET_STROKE, DOUBTFUL)
"""rules of findings about what the player did at a note: what a stroke set there does to the rest, and what its other reading would"""


@dataclass(frozen=True, slots=True)
class Change:
    """One thing changed, in words and so that it can be done: what to pin, events and how they are sounded instead, an
    event and the stroke set against the school, the other first stroke, the other lean by its label, another school by its name, how
    graces are sounded, or the events whose graces are left out."""

    text: str
    pins: tuple[Pin, ...] = ()
    attacks: tuple[tuple[int, str], ...] = ()
    override: tuple[int, str] | None = None
    start: str | None = None
    lean: str | None = None
    school: str | None = None
    graces: str | None = None
    ungraced: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Remedy:
    """The single change that helps most at a finding, the ceiling of the whole plan with it and the tempo this place
    alone would then allow (None where the finding is not about time)."""

    change: Change
    ceiling: float | None
    place_ceiling: float | None

    @property
    def text(self) -> str:
        """What to do, in words."""
        return self.change.text


@dataclass(frozen=True, slots=True)
class RowCost:
    """What one row of the price list costs at a place, in units of the objective, at the tempo asked for. `parts` are the times in ms
    that a load is made of."""

    name: str
    hand: str
    cost: float
    words: str
    parts: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Limit:
    """What sets a ceiling: the rows of the price list that make the time of the hardest move, the longest first, the player's numbers
    that they read, and the index of the note that the move goes to."""

    rows: tuple[str, ...]
    hand: str
    numbers: tuple[str, ...]
    note: int


@dataclass(frozen=True, slots=True)
class Finding:
    """A place where it hurts: which rule, which notes (by index), how much, and why in one sentence. `at` is the note
    to look at first."""

    rule: str
    notes: tuple[int, ...]
    severity: str
    load: float
    hand: str
    text: str
    at: int
    remedy: Remedy | None = None
    advice: str = ""
    """what would help where no single change does"""
    tried: bool = False
    """whether a remedy has been looked for"""
    detail: str = ""
    """what it stands on in ms and mm, for those who ask"""
    rows: tuple[RowCost, ...] = ()
    """what makes the place dear, the dearest first"""

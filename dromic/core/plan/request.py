"""What is asked of the planner: a phrase, who plays it on what, in which school, and what is held."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.music.graces import sounding
from dromic.core.music.phrase import Phrase
from dromic.core.prices.price_list import PRICES
from dromic.core.prices.row import PriceList
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.pin import Pin
from dromic.core.setup.player import Player
from dromic.core.setup.school import LEGATO, School
from dromic.core.values.checks import check_choice
from dromic.core.values.errors import DromicError
from dromic.core.values.vocabulary import BEFORE, GRACE_TIMES, GRACE_WAYS, SLURRED

ALL_STATED = frozenset({"positions", "fingers", "strokes", "attacks"})
"""everything of a phrase that a plan can be told to keep"""


@dataclass(frozen=True, slots=True)
class Request:
    """Everything a plan depends on. `keep` names what the phrase states and the search must not change."""

    phrase: Phrase
    instrument: Instrument
    player: Player
    school: School
    pulse: str | None = None
    start: str | None = None
    skip_through: bool = True
    keep: frozenset[str] = frozenset({"positions", "attacks"})
    repeat: bool = False
    legato: str = "never"
    pattern: str = ""
    rest_through: bool = True
    """carried notes rest on the next string; otherwise each string gets an attack of its own"""
    graces: str = SLURRED
    """how grace notes are sounded of which nothing is stated: slurred to their note or from the one before, or picked"""
    grace_time: str = BEFORE
    """whose time they take: that of the note before, or of the one they lead to"""
    overrides: tuple[tuple[int, str], ...] = ()
    """(event, down or up): strokes the player sets against the school, which goes on from them"""
    pins: tuple[Pin, ...] = ()
    prices: PriceList = PRICES
    """what costs a hand, takes its time or is forbidden to it"""

    def __post_init__(self) -> None:
        check_choice("legato", self.legato, LEGATO)
        check_choice("graces", self.graces, GRACE_WAYS)
        check_choice("time of graces", self.grace_time, GRACE_TIMES)
        if not self.phrase.events:
            raise DromicError("there are no notes to plan; give it at least one note")

    @property
    def sounding(self) -> Phrase:
        """The phrase at the times at which its events sound."""
        return sounding(self.phrase, self.grace_time)

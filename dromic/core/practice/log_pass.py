"""A pass: once through a drill, as the log keeps it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from dromic.core.values.checks import check_choice, check_range, check_whole

HANDS = ("picking", "fretting", "both")
FAULTS = ("early", "late", "missed", "uneven", "buzz", "noise", "wrong", "tense")
SORENESS = ("none", "a little", "clear", "strong")


@dataclass(frozen=True, slots=True)
class Pass:
    """`at` is when it ended; `notes` are note numbers of the phrase; soreness from 0 to 3."""

    at: datetime
    phrase: str
    drill: str
    tempo: float
    clean: bool
    notes: tuple[int, ...] = ()
    hand: str | None = None
    fault: str | None = None
    attentive: bool = True
    seconds: float = 0.0
    soreness: int = 0
    burst: bool = False
    player: str = ""
    plan: str = ""
    note: str = ""

    def __post_init__(self) -> None:
        check_range("tempo of a pass", self.tempo, 1, 2000, "quarter notes a minute")
        check_range("seconds of a pass", self.seconds, 0, 86400, "seconds")
        check_whole("soreness", self.soreness, 0, 3)
        if self.hand is not None:
            check_choice("hand", self.hand, HANDS)
        if self.fault is not None:
            check_choice("fault", self.fault, FAULTS)

    @property
    def day(self) -> date:
        """The day it was played on."""
        return self.at.date()

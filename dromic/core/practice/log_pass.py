"""A pass: once through a drill, as the log keeps it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta

from dromic.core.values.checks import check_choice, check_range, check_whole
from dromic.core.values.errors import DromicError

HANDS = ("picking", "fretting", "both")
FAULTS = ("early", "late", "missed", "uneven", "buzz", "noise", "wrong", "tense")
SORENESS = ("none", "a little", "clear", "strong")
FIRST_YEAR, LAST_YEAR = 1990, 2200
"""of a pass: no clock that is right says another"""
MOST_LETTERS, MOST_NOTE, MOST_NOTES = 1000, 2000, 100_000
"""of a phrase, a drill, a player or a plan; of what is noted; and how many notes a pass can be of, and their numbers"""


def _check_words(name: str, value: object, least: int, most: int) -> None:
    """Refuse anything but a line of so many letters that a file can hold."""
    if not isinstance(value, str) or not least <= len(value) <= most:
        raise DromicError(f"{name} of a pass must be a text of {least} to {most} letters, not {value!r:.40}")
    if any(letter in "\n\r\0" or "\ud800" <= letter <= "\udfff" for letter in value):
        raise DromicError(f"{name} of a pass must be a line that can be written down, not {value!r:.40}")


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
        if not isinstance(self.at, datetime) or self.at.tzinfo is not None:
            raise DromicError(
                f"when a pass ended must be a local time such as 2026-11-25T20:41:00, not {self.at!r:.40}"
            )
        check_whole("year of a pass", self.at.year, FIRST_YEAR, LAST_YEAR)
        for name, least, most in (
            ("phrase", 1, MOST_LETTERS), ("drill", 1, MOST_LETTERS), ("player", 0, MOST_LETTERS), ("plan", 0, MOST_LETTERS),
            ("note", 0, MOST_NOTE),
        ):  # fmt: skip
            _check_words(name, getattr(self, name), least, most)
        for name in ("clean", "attentive", "burst"):
            if not isinstance(getattr(self, name), bool):
                raise DromicError(f"{name} of a pass must be true or false, not {getattr(self, name)!r:.40}")
        if not isinstance(self.notes, tuple) or len(self.notes) > MOST_NOTES:
            raise DromicError(f"the notes of a pass must be {MOST_NOTES} numbers at most")
        for number in self.notes:
            check_whole("note of a pass", number, 0, MOST_NOTES)
        check_range("tempo of a pass", self.tempo, 1, 2000, "quarter notes a minute")
        check_range("seconds of a pass", self.seconds, 0, 86400, "seconds")
        check_whole("soreness", self.soreness, 0, 3)
        if self.hand is not None:
            check_choice("hand", self.hand, HANDS)
        if self.fault is not None:
            check_choice("fault", self.fault, FAULTS)

    def played_by(self, today: date) -> Pass:
        """The same pass; DromicError where it lies more than a day past a day: a clock was wrong once, or a year mistyped."""
        if self.at.date() > today + timedelta(1):
            raise DromicError(f"a pass of {self.at:%Y-%m-%d} is still to come; it is {today:%Y-%m-%d}")
        return self

    @property
    def day(self) -> date:
        """The day it was played on."""
        return self.at.date()

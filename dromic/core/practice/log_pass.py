"""A pass: once through a drill, as the log keeps it; and whose passes they are."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from dromic.core.values.checks import check_choice, check_range, check_whole
from dromic.core.values.errors import DromicError

HANDS = ("picking", "fretting", "both")
FAULTS = ("early", "late", "missed", "uneven", "buzz", "noise", "wrong", "tense")
SORENESS = ("none", "a little", "clear", "strong")
FIRST_YEAR = 1990
"""Of a pass: no clock that is right says an earlier one."""
LAST_YEAR = 2200
"""Nor a later one."""
MOST_OFFSET_MIN = 1440
"""minutes that a local time lies before or behind UTC: less than a day (ISO 8601)"""
MOST_LETTERS = 1000
"""Letters of a phrase, a drill, a player or a plan."""
MOST_NOTE = 2000
"""Letters of what is noted."""
MOST_NOTES = 100_000
"""Notes a pass can be of, and their numbers."""
MOST_ID = 64
"""Letters of an id."""


_NO_LINE = re.compile("[\n\r\0\ud800-\udfff]")
"""what no line of a file can hold: line ends, zero and halves of surrogate pairs"""


def _check_words(name: str, value: object, least: int, most: int) -> None:
    """Refuse anything but a line of so many letters that a file can hold."""
    if not isinstance(value, str) or not least <= len(value) <= most:
        raise DromicError(f"{name} of a pass must be a text of {least} to {most} letters, not {value!r:.40}")
    if _NO_LINE.search(value):
        raise DromicError(f"{name} of a pass must be a line that can be written down, not {value!r:.40}")


@dataclass(frozen=True, slots=True)
class PhraseName:
    """Whose passes: a phrase by its id, under whatever title it goes; without one, what was logged under a title alone."""

    title: str
    id: str = ""

    @property
    def key(self) -> str:
        """What its passes are found under."""
        return f"id {self.id}" if self.id else f"title {self.title}"


@dataclass(frozen=True, slots=True)
class Pass:
    """`at` is the local time at which it ended, and `utc_offset_min` how far that lies before UTC, None where nobody said; `notes` are
    note numbers of the phrase; soreness from 0 to 3; `phrase` is the title it went under and `phrase_id` the phrase's id, empty where
    it was logged under a title alone."""

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
    utc_offset_min: int | None = None
    phrase_id: str = ""

    def __post_init__(self) -> None:
        if not isinstance(self.at, datetime) or self.at.tzinfo is not None:
            raise DromicError(
                f"when a pass ended must be a local time such as 2026-11-25T20:41:00, not {self.at!r:.40}"
            )
        check_whole("year of a pass", self.at.year, FIRST_YEAR, LAST_YEAR)
        for name, least, most in (
            ("phrase", 1, MOST_LETTERS), ("drill", 1, MOST_LETTERS), ("player", 0, MOST_LETTERS), ("plan", 0, MOST_LETTERS),
            ("note", 0, MOST_NOTE), ("phrase_id", 0, MOST_ID),
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
        if self.utc_offset_min is not None:
            check_whole("utc_offset_min of a pass", self.utc_offset_min, 1 - MOST_OFFSET_MIN, MOST_OFFSET_MIN - 1)
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

    @property
    def utc(self) -> datetime:
        """The moment it ended; where nobody said how local time lay, local time stands for it."""
        return self.at - timedelta(minutes=self.utc_offset_min or 0)

    @property
    def of(self) -> PhraseName:
        """Whose pass it is."""
        return PhraseName(self.phrase, self.phrase_id)

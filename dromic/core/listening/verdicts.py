"""The verdict on a note: rules in the order they are asked, the first that holds is the verdict. A rule is one entry. What went wrong
in the sounding comes before what went wrong in time: a stroke that came weak and late is a weak one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from dromic.core.listening.due import Due
from dromic.core.setup.listen_settings import JudgeNumbers

CONNECT, EXACT, SEPARATE, RING = "connect", "exact", "separate", "ring"
IDEALS = (CONNECT, EXACT, SEPARATE, RING)
"""what notes are to do at their ends: touch the next, end with it, stand apart, or ring on"""
CLEAN, DRIVEN = "clean", "driven"
SIGNALS = (CLEAN, DRIVEN)
OK = "ok"


@dataclass(frozen=True, slots=True)
class Manner:
    """How a take is judged: the ideal that notes follow at their ends, and whether its signal is driven."""

    ideal: str = CONNECT
    signal: str = CLEAN


@dataclass(frozen=True, slots=True)
class Evidence:
    """What was heard of a note: its onset and how far it was off (seconds), the time to its nearer neighbour, how well its pitch fits
    (0 to 1), dB against its like, whether it was sounded twice, dB of what is left of it late in its own time and in the time of the
    next note, cents of a bend. None for what was not heard, or cannot be told."""

    due: Due
    heard_s: float | None
    error_s: float | None
    room_s: float
    fits: float
    db: float | None
    twice: bool
    late_db: float | None
    after_db: float | None
    cents: float | None


Numbers = JudgeNumbers


def timing_room(room_s: float, numbers: Numbers) -> float:
    """How far an onset may be off, in seconds, with so much time to its nearer neighbour."""
    return max(numbers.late_ms / 1000, numbers.late_share * room_s)


def _off(seen: Evidence, numbers: Numbers) -> float:
    """How far off the time an onset is, against the room there is: over 1 is late, under -1 early."""
    wider = 1.0 if seen.due.picked else numbers.hammer_wider
    return (seen.error_s or 0.0) / (timing_room(seen.room_s, numbers) * wider)


def _loud(seen: Evidence, numbers: Numbers, manner: Manner) -> float:
    """How far from its like a note's loudness is, against the limit."""
    return (seen.db or 0.0) / (numbers.driven_db if manner.signal == DRIVEN else numbers.weak_db)


def _ends_free(seen: Evidence) -> bool:
    """Whether nothing is asked of a note's end."""
    return seen.due.silent or bool(seen.due.note.marks & {"palm-mute", "let-ring"})


def _short(seen: Evidence, numbers: Numbers, manner: Manner) -> bool:
    if seen.late_db is None or _ends_free(seen) or manner.ideal == SEPARATE:
        return False
    return seen.late_db < -numbers.short_db


def _ringing(seen: Evidence, numbers: Numbers, manner: Manner) -> bool:
    if seen.after_db is None or _ends_free(seen) or manner.ideal == RING:
        return False
    return seen.after_db > -(numbers.touching_db if manner.ideal in (EXACT, SEPARATE) else numbers.ringing_db)


RULES: tuple[tuple[str, Callable[[Evidence, Numbers, Manner], bool]], ...] = (
    ("missed", lambda seen, numbers, manner: seen.heard_s is None),
    ("doubled", lambda seen, numbers, manner: seen.twice),
    ("wrong", lambda seen, numbers, manner: not seen.due.silent and seen.fits < numbers.fits),
    ("weak", lambda seen, numbers, manner: _loud(seen, numbers, manner) < -1),
    ("loud", lambda seen, numbers, manner: _loud(seen, numbers, manner) > 1 and "accent" not in seen.due.note.marks),
    ("late", lambda seen, numbers, manner: _off(seen, numbers) > 1),
    ("early", lambda seen, numbers, manner: _off(seen, numbers) < -1),
    ("wrong", lambda seen, numbers, manner: abs(seen.cents or 0.0) > numbers.cents),
    ("short", _short),
    ("ringing", _ringing),
)


def verdict_of(seen: Evidence, numbers: Numbers, manner: Manner) -> str:
    """The first of the rules that holds, or ok."""
    return next((name for name, holds in RULES if holds(seen, numbers, manner)), OK)

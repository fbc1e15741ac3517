"""What is said of a take: for every note when it was due and heard, how loud, and a verdict; evenness; the worst places."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class NoteReport:
    """One note; times in seconds of the take, errors in milliseconds, loudness in dB against the middle of its kind. `sure` runs from
    0 to 1."""

    index: int
    event: int
    due_s: float
    heard_s: float | None
    error_ms: float | None
    gap_error_ms: float | None
    gap_share: float | None
    """the same as a share of the gap"""
    db: float | None
    cents: float | None
    verdict: str
    sure: float
    load: float
    apart_ms: float | None = None
    """how long before it the pick was heard without the finger; None where the signal does not show it"""


@dataclass(frozen=True, slots=True)
class Worst:
    """A place to work on: its notes, what is wrong there, by how much, the likely cause from the plan, the event its move arrives
    at."""

    notes: tuple[int, ...]
    what: str
    ms: float
    likely: str
    hand: str
    event: int
    load: float


@dataclass(frozen=True, slots=True)
class Even:
    """Notes of one kind: how late they are in the mean, how uneven in time (root mean square), how loud in the mean against all, and
    how uneven in loudness."""

    group: str
    kind: str
    count: int
    late_ms: float
    timing_ms: float
    db: float
    loudness_db: float


@dataclass(frozen=True, slots=True)
class Ratio:
    """Long against short: as it is meant and as it was played (the middle of so many)."""

    kind: str
    meant: float
    played: float
    count: int


@dataclass(frozen=True, slots=True)
class Steadiness:
    """The slowest and the fastest stretch in quarters a minute, and by which share it ended faster than it began."""

    slowest: float
    fastest: float
    drift: float


@dataclass(frozen=True, slots=True)
class OtherString:
    """An open string that sounds with a note (its number) and is not meant to, and how loud it is against it."""

    index: int
    string: int
    db: float


@dataclass(frozen=True)
class TakeReport:
    """A take against its plan. `extra` are (second, number of the note it is near)."""

    tempo: float
    started_s: float
    confidence: float
    notes: tuple[NoteReport, ...]
    extra: tuple[tuple[float, int], ...]
    timing_ms: float
    loudness_db: float
    long_short: float | None
    worst: tuple[Worst, ...]
    said: tuple[str, ...]
    even: tuple[Even, ...] = ()
    ratios: tuple[Ratio, ...] = ()
    steady: Steadiness | None = None
    strings: tuple[OtherString, ...] = ()
    sounded: tuple[float, ...] = ()
    """every onset that is taken for one that was played, in seconds: those of notes, second ones of doubled notes, and extra"""

    @property
    def faults(self) -> tuple[NoteReport, ...]:
        """The notes that something is said of."""
        return tuple(n for n in self.notes if n.verdict != "ok")

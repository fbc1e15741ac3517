"""Practice day by day: the fastest clean tempo, clean and missed passes, and minutes by hand."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date

from dromic.core.drills.drill_kinds import BY_NAME
from dromic.core.practice.log_pass import Pass


@dataclass(frozen=True, slots=True)
class Day:
    """A day of practice; `clean_tempo` is its fastest clean pass, bursts left aside."""

    day: date
    clean_tempo: float | None
    clean: int
    missed: int
    minutes: dict[str, float] = field(default_factory=dict)
    """by hand: picking, fretting, both"""


def hand_of(kind: str) -> str:
    """Which hand a kind of drill practises."""
    return BY_NAME[kind].hand if kind in BY_NAME else "both"


def days_of(passes: Sequence[Pass]) -> tuple[Day, ...]:
    """The days that passes were played on, in their order."""
    return summed_days(
        Day(
            one.day,
            one.tempo if one.clean and not one.burst else None,
            int(one.clean),
            int(not one.clean),
            {hand_of(one.drill.split(":")[0]): one.seconds / 60},
        )
        for one in passes
    )


def summed_days(days: Iterable[Day]) -> tuple[Day, ...]:
    """Each day once, in their order: what was played of several drills on it is summed up."""
    found: dict[date, Day] = {}
    for one in days:
        before = found.get(one.day, Day(one.day, None, 0, 0))
        fastest = max((t for t in (before.clean_tempo, one.clean_tempo) if t is not None), default=None)
        minutes = {
            hand: before.minutes.get(hand, 0.0) + one.minutes.get(hand, 0.0)
            for hand in {**before.minutes, **one.minutes}
        }
        found[one.day] = Day(one.day, fastest, before.clean + one.clean, before.missed + one.missed, minutes)
    return tuple(found[day] for day in sorted(found))

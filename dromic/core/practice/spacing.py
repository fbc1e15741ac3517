"""Practice spaced over the days: what was clean near its target on several days rests before it comes round again, longer each time.
The steps are a setting of practice.toml; expanding spacing is common practice of teachers, with no one published source."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, timedelta

from dromic.core.practice.log_pass import Pass

_NEAR = 0.9
"""of the target: clean at this share counts as clean"""


def clean_days(passes: Sequence[Pass], target: float) -> tuple[int, date | None]:
    """On how many days in a row, up to its last, a drill was clean near the target; and which day the last was."""
    by_day: dict[date, bool] = {}
    for one in passes:
        if one.attentive:
            good = one.clean and not one.burst and one.tempo >= _NEAR * target
            by_day[one.day] = by_day.get(one.day, False) or good
    count = 0
    for day in sorted(by_day, reverse=True):
        if not by_day[day]:
            break
        count += 1
    return count, max(by_day, default=None)


def due_again(passes: Sequence[Pass], target: float, steps: Sequence[float]) -> date | None:
    """The day a drill comes round again; None where it was not clean near its target, which is due every day."""
    count, last = clean_days(passes, target)
    if not count or last is None:
        return None
    return last + timedelta(days=int(steps[min(count, len(steps)) - 1]))


def resting(
    passes: Mapping[str, Sequence[Pass]], target: float, steps: Sequence[float], today: date
) -> dict[str, date]:
    """The drills, by name, that rest today, with the day they come round again."""
    due = {name: due_again(of, target, steps) for name, of in passes.items()}
    return {name: day for name, day in due.items() if day is not None and day > today}

"""When the target may be reached, from the days of practice so far."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dromic.core.practice.days import Day

_LEAST_DAYS = 4
"""days with a clean pass before anything is said of days to come"""
_LOOK_BACK = 14
_FARTHEST_DAYS = 365
_NEAR = 0.995
"""of the target counts as reached"""
_AGAIN = (-1, -1)


def days_to(target: float, days: Sequence[Day]) -> tuple[int, int] | None:
    """Between how many and how many days after the last one the target may be reached, an estimate: a straight line through the
    logarithms of the last clean tempos by least squares, twice the standard error of its slope to either side. None where too
    few days are known, or the tempo does not rise; 0 and 0 where it is reached, -1 and -1 where it was and is no more."""
    known = [d for d in days if d.clean_tempo][-_LOOK_BACK:]
    if len(known) < _LEAST_DAYS:
        return None
    x = np.array([(d.day - known[-1].day).days for d in known], dtype=float)
    y = np.log([d.clean_tempo or 1.0 for d in known])
    (slope, end), covariance = np.polyfit(x, y, 1, cov="unscaled")
    rest = y - (slope * x + end)
    error = float(np.sqrt(covariance[0, 0] * (rest**2).sum() / max(1, len(x) - 2)))
    if (known[-1].clean_tempo or 0.0) >= target * _NEAR:
        return 0, 0
    if any((d.clean_tempo or 0.0) >= target * _NEAR for d in known):
        return _AGAIN
    missing = max(0.0, float(np.log(target) - end))
    fast, slow = slope + 2 * error, slope - 2 * error
    if slope <= 0 or missing / fast > _FARTHEST_DAYS:
        return None
    latest = missing / slow if slow > 0 else float(_FARTHEST_DAYS)
    return int(np.ceil(missing / fast)), int(min(np.ceil(latest), _FARTHEST_DAYS))


def days_words(target: float, days: Sequence[Day]) -> str:
    """The same in a sentence."""
    if not days:
        return "Nothing is in the log yet."
    found = days_to(target, days)
    if found is None:
        return "Nothing can be said yet of when the target is reached: too few days, or the tempo does not rise."
    if found == (0, 0):
        return f"The target of {target:g} is reached."
    if found == _AGAIN:
        return f"The target of {target:g} was reached before; it is to be reached again."
    until = f"{found[1]}" if found[1] < _FARTHEST_DAYS else "many"
    return f"At this rate the target of {target:g} is reached in {found[0]} to {until} days, an estimate."


def ready_words(target: float, days: Sequence[Day], in_days: int) -> str:
    """What it asks of each day to be at the target in so many days, planned back from there; and whether the days so far say that
    it can be."""
    best = max((d.clean_tempo for d in days if d.clean_tempo), default=None)
    if best is None:
        return f"Ready in {in_days} days: begin today; what each day asks is known after the first clean pass."
    if best >= target * _NEAR:
        return f"Ready in {in_days} days: the target was clean already; keep it."
    asked = (target / best) ** (1.0 / in_days) - 1.0
    found = days_to(target, days)
    if found is None or found == _AGAIN:
        said = "the log does not say yet whether it can be"
    elif found[0] > in_days:
        said = f"at the rate so far it is reached in {found[0]} days at the earliest, so not by then"
    elif found[1] > in_days:
        said = "the log says it may be, or may not"
    else:
        said = "the log says it will be"
    return f"Ready in {in_days} days asks for {asked:.1%} a day; {said} (an estimate)."

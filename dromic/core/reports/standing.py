"""How plans of one phrase stand to each other at a glance: in which order by a measure, what each is best at in a word, and how near
each of its bars is to its limit."""

from __future__ import annotations

from collections.abc import Sequence

from dromic.core.plan.plan import Plan
from dromic.core.reports.comparison import NUMBERED, Measure, best_at, ceilings_by_bar

STRENGTHS: tuple[tuple[str, str], ...] = (
    ("fastest", "ceiling"), ("lasting", "kept-up-for-half-a-minute"), ("lightest", "work-of-both-hands"),
    ("shortest path", "pick-travel"), ("fewest over", "strings-passed-over"), ("clean changes", "inside-changes"),
    ("unburied", "buried-hops"), ("unturned", "turnarounds"), ("stillest", "shifts"), ("closest hand", "longest-stretch"),
    ("in step", "knots"), ("even attacks", "first-attacks-unlike-the-others"),
)  # fmt: skip
"""a word for being best at a measure, the most telling first"""
MOST_SHARING = 0.34
"""what more than this share of the plans are best at is no plan's strength"""


def ranked(measure: Measure, plans: Sequence[Plan | None]) -> list[int]:
    """The numbers of some plans, the best at a measure first (the least, where neither more nor less is better), those that are not
    limited by it as the best, those that are no plans last."""

    def place(n: int) -> tuple[int, float]:
        plan = plans[n]
        value = measure.of(plan) if plan is not None else None
        if plan is None:
            return 2, float(n)
        return (0, float(n)) if value is None else (1, -(measure.better or -1) * float(value))

    return sorted(range(len(plans)), key=place)


def strengths(plans: Sequence[Plan | None]) -> list[str]:
    """What each plan is best at, in a word; empty for one that is best at nothing, or only at what many are."""
    found = [""] * len(plans)
    there = sum(plan is not None for plan in plans)
    for word, name in STRENGTHS:
        best = best_at(NUMBERED[name], plans)
        if len(best) > max(1, MOST_SHARING * there):
            continue
        for n in best:
            found[n] = found[n] or word
    return found


def pressed_bars(plan: Plan) -> list[float | None]:
    """Bar by bar the share of its limit that the tempo asked for takes: 1 just fits, None where no move takes time."""
    limits = ceilings_by_bar(plan)
    tempo = plan.request.phrase.tempo
    return [tempo / limits[bar] if bar in limits else None for bar in range(len(plan.request.phrase.bars))]

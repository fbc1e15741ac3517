"""Where a plan does not fit: whether lying elsewhere on the neck would truly be faster, with what that brings and costs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dromic.core.findings.evidence import FRETTING
from dromic.core.plan.finding import FASTER_PLACES, Change, Finding, Remedy
from dromic.core.plan.plan import Plan
from dromic.core.reports.comparison import differing
from dromic.core.reports.explain import many
from dromic.core.search.planner import Pace, Solved, judge, solve
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError

_WORTH = 1.03
"""times the ceiling that leaping must bring"""


def told_of_faster_places(solved: Solved) -> Iterator[Finding]:
    """For a plan that does not fit: the one made where every load counts as it would at the tempo asked for, if that is faster."""
    plan, request = judge(solved), solved.request
    asked = request.phrase.tempo
    if plan.ceiling is None or solved.tempo >= asked:
        return
    try:
        leaping = judge(solve(request, rough=True, pace=Pace(asked)))
    except DromicError:
        return
    if leaping.ceiling is None or leaping.ceiling < _WORTH * plan.ceiling:
        return
    moved = [e for e in differing(leaping, plan) if _places(leaping, e) != _places(plan, e)]
    if not moved:  # it is faster by its strokes or fingers alone
        return
    pins = tuple(
        Pin(event, leaping.place_in_chord(note), field, value)
        for event in moved
        for note in leaping.events[event]
        for field, value in (("string", note.string), ("finger", note.finger))
    )
    others = {(pin.event, pin.note, pin.field) for pin in pins}
    kept = tuple(pin for pin in request.pins if (pin.event, pin.note, pin.field) not in others)
    try:
        there = judge(solve(replace(request, pins=(*kept, *pins)), rough=True))
    except DromicError:
        return
    if there.ceiling is None or there.ceiling < _WORTH * plan.ceiling:
        return
    first = there.events[moved[0]][0]
    text = (
        f"Leaping over the neck would be faster: {many(len(moved), 'note')} elsewhere, first note {first.index + 1} in bar "
        f"{first.bar_number}, {_shifts(there)} instead of {plan.totals.shifts}, up to fret {_top(there)} instead of {_top(plan)}"
    )
    change = Change("lie there for the tempo's sake", pins)
    yield Finding(
        FASTER_PLACES, (first.index,), "minor", 0.0, FRETTING, text, first.index, Remedy(change, there.ceiling, None), tried=True,
    )  # fmt: skip


def _places(plan: Plan, event: int) -> list[tuple[int, int]]:
    return [(n.string, n.fret) for n in plan.events[event]]


def _shifts(plan: Plan) -> str:
    count = plan.totals.shifts
    return f"{count} shift" if count == 1 else f"{count} shifts"


def _top(plan: Plan) -> int:
    return max(n.fret for n in plan.notes)

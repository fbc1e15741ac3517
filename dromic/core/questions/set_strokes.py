"""What strokes set by the player do to the rest: whether the line is restored after them, or turned around to the end."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from dromic.core.findings.evidence import PICKING
from dromic.core.plan.finding import SET_STROKE, Finding
from dromic.core.plan.plan import Plan
from dromic.core.questions.whatif import after_strokes
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.values.errors import DromicError
from dromic.core.values.vocabulary import SIGN

MOST_RUNS = 12
"""runs of strokes set by the player that are told; each takes a search"""


def told_of_set_strokes(solved: Solved) -> Iterator[Finding]:
    """For each run of strokes that are set or pinned: what the school would play there, and what becomes of the strokes after it."""
    request, plan = solved.request, judge(solved)
    pinned = {pin.event for pin in request.pins if pin.field == "stroke"}
    for run in _runs(sorted({event for event, _ in request.overrides} | pinned))[:MOST_RUNS]:
        without = replace(
            request,
            overrides=tuple(o for o in request.overrides if o[0] not in run),
            pins=tuple(pin for pin in request.pins if pin.field != "stroke" or pin.event not in run),
        )
        try:
            usual = judge(solve(without, rough=True))
        except DromicError:
            continue  # the school has no way through without them: there is nothing to tell them against
        notes = tuple(plan.events[event][0].index for event in run)
        yield Finding(SET_STROKE, notes, "minor", 0.0, PICKING, _words(plan, usual, run), notes[0], tried=True)


def _runs(events: Sequence[int]) -> list[range]:
    found: list[range] = []
    for event in events:
        if found and event == found[-1].stop:
            found[-1] = range(found[-1].start, event + 1)
        else:
            found.append(range(event, event + 1))
    return found


def _words(plan: Plan, usual: Plan, run: range) -> str:
    """What is said of a run."""
    first, last = plan.events[run[0]][0], plan.events[run[-1]][0]
    school = plan.request.school.label
    other = [event for event in run if plan.events[event][0].stroke != usual.events[event][0].stroke]
    after = after_strokes(usual, plan, run[-1]) or _goes_on(plan, run[-1], bool(other))
    if len(run) == 1:
        had = usual.events[run[0]][0].stroke
        is_set = f"Note {first.index + 1} in bar {first.bar_number} is set to {first.stroke}"
        return (
            f"{is_set} where {school} has {had}; {after}"
            if other
            else f"{is_set}, which {school} has there anyway; {after}"
        )
    where = f"Notes {first.index + 1} to {last.index + 1} from bar {first.bar_number} on"
    if not other:
        return f"{where} are set to what {school} has there anyway; {after}"
    return f"{where} are set, {len(other)} of them against what {school} has there; {after}"


def _goes_on(plan: Plan, last: int, changed: bool) -> str:
    """What is said where no stroke after a run is another."""
    following = next((n for n in plan.leads[last + 1 :] if n.stroke in SIGN), None)
    if not changed or following is None:
        return "the strokes after that stay as they were"
    return f"the line is restored at note {following.index + 1}"

"""What if: every other choice for one note, with what it would do to the ceiling and to the work of each hand."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from dromic.core.music.stated_positions import placed_freely
from dromic.core.plan.finding import Change
from dromic.core.plan.plan import Plan
from dromic.core.plan.write_back import POSITIONS
from dromic.core.questions.changes import Tried, tried_against, tried_at, tried_plucks, tried_strings
from dromic.core.reports.comparison import differing, fretting_work, picking_work
from dromic.core.search.meant_pins import opened_at
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import DOWN, UP

STROKES = (DOWN, UP)


@dataclass(frozen=True, slots=True)
class Choice:
    """One other way to play a note: what to change, the ceiling with it, how much more work (in units of the
    objective) each hand has than now, how many notes are played otherwise than now, what becomes of the strokes
    after it, and how much dearer the plan is on the whole, with strain and all prices that are no hand's work in time."""

    change: Change
    ceiling: float | None
    gain: float
    """of the ceiling, in quarters a minute; 0 where nothing limits either plan"""
    picking: float
    fretting: float
    others: int
    after: str = ""
    whole: float = 0.0

    @property
    def strain(self) -> float:
        """What the whole changes by beside the work of the hands: stretches, barres, prices of strokes and strings."""
        return self.whole - self.picking - self.fretting


def what_if(solved: Solved, event: int, progress: Progress | None = None) -> tuple[Choice, ...]:
    """Every other choice for an event, the highest ceiling first, then what costs the whole least."""
    found: list[Choice] = []
    for tried in _tried(solved, event):
        if progress is not None and not progress(0.5):
            raise Cancelled
        found.append(_choice(judge(solved), tried, event))
    return tuple(sorted(found, key=lambda c: (-(c.ceiling or float("inf")), c.whole)))


def _tried(solved: Solved, event: int) -> Iterator[Tried]:
    stroke = False
    written = opened_at(solved.request, event)
    free = solve(written, rough=True, pace=solved.pace) if written is not None else solved
    for tried in tried_at(free, event, judge(solved).events[event][0]):
        stroke = stroke or any(pin.field == "stroke" for pin in tried.change.pins)
        yield tried
    yield from _elsewhere(solved, event)
    yield from tried_plucks(solved, event)
    if not stroke:
        yield from tried_against(free, event)


def _elsewhere(solved: Solved, event: int) -> Iterator[Tried]:
    """Other strings for a note whose place the phrase fixes, as if it left this one open."""
    phrase = solved.request.phrase
    notes = phrase.events[event].notes
    if len(notes) == 1 and notes[0].string is not None and POSITIONS in solved.request.keep:
        opened = replace(solved.request, phrase=placed_freely(phrase, {event}))
        try:
            yield from tried_strings(solve(opened, rough=True), event, judge(solved).events[event][0])
        except DromicError:
            return


def _choice(now: Plan, tried: Tried, event: int) -> Choice:
    plan = judge(tried.solved)
    dial = now.request.player.judging.dial
    return Choice(
        change=tried.change,
        ceiling=plan.ceiling,
        gain=(plan.ceiling or 0.0) - (now.ceiling or 0.0) if plan.ceiling and now.ceiling else 0.0,
        picking=picking_work(plan, dial) - picking_work(now, dial),
        fretting=fretting_work(plan, dial) - fretting_work(now, dial),
        others=len([e for e in differing(plan, now) if e != event]),
        after=after_strokes(now, plan, event),
        whole=plan.cost - now.cost,
    )


def after_strokes(now: Plan, other: Plan, event: int) -> str:
    """Whether the strokes after an event are soon as before, or all turned around; empty where neither is worth saying."""
    pairs = [(e, now.events[e][0].stroke, other.events[e][0].stroke) for e in range(event + 1, len(now.events))]
    picked = [(e, a == b) for e, a, b in pairs if a in STROKES and b in STROKES]
    if not picked or all(same for _, same in picked):
        return ""
    if not any(same for _, same in picked):
        return "every stroke after it is turned around, to the end"
    last_other = max(e for e, same in picked if not same)
    back = next((e for e, same in picked if e > last_other), None)
    if back is None:
        return "strokes are others to the end"
    return f"the line is restored at note {now.events[back][0].index + 1}"

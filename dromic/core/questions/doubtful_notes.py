"""What the other reading of each doubtful note would do to the plan."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dromic.core.editing.readings import doubtful, other_reading, read_otherwise
from dromic.core.findings.evidence import BOTH
from dromic.core.plan.finding import DOUBTFUL, Finding
from dromic.core.reports.ceiling_words import ceiling_about
from dromic.core.reports.comparison import differing
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_name

MOST_NOTES = 12
"""doubtful notes that are told; each takes a search"""


def told_of_doubtful_notes(solved: Solved) -> Iterator[Finding]:
    """For each doubtful note: its other reading, the ceiling with it, and how much is then played otherwise."""
    plan, request = judge(solved), solved.request
    phrase, instrument = request.phrase, request.instrument
    events = {event.onset: number for number, event in enumerate(phrase.events)}
    for onset, note in list(doubtful(phrase))[:MOST_NOTES]:
        event = events[onset]
        at = next((n for n in plan.events[event] if n.pitch == note.pitch), plan.events[event][0])
        other = read_otherwise(note, instrument)
        read = note_name(other.pitch) + ("" if other.fret is None else f", fret {other.fret}")
        head = f"Note {at.index + 1} in bar {at.bar_number} is doubtful: read as {read}"
        try:
            found = judge(solve(replace(request, phrase=other_reading(phrase, instrument, (onset, note))), rough=True))
        except DromicError as error:
            yield Finding(
                DOUBTFUL, (at.index,), "minor", 0.0, BOTH, f"{head} there is no plan: {error}", at.index, tried=True
            )
            continue
        others = len([e for e in differing(found, plan) if e != event])
        changed = (
            f"{others} other {'note is' if others == 1 else 'notes are'} played otherwise"
            if others
            else "all else stays"
        )
        text = f"{head}, {_ceilings(plan.ceiling, found.ceiling)}, and {changed}"
        yield Finding(DOUBTFUL, (at.index,), "minor", 0.0, BOTH, text, at.index, tried=True)


def _ceilings(now: float | None, then: float | None) -> str:
    """What becomes of the ceiling, in words."""
    if now is None or then is None:
        return f"the {ceiling_about(then, 'ceiling is not limited')}"
    if round(now) == round(then):
        return f"the ceiling stays about {now:.0f}"
    return f"the {ceiling_about(then, 'ceiling is not limited')} instead of {now:.0f}"

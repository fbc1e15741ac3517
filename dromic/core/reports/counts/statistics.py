"""What players count by hand in a planned phrase: figures, string changes, finger transfers, what each finger does."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby, pairwise

from dromic.core.music.phrase import Event
from dromic.core.plan.plan import Move, Plan, PlanNote
from dromic.core.reports.counts.figures import Figure, figures
from dromic.core.reports.occurrences import string_changes, struck_notes
from dromic.core.values.vocabulary import UNSTRUCK


@dataclass(frozen=True, slots=True)
class Statistics:
    """Counts of a plan. `changes` are string changes by kind, `pairs` by (from string, to string), `transfers` by (from
    finger, to finger) where the string changes as well, `stays` the notes counted per stay on a string, `meetings` how
    many gaps hold so many of: a new stroke, a new string, a shift, a slur."""

    figures: tuple[Figure, ...]
    changes: dict[str, int]
    pairs: dict[tuple[int, int], int]
    largest_jump: int
    span: int
    stays: tuple[int, ...]
    finger_notes: dict[str, int]
    transfers: dict[tuple[str, str], int]
    missing_transfers: tuple[tuple[str, str], ...]
    meetings: dict[int, int]


def stays_of(events: Sequence[Event]) -> tuple[int, ...]:
    """Notes counted per stay on a string, as they are written; where strings are left to the planner, all are one."""
    return tuple(len(list(run)) for _, run in groupby(events, lambda e: e.notes[0].string))


def statistics_of(plan: Plan) -> Statistics:
    """The counts of a plan."""
    leads = plan.leads
    struck, moved = struck_notes(plan), string_changes(plan)
    handed = Counter(
        (a.finger, b.finger) for a, b in pairwise(leads) if a.string != b.string and "0" not in (a.finger, b.finger)
    )
    every = [(a, b) for a in "1234" for b in "1234"]
    return Statistics(
        figures=figures(plan.request.phrase),
        changes=dict(
            Counter(m.pick_kind for m in plan.moves if m.pick_kind not in ("same-string", "repeat", "legato"))
        ),
        pairs=dict(Counter((a.string, b.string) for a, b in moved)),
        largest_jump=max((abs(a.string - b.string) for a, b in moved), default=0),
        span=max((n.string for n in struck), default=0) - min((n.string for n in struck), default=0),
        stays=tuple(len(list(run)) for _, run in groupby(leads, lambda n: n.string)),
        finger_notes=dict(sorted(Counter(n.finger for n in plan.notes).items())),
        transfers=dict(sorted(handed.items())),
        missing_transfers=tuple(pair for pair in every if pair not in handed),
        meetings=dict(sorted(Counter(_meeting(leads, move) for move in plan.onward).items())),
    )


def _meeting(leads: Sequence[PlanNote], move: Move) -> int:
    """How many of a new stroke, a new string, a shift and a slur meet in one gap."""
    before, now = leads[move.start], leads[move.to]
    return sum(
        (
            before.stroke != now.stroke and "none" not in (before.stroke, now.stroke),
            before.string != now.string,
            move.fret_kind in ("shift", "slide"),
            now.attack in UNSTRUCK,
        )
    )

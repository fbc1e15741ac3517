"""What players count by hand in a planned phrase: figures, string changes, finger transfers, what each finger does.

Figures are told by their lengths alone, in exact fractions of a quarter: a gallop is an eighth and two sixteenths, and
not a triplet. Common practice, no published source.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import groupby, pairwise

from dromic.core.music.phrase import Event, Phrase
from dromic.core.plan.plan import Move, Plan, PlanNote
from dromic.core.values.vocabulary import UNSTRUCK

_E, _S, _T = Fraction(1, 2), Fraction(1, 4), Fraction(1, 3)
FIGURES: tuple[tuple[str, tuple[Fraction, ...]], ...] = (
    ("gallop", (_E, _S, _S)),
    ("reverse gallop", (_S, _S, _E)),
    ("triplet", (_T, _T, _T)),
    ("sixteenth triplet", (_T / 2, _T / 2, _T / 2)),
    ("nine to the beat", (Fraction(1, 9),) * 9),
    ("long-short couplet", (Fraction(3, 4), _S)),
    ("long-short couplet in three", (2 * _T, _T)),
    ("short-long couplet", (_S, Fraction(3, 4))),
)


@dataclass(frozen=True, slots=True)
class Figure:
    """A figure by name, from one event on, so many times running."""

    name: str
    event: int
    times: int


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


def figures(phrase: Phrase, bar: int | None = None) -> tuple[Figure, ...]:
    """The figures that fill whole beats, runs of the same joined; longer ones are looked for first. Of one `bar` only, by
    index, if one is given: those that lie in it whole, their events counted from the bar's first."""
    events = [e for e in phrase.events if bar is None or e.bar == bar]
    if not events:
        return ()
    onsets = [e.onset for e in events]
    after = next((e.onset for e in phrase.events if bar is not None and e.onset > onsets[-1]), events[-1].end)
    ends = [*onsets[1:], after]
    gaps = [b - a for a, b in zip(onsets, ends, strict=True)]
    found: list[tuple[str, int]] = []
    i = 0
    while i < len(gaps):
        measure = phrase.bars[events[i].bar]
        offset = measure.offset_of(onsets[i])
        on_beat = offset == measure.metre.beat_at(offset)[1]
        name = next((n for n, lengths in FIGURES if on_beat and tuple(gaps[i : i + len(lengths)]) == lengths), None)
        if name is None:
            i += 1
            continue
        found.append((name, i))
        i += len(dict(FIGURES)[name])
    return tuple(_joined(found))


def stays_of(events: Sequence[Event]) -> tuple[int, ...]:
    """Notes counted per stay on a string, as they are written; where strings are left to the planner, all are one."""
    return tuple(len(list(run)) for _, run in groupby(events, lambda e: e.notes[0].string))


def _joined(found: list[tuple[str, int]]) -> list[Figure]:
    """Figures that follow on each other without a gap count as one run."""
    lengths = dict(FIGURES)
    runs: list[Figure] = []
    for name, event in found:
        last = runs[-1] if runs else None
        if last and last.name == name and last.event + last.times * len(lengths[name]) == event:
            runs[-1] = Figure(name, last.event, last.times + 1)
        else:
            runs.append(Figure(name, event, 1))
    return runs


def statistics_of(plan: Plan) -> Statistics:
    """The counts of a plan."""
    leads = plan.leads
    struck = [n for n in leads if n.attack not in UNSTRUCK]
    moved = [(a, b) for a, b in pairwise(struck) if a.string != b.string]
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

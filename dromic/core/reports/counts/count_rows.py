"""What players count in a plan by hand, in rows of words: how often a second against the hand's limits, changes by kind
and by string pair, fingers and the transfers between them, what meets in one gap."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import TypeVar

from dromic.core.plan.kind_words import PICK_KINDS
from dromic.core.plan.plan import Plan
from dromic.core.reports.counts.rates import change_rate, finger_work, palm_rate, repeat_rate, stroke_rate
from dromic.core.reports.counts.statistics import Statistics, statistics_of
from dromic.core.reports.occurrences import palm_moves, strokes
from dromic.core.values.vocabulary import DOWN, UNSTRUCK, UP

MEETINGS = {2: "two at once", 3: "three at once", 4: "all four at once"}
"""of a new stroke, a new string, a shift and a slur"""


T = TypeVar("T", str, tuple[int, int], tuple[str, str])


@dataclass(frozen=True, slots=True)
class Count:
    """One row. `why` says what is counted, and how."""

    label: str
    words: str
    why: str = ""


@dataclass(frozen=True, slots=True)
class CountGroup:
    """Rows of counts under one title."""

    title: str
    rows: tuple[Count, ...]


def counts(plan: Plan) -> tuple[CountGroup, ...]:
    """The counts of a plan; rows that would say nothing are left out."""
    counted = statistics_of(plan)
    found = [(title, [(label, words(plan, counted), why) for label, why, words in rows]) for title, rows in _ROWS]
    groups = (CountGroup(title, tuple(Count(a, b, why) for a, b, why in rows if b)) for title, rows in found)
    return tuple(g for g in groups if g.rows)


def _strokes(plan: Plan, counted: Statistics) -> str:
    return stroke_rate(plan).words


def _repeats(plan: Plan, counted: Statistics) -> str:
    return repeat_rate(plan).words


def _palm(plan: Plan, counted: Statistics) -> str:
    told = palm_rate(plan).words
    times = [now.start_s - before.start_s for before, now in palm_moves(plan)]
    return f"{told}; the shortest way on or off {1000 * min(times):.0f} ms" if told else ""


def _downs(plan: Plan, counted: Statistics) -> str:
    found = Counter(n.stroke for n in strokes(plan))
    return _listed((s, found[s]) for s in (DOWN, UP) if found[s])


def _changes(plan: Plan, counted: Statistics) -> str:
    total, rate = plan.totals, change_rate(plan)
    if not total.changes:
        return ""
    busiest = f", {rate.busiest} in the busiest second" if rate.busiest else ""
    return (
        f"{total.changes}, {total.changes_per_note:.2f} for each note, {total.changes_per_second:.1f} a second{busiest}; "
        f"this hand {rate.limit:.1f} at most, {rate.how}"
    )


def _by_kind(plan: Plan, counted: Statistics) -> str:
    return _listed((PICK_KINDS[kind].listed, n) for kind, n in _most_first(counted.changes))


def _by_pair(plan: Plan, counted: Statistics) -> str:
    return _listed((f"{a} to {b}", n) for (a, b), n in _most_first(counted.pairs))


def _widest(plan: Plan, counted: Statistics) -> str:
    return f"{counted.largest_jump}; from the lowest string used to the highest {counted.span}" if counted.span else ""


def _stays(plan: Plan, counted: Statistics) -> str:
    return " + ".join(str(n) for n in counted.stays[:_MOST_STAYS]) + (
        " + …" if len(counted.stays) > _MOST_STAYS else ""
    )


def _fingers(plan: Plan, counted: Statistics) -> str:
    names = {"0": "open", "T": "thumb"}
    return _listed((names.get(finger, finger), n) for finger, n in counted.finger_notes.items())


def _loads(plan: Plan, counted: Statistics) -> str:
    """The share of the fretting hand's work that brings each finger down."""
    return _listed((finger, f"{100 * share:.0f} %") for finger, share in finger_work(plan).items() if share)


def _transfers(plan: Plan, counted: Statistics) -> str:
    return _listed((f"{a} to {b}", n) for (a, b), n in _most_first(counted.transfers))


def _missing(plan: Plan, counted: Statistics) -> str:
    if not counted.transfers:
        return ""
    return ", ".join(f"{a} to {b}" for a, b in counted.missing_transfers)


def _shifts(plan: Plan, counted: Statistics) -> str:
    total = plan.totals
    return f"{total.shifts}, {total.shift_mm:.0f} mm in all" if total.shifts else ""


def _meetings(plan: Plan, counted: Statistics) -> str:
    return _listed((words, counted.meetings[n]) for n, words in MEETINGS.items() if counted.meetings.get(n))


def _figures(plan: Plan, counted: Statistics) -> str:
    names: Counter[str] = Counter()
    for figure in counted.figures:
        names[figure.words] += figure.times
    return _listed(names.most_common())


def _slurred(plan: Plan, counted: Statistics) -> str:
    return _listed(Counter(n.attack for n in plan.leads if n.attack in UNSTRUCK).most_common())


def _most_first(found: Mapping[T, int]) -> list[tuple[T, int]]:
    return sorted(found.items(), key=lambda one: (-one[1], one[0]))


def _listed(found: Iterable[tuple[str, object]]) -> str:
    return ", ".join(f"{name}: {n}" for name, n in found)


_MOST_STAYS = 24
Words = Callable[[Plan, Statistics], str]
_ROWS: tuple[tuple[str, tuple[tuple[str, str, Words], ...]], ...] = (
    ("Picking hand", (
        ("Strokes", "Strokes of the pick, against alternate strokes on one string, an estimate of this player", _strokes),
        ("Downs and ups", "", _downs),
        ("Same stroke again", "The same stroke again on its string, against downs only", _repeats),
        ("String changes", "Changes of string from one picked note to the next", _changes),
        ("Changes by kind", "Outside goes around the two strings, inside between them", _by_kind),
        ("String to string", "Between which strings the pick changes, most often first", _by_pair),
        ("Largest jump", "In strings", _widest),
        ("Notes on a string", "Notes counted per stay on a string", _stays),
        ("Palm lifts", "How often the palm leaves the strings, against how fast this hand lays it on or lifts it", _palm),
    )),
    ("Fretting hand", (
        ("Notes by finger", "", _fingers),
        ("Work by finger", "Whose coming down the fretting hand's work is, an estimate", _loads),
        ("Finger to finger", "From which finger to which at a change of string, most often first", _transfers),
        ("Never", "Transfers at a change of string that this passage never asks for", _missing),
        ("Shifts", "", _shifts),
        ("Unstruck notes", "", _slurred),
    )),
    ("Both hands", (
        ("In one gap", "A new stroke, a new string, a shift and a slur that meet between two notes", _meetings),
        ("Figures", "Told by their lengths, at any speed: a gallop is 8-16-16, a triplet three alike", _figures),
    )),
)  # fmt: skip

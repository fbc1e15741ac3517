"""Notes too short to be struck one by one: graces slurred or left out, triplets and turns slurred after their first note."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from dromic.core.findings.rules_both import limiting
from dromic.core.music.graces import graces_before, without_graces
from dromic.core.music.phrase import Phrase
from dromic.core.plan.finding import Change, Remedy
from dromic.core.questions.changes import Tried
from dromic.core.questions.ornaments import struck_only
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.values.errors import DromicError
from dromic.core.values.vocabulary import SLURRED, UNSTRUCK

_QUICK = Fraction(1, 3)
"""quarters: a run of notes no longer than this may be a triplet or a turn"""
_PLAIN = Fraction(1, 4)
"""quarters: notes as long or longer are one only in a tuplet"""
_FEWEST = 3
"""Notes of a run of short ones, at least."""
_MOST = 6
"""And at most."""


def grace_remedy(solved: Solved) -> Remedy | None:
    """What helps most where grace notes set the ceiling: all of them slurred, or those that set it left out."""
    plan, request, groups = judge(solved), solved.request, graces_before(solved.request.phrase)
    events = {e for move in limiting(plan) for e in (move.start, move.to)}
    mains = {main for main, graces in groups.items() if events & {main, *graces}}
    if not mains:
        return None
    lead = plan.leads[groups[min(mains)][0]]
    which = f"the grace at note {lead.index + 1}"
    if len(mains) > 1:
        which += f" and {len(mains) - 1} more that set the ceiling"
    tried = [(Change(f"leave out {which}", ungraced=tuple(sorted(mains))),
              replace(request, phrase=without_graces(request.phrase, mains), pins=(), overrides=()))]  # fmt: skip
    if request.graces != SLURRED:
        tried.insert(0, (Change("slur the grace notes, one stroke for a grace and its note", graces=SLURRED),
                         replace(request, graces=SLURRED)))  # fmt: skip
    best: Remedy | None = None
    for change, asked in tried:
        try:
            ceiling = solve(asked, rough=True).metrics.ceiling
        except DromicError:
            continue
        if ceiling is None or ceiling > ((best.ceiling or 0.0) if best is not None else (plan.ceiling or 0.0)):
            best = Remedy(change, ceiling, None)
    return best


def quick_run(phrase: Phrase, event: int) -> range | None:
    """The triplet or turn an event belongs to: single notes with nothing stated of their attacks, one after another, each no longer
    than one of a triplet of eighths, and no such note before or after; None for none."""
    events = phrase.events
    steps = [b.onset - a.onset for a, b in pairwise(events)]

    def quick(i: int, length: Fraction) -> bool:
        return 0 <= i < len(steps) and steps[i] == length

    for at in (event, event - 1):
        length = steps[at] if 0 <= at < len(steps) else _QUICK + 1
        tuplet = bool(length.denominator & (length.denominator - 1))
        if length > _QUICK or (length >= _PLAIN and not tuplet):
            continue
        first = last = at
        while quick(first - 1, length):
            first -= 1
        while quick(last + 1, length):
            last += 1
        run = range(first, last + 2 if length.denominator % 3 else last + 1)
        plain = all(len(events[e].notes) == 1 and events[e].attack is None and not events[e].grace for e in run)
        if _FEWEST <= len(run) <= _MOST and plain:
            return run
    return None


def tried_slurred(solved: Solved, event: int) -> Iterator[Tried]:
    """The triplet or turn an event belongs to in one stroke, all after its first note slurred."""
    run = quick_run(solved.request.phrase, event)
    if run is None or not all(solved.path.sounds[e].picked for e in run):
        return
    asked = struck_only(solved.request, run, (run[0],))
    try:
        found = solve(asked, rough=True, pace=solved.pace)
    except DromicError:
        return
    attacks = tuple((e, found.path.sounds[e].attack) for e in run[1:])
    if all(attack in UNSTRUCK for _, attack in attacks):
        first, last = judge(solved).leads[run[0]].index + 1, judge(solved).leads[run[-1]].index + 1
        yield Tried(Change(f"strike note {first} alone and slur on to note {last}", attacks=attacks), found)

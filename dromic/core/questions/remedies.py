"""Remedies: for every finding the one changed thing that helps most, found by searching again with it changed."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from dromic.core.findings.evidence import BOTH, FRETTING, PICKING
from dromic.core.findings.findings import RULES
from dromic.core.plan.finding import COUNTED, GRACE_LIMITS, Change, Finding, Remedy
from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.questions.changes import (
    Tried,
    tried_fingers,
    tried_of_all,
    tried_schools,
    tried_strings,
    tried_strokes,
    tried_unpicked,
)
from dromic.core.questions.doubtful_notes import told_of_doubtful_notes
from dromic.core.questions.leaps import told_of_faster_places
from dromic.core.questions.set_strokes import told_of_set_strokes
from dromic.core.questions.short_notes import grace_remedy, tried_slurred
from dromic.core.search.planner import Solved, judge
from dromic.core.search.row_costs import limit_of, row_costs
from dromic.core.setup.player import Lean
from dromic.core.setup.school import School
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import SLIDE

MOST_FINDINGS = 24
"""Findings that are given a remedy, the dearest first."""
MOST_IF_LARGE = 6
"""The same where every search is long."""
LARGE_STATES = 3000
"""states of one event from which on a search counts as long"""
MOST_ROWS = 3
"""rows of the price list told of a place, the dearest"""
_GAIN = 1.01
"""what eases a place that fits, or that the plan could have had itself, must raise the ceiling so many times"""
_UNCHANGED = frozenset(rule.name for rule in RULES if not rule.changes)
_LONGEST_STAY = 8
"""Notes back on a string of which one may be slurred to change their count, at most."""
_WORTH = 0.97
"""a remedy must bring the load at its place down to this share"""


def with_remedies(
    solved: Solved, leans: Mapping[str, tuple[Lean, ...]], progress: Progress | None = None,
    schools: Mapping[str, School] | None = None,
) -> Plan:  # fmt: skip
    """The plan of a solved request, its findings with remedies. `leans` are the other leans worth trying, by label, `schools` those
    worth going over to where nothing less helps, by name."""
    plan = judge(solved)
    finder = _Finder(solved, leans, schools or {})
    found: list[Finding] = []
    for n, finding in enumerate(plan.findings):
        if progress is not None and not progress(n / len(plan.findings)):
            raise Cancelled
        if n >= finder.most:
            found.append(finding)
            continue
        remedy = None
        if finding.rule == GRACE_LIMITS:
            remedy = grace_remedy(solved)
        elif finding.rule not in _UNCHANGED:
            remedy = finder.best(finding)
        found.append(replace(finding, remedy=remedy, tried=True))
    found += (*told_of_faster_places(solved), *told_of_set_strokes(solved), *told_of_doubtful_notes(solved))
    limit = limit_of(solved.path, plan.moves, plan.events)
    at = [plan.notes[finding.at].event for finding in found]
    rows = {event: row_costs(solved.path, event)[:MOST_ROWS] for event in dict.fromkeys(at)}
    told = tuple(replace(finding, rows=rows[event]) for finding, event in zip(found, at, strict=True))
    return replace(plan, findings=told, limit=limit)


KINDS: dict[str, tuple[Callable[[Solved, int, PlanNote], Iterator[Tried]], ...]] = {
    PICKING: (tried_strings, tried_strokes),
    FRETTING: (tried_strings, tried_fingers),
    BOTH: (tried_strings, tried_fingers, tried_strokes),
}
"""changes that are about the hand that a finding is about, not a lucky tie elsewhere"""


def _is_open_to_the_plan(change: Change) -> bool:
    """Whether a change lies within what the search chose from."""
    return bool(change.pins) and not change.attacks and change.override is None


class _Finder:
    def __init__(self, solved: Solved, leans: Mapping[str, tuple[Lean, ...]], schools: Mapping[str, School]) -> None:
        self.solved, self.leans, self.schools = solved, leans, schools
        self.request = solved.request
        self.plan = judge(solved)
        self.large = max(costs.size for costs in solved.lattice.forward) > LARGE_STATES
        self.most = MOST_IF_LARGE if self.large else MOST_FINDINGS
        self._local: dict[tuple[int, str], list[Tried]] = {}
        self._whole: list[Tried] | None = None
        self._schools: list[Tried] | None = None

    def best(self, finding: Finding) -> Remedy | None:
        """The change that lifts the whole ceiling most, then the one that eases this place most."""
        events = sorted({self.plan.notes[n].event for n in finding.notes})
        touched = {m.to for m in self.plan.moves if m.to in events or (m.pick_from in events and m.start in events)}
        timed = any(
            abs(finding.load - (m.load if finding.hand == "both" else part)) < 1e-9
            for m in self.plan.moves
            if m.to in touched
            for part in (m.pick_load or 0.0, m.fret_load)
        )
        changes = [one for event in events[:2] for kind in KINDS[finding.hand] for one in self._changes_at(event, kind)]
        changes += self._changes_of_all() if finding.hand != FRETTING else []
        if finding.rule == COUNTED:
            changes += [one for event in self._on_the_string(events[0]) for one in self._unpicked(event)]
        if finding.hand != FRETTING and finding.load > 1:
            changes += [one for event in events[:2] for one in self._slurred(event)]
        found = self._most_helpful(finding, changes, touched, timed)
        if found is None and finding.load > 1 and finding.hand != FRETTING:
            found = self._most_helpful(finding, self._other_schools(), touched, timed)
        return found

    def _most_helpful(
        self, finding: Finding, changes: Sequence[Tried], touched: set[int], timed: bool
    ) -> Remedy | None:
        """The change of some that lifts the whole ceiling most, then the one that eases the place most, of those that mend it."""
        before = self._place_load(self.solved, touched)
        part_before = self._place_load(self.solved, touched, finding.hand)
        lowest = (self.plan.ceiling or np.inf) * (1 - 1e-9)
        ranked: list[tuple[float, float, float, Tried]] = []
        for one in changes:
            if any(attack == SLIDE for _, attack in one.change.attacks):
                continue  # it would sound otherwise
            load = self._place_load(one.solved, touched)
            part = self._place_load(one.solved, touched, finding.hand)
            mended = (
                part <= (1.0 if part_before > 1 else _WORTH * part_before) if timed else self._gone(one.solved, finding)
            )
            ceiling = one.solved.metrics.ceiling or np.inf
            if (timed or _is_open_to_the_plan(one.change)) and finding.load <= 1 and ceiling <= lowest * _GAIN:
                continue  # it fits already, or the plan could have had it, and found it dearer
            # nothing else may get worse for it
            if mended and ceiling >= lowest and load <= (1.0 if before > 1 else before):
                ranked.append((-ceiling, load, one.solved.route.cost, one))
        if not ranked:
            return None
        _, load, _, tried = min(ranked, key=lambda r: r[:3])
        tempo = self.request.phrase.tempo
        place = tempo / load if load and timed else None
        return Remedy(tried.change, tried.solved.metrics.ceiling, place)

    def _unpicked(self, event: int) -> list[Tried]:
        """A note slurred."""
        key = event, tried_unpicked.__name__
        if key not in self._local:
            self._local[key] = list(tried_unpicked(self.solved, event))
        return self._local[key]

    def _on_the_string(self, last: int) -> range:
        """The events struck before one on its string, one after the other."""
        first, leads = last, self.plan.leads
        while first > 0 and leads[first - 1].string == leads[last].string and last - first < _LONGEST_STAY:
            first -= 1
        return range(first, last)

    def _place_load(self, solved: Solved, touched: set[int], hand: str = BOTH) -> float:
        """The largest load of a hand at a place, or of both."""
        parts = [
            {PICKING: m.pick_load or 0.0, FRETTING: m.fret_load}.get(hand, m.load)
            for m in solved.metrics.moves
            if m.to in touched
        ]
        return max(parts, default=0.0)

    def _gone(self, solved: Solved, finding: Finding) -> bool:
        """For findings that are not about the time a move takes: whether the change makes them go away."""
        return not any(f.rule == finding.rule and set(f.notes) & set(finding.notes) for f in judge(solved).findings)

    def _changes_at(self, event: int, kind: Callable[[Solved, int, PlanNote], Iterator[Tried]]) -> list[Tried]:
        key = event, kind.__name__
        if key not in self._local:
            self._local[key] = list(kind(self.solved, event, self.plan.events[event][0]))
        return self._local[key]

    def _slurred(self, event: int) -> list[Tried]:
        """The triplet or turn an event belongs to slurred."""
        key = event, tried_slurred.__name__
        if key not in self._local:
            self._local[key] = list(tried_slurred(self.solved, event))
        return self._local[key]

    def _other_schools(self) -> list[Tried]:
        if self._schools is None:
            self._schools = [] if self.large else list(tried_schools(self.solved, self.schools))
        return self._schools

    def _changes_of_all(self) -> list[Tried]:
        if self._whole is None:
            self._whole = [] if self.large else list(tried_of_all(self.solved, self.leans))
        return self._whole

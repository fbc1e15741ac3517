"""Remedies: for every finding the one changed thing that helps most, found by searching again with it changed.

Another string, finger or stroke at a note is read off the passes that are already there; a note left unpicked, the
other first stroke and another lean lay out anew only what they touch.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from dromic.core.errors import DromicError
from dromic.core.fretting import FINGER_NAMES
from dromic.core.layers import Cancelled, Progress
from dromic.core.lock import Lock
from dromic.core.locks import masks_of
from dromic.core.phrase import SLUR
from dromic.core.plan import Finding, Plan, Remedy
from dromic.core.planner import Solved, solve
from dromic.core.player import Lean

MOST_FINDINGS, MOST_IF_LARGE = 24, 6
"""findings that are given a remedy, the dearest first; fewer where every search is long"""
LARGE_STATES = 3000
"""states of one event from which on a search counts as long"""
_WORTH = 0.97
"""a remedy must bring the load at its place down to this share"""


@dataclass(frozen=True, eq=False)
class _Change:
    """One thing changed, in words, and the plan with it."""

    text: str
    solved: Solved
    locks: tuple[Lock, ...] = ()
    attack: tuple[int, str] | None = None
    start: str | None = None
    lean: str | None = None


def with_remedies(solved: Solved, leans: Mapping[str, tuple[Lean, ...]], progress: Progress | None = None) -> Plan:
    """The plan of a solved request, its findings with remedies. `leans` are the other leans worth trying, by label."""
    plan = solved.plan
    finder = _Finder(solved, leans)
    found: list[Finding] = []
    for n, finding in enumerate(plan.findings):
        if progress is not None and not progress(n / len(plan.findings)):
            raise Cancelled
        found.append(replace(finding, remedy=finder.best(finding)) if n < finder.most else finding)
    return replace(plan, findings=tuple(found))


class _Finder:
    def __init__(self, solved: Solved, leans: Mapping[str, tuple[Lean, ...]]) -> None:
        self.solved, self.leans = solved, leans
        self.request = solved.request
        self.plan = solved.plan
        self.large = max(costs.size for costs in solved.net.forward) > LARGE_STATES
        self.most = MOST_IF_LARGE if self.large else MOST_FINDINGS
        self._local: dict[int, list[_Change]] = {}
        self._whole: list[_Change] | None = None

    def best(self, finding: Finding) -> Remedy | None:
        """The change that lifts the whole ceiling most, then the one that eases this place most."""
        events = sorted({self.plan.notes[n].chord for n in finding.notes})
        touched = {m.to for m in self.plan.moves if m.to in events or (m.pick_from in events and m.start in events)}
        before = self._place_load(self.solved, touched)
        timed = any(
            abs(finding.load - (m.load if finding.hand == "both" else one)) < 1e-9
            for m in self.plan.moves
            if m.to in touched
            for one in (m.pick_load or 0.0, m.fret_load)
        )
        tried = [change for event in events[:2] for change in self._changes_at(event)] + self._changes_of_all()
        ranked: list[tuple[float, float, float, _Change]] = []
        for change in tried:
            load = self._place_load(change.solved, touched)
            if load < _WORTH * before if timed else self._gone(change.solved, finding):
                ceiling = change.solved.judged.ceiling or np.inf
                ranked.append((-ceiling, load, change.solved.route.cost, change))
        if not ranked:
            return None
        _, load, _, change = min(ranked, key=lambda r: r[:3])
        tempo = self.request.phrase.tempo
        place = tempo / load if load and timed else None
        return Remedy(
            change.text, change.solved.judged.ceiling, place, change.locks, change.attack, change.start, change.lean
        )  # fmt: skip

    def _place_load(self, solved: Solved, touched: set[int]) -> float:
        return max((m.load for m in solved.judged.moves if m.to in touched), default=0.0)

    def _gone(self, solved: Solved, finding: Finding) -> bool:
        """For findings that are not about the time a move takes: whether the change makes them go away."""
        return not any(f.rule == finding.rule and set(f.notes) & set(finding.notes) for f in solved.plan.findings)

    def _changes_at(self, event: int) -> list[_Change]:
        if event not in self._local:
            self._local[event] = list(self._tried_at(event))
        return self._local[event]

    def _tried_at(self, event: int) -> Iterator[_Change]:
        note = self.plan.chord(event)[0]
        lead = f"note {note.index + 1}"
        layer = self.solved.layers.layers[event]
        shape = self.solved.path.shape(event)
        if len(shape.notes) == 1 and len(layer.left.groups) > 1:
            for (string,) in layer.left.groups:
                if string != note.string:
                    yield from self._pinned(f"play {lead} on string {string}", Lock(event, 0, "string", string))
        for finger in sorted({s.notes[0].finger for s in layer.left.shapes if s.strings == shape.strings}):
            name = FINGER_NAMES[finger]
            if len(shape.notes) == 1 and finger and name != note.finger:
                locks = (Lock(event, 0, "string", note.string), Lock(event, 0, "finger", name))
                yield from self._pinned(f"take {lead} with finger {name}", *locks)
        other = {"down": "up", "up": "down"}.get(note.stroke)
        if other is not None:
            yield from self._pinned(f"play {lead} with the {other}-stroke", Lock(event, 0, "stroke", other))
            yield from self._unpicked(event, lead)

    def _pinned(self, text: str, *locks: Lock) -> Iterator[_Change]:
        masks = masks_of(self.solved.layers, locks)
        if all(mask.any() for mask in masks.values()):
            found = self.solved.narrowed(self.request, masks)
            if found is not None:
                yield _Change(text, found, locks)

    def _unpicked(self, event: int, lead: str) -> Iterator[_Change]:
        """The note hammered, pulled or slid instead, where the note before it is on its string."""
        offers = self.solved.layers.offers
        notes = self.request.phrase.events[event].notes
        if event == 0 or len(notes) > 1 or self.solved.layers.builder.ways.remembers or self.request.school.pattern:
            return
        made = tuple(replace(o, attacks=(SLUR,), signs=()) if i == event else o for i, o in enumerate(offers))
        found = self._again(lambda: solve(self.request, old=self.solved, made=made, rough=True))
        if found is not None:
            attack = found.path.sounds[event].attack
            word = {"hammer": "hammer", "pull": "pull off to", "slide": "slide to"}[attack]
            yield _Change(f"{word} {lead} instead of picking it", found, attack=(event, attack))

    def _changes_of_all(self) -> list[_Change]:
        if self._whole is None:
            self._whole = list(self._tried_of_all())
        return self._whole

    def _tried_of_all(self) -> Iterator[_Change]:
        if self.large:
            return
        first = next((s.sign for s in self.solved.path.sounds if s.sign), 0)
        if first and self.request.school.places != "pattern":
            other = "up" if first > 0 else "down"
            request = replace(self.request, start=other)
            found = self._again(lambda: solve(request, old=self.solved, rough=True))
            if found is not None:
                yield _Change(f"start on the {other}-stroke", found, start=other)
        for label, lean in self.leans.items():
            if lean != self.request.player.leans:
                leaning = replace(self.request, player=self.request.player.with_leans(lean))
                found = self._again(lambda leaning=leaning: solve(leaning, rough=True))  # type: ignore[misc]
                if found is not None:
                    yield _Change(f"lean so that {label}", found, lean=label)

    @staticmethod
    def _again(search: Callable[[], Solved]) -> Solved | None:
        try:
            return search()
        except DromicError:
            return None

"""Today's work on a plan: its drills with the tempo each begins at, and the sitting they make."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from dromic.core.plan.plan import Plan
from dromic.core.practice.drill import FRETTING, Drill, Material
from dromic.core.practice.drill_kinds import drills_of
from dromic.core.practice.ladder import SLOW, Rung, next_rung
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.log_summary import PhraseRecord, record_of
from dromic.core.practice.sitting import DRILL, KEEP, Schedule, schedule
from dromic.core.setup.practice_settings import PracticeSettings


@dataclass(frozen=True)
class Work:
    """Drills of a plan, where each begins, and a sitting; `notes_of` tells the note numbers of a drill's events."""

    plan: Plan
    target: float
    drills: tuple[Drill, ...]
    rungs: tuple[Rung, ...]
    schedule: Schedule
    passes: tuple[Pass, ...] = ()
    """what the log has of the phrase"""

    def ceiling_of(self, drill: Drill) -> float | None:
        """An estimate of the tempo a drill's own moves end at."""
        return ceiling_of(self.plan, drill)

    def notes_of(self, drill: Drill) -> tuple[int, ...]:
        """The numbers of the notes a drill goes over."""
        return notes_of(self.plan, drill.events)

    def minutes_of(self, index: int) -> float:
        """How long a drill has in the sitting; 0 for one left out today."""
        return sum(s.minutes for s in self.schedule.slots if s.drill == index and s.what in (DRILL, KEEP))


def notes_of(plan: Plan, events: Iterable[int]) -> tuple[int, ...]:
    """The note numbers of events."""
    return tuple(note.index for event in events for note in plan.events[event])


def ceiling_of(plan: Plan, drill: Drill) -> float | None:
    """An estimate of the tempo a drill's own moves end at; None where nothing limits them."""
    return plan.request.phrase.tempo / drill.load if drill.load else None


def todays_work(
    plan: Plan, settings: PracticeSettings, minutes: float, passes: Sequence[Pass] = (), today: date | None = None,
    target: float | None = None, first_hand: str = FRETTING, without: Iterable[str] = (), school: str = SLOW,
    soreness: int = 0,
) -> Work:  # fmt: skip
    """The drills of a plan and a sitting of so many minutes; `passes` are what the log has of the phrase."""
    target = target or plan.request.phrase.tempo
    today = today or date.today()
    record = record_of(plan.request.phrase.title, passes)
    material = Material(plan, settings, target, _by_event(plan, record), first_hand)
    drills = drills_of(material, without)
    by_drill: dict[str, list[Pass]] = {}
    for one in passes:
        by_drill.setdefault(one.drill, []).append(one)
    sore = 1 - settings.ladder["soreness_less"] * soreness
    rungs = tuple(
        _less(next_rung(by_drill.get(d.name, ()), today, target, ceiling_of(plan, d), settings.ladder, school), sore)
        for d in drills
    )
    known: Mapping[str, float] = {r.drill: r.best_clean for r in record.drills if r.best_clean is not None}
    return Work(
        plan, target, drills, rungs, schedule(drills, minutes, settings.sitting, known, target, soreness), tuple(passes)
    )


def _less(rung: Rung, share: float) -> Rung:
    if share >= 1:
        return rung
    return Rung(
        rung.tempo * share, f"{rung.reason}; hands are sore: {1 - share:.0%} less", False, rung.rest_s, rung.plateau
    )


def _by_event(plan: Plan, record: PhraseRecord) -> dict[int, float]:
    clean = record.clean_by_note
    found: dict[int, float] = {}
    for event, notes in enumerate(plan.events):
        known = [clean[n.index] for n in notes if n.index in clean]
        if known:
            found[event] = min(known)
    return found

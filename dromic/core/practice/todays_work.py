"""Today's work on a plan: its drills with the tempo each begins at, and the session they make."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from functools import cached_property

from dromic.core.drills.drill import Drill, Material
from dromic.core.drills.drill_kinds import BY_NAME, drills_of
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import ALL_STATED
from dromic.core.practice.ladder import Known, Rung, next_rung
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.log_summary import History, history_of
from dromic.core.practice.session import DRILL, KEEP, Schedule, schedule
from dromic.core.practice.spacing import resting
from dromic.core.practice.wishes import Wishes
from dromic.core.search.planner import plan as planned
from dromic.core.setup.practice_settings import PracticeSettings
from dromic.core.values.errors import DromicError

_SLOW_NOTES = 5
"""one of so many notes may be slower than what a wider drill is taken to be clean at"""
_DIGITS = 2
"""of a tempo, as the log keeps it: the next pass at the same tempo is no other one"""


@dataclass(frozen=True)
class Work:
    """Drills of a plan, where each begins, a session, and what the log has of the phrase."""

    plan: Plan
    target: float
    drills: tuple[Drill, ...]
    rungs: tuple[Rung, ...]
    schedule: Schedule
    history: History
    wishes: Wishes
    settings: PracticeSettings
    """the numbers of practice with what the player set otherwise"""
    resting: Mapping[str, date] = field(default_factory=dict)
    """drills, by name, that come round again on a later day"""

    def ceiling_of(self, drill: Drill) -> float | None:
        """An estimate of the tempo a drill's own moves end at."""
        return ceiling_of(self.plan, drill)

    def next_rung(
        self,
        drill: Drill,
        passes: Sequence[Pass],
        today: date,
        ceiling: float | None = None,
        clean: float | None = None,
    ) -> Rung:
        """The next tempo of one of its drills, from the drill's passes up to now; `ceiling` is that of the drill's own phrase, where
        it is at hand, and `clean` what a wider drill had clean today."""
        return rung_of(
            self.plan, drill, self.target, passes, today, self.wishes, self.settings, self.history, ceiling, clean
        )

    def own_plan(self, drill: Drill) -> Plan:
        """A drill's own plan; DromicError where its school refuses it."""
        if drill.name not in self._own:
            try:
                self._own[drill.name] = plan_of(self.plan, drill)
            except DromicError as error:
                self._own[drill.name] = error
        found = self._own[drill.name]
        if isinstance(found, DromicError):
            raise found
        return found

    @cached_property
    def _own(self) -> dict[str, Plan | DromicError]:
        return {}

    def notes_of(self, drill: Drill) -> tuple[int, ...]:
        """The numbers of the notes a drill goes over."""
        return notes_of(self.plan, drill.events)

    def minutes_of(self, index: int) -> float:
        """How long a drill has in the session; 0 for one left out today."""
        return sum(s.minutes for s in self.schedule.slots if s.drill == index and s.what in (DRILL, KEEP))


def _away(history: History, today: date) -> dict[str, int]:
    """Days since each kind of drill was practised."""
    last: dict[str, date] = {}
    for record in history.record.drills:
        kind = record.drill.split(":")[0]
        last[kind] = max(last.get(kind, record.last_at), record.last_at)
    return {kind: max(0, (today - day).days) for kind, day in last.items()}


def notes_of(plan: Plan, events: Iterable[int]) -> tuple[int, ...]:
    """The note numbers of events."""
    return tuple(note.index for event in events for note in plan.events[event])


def plan_of(plan: Plan, drill: Drill) -> Plan:
    """A drill's own plan: its notes, strokes and fingers as they are written in it."""
    request = replace(plan.request, phrase=drill.phrase, keep=ALL_STATED, pins=(), overrides=(), repeat=False)
    return planned(request)


def ceiling_of(plan: Plan, drill: Drill) -> float | None:
    """An estimate of the tempo a drill's own moves end at; None where nothing limits them."""
    return plan.request.phrase.tempo / drill.load if drill.load else None


def todays_work(
    plan: Plan,
    usual: PracticeSettings,
    wishes: Wishes | None = None,
    history: History | None = None,
    today: date | None = None,
) -> Work:
    """The drills of a plan and a session, by what the player wishes and what the log has of the phrase."""
    wishes = wishes or Wishes()
    history = history or history_of(plan.request.phrase.title, ())
    settings = wishes.settings(usual)
    target = wishes.target or history.goal.target or plan.request.phrase.tempo
    today = today or date.today()
    material = Material(plan, settings, target, _by_event(plan, history), wishes.first_hand)
    drills = drills_of(material, wishes.without)
    rungs = tuple(
        rung_of(plan, d, target, history.by_drill.get(d.name, ()), today, wishes, settings, history) for d in drills
    )
    rest = resting(history.by_drill, target, settings.session.spacing_days, today)
    known = {r.drill: r.best_clean for r in history.record.drills if r.best_clean is not None}
    made = schedule(
        drills, wishes.minutes, settings.session, known, target, wishes.soreness, rest, _away(history, today)
    )
    return Work(plan, target, drills, rungs, made, history, wishes, settings, rest)


def rung_of(
    plan: Plan, drill: Drill, target: float, passes: Sequence[Pass], today: date, wishes: Wishes, settings: PracticeSettings,
    history: History, ceiling: float | None = None, clean: float | None = None,
) -> Rung:  # fmt: skip
    """The next tempo of a drill; sore hands climb no further. `ceiling` is that of the drill's own phrase, where it is at hand, and
    `clean` what a wider drill had clean today."""
    before = max((t for t in (clean, _clean_before(plan, drill, history)) if t), default=None)
    known = Known(ceiling or ceiling_of(plan, drill), clean=before, climb=not wishes.soreness)
    rung = next_rung(passes, today, target, settings.ladder, settings.limit, known, wishes.school)
    rung = replace(rung, tempo=round(rung.tempo, _DIGITS))
    less = settings.ladder.soreness_less * wishes.soreness
    if not less or any(one.day == today for one in passes):
        return rung
    words = f"{rung.reason}; hands are sore: {less:.0%} less"
    return replace(rung, tempo=round(rung.tempo * (1 - less), _DIGITS), reason=words, burst=False)


def _clean_before(plan: Plan, drill: Drill, history: History) -> float | None:
    """The fastest a drill was clean on any day. What other drills had clean of its notes as they are written counts as its own,
    but for a few slow notes: these are what it still needs practice for."""
    found = [r.best_clean for r in history.record.drills if r.drill == drill.name and r.best_clean is not None]
    notes, clean = notes_of(plan, drill.events), history.clean_by_note
    if BY_NAME[drill.kind].as_written and notes and all(n in clean for n in notes):
        found.append(sorted(clean[n] for n in notes)[len(notes) // _SLOW_NOTES])
    return max(found, default=None)


def _by_event(plan: Plan, history: History) -> dict[int, float]:
    clean = history.clean_by_note
    found: dict[int, float] = {}
    for event, notes in enumerate(plan.events):
        known = [clean[n.index] for n in notes if n.index in clean]
        if known:
            found[event] = min(known)
    return found

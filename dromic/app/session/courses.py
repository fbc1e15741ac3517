"""What a session goes through: it tells its drills, the next tempo of one, and where a pass leads. Here today's work on a plan."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from typing import TYPE_CHECKING, Protocol

from dromic.core.drills.drill import Drill
from dromic.core.drills.drill_kinds import BY_NAME, next_in_turn
from dromic.core.plan.plan import Plan
from dromic.core.practice.ladder import Rung
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.practice.todays_work import Work, plan_of

if TYPE_CHECKING:
    from dromic.core.learning.measuring import Figure


class Course(Protocol):
    """What a session goes through."""

    @property
    def figures(self) -> tuple[Figure, ...]:
        """What measures the hands, nothing for practice."""

    @property
    def of(self) -> PhraseName:
        """Whose passes it makes."""

    @property
    def played(self) -> list[Pass]:
        """What was played of it since it began, in its order: nothing has to be read to go on."""

    def drill(self, number: int) -> Drill:
        """One of its drills."""

    def notes(self, number: int) -> tuple[int, ...]:
        """The numbers of the notes that a drill goes over."""

    def plan(self, number: int) -> Plan:
        """The plan of a drill, to listen for; DromicError where it has none."""

    def rung(self, number: int, today: date) -> Rung | None:
        """The next tempo of a drill; None when nothing more is to be found out with it."""

    def after(self, number: int, clean: bool) -> int:
        """The drill to go on with in the same part, after a pass."""

    def turns(self, number: int) -> tuple[tuple[str, bool], ...]:
        """Of drills that take turns the name of each and whether it was clean already; empty for others."""


@dataclass(frozen=True)
class WorkCourse:
    """Today's work; the log says how far each drill is."""

    work: Work
    of: PhraseName
    sounded: set[str] = field(default_factory=set)
    """drills that were clean in this session, by name"""
    played: list[Pass] = field(default_factory=list)
    figures: tuple[Figure, ...] = ()

    def drill(self, number: int) -> Drill:
        return self.work.drills[number]

    def notes(self, number: int) -> tuple[int, ...]:
        return self.work.notes_of(self.drill(number))

    def plan(self, number: int) -> Plan:
        return plan_of(self.work.plan, self.drill(number))

    def rung(self, number: int, today: date) -> Rung | None:
        drill = self.drill(number)
        known = self.work.history.by_drill.get(drill.name, ())
        return self.work.next_rung(drill, [*known, *(p for p in self.played if p.drill == drill.name)], today)

    def after(self, number: int, clean: bool) -> int:
        if not clean:
            return number
        self.sounded.add(self.drill(number).name)
        return next_in_turn(self.work.drills, number, self._clean())

    def turns(self, number: int) -> tuple[tuple[str, bool], ...]:
        drill = self.drill(number)
        if not BY_NAME[drill.kind].in_turn:
            return ()
        clean = self._clean()
        return tuple((d.key, d.name in clean) for d in self.work.drills if d.kind == drill.kind)

    def _clean(self) -> frozenset[str]:
        """Which drills were clean, ever or in this session, by name."""
        return self.work.history.record.ever_clean | self.sounded

"""What a sitting goes through: today's work on a plan, or the figures that measure the hands. Each tells its drills, the next tempo
of one, and where a pass leads."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Protocol

from dromic import presets
from dromic.core.learning.measuring import PHRASE, Figure, belief, done
from dromic.core.practice.drill import Drill
from dromic.core.practice.drill_kinds import BY_NAME, next_in_turn
from dromic.core.practice.ladder import Rung
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.log_summary import RECENT_DAYS
from dromic.core.practice.todays_work import Work
from dromic.store.logbook import Logbook

MEASURE, MEASURE_MIN, MEASURED_DAYS = "measure", 10.0, 30
"""the kind of what is played when hands are measured; minutes a figure has; days for which its passes count"""


class Course(Protocol):
    """What a sitting goes through."""

    @property
    def phrase(self) -> str:
        """What its passes are logged under."""

    def drill(self, number: int) -> Drill:
        """One of its drills."""

    def notes(self, number: int) -> tuple[int, ...]:
        """The numbers of the notes that a drill goes over."""

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
    logbook: Logbook
    sounded: set[str]
    """drills that were clean in this sitting, by name"""

    @property
    def phrase(self) -> str:
        return self.work.plan.request.phrase.title

    def drill(self, number: int) -> Drill:
        return self.work.drills[number]

    def notes(self, number: int) -> tuple[int, ...]:
        return self.work.notes_of(self.drill(number))

    def rung(self, number: int, today: date) -> Rung | None:
        drill = self.drill(number)
        return self.work.next_rung(
            drill, self.logbook.passes(self.phrase, drill.name, today - timedelta(RECENT_DAYS)), today
        )

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

    def _clean(self) -> set[str]:
        """Which drills were clean, ever or in this sitting, by name."""
        return {r.drill for r in self.work.history.record.drills if r.best_clean} | self.sounded


@dataclass(frozen=True)
class MeasureCourse:
    """Figures that climb to a limit."""

    figures: tuple[Figure, ...]
    logbook: Logbook

    phrase = PHRASE

    def drill(self, number: int) -> Drill:
        figure = self.figures[number]
        own = figure.plan.request.phrase
        return Drill(MEASURE, figure.ability.hand, (), figure.ability.words, own, 1.0, figure.ability.name)

    def notes(self, number: int) -> tuple[int, ...]:
        return ()

    def passes(self, today: date) -> list[Pass]:
        """What was played of the figures lately."""
        return self.logbook.passes(PHRASE, since=today - timedelta(days=MEASURED_DAYS))

    def rung(self, number: int, today: date) -> Rung | None:
        figure, numbers = self.figures[number], presets.data("practice.toml")["learning"]
        passes = self.passes(today)
        held = belief(figure, passes, numbers)
        if done(held, passes, figure, numbers):
            return None
        low, high = (held.middle * (1 + sign * held.spread) for sign in (-1, 1))
        return Rung(held.middle, f"your limit lies between about {low:.0f} and {high:.0f}: play it once, then say")

    def after(self, number: int, clean: bool) -> int:
        return number

    def turns(self, number: int) -> tuple[tuple[str, bool], ...]:
        return ()

"""A session that measures the hands: figures that climb to a limit."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, timedelta

from dromic import presets
from dromic.core.drills.drill import Drill
from dromic.core.learning.measuring import PHRASE, Figure, belief, done
from dromic.core.plan.plan import Plan
from dromic.core.practice.ladder import Rung
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.store.log.logbook import Logbook

MEASURE = "measure"
"""The kind of what is played when hands are measured."""
MEASURE_MIN = 10.0
"""Minutes a figure has."""
MEASURED_DAYS = 30
"""Days for which its passes count."""


def measured_lately(book: Logbook, today: date) -> tuple[Pass, ...]:
    """What was played of the figures lately."""
    return tuple(book.passes(PhraseName(PHRASE), since=today - timedelta(days=MEASURED_DAYS)))


@dataclass(frozen=True)
class MeasureCourse:
    """The course of it; the passes of the last weeks count, so that it can be left and taken up again."""

    figures: tuple[Figure, ...]
    before: tuple[Pass, ...] = ()
    """what was played of the figures lately"""
    played: list[Pass] = field(default_factory=list)

    of = PhraseName(PHRASE)

    def drill(self, number: int) -> Drill:
        figure = self.figures[number]
        own = figure.plan.request.phrase
        return Drill(MEASURE, figure.ability.hand, (), figure.ability.words, own, 1.0, figure.ability.name)

    def notes(self, number: int) -> tuple[int, ...]:
        return ()

    def plan(self, number: int) -> Plan:
        return self.figures[number].plan

    def rung(self, number: int, today: date) -> Rung | None:
        figure, numbers = self.figures[number], presets.practice().learning
        passes = [*self.before, *self.played]
        held = belief(figure, passes, numbers)
        if done(held, passes, figure, numbers):
            return None
        low, high = (held.middle * (1 + sign * held.spread) for sign in (-1, 1))
        return Rung(
            round(held.middle, 2), f"your limit lies between about {low:.0f} and {high:.0f}: play it once, then say"
        )

    def after(self, number: int, clean: bool) -> int:
        return number

    def turns(self, number: int) -> tuple[tuple[str, bool], ...]:
        return ()

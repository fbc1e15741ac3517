"""Plans side by side: what they are measured by, which is best at each, and where they differ."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.reports.ceiling_words import about
from dromic.core.reports.explain import SAME_TEMPO
from dromic.core.values.vocabulary import SIGN, UNSTRUCK

Number = float | int | None
SAME_WORK = 0.005
"""work closer than this is told as the same"""


@dataclass(frozen=True, slots=True)
class Measure:
    """One row of the comparison. `better` is 1 where more is better, -1 where less is, 0 where neither is."""

    label: str
    of: Callable[[Plan], Number]
    better: int
    digits: int = 0
    words: Callable[[Plan], str] | None = None
    """for a row that is told in words and not compared"""

    @property
    def name(self) -> str:
        """By which it is asked for."""
        return self.label.split(",")[0].lower().replace(" ", "-")

    def text(self, plan: Plan) -> str:
        """The value as it is shown."""
        if self.words is not None:
            return self.words(plan)
        value = self.of(plan)
        return "–" if value is None else f"{value:.{self.digits}f}"


def _range(plan: Plan) -> str:
    return "–" if plan.ceiling_range is None else f"{plan.ceiling_range[0]:.0f}–{plan.ceiling_range[1]:.0f}"


def picking_work(plan: Plan, dial: float) -> float:
    """The sum of the picking hand's loads, each to the power of the dial."""
    return float(sum((m.pick_load or 0.0) ** dial for m in plan.moves))


def fretting_work(plan: Plan, dial: float) -> float:
    """The same of the fretting hand."""
    return float(sum(m.fret_load**dial for m in plan.moves))


def _struck(plan: Plan) -> list[PlanNote]:
    return [n for n in plan.leads if n.attack not in UNSTRUCK]


def _jumps(plan: Plan) -> list[int]:
    """Strings from one struck note to the next."""
    return [abs(a.string - b.string) for a, b in pairwise(_struck(plan))]


def _span(plan: Plan) -> int:
    strings = [n.string for n in _struck(plan)]
    return max(strings) - min(strings) if strings else 0


def _a_second(count: Callable[[Plan], int]) -> Callable[[Plan], Number]:
    def of(plan: Plan) -> Number:
        seconds = plan.notes[-1].start_s - plan.notes[0].start_s
        return count(plan) / seconds if seconds else None

    return of


def _palm_lifts(plan: Plan) -> int:
    on = ["palm-mute" in n.marks for n in plan.leads]
    return sum(a and not b for a, b in pairwise(on))


def _total(name: str) -> Callable[[Plan], Number]:
    return lambda plan: getattr(plan.totals, name)


MEASURES: tuple[Measure, ...] = (
    Measure("Ceiling, an estimate", lambda p: p.ceiling, 1),
    Measure("Its range, as far as it may be off", lambda p: None, 0, words=_range),
    Measure("Kept up for half a minute, an estimate", lambda p: p.ceiling_sustained, 1),
    Measure("Work of both hands, the search's cost", lambda p: p.work, -1, 2),
    Measure("Picked", _total("picked"), 0),
    Measure("Plucked", _total("plucked"), 0),
    Measure("Unpicked", _total("legato"), 0),
    Measure("Strings passed over", _total("hops"), -1),
    Measure("String changes a second", _total("changes_per_second"), 0, 1),
    Measure("Outside changes", _total("outside"), 0),
    Measure("Inside changes", _total("inside"), -1),
    Measure("Buried hops", _total("buried_hops"), -1),
    Measure("Carry-throughs", _total("carry_through"), 0),
    Measure("Turnarounds", _total("turnarounds"), -1),
    Measure("Pick travel, mm", _total("pick_travel_mm"), -1),
    Measure(
        "Pick travel in string spacings",
        lambda p: p.totals.pick_travel_mm / p.request.instrument.pick_spacing_mm,
        -1,
        1,
    ),
    Measure("Largest jump, strings", lambda p: max(_jumps(p), default=0), -1),
    Measure("Strings skipped", lambda p: sum(jump - 1 for jump in _jumps(p) if jump > 1), -1),
    Measure("Strings spanned", _span, -1),
    Measure("Strokes a second", _a_second(lambda p: sum(n.stroke in SIGN for n in p.leads)), 0, 1),
    Measure("Same stroke again a second", _a_second(lambda p: sum(m.pick_kind == "repeat" for m in p.moves)), -1, 1),
    Measure("Palm lifts a second", _a_second(_palm_lifts), -1, 1),
    Measure("Palm lifts a bar", lambda p: _palm_lifts(p) / len(p.request.phrase.bars), -1, 1),
    Measure("Shifts", _total("shifts"), -1),
    Measure("Shift travel, mm", _total("shift_mm"), -1),
    Measure("Longest stretch, mm", _total("max_stretch_mm"), -1, 1),
    Measure("Rolls", _total("rolls"), -1),
    Measure("Knots", _total("knots"), -1),
    Measure("First attacks unlike the others", _total("uneven_first_attacks"), -1),
    Measure("Findings", lambda p: len(p.findings), -1),
)


NUMBERED = {measure.name: measure for measure in MEASURES if measure.words is None}
"""what plans can be ranked by, by its name"""


def best_at(measure: Measure, plans: Sequence[Plan | None]) -> set[int]:
    """Which of some plans are best at a measure; none where all are alike or nothing is better."""
    values = {n: v for n, p in enumerate(plans) if p is not None and (v := measure.of(p)) is not None}
    if not measure.better or not values:
        return set()
    best, alike = max(measure.better * float(v) for v in values.values()), 0.5 * 10.0**-measure.digits
    found = {n for n, v in values.items() if best - measure.better * float(v) < alike}
    return found if len(found) < len(values) else set()


def differing(one: Plan, other: Plan) -> list[int]:
    """The events (by number) that two plans of one phrase play differently."""
    both = zip(_played(one), _played(other), strict=True)
    return [event for event, (ours, theirs) in enumerate(both) if ours != theirs]


def _played(plan: Plan) -> list[list[tuple[object, ...]]]:
    """For every event how its notes are played."""
    return [[(n.string, n.fret, n.finger, n.attack, n.stroke) for n in notes] for notes in plan.events]


def fastest(plans: Sequence[Plan | None]) -> int | None:
    """The plan with the highest ceiling, the least work deciding between equals; None if there is none."""
    found = [(n, p) for n, p in enumerate(plans) if p is not None]
    if not found:
        return None
    return max(found, key=lambda f: (f[1].ceiling or float("inf"), -f[1].work))[0]


def equally_fast(plans: Sequence[Plan | None]) -> list[int]:
    """The plans whose ceilings are told as one with the highest, those of the least work first."""
    top = fastest(plans)
    best = plans[top] if top is not None else None
    if best is None:
        return []
    limit = (best.ceiling or float("inf")) - SAME_TEMPO
    there = [(p.work, n) for n, p in enumerate(plans) if p is not None and (p.ceiling or float("inf")) >= limit]
    return [n for _, n in sorted(there)]


def fastest_words(labels: Sequence[str], plans: Sequence[Plan | None]) -> str:
    """Which of some plans is the fastest, in a sentence; of equals none is, and the one of the least work is named."""
    alike = equally_fast(plans)
    best = plans[alike[0]] if alike else None
    if best is None:
        return "None can play it."
    made = f"as planned for {best.request.phrase.tempo:.0f}"
    ceiling = "no move limits" if best.ceiling is None else f"a ceiling of {about(best.ceiling)}, an estimate"
    if len(alike) == 1:
        limited = ceiling if best.ceiling is not None else "no move limits it"
        return f"Fastest, {made}: {labels[alike[0]]}, {limited}."
    told = f"{ceiling} them" if best.ceiling is None else f"with {ceiling}"
    every = "All ways" if len(alike) == len([p for p in plans if p is not None]) else f"{_counted(len(alike))} ways"
    least = [n for n in alike if (p := plans[n]) is not None and p.work - best.work <= SAME_WORK]
    named = labels[alike[0]] if len(least) == 1 else "none of them"
    return f"{every} are equally fast, {made}, {told}; {named} has {'the least' if len(least) == 1 else 'less'} work."


def _counted(number: int) -> str:
    words = ("Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine", "Ten", "Eleven", "Twelve")
    return words[number - 2] if number - 2 < len(words) else str(number)


def ceilings_by_bar(plan: Plan) -> dict[int, float]:
    """The tempo each bar alone would allow, by the bar's index: that of its hardest move, counted to the note it goes to.
    Bars whose moves take no time are left out."""
    bars = [plan.request.phrase.events[e].bar for e in range(len(plan.events))]
    most: dict[int, float] = {}
    for move in plan.onward:
        most[bars[move.to]] = max(most.get(bars[move.to], 0.0), move.load)
    return {bar: plan.request.phrase.tempo / load for bar, load in most.items() if load}


def compared(chosen: Plan, other: Plan) -> str:
    """How another plan compares with the chosen one, in a few words."""
    parts = []
    if chosen.ceiling and other.ceiling:
        by = other.ceiling - chosen.ceiling
        if abs(by) >= SAME_TEMPO:
            parts.append(f"ceiling {abs(by):.0f} {'higher' if by > 0 else 'lower'}")
        else:
            parts.append("the same ceiling")
    for name, words in (
        ("hops", "string{} passed over"),
        ("buried_hops", "buried hop{}"),
        ("shifts", "shift{}"),
        ("knots", "knot{}"),
    ):
        more = getattr(other.totals, name) - getattr(chosen.totals, name)
        if more:
            parts.append(f"{abs(more)} {'more' if more > 0 else 'fewer'} {words.format('s' * (abs(more) != 1))}")
    return ", ".join(parts) or "much the same"

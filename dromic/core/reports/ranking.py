"""What is said of each tune of a collection for one pair of hands: how fast it goes, how much work it is, what limits it, what it
asks of a player, and which one ability away it is. A key to rank by, and a thing asked of a player, is one entry."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

from dromic.core.plan.kind_words import FRET_KINDS, PICK_KINDS
from dromic.core.plan.plan import Plan
from dromic.core.reports.comparison import NUMBERED, Measure
from dromic.core.values.vocabulary import PLUCK, TAP

INFINITE = 1e9
"""a ceiling where nothing limits a tune"""


@dataclass(frozen=True, slots=True)
class Away:
    """One ability that alone would do: its label, how many times better it must be, what it would be and is."""

    ability: str
    factor: float
    wanted: float
    now: float
    unit: str


@dataclass(frozen=True, slots=True)
class Ranked:
    """A tune: where it is, its own tempo in quarters a minute, its ceiling with its range and what of it can be kept up (None where
    nothing limits it), the work a second of the plan at its own tempo, what limits it and where, and what it asks of a player.
    `refused` says why there is no plan. `away` is looked for near a target only."""

    file: str
    tune: int
    title: str
    tempo: float = 0.0
    notes: int = 0
    ceiling: float | None = None
    ceiling_range: tuple[float, float] | None = None
    work: float = 0.0
    hand: str = ""
    kind: str = ""
    bar: int = 0
    load: float = 0.0
    needs: tuple[str, ...] = ()
    away: Away | None = None
    refused: str = ""
    measures: dict[str, float | None] = field(default_factory=dict)
    """what plans are compared by, by name"""
    sustained: float | None = None

    @property
    def top(self) -> float:
        """The ceiling to compare by."""
        return INFINITE if self.ceiling is None else self.ceiling

    def plays(self, target: float | None) -> bool:
        """Whether it goes at a target, or at its own tempo where none is given."""
        return not self.refused and self.top >= (target or self.tempo)

    @property
    def limit_words(self) -> str:
        """What limits it, in words."""
        told = PICK_KINDS[self.kind].by if self.kind in PICK_KINDS else FRET_KINDS.get(self.kind, "")
        return f"{self.hand} hand, bar {self.bar}: {told}" if told else ""


NEEDS: tuple[tuple[str, Callable[[Plan], bool]], ...] = (
    ("carrying through", lambda p: p.totals.carry_through > 0),
    ("string skips", lambda p: any(m.pick_kind.startswith("skip") for m in p.moves)),
    ("inside changes", lambda p: p.totals.inside > 0),
    ("slurs", lambda p: p.totals.legato > 0),
    ("bare fingers", lambda p: any(n.attack == PLUCK for n in p.notes)),
    ("taps", lambda p: any(n.attack == TAP for n in p.notes)),
    ("chords", lambda p: any(len(notes) > 2 for notes in p.events)),
    ("shifts", lambda p: p.totals.shifts > 0),
    ("rolls", lambda p: p.totals.rolls > 0),
    ("stretches", lambda p: any(m.fret_kind == "stretch" for m in p.moves)),
)
"""what a plan asks of a player, and how that is told"""


def _by(measure: Measure) -> Callable[[Ranked], float]:
    """The best at a measure first; where neither is better, the least."""

    def key(one: Ranked) -> float:
        value = one.measures.get(measure.name)
        return INFINITE if value is None else -value if measure.better > 0 else value

    return key


RANKS: dict[str, Callable[[Ranked], float]] = {
    "ceiling": lambda one: -one.top,
    "work": lambda one: one.work,
    "needs": lambda one: len(one.needs),
    **{name: _by(measure) for name, measure in NUMBERED.items() if name != "ceiling"},
}
"""keys to rank by, the first of the list being the easiest"""


def ranked_of(plan: Plan, file: str, tune: int, title: str) -> Ranked:
    """What is said of a plan."""
    worst = max(plan.moves, key=lambda m: m.load, default=None)
    phrase = plan.request.phrase
    seconds = max(phrase.seconds_at(phrase.end), 1e-9)
    made = Ranked(
        file, tune, title, phrase.tempo, len(plan.notes), plan.ceiling, plan.ceiling_range, plan.cost / seconds,
        sustained=plan.ceiling_sustained,
        needs=tuple(name for name, asks in NEEDS if asks(plan)),
        measures={name: None if (value := measure.of(plan)) is None else float(value) for name, measure in NUMBERED.items()},
    )  # fmt: skip
    if worst is None:
        return made
    kind = worst.pick_kind if worst.hand == "picking" else worst.fret_kind
    return replace(made, hand=worst.hand, kind=kind, bar=plan.events[worst.to][0].bar_number, load=worst.load)


def ranking(found: Sequence[Ranked], by: str) -> list[Ranked]:
    """Tunes in order, the easiest first, the least work first where they are alike; those without a plan at the end."""
    return sorted(found, key=lambda one: (bool(one.refused), RANKS[by](one), -one.top, one.work, one.title))


def summary_words(found: Sequence[Ranked], target: float | None) -> str:
    """How many of them go, and how many are one ability away."""
    plays = sum(one.plays(target) for one in found)
    away = sum(one.away is not None for one in found)
    refused = sum(bool(one.refused) for one in found)
    at = f"at {target:g}" if target else "at their own tempos"
    words = [f"{plays} of {len(found)} go {at}"]
    if away:
        words.append(f"{away} {'is' if away == 1 else 'are'} one ability away")
    if refused:
        words.append(f"{refused} cannot be planned")
    return "; ".join(words)

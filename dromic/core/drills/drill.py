"""What a drill is, and what drills are made from: a plan, the log's clean tempos, which hand goes first, what is left out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from dromic.core.drills.passage import Step, laid, playing_order, steps_of
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Move, Plan
from dromic.core.setup.practice_settings import PracticeSettings
from dromic.core.values.metre import Metre

BOTH, PICKING, FRETTING = "both", "picking", "fretting"


@dataclass(frozen=True)
class Material:
    """What drills are made from. `clean` holds the best clean tempo of events that the log knows of."""

    plan: Plan
    settings: PracticeSettings
    target: float
    clean: Mapping[int, float] = field(default_factory=dict)
    first_hand: str = FRETTING

    @cached_property
    def order(self) -> tuple[int, ...]:
        """The events in the order they are written."""
        return playing_order(self.plan)

    @cached_property
    def hardest(self) -> tuple[Move, ...]:
        """The moves to work on, the worst first: by their load, and more so where the log knows no clean tempo near the target;
        none that lies beside one before it."""
        found: list[Move] = []
        for move in sorted(self.plan.moves, key=self._weight, reverse=True):
            if len(found) == self.settings.drills.hardest:
                break
            if all(abs(move.to - other.to) > self.settings.drills.around for other in found):
                found.append(move)
        return tuple(found)

    def _weight(self, move: Move) -> tuple[float, int]:
        known = self.clean.get(move.to, 0.0)
        behind = max(0.0, 1.0 - known / self.target) if known else 0.0
        return move.load * (1.0 + behind), -move.to

    @property
    def metre(self) -> Metre:
        """The metre that most bars of the phrase have."""
        bars = self.plan.request.phrase.bars
        return Counter(bar.metre for bar in bars).most_common(1)[0][0]

    def steps(self, events: Sequence[int]) -> tuple[Step, ...]:
        """The steps of events."""
        return steps_of(self.plan, events)

    def around(self, move: Move, reach: int) -> tuple[int, ...]:
        """The events about a move, in playing order; those of a jump back lie on both sides of it."""
        if move.seam:
            before = [e for e in self.order if e <= move.start][-reach:]
            return (*before, *[e for e in self.order if e >= move.to][:reach])
        low, high = max(0, move.to - reach), min(len(self.order), move.to + reach)
        return self.order[low:high]

    def load_of(self, events: Sequence[int], hand: str = BOTH) -> float:
        """The largest load of a hand, or of both, on the way through events."""
        inside = set(events)
        loads = [
            {PICKING: m.pick_load or 0.0, FRETTING: m.fret_load}.get(hand, m.load)
            for m in self.plan.moves
            if m.to in inside and m.start in inside
        ]
        return max(loads, default=0.0)

    def bars_of(self, events: Sequence[int]) -> tuple[int, ...]:
        """The numbers of the bars that events lie in, each once, in their order."""
        return tuple(dict.fromkeys(self.plan.events[e][0].bar_number for e in events))

    def drill(
        self, kind: str, events: Sequence[int], steps: Sequence[Step], reason: str, key: str = "", hand: str = BOTH,
        metre: Metre | None = None, paces: Sequence[float] = (),
    ) -> Drill:  # fmt: skip
        """A drill of steps over events of the plan. What goes over several of the places to work on says so."""
        title = f"{kind}{' ' + key if key else ''} of {self.plan.request.phrase.title}"
        goals = self.goals(events)
        if goals > 1:
            reason = f"{reason}; goes over {goals} of the hard places at once"
        phrase = self.phrase(steps, title, metre, paces)
        return Drill(
            kind, hand, tuple(events), reason, phrase, self.load_of(events, hand), key, goals, self.bars_of(events)
        )

    def goals(self, events: Sequence[int]) -> int:
        """How many of the places to work on events go over: the hardest moves, and where it goes round again."""
        inside = set(events)
        places = {(m.start, m.to) for m in (*self.hardest, *self.plan.seams)}
        return sum(start in inside and to in inside for start, to in places)

    def phrase(
        self, steps: Sequence[Step], title: str, metre: Metre | None = None, paces: Sequence[float] = ()
    ) -> Phrase:
        """A drill's phrase, at the target; in the phrase's metre and swing, unless it has a metre of its own."""
        plan = self.plan
        made = laid(
            steps, title, self.target, plan.request.instrument, metre or self.metre,
            (lambda bar: paces[bar % len(paces)]) if paces else None,
        )  # fmt: skip
        return made if metre is not None else replace(made, swing=plan.request.phrase.swing)


@dataclass(frozen=True, slots=True)
class Drill:
    """One thing to practise: which hand, which events of the plan, why, its own phrase, and the load it comes to there at the
    plan's tempo (an estimate)."""

    kind: str
    hand: str
    events: tuple[int, ...]
    reason: str
    phrase: Phrase
    load: float
    key: str = ""
    """what tells it from others of its kind in the log, beside its events"""
    goals: int = 0
    """how many of the places to work on it goes over"""
    bars: tuple[int, ...] = ()
    """the numbers of the bars it comes from"""

    @property
    def name(self) -> str:
        """The name the log knows it by."""
        places = f"{self.events[0]}-{self.events[-1]}" if self.events else ""
        return ":".join(part for part in (self.kind, self.key, places) if part)

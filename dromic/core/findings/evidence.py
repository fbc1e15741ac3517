"""What rules look at, and what they yield: a finished plan as evidence, and what was seen in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

from dromic.core.plan.damping import Muting, muting
from dromic.core.plan.finger_schedule import Schedule, schedule
from dromic.core.plan.plan import Move, Plan, PlanNote

PICKING, FRETTING, BOTH = "picking", "fretting", "both"


@dataclass(frozen=True, eq=False)
class Evidence:
    """A finished plan, with the leading note of every event at hand."""

    plan: Plan

    @property
    def leads(self) -> tuple[PlanNote, ...]:
        """The leading note of every event."""
        return self.plan.leads

    @cached_property
    def set_by_hand(self) -> set[int]:
        """Events whose strokes the player set or pinned: a choice, no fault."""
        request = self.plan.request
        return {e for e, _ in request.overrides} | {pin.event for pin in request.pins if pin.field == "stroke"}

    @cached_property
    def schedule(self) -> Schedule:
        """When each finger presses and lifts."""
        return schedule(self.plan)

    @cached_property
    def muting(self) -> Muting:
        """What damps the idle strings."""
        return muting(self.plan, self.schedule)

    def worth(self, load: float) -> bool:
        """Whether a load is large enough to be told."""
        return load >= self.plan.request.player.judging.report_load

    def moves(self, kinds: tuple[str, ...]) -> Iterator[tuple[Move, float]]:
        """The picking hand's moves of some kinds whose load is worth telling."""
        for move in self.plan.moves:
            if move.pick_kind in kinds and move.pick_load is not None and self.worth(move.pick_load):
                yield move, move.pick_load

    def strings(self, move: Move) -> str:
        """The strings a move goes from and to, in words."""
        return f"string {self.leads[move.pick_from].string} to {self.leads[move.to].string}"


@dataclass(frozen=True, slots=True)
class Seen:
    """What a rule saw: events by number, the load there, and the sentence; of a rule about time it goes on after the tempo that fits.
    `cost` ranks what has no load; `whole` says that the events are a list or a run from its first, not a move to the last."""

    events: tuple[int, ...]
    load: float
    text: str
    cost: float = 0.0
    whole: bool = False
    need: str = ""
    """the time that a move would have to be done in, in words"""
    detail: str = ""
    """what it stands on in ms and mm, told on asking"""


@dataclass(frozen=True, slots=True)
class Rule:
    """`name` is stable and appears in the JSON; `label` on screens; `meaning` in help."""

    name: str
    label: str
    hand: str
    meaning: str
    look: Callable[[Evidence], Iterator[Seen]]
    timed: bool = True
    """whether its load is a share of the time there is, so that a slower tempo fits"""
    own: bool = False
    """whether it is about something else than the time of a move, and so is told beside other findings of its place"""
    changes: bool = True
    """whether another plan may mend it, so that one is looked for"""
    advice: str = ""
    """what helps where no single change does; for what has a load the tempo is told instead"""


def pick_need(move: Move) -> str:
    """What the picking hand would have to get down to, in words."""
    return f"this move from {move.pick_ms:.0f} to {move.pick_has_ms:.0f} ms"


def fret_need(move: Move) -> str:
    """The same of the fretting hand."""
    return f"this move from {move.fret_ms:.0f} to {move.fret_gap_ms:.0f} ms"


def pick_ms(move: Move) -> str:
    """What the picking hand needs and has, in words; both estimates, in ms."""
    return f"needs about {move.pick_ms:.0f} ms, has {move.pick_has_ms:.0f} ms"


def fret_ms(move: Move) -> str:
    """The same of the fretting hand."""
    return f"needs about {move.fret_ms:.0f} ms, has {move.fret_gap_ms:.0f} ms"

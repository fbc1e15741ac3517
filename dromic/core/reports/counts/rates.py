"""How often a second something is done in a plan, against what the hand can do when it does nothing else; and whose work it is."""

from __future__ import annotations

from bisect import bisect_left
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from dromic.core.plan.plan import Plan
from dromic.core.reports.occurrences import palm_moves, repeated_strokes, string_changes, strokes


@dataclass(frozen=True, slots=True)
class Rate:
    """So many in all, a second on average and in the busiest second (0 where the whole is no longer than one), and the most that
    the hand can do in a second, an estimate."""

    name: str
    count: int
    mean: float
    busiest: int
    limit: float
    how: str = ""

    @property
    def words(self) -> str:
        """All of it in words; empty where there is none."""
        if not self.count or not self.mean:
            return ""
        busiest = f", {self.busiest} in the busiest second" if self.busiest else ""
        return f"{self.count}, {self.mean:.1f} a second on average{busiest}; this hand {self.limit:.1f} at most"


def _rate(plan: Plan, name: str, times_s: Sequence[float], limit_ms: float, how: str = "") -> Rate:
    seconds = plan.notes[-1].start_s - plan.notes[0].start_s
    busiest = max((bisect_left(times_s, at + 1.0) - n for n, at in enumerate(times_s)), default=0) if seconds > 1 else 0
    return Rate(name, len(times_s), len(times_s) / seconds if seconds else 0.0, busiest, 1000 / limit_ms, how)


def stroke_rate(plan: Plan) -> Rate:
    """Strokes of the pick, against alternate strokes on one string."""
    return _rate(plan, "strokes", [n.start_s for n in strokes(plan)], plan.request.player.picking.alternate_ms)


def repeat_rate(plan: Plan) -> Rate:
    """The same stroke again on its string, against downs only."""
    again = [n.start_s for n in repeated_strokes(plan)]
    return _rate(plan, "same stroke again", again, plan.request.player.picking.repeat_ms)


def change_rate(plan: Plan) -> Rate:
    """Changes of string from one struck note to the next, against the quickest way this hand has."""
    hand = plan.request.player.picking
    times = [now.start_s for _, now in string_changes(plan)]
    quickest = min(hand.carry_ms, hand.alternate_ms)
    how = "carrying through" if quickest == hand.carry_ms else "alternating"
    return _rate(plan, "string changes", times, quickest, how)


def palm_rate(plan: Plan) -> Rate:
    """How often the palm leaves the strings, against how fast this hand lays it on or lifts it."""
    lifts = [now.start_s for before, now in palm_moves(plan) if "palm-mute" in before.marks]
    return _rate(plan, "palm lifts", lifts, plan.request.player.picking.palm_ms)


RATES = (stroke_rate, repeat_rate, change_rate, palm_rate)


def finger_work(plan: Plan) -> dict[str, float]:
    """The share of the fretting hand's work that brings each of the fingers 1 to 4 down, an estimate; empty where there is none."""
    dial = plan.request.player.judging.dial
    work: defaultdict[str, float] = defaultdict(float)
    for move in plan.onward:
        finger = plan.events[move.to][0].finger
        if finger in "1234":
            work[finger] += move.fret_load**dial
    whole = sum(work.values())
    return {finger: work[finger] / whole for finger in "1234"} if whole else {}

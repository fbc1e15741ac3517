"""What happens in a plan, as lists in the order of playing: places are made from them, and a count is the length of one."""

from __future__ import annotations

from itertools import pairwise

from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.values.vocabulary import DOWN, UNSTRUCK, UP

Pair = tuple[PlanNote, PlanNote]
"""the first notes of an event and of the one that follows it in the list"""


def strokes(plan: Plan) -> list[PlanNote]:
    """The first note of every event that a stroke of the pick sounds."""
    return [n for n in plan.leads if n.stroke in (DOWN, UP)]


def struck_notes(plan: Plan) -> list[PlanNote]:
    """The first note of every event that pick or finger sounds."""
    return [n for n in plan.leads if n.attack not in UNSTRUCK]


def string_changes(plan: Plan) -> list[Pair]:
    """Struck notes that follow one another on two strings."""
    return [(a, b) for a, b in pairwise(struck_notes(plan)) if a.string != b.string]


def repeated_strokes(plan: Plan) -> list[PlanNote]:
    """Notes struck the same way as the one before on their string."""
    return sorted((plan.leads[m.to] for m in plan.onward if m.pick_kind == "repeat"), key=lambda n: n.start_s)


def palm_moves(plan: Plan) -> list[Pair]:
    """Notes between which the palm is laid on the strings or lifted."""
    return [(a, b) for a, b in pairwise(plan.leads) if ("palm-mute" in a.marks) != ("palm-mute" in b.marks)]

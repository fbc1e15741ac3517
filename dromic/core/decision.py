"""A decision: the plan a player has chosen for a phrase, why, and what was weighed against it and rejected."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.choices import Choices
from dromic.core.plan import Plan

SAME_TEMPO = 0.5
"""quarters a minute: ceilings closer than this are told as the same"""


@dataclass(frozen=True, slots=True)
class Rejected:
    """A plan that was not chosen: its ceiling when it was weighed (None where nothing limited it, or there was no plan),
    and how it compares."""

    label: str
    ceiling: float | None
    why: str


@dataclass(frozen=True, slots=True)
class Decision:
    """`choices` are what makes the plan; `ceiling` is the estimate when it was chosen; `day` as 2026-03-01."""

    label: str
    choices: Choices
    ceiling: float | None
    why: str
    day: str
    rejected: tuple[Rejected, ...] = ()


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
        ("hops", "strings passed over"),
        ("buried_hops", "buried hops"),
        ("shifts", "shifts"),
        ("knots", "knots"),
    ):
        more = getattr(other.totals, name) - getattr(chosen.totals, name)
        if more:
            parts.append(f"{abs(more)} {'more' if more > 0 else 'fewer'} {words}")
    return ", ".join(parts) or "much the same"

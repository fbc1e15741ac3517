"""A decision: the plan a player has chosen for a phrase, why, and what was weighed against it and rejected."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.core.setup.choices import Choices


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

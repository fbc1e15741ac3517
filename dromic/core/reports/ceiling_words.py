"""A ceiling as it is told: a tempo in quarters a minute, or that nothing limits it."""

from __future__ import annotations

NO_LIMIT = "no limit"


def about(ceiling: float | None) -> str:
    """The tempo alone, where the sentence says what it is of."""
    return NO_LIMIT if ceiling is None else f"about {ceiling:.0f}"


def ceiling_about(ceiling: float | None, unlimited: str = NO_LIMIT) -> str:
    """The tempo by its name."""
    return unlimited if ceiling is None else f"ceiling about {ceiling:.0f}"

"""A ceiling as it is told: a tempo in quarters a minute, or that nothing limits it."""

from __future__ import annotations

from collections.abc import Iterable

from dromic.core.plan.finding import Limit
from dromic.core.setup.player import Player

NO_LIMIT = "no limit"


def about(ceiling: float | None) -> str:
    """The tempo alone, where the sentence says what it is of."""
    return NO_LIMIT if ceiling is None else f"about {ceiling:.0f}"


def ceiling_about(ceiling: float | None, unlimited: str = NO_LIMIT) -> str:
    """The tempo by its name."""
    return unlimited if ceiling is None else f"ceiling about {ceiling:.0f}"


def stands_on(limit: Limit, player: Player, starting: Iterable[Player]) -> str:
    """What sets a ceiling and where its numbers come from, in words: `starting` are the players whose numbers are guesses."""
    own = _numbers(player, limit)
    guessed = any(own == _numbers(one, limit) for one in starting)
    source = "starting guesses, not measured on you" if guessed else "this player's own numbers"
    *first, last = limit.rows
    rows = f"{', '.join(first)} and {last}" if first else last
    return f"Set at note {limit.note + 1} by the time of {rows}: {source}"


def _numbers(player: Player, limit: Limit) -> list[object]:
    hand = player.picking if limit.hand == "picking" else player.fretting
    return [getattr(hand, name) for name in limit.numbers if hasattr(hand, name)]

"""Phrases whose tempo players know, and the tempo at which a fluent picking hand gets through them. From memory, not
measured: to be replaced by each player's own. Tempos are quarters a minute, picking loads alone."""

from __future__ import annotations

from dataclasses import dataclass

from dromic import presets
from dromic.core.music.songbook import empty_phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.search.planner import judge, solve
from dromic.formats.text.quick_line import parse

_TWO = "6.5:s 6.8 5.5 5.7 4.5 4.7 3.5 3.7 2.5 2.8 1.5 1.8 r:1"
_FOUR = "6.5:s 6.6 6.7 6.8 5.5 5.6 5.7 5.8 4.5 4.6 4.7 4.8 3.5 3.6 3.7 3.8"
_THREE = "6.5:s 6.7 6.8 5.5 5.7 5.8 4.5 4.7 4.9 3.5 3.7 3.9 2.6 2.8 2.10 r:1/4"


@dataclass(frozen=True)
class Rate:
    """A stated phrase and the tempos between which its ceiling lies."""

    name: str
    line: str
    school: str
    lean: str
    low: float
    high: float
    start: str | None = "down"
    pulse: str | None = None

    @property
    def request(self) -> Request:
        """What is planned, for the fluent player with the lean."""
        guitar = presets.instruments()["guitar"]
        phrase = parse(self.line, empty_phrase(self.name, guitar), guitar).phrase.at_tempo(100)
        player = presets.players()["fluent"].with_leans(presets.leans()[self.lean])
        return Request(phrase, guitar, player, presets.schools()[self.school], self.pulse, self.start)

    def ceiling(self) -> float:
        """Where the picking hand alone would be at its limit."""
        return picking_ceiling(judge(solve(self.request)))


def picking_ceiling(plan: Plan) -> float:
    """The tempo at which the largest picking load would be 1."""
    return plan.request.phrase.tempo / max(m.pick_load or 0.0 for m in plan.moves)


RATES: tuple[Rate, ...] = (
    Rate("one string, alternate", "3.5:s 3.7 3.5 3.7 3.5 3.7 3.5 3.7 r:2", "alternate", "up-clear", 181, 181),
    Rate("one string, downs in eighths", "6.0:e 6.0 6.0 6.0 6.0 6.0 6.0 6.0", "downs", "up-clear", 180, 220, pulse="eighth"),
    Rate("two a string, the lean that suits", _TWO, "alternate", "up-clear", 135, 165),
    Rate("two a string, the other lean", _TWO, "alternate", "down-clear", 105, 120),
    Rate("four a string, the lean that suits", _FOUR, "alternate", "up-clear", 135, 165),
    Rate("four a string, the other lean", _FOUR, "alternate", "down-clear", 105, 120),
    Rate("three a string, alternate, ups clear", _THREE, "alternate", "up-clear", 105, 120),
    Rate("three a string, alternate, downs clear", _THREE, "alternate", "down-clear", 105, 120),
    Rate("three a string, alternate, switching", _THREE, "alternate", "switching", 130, 165),
    Rate("three a string, economy, one way", _THREE, "economy", "up-clear", 163, 199),
    Rate("economy after an odd count that turns round",
         "4.5:s 4.7 4.9 3.5 3.7 3.9 4.5 4.7 4.9 3.5 3.7 3.9 r:1", "economy", "up-clear", 105, 125),
    Rate("gallop, the change after the clear stroke",
         "6.0:e 6.0:s 6.0 5.2:e 5.2:s 5.2 6.0:e 6.0:s 6.0 5.2:e 5.2:s 5.2", "pulse", "up-clear", 130, 181),
)  # fmt: skip
SKIPS = "5.5:s 3.5 5.7 3.5 5.5 3.7 5.7 3.7 r:2"
"""over a skipped string, where hybrid gets faster than alternate"""

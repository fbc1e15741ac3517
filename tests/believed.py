"""Phrases with the tempos that a teacher believes of three players: from memory, no published source; what a plan makes of them."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.core.music.songbook import empty_phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.plan.write_back import phrase_with_plan
from dromic.core.search.planner import judge, solve
from dromic.formats.text.quick_line import parse

FILE = Path(__file__).parent / "data" / "believed_ceilings.jsonl"
PLAYERS = ("settled", "fluent", "flying")
"""from the slowest on"""
UNLIMITED = 1000.0


@dataclass(frozen=True)
class Believed:
    """One phrase: what is asked, and the ceilings that are believed."""

    facts: dict[str, Any]

    @property
    def name(self) -> str:
        return str(self.facts["id"])

    @property
    def within(self) -> float:
        """The share by which a ceiling may be off."""
        return float(self.facts["within"])

    @property
    def ceilings(self) -> dict[str, float]:
        return {name: float(self.facts[name]) for name in PLAYERS}

    def request(self, player: str, tempo: float | None = None) -> Request:
        """What is planned for a starting player."""
        instrument, hand = presets.instruments()[self.facts["instrument"]], presets.players()[player]
        at = tempo or float(self.facts["tempo"])
        phrase = parse(self.facts["line"], empty_phrase(self.name, instrument), instrument).phrase.at_tempo(at)
        school = presets.school_at(self.facts["school"], hand, at)
        return Request(phrase, instrument, hand, school, None, self.facts["start"])

    def ceiling(self, player: str) -> float:
        """The ceiling that is asked about, of the plan for a starting player."""
        return getattr(judge(solve(self.request(player))), self.facts["which"]) or UNLIMITED

    def right(self, player: str, ceiling: float) -> bool:
        """Whether it is as believed."""
        return abs(ceiling / self.ceilings[player] - 1) <= self.within


def believed() -> list[Believed]:
    """All of them, in the order of the file."""
    return [Believed(json.loads(line)) for line in FILE.read_text().splitlines()]


def on_the_better_hand(phrase: Believed, lesser: str, better: str) -> tuple[float, float, float]:
    """The ceilings of the lesser hand's plan played by it and by the better hand, and the largest load of the better hand's own plan
    at the lesser's ceiling."""
    plan = judge(solve(phrase.request(lesser)))
    was = plan.ceiling or UNLIMITED
    as_it_is = replace(
        phrase.request(better), phrase=phrase_with_plan(plan.request.phrase, plan),
        keep=frozenset({"positions", "fingers", "strokes", "attacks"}),
    )  # fmt: skip
    now = judge(solve(as_it_is)).ceiling or UNLIMITED
    own: Plan = judge(solve(phrase.request(better, min(was, UNLIMITED))))
    return was, now, max((move.load for move in own.moves), default=0.0)

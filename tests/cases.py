"""Phrases with the answers that players would sign, and whether a plan gives one of them. Common practice, no source.

A line of `data/player_cases*.jsonl` is one case: a quick line planned at a tempo in a school, and the answers accepted. The files were
written by three teachers, each before a plan of its phrases was made.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.core.music.songbook import empty_phrase
from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.plan.request import Request
from dromic.core.search.planner import judge, solve
from dromic.core.setup.player import Player
from dromic.formats.text.quick_line import parse

DATA = Path(__file__).parent / "data"
FILES = ("player_cases", "player_cases_2", "player_cases_3")
_STROKES = {"down": "D", "up": "U", "none": "-"}


@dataclass(frozen=True)
class Case:
    """One phrase and the answers that are right; `number` is its line in the file, from 1."""

    number: int
    facts: dict[str, Any]

    @property
    def name(self) -> str:
        return str(self.facts["id"])

    @property
    def kind(self) -> str:
        return str(self.facts["kind"])

    def request(self, player: Player | None = None, faster: float = 1.0) -> Request:
        """What is planned, for the fluent player if no other is given."""
        instrument = presets.instruments()[self.facts["instrument"]]
        base = empty_phrase(self.name, instrument)
        phrase = parse(self.facts["line"], base, instrument).phrase.at_tempo(self.facts["tempo"] * faster)
        return Request(
            phrase, instrument, player or presets.players()["fluent"], presets.schools()[self.facts["school"]],
            keep=frozenset(self.facts["keep"]), start=self.facts.get("start"), pattern=self.facts.get("pattern") or "",
        )  # fmt: skip

    def answer(self, plan: Plan) -> str:
        """A plan in the words of the file."""
        if self.kind == "positions":
            return " ".join("+".join(f"{n.string}.{n.fret}" for n in notes) for notes in plan.events)
        return " ".join(self._word(notes) for notes in plan.events)

    def _word(self, notes: tuple[PlanNote, ...]) -> str:
        low_first = sorted(notes, key=lambda n: -n.string)
        if self.kind == "fingers":
            return "/".join(n.finger for n in low_first)
        words = [_STROKES.get(n.stroke, n.stroke) for n in low_first]
        return words[0] if len(set(words)) == 1 else "/".join(words)

    def right(self, plan: Plan) -> bool:
        """Whether a plan is one that players would sign."""
        if self.kind != "positions":
            return self.answer(plan) in self.facts["accept"]
        if "tab" in self.facts:
            return self.answer(plan) in self.facts["tab"]
        ranges = [tuple(map(int, r.split("-"))) for r in self.facts["accept"]]
        return any(all(low <= n.fret <= high for n in plan.notes) for low, high in ranges)


def cases(files: Sequence[str] = FILES) -> list[Case]:
    """All of some files, in their order."""
    lines = [line for name in files for line in (DATA / f"{name}.jsonl").read_text().splitlines()]
    return [Case(n, json.loads(line)) for n, line in enumerate(lines, start=1)]


def planned(case: Case, player: Player | None = None) -> Plan:
    """The plan of a case."""
    return judge(solve(case.request(player)))

"""How far ceilings move, and which findings flip, when each of a player's times changes by a tenth: for docs/model.md."""

from __future__ import annotations

from dataclasses import fields, replace

from dromic import presets
from dromic.core.music.phrase import Phrase
from dromic.core.music.stated_positions import resolve_positions
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.search.planner import plan
from dromic.core.setup.player import Player
from dromic.formats.table import read, titles

TIMES = ("ms", "ms/mm", "ms/bit")


def planned(phrase: Phrase, player: Player) -> Plan:
    assert phrase.instrument is not None
    school = presets.schools()[phrase.school or "free"]
    return plan(Request(resolve_positions(phrase, phrase.instrument), phrase.instrument, player, school))


def flips(before: Plan, after: Plan) -> set[str]:
    """Rules that see something in one plan and nothing in the other."""
    return {f.rule for f in before.findings} ^ {f.rule for f in after.findings}


def print_sensitivity() -> None:
    book = presets.DATA / "songs" / "copper-wren.dromic"
    phrases = [read(book, n) for n in range(1, len(titles(book)) + 1)]
    player = presets.players()["fluent"]
    base = [planned(p, player) for p in phrases]
    print("| time | a tenth slower: ceilings move by | findings that come or go |")
    print("|---|---|---|")
    for part in ("picking", "fretting"):
        hand = getattr(player, part)
        for spec in fields(hand):
            if spec.metadata.get("unit") not in TIMES or isinstance(getattr(hand, spec.name), tuple):
                continue
            slower = replace(player, **{part: replace(hand, **{spec.name: 1.1 * getattr(hand, spec.name)})})
            after = [planned(p, slower) for p in phrases]
            moved = [
                100 * (b.ceiling / a.ceiling - 1) for a, b in zip(base, after, strict=True) if a.ceiling and b.ceiling
            ]
            rules = sorted(set().union(*(flips(a, b) for a, b in zip(base, after, strict=True))))
            if any(abs(m) > 0.05 for m in moved) or rules:
                span = f"{min(moved):+.1f} to {max(moved):+.1f} %"
                print(f"| `{spec.name}` | {span} | {', '.join(rules) or 'none'} |")

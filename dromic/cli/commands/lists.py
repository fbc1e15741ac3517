"""`dromic instruments`, `players`, `schools`, `rules`: what there is, as a table or JSON."""

from __future__ import annotations

import argparse
import json
from collections.abc import Callable
from typing import Any

from dromic import presets
from dromic.core.findings.findings import RULES
from dromic.core.setup.disagreements import DISAGREEMENTS

Rows = list[dict[str, Any]]


def _instruments() -> Rows:
    return [
        {"name": i.name, "label": i.label, "tuning": list(i.tuning_names), "scale_mm": i.scale_mm, "frets": i.frets}
        for i in presets.instruments().values()
    ]


def _players() -> Rows:
    return [
        {
            "name": p.name,
            "label": p.label,
            "lean": presets.default_lean(p.name),
            "alternate_ms": round(p.picking.alternate_ms, 1),
            "finger_ms": round(p.fretting.finger_ms, 1),
            "numbers": "estimates",
        }
        for p in presets.players().values()
    ]


def _schools() -> Rows:
    return [{"name": s.name, "label": s.label, "text": s.text} for s in presets.schools().values()]


def _disagreements() -> Rows:
    return [
        {"point": d.point, "side": side.label, "why": side.why, "where": d.where, "habit": d.habit, "value": side.value}
        for d in DISAGREEMENTS for side in d.sides
    ]  # fmt: skip


def _rules() -> Rows:
    return [{"rule": r.name, "label": r.label, "hand": r.hand, "meaning": r.meaning} for r in RULES]


LISTS: dict[str, tuple[str, Callable[[], Rows]]] = {
    "instruments": ("the starting instruments", _instruments),
    "players": ("the starting players; their numbers are estimates", _players),
    "schools": ("the schools of picking", _schools),
    "disagreements": ("where players disagree: both sides, and where each is chosen", _disagreements),
    "rules": ("the rules behind findings", _rules),
}


def add_to(commands: Any) -> None:
    for name, (text, rows) in LISTS.items():
        command = commands.add_parser(name, help=text, description=text)
        command.add_argument("--json", action="store_true", help="JSON on standard output")
        command.set_defaults(run=lambda options, rows=rows, name=name: _shown(options, name, rows()))


def _shown(options: argparse.Namespace, name: str, rows: Rows) -> str:
    if options.json:
        return json.dumps({"dromic": 1, name: rows}, indent=1) + "\n"
    cells = [[" ".join(v) if isinstance(v, list) else str(v) for v in row.values()] for row in rows]
    widths = [max(len(row[c]) for row in cells) for c in range(len(cells[0]))]
    return "".join("  ".join(f"{c:<{w}}" for c, w in zip(row, widths, strict=True)).rstrip() + "\n" for row in cells)

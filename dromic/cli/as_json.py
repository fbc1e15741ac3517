"""A plan as the JSON that other programs build on; its shape is fixed."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from dromic.core.plan import Finding, Move, Plan, PlanNote


def report_json(source: str, plans: list[dict[str, Any]], first: Plan) -> dict[str, Any]:
    """The whole answer for one file."""
    request = first.request
    instrument = request.instrument
    for rank, entry in enumerate(plans, start=1):
        entry["rank"] = rank if len({p["school"] for p in plans}) == 1 else 1
    return {
        "dromic": 1,
        "source": source,
        "instrument": {
            "tuning": list(instrument.tuning_names),
            "scale_mm": instrument.scale_mm,
            "capo": instrument.capo,
        },
        "tempo": request.phrase.tempo,
        "player": request.player.name,
        "said": list(first.said),
        "plans": plans,
    }


def plan_json(plan: Plan, seconds: float) -> dict[str, Any]:
    return {
        "school": plan.request.school.name,
        "rank": 1,
        "cost": _rounded(plan.cost, 6),
        "ceiling": _rounded(plan.ceiling),
        "ceiling_sustained": _rounded(plan.ceiling_sustained),
        "ceiling_range": [_rounded(c) for c in plan.ceiling_range] if plan.ceiling_range else None,
        "seconds": _rounded(seconds),
        "pulse": plan.pulse,
        "totals": {k: _rounded(v) if isinstance(v, float) else v for k, v in asdict(plan.totals).items()},
        "notes": [_note(n) for n in plan.notes],
        "moves": [_move(m) for m in plan.moves],
        "findings": [_finding(f) for f in plan.findings],
    }


def _rounded(value: float | None, digits: int = 4) -> float | None:
    return None if value is None else round(float(value), digits)


def _note(note: PlanNote) -> dict[str, Any]:
    return {
        "index": note.index,
        "bar": note.bar,
        "onset": str(note.onset),
        "duration": str(note.duration),
        "pitch": note.pitch,
        "string": note.string,
        "fret": note.fret,
        "finger": note.finger,
        "position": note.position,
        "attack": note.attack,
        "stroke": note.stroke,
        "lean": note.lean,
        "rest_on": note.rest_on,
        "muted": "dead" in note.marks,
        "chord": note.chord,
    }


def _move(move: Move) -> dict[str, Any]:
    return {
        "from": move.start,
        "to": move.to,
        "gap_ms": _rounded(move.gap_ms),
        "pick_gap_ms": _rounded(move.pick_gap_ms),
        "pick_kind": move.pick_kind,
        "hops": move.hops,
        "buried": move.buried,
        "pick_load": _rounded(move.pick_load),
        "fret_kind": move.fret_kind,
        "fret_load": _rounded(move.fret_load),
        "knot": _rounded(move.knot),
    }


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "rule": finding.rule,
        "notes": list(finding.notes),
        "severity": finding.severity,
        "load": _rounded(finding.load),
        "text": finding.text,
        "remedy": None,
    }

"""A plan as the JSON that other programs build on; its shape is fixed."""

from __future__ import annotations

from dataclasses import asdict
from fractions import Fraction
from typing import Any

from dromic.core.music.graces import as_written
from dromic.core.music.phrase import Event
from dromic.core.plan.damping import muting
from dromic.core.plan.finding import Finding, Remedy
from dromic.core.plan.finger_schedule import Press, schedule
from dromic.core.plan.plan import Move, Plan, PlanNote
from dromic.core.reports.counts.statistics import Statistics, statistics_of


def report_json(source: str, plans: list[dict[str, Any]], first: Plan) -> dict[str, Any]:
    """The whole answer for one file."""
    request = first.request
    instrument = request.instrument
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
        "said": list(first.notices),
        "plans": plans,
    }


def plan_json(plan: Plan, seconds: float, rank: int) -> dict[str, Any]:
    fingers = schedule(plan)
    damped = muting(plan, fingers)
    times = as_written(plan.request.phrase, plan.request.grace_time)
    return {
        "school": plan.request.school.name,
        "rank": rank,
        "cost": rounded(plan.cost, 6),
        "ceiling": rounded(plan.ceiling),
        "ceiling_sustained": rounded(plan.ceiling_sustained),
        "ceiling_range": [rounded(c) for c in plan.ceiling_range] if plan.ceiling_range else None,
        "seconds": rounded(seconds),
        "pulse": plan.pulse,
        "picking": {
            "from_bridge_mm": rounded(plan.request.instrument.pick_from_bridge_mm),
            "depth_mm": rounded(plan.request.player.depth_mm),
            "contact": plan.request.player.habits.contact,
        },
        "totals": {k: rounded(v) if isinstance(v, float) else v for k, v in asdict(plan.totals).items()},
        "notes": [_note(plan.request.phrase.events[n.event], n, *times[n.event]) for n in plan.notes],
        "moves": [_move(m) for m in plan.moves],
        "findings": [_finding(f) for f in plan.findings],
        "limited_by": plan.limit and {"rows": list(plan.limit.rows), "note": plan.limit.note},
        "presses": [_press(p) for p in fingers.presses],
        "motions": list(fingers.motions),
        "avoidable_presses": fingers.avoidable,
        "muting": [list(row) for row in damped.by],
        "tally": _tally(statistics_of(plan)),
    }


def _tally(counted: Statistics) -> dict[str, Any]:
    return {
        "figures": [{**asdict(f), "speed": float(f.speed)} for f in counted.figures],
        "changes": counted.changes,
        "string_pairs": {f"{a}-{b}": n for (a, b), n in counted.pairs.items()},
        "largest_jump": counted.largest_jump,
        "span": counted.span,
        "stays": list(counted.stays),
        "finger_notes": counted.finger_notes,
        "finger_transfers": {f"{a}-{b}": n for (a, b), n in counted.transfers.items()},
        "missing_transfers": [f"{a}-{b}" for a, b in counted.missing_transfers],
        "meetings": {str(k): n for k, n in counted.meetings.items()},
    }


def rounded(value: float | None, digits: int = 4) -> float | None:
    """A number as it is written."""
    return None if value is None else round(float(value), digits)


def _note(written: Event, note: PlanNote, onset: Fraction, longer: Fraction) -> dict[str, Any]:
    return {
        "index": note.index,
        "bar": note.bar_number,
        "onset": str(onset),
        "duration": str(note.duration + longer),
        "pitch": note.pitch,
        "string": note.string,
        "fret": note.fret,
        "finger": note.finger,
        "position": note.position,
        "attack": note.attack,
        "stroke": note.stroke,
        "lean": note.lean,
        "rest_on": note.rest_on,
        "waits_at": note.waits_at,
        "muted": "dead" in note.marks,
        "chord": note.event,
        **_of_the_player(written, note),
    }


def _of_the_player(written: Event, note: PlanNote) -> dict[str, Any]:
    """The player's own words at a note, and the semitones to its other reading, where there are any."""
    own = next((n for n in written.notes if n.pitch == note.pitch and (n.words or n.doubt)), None)
    return {} if own is None else {k: v for k, v in (("words", own.words), ("doubt", own.doubt)) if v}


def _move(move: Move) -> dict[str, Any]:
    return {
        "from": move.start,
        "to": move.to,
        "gap_ms": rounded(move.gap_ms),
        "pick_gap_ms": rounded(move.pick_gap_ms),
        "pick_kind": move.pick_kind,
        "hops": move.hops,
        "buried": move.buried,
        "pick_load": rounded(move.pick_load),
        "fret_kind": move.fret_kind,
        "fret_load": rounded(move.fret_load),
        "knot": rounded(move.knot),
    }


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "rule": finding.rule,
        "notes": list(finding.notes),
        "severity": finding.severity,
        "load": rounded(finding.load),
        "text": finding.text,
        "detail": finding.detail,
        "remedy": finding.remedy and _remedy(finding.remedy),
        "advice": finding.advice if finding.remedy is None else "",
        "rows": [{"name": r.name, "hand": r.hand, "cost": rounded(r.cost), "what": r.words} for r in finding.rows],
    }


def _remedy(remedy: Remedy) -> dict[str, Any]:
    return {
        "text": remedy.text,
        "ceiling": rounded(remedy.ceiling),
        "place_ceiling": rounded(remedy.place_ceiling),
        "locks": [f"{k.event + 1}:{k.field}={k.value}" for k in remedy.change.pins],
    }


def _press(press: Press) -> dict[str, Any]:
    return {
        "finger": press.finger,
        "string": press.string,
        "fret": press.fret,
        "press_s": rounded(press.start_s),
        "lift_s": rounded(press.end_s),
        "events": list(press.events),
        "avoidable": press.again,
        "late": press.late,
    }

"""A plan as a table of comma-separated values: a line a note, with the load of the move that leads to it."""

from __future__ import annotations

import csv
import io

from dromic.core.plan.plan import Plan
from dromic.core.values.pitch import note_name

COLUMNS = (
    "note", "bar", "onset_quarters", "duration_quarters", "start_s", "pitch", "name", "string", "fret", "finger",
    "position", "attack", "stroke", "lean", "rest_on", "marks", "pick_move", "pick_load_estimate", "fret_move",
    "fret_load_estimate", "knot_estimate", "findings",
)  # fmt: skip


def plan_csv(plan: Plan) -> bytes:
    """The table of a plan."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    into = {m.to: m for m in plan.onward}
    rules: dict[int, list[str]] = {}
    for finding in plan.findings:
        rules.setdefault(finding.at, []).append(finding.rule)
    for note in plan.notes:
        move = into.get(note.event)
        loads = (
            ("", "", "", "", "") if move is None else
            (move.pick_kind, _rounded(move.pick_load), move.fret_kind, _rounded(move.fret_load), _rounded(move.knot))
        )  # fmt: skip
        writer.writerow([
            note.index, note.bar_number, note.onset, note.duration, f"{note.start_s:.4f}", note.pitch, note_name(note.pitch),
            note.string, note.fret, note.finger, note.position, note.attack, note.stroke, note.lean, note.rest_on or "",
            " ".join(sorted(note.marks)), *loads, " ".join(rules.get(note.index, [])),
        ])  # fmt: skip
    return out.getvalue().encode()


def _rounded(number: float | None) -> str:
    return "" if number is None else f"{number:.3f}"

"""The skyline of a plan: for each event the tempo it has been clean at, its ceiling, and the hand that sets it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dromic.core.plan.plan import Plan


@dataclass(frozen=True, slots=True)
class Tower:
    """One event. `ceiling` is the tempo its arriving move ends at, None where none arrives; `bar` a bar's number at its first
    event."""

    clean: float | None
    ceiling: float | None
    hand: str
    bar: int | None = None


def skyline(plan: Plan, clean_by_note: Mapping[int, float]) -> tuple[Tower, ...]:
    """A tower an event; `clean_by_note` is what the log knows."""
    arriving = {move.to: move for move in plan.onward}
    found = []
    bar = None
    for number, notes in enumerate(plan.events):
        known = [clean_by_note[n.index] for n in notes if n.index in clean_by_note]
        move = arriving.get(number)
        ceiling = plan.request.phrase.tempo / move.load if move is not None and move.load > 0 else None
        first = notes[0].bar_number if notes[0].bar_number != bar else None
        bar = notes[0].bar_number
        found.append(Tower(min(known) if known else None, ceiling, move.hand if move else "picking", first))
    return tuple(found)

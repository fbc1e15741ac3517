"""The muting map: what damps each idle string at every event, or nobody.

The palm lies on the strings below the pick's string (without a pick, the thumb rests there); the underside of
a fretting finger touches the strings above the one it stops, its tip the next lower one; a finger laid flat damps what
it covers without sounding. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.values.vocabulary import TAP, UNSTRUCK

SOUNDS, PALM, THUMB, UNDERSIDE, TIP, FLAT, NOBODY = "sounds", "palm", "thumb", "underside", "tip", "flat", "nobody"
LABELS = {
    SOUNDS: "sounds", PALM: "the palm", THUMB: "the thumb", UNDERSIDE: "the underside of a finger",
    TIP: "a fingertip", FLAT: "a finger lying flat", NOBODY: "nobody",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Muting:
    """`by[event][string - 1]` is what damps a string at an event; `ringing[event]` the idle strings that were left
    sounding and that nobody damps."""

    by: tuple[tuple[str, ...], ...]
    ringing: tuple[tuple[int, ...], ...]


def muting(plan: Plan) -> Muting:
    """The muting map of a plan."""
    strings = plan.request.instrument.strings
    by: list[tuple[str, ...]] = []
    ringing: list[tuple[int, ...]] = []
    alive: dict[int, float] = {}
    known: dict[object, tuple[str, ...]] = {}
    pick_at = None
    for chord in plan.events:
        struck = [n for n in chord if n.attack not in UNSTRUCK]
        if struck:
            pick_at = max(n.string for n in struck)
        key = (tuple((n.string, n.finger, n.attack) for n in chord), pick_at)
        row = known.get(key)
        if row is None:
            row = known[key] = tuple(_damper(plan, chord, string, pick_at) for string in range(1, strings + 1))
        now = chord[0].start_s
        left = tuple(s for s in sorted(alive) if row[s - 1] == NOBODY and alive[s] <= now + 1e-9)
        by.append(row)
        ringing.append(left)
        for string in list(alive):
            if row[string - 1] not in (NOBODY, SOUNDS):
                del alive[string]
        for note in chord:
            alive.pop(note.string, None)
            if note.fret == 0 and "let-ring" not in note.marks and "dead" not in note.marks:
                alive[note.string] = note.end_s
    return Muting(tuple(by), tuple(ringing))


def _damper(plan: Plan, chord: Sequence[PlanNote], string: int, pick_at: int | None) -> str:
    if any(n.string == string for n in chord):
        return SOUNDS
    fretted = [n for n in chord if n.finger in ("1", "2", "3", "4") and n.attack != TAP]
    for finger in {n.finger for n in fretted}:
        held = [n.string for n in fretted if n.finger == finger]
        if min(held) < string < max(held):
            return FLAT
    if pick_at is not None and string > pick_at:
        plucked = all(n.attack == "pluck" for n in chord)
        return THUMB if plucked else PALM
    for note in fretted:
        if string == note.string + 1:
            return TIP
    for note in fretted:
        if 0 < note.string - string <= plan.request.player.fretting.underside_strings:
            return UNDERSIDE
    return NOBODY

"""The muting map: what damps each idle string at every event, or nobody.

The palm lies on the strings below the pick's string (without a pick, the thumb rests there); the underside of
a fretting finger touches the strings above the one it stops, its tip the next lower one; a finger laid flat damps what
it covers without sounding; so does one left down from before. An index that stops nothing lies over strings that would
ring, and only touches them. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from dromic.core.plan.finger_schedule import Schedule, schedule
from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.values.vocabulary import TAP, UNSTRUCK

SOUNDS, PALM, THUMB, UNDERSIDE, TIP, FLAT, TOUCH, NOBODY = (
    "sounds", "palm", "thumb", "underside", "tip", "flat", "touch", "nobody",
)  # fmt: skip
LABELS = {
    SOUNDS: "sounds", PALM: "the palm", THUMB: "the thumb", UNDERSIDE: "the underside of a finger",
    TIP: "a fingertip", FLAT: "a finger lying flat", TOUCH: "a finger that only touches", NOBODY: "nobody",
}  # fmt: skip
Down = tuple[str, int]
"""a finger and the string it is on"""


@dataclass(frozen=True, slots=True)
class Muting:
    """`by[event][string - 1]` is what damps a string at an event; `ringing[event]` the idle strings that were left
    sounding and that nobody damps."""

    by: tuple[tuple[str, ...], ...]
    ringing: tuple[tuple[int, ...], ...]


def muting(plan: Plan, fingers: Schedule | None = None) -> Muting:
    """The muting map of a plan; `fingers` is its finger schedule, if that is there already."""
    strings = plan.request.instrument.strings
    planted = _planted(plan, fingers or schedule(plan))
    by: list[tuple[str, ...]] = []
    ringing: list[tuple[int, ...]] = []
    alive: dict[int, float] = {}
    known: dict[object, tuple[str, ...]] = {}
    pick_at = None
    for chord, staying in zip(plan.events, planted, strict=True):
        struck = [n for n in chord if n.attack not in UNSTRUCK]
        if struck:
            pick_at = max(n.string for n in struck)
        key = (tuple((n.string, n.finger, n.attack, "dead" in n.marks) for n in chord), staying, pick_at)
        row = known.get(key)
        if row is None:
            row = known[key] = tuple(_damper(plan, chord, staying, string, pick_at) for string in range(1, strings + 1))
        now = chord[0].start_s
        left = [s for s in sorted(alive) if row[s - 1] == NOBODY and alive[s] <= now + 1e-9]
        if left and _index_may_lie(chord, staying, left):
            row = tuple(TOUCH if s in left else by for s, by in enumerate(row, start=1))
            left = []
        by.append(row)
        ringing.append(tuple(left))
        for string in list(alive):
            if row[string - 1] not in (NOBODY, SOUNDS):
                del alive[string]
        for note in chord:
            alive.pop(note.string, None)
            if note.fret == 0 and "let-ring" not in note.marks and "dead" not in note.marks:
                alive[note.string] = note.end_s
    return Muting(tuple(by), tuple(ringing))


def _planted(plan: Plan, fingers: Schedule) -> list[tuple[Down, ...]]:
    """For every event the fingers that are down from before on strings it does not sound."""
    found: list[tuple[Down, ...]] = []
    waiting, down = list(reversed(fingers.presses)), []
    for event, chord in enumerate(plan.events):
        now, strings = chord[0].start_s, {n.string for n in chord}
        while waiting and waiting[-1].start_s <= now + 1e-9:
            down.append(waiting.pop())
        down = [p for p in down if p.end_s > now + 1e-9]
        staying = {(p.finger, p.string) for p in down if event not in p.events and p.string not in strings}
        found.append(tuple(sorted(staying)))
    return found


def _index_may_lie(chord: Sequence[PlanNote], staying: Iterable[Down], over: Sequence[int]) -> bool:
    """Whether the index, stopping nothing, may lie over some strings without choking an open one that sounds."""
    fretting = [n.finger for n in chord if n.finger in ("2", "3", "4") and n.attack != TAP]
    if not fretting or any(n.finger == "1" for n in chord) or any(finger == "1" for finger, _ in staying):
        return False
    return not any(n.fret == 0 and min(over) < n.string < max(over) for n in chord)


def _damper(plan: Plan, chord: Sequence[PlanNote], staying: Sequence[Down], string: int, pick_at: int | None) -> str:
    here = next((n for n in chord if n.string == string), None)
    if here is not None:
        return TOUCH if "dead" in here.marks and here.finger in ("1", "2", "3", "4") else SOUNDS
    if any(s == string for _, s in staying):
        return SOUNDS
    down = [(n.finger, n.string) for n in chord if n.finger in ("1", "2", "3", "4") and n.attack != TAP]
    down += staying
    for finger in {finger for finger, _ in down}:
        held = [s for f, s in down if f == finger]
        if min(held) < string < max(held):
            return FLAT
    if pick_at is not None and string > pick_at:
        plucked = all(n.attack == "pluck" for n in chord)
        return THUMB if plucked else PALM
    if any(string == s + 1 for _, s in down):
        return TIP
    if any(0 < s - string <= plan.request.player.fretting.underside_strings for _, s in down):
        return UNDERSIDE
    return NOBODY

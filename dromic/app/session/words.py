"""Names of the parts of a session as they are read from the stand, and what is said in each."""

from __future__ import annotations

from dromic.core.drills.drill import Drill
from dromic.core.drills.drill_kinds import BY_NAME
from dromic.core.practice.session import BREAK, BREATH, COOL_DOWN, KEEP, STOP, WARM_UP, Slot

HANDS = {"both": "both hands", "picking": "picking hand", "fretting": "fretting hand"}
PARTS = {WARM_UP: "Warm-up", BREAK: "Break", COOL_DOWN: "Cool-down"}
SAID = {
    WARM_UP: ("Slow and loose, anything you like, well under your speed.", *BREATH[:2], STOP),
    BREAK: ("Put the instrument down, stand up, shake the hands out.", STOP),
    COOL_DOWN: ("Something slow and clean to end with.", BREATH[3]),
}


_PLACELESS = ("ramp", "whole", "section", "hand-offs")
"""kinds whose bars tell nothing"""


def slot_name(slot: Slot, drill: Drill | None) -> str:
    """What a part of a session is called."""
    if drill is None:
        return PARTS[slot.what]
    if drill.kind not in BY_NAME:
        return drill.reason
    name = BY_NAME[drill.kind].label + (f" ({drill.key})" if drill.key and drill.kind != "trill" else "")
    if drill.kind == "trill":
        name = f"Trill of {drill.key[0]} and {drill.key[1]}"
    if BY_NAME[drill.kind].in_turn:
        name += ", in turn"
    if drill.bars and not drill.key and drill.kind not in _PLACELESS:
        first, last = min(drill.bars), max(drill.bars)
        name += (
            f", bar {first}"
            if first == last
            else f", bars {first} and {last}"
            if last - first == 1
            else f", bars {first} to {last}"
        )
    return f"Keep clean: {name}" if slot.what == KEEP else name

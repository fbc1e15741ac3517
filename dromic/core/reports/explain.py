"""Why and how much: the sentences shown when a player points at a place of the chart."""

from __future__ import annotations

from collections.abc import Sequence

from dromic.core.plan.damping import LABELS, SOUNDS, Muting
from dromic.core.plan.finding import OF_THE_PLAYER, Remedy, RowCost
from dromic.core.plan.kind_words import FRET_KINDS, PICK_KINDS
from dromic.core.plan.plan import Move, Plan, PlanNote
from dromic.core.values.pitch import note_name
from dromic.core.values.vocabulary import MARKS, SIGN

_ATTACKS = {
    "hammer": "hammered", "pull": "pulled off", "slide": "slid to", "hammer-new": "hammered from nowhere",
    "tap": "tapped by the picking hand",
}  # fmt: skip
_FINGERS = {"0": "open", "1": "index finger", "2": "middle finger", "3": "ring finger", "4": "little finger"}
SAME_TEMPO = 0.5
"""quarters a minute: ceilings closer than this are told as the same, smaller gains as none"""


def many(count: int, word: str) -> str:
    """A number of things in words."""
    return f"{count} {word}" if count == 1 else f"{count} {word}{'es' if word.endswith('ch') else 's'}"


def explain_event(plan: Plan, event: int, muted: Muting) -> tuple[str, ...]:
    """What is played, what the picking hand does to get there, what the fretting hand does, what damps the idle strings, and what the
    player has set, doubts or says here, a line each."""
    notes = plan.events[event]
    lead = notes[0]
    what = ", ".join(
        f"{note_name(n.pitch)} on string {n.string} {'open' if not n.fret else f'fret {n.fret}'}"
        + (f" with the {_FINGERS[n.finger]}" if n.finger in "1234" else "")
        for n in notes
    )
    how = _ATTACKS.get(lead.attack) or (
        f"{lead.stroke}-stroke" if lead.stroke in ("down", "up") else f"plucked {lead.stroke}"
    )
    first = f"Bar {lead.bar_number}, note {lead.index + 1}: {what}; {how}"
    told = sorted({MARKS[m] for n in notes for m in n.marks if m not in ("accent",)})
    if told:
        first += f" ({', '.join(told)})"
    touch = ""
    if lead.stroke in SIGN:
        touch = f"; rests on string {lead.rest_on}" if lead.rest_on else "; a free stroke"
        touch += _lean_words(plan, lead.lean) + _against_words(plan, lead)
    move = plan.arriving(event)
    if move is None:
        return (
            first,
            "Picking hand: the first stroke comes from the count-in" + touch,
            "Fretting hand: in place before the start",
            _damping(muted, event),
            *_of_the_player(plan, event),
        )
    return (
        first,
        "Picking hand: " + picking_words(move) + _waiting(lead.waits_at) + touch,
        "Fretting hand: " + fretting_words(move),
        _damping(muted, event),
        *_of_the_player(plan, event),
    )


_MOST_ROWS = 3
"""rows of the price list told of a note"""
_MOST_PARTS = 2
"""times told of a load"""
_LEAST_SHARE = 0.08
"""of a note's work, from which on a row is told"""


def dear_words(rows: Sequence[RowCost]) -> str:
    """What makes a place dear, the dearest first, and what share of its work each is; empty where nothing is."""
    whole = sum(row.cost for row in rows)
    told = []
    for row in [row for row in rows if row.cost >= _LEAST_SHARE * whole][:_MOST_ROWS]:
        parts = sorted(row.parts, key=lambda part: -part[1])[:_MOST_PARTS]
        times = f" ({', '.join(f'{name} {ms:.0f} ms' for name, ms in parts)})" if parts else ""
        told.append(f"{row.name} {row.cost / whole:.0%}{times}")
    return f"Costs most here, estimated: {'; '.join(told)}" if told else ""


def _of_the_player(plan: Plan, event: int) -> tuple[str, ...]:
    """What the player set or doubts here, what that does to the rest, and the player's own words."""
    notes = {n.index for n in plan.events[event]}
    told = tuple(f.text for f in plan.findings if f.rule in OF_THE_PLAYER and notes & set(f.notes))
    words = plan.request.phrase.events[event].words
    return (*told, f"Your words: {words}") if words else told


def _lean_words(plan: Plan, lean: str) -> str:
    """The lean of a stroke by what it does; its name alone means opposite things to different players."""
    tilt = next((one.tilt_deg for one in plan.request.player.leans if one.name == lean), 0.0)
    return f"; the lean ends {'down' if tilt > 0 else 'up'}-strokes clear" if tilt else "; no lean"


def _against_words(plan: Plan, note: PlanNote) -> str:
    """Why a stroke goes against its place in the beat."""
    against = note.against
    if against is None:
        return ""
    other = "an up-stroke" if note.stroke == "down" else "a down-stroke"
    if not against.kind:
        return "; against the beat, as you set it"
    if against.kind == "rest" or not against.load:
        return "; against the beat, since the strokes around it are easier so"
    way, school = PICK_KINDS[against.kind].by, plan.request.school
    goes = f"which goes to about {plan.request.phrase.tempo / against.load:.0f}"
    if against.kind not in school.allowed(plan.request.skip_through):
        goes = f"which {school.label} leaves out"
    move = f"{other} would be {way}"
    if against.to != note.event:
        move = f"after {other} note {plan.events[against.to][0].index + 1} would need {way}"
    return f"; against the beat, since {move}, {goes}"


def _waiting(string: int | None) -> str:
    """Where the pick is while the fretting hand sounds a note."""
    return "" if string is None else f"; the pick waits at string {string}"


def _damping(muted: Muting, event: int) -> str:
    """Which idle strings are damped by what."""
    row = muted.by[event]
    found = []
    for by, words in LABELS.items():
        strings = [str(n) for n, name in enumerate(row, start=1) if name == by and by != SOUNDS]
        if strings:
            found.append(f"{' '.join(strings)} by {words}")
    return "Idle strings damped: " + ("; ".join(found) if found else "none is idle")


def picking_words(move: Move) -> str:
    """What the picking hand does in a move, and how much."""
    text = PICK_KINDS[move.pick_kind].sentence
    if move.hops:
        text += f", passes over {move.hops} {'string' if move.hops == 1 else 'strings'}"
        text += ", stuck between the strings at first" if move.buried else ""
    if move.pick_load:
        text += f"; takes about {move.pick_ms:.0f} of {move.pick_has_ms:.0f} ms"
    return text


def fretting_words(move: Move) -> str:
    """What the fretting hand does in a move, and how much."""
    text = FRET_KINDS[move.fret_kind]
    if move.fret_kind == "shift":
        text += f" {move.shift_mm:.0f} mm"
    if move.fret_load:
        text += f"; takes about {move.fret_ms:.0f} of {move.fret_gap_ms:.0f} ms"
    if move.knot:
        text += "; both hands have work here"
    return text


def remedy_text(plan: Plan, remedy: Remedy) -> str:
    """What to change and what it gains, in one line; ceilings are estimates."""
    before, after = plan.ceiling, remedy.ceiling
    if after is None or before is None:
        return remedy.text
    if after > before * 1.005:
        return f"{remedy.text}: ceiling about {before:.0f} to {after:.0f}"
    here = "that mends it" if remedy.place_ceiling is None else f"about {remedy.place_ceiling:.0f} here"
    whole = "the ceiling stays" if after > before * 0.995 else f"but the ceiling falls to about {after:.0f}"
    return f"{remedy.text}: {here}, {whole}"

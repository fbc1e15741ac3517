"""Lists of what the fretting hand does."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

from dromic.core.hands.hand_geometry import geometry_of
from dromic.core.plan.finger_schedule import schedule
from dromic.core.plan.plan import Move, Plan, PlanNote
from dromic.core.reports.places.place import Place, PlaceList, counted, place_at
from dromic.core.values.vocabulary import UNSTRUCK

_A_FINGER_A_FRET = {"1": 0, "2": 1, "3": 2, "4": 3}
"""finger: frets over the position, at one finger a fret"""
_AT_S = 0.002
"""a finger that lifts so close to the next note lifts at it"""
_WEAK = ({"3", "4"}, {"2", "4"})
"""pairs of fingers that players find weak; common practice"""
_ARPEGGIO_STRINGS = 3


def _shifts(plan: Plan) -> Iterator[Place]:
    leads = plan.leads
    for move in plan.onward:
        if move.fret_kind not in ("shift", "slide") or not move.shift_mm:
            continue
        before, now = leads[move.start], leads[move.to]
        since = _held_since(leads, move)
        room = f"{_prepared(leads, move)}, {move.fret_gap_ms:.0f} ms to prepare" + (
            f", {since} of them open" if since else ""
        )
        pivot = (
            f"; finger {now.finger} is the pivot"
            if before.finger == now.finger and now.finger in _A_FINGER_A_FRET
            else ""
        )
        arm = (
            "; the arm goes along" if move.shift_mm >= plan.request.player.judging.arm_mm else "; wrist and thumb do it"
        )
        yield place_at(
            plan, move.to, f"position {before.position} to {now.position}, {move.shift_mm:.0f} mm; {room}{pivot}{arm}"
        )


def _held_since(leads: Sequence[PlanNote], move: Move) -> int:
    """Open notes right before a move, in which the hand is free."""
    count = 0
    for note in reversed(leads[: move.to]):
        if note.finger != "0":
            break
        count += 1
    return count


def _departures(plan: Plan) -> Iterator[Place]:
    for note in plan.notes:
        if note.finger in _A_FINGER_A_FRET and note.position:
            away = note.fret - note.position - _A_FINGER_A_FRET[note.finger]
            if away:
                way = "reaches up" if away > 0 else "reaches down"
                words = f"finger {note.finger} {way} {abs(away)} {'fret' if abs(away) == 1 else 'frets'} from position {note.position}"
                yield Place(note.event, note.index + 1, note.bar_number, words)


def _motions(plan: Plan) -> Iterator[Place]:
    made = schedule(plan)
    late = {p.events[0] for p in made.presses if p.late}
    for note in plan.leads:
        if note.attack in UNSTRUCK:
            extra = ", one of them extra: the lower finger comes late" if note.event in late else ""
            count = made.motions[note.event]
            moves = f"{count} {'motion' if count == 1 else 'motions'}{extra}"
            yield place_at(plan, note.event, f"{note.attack} to string {note.string}, fret {note.fret}: {moves}")


def _chords(plan: Plan) -> Iterator[Place]:
    for before, now in pairwise(plan.events):
        if len(before) > 1 and len(now) > 1:
            was, goes = _by_finger(before), _by_finger(now)
            told = [_way(plan, finger, was.get(finger), notes) for finger, notes in sorted(goes.items())]
            if told:
                yield place_at(plan, now[0].event, "; ".join(told))


def _by_finger(notes: Sequence[PlanNote]) -> dict[str, list[PlanNote]]:
    """The notes of each finger, the lowest string first."""
    found: dict[str, list[PlanNote]] = {}
    for note in sorted(notes, key=lambda n: -n.string):
        if note.finger in _A_FINGER_A_FRET:
            found.setdefault(note.finger, []).append(note)
    return found


def _way(plan: Plan, finger: str, was: Sequence[PlanNote] | None, goes: Sequence[PlanNote]) -> str:
    """Where a finger goes, from the lowest note it holds to the lowest it is to hold."""
    name = f"{finger}, flat," if len(goes) > 1 else finger
    if was is None:
        return f"{name} comes down"
    old, new = was[0], goes[0]
    mm = abs(float(plan.request.instrument.fret_mm(new.fret) - plan.request.instrument.fret_mm(old.fret)))
    strings = abs(new.string - old.string)
    parts = [f"{mm:.0f} mm along"] * (mm >= 1) + [f"{strings} {'string' if strings == 1 else 'strings'} over"] * bool(
        strings
    )
    return f"{name} {' and '.join(parts)}" if parts else f"{name} stays"


def _prepared(leads: Sequence[PlanNote], move: Move) -> str:
    """Notes since the hand was last moved, in which the next move can be prepared."""
    position, count = leads[move.start].position, 0
    for note in reversed(leads[: move.to]):
        if note.position != position:
            break
        count += 1
    return counted(count, "note")


def _ways_back(plan: Plan) -> Iterator[Place]:
    """Places that are fingered otherwise than before, though the hand lies as it did."""
    known: dict[tuple[int, int, int], str] = {}
    for note in plan.notes:
        if note.finger not in _A_FINGER_A_FRET:
            continue
        place = note.string, note.fret, note.position
        before = known.get(place)
        if before is not None and before != note.finger:
            words = f"string {note.string}, fret {note.fret} with finger {note.finger}, before with {before}"
            yield Place(note.event, note.index + 1, note.bar_number, words)
        known[place] = note.finger


def _lifts(plan: Plan) -> Iterator[Place]:
    starts = [notes[0].start_s for notes in plan.events]
    for press in schedule(plan).presses:
        after = press.events[-1] + 1
        if after >= len(starts):
            continue
        late = press.end_s - starts[after]
        held = sum(start < press.end_s - _AT_S for start in starts[after:])
        when = (
            f"lifts {-1000 * late:.0f} ms before the next note" if late < -_AT_S
            else "lifts at the next note" if late <= _AT_S
            else f"lifts {1000 * late:.0f} ms after the next note" if held == 1
            else f"is held over {counted(held, 'note')} more"
        )  # fmt: skip
        yield place_at(
            plan, press.events[-1], f"finger {press.finger} on string {press.string}, fret {press.fret} {when}"
        )


def _weak_pairs(plan: Plan) -> Iterator[Place]:
    for before, now in pairwise(plan.leads):
        if {before.finger, now.finger} in _WEAK:
            ms = 1000 * (now.start_s - before.start_s)
            slur = f", {now.attack}" if now.attack in UNSTRUCK else ""
            yield place_at(plan, now.event, f"finger {before.finger} to {now.finger}, {ms:.0f} ms{slur}")


def _index_back(plan: Plan) -> Iterator[Place]:
    """In arpeggios, the time until the index is needed on another string."""
    leads = plan.leads
    presses = [p for p in schedule(plan).presses if p.finger == "1"]
    for before, now in pairwise(presses):
        between = leads[before.events[-1] : now.events[0] + 1]
        if before.string != now.string and len({n.string for n in between}) >= _ARPEGGIO_STRINGS:
            ms = 1000 * (now.start_s - leads[before.events[-1]].start_s)
            words = f"string {before.string} to {now.string}, {counted(len(between) - 1, 'note')}, {ms:.0f} ms"
            yield place_at(plan, now.events[0], f"the index comes back from {words}")


def _reaches(plan: Plan) -> Iterator[Place]:
    player = plan.request.player
    hand, geometry = player.fretting, geometry_of(plan.request.instrument, player)
    for note in plan.notes:
        if note.finger not in _A_FINGER_A_FRET or (note.finger == "1" and note.fret > note.position):
            continue
        past, most = (
            geometry.deviation_mm(int(note.finger), note.fret, note.position),
            hand.reach_mm[int(note.finger) - 1],
        )
        if past <= hand.stretch_from_mm:
            continue
        care = "; mind wrist and arm: straighten the wrist, bring the elbow in, shake it out after" if (
            past >= player.judging.caution_share * most
        ) else ""  # fmt: skip
        share = f"{past / most:.0%} of this hand's {most:.0f}"
        words = f"finger {note.finger} reaches {past:.0f} mm past its place at fret {note.fret}, {share}"
        yield Place(note.event, note.index + 1, note.bar_number, words + care)


FRETTING: tuple[PlaceList, ...] = (
    PlaceList("shifts", "Shifts", "how far, notes and time to prepare, the finger that stays, whether the arm goes along", _shifts),
    PlaceList("reaches", "Reaches", "in mm at that place on the neck, against the hand's own limit", _reaches),
    PlaceList("departures", "Not a finger a fret", "notes whose finger reaches out of its place", _departures),
    PlaceList("ways-back", "Fingered otherwise than before", "though the hand lies as it did", _ways_back),
    PlaceList("lifts", "When each finger lifts", "before, at or after the next note, or held", _lifts),
    PlaceList("slurs", "Slurs and their motions", "how many fingers come down or lift for each", _motions),
    PlaceList("chords", "Chord to chord", "where each finger goes", _chords),
    PlaceList("weak-pairs", "Weak pairs", "ring and little finger, or middle and little, one after the other", _weak_pairs),
    PlaceList("index", "The index's way back", "in arpeggios, and the time there is for it", _index_back),
)  # fmt: skip

"""Lists that players make by hand: places of a plan of one kind, in order, to be gone through one by one. A list is one entry."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from dromic.core.plan.finger_schedule import schedule
from dromic.core.plan.plan import Move, Plan, PlanNote
from dromic.core.reports.kind_words import FRET_KINDS, PICK_KINDS
from dromic.core.values.vocabulary import UNSTRUCK

_SWEEP = 3
"""strings that notes must cross one by one, one way, to be a sweep"""
_TIGHT = 0.85
_A_FINGER_A_FRET = {"1": 0, "2": 1, "3": 2, "4": 3}
"""finger: frets over the position, at one finger a fret"""


@dataclass(frozen=True, slots=True)
class Place:
    """A place of a list: its event, the number of its first note counted from 1, its bar, what is said of it."""

    event: int
    note: int
    bar: int
    words: str


@dataclass(frozen=True, slots=True)
class PlaceList:
    """A list: its name, its title, what it holds, and how it is made."""

    name: str
    title: str
    why: str
    of: Callable[[Plan], Iterator[Place]]


def _place(plan: Plan, event: int, words: str) -> Place:
    lead = plan.events[event][0]
    return Place(event, lead.index + 1, lead.bar_number, words)


def _struck(plan: Plan) -> list[PlanNote]:
    return [n for n in plan.leads if n.attack not in UNSTRUCK]


def _changes(plan: Plan) -> Iterator[Place]:
    moves = {m.to: m for m in plan.onward}
    for before, now in pairwise(_struck(plan)):
        if before.string == now.string:
            continue
        move = moves[now.event]
        over = f"; {move.hops} passed over{', buried' if move.buried else ''}" if move.hops else ""
        yield _place(
            plan, now.event, f"string {before.string} to {now.string}: {PICK_KINDS[move.pick_kind].listed}{over}"
        )


def _skips(plan: Plan) -> Iterator[Place]:
    for before, now in pairwise(_struck(plan)):
        apart = abs(before.string - now.string) - 1
        if apart > 0:
            strings = "one string" if apart == 1 else f"{apart} strings"
            yield _place(plan, now.event, f"string {before.string} to {now.string}: {strings} skipped")


def _runs(leads: Sequence[PlanNote]) -> list[tuple[int, int]]:
    """(first, last) of every longest run of notes that go one string further each, one way."""
    found, begin = [], 0
    for n in range(1, len(leads) + 1):
        step = leads[n].string - leads[n - 1].string if n < len(leads) else 0
        before = leads[begin + 1].string - leads[begin].string if n - begin > 1 else step
        if abs(step) == 1 and step == before:
            continue
        if n - begin >= _SWEEP:
            found.append((begin, n - 1))
        begin = n - 1 if abs(step) == 1 else n
    return found


def _sweeps(plan: Plan) -> Iterator[Place]:
    leads = plan.leads
    runs = _runs(leads)
    for number, (first, last) in enumerate(runs):
        strokes = " ".join({"down": "D", "up": "U"}.get(n.stroke, "·") for n in leads[first : last + 1])
        way = "down" if leads[last].string < leads[first].string else "up"
        after = runs[number + 1][0] if number + 1 < len(runs) else None
        turns = after is not None and all(n.string == leads[last].string for n in leads[last : after + 1])
        turn = f"; turns on string {leads[last].string}" if turns else ""
        ends = f"{leads[first].string} to {leads[last].string}"
        yield _place(plan, leads[first].event, f"{last - first + 1} notes {way} the strings, {ends}: {strokes}{turn}")


def _gaps(plan: Plan) -> Iterator[Place]:
    leads = plan.leads
    for move in plan.onward:
        before, now = leads[move.start], leads[move.to]
        met = [
            words for words, holds in (
                ("a new stroke", before.stroke != now.stroke and "none" not in (before.stroke, now.stroke)),
                ("a new string", before.string != now.string),
                ("a shift", move.fret_kind in ("shift", "slide")),
                ("a slur", now.attack in UNSTRUCK),
            ) if holds
        ]  # fmt: skip
        if len(met) > 1:
            yield _place(plan, move.to, f"{', '.join(met)} in {move.gap_ms:.0f} ms")


def _shifts(plan: Plan) -> Iterator[Place]:
    leads = plan.leads
    for move in plan.onward:
        if move.fret_kind not in ("shift", "slide") or not move.shift_mm:
            continue
        before, now = leads[move.start], leads[move.to]
        since = _held_since(leads, move)
        room = f"{move.fret_gap_ms:.0f} ms to prepare" + (f", {since} open notes among them" if since else "")
        pivot = (
            f"; finger {now.finger} is the pivot"
            if before.finger == now.finger and now.finger in _A_FINGER_A_FRET
            else ""
        )
        yield _place(
            plan, move.to, f"position {before.position} to {now.position}, {move.shift_mm:.0f} mm; {room}{pivot}"
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
            yield _place(plan, note.event, f"{note.attack} to string {note.string}, fret {note.fret}: {moves}")


def _chords(plan: Plan) -> Iterator[Place]:
    for before, now in pairwise(plan.events):
        if len(before) > 1 and len(now) > 1:
            was, goes = _by_finger(before), _by_finger(now)
            told = [_way(plan, finger, was.get(finger), notes) for finger, notes in sorted(goes.items())]
            if told:
                yield _place(plan, now[0].event, "; ".join(told))


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


def _palm(plan: Plan) -> Iterator[Place]:
    for before, now in pairwise(plan.leads):
        was, on = "palm-mute" in before.marks, "palm-mute" in now.marks
        if was != on:
            ms = 1000 * (now.start_s - before.start_s)
            yield _place(plan, now.event, f"the palm {'comes down' if on else 'lifts'}, {ms:.0f} ms for it")


def _tight(plan: Plan) -> Iterator[Place]:
    for move in sorted((m for m in plan.onward if m.load >= _TIGHT), key=lambda m: -m.load):
        kind = (
            PICK_KINDS[move.pick_kind].by if move.hand == "picking" else FRET_KINDS.get(move.fret_kind, move.fret_kind)
        )
        yield _place(plan, move.to, f"load {move.load:.2f}, {move.hand} hand: {kind}")


LISTS: tuple[PlaceList, ...] = (
    PlaceList("changes", "Every string change", "from one struck note to the next, with its kind", _changes),
    PlaceList("skips", "Strings skipped", "changes that leave out strings", _skips),
    PlaceList("sweeps", "Sweeps in the notes", "notes that go a string further each, one way, whatever the school does", _sweeps),
    PlaceList("gaps", "What meets in one gap", "a new stroke, a new string, a shift and a slur, two or more at once", _gaps),
    PlaceList("shifts", "Shifts", "how far, what there is to prepare, and the finger that stays", _shifts),
    PlaceList("departures", "Not a finger a fret", "notes whose finger reaches out of its place", _departures),
    PlaceList("slurs", "Slurs and their motions", "how many fingers come down or lift for each", _motions),
    PlaceList("chords", "Chord to chord", "where each finger goes", _chords),
    PlaceList("palm", "Palm on and off", "and the time there is for it", _palm),
    PlaceList("tight", "Near the limit", f"moves with a load of {_TIGHT:g} or more, the tightest first", _tight),
)  # fmt: skip
BY_NAME = {one.name: one for one in LISTS}


def places_of(plan: Plan, name: str) -> tuple[Place, ...]:
    """The places of one list."""
    return tuple(BY_NAME[name].of(plan))

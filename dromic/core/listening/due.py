"""What is due in a take: the notes of a plan in the order they are played, with their times at the plan's tempo."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import groupby

from dromic.core.music.graces import sounding
from dromic.core.music.phrase import Note, Phrase
from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.values.vocabulary import UNSTRUCK


@dataclass(frozen=True, slots=True)
class Due:
    """A note that is due: when and how long at the plan's tempo, in seconds from the first one, and the load of the move that
    arrives at it (0 for none)."""

    note: PlanNote
    written: Note
    place: int
    """its number among what is played, repeats counted"""
    turn: int
    """which sounding event of what is played it belongs to"""
    onset: Fraction
    start_s: float
    end_s: float
    load: float
    kind: str
    """the hard thing about that move: of the picking or the fretting hand; a slur is the fretting hand's"""
    hand: str
    beat: int = 0
    """which beat of all that is played it lies in"""
    place_in_beat: Fraction = Fraction(0)
    """from 0, on the beat, to 1"""
    change: str = ""
    """how the pick comes to its string"""
    turns: bool = False
    """whether the strings go the other way from here"""
    open_beside: tuple[tuple[int, int], ...] = ()
    """(string, pitch) of open strings beside those played, which the pick may brush"""

    @property
    def picked(self) -> bool:
        """Whether the picking hand sounds it."""
        return self.note.attack not in UNSTRUCK

    @property
    def pitch(self) -> int:
        """The note number it begins at: one that is bent beforehand sounds higher than it is fretted."""
        return round(self.note.pitch + (self.written.bend if "prebend" in self.note.marks else 0.0))

    @property
    def silent(self) -> bool:
        """Whether it has no pitch to hear."""
        return "dead" in self.note.marks


def due_notes(plan: Plan, tempo: float | None = None) -> tuple[Due, ...]:
    """The notes of a plan as they are played, repeats taken, in order of time and string; at another tempo in quarters a minute
    if one is given."""
    own = plan.request.phrase
    phrase = own.at_tempo(tempo) if tempo else own
    played = sounding(phrase, plan.request.grace_time).unrolled()
    by_bar: dict[int, list[int]] = {}
    for number, event in enumerate(phrase.events):
        by_bar.setdefault(event.bar, []).append(number)
    order = [number for bar in phrase.playing_order() for number in by_bar.get(bar, ())]
    arriving = {(m.start, m.to): m for m in plan.moves}
    first = played.seconds_at(played.events[0].onset) if played.events else 0.0
    found: list[Due] = []
    beats = _beats(played)
    instrument = plan.request.instrument
    lead = [plan.events[number][0].string for number in order]
    for turn, (number, event) in enumerate(zip(order, played.events, strict=True)):
        move = arriving.get((order[turn - 1], number)) if turn else None
        start = played.seconds_at(event.onset) - first
        strings = {note.string for note in plan.events[number]}
        near = {s + by for s in strings for by in (-1, 1)} - strings
        beside = tuple((s, instrument.open_pitch(s)) for s in sorted(near) if 1 <= s <= instrument.strings)
        for note in plan.events[number]:
            written = next((n for n in event.notes if n.pitch == note.pitch), event.notes[0])
            slurred = note.attack in UNSTRUCK
            by_pick = move is not None and move.hand == "picking" and not slurred
            kind = "" if move is None else move.pick_kind if by_pick else move.fret_kind
            found.append(Due(
                note, written, len(found), turn, event.onset, start,
                played.seconds_at(event.onset + _length(written)) - first,
                move.load * phrase.tempo / own.tempo if move is not None else 0.0,
                kind, "picking" if by_pick or (move is None and not slurred) else "fretting", *beats[turn],
                move.pick_kind if move is not None and not slurred else "",
                0 < turn < len(order) - 1 and (lead[turn] - lead[turn - 1]) * (lead[turn + 1] - lead[turn]) < 0,
                beside,
            ))  # fmt: skip
    return tuple(found)


def turns_of(due: Sequence[Due]) -> list[list[Due]]:
    """Notes that are due gathered by the turn they belong to, in order."""
    return [list(of) for _, of in groupby(due, key=lambda one: one.turn)]


def _length(note: Note) -> Fraction:
    return note.duration


def _beats(played: Phrase) -> list[tuple[int, Fraction]]:
    """(which beat of all, where in it from 0 to 1) of each event of what is played."""
    found, before = [], 0
    for number, bar in enumerate(played.bars):
        for event in played.events:
            if event.bar == number:
                index, start, length = bar.metre.beat_at(bar.offset_of(event.onset))
                found.append((before + index, (bar.offset_of(event.onset) - start) / length))
        before += len(bar.metre.beats())
    return found

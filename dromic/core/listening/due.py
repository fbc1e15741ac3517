"""What is due in a take: the notes of a plan in the order they are played, with their times at the plan's tempo."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from dromic.core.music.phrase import Note
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
    """the hard thing about that move: of the picking or the fretting hand"""
    hand: str

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
    played = phrase.unrolled()
    by_bar: dict[int, list[int]] = {}
    for number, event in enumerate(phrase.events):
        by_bar.setdefault(event.bar, []).append(number)
    order = [number for bar in phrase.playing_order() for number in by_bar.get(bar, ())]
    arriving = {(m.start, m.to): m for m in plan.moves}
    first = played.seconds_at(played.events[0].onset) if played.events else 0.0
    found: list[Due] = []
    for turn, (number, event) in enumerate(zip(order, played.events, strict=True)):
        move = arriving.get((order[turn - 1], number)) if turn else None
        start = played.seconds_at(event.onset) - first
        for note in plan.events[number]:
            written = next((n for n in event.notes if n.pitch == note.pitch), event.notes[0])
            found.append(Due(
                note, written, len(found), turn, event.onset, start,
                played.seconds_at(event.onset + _length(written)) - first,
                move.load * phrase.tempo / own.tempo if move is not None else 0.0,
                (move.pick_kind if move.hand == "picking" else move.fret_kind) if move is not None else "",
                move.hand if move is not None else "picking",
            ))  # fmt: skip
    return tuple(found)


def _length(note: Note) -> Fraction:
    return note.duration

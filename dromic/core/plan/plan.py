"""What the planner answers: notes with strings, fingers and strokes, the moves between them, totals and findings."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

from dromic.core.plan.finding import Finding, Limit
from dromic.core.plan.request import Request


@dataclass(frozen=True, slots=True)
class Against:
    """Why a stroke goes against its place in the beat: the kind and load of the move that the other stroke would bring, and the event
    that move leads to. The kind is empty where the player has set the stroke."""

    kind: str
    load: float
    to: int


@dataclass(frozen=True, slots=True)
class PlanNote:
    """One note as planned; times in seconds from the start of the phrase."""

    index: int
    """its number among all notes, from 0"""
    event: int
    bar_number: int
    onset: Fraction
    duration: Fraction
    start_s: float
    end_s: float
    pitch: int
    string: int
    fret: int
    finger: str
    position: int
    attack: str
    stroke: str
    lean: str
    rest_on: int | None
    marks: frozenset[str]
    waits_at: int | None = None
    """while this note is slurred or tapped: the string at which the pick waits, where it strikes next"""
    against: Against | None = None
    """why it is struck against its place in the beat, in schools that would have it otherwise"""


@dataclass(frozen=True, slots=True)
class Move:
    """The way from one event to the next, as both hands go it. `pick_ms` is what the picking hand's tightest need
    takes and `pick_has_ms` what it has; `pick_from` the event last picked, -1 if none."""

    start: int
    to: int
    gap_ms: float
    pick_gap_ms: float | None
    pick_kind: str
    hops: int
    buried: bool
    pick_ms: float
    pick_has_ms: float
    pick_load: float | None
    pick_from: int
    fret_kind: str
    fret_ms: float
    fret_gap_ms: float
    fret_load: float
    shift_mm: float
    knot: float
    seam: bool = False

    @property
    def load(self) -> float:
        """The larger hand's load, the knot's surcharge included."""
        return max(self.pick_load or 0.0, self.fret_load) + self.knot

    @property
    def hand(self) -> str:
        """Which hand the larger load belongs to."""
        return "picking" if (self.pick_load or 0.0) >= self.fret_load else "fretting"


@dataclass(frozen=True, slots=True)
class Totals:
    """Sums over a plan; docs/model.md says how each is counted. Lengths in mm, the rest are counts or rates."""

    picked: int
    plucked: int
    legato: int
    hops: int
    outside: int
    inside: int
    carry_through: int
    buried_hops: int
    turnarounds: int
    changes: int
    changes_per_note: float
    changes_per_second: float
    pick_travel_mm: float
    shifts: int
    shift_mm: float
    max_stretch_mm: float
    rolls: int
    knots: int
    first_attacks: int = 0
    """struck notes that others are slurred to"""
    uneven_first_attacks: int = 0
    """of these, the ones not struck as the player means them to be; where any stroke will do, not as most of them are"""


@dataclass(frozen=True)
class Plan:
    """A request answered: the cheapest way to play it, what it costs and where it hurts.

    `cost` is the work of both hands in the units of docs/model.md; `ceiling` and its relatives are tempos in quarters a
    minute, None where nothing limits them; `moves` arrive at every event but the first in their order, with the jumps
    back of repeats between them.
    """

    request: Request
    pulse: str
    cost: float
    ceiling: float | None
    ceiling_sustained: float | None
    ceiling_range: tuple[float, float] | None
    notes: tuple[PlanNote, ...]
    moves: tuple[Move, ...]
    totals: Totals
    findings: tuple[Finding, ...]
    notices: tuple[str, ...] = ()
    limit: Limit | None = None
    """what sets the ceiling, once it has been looked for with the remedies"""
    beat_cost: float = 0.0
    """what of the cost is no work but strokes against the beat, which only some schools ask about"""

    @property
    def work(self) -> float:
        """The work of both hands, by which plans of different schools compare."""
        return self.cost - self.beat_cost

    @property
    def seams(self) -> tuple[Move, ...]:
        """The moves that jump back."""
        return tuple(m for m in self.moves if m.seam)

    @property
    def onward(self) -> tuple[Move, ...]:
        """The move to every event but the first, in order of the events."""
        return tuple(m for m in self.moves if not m.seam)

    def arriving(self, event: int) -> Move | None:
        """The move to an event when it is first reached; None for the first event."""
        if not event:
            return None
        # one move arrives at each event, and only seams stand between them
        return next(m for m in self.moves[event - 1 :] if m.to == event and not m.seam)

    @cached_property
    def leads(self) -> tuple[PlanNote, ...]:
        """The first note of every sounding event, in their order."""
        return tuple(event[0] for event in self.events)

    @cached_property
    def events(self) -> tuple[tuple[PlanNote, ...], ...]:
        """The notes of every sounding event, by its number; at least one each, in the order of their strings."""
        found: list[list[PlanNote]] = []
        for note in self.notes:
            if note.event == len(found):
                found.append([])
            found[-1].append(note)
        return tuple(map(tuple, found))

    def place_in_chord(self, note: PlanNote) -> int:
        """Where a note stands among those of its event as pins count them: from the lowest pitch up."""
        chord = sorted(self.events[note.event], key=lambda n: (n.pitch, -n.string))
        return chord.index(note)

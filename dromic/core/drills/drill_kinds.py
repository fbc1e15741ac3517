"""Every kind of drill, in the order they are practised in: an entry a kind."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass

from dromic.core.drills import hand_drills, together_drills
from dromic.core.drills.drill import BOTH, FRETTING, PICKING, Drill, Material


@dataclass(frozen=True, slots=True)
class DrillKind:
    """What a kind of drill is for, and how its drills are made of a plan."""

    name: str
    label: str
    hand: str
    meaning: str
    make: Callable[[Material], Iterator[Drill]]
    stage: int
    """what comes first: 0 one hand alone, 1 the hard moves, 2 joined, 3 in other shapes, 4 the whole"""
    in_turn: bool = False
    """its drills take turns: a clean pass of one goes on to the next, and ticks it off"""

    @property
    def as_written(self) -> bool:
        """Whether a clean pass shows that its notes are clean as they are written, by both hands."""
        return self.name in AS_WRITTEN


KINDS: tuple[DrillKind, ...] = (
    DrillKind("hammered", "Hammer every note", FRETTING, "every note by hammering, without the pick", hand_drills.hammered, 0),
    DrillKind("chords", "Chord changes", FRETTING, "a hover over each chord before landing, the way of every finger in mm",
              hand_drills.chord_changes, 0),
    DrillKind("hand-offs", "Finger to finger", FRETTING, "every hand-off and roll the plan needs, once each",
              hand_drills.hand_offs, 0),
    DrillKind("trill", "Trills", FRETTING, "trills of two fingers in triplets on every string", hand_drills.trills, 0, True),
    DrillKind("open", "Strokes on open strings", PICKING, "the same strokes on open strings", hand_drills.open_strings, 0),
    DrillKind("pair", "Two strings", PICKING, "the two strings of the hardest change alone", hand_drills.string_pair, 0),
    DrillKind("turnaround", "Round the turn", PICKING, "even triplets over a turn of the strings", hand_drills.turnaround, 0),
    DrillKind("ramp", "Faster and slower", PICKING, "one note, faster and slower without a jump", hand_drills.ramp, 0),
    DrillKind("move", "The hard move", BOTH, "two to five notes around a hard move", together_drills.moves, 1),
    DrillKind("seam", "The seam", BOTH, "the place where it goes round again", together_drills.seams, 1),
    DrillKind("join", "Joined", BOTH, "a hard move joined to its neighbours", together_drills.joined, 2),
    DrillKind("halves", "Half up, half down", BOTH, "one way, stop, the other way, stop, then through", together_drills.halves, 2),
    DrillKind("add", "One note more", BOTH, "one note more each time, from the front or the back", together_drills.adding, 2),
    DrillKind("rhythm", "Another rhythm", BOTH, "the same notes in another rhythm", together_drills.rhythms, 3, True),
    DrillKind("accent", "Wandering accent", BOTH, "an accent that wanders over a cell until it comes round",
              together_drills.accents, 3),
    DrillKind("beat-later", "A beat later", BOTH, "the same strokes a beat later", together_drills.later, 3),
    DrillKind("denser", "Denser", BOTH, "more string changes at the same tempo", together_drills.denser, 3),
    DrillKind("strings", "Other strings", BOTH, "the same frets on low, middle or high strings", together_drills.string_sets, 3, True),
    DrillKind("places", "Other places", BOTH, "the same pitches on other strings", together_drills.other_places, 3),
    DrillKind("circle", "Round the keys", BOTH, "the same fingering in all keys, in circle order", together_drills.circle, 3, True),
    DrillKind("bar", "The bar", BOTH, "a bar with a hard move", together_drills.bars, 4),
    DrillKind("section", "The section", BOTH, "a section", together_drills.sections, 4),
    DrillKind("whole", "All of it", BOTH, "from the first note to the last", together_drills.whole, 4),
)  # fmt: skip
TAKE = "take"
"""what the log has of takes: no drill, but played as it is written"""
AS_WRITTEN = frozenset({"move", "seam", "join", "bar", "section", "whole", TAKE})
BY_NAME = {kind.name: kind for kind in KINDS}


def drills_of(material: Material, without: Iterable[str] = ()) -> tuple[Drill, ...]:
    """Every drill of a plan but the kinds left out, in the order to practise them: the first hand alone, the other, then both."""
    left = set(without)
    hands = (material.first_hand, PICKING if material.first_hand == FRETTING else FRETTING, BOTH)
    kinds = sorted((k for k in KINDS if k.name not in left), key=lambda kind: (kind.stage, hands.index(kind.hand)))
    return tuple(drill for kind in kinds for drill in kind.make(material))


def next_in_turn(drills: Sequence[Drill], number: int, clean: Collection[str]) -> int:
    """The drill that comes after a clean pass: of a kind that takes turns the next that was not clean yet, or, where all were, the
    next; else the same again. `clean` are names of drills."""
    kind = drills[number].kind
    if not BY_NAME[kind].in_turn:
        return number
    row = [n for n, drill in enumerate(drills) if drill.kind == kind]
    following = row[row.index(number) + 1 :] + row[: row.index(number)]
    return next((n for n in following if drills[n].name not in clean), (following or [number])[0])


def words_of(name: str) -> str:
    """A drill of the log in words: its kind, and which notes of the phrase it goes over, counted from 1."""
    kind, *rest = name.split(":")
    label = BY_NAME[kind].label if kind in BY_NAME else "A take" if kind == TAKE else kind
    places = rest[-1].split("-") if rest else []
    if len(places) == 2 and all(place.isdecimal() for place in places):
        first, last = (int(place) + 1 for place in places)
        rest[-1] = f"notes {first} to {last}" if last > first else f"notes {first} and on, and {last}"
    return ", ".join([label, *rest])

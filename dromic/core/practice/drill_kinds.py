"""Every kind of drill, in the order they are practised in: an entry a kind."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from dromic.core.practice import hand_drills, together_drills
from dromic.core.practice.drill import BOTH, FRETTING, PICKING, Drill, Material


@dataclass(frozen=True, slots=True)
class DrillKind:
    """What a kind of drill is for, and how its drills are made of a plan."""

    name: str
    hand: str
    meaning: str
    make: Callable[[Material], Iterator[Drill]]
    stage: int
    """what comes first: 0 one hand alone, 1 the hard moves, 2 joined, 3 in other shapes, 4 the whole"""


KINDS: tuple[DrillKind, ...] = (
    DrillKind("hammered", FRETTING, "every note by hammering, without the pick", hand_drills.hammered, 0),
    DrillKind("chords", FRETTING, "a hover over each chord before landing, the way of every finger in mm",
              hand_drills.chord_changes, 0),
    DrillKind("rolls", FRETTING, "rolls of a finger, as the plan needs them", hand_drills.hand_offs, 0),
    DrillKind("trill", FRETTING, "trills of two fingers in triplets on every string", hand_drills.trills, 0),
    DrillKind("open", PICKING, "the same strokes on open strings", hand_drills.open_strings, 0),
    DrillKind("pair", PICKING, "the two strings of the hardest change alone", hand_drills.string_pair, 0),
    DrillKind("turnaround", PICKING, "even triplets over a turn of the strings", hand_drills.turnaround, 0),
    DrillKind("ramp", PICKING, "one note, faster and slower without a jump", hand_drills.ramp, 0),
    DrillKind("move", BOTH, "two to five notes around a hard move", together_drills.moves, 1),
    DrillKind("seam", BOTH, "the place where it goes round again", together_drills.seams, 1),
    DrillKind("join", BOTH, "a hard move joined to its neighbours", together_drills.joined, 2),
    DrillKind("halves", BOTH, "one way, stop, the other way, stop, then through", together_drills.halves, 2),
    DrillKind("add", BOTH, "one note more each time, from the front or the back", together_drills.adding, 2),
    DrillKind("rhythm", BOTH, "the same notes in another rhythm", together_drills.rhythms, 3),
    DrillKind("accent", BOTH, "an accent that wanders over a cell until it comes round", together_drills.accents, 3),
    DrillKind("beat-later", BOTH, "the same strokes a beat later", together_drills.later, 3),
    DrillKind("denser", BOTH, "more string changes at the same tempo", together_drills.denser, 3),
    DrillKind("strings", BOTH, "the same frets on low, middle or high strings", together_drills.string_sets, 3),
    DrillKind("circle", BOTH, "the same fingering in all keys, in circle order", together_drills.circle, 3),
    DrillKind("bar", BOTH, "a bar with a hard move", together_drills.bars, 4),
    DrillKind("section", BOTH, "a section", together_drills.sections, 4),
    DrillKind("whole", BOTH, "from the first note to the last", together_drills.whole, 4),
)  # fmt: skip
BY_NAME = {kind.name: kind for kind in KINDS}


def drills_of(material: Material, without: Iterable[str] = ()) -> tuple[Drill, ...]:
    """Every drill of a plan but the kinds left out, in the order to practise them: the first hand alone, the other, then both."""
    left = set(without)
    hands = (material.first_hand, PICKING if material.first_hand == FRETTING else FRETTING, BOTH)
    kinds = sorted((k for k in KINDS if k.name not in left), key=lambda kind: (kind.stage, hands.index(kind.hand)))
    return tuple(drill for kind in kinds for drill in kind.make(material))

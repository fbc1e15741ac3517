"""A phrase with what a plan decided written into it."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from dromic.core.editing.edit import sounds_of, with_sounds
from dromic.core.music.phrase import Note, Phrase
from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.values.vocabulary import PICK

POSITIONS, FINGERS, STROKES = "positions", "fingers", "strokes"
EVERYTHING = frozenset({POSITIONS, FINGERS, STROKES})


def phrase_with_plan(phrase: Phrase, plan: Plan, what: frozenset[str] = EVERYTHING) -> Phrase:
    """The phrase with the plan's strings and frets, fingers, or strokes and attacks for its own."""
    waiting: dict[tuple[Fraction, int], list[PlanNote]] = {}
    for each in plan.notes:
        waiting.setdefault((each.onset, each.pitch), []).append(each)
    found: list[tuple[Fraction, Note]] = []
    for onset, note in sounds_of(phrase):
        planned = waiting.get((onset, note.pitch))
        found.append((onset, _worked(note, planned.pop(0), what) if planned else note))
    return with_sounds(phrase, found)


def _worked(note: Note, planned: PlanNote, what: frozenset[str]) -> Note:
    if POSITIONS in what:
        note = replace(note, string=planned.string, fret=planned.fret)
    if FINGERS in what:
        note = replace(note, finger=planned.finger)
    if STROKES in what:
        stroke = None if planned.stroke == "none" else planned.stroke
        # that a note is struck by the pick goes without saying
        silent = planned.attack == PICK and note.attack is None
        note = replace(note, stroke=stroke, attack=None if silent else planned.attack)
    return note

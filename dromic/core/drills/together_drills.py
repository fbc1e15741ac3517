"""Drills of both hands: the hard moves and what is around them, and the same passage in other rhythms, parts and keys."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from math import lcm

from dromic.core.drills.drill import Drill, Material
from dromic.core.drills.passage import FOUR, Step, even
from dromic.core.harmony.spelling import spelled
from dromic.core.music.phrase import Note
from dromic.core.plan.kind_words import FRET_KINDS, PICK_KINDS
from dromic.core.plan.plan import Move

EIGHTH = Fraction(1, 2)
"""Length of an eighth, quarters."""
SIXTEENTH = Fraction(1, 4)
"""Length of a sixteenth, quarters."""
TRIPLET = Fraction(1, 3)
RHYTHMS = {
    "pairs": (EIGHTH,),
    "triplets": (TRIPLET,),
    "sixteenths": (SIXTEENTH,),
    "long-short": (Fraction(3, 8), Fraction(1, 8)),
    "short-long": (Fraction(1, 8), Fraction(3, 8)),
}
CIRCLE = (0, 5, 10, 3, 8, 1, 6, 11, 4, 9, 2, 7)
"""semitones up from the key, in circle order: a fourth on each time"""


def moves(material: Material) -> Iterator[Drill]:
    """Two to five notes about each of the hardest moves."""
    for move in material.hardest:
        events = material.around(move, material.settings.drills.around)
        if len(events) > 1:
            yield _of(material, "move", events, f"{_kind(move)}: {move.load:.0%} of what the {move.hand} hand can do")


def joined(material: Material) -> Iterator[Drill]:
    """The same with their neighbours."""
    for move in material.hardest:
        events = material.around(move, material.settings.drills.joined)
        if len(events) > 2 * material.settings.drills.around:
            yield _of(material, "join", events, f"{_kind(move)}, with what stands around it")


def bars(material: Material) -> Iterator[Drill]:
    """The bars of the hardest moves."""
    seen = set()
    for move in material.hardest:
        number = material.plan.events[move.to][0].bar_number
        events = tuple(e for e in material.order if material.plan.events[e][0].bar_number == number)
        if number not in seen and 1 < len(events) < len(material.order):
            seen.add(number)
            yield _of(material, "bar", events, f"bar {number} as a whole")


def sections(material: Material) -> Iterator[Drill]:
    """Each section, the one with the hardest move first."""
    phrase = material.plan.request.phrase
    found = []
    for section in phrase.sections:
        events = tuple(e for e in material.order if section.first <= phrase.events[e].bar <= section.last)
        if 1 < len(events) < len(material.order):
            found.append(_of(material, "section", events, f"section {section.name}", section.name))
    yield from sorted(found, key=lambda drill: -drill.load)


def whole(material: Material) -> Iterator[Drill]:
    """All of it."""
    if len(material.order) > 1:
        yield _of(material, "whole", material.order, "from the first note to the last")


def seams(material: Material) -> Iterator[Drill]:
    """Where it goes round again."""
    for move in material.plan.seams:
        events = material.around(move, material.settings.drills.around)
        yield _of(material, "seam", events, f"goes round again: {move.load:.0%} of what the {move.hand} hand can do")


def halves(material: Material) -> Iterator[Drill]:
    """Half going up, half coming down, each with a stop; then through."""
    turn = _turn(material)
    if turn is None:
        return
    low, peak, high = turn
    up, down = material.steps(material.order[low : peak + 1]), material.steps(material.order[peak : high + 1])
    stop = Step((), Fraction(1))
    steps = (*up, stop, *down, stop, *up[:-1], *down)
    yield material.drill(
        "halves", material.order[low : high + 1], steps, "one way, stop; the other way, stop; then through"
    )


def rhythms(material: Material) -> Iterator[Drill]:
    """The hardest passage in other rhythms."""
    events = _hard_passage(material)
    steps = material.steps(events)
    for name, lengths in RHYTHMS.items():
        if len(steps) > 2:
            reason = f"the same notes as {name}: each in turn has room"
            yield material.drill("rhythm", events, even(steps, lengths), reason, name, metre=FOUR)


def accents(material: Material) -> Iterator[Drill]:
    """The hardest passage as a cell, round and round with an accent that wanders, until it comes round with the bar."""
    events = _hard_passage(material)[:6]
    cell = material.steps(events)
    if len(cell) < 2:
        return
    length = TRIPLET if len(cell) % 3 else SIXTEENTH
    per_beat = int(1 / length)
    beat, bar = comes_round(len(cell), per_beat, 4)
    steps = even(cell * (beat // len(cell)), (length,))
    marked = tuple(_accented(step) if i % per_beat == 0 else step for i, step in enumerate(steps))
    reason = f"an accent on every beat: round with the beat after {beat} notes, with the bar after {bar}"
    yield material.drill("accent", events, marked, reason, metre=FOUR)


def comes_round(cell: int, per_beat: int, beats: int) -> tuple[int, int]:
    """After how many notes a cell of so many begins on a beat again, and on a bar line, with so many notes a beat."""
    return lcm(cell, per_beat), lcm(cell, per_beat * beats)


def later(material: Material) -> Iterator[Drill]:
    """The same notes and strokes a beat later in the bar."""
    events = _hard_passage(material)
    steps = (Step((), Fraction(1)), *material.steps(events))
    yield material.drill("beat-later", events, steps, "the same strokes a beat later: the beat falls on other notes")


def adding(material: Material) -> Iterator[Drill]:
    """One note more each time, from the front and from the back."""
    events = _hard_passage(material)[: material.settings.drills.adding]
    steps, stop = material.steps(events), Step((), Fraction(1))
    for name, parts in (
        ("front", [steps[:n] for n in range(2, len(steps) + 1)]),
        ("back", [steps[-n:] for n in range(2, len(steps) + 1)]),
    ):
        grown = tuple(step for part in parts for step in (*part, stop))
        if grown:
            yield material.drill("add", events, grown, f"one note more each time, from the {name}", name)


def denser(material: Material) -> Iterator[Drill]:
    """Harder by string changes at the same tempo: repeated notes of a string are left out."""
    events = _hard_passage(material)
    kept = [e for n, e in enumerate(events) if not n or _string(material, e) != _string(material, events[n - 1])]
    if 2 < len(kept) < len(events):
        steps = even(material.steps(kept), (SIXTEENTH,))
        yield material.drill("denser", tuple(kept), steps, "every note on another string: harder without being faster")


def string_sets(material: Material) -> Iterator[Drill]:
    """The hardest passage on low, middle and high strings, frets kept: other pitches, the same shapes."""
    events = _hard_passage(material)
    steps, strings = material.steps(events), material.plan.request.instrument.strings
    used = [n.string for step in steps for n in step.notes if n.string is not None]
    if not used:
        return
    middle = (min(used) + max(used)) // 2
    for name, at in (("low", strings - max(used)), ("middle", (strings + 1) // 2 - middle), ("high", 1 - min(used))):
        if at:
            moved = tuple(replace(s, notes=tuple(_restrung(material, n, at) for n in s.notes)) for s in steps)
            if all(n.string and 1 <= n.string <= strings for s in moved for n in s.notes):
                reason = f"the same frets on the {name} strings; the intervals across strings change with the tuning"
                yield material.drill("strings", events, moved, reason, name)


def other_places(material: Material) -> Iterator[Drill]:
    """The hardest passage a string lower and higher with its pitches kept: other frets, the same sound; what lies beyond the board
    breaks, and is said."""
    events = _hard_passage(material)
    steps, instrument = material.steps(events), material.plan.request.instrument
    for name, at in (("lower", 1), ("higher", -1)):
        kept: list[Step] = []
        lost = 0
        for step in steps:
            notes = tuple(n for n in (_same_pitch(material, note, at) for note in step.notes) if n is not None)
            lost += len(step.notes) - len(notes)
            kept.append(replace(step, notes=notes))
        whole = sum(len(step.notes) for step in steps)
        if whole and lost * 2 <= whole and instrument.strings > 1:
            broken = f"; {lost} of {whole} notes lie beyond the board and are left out" if lost else ""
            reason = f"the same pitches a string {name}: other frets and changes, strokes kept{broken}"
            yield material.drill("places", events, tuple(kept), reason, name)


def circle(material: Material) -> Iterator[Drill]:
    """One fingering through all keys in circle order, a drill a key, named by the note it begins on; a key that no fret is left
    for is left out."""
    events = _hard_passage(material)
    steps, instrument = material.steps(events), material.plan.request.instrument
    frets = [n.fret for step in steps for n in step.notes if n.fret]
    if not frets or any(n.fret == 0 for step in steps for n in step.notes):
        return
    found = []
    for up in CIRCLE:
        by = next((b for b in (up, up - 12) if min(frets) + b >= 1 and max(frets) + b <= instrument.highest_fret), None)
        if by is not None:
            found.append(tuple(replace(s, notes=tuple(_fretted(material, n, by) for n in s.notes)) for s in steps))
    missing = len(CIRCLE) - len(found)
    left = f"; {missing} keys lie beyond the board" if missing else ""
    for moved in found:
        first = next(step.lead for step in moved if step.notes)
        yield material.drill(
            "circle", events, moved, f"the same fingering, a fourth on each time{left}", _letter(first.pitch)
        )


def _letter(pitch: int) -> str:
    """A note's name without its octave."""
    letter, alter, _ = spelled(pitch, None)
    return letter + ("#" * alter if alter > 0 else "b" * -alter)


def _of(material: Material, kind: str, events: tuple[int, ...], reason: str, key: str = "") -> Drill:
    return material.drill(kind, events, material.steps(events), reason, key)


def _kind(move: Move) -> str:
    """The hard thing about a move, in words."""
    return PICK_KINDS[move.pick_kind].by if move.hand == "picking" else FRET_KINDS[move.fret_kind]


def _hard_passage(material: Material) -> tuple[int, ...]:
    """What stands around the hardest move."""
    if not material.hardest:
        return material.order[:8]
    return material.around(material.hardest[0], material.settings.drills.joined)


def _turn(material: Material) -> tuple[int, int, int] | None:
    """First, turning and last event of the longest run of pitches up and down again, or down and up."""
    pitch = [material.plan.events[e][0].pitch for e in material.order]
    best: tuple[int, int, int] | None = None
    for peak in range(1, len(pitch) - 1):
        way = 1 if pitch[peak] > pitch[peak - 1] else -1
        low, high = peak, peak
        while low > 0 and way * (pitch[low] - pitch[low - 1]) > 0:
            low -= 1
        while high + 1 < len(pitch) and way * (pitch[high] - pitch[high + 1]) > 0:
            high += 1
        if peak - low >= 2 and high - peak >= 2 and (best is None or high - low > best[2] - best[0]):
            best = (low, peak, high)
    return best


def _accented(step: Step) -> Step:
    return replace(step, notes=tuple(replace(n, marks=n.marks | {"accent"}) for n in step.notes))


def _string(material: Material, event: int) -> int:
    return material.plan.events[event][0].string


def _restrung(material: Material, note: Note, by: int) -> Note:
    assert note.string is not None and note.fret is not None
    string = note.string + by
    strings = material.plan.request.instrument.strings
    if not 1 <= string <= strings:
        return replace(note, string=None)
    return replace(note, string=string, pitch=material.plan.request.instrument.pitch_at(string, note.fret))


def _same_pitch(material: Material, note: Note, by: int) -> Note | None:
    """A note on another string with its pitch kept, its finger open; None where the board has no such place."""
    instrument = material.plan.request.instrument
    assert note.string is not None
    string = note.string + by
    if not 1 <= string <= instrument.strings:
        return None
    fret = note.pitch - instrument.open_pitch(string)
    if not 0 <= fret <= instrument.highest_fret:
        return None
    return replace(note, string=string, fret=fret, finger=None if fret else "0")


def _fretted(material: Material, note: Note, by: int) -> Note:
    assert note.string is not None and note.fret is not None
    instrument = material.plan.request.instrument
    return replace(note, fret=note.fret + by, pitch=instrument.pitch_at(note.string, note.fret + by))

"""Drills of one hand alone: the picking hand on open strings, the fretting hand without the pick."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise, permutations

import numpy as np

from dromic.core.drills.drill import FRETTING, PICKING, Drill, Material
from dromic.core.drills.passage import Step, even, opened, unpicked
from dromic.core.music.phrase import Note
from dromic.core.plan.plan import Move

TRIPLET = Fraction(1, 3)
"""Length of an eighth of a triplet, quarters."""
QUARTER = Fraction(1)
"""Length of a quarter note, quarters."""
_TIMES = 4
"""how often a change of two strings is gone through in one bar or so"""
_TRILL_FRET = 5
"""where trills are laid when the plan has no place of its own for them"""
_TRILL_NOTES = 12
"""a bar of triplets"""


def open_strings(material: Material) -> Iterator[Drill]:
    """The passages where the picking hand has most to do: the same strokes, the same count on each string."""
    for events in _passages(material, PICKING):
        steps = opened(material.steps(events), material.plan.request.instrument)
        if len(steps) > 1:
            reason = "the same strokes and as many on each string, with nothing to fret"
            yield material.drill("open", events, steps, reason, hand=PICKING)


def string_pair(material: Material) -> Iterator[Drill]:
    """The two strings of the hardest change alone, round and round."""
    for move in _by_load(material, PICKING):
        events = (move.start, move.to)
        steps = opened(material.steps(events), material.plan.request.instrument)
        if len(steps) == 2 and steps[0].lead.string != steps[1].lead.string:
            a, b = steps[0].lead.string, steps[1].lead.string
            yield material.drill(
                "pair", events, even(steps * _TIMES, (Fraction(1, 2),)),
                f"strings {a} and {b} alone, with the strokes they have here", hand=PICKING,
            )  # fmt: skip
            return


def turnaround(material: Material) -> Iterator[Drill]:
    """Even triplets over the place where the strings turn round."""
    strings = [material.plan.events[e][0].string for e in material.order]
    for at in range(2, len(strings) - 2):
        if (strings[at] - strings[at - 1]) * (strings[at + 1] - strings[at]) < 0:
            events = material.order[at - 2 : at + 3]
            steps = even(opened(material.steps(events), material.plan.request.instrument), (TRIPLET,))
            if len(steps) > 2:
                yield material.drill(
                    "turnaround", events, steps, "even triplets over where the strings turn", hand=PICKING
                )
                return


def ramp(material: Material) -> Iterator[Drill]:
    """One note, faster and slower again by steps too small to hear."""
    worst = next(iter(_by_load(material, PICKING)), None)
    if worst is None:
        return
    step = opened(material.steps((worst.to,)), material.plan.request.instrument)
    if not step:
        return
    one = replace(step[0], notes=step[0].notes[:1], length=Fraction(1, 4))
    strokes = ("down", "up")
    steps = tuple(
        replace(one, notes=tuple(replace(n, stroke=strokes[i % 2], attack="pick") for n in one.notes))
        for i in range(16 * len(material.settings.drills.ramp))
    )
    yield material.drill(
        "ramp", (worst.start, worst.to), steps, "one note, faster and slower with no jump: the motion stays the same", hand=PICKING,
        paces=material.settings.drills.ramp,
    )  # fmt: skip


def hammered(material: Material) -> Iterator[Drill]:
    """The passages where the fretting hand has most to do, every note by hammering."""
    for events in _passages(material, FRETTING):
        steps = unpicked(material.steps(events))
        if sum(bool(step.notes) for step in steps) > 1:
            reason = "no pick: every note must sound by the finger alone"
            yield material.drill("hammered", events, steps, reason, hand=FRETTING)


def chord_changes(material: Material) -> Iterator[Drill]:
    """Chords one after the other, a beat's hover before each landing, with the way of every finger."""
    plan = material.plan
    for a, b in pairwise(material.order):
        if len(plan.events[a]) < 2 or len(plan.events[b]) < 2:
            continue
        ways = _finger_ways(material, a, b)
        if not any(ways.values()):
            continue
        first, then = (replace(step, length=QUARTER) for step in material.steps((a, b)))
        hover = Step((), QUARTER)
        told = ", ".join(f"finger {f} {mm:.0f} mm" for f, mm in sorted(ways.items()))
        yield material.drill(
            "chords", (a, b), (first, hover, then, hover) * 2,
            f"hover over the shape for a beat, then land all at once: {told}", hand=FRETTING,
        )  # fmt: skip
        return


def trills(material: Material) -> Iterator[Drill]:
    """All six pairs of fingers, each begun on either, in triplets on every string; those the plan leans on and weak ones first."""
    plan, instrument = material.plan, material.plan.request.instrument
    leans = pairs_used(material)
    weak = {frozenset("34"): 2.0, frozenset("24"): 1.5}
    pairs = sorted(
        permutations("1234", 2),
        key=lambda p: (-(1 + leans[frozenset(p)]) * weak.get(frozenset(p), 1.0), p),
    )
    low = min((n.position for n in plan.notes if n.fret), default=_TRILL_FRET) or _TRILL_FRET
    low = min(low, instrument.highest_fret - 3)
    for first, second in pairs:
        used = leans[frozenset((first, second))]
        steps = []
        for string in range(instrument.strings, 0, -1):
            frets = [low + int(f) - 1 for f in (first, second)]
            for i in range(_TRILL_NOTES):
                fret, finger = frets[i % 2], (first, second)[i % 2]
                attack = None if not i else "hammer" if fret > frets[(i + 1) % 2] else "pull"
                note = Note(instrument.pitch_at(string, fret), TRIPLET, string, fret, finger, attack)
                steps.append(Step((note,), TRIPLET))
        reason = (
            f"the plan goes between them {used} {'time' if used == 1 else 'times'}" if used else "keeps the pair alive"
        )
        yield material.drill("trill", (), steps, f"fingers {first} and {second}: {reason}", first + second, FRETTING)


def hand_offs(material: Material) -> Iterator[Drill]:
    """Every way the plan hands on from one finger to another, or rolls one over, once each, the hardest of its sort."""
    found: dict[tuple[str, str], list[Move]] = {}
    for move in material.plan.onward:
        first, then = (material.plan.events[e][0].finger for e in (move.start, move.to))
        if first in "1234" and then in "1234" and (first != then or move.fret_kind == "roll"):
            found.setdefault((first, then), []).append(move)
    if not found:
        return
    steps: list[Step] = []
    events: list[int] = []
    for of in sorted(found.values(), key=lambda moves: -len(moves)):
        worst = max(of, key=lambda move: move.fret_load)
        pair = (worst.start, worst.to)
        steps += [replace(step, length=Fraction(1, 2)) for step in material.steps(pair)] * 2 + [Step((), QUARTER)]
        events += pair
    told = ", ".join(f"{a} to {b} {len(of)}" for (a, b), of in sorted(found.items(), key=lambda f: -len(f[1])))
    yield material.drill(
        "hand-offs", tuple(dict.fromkeys(events)), steps, f"how often the plan needs each: {told}", hand=FRETTING
    )


def pairs_used(material: Material) -> Counter[frozenset[str]]:
    """How often the plan goes from one finger to another one next."""
    found: Counter[frozenset[str]] = Counter()
    for move in material.plan.onward:
        fingers = [material.plan.events[e][0].finger for e in (move.start, move.to)]
        if fingers[0] != fingers[1] and all(f in "1234" for f in fingers):
            found[frozenset(fingers)] += 1
    return found


def _finger_ways(material: Material, a: int, b: int) -> dict[str, float]:
    """mm that each finger two chords share goes along and across the board."""
    instrument = material.plan.request.instrument
    at = [{n.finger: n for n in material.plan.events[e] if n.finger in "1234"} for e in (a, b)]
    ways = {}
    for finger in sorted(set(at[0]) & set(at[1])):
        one, other = at[0][finger], at[1][finger]
        along = float(np.diff(instrument.fret_mm(np.array([one.fret, other.fret], dtype=float)))[0])
        ways[finger] = float(np.hypot(along, (one.string - other.string) * instrument.nut_spacing_mm))
    return ways


def _by_load(material: Material, hand: str) -> Sequence[Move]:
    moves = [m for m in material.plan.onward if hand == FRETTING or m.pick_load is not None]
    return sorted(moves, key=lambda m: -(m.fret_load if hand == FRETTING else m.pick_load or 0.0))


def _passages(material: Material, hand: str) -> Iterator[tuple[int, ...]]:
    """What stands around the moves that are hardest for one hand, none twice."""
    taken: list[int] = []
    for move in _by_load(material, hand):
        if len(taken) == max(1, material.settings.drills.hardest - 1):
            return
        if all(abs(move.to - other) > material.settings.drills.joined for other in taken):
            taken.append(move.to)
            yield material.around(move, material.settings.drills.joined)

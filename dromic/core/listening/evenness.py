"""How even a take is, heard apart: by the way to the string, at the turns, by the place in the beat, by stroke, by finger and by
technique; long against short; and how steadily the tempo was held. A way of telling notes apart is one entry."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction

import numpy as np

from dromic.core.listening.due import Due
from dromic.core.listening.report import Even, NoteReport, Ratio, Steadiness
from dromic.core.values.arrays import Floats
from dromic.core.values.vocabulary import PLUCKERS, UNSTRUCK

_LEAST = 2
"""notes of a kind before anything is said of it"""
_PLACES = {Fraction(0): "on the beat", Fraction(1, 2): "half way", Fraction(1, 3): "second third", Fraction(2, 3): "last third",
           Fraction(1, 4): "second quarter", Fraction(3, 4): "last quarter"}  # fmt: skip
_FINGERS = {"0": "open", "T": "thumb"}
_STROKES = {"down": "down", "up": "up"}
_BETWEEN = "between"
_STEADY_TURNS = 8
"""turns that a tempo is measured over"""


def technique(one: Due) -> str:
    """How a note is sounded, in a word."""
    if one.silent:
        return "dead"
    return "muted" if "palm-mute" in one.note.marks else one.note.attack


GROUPS: dict[str, Callable[[Due], str]] = {
    "way to the string": lambda one: one.change,
    "turn": lambda one: "turning" if one.turns else "going on",
    "place in the beat": lambda one: _PLACES.get(one.place_in_beat, _BETWEEN),
    "stroke": lambda one: "" if one.note.attack in UNSTRUCK else _STROKES.get(one.note.stroke, "") or _plucker(one),
    "finger": lambda one: _FINGERS.get(one.note.finger, f"finger {one.note.finger}"),
    "technique": technique,
}
"""what tells notes apart: a name, and the kind of a note ('' for none)"""


def _plucker(one: Due) -> str:
    return one.note.stroke if one.note.stroke in PLUCKERS else ""


def evenness(due: Sequence[Due], notes: Sequence[NoteReport]) -> tuple[Even, ...]:
    """A row for each kind of note of each group, the latest first within a group. A kind of two notes or more; groups of one kind are
    left out."""
    found: list[Even] = []
    for group, kind_of in GROUPS.items():
        kinds: dict[str, list[NoteReport]] = {}
        for one, note in zip(due, notes, strict=True):
            if note.error_ms is not None and kind_of(one):
                kinds.setdefault(kind_of(one), []).append(note)
        rows = [_even(group, kind, of) for kind, of in kinds.items() if len(of) >= _LEAST]
        if len(rows) > 1:
            found += sorted(rows, key=lambda row: -row.late_ms)
    return tuple(found)


def _even(group: str, kind: str, notes: Sequence[NoteReport]) -> Even:
    errors = np.array([n.error_ms for n in notes])
    loud = np.array([n.db for n in notes if n.db is not None])
    return Even(
        group, kind, len(notes), float(errors.mean()), float(np.sqrt((errors**2).mean())),
        float(loud.mean()) if len(loud) else 0.0, float(loud.std()) if len(loud) else 0.0,
    )  # fmt: skip


def ratios(due: Sequence[Due], turns: Sequence[Sequence[int]], heard_s: Floats) -> tuple[Ratio, ...]:
    """Long against short in beats of two uneven notes, and in gallops, either way round; `heard_s` [turns] with nan for what was not
    heard. What is meant comes from the plan's times, swing and all."""
    firsts = [due[places[0]] for places in turns]
    beats: dict[int, list[int]] = {}
    for turn, one in enumerate(firsts):
        beats.setdefault(one.beat, []).append(turn)
    found: dict[str, list[tuple[float, float]]] = {}
    for of in beats.values():
        after = of[-1] + 1
        if after >= len(firsts) or firsts[of[0]].place_in_beat or firsts[after].beat != firsts[of[0]].beat + 1:
            continue
        if firsts[after].place_in_beat:
            continue
        span = [*of, after]
        meant, played = np.diff([firsts[t].start_s for t in span]), np.diff(heard_s[span])
        shape = _SHAPES.get(tuple(np.round(meant / meant.min(), 0).astype(int)) if len(meant) > 2 else _pair(meant))
        if shape is None or np.isnan(played).any():
            continue
        name, long = shape
        short = [n for n in range(len(meant)) if n not in long]
        values = [float(gaps[list(long)].mean() / max(gaps[short].mean(), 1e-3)) for gaps in (meant, played)]
        found.setdefault(name, []).append((values[0], values[1]))
    return tuple(
        Ratio(name, float(np.median([m for m, _ in of])), float(np.median([p for _, p in of])), len(of))
        for name, of in found.items()
    )


_SHAPES: dict[tuple[int, ...], tuple[str, tuple[int, ...]]] = {
    (2, 1): ("couplets", (0,)),
    (1, 2): ("couplets, short first", (1,)),
    (2, 1, 1): ("gallops", (0,)),
    (1, 1, 2): ("gallops, short first", (2,)),
}
_UNEVEN = 1.2


def _pair(gaps: Floats) -> tuple[int, ...]:
    """How two gaps stand to each other, as lengths in a figure; () for other numbers of gaps [gaps] and for even ones."""
    if len(gaps) != 2:
        return ()
    return (2, 1) if gaps[0] > _UNEVEN * gaps[1] else (1, 2) if gaps[1] > _UNEVEN * gaps[0] else ()


_SWEEPS = frozenset({"carry-through", "skip-through"})
_SMEARED_LEAST = 4
"""Notes of a sweep, its ends counted in."""
_SMEARED_SHARE = 0.5
"""Share of the others that must be unclear."""


def smeared(due: Sequence[Due], notes: Sequence[NoteReport]) -> tuple[str, ...]:
    """Sweeps of which the first and the last note are clear and the middle is not, a sentence each."""
    told, run = [], list(zip(due[:1], notes[:1], strict=True))
    for one, note in [*zip(due[1:], notes[1:], strict=True), (None, None)]:
        if one is not None and note is not None and (one.change in _SWEEPS or one.turn == run[-1][0].turn):
            run.append((one, note))
            continue
        middle = [n for _, n in run[1:-1] if n.verdict != "ok"]
        clear = run[0][1].verdict == run[-1][1].verdict == "ok"
        if len(run) >= _SMEARED_LEAST and clear and len(middle) >= _SMEARED_SHARE * (len(run) - 2):
            first, last = run[0][0].note, run[-1][0].note
            told.append(
                f"The sweep of bar {first.bar_number}, notes {first.index + 1} to {last.index + 1}, is smeared in the middle."
            )
        run = [(one, note)] if one is not None and note is not None else []
    return tuple(told)


def steadiness(due_s: Floats, line_s: Floats, tempo: float) -> Steadiness:
    """The slowest and the fastest stretch of a take, and how much faster it ended than it began, from the take's own line [turns]."""
    step = min(_STEADY_TURNS, len(due_s) - 1)
    if step < 1:
        return Steadiness(tempo, tempo, 0.0)
    local = tempo * (due_s[step:] - due_s[:-step]) / np.maximum(line_s[step:] - line_s[:-step], 1e-6)
    third = max(1, len(local) // 3)
    return Steadiness(float(local.min()), float(local.max()), float(local[-third:].mean() / local[:third].mean() - 1.0))

"""The plan on the neck as data, in true millimetres: what the hand does from one note on, and where it goes next.

Along the neck is mm from the nut, growing towards the body; across it is mm from the neck's middle line, growing
towards string 1. The strings spread from nut to bridge. A left-hander's picture is the same, mirrored when painted.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from dromic.core.hands.hand_geometry import geometry_of
from dromic.core.plan.plan import Plan, PlanNote
from dromic.core.values.pitch import note_name
from dromic.core.values.vocabulary import TAP

SHOWN_EVENTS = 8
"""events shown from the one chosen on; for looking at, not measured"""


@dataclass(frozen=True, slots=True)
class Dot:
    """A place that is played: which finger, and in which order (from 1) among the events shown."""

    along_mm: float
    across_mm: float
    string: int
    fret: int
    finger: str
    order: tuple[int, ...]
    now: bool
    tapped: bool


@dataclass(frozen=True, slots=True)
class Outline:
    """Where the hand lies: from the index finger's place to the little finger's relaxed place."""

    position: int
    low_mm: float
    high_mm: float
    now: bool


@dataclass(frozen=True, slots=True)
class Arrow:
    """A shift of the hand: from and to are the index finger's places."""

    from_mm: float
    to_mm: float


@dataclass(frozen=True, slots=True)
class Stretch:
    """A finger out of its relaxed place: over 0 towards the body."""

    relaxed_mm: float
    along_mm: float
    across_mm: float
    finger: str
    fits: bool = True
    """whether the hand reaches so far"""

    @property
    def mm(self) -> float:
        """How far the finger is beyond its relaxed place."""
        return self.along_mm - self.relaxed_mm


HAND_EDGE_MM = 7.0
"""drawn of the hand beyond its outer fingers' places; for looking at, not measured"""


@dataclass(frozen=True, slots=True)
class Frame:
    """The neck itself, as far as a phrase uses it."""

    fret_mm: tuple[float, ...]
    """place of fret 0..n"""
    low_mm: float
    high_mm: float
    string_names: tuple[str, ...]
    nut_mm: tuple[float, ...]
    """place across of string 1..N at the nut"""
    bridge_mm: tuple[float, ...]
    scale_mm: float

    def across(self, string: int, along_mm: float) -> float:
        """Place across of a string at a distance from the nut."""
        nut, bridge = self.nut_mm[string - 1], self.bridge_mm[string - 1]
        return nut + (bridge - nut) * along_mm / self.scale_mm


@dataclass(frozen=True, slots=True)
class Neck:
    """`first` and `last` are the notes shown, by index."""

    frame: Frame
    dots: tuple[Dot, ...]
    outlines: tuple[Outline, ...]
    arrows: tuple[Arrow, ...]
    stretches: tuple[Stretch, ...]
    first: int
    last: int


def neck(plan: Plan, event: int = 0, count: int = SHOWN_EVENTS) -> Neck:
    """The neck from an event on, so many events long."""
    chords = plan.events[event : event + count]
    frame = frame_of(plan)
    stays = [p for p, _ in itertools.groupby(chord[0].position for chord in chords) if p]
    lows = [_place(plan, p) for p in stays]
    return Neck(
        frame=frame,
        dots=_dots(plan, frame, chords),
        outlines=tuple(
            Outline(p, _place(plan, p), _place(plan, p) + _reach(plan, p), n == 0)
            for n, p in enumerate(dict.fromkeys(stays))
        ),
        arrows=tuple(Arrow(a, b) for a, b in itertools.pairwise(lows)),
        stretches=_stretches(plan, frame, chords),
        first=chords[0][0].index,
        last=chords[-1][-1].index,
    )


def frame_of(plan: Plan) -> Frame:
    """The stretch of neck that a whole plan uses."""
    instrument = plan.request.instrument
    frets = [n.fret for n in plan.notes if n.fret] or [1]
    positions = [n.position for n in plan.notes if n.position] or [1]
    lowest = max(0, min(*frets, *positions) - 1)
    hand_mm = _place(plan, max(positions)) + _reach(plan, max(positions)) + HAND_EDGE_MM
    high_mm = max(float(instrument.fret_mm(max(frets))), hand_mm)
    numbers = range(1, instrument.strings + 1)
    middle = (instrument.strings + 1) / 2
    return Frame(
        fret_mm=tuple(float(instrument.fret_mm(f)) for f in range(instrument.highest_fret + 1)),
        low_mm=float(instrument.fret_mm(lowest)),
        high_mm=min(high_mm, float(instrument.fret_mm(instrument.highest_fret))),
        string_names=tuple(note_name(instrument.open_pitch(s))[:-1] for s in numbers),
        nut_mm=tuple((middle - s) * instrument.nut_spacing_mm for s in numbers),
        bridge_mm=tuple((middle - s) * instrument.bridge_spacing_mm for s in numbers),
        scale_mm=instrument.scale_mm,
    )


def _place(plan: Plan, fret: int) -> float:
    """Where a finger stands for a fret; an open string is shown at the nut."""
    behind = plan.request.player.fretting.behind_fret_mm if fret else 0.0
    return float(plan.request.instrument.fret_mm(fret)) - behind


def _reach(plan: Plan, position: int) -> float:
    """How far the little finger lies from the index at ease."""
    return geometry_of(plan.request.instrument, plan.request.player).offset_mm(4, position)


def _dots(plan: Plan, frame: Frame, chords: Sequence[tuple[PlanNote, ...]]) -> tuple[Dot, ...]:
    """One dot for every place and finger, with every turn at which it is played."""
    turns: dict[tuple[int, int, str, bool], list[int]] = {}
    for turn, chord in enumerate(chords, start=1):
        for note in chord:
            turns.setdefault((note.string, note.fret, note.finger, note.attack == TAP), []).append(turn)
    found = []
    for (string, fret, finger, tapped), order in turns.items():
        along = _place(plan, fret)
        across = frame.across(string, along)
        found.append(Dot(along, across, string, fret, finger, tuple(order), 1 in order, tapped))
    return tuple(found)


def _stretches(plan: Plan, frame: Frame, chords: Sequence[tuple[PlanNote, ...]]) -> tuple[Stretch, ...]:
    """Fingers farther from their relaxed places than counts as a stretch, each once."""
    hand = plan.request.player.fretting
    geometry = geometry_of(plan.request.instrument, plan.request.player)
    found: dict[tuple[str, int, int], Stretch] = {}
    for note in (n for chord in chords for n in chord):
        if not note.fret or note.finger not in "1234" or note.attack == TAP:
            continue
        number = int(note.finger)
        away = geometry.deviation_mm(number, note.fret, note.position)
        away = -away if number == 1 and note.fret < note.position else away
        if abs(away) > hand.stretch_from_mm:
            relaxed = _place(plan, note.position) + geometry.offset_mm(number, note.position)
            finger, along = number - 1, relaxed + away
            # the index reaches as far behind its place as past it
            least = -hand.reach_mm[0] if not finger else -max(hand.crowd_mm[finger], hand.crowd_chord_mm[finger])
            fits = least <= away <= hand.reach_mm[finger]
            made = Stretch(relaxed, along, frame.across(note.string, along), note.finger, fits)
            found.setdefault((note.finger, note.fret, note.position), made)
    return tuple(found.values())

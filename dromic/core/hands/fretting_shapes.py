"""Where the fretting hand can be for each event: strings, frets, fingers and hand positions, with what each strains.

A node is one way of holding one event. An event sounded with no finger of this hand (open strings, taps) keeps what
the hand remembers: its position and the event that last needed it, so that a shift across open strings has the whole
gap. Lengths are mm along the neck. Optimum fingering as a shortest path: Sayegh, Computer Music Journal 13(3), 1989.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from dromic.core.hands.fretting_nodes import SHAPE_BYTES, FrettingNodes, HeldNote, Shape, as_arrays
from dromic.core.hands.hand_geometry import THUMB, hand_geometry
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import FrettingHand
from dromic.core.values.errors import DromicError
from dromic.core.values.memo import Memo
from dromic.core.values.pitch import note_name

MOST_SHAPES = 60
_MOST_MB = 24.0
"""of shapes kept for one hand on one instrument"""
WIDEST_SPAN_FRETS = 7


NOT, HABIT, LEFT = range(3)
"""first position: the bar does not fit it; it is the habit; it would fit, but the places stated lie elsewhere, which
costs the same whichever fingers play them, so that keeping a place never makes a plan cheaper"""


@dataclass(frozen=True, slots=True)
class FrettingTask:
    """What an event asks of the fretting hand: pitches, and for each the string, fret and finger if they are kept."""

    pitches: tuple[int, ...]
    strings: tuple[int | None, ...]
    frets: tuple[int | None, ...]
    fingers: tuple[int | None, ...]
    tapped: bool = False
    first_position: int = NOT
    """whether a bar lies in first position"""
    bends: tuple[float, ...] = ()
    """semitones each note is bent by; empty where none is"""
    vibrato: tuple[bool, ...] = ()
    held: tuple[tuple[int, int], ...] = ()
    """(string, fret) of notes from before that go on sounding"""
    usual: int = 0
    """the finger that a figure moved along the neck gives the note, 0 for none"""
    dead: bool = False
    """no pitch is to sound: fingers touch the strings and need not press them"""


class Fretting:
    """Builds node sets for one instrument and one hand, each wish worked out once."""

    def __init__(
        self, instrument: Instrument, hand: FrettingHand, thumb: bool = False, bass_hand: str = "each"
    ) -> None:
        self.instrument = instrument
        self.hand = hand
        self.thumb = thumb
        self.geometry = hand_geometry(instrument, hand, bass_hand)
        self._fingers: dict[tuple[int, int, float, bool], tuple[int, ...]] = {}
        self._wholes: Memo[FrettingNodes] = Memo(_MOST_MB)
        self._lone: Memo[tuple[Shape, ...]] = Memo(_MOST_MB)
        self._nodes: Memo[FrettingNodes] = Memo(_MOST_MB)

    def whole(self, wanted: FrettingTask, where: str) -> FrettingNodes:
        """The node set of an event, with every position a hand may remember where no finger is down."""
        every = tuple(range(self.instrument.highest_fret + 1))
        return self._wholes.get(
            wanted, lambda: as_arrays(self.shapes(wanted, where), every), lambda nodes: nodes.weight
        )

    def carrying(self, wanted: FrettingTask, whole: FrettingNodes, remembered: tuple[int, ...]) -> FrettingNodes:
        """The part of it that a hand can be in which may arrive with these positions."""
        if not whole.any_idle:
            return whole
        return self._nodes.get((wanted, remembered), lambda: whole.carrying(remembered), lambda nodes: nodes.weight)

    def reach_mm(self, finger: int) -> float:
        """How far past its relaxed place a finger can go."""
        return self.hand.thumb_reach_mm if finger == THUMB else self.hand.reach_mm[finger - 1]

    def _thumb(self, string: int, fret: int, position: int) -> tuple[int, ...]:
        """The thumb, where the player uses it and it gets over the neck to the lowest string."""
        near = self.geometry.deviation_mm(THUMB, fret, position) <= self.hand.thumb_reach_mm
        return (THUMB,) if self.thumb and near and string == self.instrument.strings else ()

    def _reaching(self, fret: int, position: int, slack: float, chord: bool = False) -> tuple[int, ...]:
        """The fingers that reach a fret from a position, with some slack over the hand's limits; in a chord they may
        stand side by side on one fret."""
        key = (fret, position, slack, chord)
        crowd = self.hand.crowd_chord_mm if chord else self.hand.crowd_mm
        found = self._fingers.get(key)
        if found is None:
            deviations = [(g, self.geometry.deviation_mm(g, fret, position)) for g in (1, 2, 3, 4)]
            found = self._fingers[key] = tuple(
                g
                for g, d in deviations
                # closing up by a fret is always within a hand
                if (
                    -crowd[g - 1] * slack <= d
                    or (g > 1 and not chord and fret == self.geometry.fret_of(g, position) - 1)
                )
                and d <= self.hand.reach_mm[g - 1] * slack
            )
        return found

    def shapes(self, wanted: FrettingTask, where: str) -> tuple[Shape, ...]:
        """Every way of holding an event, the least strained first; DromicError, placed by `where`, if there is none."""
        assignments = list(self._assignments(wanted))
        if not assignments:
            raise DromicError(self._out_of_reach(wanted), where=where)
        for slack in (1.0, 1.6, 3.0):
            found: list[Shape] = []
            for places in assignments:
                found.extend(self._hold_all(places, wanted, slack))
            if found:
                found.sort(key=lambda s: s.strain)
                return tuple(found[:MOST_SHAPES]) if len(wanted.pitches) > 1 else tuple(found)
        names = " ".join(note_name(p) for p in wanted.pitches)
        raise DromicError(f"no hand shape reaches {names} together; leave a note out or free its position", where=where)

    def _out_of_reach(self, wanted: FrettingTask) -> str:
        for pitch in wanted.pitches:
            if not self.instrument.places_of(pitch):
                return (
                    f"the note {note_name(pitch)} lies outside the range of the {self.instrument.label} "
                    f"({self.instrument.range_names()}); transpose it or choose another instrument"
                )
        names = " ".join(note_name(p) for p in wanted.pitches)
        return f"{names} do not fit on separate strings of the {self.instrument.label}; leave a note out"

    def _assignments(self, wanted: FrettingTask) -> Iterator[tuple[tuple[int, int], ...]]:
        """Every way of laying the pitches on different strings, frets close enough for a hand."""
        options: list[list[tuple[int, int]]] = []
        for pitch, string, fret in zip(wanted.pitches, wanted.strings, wanted.frets, strict=True):
            places = self.instrument.places_of(pitch)
            options.append(
                [(s, f) for s, f in places if (string is None or s == string) and (fret is None or f == fret)]
            )

        def lay(index: int, laid: tuple[tuple[int, int], ...]) -> Iterator[tuple[tuple[int, int], ...]]:
            if index == len(options):
                yield laid
                return
            for string, fret in options[index]:
                if any(string == s for s, _ in laid):
                    continue
                frets = [f for _, f in (*laid, (string, fret)) if f]
                if frets and max(frets) - min(frets) > WIDEST_SPAN_FRETS and not wanted.tapped:
                    continue
                yield from lay(index + 1, (*laid, (string, fret)))

        return lay(0, ())

    def _hold_all(self, places: tuple[tuple[int, int], ...], wanted: FrettingTask, slack: float) -> Iterator[Shape]:
        """Every way of holding an event and as much as can be of what goes on sounding, and the event alone."""
        held = tuple(h for h in wanted.held if h[0] not in {s for s, _ in places})
        for count in range(len(held), 0, -1):
            price = self.hand.cut_price * (len(held) - count)
            found = [s for some in combinations(held, count) for s in self._hold_with(places, some, wanted, slack)]
            yield from (replace(shape, strain=shape.strain + price) for shape in found)
            if found:
                break
        price = self.hand.cut_price * len(held)
        yield from (replace(s, strain=s.strain + price) if price else s for s in self._hold(places, wanted, slack))

    def _hold_with(
        self,
        places: tuple[tuple[int, int], ...],
        held: tuple[tuple[int, int], ...],
        wanted: FrettingTask,
        slack: float,
    ) -> Iterator[Shape]:
        """Every way of holding an event together with notes from before."""
        fingers = (*wanted.fingers, *(None for _ in held))
        together = replace(wanted, fingers=fingers, held=())
        for shape in self._hold((*places, *held), together, slack):
            at = len(places)
            yield replace(shape, notes=shape.notes[:at], held=shape.notes[at:])

    def _hold(self, places: tuple[tuple[int, int], ...], wanted: FrettingTask, slack: float) -> Iterator[Shape]:
        fretted = [(s, f) for s, f in places if f and not wanted.tapped]
        if not fretted:
            if any(finger for finger in wanted.fingers):
                return
            yield Shape(tuple(HeldNote(s, f, 0) for s, f in places), 0, 0.0, 0.0, 0.0)
            return
        if len(places) == 1:
            (string, fret), kept_finger = places[0], wanted.fingers[0]
            for shape in self._lone_shapes(fret, wanted.first_position, slack):
                finger = shape.notes[0].finger
                if kept_finger and finger != kept_finger:
                    continue
                extra = self._ornament(wanted, 0, finger)
                if wanted.usual and finger != wanted.usual:
                    extra += self.hand.reshape_price
                # written out, being made so often
                yield Shape(
                    (HeldNote(string, fret, finger),), shape.position, shape.strain + extra, shape.stretch_mm, shape.crowd_mm
                )  # fmt: skip
            for position in self._positions(fret) if self.thumb and not any(wanted.bends) else ():
                for finger in self._thumb(string, fret, position) if kept_finger in (None, 0, THUMB) else ():
                    yield self._shape((HeldNote(string, fret, finger),), position, wanted.first_position)
            return
        kept = {s: finger for (s, _), finger in zip(places, wanted.fingers, strict=True) if finger}
        order = sorted(fretted, key=lambda p: (p[1], -p[0]))
        top = order[-1][1]
        for position in self._positions(order[0][1]):
            if top - position > WIDEST_SPAN_FRETS + 1:
                continue
            for fingers in self._finger_choices(order, position, slack):
                if any(kept.get(s, g) != g for (s, _), g in zip(order, fingers, strict=True)):
                    continue
                by_string = {s: g for (s, _), g in zip(order, fingers, strict=True)}
                notes = tuple(HeldNote(s, f, by_string.get(s, 0)) for s, f in places)
                extra = sum(self._ornament(wanted, n, note.finger) for n, note in enumerate(notes))
                if _barres_lie_free(notes):
                    shape = self._shape(notes, position, wanted.first_position, wanted.dead)
                    yield replace(shape, strain=shape.strain + extra) if extra else shape

    def _ornament(self, wanted: FrettingTask, note: int, finger: int) -> float:
        """What a bend or vibrato of a note asks of its finger; the thumb can do neither."""
        bend = wanted.bends[note] if note < len(wanted.bends) else 0.0
        shaken = note < len(wanted.vibrato) and wanted.vibrato[note]
        if not finger or not (bend or shaken):
            return 0.0
        if finger == THUMB:
            return np.inf
        return self.hand.bend_prices[finger - 1] * bend + (self.hand.vibrato_prices[finger - 1] if shaken else 0.0)

    def _positions(self, lowest_fret: int) -> range:
        """Positions from which a hand may hold a shape with this lowest fret."""
        return range(max(1, lowest_fret - 6), min(lowest_fret + 1, self.instrument.highest_fret) + 1)

    def _lone_shapes(self, fret: int, first_position: int, slack: float) -> tuple[Shape, ...]:
        """Every finger and position for one note at a fret, whatever its string."""
        key = (fret, first_position, slack)
        return self._lone.get(
            key,
            lambda: tuple(
                self._shape((HeldNote(0, fret, finger),), position, first_position)
                for position in self._positions(fret)
                for finger in self._reaching(fret, position, slack)
            ),
            lambda shapes: SHAPE_BYTES * len(shapes),
        )

    def _finger_choices(self, order: list[tuple[int, int]], position: int, slack: float) -> Iterator[tuple[int, ...]]:
        """Fingers for notes sorted by fret: never crossing, one finger over several strings only at one fret."""

        def choose(index: int, chosen: tuple[int, ...]) -> Iterator[tuple[int, ...]]:
            if index == len(order):
                yield chosen
                return
            string, fret = order[index]
            lowest = max((c for c in chosen if c != THUMB), default=1)
            if THUMB not in chosen:
                for finger in self._thumb(string, fret, position):
                    yield from choose(index + 1, (*chosen, finger))
            for finger in self._reaching(fret, position, slack, chord=True):
                same = chosen and finger == chosen[-1]
                if finger >= lowest and not (same and order[index - 1][1] != fret):
                    yield from choose(index + 1, (*chosen, finger))

        return choose(0, ())

    def _off_line(self, notes: tuple[HeldNote, ...]) -> float:
        """What it costs that the fingers' tips are off the line in which the hand lies across the strings."""
        tips = _tips(notes)
        if len(tips) < 2:
            return 0.0
        off = [-string - self.hand.tip_step_strings * (finger - 1) for finger, string in tips.items()]
        middle = sum(off) / len(off)
        return self.hand.off_line_price * sum((o - middle) ** 2 for o in off)

    def _shape(self, notes: tuple[HeldNote, ...], position: int, first_position: int, touching: bool = False) -> Shape:
        hand = self.hand
        light = hand.touch_share if touching else 1.0
        strain = stretch = crowd = 0.0
        settled = {n.fret for n in notes if n.finger == n.fret}
        for finger, fret in sorted({(n.finger, n.fret) for n in notes if n.finger}):
            deviation = self.geometry.deviation_mm(finger, fret, position)
            price = hand.stretch_price if deviation > 0 else hand.crowd_price
            strain += price * (deviation / hand.stretch_unit_mm) ** 2
            if finger == THUMB:
                strain += hand.thumb_price
            else:
                reached = fret - self.geometry.fret_of(finger, position)
                strain += hand.support_price * (finger == 3 and position < self.geometry.three_below)
                habit = hand.index_off_price if finger == 1 else hand.one_per_fret_price
                strain += habit * (reached if reached > 0 else -reached * (1.0 if finger == 1 else hand.closed_share))
            strain += hand.little_price * (finger == 4)
            strain += hand.neck_price * (fret - 1)
            strain += hand.body_price * max(0, fret + self.instrument.capo - self.instrument.body_fret)
            if finger != THUMB:
                flat = sum(n.finger == finger for n in notes)
                strain += light * hand.barre_prices[finger - 1] * (flat > 1)
                strain += light * hand.barre_string_price * max(0, flat - 2) * (finger > 1)
            stretch, crowd = max(stretch, deviation), max(crowd, -deviation)
            # in a chord one finger of a fret is enough, and the index may lie anywhere
            stray = position != 1 or finger != fret if len(notes) == 1 else fret not in settled
            if first_position == HABIT and stray and finger != THUMB:
                strain += hand.open_position_price
        if first_position == LEFT:
            strain += hand.open_position_price * sum(n.finger > 0 for n in notes)
        strain += self._off_line(notes)
        used = {n.finger for n in notes if 0 < n.finger < THUMB}
        more = sum(0 < n.finger < THUMB for n in notes) - len(used)
        if 0 < more <= 4 - len(used) and _bridges(notes):
            strain += hand.spare_price
        for a, b in combinations(sorted({(n.finger, n.fret) for n in notes if 0 < n.finger < THUMB}), 2):
            strain += float(self.geometry.spread_prices[*a, *b])
        return Shape(notes, position, strain, max(stretch, 0.0), max(crowd, 0.0))


def _tips(notes: tuple[HeldNote, ...]) -> dict[int, int]:
    """The lowest string under each finger, where its tip is."""
    tips: dict[int, int] = {}
    for note in notes:
        if 0 < note.finger < THUMB:
            tips[note.finger] = max(tips.get(note.finger, 0), note.string)
    return tips


def _bridges(notes: tuple[HeldNote, ...]) -> bool:
    """Whether a flat finger passes over a string it does not sound."""
    for finger in {n.finger for n in notes if 0 < n.finger < THUMB}:
        strings = [n.string for n in notes if n.finger == finger]
        if max(strings) - min(strings) >= len(strings):
            return True
    return False


def _barres_lie_free(notes: tuple[HeldNote, ...]) -> bool:
    """No string under a flat finger may need a lower fret."""
    for a, b in combinations([n for n in notes if n.finger], 2):
        if a.finger == b.finger:
            between = range(min(a.string, b.string), max(a.string, b.string) + 1)
            if any(n.string in between and n.fret < a.fret for n in notes):
                return False
    return True

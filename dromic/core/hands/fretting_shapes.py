"""Where the fretting hand can be for each event: strings, frets, fingers and hand positions, with what each strains.

A node is one way of holding one event. An event sounded with no finger of this hand (open strings, taps) keeps what
the hand remembers: its position and the event that last needed it, so that a shift across open strings has the whole
gap. Lengths are mm along the neck. Optimum fingering as a shortest path: Sayegh, Computer Music Journal 13(3), 1989.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from itertools import combinations
from typing import Any

import numpy as np

from dromic.core.hands.fretting_nodes import FrettingNodes, HeldNote, Shape, as_arrays
from dromic.core.hands.hand_geometry import THUMB, hand_geometry
from dromic.core.hands.shape_facts import FrettingTask, ShapeFacts, barres_lie_free
from dromic.core.prices.facts import FIGURE, SHAPE
from dromic.core.prices.row import PRICE, PriceList
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import FrettingHand
from dromic.core.values.arrays import Floats
from dromic.core.values.errors import DromicError
from dromic.core.values.memo import Memo
from dromic.core.values.pitch import note_name

MOST_SHAPES = 60
_MOST_MB = 24.0
"""of shapes kept for one hand on one instrument"""
WIDEST_SPAN_FRETS = 7


class Fretting:
    """Builds node sets for one instrument and one hand, each wish worked out once."""

    def __init__(
        self,
        instrument: Instrument,
        hand: FrettingHand,
        prices: PriceList,
        numbers: Mapping[str, Any],
        thumb: bool = False,
        bass_hand: str = "each",
    ) -> None:
        """`numbers` are those that the rows of the list about shapes read."""
        self.instrument, self.hand, self.prices, self.numbers, self.thumb = instrument, hand, prices, numbers, thumb
        self.geometry = hand_geometry(instrument, hand, bass_hand)
        self._fingers: dict[tuple[int, int, float, bool], tuple[int, ...]] = {}
        self._wholes: Memo[FrettingNodes] = Memo(_MOST_MB)
        self._nodes: Memo[FrettingNodes] = Memo(_MOST_MB)

    def whole(self, wanted: FrettingTask, where: Callable[[], str] = str) -> FrettingNodes:
        """The node set of an event, with every position a hand may remember where no finger is down; `where` tells its place for
        messages."""
        every = tuple(range(self.instrument.highest_fret + 1))
        return self._wholes.get(
            wanted,
            lambda: as_arrays(self.shapes(wanted, where()), every, wanted.in_row),
            lambda nodes: nodes.weight,
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

    def reaching(self, fret: int, position: int, slack: float = 1.0, chord: bool = False) -> tuple[int, ...]:
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
            held = [shape for places in assignments for shape in self._hold_all(places, wanted, slack)]
            if held:
                found = self._priced(held, wanted)
                found.sort(key=lambda s: s.strain)
                return tuple(found[:MOST_SHAPES]) if len(wanted.pitches) > 1 else tuple(found)
        names = " ".join(note_name(p) for p in wanted.pitches)
        raise DromicError(f"no hand shape reaches {names} together; leave a note out or free its position", where=where)

    def facts(self, shapes: list[Shape], wanted: FrettingTask) -> ShapeFacts:
        """What the price list reads of ways of holding an event."""
        return ShapeFacts(shapes, wanted, self.geometry, self.numbers)

    def _priced(self, shapes: list[Shape], wanted: FrettingTask) -> list[Shape]:
        """The same ways with what each strains."""
        facts = self.facts(shapes, wanted)
        strain: Floats = np.zeros(len(shapes))
        for about in (SHAPE, FIGURE):
            strain = strain + self.prices.total(about, PRICE, facts)
            strain = np.where(self.prices.permitted(about, facts), strain, np.inf)
        stretch, crowd = facts.past_mm.max(axis=1, initial=0.0), -facts.past_mm.min(axis=1, initial=0.0)
        numbers = zip(strain.tolist(), stretch.tolist(), crowd.tolist(), strict=True)
        return [Shape(s.notes, s.position, *told, s.held) for s, told in zip(shapes, numbers, strict=True)]

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
            found = [s for some in combinations(held, count) for s in self._hold_with(places, some, wanted, slack)]
            yield from found
            if found:
                break
        yield from self._hold(places, wanted, slack)

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
            if not any(finger for finger in wanted.fingers):
                yield _unpriced(tuple(HeldNote(s, f, 0) for s, f in places), 0)
            return
        if len(places) == 1:
            yield from self._lone(*places[0], wanted, slack)
            return
        kept = {s: finger for (s, _), finger in zip(places, wanted.fingers, strict=True) if finger}
        order = sorted(fretted, key=lambda p: (p[1], -p[0]))
        top = order[-1][1]
        for position in self.positions(order[0][1]):
            if top - position > WIDEST_SPAN_FRETS + 1:
                continue
            for fingers in self._finger_choices(order, position, slack):
                if any(kept.get(s, g) != g for (s, _), g in zip(order, fingers, strict=True)):
                    continue
                by_string = {s: g for (s, _), g in zip(order, fingers, strict=True)}
                notes = tuple(HeldNote(s, f, by_string.get(s, 0)) for s, f in places)
                if barres_lie_free(notes):
                    yield _unpriced(notes, position)

    def _lone(self, string: int, fret: int, wanted: FrettingTask, slack: float) -> Iterator[Shape]:
        """Every finger and position for one note."""
        kept = wanted.fingers[0]
        for position in self.positions(fret):
            for finger in self.reaching(fret, position, slack):
                if not kept or finger == kept:
                    yield _unpriced((HeldNote(string, fret, finger),), position)
        for position in self.positions(fret) if self.thumb and not any(wanted.bends) else ():
            for finger in self._thumb(string, fret, position) if kept in (None, 0, THUMB) else ():
                yield _unpriced((HeldNote(string, fret, finger),), position)

    def positions(self, lowest_fret: int) -> range:
        """Positions from which a hand may hold a shape with this lowest fret."""
        return range(max(1, lowest_fret - 6), min(lowest_fret + 1, self.instrument.highest_fret) + 1)

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
            for finger in self.reaching(fret, position, slack, chord=True):
                same = chosen and finger == chosen[-1]
                if finger >= lowest and not (same and order[index - 1][1] != fret):
                    yield from choose(index + 1, (*chosen, finger))

        return choose(0, ())


def _unpriced(notes: tuple[HeldNote, ...], position: int) -> Shape:
    return Shape(notes, position, 0.0, 0.0, 0.0)

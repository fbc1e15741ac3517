"""Where the fretting hand can be for each event: strings, frets, fingers and hand positions, with what each strains.

A node is one way of holding one event. An event sounded with no finger of this hand (open strings, taps) keeps what
the hand remembers: its position and the event that last needed it, so that a shift across open strings has the whole
gap. Lengths are mm along the neck. Optimum fingering as a shortest path: Sayegh, Computer Music Journal 13(3), 1989.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.hand_geometry import THUMB, hand_geometry
from dromic.core.setup.instrument import MAX_STRINGS, Instrument
from dromic.core.setup.player import FrettingHand
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.errors import DromicError
from dromic.core.values.memo import Memo
from dromic.core.values.pitch import note_name

MOST_SHAPES = 60
_MOST_MB = 24.0
"""of shapes kept for one hand on one instrument"""
_SHAPE_BYTES = 700.0
"""what one shape takes with its numbers in arrays, roughly"""
WIDEST_SPAN_FRETS = 7
FINGER_NAMES = ("0", "1", "2", "3", "4", "T")


NOT, HABIT, LEFT = range(3)
"""first position: the bar does not fit it; it is the habit; it would fit, but the places stated lie elsewhere, which
costs the same whichever fingers play them, so that keeping a place never makes a plan cheaper"""


@dataclass(frozen=True, slots=True)
class HeldNote:
    """One note of a shape: string, fret, finger (0 for open or tapped, 5 for the thumb)."""

    string: int
    fret: int
    finger: int


@dataclass(frozen=True, slots=True)
class Shape:
    """One way of holding an event at a hand position, with its strain and how far a finger is stretched."""

    notes: tuple[HeldNote, ...]
    position: int
    strain: float
    stretch_mm: float
    crowd_mm: float
    held: tuple[HeldNote, ...] = ()
    """notes from before that go on sounding under their fingers"""

    @property
    def strings(self) -> tuple[int, ...]:
        """The strings that sound, in the order of the notes."""
        if len(self.notes) == 1:
            return (self.notes[0].string,)
        return tuple(n.string for n in self.notes)

    @property
    def idle(self) -> bool:
        """Whether no finger of this hand is down."""
        return not any(n.finger for n in (*self.notes, *self.held))


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


@dataclass(frozen=True, eq=False)
class FrettingNodes:
    """The nodes of one event as arrays over K nodes, in order of their groups of strings.

    Per-finger arrays are [K, 5], the thumb last, 0 where the finger is not used. `memory` is -1 for a node that uses a finger, else
    the index of the remembered position it carries on. `whole` is the set with every position remembered, from which
    this one takes `rows`; it is None for such a set itself.
    """

    shapes: tuple[Shape, ...]
    groups: tuple[tuple[int, ...], ...]
    group: Ints
    position: Ints
    memory: Ints
    fret: Ints
    low: Ints
    high: Ints
    strain: Floats
    rows: Ints
    whole: FrettingNodes | None = None

    def carrying(self, remembered: tuple[int, ...]) -> FrettingNodes:
        """The part of a whole set that a hand arriving with these positions can be in."""
        if not self.any_idle:
            return self
        rows: list[int] = []
        memory: list[int] = []
        for row, position in enumerate(self.memory.tolist()):
            found = [-1] if position < 0 else [m for m, p in enumerate(remembered) if p == position]
            rows += [row] * len(found)
            memory += found
        at = np.array(rows, dtype=np.int64)
        return FrettingNodes(
            tuple(self.shapes[r] for r in rows), self.groups, self.group[at], self.position[at],
            np.array(memory, dtype=np.int64), self.fret[at], self.low[at], self.high[at], self.strain[at], at, self,
        )  # fmt: skip

    @property
    def weight(self) -> float:
        """Bytes it takes."""
        return _SHAPE_BYTES * len(self.shapes)

    @cached_property
    def idle(self) -> NDArray[np.bool_]:
        """Nodes in which no finger is down."""
        return np.asarray(self.memory >= 0)

    @cached_property
    def any_idle(self) -> bool:
        """Whether there is a node in which no finger is down."""
        return bool(self.idle.any())

    @cached_property
    def lone(self) -> bool:
        """Whether no node uses more than one finger."""
        return bool(((self.fret > 0).sum(axis=1) <= 1).all())

    @cached_property
    def starts(self) -> Ints:
        """[G]: the first node of every group."""
        return np.searchsorted(self.group, np.arange(len(self.groups)))

    @cached_property
    def one_start(self) -> Ints:
        """The same where all nodes are one group."""
        return np.zeros(1, dtype=np.int64)

    @cached_property
    def flat(self) -> NDArray[np.bool_]:
        """Nodes with a finger lying over several strings."""
        return np.asarray((self.low != self.high).any(axis=1))

    @cached_property
    def chord(self) -> NDArray[np.bool_]:
        """Nodes that hold several notes down at once."""
        return np.asarray(((self.fret > 0).sum(axis=1) > 1) | self.flat)

    @cached_property
    def single(self) -> Ints:
        """The finger (1..5) of a node that uses one finger only, else 0."""
        used = self.fret > 0
        return np.asarray(np.where(used.sum(axis=1) == 1, used.argmax(axis=1) + 1, 0))

    @cached_property
    def lead(self) -> Ints:
        """The finger of the one note that a node sounds, 0 where that is open or there are several."""
        return np.array([s.notes[0].finger if len(s.notes) == 1 else 0 for s in self.shapes], dtype=np.int64)

    @cached_property
    def pressed(self) -> tuple[Ints, Ints]:
        """[K, 10]: fret and finger on every string, by its number, of all that is down; fret -1 where nothing is."""
        return _on_strings([(*s.notes, *s.held) for s in self.shapes])

    @cached_property
    def holding(self) -> tuple[Ints, Ints] | None:
        """The same of what only goes on sounding; None where no node holds anything."""
        if not any(s.held for s in self.shapes):
            return None
        return _on_strings([s.held for s in self.shapes])

    @cached_property
    def top_fret(self) -> Ints:
        """[K]: the highest fret held, 0 for none."""
        return np.asarray(self.fret.max(axis=1))

    @cached_property
    def stretch_mm(self) -> Floats:
        """[K]: how far the fingers are from their relaxed places, in mm."""
        return np.array([s.stretch_mm for s in self.shapes])

    @cached_property
    def figure(self) -> tuple[Ints, Ints]:
        """[K] each: a number for the figure a node's stopped notes make, wherever it lies, and one for its fingers, the same
        for equal ones of every set; (0, 0) for nodes with fewer than two fingers' notes."""
        found = []
        for shape in self.shapes:
            notes = sorted((-n.string, n.fret, n.finger) for n in shape.notes if n.finger)
            if len(notes) < 2:
                found.append((0, 0))
                continue
            low, first = notes[0][0], notes[0][1]
            found.append((hash(tuple((s - low, f - first) for s, f, _ in notes)), hash(tuple(g for _, _, g in notes))))
        array = np.array(found, dtype=np.int64).reshape(-1, 2)
        return array[:, 0], array[:, 1]

    @cached_property
    def fingers(self) -> Ints:
        """[K, S]: the finger of every stopped note from the lowest string up, 0 for none."""
        rows = [[n.finger for n in sorted(s.notes, key=lambda n: -n.string) if n.finger] for s in self.shapes]
        most = max((len(r) for r in rows), default=0)
        return np.array([r + [0] * (most - len(r)) for r in rows], dtype=np.int64).reshape(len(rows), most)

    @cached_property
    def sounding(self) -> tuple[Ints, Ints]:
        """(string, fret) of a node with one note, (0, 0) for chords."""
        pairs = [(s.notes[0].string, s.notes[0].fret) if len(s.notes) == 1 else (0, 0) for s in self.shapes]
        array = np.array(pairs, dtype=np.int64).reshape(-1, 2)
        return array[:, 0], array[:, 1]

    @cached_property
    def by_string(self) -> tuple[Ints, Ints]:
        """[K, S]: the fret of every string, -1 where it is silent, and the finger on it."""
        strings = 1 + max((n.string for s in self.shapes for n in s.notes), default=0)
        fret, finger = np.full((len(self), strings), -1), np.zeros((len(self), strings), dtype=np.int64)
        for k, shape in enumerate(self.shapes):
            for note in shape.notes:
                fret[k, note.string], finger[k, note.string] = note.fret, note.finger
        return fret, finger

    def __len__(self) -> int:
        return len(self.shapes)


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
            wanted, lambda: _as_arrays(self.shapes(wanted, where), every), lambda nodes: nodes.weight
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
                g for g, d in deviations if -crowd[g - 1] * slack <= d <= self.hand.reach_mm[g - 1] * slack
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
                    shape = self._shape(notes, position, wanted.first_position)
                    yield replace(shape, strain=shape.strain + extra) if extra else shape

    def _ornament(self, wanted: FrettingTask, note: int, finger: int) -> float:
        """What a bend or vibrato of a note asks of its finger; the thumb can do neither."""
        bend = wanted.bends[note] if note < len(wanted.bends) else 0.0
        shaken = note < len(wanted.vibrato) and wanted.vibrato[note]
        if finger in (0, THUMB) or not (bend or shaken):
            return 0.0 if finger != THUMB or not (bend or shaken) else np.inf
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
            lambda shapes: _SHAPE_BYTES * len(shapes),
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

    def _slant(self, notes: tuple[HeldNote, ...]) -> float:
        """What it costs that the fingers' tips are off the line in which the hand lies across the strings."""
        tips = _tips(notes)
        if len(tips) < 2:
            return 0.0
        off = [-string - self.hand.slant_strings * (finger - 1) for finger, string in tips.items()]
        middle = sum(off) / len(off)
        return self.hand.slant_price * sum((o - middle) ** 2 for o in off)

    def _shape(self, notes: tuple[HeldNote, ...], position: int, first_position: int) -> Shape:
        hand = self.hand
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
                strain += hand.barre_prices[finger - 1] * (flat > 1)
                strain += hand.barre_string_price * max(0, flat - 2) * (finger > 1)
            stretch, crowd = max(stretch, deviation), max(crowd, -deviation)
            # in a chord one finger of a fret is enough, and the index may lie anywhere
            stray = position != 1 or finger != fret if len(notes) == 1 else fret not in settled
            if first_position == HABIT and stray and finger != THUMB:
                strain += hand.open_position_price
        if first_position == LEFT:
            strain += hand.open_position_price * sum(n.finger > 0 for n in notes)
        strain += self._slant(notes)
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


def _on_strings(notes: Sequence[tuple[HeldNote, ...]]) -> tuple[Ints, Ints]:
    fret, finger = np.full((len(notes), MAX_STRINGS + 1), -1), np.zeros((len(notes), MAX_STRINGS + 1), dtype=np.int64)
    for k, some in enumerate(notes):
        for note in some:
            fret[k, note.string], finger[k, note.string] = note.fret, note.finger
    return fret, finger


def _as_arrays(shapes: tuple[Shape, ...], remembered: tuple[int, ...]) -> FrettingNodes:
    held: list[Shape] = []
    memory: list[int] = []
    for shape in shapes:
        if shape.idle:
            held.extend(replace(shape, position=position) for position in remembered)
            memory.extend(range(len(remembered)))
        else:
            held.append(shape)
            memory.append(-1)
    order = sorted(range(len(held)), key=lambda i: held[i].strings)
    held, memory = [held[i] for i in order], [memory[i] for i in order]
    groups = tuple(sorted({s.strings for s in held}))
    number = {g: i for i, g in enumerate(groups)}
    rows = []
    for shape in held:
        fret, low, high = [0] * 5, [0] * 5, [0] * 5
        for note in (*shape.notes, *shape.held):
            if note.finger:
                at = note.finger - 1
                fret[at] = note.fret
                low[at] = min(low[at] or note.string, note.string)
                high[at] = max(high[at], note.string)
        rows.append(fret + low + high)
    table = np.array(rows, dtype=np.int64)
    return FrettingNodes(
        shapes=tuple(held),
        groups=groups,
        group=np.array([number[s.strings] for s in held], dtype=np.int64),
        position=np.array([s.position for s in held], dtype=np.int64),
        memory=np.array(memory, dtype=np.int64),
        fret=table[:, :5].copy(),
        low=table[:, 5:10].copy(),
        high=table[:, 10:].copy(),
        strain=np.array([s.strain for s in held]),
        rows=np.arange(len(held)),
    )

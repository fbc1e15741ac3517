"""One route through the layers, read: what sounds each event, with which strings, fingers and strokes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from dromic.core.hands.fretting_nodes import Shape
from dromic.core.hands.picking_states import PickingStates
from dromic.core.search.builder import Builder
from dromic.core.search.lattice import Layers
from dromic.core.search.minplus import State
from dromic.core.values.vocabulary import HAMMER, PICK, PINCH, PLUCK, PULL, SLIDE, SLUR


@dataclass(frozen=True, slots=True)
class Sound:
    """How one event is sounded. `sign` is the pick's stroke if it strikes, else 0; `begin` and `end` the first and
    last string it meets, as positions from the lowest string; `fingers` the bare fingers, lowest string first."""

    attack: str
    sign: int
    begin: int
    end: int
    lean: int
    fingers: tuple[int, ...]

    @property
    def picked(self) -> bool:
        """Whether the pick strikes."""
        return self.attack in (PICK, PINCH)


@dataclass(frozen=True, eq=False)
class Path:
    """One state of every layer."""

    layers: Layers
    states: tuple[State, ...]
    like: Path | None = None
    """a path of the same phrase whose readings hold wherever layers and states are the same"""

    @cached_property
    def asked_builder(self) -> Builder:
        """What makes the steps' costs at the tempo asked for."""
        builder = self.layers.builder
        return builder if builder.rhythm.asked is builder.rhythm else builder.at(builder.rhythm.asked)

    def shape(self, event: int) -> Shape:
        """How the fretting hand holds an event."""
        return self.layers.layers[event].fretting.shapes[self.states[event][0]]

    def place(self, event: int) -> tuple[PickingStates, int, int]:
        """(part, group, way) of the picking hand."""
        return self._places[event]

    @cached_property
    def _places(self) -> list[tuple[PickingStates, int, int]]:
        found = []
        for layer, (k, r) in zip(self.layers.layers, self.states, strict=True):
            part, way = layer.part_of(r)
            found.append((part, int(layer.fretting.group[k]) if part.grouped else 0, way))
        return found

    @cached_property
    def sounds(self) -> tuple[Sound, ...]:
        """How the picking hand sounds every event."""
        if self.like is None:
            return tuple(self._sound(i) for i in range(len(self.states)))
        read, before, same = self.like.sounds, self.layers.rhythm.before, self.same
        return tuple(
            read[i] if same[i] and (not i or same[before[i]]) else self._sound(i) for i in range(len(self.states))
        )

    @cached_property
    def same(self) -> list[bool]:
        """For each event whether it is in the same state as on the path this one is like."""
        like = self.like
        if like is None:
            return [False] * len(self.states)
        if self.layers is like.layers:
            return [a == b for a, b in zip(self.states, like.states, strict=True)]
        layers = zip(self.layers.layers, like.layers.layers, strict=True)
        return [a == b and x is y for a, b, (x, y) in zip(self.states, like.states, layers, strict=True)]

    def _sound(self, event: int) -> Sound:
        part, g, r = self.place(event)
        places = part.places
        attack = part.attack
        if attack == SLUR:
            attack = self._slur(event)
        fingers = part.fingers[r] if part.fingers else ()
        sign = int(places.sign[g, r]) if attack in (PICK, PINCH) else 0
        return Sound(attack, sign, int(places.begin[g, r]), int(places.end[g, r]), int(places.lean[g, r]), fingers)

    def _slur(self, event: int) -> str:
        """What a free slur has become."""
        before, now = self.shape(self.layers.rhythm.before[event]).notes[0], self.shape(event).notes[0]
        if before.finger == now.finger and now.finger:
            return SLIDE
        return HAMMER if now.fret > before.fret else PULL

    @cached_property
    def last_picked(self) -> tuple[int, ...]:
        """For each event the last one before it that the pick struck, -1 if none."""
        found = [-1] * len(self.states)
        for i, before in enumerate(self.layers.rhythm.before):
            if before >= 0:
                found[i] = before if self.sounds[before].picked else found[before]
        return tuple(found)

    @cached_property
    def needed(self) -> tuple[int, ...]:
        """For each event the last one before it for which the fretting hand was needed; the one before if none was."""
        found = [0] * len(self.states)
        for i, before in enumerate(self.layers.rhythm.before):
            if before >= 0:
                idle = self.shape(before).idle and self.layers.rhythm.before[before] >= 0
                found[i] = found[before] if idle else before
        return tuple(found)

    @cached_property
    def fingers_before(self) -> tuple[dict[int, int], ...]:
        """For each event, the last event before it that each bare finger plucked."""
        found: list[dict[int, int]] = [{} for _ in self.states]
        for i, before in enumerate(self.layers.rhythm.before):
            if before >= 0:
                own = self.sounds[before].fingers
                found[i] = {**found[before], **dict.fromkeys(own, before)} if own else found[before]
        return tuple(found)


def plucked(sound: Sound) -> bool:
    """Whether bare fingers sound an event, alone or beside the pick."""
    return sound.attack in (PLUCK, PINCH)

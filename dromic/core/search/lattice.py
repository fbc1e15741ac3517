"""Everything the search runs on: the nodes and ways of every event, and the costs of every step between them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dromic.core.hands.articulation_options import EventOptions, offers_of
from dromic.core.hands.fretting_moves import FrettingMoves
from dromic.core.hands.pick_moves import Picking
from dromic.core.hands.shape_facts import FrettingTask
from dromic.core.line.cells import usual_fingers
from dromic.core.line.first_position import first_positions, is_low
from dromic.core.line.held_notes import notes_held
from dromic.core.line.one_fret import goes_on_in_a_row
from dromic.core.plan.request import Request
from dromic.core.search.builder import Builder, Layer
from dromic.core.search.minplus import State, Step, forward, trace_back
from dromic.core.setup.pin import BARRE
from dromic.core.timing.pick_timing import Rhythm
from dromic.core.timing.playback_order import PlaybackOrder
from dromic.core.values.arrays import Floats
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import SLIDE, TAP

_TASK_BYTES = 500.0
"""What one event of a line takes whose usual fingers are kept, roughly."""


@dataclass(frozen=True, eq=False)
class Layers:
    """A request laid out for the search. `steps[i]` leads to layer i from the event played before; none leads to 0."""

    request: Request
    unit: str
    options: tuple[EventOptions, ...]
    wishes: tuple[FrettingTask, ...]
    layers: tuple[Layer, ...]
    start: Floats
    steps: tuple[Step | None, ...]
    builder: Builder

    @property
    def rhythm(self) -> Rhythm:
        """The times and order the steps were made with."""
        return self.builder.rhythm

    @property
    def frets(self) -> FrettingMoves:
        """The tables of fretting moves."""
        return self.builder.frets

    @property
    def picks(self) -> Picking:
        """The tables of pick moves."""
        return self.builder.picks

    @cached_property
    def onward(self) -> tuple[Step, ...]:
        """The steps to every layer but the first."""
        return tuple(s for s in self.steps if s is not None)

    def step_to(self, i: int) -> Step:
        """The step to an event from the one played before it; there is none to the first."""
        found = self.steps[i]
        assert found is not None
        return found


Masks = Mapping[int, NDArray[np.bool_] | Floats]
"""For some events, which states are open ([K, R] bool), or what being in each costs more."""


class MaskedLattice:
    """Layers as a net of steps, with some states closed."""

    def __init__(self, layers: Layers, masks: Masks | None = None, free_seams: bool = False) -> None:
        self.layers, self.free_seams = layers, free_seams
        self.playback: PlaybackOrder = layers.rhythm.playback
        self.masks: Masks = masks or {}

    def masked(self, event: int, costs: Floats) -> Floats:
        """Costs [K, R] of an event with its closed states at infinity, or with what its mask adds."""
        mask = self.masks.get(event)
        if mask is None:
            return costs
        return np.where(mask, costs, np.inf) if mask.dtype == np.bool_ else costs + mask

    def run(self, events: Sequence[int], first: Floats) -> list[Floats]:
        """Costs [K, R] of reaching the states of each of some events played one after the other, the first's given."""
        if not self.masks:
            return forward(first, self.steps(events))
        reached = [self.masked(events[0], first)]
        for event in events[1:]:
            reached.append(self.masked(event, self.layers.step_to(event).relax(reached[-1])))
        return reached

    def back(self, events: Sequence[int], reached: Sequence[Floats], last: State) -> list[State]:
        """The states along events played one after the other that lead to `last` most cheaply; `reached` holds [K, R] an event."""
        return trace_back(reached, self.steps(events), last)

    def steps(self, events: Sequence[int]) -> Sequence[Step]:
        """The steps between events played one after the other."""
        if self.playback.straight and len(events) == len(self.layers.layers):
            return self.layers.onward
        return [self.layers.step_to(e) for e in events[1:]]

    @cached_property
    def forward(self) -> list[Floats]:
        """Costs [K, R] of reaching the states of each event along the main way, seams left out."""
        return self.run(self.playback.main, self.layers.start)

    @cached_property
    def backward(self) -> list[Floats]:
        """Costs [K, R] from the states of each event along the main way to its end, seams left out; a state's own mask not
        counted."""
        main = self.playback.main
        after = [np.zeros_like(self.forward[-1])]
        for event in main[:0:-1]:
            after.append(self.layers.step_to(event).onward(self.masked(event, after[-1])))
        return after[::-1]

    def dead_end(self) -> int | None:
        """The first event on the main way that no state reaches, if any."""
        if self.forward[-1].min() < np.inf:
            return None
        for event, costs in zip(self.playback.main, self.forward, strict=True):
            if costs.min() == np.inf:
                return event
        return None


def lay_out(
    request: Request, unit: str, rhythm: Rhythm, progress: Progress | None = None, old: Layers | None = None,
    made: tuple[EventOptions, ...] | None = None, limit: float | None = None,
) -> Layers:  # fmt: skip
    """The layers of a request; what is the same as in `old` layers is taken over from them. `limit` is the ceiling of the plan of
    least work, which strokes with the beat may not lower much."""
    if made is None:
        made = offers_of(request, unit, rhythm)
    if old is not None and _differ_in_pins_alone(request, old, made, rhythm, limit):
        return replace(old, request=request)
    retimed = old is not None and old.request is request and old.options is made and old.rhythm.asked is rhythm.asked
    builder = old.builder.retimed(rhythm, limit) if old and retimed else Builder(request, unit, made, rhythm, limit)
    wishes = _same_wishes(request, made, old, builder) or tuple(_wishes(request, made, rhythm.before, builder.frets))
    near = _near_changes(builder, wishes, old)
    layers: list[Layer] = []
    steps: list[Step | None] = []
    start = np.zeros((0, 0))
    for i, wish in enumerate(wishes):
        if progress is not None and not progress(i / len(wishes)):
            raise Cancelled
        if i == 0:
            layer, start = builder.first(wish)
            layers.append(old.layers[0] if old is not None and layer.same_as(old.layers[0]) else layer)
            steps.append(None)
            continue
        source = rhythm.before[i]
        before = layers[source]
        kept = not retimed and (
            old is not None and before is old.layers[source] and (not near[i] or _same(old, builder, i, wish, before))
        )
        if kept and old is not None:
            layers.append(old.layers[i])
            steps.append(old.steps[i])
            continue
        if old and retimed and before is old.layers[source] and builder.timeless(old.layers[i]):
            layer = old.layers[i]
        else:
            layer = builder.after(i, before, wish)
            if old is not None and layer.same_as(old.layers[i]):
                layer = old.layers[i]
        layers.append(layer)
        steps.append(builder.step(i, source, before, layer))
    return Layers(request, unit, made, wishes, tuple(layers), start, tuple(steps), builder)


def _differ_in_pins_alone(
    request: Request, old: Layers, made: tuple[EventOptions, ...], rhythm: Rhythm, limit: float | None
) -> bool:
    """Whether old layers are a request's as well: pins close some of their states, and that is all."""
    return (
        old.rhythm is rhythm
        and old.builder.limit == limit
        and old.options == made
        and flat(old.request) == flat(request)
        and replace(old.request, pins=request.pins, overrides=request.overrides) == request
    )


def _same_wishes(
    request: Request, made: tuple[EventOptions, ...], old: Layers | None, builder: Builder
) -> tuple[FrettingTask, ...] | None:
    """The wishes of old layers, where they ask the same of the fretting hand."""
    if old is not None and old.request is request and old.options is made:
        return old.wishes
    if old is None or old.request.phrase is not request.phrase or old.request.keep != request.keep:
        return None
    tapped = all((a.attacks == (TAP,)) == (b.attacks == (TAP,)) for a, b in zip(made, old.options, strict=True))
    if flat(old.request) != flat(request):
        return None
    alike = old.request.instrument == request.instrument and old.builder.frets is builder.frets
    return old.wishes if tapped and alike else None


def _near_changes(builder: Builder, wishes: tuple[FrettingTask, ...], old: Layers | None) -> list[bool]:
    """For every event whether something near enough to matter to its step is not as in the old layers: the swing looks
    no farther than a beat past the gap before it."""
    count = len(wishes)
    if old is None or old.rhythm is not builder.rhythm or wishes is not old.wishes:
        return [True] * count
    near = [False] * count
    pairs = zip(builder.offers, old.options, builder.floors, old.builder.floors, strict=True)
    for changed in (i for i, (a, b, c, d) in enumerate(pairs) if a != b or c != d):
        around = builder.rhythm.near(changed)
        low, high = builder.rhythm.near(max(around.start - 1, 0)).start, builder.rhythm.near(around.stop - 1).stop
        near[low : high + 1] = [True] * len(near[low : high + 1])
    return near


def _same(old: Layers, builder: Builder, i: int, wish: FrettingTask, before: Layer) -> bool:
    """Whether the step to event i is as it was in the old layers."""
    return (
        wish == old.wishes[i]
        and builder.offers[i] == old.options[i]
        and builder.event_facts(i, before) == old.builder.event_facts(i, before)
    )


def _wishes(
    request: Request, made: Sequence[EventOptions], before: Sequence[int], frets: FrettingMoves
) -> list[FrettingTask]:
    positions, fingers = "positions" in request.keep, "fingers" in request.keep
    first, low = first_positions(request), is_low(request)
    held = notes_held(request.phrase, before, flat(request)) if positions else [()] * len(request.phrase.events)
    in_row = goes_on_in_a_row(request.phrase) if positions else [False] * len(held)
    tasks = [
        FrettingTask(
            pitches=tuple(n.pitch for n in event.notes),
            strings=tuple(n.string if positions else None for n in event.notes),
            frets=tuple(n.fret if positions else None for n in event.notes),
            fingers=tuple("01234T".index(n.finger) if fingers and n.finger else None for n in event.notes),
            tapped=offer.attacks == (TAP,),
            first_position=first[event.bar],
            low_tune=low,
            bends=tuple(n.bend for n in event.notes),
            vibrato=tuple("vibrato" in n.marks for n in event.notes),
            held=ringing if offer.attacks != (TAP,) else (),
            in_row=rowed,
            dead=len(event.notes) > 1 and all("dead" in n.marks for n in event.notes),
        )
        for event, offer, ringing, rowed in zip(request.phrase.events, made, held, in_row, strict=True)
    ]
    if not positions:
        return tasks
    slid = [event.notes[0].attack == SLIDE for event in request.phrase.events]
    usual = frets.cells.get(
        (*tasks, *slid), lambda: usual_fingers(tasks, slid, frets), lambda found: _TASK_BYTES * len(found)
    )
    return [replace(task, usual=fingers) if fingers else task for task, fingers in zip(tasks, usual, strict=True)]


def flat(request: Request) -> frozenset[int]:
    """The events that are pinned to lie under a flat finger with their neighbours."""
    return frozenset(pin.event for pin in request.pins if pin.field == BARRE and pin.value == "yes")


def check_positions(request: Request) -> None:
    """Refuse kept positions that lie off the instrument, before any work."""
    strings = request.instrument.strings
    if "positions" not in request.keep:
        return
    for event in request.phrase.events:
        for note in event.notes:
            if note.string is not None and note.string > strings:
                raise DromicError(
                    f"string {note.string} does not exist on the {request.instrument.label} with its {strings} "
                    "strings; choose another instrument or keep no positions",
                    where=f"bar {request.phrase.bars[event.bar].number}",
                )

"""Everything the search runs on: the nodes and ways of every event, and the costs of every step between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from dromic.core.hands.articulation_options import EventOptions, articulation_options, with_natural_fingers
from dromic.core.hands.fretting_moves import FrettingMoves
from dromic.core.hands.pick_moves import Picking
from dromic.core.hands.shape_facts import FrettingTask
from dromic.core.line.cells import usual_fingers
from dromic.core.line.first_position import first_positions, is_low
from dromic.core.line.held_notes import notes_held
from dromic.core.line.one_fret import goes_on_in_a_row
from dromic.core.plan.request import Request
from dromic.core.search.builder import Builder, Layer
from dromic.core.search.minplus import Step
from dromic.core.setup.pin import BARRE
from dromic.core.timing.pick_timing import Rhythm
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


def lay_out(
    request: Request, unit: str, rhythm: Rhythm, progress: Progress | None = None, old: Layers | None = None,
    made: tuple[EventOptions, ...] | None = None, limit: float | None = None,
) -> Layers:  # fmt: skip
    """The layers of a request; what is the same as in `old` layers is taken over from them. `limit` is the ceiling of the plan of
    least work, which strokes with the beat may not lower much."""
    if made is None:
        made = with_natural_fingers(request, articulation_options(request, unit, rhythm), rhythm)
    builder = Builder(request, unit, made, rhythm, limit)
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
        kept = (
            old is not None and before is old.layers[source] and (not near[i] or _same(old, builder, i, wish, before))
        )
        if kept and old is not None:
            layers.append(old.layers[i])
            steps.append(old.steps[i])
            continue
        layer = builder.after(i, before, wish)
        if old is not None and layer.same_as(old.layers[i]):
            layer = old.layers[i]
        layers.append(layer)
        steps.append(builder.step(i, source, before, layer))
    return Layers(request, unit, made, wishes, tuple(layers), start, tuple(steps), builder)


def _same_wishes(
    request: Request, made: tuple[EventOptions, ...], old: Layers | None, builder: Builder
) -> tuple[FrettingTask, ...] | None:
    """The wishes of old layers, where they ask the same of the fretting hand."""
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

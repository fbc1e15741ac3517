"""Everything the search runs on: the nodes and ways of every event, and the costs of every step between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np

from dromic.core.hands.articulation_options import EventOptions, articulation_options, with_natural_fingers
from dromic.core.hands.beat_wishes import BeatWishes
from dromic.core.hands.fretting_moves import SILENT, STAY, FrettingMoves, fretting_moves
from dromic.core.hands.fretting_nodes import FrettingNodes
from dromic.core.hands.fretting_shapes import HABIT, LEFT, NOT, Fretting, FrettingTask
from dromic.core.hands.held_notes import notes_held
from dromic.core.hands.moved_figures import usual_fingers
from dromic.core.hands.pick_moves import Picking
from dromic.core.hands.picking_costs import Jump, PickCosts, load_floors
from dromic.core.hands.picking_states import MemoryTable, PickingStateFactory, PickingStates, unstruck
from dromic.core.music.phrase import Phrase
from dromic.core.plan.request import Request
from dromic.core.search.minplus import Gather, Leg, Plain, Step, gather, leg
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Player
from dromic.core.timing.pick_timing import Rhythm
from dromic.core.timing.playback_order import RepeatJump
from dromic.core.values.arrays import Floats, Ints
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import HAMMER_NEW, PICK, PINCH, PLUCK, SLIDE, TAP

FADED = -1
_OPEN_POSITION_TOP = 4


@dataclass(frozen=True, eq=False)
class Layer:
    """One event: nodes of the fretting hand, parts of the picking hand, and for each node the event that last needed
    the fretting hand (FADED where that is longer ago than it remembers)."""

    fretting: FrettingNodes
    parts: tuple[PickingStates, ...]
    ages: Ints

    @property
    def ways(self) -> int:
        """R, the number of picking states."""
        return self.parts[-1].first + self.parts[-1].ways

    @cached_property
    def all_now(self) -> bool:
        """Whether every node needed the fretting hand at one and the same event."""
        return bool((self.ages == self.ages[0]).all())

    def part_of(self, way: int) -> tuple[PickingStates, int]:
        """The part a way belongs to, and its number there."""
        part = next(p for p in self.parts if way < p.first + p.ways)
        return part, way - part.first

    def same_as(self, other: Layer) -> bool:
        """Whether two layers hold the very same states."""
        return (
            self.fretting is other.fretting
            and len(self.parts) == len(other.parts)
            and all(a is b for a, b in zip(self.parts, other.parts, strict=True))
            and np.array_equal(self.ages, other.ages)
        )


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


class Builder:
    """Makes layers and steps from the moves of both hands and the time the music gives."""

    def __init__(
        self, request: Request, unit: str, made: tuple[EventOptions, ...], rhythm: Rhythm, limit: float | None = None
    ) -> None:
        player, instrument = request.player, request.instrument
        self.request, self.offers, self.rhythm, self.limit = request, made, rhythm, limit
        self.player = player
        habits = player.habits
        self.frets = fretting_moves(instrument, player.fretting, habits.same_fret, habits.thumb, habits.bass_hand)
        self.picks = picking_hand(player, instrument, request.rest_through)
        self.ways = ways_of(player, instrument.strings, request.school.one_motion).offered(made, rhythm)
        self.floors = load_floors(rhythm.phrase, player.picking, rhythm.ms, made)
        self.beats = BeatWishes(request, unit, made, rhythm, limit)
        self.costs = PickCosts(request, self.ways, self.picks, self.floors, self.beats)
        self._steps: dict[object, Step] = {}
        self._held: tuple[int, MemoryTable | None] = (-1, None)

    def first(self, wish: FrettingTask) -> tuple[Layer, Floats]:
        """The layer of the first event and what starting in each of its states costs."""
        fretting = self.frets.fretting
        left = fretting.carrying(wish, fretting.whole(wish, where(self.request.phrase, 0)), (0,))
        nothing = self.ways.nothing()
        parts = self.ways.after(0, nothing, self.ways.held(0, nothing), left.groups)
        ages = np.where(left.idle, FADED, 0)
        judging = self.player.judging
        columns = []
        for part in parts:
            free = part.places.sign.min() < 0 < part.places.sign.max()
            up = judging.start_up_price if free else 0.0
            if self.request.school.plucks == "hybrid":
                up = self.player.picking.up_after_pluck_price
            cost = part.price + np.where(part.places.sign < 0, up, 0.0)
            if part.attack in (PICK, PINCH):
                cost = cost + self.costs.loudness(self.offers[0], part) + self.beats.first(part.places.sign)
            if part.fingers and self.offers[0].in_turn:
                # fingers that take turns begin with the first of them
                leads = np.array([f[:1] == self.offers[0].fingers[:1] for f in part.fingers])
                cost = cost + np.where(leads, 0.0, judging.start_up_price)
            if part.arrival.any():
                cost = cost + np.where(part.arrival > 0, np.inf, 0.0)
            columns.append(cost[left.group if part.grouped else np.zeros_like(left.group)])
        start = judging.fretting_weight * left.strain[:, None] + np.concatenate(columns, axis=1)
        return Layer(left, parts, ages), start

    def after(self, i: int, before: Layer, wish: FrettingTask) -> Layer:
        """The layer of event i, coming from the event played before it."""
        left = self.frets.fretting.whole(wish, where(self.request.phrase, i))
        ages = np.full(len(left), i)
        if left.any_idle:
            faded = self.fade(before, i)
            pairs = sorted(set(zip(before.fretting.position.tolist(), faded.tolist(), strict=True)))
            left = self.frets.fretting.carrying(wish, left, tuple(p for p, _ in pairs))
            ages = np.where(left.idle, np.array([a for _, a in pairs])[left.memory], i)
        return Layer(left, self.ways.after(i, before.parts, self.held(i, before), left.groups), ages)

    def held(self, i: int, before: Layer) -> MemoryTable | None:
        """What the picking hand remembers of the layer before event i."""
        if self._held[0] != i:
            self._held = i, self.ways.held(i, before.parts)
        return self._held[1]

    def fade(self, before: Layer, i: int) -> Ints:
        """For each node before event i the event that last needed the hand, FADED where it no longer remembers."""
        limit = self.player.judging.memory_ms
        found = before.ages.copy()
        for event in set(before.ages.tolist()):
            if event >= 0 and self.rhythm.gap_ms(event, i) > limit:
                found[before.ages == event] = FADED
        return found

    def available(self, i: int, before: Layer, jump: Jump | None = None) -> Floats:
        """Time in ms the fretting hand has for event i, for each node before it."""
        gap = jump.ms if jump is not None else self.rhythm.step_ms(i)
        found = np.full(len(before.fretting), gap)
        source = jump.source if jump is not None else self.rhythm.before[i]
        if before.all_now and before.ages[0] == source:
            return found
        for event in set(before.ages.tolist()):
            since = self.player.judging.memory_ms if event < 0 else self.rhythm.gap_ms(event, source)
            found[before.ages == event] = gap + since
        return found

    def busy_ms(self, source: int, event: int) -> float:
        """Time that bending takes from the gap between two events: up in the first, and down again, and before the second
        where that is bent already and was not yet."""
        before, after = self.request.phrase.events[source], self.request.phrase.events[event]
        held = {(n.string, n.pitch, n.bend) for n in before.notes if "release" not in n.marks}
        up = max(n.bend * (("prebend" not in n.marks) + ("release" in n.marks)) for n in before.notes)
        fresh = [n.bend for n in after.notes if "prebend" in n.marks and (n.string, n.pitch, n.bend) not in held]
        return self.player.fretting.bend_ms * (up + max(fresh, default=0.0))

    def step(self, i: int, source: int, before: Layer, after: Layer, jump: Jump | None = None) -> Step:
        """Costs from every state of one layer to every state of the layer of event i; what recurs is worked out once."""
        if jump is not None or self.ways.remembers or after.fretting.any_idle:
            return self._step(i, source, before, after, jump)
        offer = self.offers[i]
        key = (
            id(before.fretting), id(after.fretting), *(id(p) for p in (*before.parts, *after.parts)),
            self.available(i, before).tobytes(), self.rhythm.step_ms(i), tuple(self.swing(i, before)),
            self.floors[i], self.busy_ms(source, i), offer.accent, offer.leads, offer.forced, offer.slid,
            self.beats.wished[i], offer.graced,
        )  # fmt: skip
        found = self._steps.get(key)
        if found is None:
            found = self._steps[key] = self._step(i, source, before, after, None)
        return found

    def swing(self, i: int, before: Layer) -> list[tuple[float, int | None, bool]]:
        """How the swing stands at event i for every time the pick may last have struck: how long ago, against what
        phase, and whether it has rested since."""
        found = []
        lone = before.parts[0].lone_ago if len(before.parts) == 1 else None
        agos = [lone] if lone is not None else sorted({a for part in before.parts for a in part.ago.ravel().tolist()})
        for ago in (a for a in agos if a >= 0):
            since = self.ways.event_ago(i, ago)
            if since >= 0:
                gap = self.rhythm.gap_ms(since, i)
                found.append((gap, self.costs.parity_of(since, i), self.rhythm.rested(since, i)))
        return found

    def _step(self, i: int, source: int, before: Layer, after: Layer, jump: Jump | None) -> Step:
        available = self.available(i, before, jump)
        gap = jump.ms if jump is not None else self.rhythm.step_ms(i)
        knot_load = self.player.judging.knot_ms / gap
        closed = None
        if after.fretting.any_idle and jump is None:
            # a node with no finger down carries on what the hand remembers, and nothing else
            stale = self.fade(before, i)[:, None] != after.ages[None, :]
            closed = after.fretting.idle[None, :] & (
                stale | (before.fretting.position[:, None] != after.fretting.position[None, :])
            )
        held = self.held(i, before) if jump is None else self.ways.held_over(before.parts)
        carried = held is not None or (jump is None and unstruck(after.parts[0].attack))
        joint = _joint(before, held) if carried else None
        legs = [
            self._leg(i, source, part, before, after, held, available, knot_load, closed, jump) for part in after.parts
        ]
        sources = before.ways if joint is None else joint.slots.shape[1]
        return Step(tuple(legs), len(before.fretting), sources, joint)

    def _leg(
        self,
        i: int,
        source: int,
        part: PickingStates,
        before: Layer,
        after: Layer,
        held: MemoryTable | None,
        available: Floats,
        knot_load: float,
        closed: np.ndarray | None,
        jump: Jump | None,
    ) -> Leg | Plain:
        a, b = before.fretting, after.fretting
        moves = self.frets.between(a, b, self.bound(i, part.attack))
        busy = self.busy_ms(source, i)
        fret = moves.cost(available, self.player.fretting, self.player.judging, busy)
        if self.beats.limited:
            fret = fret + self.beats.past(moves.loads(available, busy))
        if closed is not None:
            fret = np.where(closed, np.inf, fret)
        elif b.any_idle:
            # over a seam the hand comes back to what it held at first while nothing of it sounds
            fret = np.where(b.idle[None, :], 0.0, fret)
        starts = b.starts if part.grouped else b.one_start
        if part.attack in (PICK, PINCH):
            pick = self._struck(i, part, before, held, knot_load, jump)
            return leg(part.first, fret, moves.by_group, starts, pick)
        if part.attack == PLUCK:
            assert held is not None
            fret = fret + self.player.judging.knot_price * knot_load * moves.non_trivial
            if jump is not None:
                over = self.costs.plucked_over(i, held.part, part, jump)
                return leg(part.first, fret, moves.by_group_alone, starts, over[:, None])
            cost = self.costs.plucked(i, held.part, part)
            return leg(part.first, fret, moves.by_group_alone, starts, cost[None, None], part.needs)
        needs = part.needs if jump is None else None
        sources = 1 if jump is None else len(held.memories) if held is not None else before.ways
        pick = np.broadcast_to(part.price, (sources, 1, 1, part.ways))
        return leg(part.first, fret, moves.in_one, starts, pick, needs)

    def _struck(
        self, i: int, part: PickingStates, before: Layer, held: MemoryTable | None, knot_load: float, jump: Jump | None
    ) -> Floats:
        """Costs [M, K' or 1, 2 G, R] of striking, without and with a knot."""
        source = before.parts[0] if held is None else held.part
        cost = np.concatenate(self.costs.struck(i, source, part, knot_load, jump), axis=2)
        if held is not None and jump is None and part.needs is not None:
            cost = np.where(held.same_plucks(part.needs)[None, :, None, :], cost, np.inf)
        if held is not None:
            return np.ascontiguousarray(cost.swapaxes(0, 1))
        rows = before.fretting.group if source.grouped else np.zeros_like(before.fretting.group)
        return np.ascontiguousarray(cost.take(rows, axis=0).swapaxes(0, 1))

    def seam(self, layers: Sequence[Layer], seam: RepeatJump, free: bool) -> Step:
        """The step over a seam, back to an event that has been reached before; `free` of the school's rule or not."""
        parity = self.costs.parity.over(seam.source, seam.target, seam.quarters)
        jump = Jump(seam.source, seam.ms, parity, free)
        return self.step(seam.target, seam.source, layers[seam.source], layers[seam.target], jump)

    def bound(self, i: int, attack: str) -> str:
        """What an attack of event i asks of the fretting hand's move."""
        if attack == PICK and self.request.school.one_stroke:
            return STAY
        if self.offers[i].slid and attack in (PICK, PINCH, PLUCK):
            return SLIDE
        return SILENT if attack == HAMMER_NEW and self.offers[i].chosen else attack


def _joint(before: Layer, held: MemoryTable | None) -> Gather:
    """The ways of a layer gathered by memory, or each place of the pick by itself where that is all there is."""
    groups = len(before.fretting.groups)
    if held is not None:
        numbers = np.concatenate(
            [np.broadcast_to(n, (groups, n.shape[1])) if len(n) == 1 else n for n in held.numbers], axis=1
        )
        return gather(numbers, before.fretting.group, len(held.memories))
    part = before.parts[0]
    numbers = np.arange(part.places.sign.size).reshape(part.places.sign.shape)
    rows = before.fretting.group if part.grouped else np.zeros_like(before.fretting.group)
    return gather(numbers, rows, part.places.sign.size)


@lru_cache(maxsize=8)
def picking_hand(player: Player, instrument: Instrument, rest_through: bool) -> Picking:
    """The moves of a player's picking hand on an instrument, kept from plan to plan."""
    return Picking(player, instrument, rest_through)


@lru_cache(maxsize=8)
def ways_of(player: Player, strings: int, one_motion: bool) -> PickingStateFactory:
    """The ways of a player's picking hand, before any phrase; those that recur are the same from plan to plan."""
    return PickingStateFactory(player, strings, one_motion)


def forget_hands() -> None:
    """Let go of what is kept from plan to plan of any hand; what is in use stays for as long as it is."""
    for kept in (picking_hand, ways_of, fretting_moves):
        kept.cache_clear()


def lay_out(
    request: Request, unit: str, rhythm: Rhythm, progress: Progress | None = None, old: Layers | None = None,
    made: tuple[EventOptions, ...] | None = None, limit: float | None = None,
) -> Layers:  # fmt: skip
    """The layers of a request; what is the same as in `old` layers is taken over from them. `limit` is the ceiling of the plan of
    least work, which strokes with the beat may not lower much."""
    if made is None:
        made = with_natural_fingers(request, articulation_options(request, unit, rhythm), rhythm)
    builder = Builder(request, unit, made, rhythm, limit)
    wishes = _same_wishes(request, made, old, builder) or tuple(
        _wishes(request, made, rhythm.before, builder.frets.fretting)
    )
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
        and builder.floors[i] == old.builder.floors[i]
        and builder.swing(i, before) == old.builder.swing(i, before)
    )


def where(phrase: Phrase, event: int) -> str:
    """The place of an event, for messages."""
    return f"bar {phrase.bars[phrase.events[event].bar].number}, note {event + 1}"


def _wishes(
    request: Request, made: Sequence[EventOptions], before: Sequence[int], fretting: Fretting
) -> list[FrettingTask]:
    positions, fingers = "positions" in request.keep, "fingers" in request.keep
    open_bars = _open_position_bars(request)
    left = _bars_elsewhere(request.phrase) if positions else set()
    held = notes_held(request.phrase, before) if positions else [()] * len(request.phrase.events)
    tasks = [
        FrettingTask(
            pitches=tuple(n.pitch for n in event.notes),
            strings=tuple(n.string if positions else None for n in event.notes),
            frets=tuple(n.fret if positions else None for n in event.notes),
            fingers=tuple("01234T".index(n.finger) if fingers and n.finger else None for n in event.notes),
            tapped=offer.attacks == (TAP,),
            first_position=NOT if event.bar not in open_bars else LEFT if event.bar in left else HABIT,
            bends=tuple(n.bend for n in event.notes),
            vibrato=tuple("vibrato" in n.marks for n in event.notes),
            held=ringing if offer.attacks != (TAP,) else (),
            dead=len(event.notes) > 1 and all("dead" in n.marks for n in event.notes),
        )
        for event, offer, ringing in zip(request.phrase.events, made, held, strict=True)
    ]
    usual = usual_fingers(tasks, fretting) if positions else [0] * len(tasks)
    return [replace(task, usual=finger) if finger else task for task, finger in zip(tasks, usual, strict=True)]


def _open_position_bars(request: Request) -> set[int]:
    """Bars that lie whole under fret 4 with an open string among them, so that first position is the habit.

    Told from the pitches alone: were it told from kept positions, keeping one could make a plan cheaper.
    """
    fits: dict[int, list[tuple[bool, bool]]] = {}
    known: dict[int, tuple[bool, bool]] = {}
    for event in request.phrase.events:
        for note in event.notes:
            if note.pitch not in known:
                frets = [f for s, f in request.instrument.places_of(note.pitch)]
                known[note.pitch] = min(frets, default=99) <= _OPEN_POSITION_TOP, 0 in frets
            fits.setdefault(event.bar, []).append(known[note.pitch])
    return {bar for bar, pairs in fits.items() if all(low for low, _ in pairs) and any(zero for _, zero in pairs)}


def _bars_elsewhere(phrase: Phrase) -> set[int]:
    """Bars whose stated places lie out of first position: beyond it, or all stated and without an open string."""
    frets: dict[int, list[int | None]] = {}
    for event in phrase.events:
        frets.setdefault(event.bar, []).extend(n.fret if n.string is not None else None for n in event.notes)
    return {
        bar
        for bar, stated in frets.items()
        if any(f is not None and f > _OPEN_POSITION_TOP for f in stated) or (None not in stated and 0 not in stated)
    }


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

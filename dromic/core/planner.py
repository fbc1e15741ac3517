"""From a request to a plan: build the layers, search both hands at once, judge the path.

The picking hand's part in each event is settled first (strokes.py); then the nodes of both hands, layer by layer, and
the costs of every step between layers; then the search; then loads, totals and findings of the path it found.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dromic.core import picking
from dromic.core.errors import DromicError
from dromic.core.findings import find
from dromic.core.fret_moves import IMPOSSIBLE, FrettingMoves, fretting_moves, load_price
from dromic.core.fretting import Floats, Ints, LeftNodes, Wanted
from dromic.core.judge import Path, judge
from dromic.core.phrase import HAMMER_NEW, PICK, PLUCK, TAP, UNSTRUCK, Phrase
from dromic.core.picking import Bools, Picking, RightNodes
from dromic.core.plan import Plan, Request
from dromic.core.search import Rest, Step, forward, step, trace
from dromic.core.strokes import Struck, pick_floors, pulse_unit, strike

Progress = Callable[[float], bool]
"""Called with the share done; answers whether to go on."""
OLD = -1
_OPEN_POSITION_TOP = 4
_MOST_CORRECTIONS = 8


class Cancelled(Exception):
    """The caller asked the planner to stop."""


@dataclass(frozen=True, eq=False)
class Layers:
    """Everything the search runs on: the nodes of both hands for every event and the steps between them."""

    left: tuple[LeftNodes, ...]
    right: tuple[RightNodes, ...]
    struck: tuple[Struck, ...]
    start: Floats
    steps: tuple[Step | Rest, ...]
    frets: FrettingMoves
    picks: Picking

    def strain(self, i: int, states: Sequence[tuple[int, int]]) -> float:
        """What the fretting hand's move to event i strains on a path."""
        moves = self.frets.between(self.left[i - 1], self.left[i], self.struck[i].attack)
        return float(moves.strain[states[i - 1][0], states[i][0]])


def plan(request: Request, progress: Progress | None = None) -> Plan:
    """The best plan for a request; DromicError where none exists, Cancelled if `progress` answers False."""
    check_request(request)
    phrase = request.phrase
    unit = pulse_unit(phrase, request.pulse, request.school)
    attacks = _attacks(request)
    said = list(phrase.said)
    for _ in range(_MOST_CORRECTIONS):
        layers = build_layers(request, attacks, unit, progress)
        done = forward(layers.start, layers.steps)
        if done.cost == np.inf:
            raise DromicError(_dead_end(request), where=where(phrase, done.dead_end()))
        states = trace(done, layers.steps)
        corrected, sentences = _possible(phrase, layers, states, attacks)
        if corrected == attacks:
            break
        attacks = corrected
        said.extend(sentences)
    path = Path(layers.left, layers.right, layers.struck, tuple(states), layers.frets, layers.picks)
    judged = judge(request, path)
    planned = Plan(request, unit, done.cost, *judged, findings=(), said=tuple(said))
    return replace(planned, findings=find(planned))


def check_request(request: Request) -> None:
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


def where(phrase: Phrase, event: int) -> str:
    """The place of an event, for messages."""
    return f"bar {phrase.bars[phrase.events[event].bar].number}, note {event + 1}"


def build_layers(request: Request, attacks: tuple[str, ...], unit: str, progress: Progress | None = None) -> Layers:
    """Nodes and step costs of every event."""
    phrase, player = request.phrase, request.player
    frets, picks = fretting_moves(request.instrument, player.fretting), Picking(player, request.instrument)
    struck = strike(phrase, attacks, request.school, unit, request.start, "strokes" in request.keep)
    builder = _StepBuilder(request, frets, picks, struck)
    left: list[LeftNodes] = []
    right: list[RightNodes] = []
    steps: list[Step | Rest] = []
    start = np.zeros((1, 1))
    memories: list[tuple[int, int]] = [(0, OLD)]
    ages = before_ages = np.zeros(0, dtype=np.int64)
    for i, wish in enumerate(_wishes(request, attacks)):
        if progress is not None and i % 64 == 0 and not progress(i / len(attacks)):
            raise Cancelled
        if i:
            memories = builder.memories(left[-1], ages, i)
        nodes = frets.fretting.nodes(wish, tuple(p for p, _ in memories), where(phrase, i))
        before_ages, ages = ages, np.where(nodes.idle, np.array([a for _, a in memories])[nodes.memory], i)
        before = right[-1] if right else picks.nothing
        hand = picks.struck(nodes.groups, struck[i].signs) if struck[i].signs else picks.remembered(before)
        if i == 0:
            begin = builder.start(struck[0], hand)
            start = nodes.strain[:, None] + begin[nodes.group if struck[0].signs else nodes.no_group]
        else:
            steps.append(builder.step(i, (left[-1], before_ages), (nodes, ages), before, hand))
        left.append(nodes)
        right.append(hand)
    return Layers(tuple(left), tuple(right), struck, start, tuple(steps), frets, picks)


Aged = tuple[LeftNodes, Ints]
"""Nodes, and for each the event that last needed the hand."""


class _StepBuilder:
    """Costs of steps between layers, from the moves of both hands and the time the music gives."""

    def __init__(self, request: Request, frets: FrettingMoves, picks: Picking, struck: Sequence[Struck]) -> None:
        self.player = request.player
        self.frets, self.picks, self.struck = frets, picks, struck
        self.ms = np.array([1000.0 * request.phrase.seconds_at(e.onset) for e in request.phrase.events])
        self.allowed = picking.allowed_table(request.school.allowed(request.skip_through))
        self.floors = pick_floors(request.phrase, request.player.picking, self.ms.tolist(), struck)

    def memories(self, nodes: LeftNodes, ages: Ints, event: int) -> list[tuple[int, int]]:
        """What the hand may remember after `nodes`, as (position, event that last needed it)."""
        return sorted(set(zip(nodes.position.tolist(), self._fade(ages, event).tolist(), strict=True)))

    def _fade(self, ages: Ints, event: int) -> Ints:
        """Events longer ago than a hand's memory all become OLD."""
        return np.where(self.ms[event] - self.ms[ages] > self.player.judging.memory_ms, OLD, ages)

    def step(self, i: int, before: Aged, after: Aged, pick_before: RightNodes, pick_after: RightNodes) -> Step | Rest:
        judging = self.player.judging
        (a, ages), (b, new_ages) = before, after
        moves = self.frets.between(a, b, self.struck[i].attack)
        gap = float(self.ms[i] - self.ms[i - 1])
        available = np.where(ages >= 0, self.ms[i] - self.ms[ages], judging.memory_ms + gap)
        fret = moves.cost(available, self.player.fretting.finger_ms, judging.dial, judging.over_price)
        if b.any_idle:
            fret[b.idle[None, :] & (self._fade(ages, i)[:, None] != new_ages[None, :])] = np.inf
        now = self.struck[i]
        knot = judging.knot_price * judging.knot_ms / gap
        source = a.group if self.struck[i - 1].signs else a.no_group
        if not now.signs:
            rest = float(load_price(np.array(self.floors[i]), judging.dial, judging.over_price))
            if now.attack == PLUCK:
                fret += knot * moves.non_trivial
            return Rest(fret + rest, source, pick_before.sign.shape[1])
        pick, picks = self._pick(i, pick_before, pick_after)
        return step(fret, moves.columns, pick, picks, source, knot)

    def start(self, first: Struck, hand: RightNodes) -> Floats:
        """What the first stroke costs, [G, R]: strings to cross, and an up where a down was free to choose."""
        judging = self.player.judging
        up = judging.start_up_price if len(first.signs) > 1 else 0.0
        return np.asarray(judging.gap_price * hand.gaps + np.where(hand.sign < 0, up, 0.0))

    def _pick(self, i: int, before: RightNodes, after: RightNodes) -> tuple[Floats, Bools]:
        judging = self.player.judging
        now = self.struck[i]
        moves = self.picks.moves(before, after)
        time = moves.phased(now.parity, self.player.picking.phase_ms)
        gap = np.inf if now.last_picked is None else self.ms[i] - self.ms[now.last_picked]
        cost = load_price(np.maximum(time / gap, self.floors[i]), judging.dial, judging.over_price)
        cost = cost + judging.gap_price * after.gaps[None, None]
        cost[~self.allowed[moves.kind]] = np.inf
        trivial = now.rested or now.last_picked is None
        return cost, moves.non_trivial & (not trivial)


def _attacks(request: Request) -> tuple[str, ...]:
    """The attack of every event: what the phrase states, if that is kept, else the pick."""
    if "attacks" not in request.keep:
        return (PICK,) * len(request.phrase.events)
    found = [event.attack or PICK for event in request.phrase.events]
    if found[0] in UNSTRUCK and found[0] != TAP:
        found[0] = HAMMER_NEW
    return tuple(found)


def _wishes(request: Request, attacks: tuple[str, ...]) -> list[Wanted]:
    positions, fingers = "positions" in request.keep, "fingers" in request.keep
    open_bars = _open_position_bars(request)
    wishes = []
    for event, attack in zip(request.phrase.events, attacks, strict=True):
        wishes.append(
            Wanted(
                pitches=tuple(n.pitch for n in event.notes),
                strings=tuple(n.string if positions else None for n in event.notes),
                frets=tuple(n.fret if positions else None for n in event.notes),
                fingers=tuple(
                    int(n.finger) if fingers and n.finger and n.finger in "01234" else None for n in event.notes
                ),
                tapped=attack == TAP,
                first_position=event.bar in open_bars,
            )
        )
    return wishes


def _open_position_bars(request: Request) -> set[int]:
    """Bars that lie whole under fret 4 with an open string among them, so that first position is the habit.

    Told from the pitches alone: were it told from kept positions, keeping one could make a plan cheaper.
    """
    fits: dict[int, list[tuple[bool, bool]]] = {}
    for event in request.phrase.events:
        for note in event.notes:
            frets = [f for s, f in request.instrument.places_of(note.pitch)]
            fits.setdefault(event.bar, []).append((min(frets, default=99) <= _OPEN_POSITION_TOP, 0 in frets))
    return {bar for bar, pairs in fits.items() if all(low for low, _ in pairs) and any(zero for _, zero in pairs)}


def _possible(
    phrase: Phrase, layers: Layers, states: Sequence[tuple[int, int]], attacks: tuple[str, ...]
) -> tuple[tuple[str, ...], list[str]]:
    """Attacks with the ones this path cannot do replaced, and a sentence for each."""
    corrected = list(attacks)
    said = []
    for i in range(1, len(states)):
        if layers.strain(i, states) < IMPOSSIBLE:
            continue
        open_note = not any(n.finger for n in layers.left[i].shapes[states[i][0]].notes)
        corrected[i] = PICK if open_note else HAMMER_NEW
        instead = "struck" if open_note else "hammered from nowhere"
        said.append(
            f"{where(phrase, i)}: a {attacks[i]} needs the note before it on the same string at the right side; "
            f"it is planned as {instead}"
        )
    return tuple(corrected), said


def _dead_end(request: Request) -> str:
    kept = "the kept strokes" if "strokes" in request.keep else "this phrase"
    return f"the school {request.school.name} allows no stroke here for {kept}; choose another school or keep less"

"""Loads, totals and the ceiling of a path, with every number measured on this very path and no other.

The search lets a hand's memory fade; the loads here use the true gaps, so that the ceiling of a plan does not depend
on the tempo it was asked for.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from dromic.core import picking
from dromic.core.fret_moves import FRET_KINDS, FrettingMoves
from dromic.core.fret_moves import NON_TRIVIAL as FRET_NON_TRIVIAL
from dromic.core.fretting import LeftNodes, Shape
from dromic.core.phrase import PICK, PLUCK, UNSTRUCK
from dromic.core.picking import NAME, Picking, RightNodes
from dromic.core.plan import Move, PlanNote, Request, Totals
from dromic.core.school import KINDS
from dromic.core.strokes import Struck, pick_floors, plucker


@dataclass(frozen=True, eq=False)
class Path:
    """One state of every layer, with the layers it goes through."""

    left: tuple[LeftNodes, ...]
    right: tuple[RightNodes, ...]
    struck: tuple[Struck, ...]
    states: tuple[tuple[int, int], ...]
    frets: FrettingMoves
    picks: Picking

    def shape(self, event: int) -> Shape:
        return self.left[event].shapes[self.states[event][0]]

    def way(self, event: int) -> tuple[int, int]:
        """Where the event's pick stands in its right nodes: group and way."""
        k, r = self.states[event]
        return (int(self.left[event].group[k]) if self.struck[event].signs else 0), r

    def pick(self, event: int, name: str) -> int:
        """One number of the pick's place after an event."""
        return int(getattr(self.right[event], name)[self.way(event)])


Judged = tuple[float | None, float | None, tuple[float, float] | None, tuple[PlanNote, ...], tuple[Move, ...], Totals]


def judge(request: Request, path: Path) -> Judged:
    """Ceiling, sustained ceiling, its range, notes, moves and totals of a path."""
    moves = _moves(request, path)
    notes = _notes(request, path, moves)
    tempo = request.phrase.tempo
    most = max((m.load for m in moves), default=0.0)
    sustained = max((_sustained_load(request, m) for m in moves), default=0.0)
    ceiling = tempo / most if most else None
    spread = request.player.judging.spread
    return (
        ceiling,
        tempo / sustained if sustained else None,
        (ceiling * (1 - spread), ceiling * (1 + spread)) if ceiling else None,
        notes,
        moves,
        _totals(request, path, notes, moves),
    )


def _sustained_load(request: Request, move: Move) -> float:
    picking_hand = request.player.picking
    repeated = move.pick_kind in ("repeat", "back")
    factor = picking_hand.sustained_repeat_factor if repeated else picking_hand.sustained_factor
    pick = (move.pick_load or 0.0) * factor
    return max(pick, move.fret_load * request.player.fretting.sustained_factor) + move.knot


def _moves(request: Request, path: Path) -> tuple[Move, ...]:
    phrase, player = request.phrase, request.player
    ms = [1000.0 * phrase.seconds_at(e.onset) for e in phrase.events]
    floors = pick_floors(phrase, player.picking, ms, path.struck)
    mm = path.frets.fretting.mm
    moves = []
    needed = 0
    for i in range(1, len(path.states)):
        now = path.struck[i]
        at = path.states[i - 1][0], path.states[i][0]
        here, there = path.shape(i - 1).position, path.shape(i).position
        if not path.shape(i - 1).idle:
            needed = i - 1
        gap = ms[i] - ms[i - 1]
        fret = path.frets.between(path.left[i - 1], path.left[i], now.attack)
        fret_kind = int(fret.kind[at])
        fret_ms = float(fret.time_ms[at]) if here else 0.0
        fret_gap = ms[i] - ms[needed]
        kind, hops, buried, pick_ms = "legato", 0, False, 0.0
        pick_load: float | None = None
        non_trivial = False
        since = now.last_picked
        pick_gap = None if since is None else ms[i] - ms[since]
        if now.attack == PLUCK:
            kind, pick_load, non_trivial = "pluck", floors[i], True
            pick_ms = floors[i] * gap
        elif now.signs:
            pick = path.picks.moves(path.right[i - 1], path.right[i])
            on = (*path.way(i - 1), *path.way(i))
            code = int(pick.kind[on])
            kind = "rest" if now.rested or since is None else KINDS[code]
            hops, buried = int(pick.hops[on]), bool(pick.buried[on])
            pick_ms = float(pick.phased(now.parity, player.picking.phase_ms)[on])
            pick_load = max(pick_ms / pick_gap if pick_gap else 0.0, floors[i])
            non_trivial = bool(picking.NON_TRIVIAL[code]) and kind != "rest"
        knotted = non_trivial and bool(FRET_NON_TRIVIAL[fret_kind])
        moves.append(
            Move(
                start=i - 1, to=i, gap_ms=gap, pick_gap_ms=pick_gap, pick_kind=kind, hops=hops, buried=buried,
                pick_ms=pick_ms, pick_load=pick_load, pick_from=-1 if since is None else since,
                fret_kind=FRET_KINDS[fret_kind], fret_ms=fret_ms, fret_gap_ms=fret_gap, fret_load=fret_ms / fret_gap,
                shift_mm=float(abs(mm[here] - mm[there])) if here else 0.0,
                knot=player.judging.knot_ms / gap if knotted else 0.0,
            )
        )  # fmt: skip
    return tuple(moves)


def _notes(request: Request, path: Path, moves: Sequence[Move]) -> tuple[PlanNote, ...]:
    phrase, player = request.phrase, request.player
    rests = _rest_strings(request, path, moves)
    notes = []
    index = 0
    for i, event in enumerate(phrase.events):
        shape = path.shape(i)
        attack = path.struck[i].attack
        stroke = "none"
        if path.struck[i].signs:
            stroke = NAME[path.pick(i, "sign")]
        elif attack == PLUCK:
            stroke = plucker(event)
        paired = sorted(zip(event.notes, shape.notes, strict=True), key=lambda p: -p[1].string)
        for note, held in paired:
            notes.append(
                PlanNote(
                    index=index, chord=i, bar=phrase.bars[event.bar].number, onset=event.onset,
                    duration=note.duration, start_s=phrase.seconds_at(event.onset),
                    end_s=phrase.seconds_at(event.onset + note.duration), pitch=note.pitch, string=held.string,
                    fret=held.fret, finger=str(held.finger), position=shape.position, attack=attack, stroke=stroke,
                    lean=player.leans[path.pick(i, "lean")].name, rest_on=rests[i], marks=note.marks,
                )
            )  # fmt: skip
            index += 1
    return tuple(notes)


def _rest_strings(request: Request, path: Path, moves: Sequence[Move]) -> list[int | None]:
    """The string each event's stroke lands on, None for free strokes (the rules stand in the docs of the command line)."""
    count, strings = len(path.states), request.instrument.strings
    chained = {e for m in moves if m.pick_kind == "carry-through" for e in (m.pick_from, m.to)}
    landed: list[int | None] = [None] * count
    for i, struck in enumerate(path.struck):
        before_unstruck = i + 1 < count and path.struck[i + 1].attack in UNSTRUCK
        if not struck.signs or before_unstruck:
            continue
        down = path.pick(i, "sign") > 0
        long = any(n.duration >= 1 for n in request.phrase.events[i].notes)
        habit = request.player.habits.rest_downs and down
        if long or habit or (request.school.rests and i in chained):
            next_string = strings - path.pick(i, "end") + (-1 if down else 1)
            landed[i] = next_string if 1 <= next_string <= strings else None
    return landed


def _totals(request: Request, path: Path, notes: Sequence[PlanNote], moves: Sequence[Move]) -> Totals:
    spacing = request.instrument.pick_spacing_mm
    kinds = [m.pick_kind for m in moves]
    struck = [i for i, s in enumerate(path.struck) if s.attack in (PICK, PLUCK)]
    picked = [i for i, s in enumerate(path.struck) if s.signs]
    steps = [abs(path.pick(b, "begin") - path.pick(a, "end")) for a, b in itertools.pairwise(picked)]
    strings_of = {i: {h.string for h in path.shape(i).notes} for i in struck}
    changes = sum(not strings_of[a] & strings_of[b] for a, b in itertools.pairwise(struck))
    events = request.phrase.events
    span = request.phrase.seconds_at(events[-1].onset) - request.phrase.seconds_at(events[0].onset)
    return Totals(
        picked=len(picked),
        plucked=sum(s.attack == PLUCK for s in path.struck),
        legato=sum(s.attack in UNSTRUCK for s in path.struck),
        hops=sum(m.hops for m in moves),
        outside=kinds.count("outside"),
        inside=kinds.count("inside"),
        carry_through=kinds.count("carry-through"),
        buried_hops=sum(m.buried for m in moves),
        turnarounds=_turnarounds(path, moves),
        changes=changes,
        changes_per_note=changes / len(moves) if moves else 0.0,
        changes_per_second=changes / span if span else 0.0,
        pick_travel_mm=sum(steps) * spacing,
        shifts=sum(m.fret_kind == "shift" for m in moves),
        shift_mm=sum(m.shift_mm for m in moves if m.fret_kind == "shift"),
        max_stretch_mm=max(path.shape(i).stretch_mm for i in range(len(path.states))),
        rolls=sum(m.fret_kind == "roll" for m in moves),
        knots=sum(m.knot > 0 for m in moves),
    )  # fmt: skip


def _turnarounds(path: Path, moves: Sequence[Move]) -> int:
    """How often a chain of carry-throughs is followed by one the other way, with no other string change between."""
    count, direction = 0, 0
    for move in moves:
        if move.pick_kind == "carry-through":
            now = path.pick(move.to, "sign")
            count += direction == -now
            direction = now
        elif move.pick_kind not in ("same-string", "repeat", "legato"):
            direction = 0
    return count

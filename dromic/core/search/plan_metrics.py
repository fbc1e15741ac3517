"""Loads, totals and the ceiling of a path, with every number measured on this very path and no other.

The search lets a hand's memory fade; the loads here use the true gaps, so that the ceiling of a plan does not depend
on the tempo it was asked for.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.core.hands import pick_moves
from dromic.core.hands.fretting_moves import FRET_KINDS, hurry
from dromic.core.hands.fretting_moves import NON_TRIVIAL as FRET_NON_TRIVIAL
from dromic.core.hands.fretting_nodes import FINGER_NAMES
from dromic.core.hands.pick_moves import NAME
from dromic.core.plan.plan import Against, Move, PlanNote, Totals
from dromic.core.plan.request import Request
from dromic.core.plan.sweep_turns import sweep_turns
from dromic.core.prices.load_price import load_price
from dromic.core.search.against_beat import strokes_against
from dromic.core.search.decoded_path import Path, Sound, plucked
from dromic.core.setup.school import KINDS
from dromic.core.timing.playback_order import RepeatJump
from dromic.core.values.vocabulary import HAMMER, PICK, PINCH, PLUCK, PLUCKERS, PULL, SLIDE, UNSTRUCK


@dataclass(frozen=True, eq=False)
class PlanMetrics:
    """What a path comes to, each part worked out when it is asked for. What is the same as on the path of `like` is
    taken over from there."""

    request: Request
    path: Path
    like: PlanMetrics | None = None

    @cached_property
    def moves(self) -> tuple[Move, ...]:
        """Every move of the route, with its loads."""
        return _all_moves(self.request, self.path, self.like)

    def cost(self, searched: float) -> float:
        """What a route costs at the tempo asked for, from what it cost at the tempo searched at: the loads are those reported, which
        no fading memory makes smaller."""
        layers, player, moves = self.path.layers, self.request.player, self.moves
        if layers.rhythm.asked is layers.rhythm or not moves:
            return searched
        share, judging, hand = layers.rhythm.phrase.tempo / self.request.phrase.tempo, player.judging, player.fretting
        weights = np.array([judging.picking_weight, judging.fretting_weight])
        loads = np.array([(m.pick_load or 0.0, m.fret_load) for m in moves])
        gaps = np.array([m.fret_gap_ms for m in moves])
        weak = np.array([self._weak(m) for m in moves])
        dearer = load_price(loads, judging.dial, judging.over_price)
        dearer -= load_price(loads * share, judging.dial, judging.over_price)
        hurried = (
            float(weak @ (hurry(gaps, hand.finger_ms) - hurry(gaps / share, hand.finger_ms))) * judging.fretting_weight
        )
        knots = judging.knot_price * sum(m.knot for m in moves) * (1 - share)
        return searched + float((dearer * weights).sum()) + hurried + knots

    @cached_property
    def beat_cost(self) -> float:
        """What of the cost strokes against the beat come to."""
        builder, sounds = self.path.layers.builder, self.path.sounds
        if not builder.costs.limited:
            return 0.0
        share = self.path.layers.rhythm.phrase.tempo / self.request.phrase.tempo
        first, to = ([0] if sounds[0].picked else []), [m.to for m in self.moves]
        pick = np.array([m.pick_load or 0.0 for m in self.moves]) * share
        knots, frets = (np.array([[m.knot, m.fret_load] for m in self.moves]).reshape(-1, 2) * share).T
        against = np.array([sounds[i].picked and sounds[i].sign == -builder.beats.wished[i] for i in [*first, *to]])
        loads = np.concatenate([np.zeros(len(first)), pick])
        past = builder.costs.past(pick + knots).sum() + builder.costs.past(frets).sum()
        return float(builder.costs.against_beat(against, loads).sum() + past)

    def _weak(self, move: Move) -> float:
        """The price of the weak pair of fingers of a move, where it is hurried."""
        path = self.path
        between = path.layers.frets.between(
            path.layers.layers[move.start].fretting, path.layers.layers[move.to].fretting,
            path.layers.builder.bound(path.layers.options[move.to], path.place(move.to)[0].attack),
        )  # fmt: skip
        return float(between.speed_strain[path.states[move.start][0], path.states[move.to][0]])

    @cached_property
    def ceiling(self) -> float | None:
        """In quarters a minute, None where no move limits it."""
        return ceiling_of(self.request.phrase.tempo, self.moves)

    @cached_property
    def sustained(self) -> float | None:
        """The ceiling for half a minute on end, in quarters a minute."""
        most = max((_sustained_load(self.request, self.path, m) for m in self.moves), default=0.0)
        return self.request.phrase.tempo / most if most else None

    @property
    def spread(self) -> tuple[float, float] | None:
        """The ceiling's range, as far as an estimate may be off."""
        off = self.request.player.judging.spread
        return (self.ceiling * (1 - off), self.ceiling * (1 + off)) if self.ceiling else None

    @cached_property
    def rests(self) -> list[int | None]:
        """For every event the string its stroke lands on, None for free strokes."""
        return _rest_strings(self.request, self.path, self.moves)

    @cached_property
    def waits(self) -> list[int | None]:
        """For every event the string at which the pick waits while the fretting hand sounds it, else None."""
        return _waiting_strings(self.request, self.path)

    @cached_property
    def against(self) -> tuple[Against | None, ...]:
        """For every event why it is struck against its place in the beat, None where it is not."""
        return strokes_against(self.path)

    @cached_property
    def notes(self) -> tuple[PlanNote, ...]:
        """The notes as planned."""
        return _notes(self)

    @cached_property
    def totals(self) -> Totals:
        """The sums."""
        return _totals(self.request, self.path, self.moves)


def ceiling_of(tempo: float, moves: Sequence[Move]) -> float | None:
    """The tempo at which the largest load of these moves would be 1; None if no move limits it."""
    most = max((m.load for m in moves), default=0.0)
    return tempo / most if most else None


def _sustained_load(request: Request, path: Path, move: Move) -> float:
    picking_hand = request.player.picking
    repeated = move.pick_kind in ("repeat", "back")
    factor = picking_hand.sustained_repeat_factor if repeated else picking_hand.sustained_factor
    pick = (move.pick_load or 0.0) * factor
    hand, shape = request.player.fretting, path.shape(move.to)
    held = shape.flat or shape.stretch_mm > hand.stretch_from_mm
    fret = move.fret_load * (hand.sustained_hold_factor if held else hand.sustained_factor)
    return max(pick, fret) + move.knot


def _all_moves(request: Request, path: Path, like: PlanMetrics | None) -> tuple[Move, ...]:
    before = path.layers.rhythm.asked.before
    unmoved = _unmoved(path, like.path) if like is not None else [False] * len(path.states)
    seams: dict[int, list[RepeatJump]] = {}
    for seam in path.layers.rhythm.asked.playback.seams:
        seams.setdefault(seam.source, []).append(seam)
    kept = {} if like is None else {(m.start, m.to): m for m in like.moves}
    moves = []
    for i in range(len(path.states)):
        if before[i] >= 0:
            moves.append(kept[before[i], i] if unmoved[i] else _read(request, path, i))
        moves += [move_to(request, path, seam.target, seam) for seam in seams.get(i, ())]
    return tuple(moves)


def _unmoved(path: Path, old: Path) -> list[bool]:
    """For every event whether the move to it is the same on both paths."""
    same = path.same
    pairs = zip(
        same, path.layers.rhythm.asked.before, path.layers.steps, old.layers.steps, path.last_picked, old.last_picked,
        path.needed, old.needed, path.fingers_before, old.fingers_before, strict=True,
    )  # fmt: skip
    return [
        here and same[before] and step is step_then and since == since_then and needed == needed_then
        and fingers == fingers_then and same[needed] and (since < 0 or same[since])
        for here, before, step, step_then, since, since_then, needed, needed_then, fingers, fingers_then in pairs
    ]  # fmt: skip


def _read(request: Request, path: Path, i: int) -> Move:
    """The move to event i from the one before it, which is the same at every tempo that it is searched at."""
    layers, before = path.layers, path.layers.rhythm.before[i]
    if layers.builder.ways.remembers:
        return move_to(request, path, i)
    known, source, target = layers.builder.moves_read, layers.layers[before], layers.layers[i]
    key = (id(source), id(target), i, path.states[before], path.states[i], path.needed[i], path.last_picked[i])
    if key not in known:
        known[key] = (
            source,
            target,
            move_to(request, path, i),
        )  # the layers are kept with it, that no others take their identities
    return known[key][2]


def move_to(request: Request, path: Path, i: int, seam: RepeatJump | None = None) -> Move:
    """The move to event i, over a seam or from the event before it."""
    rhythm, player = path.layers.rhythm.asked, request.player
    source = seam.source if seam is not None else rhythm.before[i]
    gap = seam.ms if seam is not None else rhythm.step_ms(i)
    layer, from_layer = path.layers.layers[i], path.layers.layers[source]
    part, g, r = path.place(i)
    from_part, from_g, from_r = path.place(source)
    bound = path.layers.builder.bound(path.layers.options[i], part.attack)
    fret = path.layers.frets.between(from_layer.fretting, layer.fretting, bound)
    at = path.states[source][0], path.states[i][0]
    here, there = path.shape(source), path.shape(i)
    mm = path.layers.frets.fretting.geometry.mm
    fret_kind = int(fret.kind[at])
    fret_ms = float(fret.time_ms[at]) if here.position else 0.0
    fret_ms += path.layers.builder.busy_ms(source, i) if fret_ms else 0.0
    needed = path.needed[i] if seam is None else (path.needed[source] if here.idle else source)
    fret_gap = gap + rhythm.gap_ms(needed, source)
    sounds = path.sounds
    since = path.last_picked[i]
    if seam is not None:
        since = source if sounds[source].picked else path.last_picked[source]
    pick_gap = None if since < 0 else gap + rhythm.gap_ms(since, source)
    kind, hops, buried, struck = "legato", 0, False, False
    needs: list[tuple[float, float]] = []
    floor = path.layers.builder.floors[i] * rhythm.phrase.tempo / path.layers.rhythm.phrase.tempo
    if part.attack in (PICK, PINCH):
        pick = path.layers.picks.moves(from_part.left, part.places)
        on = (from_g, from_r, g, r)
        code = int(pick.kind[on])
        rested = seam is None and since >= 0 and rhythm.rested(since, i)
        kind = "rest" if rested or since < 0 else KINDS[code]
        hops, buried = int(pick.hops[on]), bool(pick.buried[on])
        builder = path.layers.builder
        parity = builder.parity_of(since, i)
        if seam is not None:
            parity = builder.parity.over(seam.source, i, seam.quarters)
        needs = [(float(builder.costs.times(pick, parity)[on]), pick_gap or float("inf"))]
        struck = kind != "rest" and (bool(pick_moves.NON_TRIVIAL[code]) or part.attack == PINCH)
        last_pluck = max(_fingers_before(path, i, seam).values(), default=-1)
        if last_pluck >= 0:
            needs.append((player.picking.pick_after_pluck_ms, gap + rhythm.gap_ms(last_pluck, source)))
    if plucked(sounds[i]):
        needs += _pluck_needs(request, path, i, seam, gap, source, since)
        if part.attack == PLUCK:
            kind, struck = "pluck", True
    needs.append((floor * gap, gap))
    pick_ms, pick_has = max(needs, key=lambda n: n[0] / n[1])
    pick_load = None if kind == "legato" else pick_ms / pick_has
    knotted = struck and bool(FRET_NON_TRIVIAL[fret_kind])
    known = here.position and there.position
    return Move(
        start=source, to=i, gap_ms=gap, pick_gap_ms=pick_gap, pick_kind=kind, hops=hops, buried=buried,
        pick_ms=pick_ms, pick_has_ms=pick_has, pick_load=pick_load, pick_from=since, fret_kind=FRET_KINDS[fret_kind],
        fret_ms=fret_ms, fret_gap_ms=fret_gap, fret_load=fret_ms / fret_gap,
        shift_mm=float(abs(mm[here.position] - mm[there.position])) if known else 0.0,
        knot=player.judging.knot_ms / gap if knotted else 0.0, seam=seam is not None,
    )  # fmt: skip


def _fingers_before(path: Path, i: int, seam: RepeatJump | None) -> dict[int, int]:
    """The last event that each bare finger plucked before event i is reached."""
    if seam is None:
        return path.fingers_before[i]
    return {**path.fingers_before[seam.source], **dict.fromkeys(path.sounds[seam.source].fingers, seam.source)}


def _pluck_needs(
    request: Request, path: Path, i: int, seam: RepeatJump | None, gap: float, source: int, since: int
) -> list[tuple[float, float]]:
    """(time needed, time there is) for the bare fingers of event i: after the pick, after others, after themselves."""
    hand, rhythm = request.player.picking, path.layers.rhythm.asked
    sound = path.sounds[i]
    own = _fingers_before(path, i, seam)
    needs = []
    if since >= 0 and sound.attack == PLUCK:
        needs.append((hand.pluck_after_pick_ms, gap + rhythm.gap_ms(since, source)))
    last = max(own.values(), default=-1)
    if last >= 0 and sound.attack == PLUCK:
        has = gap + rhythm.gap_ms(last, source)
        latest = {f for f, e in own.items() if e == last}
        if not latest & set(sound.fingers):
            needs.append((hand.pluck_other_ms, has))
        elif path.layers.options[i].in_turn and _raked(path, last, i):
            return [*needs, (hand.rake_ms, has)]
    needs += [(hand.pluck_same_ms, gap + rhythm.gap_ms(own[f], source)) for f in sound.fingers if f in own]
    return needs


def _raked(path: Path, last: int, i: int) -> bool:
    """Whether one finger rakes from the string of one event on to the next lower one."""
    here, there = path.shape(last).notes, path.shape(i).notes
    return len(here) == len(there) == 1 and there[0].string == here[0].string + 1


def _notes(judged: PlanMetrics) -> tuple[PlanNote, ...]:
    request, path, like = judged.request, judged.path, judged.like
    phrase, player, times = request.phrase, request.player, path.layers.rhythm.asked
    told = list(zip(path.sounds, judged.rests, judged.waits, judged.against, strict=True))
    told_then = (
        list(zip(like.path.sounds, like.rests, like.waits, like.against, strict=True)) if like is not None else []
    )
    notes: list[PlanNote] = []
    index = 0
    for i, event in enumerate(phrase.events):
        if like is not None and path.same[i] and told[i] == told_then[i]:
            notes += like.notes[index : index + len(event.notes)]
            index += len(event.notes)
            continue
        shape, (sound, rest, wait, against) = path.shape(i), told[i]
        start, sounding = times.ms[i] / 1000, times.phrase.events[i]
        paired = sorted(zip(event.notes, shape.notes, sounding.notes, strict=True), key=lambda p: -p[1].string)
        for n, (note, held, heard) in enumerate(paired):
            attack, stroke = _sounding(sound.attack, sound.sign, sound.fingers, n)
            notes.append(
                PlanNote(
                    index=index, event=i, bar_number=phrase.bars[event.bar].number, onset=event.onset,
                    duration=note.duration, start_s=start, end_s=phrase.seconds_at(sounding.onset + heard.duration),
                    pitch=note.pitch, string=held.string, fret=held.fret, finger=FINGER_NAMES[held.finger],
                    position=shape.position, attack=attack, stroke=stroke, lean=player.leans[sound.lean].name,
                    rest_on=rest if attack == PICK else None, marks=note.marks, waits_at=wait,
                    against=against if attack == PICK else None,
                )
            )  # fmt: skip
            index += 1
    return tuple(notes)


def _sounding(attack: str, sign: int, fingers: tuple[int, ...], n: int) -> tuple[str, str]:
    """(attack, stroke) of the nth note of an event from the lowest string up."""
    if attack == PINCH:
        return (PICK, NAME[sign]) if n == 0 else (PLUCK, PLUCKERS[fingers[n - 1]])
    if attack == PLUCK:
        return PLUCK, PLUCKERS[fingers[n]]
    return attack, NAME[sign]


def _rest_strings(request: Request, path: Path, moves: Sequence[Move]) -> list[int | None]:
    """The string each event's stroke lands on, None for free strokes (the rules stand in the docs of the command line)."""
    count, strings = len(path.states), request.instrument.strings
    chained = {e for m in moves if m.pick_kind == "carry-through" for e in (m.pick_from, m.to)}
    rests_through = request.school.rests and request.rest_through
    landed: list[int | None] = [None] * count
    for i, sound in enumerate(path.sounds):
        before_unstruck = i + 1 < count and path.sounds[i + 1].attack in UNSTRUCK
        if not sound.picked or before_unstruck:
            continue
        down = sound.sign > 0
        long = any(n.duration >= 1 and not n.tremolo for n in request.phrase.events[i].notes)
        habit = request.player.habits.rest_downs and down
        if long or habit or (rests_through and i in chained):
            next_string = strings - sound.end + (-1 if down else 1)
            landed[i] = next_string if 1 <= next_string <= strings else None
    return landed


def _waiting_strings(request: Request, path: Path) -> list[int | None]:
    """The string at which the pick waits during every unstruck event: where its next stroke begins, else where its last
    one ended."""
    strings, sounds = request.instrument.strings, path.sounds
    found: list[int | None] = [None] * len(sounds)
    following: int | None = None
    for i in range(len(sounds) - 1, -1, -1):
        if sounds[i].picked:
            following = strings - sounds[i].begin
        elif sounds[i].attack in UNSTRUCK:
            last = path.last_picked[i]
            found[i] = following if following is not None else strings - sounds[last].end if last >= 0 else None
    return found


def _first_attacks(request: Request, sounds: Sequence[Sound]) -> tuple[int, int]:
    """How many struck events lead slurs, and how many of these are struck unlike what is meant, or unlike most."""
    firsts = [
        (NAME[a.sign] if a.picked else "finger")
        for a, b in itertools.pairwise(sounds)
        if a.attack not in UNSTRUCK and b.attack in (HAMMER, PULL, SLIDE)
    ]
    meant = request.player.habits.first_attack
    as_meant = max(map(firsts.count, firsts), default=0) if meant == "either" else firsts.count(meant)
    return len(firsts), len(firsts) - as_meant


def _totals(request: Request, path: Path, moves: Sequence[Move]) -> Totals:
    spacing = request.instrument.pick_spacing_mm
    kinds = [m.pick_kind for m in moves]
    sounds = path.sounds
    seams = [(s.source, s.target) for s in path.layers.rhythm.asked.playback.seams]
    struck = [i for i, s in enumerate(sounds) if s.attack in (PICK, PLUCK, PINCH)]
    picked = [i for i, s in enumerate(sounds) if s.picked]
    strings_of = {i: {h.string for h in path.shape(i).notes} for i in struck}
    steps = [abs(sounds[b].begin - sounds[a].end) for a, b in _pairs(picked, seams)]
    changes = sum(not strings_of[a] & strings_of[b] for a, b in _pairs(struck, seams))
    events = request.phrase.events
    firsts, uneven = _first_attacks(request, sounds)
    span = request.phrase.seconds_at(events[-1].onset) - request.phrase.seconds_at(events[0].onset)
    return Totals(
        picked=len(picked),
        plucked=sum(s.attack == PLUCK for s in sounds),
        legato=sum(s.attack in UNSTRUCK for s in sounds),
        hops=sum(m.hops for m in moves),
        outside=kinds.count("outside"),
        inside=kinds.count("inside"),
        carry_through=kinds.count("carry-through"),
        buried_hops=sum(m.buried for m in moves),
        turnarounds=len(sweep_turns(moves, lambda event: path.sounds[event].sign)),
        changes=changes,
        changes_per_note=changes / len(moves) if moves else 0.0,
        changes_per_second=changes / span if span else 0.0,
        pick_travel_mm=sum(steps) * spacing,
        shifts=sum(m.fret_kind == "shift" for m in moves),
        shift_mm=sum(m.shift_mm for m in moves if m.fret_kind == "shift"),
        max_stretch_mm=max(path.shape(i).stretch_mm for i in range(len(path.states))),
        rolls=sum(m.fret_kind == "roll" for m in moves),
        knots=sum(m.knot > 0 for m in moves),
        first_attacks=firsts,
        uneven_first_attacks=uneven,
    )  # fmt: skip


def _pairs(events: list[int], seams: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """Neighbours among some events, and those that a seam joins."""
    found = list(itertools.pairwise(events))
    for source, target in seams:
        last = max((e for e in events if e <= source), default=None)
        first = min((e for e in events if e >= target), default=None)
        if last is not None and first is not None:
            found.append((last, first))
    return found

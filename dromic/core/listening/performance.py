"""A simulated player's take of a plan: timing and loudness go wrong where the loads say they would. The truth is kept: every note's
own times, loudness, pitch, and the verdict meant."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dromic.core.listening.due import Due
from dromic.core.listening.verdicts import timing_room
from dromic.core.setup.listen_settings import JudgeNumbers, ListenSettings, PerformNumbers

_SHORTEST_S = 0.13
"""room under which a note cut short is like any other"""
_SLIPS = 7
"""Seed of the dice of slips."""
_NEARBY = 3
"""Notes on either side whose pitch is not brushed: nobody could tell it from theirs."""
_AROUND = 8
"""notes on either side whose middle error is the take's own tempo"""
EASY = 0.85
"""loads up to here are played as planned"""


@dataclass(frozen=True, slots=True)
class Played:
    """A note as it was played, in seconds from the take's first note; times are None for one that was missed. `again_s` is the
    second onset of a doubled note."""

    due: Due
    start_s: float | None
    end_s: float | None
    db: float
    cents: float
    verdict: str
    again_s: float | None = None
    apart_s: float = 0.0
    """how long before the note sounds the pick was heard, where the hands were out of step"""
    brushed: tuple[int, int] | None = None
    """(string, pitch) of an open string the pick brushed as well"""


def perform(
    due: Sequence[Due], settings: ListenSettings, level: float, seed: int, tempo_ratio: float = 1.0
) -> tuple[Played, ...]:
    """A take at a level from 0 (as planned) to 1 (well over the ceiling); `tempo_ratio` over 1 is faster than planned."""
    numbers = settings.perform
    chance = np.random.default_rng(seed)
    made: list[Played] = []
    by_turn: dict[int, list[Due]] = {}
    for one in due:
        by_turn.setdefault(one.turn, []).append(one)
    turns = sorted(by_turn)
    behind = 0.0
    for at, turn in enumerate(turns):
        notes = by_turn[turn]
        first = notes[0]
        onset = first.start_s / tempo_ratio
        before = by_turn[turns[at - 1]][0].start_s / tempo_ratio if at else onset - 1.0
        after = (
            by_turn[turns[at + 1]][0].start_s / tempo_ratio
            if at + 1 < len(turns)
            else max(n.end_s for n in notes) / tempo_ratio
        )
        load = first.load * tempo_ratio * (1 + numbers.ceiling_at_full * level)
        over = max(0.0, load - EASY) * level
        spread = (numbers.timing_ms + numbers.timing_over_ms * over) / 1000
        gap = onset - before
        late = numbers.late_share * over * gap
        behind = 0.5 * behind + late
        following = {n.note.string for n in by_turn[turns[at + 1]]} if at + 1 < len(turns) else set()
        start = onset + behind + float(np.clip(chance.normal(0.0, spread), -0.3 * gap, 0.3 * gap))
        fault = _fault(
            chance, over, level, numbers, first, after - onset, first.note.string in following, at + 1 == len(turns)
        )
        for note in notes:
            made.append(_one(note, start, onset, after, note.end_s / tempo_ratio, fault, numbers, level, chance))
    return _with_slips(_with_timing(made, tempo_ratio, settings.judge), level, seed, numbers)


def _with_timing(made: Sequence[Played], tempo_ratio: float, numbers: JudgeNumbers) -> tuple[Played, ...]:
    """The same with early and late told, against the tempo of the notes around."""
    there = [(n, one.start_s - one.due.start_s / tempo_ratio) for n, one in enumerate(made) if one.start_s is not None]
    errors = np.array([error for _, error in there])
    starts = sorted({one.due.start_s / tempo_ratio for one in made})
    gaps = dict(zip(starts, np.diff(starts, append=starts[-1] + 1.0 if starts else 1.0), strict=True))
    found = list(made)
    for at, (n, error) in enumerate(there):
        around = float(np.median(errors[max(0, at - _AROUND) : at + _AROUND + 1]))
        one = made[n]
        off, room = error - around, timing_room(gaps[one.due.start_s / tempo_ratio], numbers)
        verdict = "late" if off > room else "early" if off < -room else "ok"
        if one.verdict == "ok" and abs(one.cents) > numbers.cents:
            verdict = "wrong"
        if one.verdict == "ok" and verdict != "ok":
            found[n] = replace(one, verdict=verdict)
    return tuple(found)


def _with_slips(made: Sequence[Played], level: float, seed: int, numbers: PerformNumbers) -> tuple[Played, ...]:
    """The same with what no verdict has a word for: strings brushed on the way, and hands out of step. Dice of their own, so that all
    else stays as it was."""
    chance = np.random.default_rng((seed, _SLIPS))
    found = []
    for n, one in enumerate(made):
        due, dice = one.due, chance.random(3)
        near = {other.due.note.pitch for other in made[max(0, n - _NEARBY) : n + _NEARBY + 1]}
        open_beside = [beside for beside in due.open_beside if beside[1] not in near]
        plain = one.verdict == "ok" and due.picked and not due.silent and not due.note.marks & {"palm-mute", "let-ring"}
        if plain and open_beside and dice[0] < numbers.brush * level:
            one = replace(one, brushed=open_beside[int(dice[1] * len(open_beside))])
        elif (
            plain
            and due.note.fret
            and one.start_s is not None
            and dice[0] > 1 - numbers.apart * level * max(0.0, due.load - EASY)
        ):
            apart = numbers.apart_ms / 1000 * (0.6 + 0.8 * float(dice[2]))
            one = replace(one, apart_s=apart)
        found.append(one)
    return tuple(found)


def _fault(
    chance: np.random.Generator, over: float, level: float, numbers: PerformNumbers, due: Due, room: float,
    string_again: bool, last: bool,
) -> str:  # fmt: skip
    """What goes wrong with a note, by how far its move is over; ok for most."""
    share = min(0.6, numbers.fault * level + 0.35 * over)
    if chance.random() >= share:
        return "ok"
    kinds = ["missed", "weak", "short", "ringing", "doubled"]
    weights = np.array(
        [3.0 if due.hand == "fretting" else 1.5, 3.0 if due.picked else 1.0, 1.5, 1.5, 1.5 if due.picked else 0.0]
    )
    if room < 2.2 * numbers.doubled_ms / 1000:
        weights[4] = 0.0  # no room for a second onset
    if due.silent or "palm-mute" in due.note.marks or "let-ring" in due.note.marks:
        weights[2] = weights[3] = 0.0
    if string_again:
        weights[3] = 0.0  # a string that sounds anew cannot ring on
    if last:
        weights[3] = 0.0  # nothing comes that it could ring over
    if room < _SHORTEST_S:
        weights[2] = 0.0
    if not due.turn:
        weights[0] = 0.0  # a take begins with its first note
    return str(chance.choice(kinds, p=weights / weights.sum()))


def _one(
    due: Due, start: float, onset: float, after: float, end: float, fault: str, numbers: PerformNumbers, level: float,
    chance: np.random.Generator,
) -> Played:  # fmt: skip
    db = float(chance.normal(0.0, numbers.loud_db))
    cents = float(chance.normal(0.0, numbers.bend_cents * level)) if due.written.bend else 0.0
    end = max(end + (start - onset), start + 0.02)
    if fault == "missed":
        return Played(due, None, None, db, cents, fault)
    if fault == "weak":
        db -= numbers.weak_db
    if fault == "short":
        end = start + numbers.short_at * (end - start)
    if fault == "ringing":
        end = end + numbers.ring_share * max(after - onset, 0.08)
    again = start + numbers.doubled_ms / 1000 if fault == "doubled" else None
    return Played(due, start, end, db, cents, fault, again)

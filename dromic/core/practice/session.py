"""A session: which drills for how many minutes, with warm-up, breaks and cool-down; and a day's plan from the log."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from dromic.core.drills.drill import Drill
from dromic.core.drills.drill_kinds import BY_NAME
from dromic.core.setup.practice_settings import SessionNumbers

WARM_UP, BREAK, COOL_DOWN, DRILL, KEEP = "warm-up", "break", "cool-down", "drill", "keep"
BREATH = (
    "Shoulders down, wrists straight; raise the arm rather than bend the wrist.",
    "Grip as loosely as the pick allows; breathe out on the first beat.",
    "Wide stretches slowly, one finger after the other.",
    "Phones and amplifier no louder than you can talk over.",
)
_SHORT = 2.0
"""minutes that a drill is still worth taking up for, at the end"""
STOP = "Stop at sharp or lasting pain, numbness or tingling, and ask a clinician or a teacher."


@dataclass(frozen=True, slots=True)
class Slot:
    """A part of a session: what, for how many minutes, and of which drill by its number."""

    what: str
    minutes: float
    drill: int | None = None


@dataclass(frozen=True, slots=True)
class Schedule:
    """The parts of a session in order, and what is said of it."""

    slots: tuple[Slot, ...]
    said: tuple[str, ...] = ()

    @property
    def minutes(self) -> float:
        """All of it."""
        return sum(slot.minutes for slot in self.slots)


def schedule(
    drills: Sequence[Drill], minutes: float, numbers: SessionNumbers, known: Mapping[str, float] | None = None,
    target: float = 0.0, soreness: int = 0, resting: Collection[str] = (), away: Mapping[str, int] | None = None,
) -> Schedule:  # fmt: skip
    """A session of so many minutes from drills in their order. `known` has the best clean tempo of drills by name: the one
    nearest to the target is kept clean; those not clean yet and those that slip come before it. What rests today comes only
    where time is left; `away` are the days since each kind was practised."""
    known = known or {}
    said = []
    warm = min(numbers.warm_up_min, numbers.short_share * minutes)
    cool = numbers.cool_down_min if minutes > 4 * numbers.cool_down_min else 0.0
    left = minutes - warm - cool
    slots = [Slot(WARM_UP, warm)]
    keep = max(
        (i for i, d in enumerate(drills) if known.get(d.name, 0.0) >= 0.9 * target > 0),
        key=lambda i: (drills[i].name not in resting, known[drills[i].name]), default=None,
    )  # fmt: skip
    if keep is not None and left > 3 * numbers.keep_clean_min:
        left -= numbers.keep_clean_min
    else:
        keep = None
    if soreness:
        said.append("Hands are sore: fewer minutes and lower tempos today; leave it if it gets worse.")
        left *= 1 - 0.2 * soreness
    since = warm
    taken = chosen(drills, _to_play(warm, left, numbers), numbers, known, resting, away)
    waiting = sum(d.name in resting for n, d in enumerate(drills) if n not in taken)
    if waiting:
        said.append(
            f"{waiting} {'drill was clean lately and rests' if waiting == 1 else 'drills were clean lately and rest'} today."
        )
    for index in taken:
        if index == keep:
            continue  # it has a part of its own
        length = _length(drills[index], numbers)
        free = numbers.break_every_min - since
        if length > free and left <= numbers.break_min + 1.0:
            length = free  # so little is left that the session ends before a break
        elif length > free:
            slots.append(Slot(BREAK, numbers.break_min))
            left -= numbers.break_min
            since = 0.0
        if min(length, left) < 1.0:
            break
        length = min(length, left)
        slots.append(Slot(DRILL, length, index))
        since += length
        left -= length
    if keep is not None:
        slots.append(Slot(KEEP, numbers.keep_clean_min, keep))
    if cool:
        slots.append(Slot(COOL_DOWN, cool))
    if minutes < warm + cool + numbers.drill_min:
        said.append("Too short for a drill after a warm-up: only loose playing today.")
    return Schedule(tuple(slots), tuple(said))


def _to_play(warm: float, left: float, numbers: SessionNumbers) -> float:
    """Minutes of drills that fit into what is left after a warm-up: with as many breaks as leave most of it, or none and an earlier
    end."""
    each, pause = numbers.break_every_min, numbers.break_min
    most = int(left // pause) + 1
    return max(min(left - breaks * pause, (breaks + 1) * each - warm) for breaks in range(most))


def chosen(
    drills: Sequence[Drill], minutes: float, numbers: SessionNumbers, known: Mapping[str, float],
    resting: Collection[str] = (), away: Mapping[str, int] | None = None,
) -> tuple[int, ...]:  # fmt: skip
    """Which drills fit into so many minutes, by number, in the order of their stages: one of each kind first, so that one drill
    of every sort comes before a second of any. Of a kind those come first that are clean least fast, then those that go over
    more of the hard places at once, then the hardest; what rests today comes last of all. Kinds come in the order of what is
    wanted first, those left aside on the last days farther up."""
    never = int(numbers.new_kind_days)

    def place(kind: str) -> float:
        return _worth(kind) - numbers.rotate * (away or {}).get(kind, never)

    by_kind: dict[str, list[int]] = {}
    for index, drill in enumerate(drills):
        by_kind.setdefault(drill.kind, []).append(index)
    for kind in by_kind:
        if BY_NAME[kind].in_turn:  # one part of the session is enough: a clean pass goes on to the next
            by_kind[kind].sort(key=lambda i: known.get(drills[i].name, 0.0) > 0)
            del by_kind[kind][1:]
        by_kind[kind].sort(key=lambda i: (known.get(drills[i].name, 0.0), -drills[i].goals, -drills[i].load))
    ranked: list[int] = []
    for turn in range(max((len(of) for of in by_kind.values()), default=0)):
        row = [of[turn] for of in by_kind.values() if turn < len(of)]
        ranked += sorted(row, key=lambda i: (place(drills[i].kind), -drills[i].load))
    ranked.sort(key=lambda i: drills[i].name in resting)
    taken: list[int] = []
    left = minutes
    for index in ranked:
        length = _length(drills[index], numbers)
        if length <= left or left >= _SHORT or not taken:
            taken.append(index)
            left -= min(length, left)
        if left < 1.0:
            break
    return tuple(sorted(taken))


_FIRST = (
    "move",
    "seam",
    "hammered",
    "open",
    "join",
    "whole",
    "pair",
    "chords",
    "rhythm",
    "halves",
    "section",
    "bar",
    "add",
)


def _worth(kind: str) -> int:
    """What is wanted first when there is little time."""
    return _FIRST.index(kind) if kind in _FIRST else len(_FIRST)


def _length(drill: Drill, numbers: SessionNumbers) -> float:
    return numbers.long_min if BY_NAME[drill.kind].stage == 4 else numbers.drill_min

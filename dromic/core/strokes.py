"""Which strokes each event may take, and where the swing of the picking hand makes a stroke dear.

Settled before the search, from the phrase and the school alone: struck or not, the place in the beat, what the file
states. Common practice, no published source.
"""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import lcm

from dromic.core.metre import QUARTER, default_unit, on_grid, place
from dromic.core.phrase import DOWN, PLUCK, TAP, UNSTRUCK, UP, Event, Phrase
from dromic.core.player import PickingHand
from dromic.core.school import School

BOTH = (1, -1)
_SIGNS = {DOWN: (1,), UP: (-1,), "either": BOTH}


@dataclass(frozen=True, slots=True)
class Struck:
    """How the picking hand takes part in one event. `signs` is empty unless the pick strikes it."""

    attack: str
    signs: tuple[int, ...]
    last_picked: int | None
    """the event picked before this one"""
    parity: int | None
    """n % 2 where the gap is n >= 2 of the swing's smallest steps around it"""
    rested: bool
    """whether a silence longer than a beat lies between"""


def pulse_unit(phrase: Phrase, chosen: str | None, school: School) -> str:
    """The unit asked for, else eighths for downs, else the one the phrase suggests."""
    if chosen:
        return chosen
    if school.places == "downs":
        return "eighth"
    metre = Counter(phrase.bars[e.bar].metre for e in phrase.events).most_common(1)[0][0]
    return default_unit(metre, [n.duration for _, _, _, n in phrase.numbered_notes()])


def places(phrase: Phrase, unit: str) -> tuple[int, ...]:
    """The place of every event in its bar: even for down, odd for up."""
    in_beat: dict[tuple[int, int], list[Fraction]] = {}
    where: list[tuple[int, int]] = []
    for event in phrase.events:
        bar = phrase.bars[event.bar]
        offset = bar.offset_of(event.onset)
        beat, start, _ = bar.metre.beat_at(offset)
        where.append((event.bar, beat))
        in_beat.setdefault((event.bar, beat), []).append(offset - start)
    return tuple(
        place(phrase.bars[e.bar].metre, unit, phrase.bars[e.bar].offset_of(e.onset), in_beat[key])
        for e, key in zip(phrase.events, where, strict=True)
    )


def strike(
    phrase: Phrase, attacks: tuple[str, ...], school: School, unit: str, start: str | None, keep_strokes: bool
) -> tuple[Struck, ...]:
    """For every event, how the picking hand takes part, given each event's attack."""
    by_place = places(phrase, unit)
    picked = [i for i, a in enumerate(attacks) if a not in UNSTRUCK and a != PLUCK]
    parities = dict(zip(picked[1:], _parities(phrase, picked), strict=True))
    first = start or school.start
    found = []
    last: int | None = None
    for i, attack in enumerate(attacks):
        event = phrase.events[i]
        signs: tuple[int, ...] = ()
        if attack not in UNSTRUCK and attack != PLUCK:
            signs = _allowed(phrase, i, school, unit, by_place[i], turned=start == UP)
            if last is None and school.places != "pulse":
                signs = tuple(s for s in signs if s in _SIGNS[first]) or _SIGNS[first]
            if keep_strokes and event.stroke in (DOWN, UP):
                signs = _SIGNS[event.stroke]
        rested = last is not None and _rested(phrase, last, i)
        found.append(Struck(attack, signs, last, parities.get(i), rested))
        if signs:
            last = i
    return tuple(found)


def _allowed(phrase: Phrase, i: int, school: School, unit: str, where: int, turned: bool) -> tuple[int, ...]:
    if school.places == "pulse":
        return (1,) if (where % 2 == 0) != turned else (-1,)
    if school.places == "downs":
        event = phrase.events[i]
        bar = phrase.bars[event.bar]
        return (1,) if on_grid(bar.metre, unit, bar.offset_of(event.onset)) else BOTH
    return BOTH


def _parities(phrase: Phrase, picked: list[int]) -> list[int | None]:
    """For each picked event after the first: n % 2 if its gap is a whole n >= 2 of the shortest gap around it."""
    # whole numbers of the finest step in the phrase are exact too, and much quicker than fractions
    finest = lcm(*(e.onset.denominator for e in phrase.events), *(_beat(phrase, i).denominator for i in picked))
    times = [int(phrase.events[i].onset * finest) for i in picked]
    gaps = [b - a for a, b in itertools.pairwise(times)]
    found: list[int | None] = []
    low = high = 0
    for j, gap in enumerate(gaps):
        beat = int(_beat(phrase, picked[j]) * finest)
        while times[low] < times[j] - beat:
            low += 1
        high = max(high, j)
        while high + 1 < len(gaps) and times[high + 2] <= times[j + 1] + beat:
            high += 1
        n, part = divmod(gap, min(gaps[min(low, j) : high + 1]))
        found.append(n % 2 if n >= 2 and not part else None)
    return found


def _beat(phrase: Phrase, event: int) -> Fraction:
    bar = phrase.bars[phrase.events[event].bar]
    return bar.metre.beat_at(bar.offset_of(phrase.events[event].onset))[2] or QUARTER


def _rested(phrase: Phrase, last: int, now: int) -> bool:
    end = phrase.events[last].end
    for event in phrase.events[last + 1 : now + 1]:
        if event.onset - end > _beat(phrase, last):
            return True
        end = max(end, event.end)
    return False


def pick_floors(phrase: Phrase, hand: PickingHand, ms: Sequence[float], struck: Sequence[Struck]) -> list[float]:
    """Loads that plucks and taps set, whatever the pick does: known before the search, one for each event."""
    loads = []
    last_tap = last_pluck = last_pick = None
    own: dict[str, int] = {}
    for i, event in enumerate(struck):
        needs: list[tuple[float, int | None]] = []
        if event.signs:
            needs = [(hand.pick_after_tap_ms, last_tap), (hand.pick_after_pluck_ms, last_pluck)]
            last_pick = i
        elif event.attack == PLUCK:
            finger = plucker(phrase.events[i])
            needs = [(hand.pluck_after_pick_ms, last_pick), (hand.pluck_same_ms, own.get(finger))]
            if last_pluck is not None and last_pluck != own.get(finger):
                needs.append((hand.pluck_other_ms, last_pluck))
            last_pluck = own[finger] = i
        elif event.attack == TAP:
            last_tap = i
        loads.append(max((need / (ms[i] - ms[since]) for need, since in needs if since is not None), default=0.0))
    return loads


def plucker(event: Event) -> str:
    """The plucking finger an event states, else the middle finger, the usual one for a lone plucked string."""
    return event.stroke if event.stroke not in (None, "down", "up") else "m"

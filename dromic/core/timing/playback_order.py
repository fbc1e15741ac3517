"""The course a phrase takes when it is played: which event follows which, and where it jumps back.

Every written event is planned once and played the same at every repeat. The first time an event is reached fixes the
event `before` it; every later arrival over another way is a jump, with a seam move of its own.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from dromic.core.music.phrase import Phrase


@dataclass(frozen=True, slots=True)
class RepeatJump:
    """A jump from the last event before it back to the first one after it."""

    source: int
    target: int
    ms: float
    quarters: Fraction


@dataclass(frozen=True, slots=True)
class PlaybackOrder:
    """`predecessor[i]` is the event played before i when it is first reached (-1 for the first), `step_ms[i]` the time
    between them; `main` the events on the way from the first to the last, first endings left aside."""

    predecessor: tuple[int, ...]
    step_ms: tuple[float, ...]
    seams: tuple[RepeatJump, ...]
    main: tuple[int, ...]
    straight: bool
    """whether the phrase is simply played through"""
    odd: bool = False
    """whether its repeats are too tangled to follow, so that it is taken as it is written"""
    quarters: tuple[float, ...] = ()
    """the time between them in quarters, where the tempo alone makes it `step_ms`"""

    def at_tempo(self, phrase: Phrase, repeat: bool) -> PlaybackOrder:
        """The same at the tempo of a phrase that is the same but for that."""
        if not self.quarters:
            return playback_of(phrase, repeat)
        seams = tuple(replace(seam, ms=_plain_ms(float(seam.quarters), phrase.tempo)) for seam in self.seams)
        return replace(self, step_ms=tuple(_plain_ms(q, phrase.tempo) for q in self.quarters), seams=seams)

    def side(self, event: int) -> tuple[int, ...]:
        """The events of the side way that ends with an event, in order; empty for an event on the main way."""
        found: list[int] = []
        on_main = set(self.main)
        while event not in on_main:
            found.append(event)
            event = self.predecessor[event]
        return tuple(found[::-1])


def playback_of(phrase: Phrase, repeat: bool) -> PlaybackOrder:
    """The course of a phrase; `repeat` joins its end to its start as well."""
    order, total, whole_ms = _in_playing_order(phrase)
    count = len(phrase.events)
    if {e for e, _, _ in order} != set(range(count)):
        # bars that are never played: take it as written
        ends = phrase.bars[-1].end
        order = [(e, phrase.events[e].onset, 1000.0 * phrase.seconds_at(phrase.events[e].onset)) for e in range(count)]
        total, whole_ms = ends, 1000.0 * phrase.seconds_at(ends)
    before, step_ms, quarters_to = [-1] * count, [0.0] * count, [0.0] * count
    seams: dict[tuple[int, int], RepeatJump] = {}
    seen = {order[0][0]}
    for (a, at_a, a_ms), (b, at_b, b_ms) in pairwise(order):
        ms = _ms(phrase, a, b, at_b - at_a, b_ms - a_ms)
        if b not in seen:
            before[b], step_ms[b], quarters_to[b] = a, ms, float(at_b - at_a)
            seen.add(b)
        elif before[b] != a:
            seams.setdefault((a, b), RepeatJump(a, b, ms, at_b - at_a))
    main = [order[-1][0]]
    while before[main[-1]] >= 0:
        main.append(before[main[-1]])
    if repeat:
        first, last = order[0], order[-1]
        quarters = total - last[1] + first[1]
        seams[last[0], first[0]] = RepeatJump(
            last[0], first[0], _ms(phrase, last[0], first[0], quarters, whole_ms - last[2] + first[2]), quarters
        )
    straight = not seams and before == list(range(-1, count - 1))
    told = () if phrase.paced or phrase.swing.ratio != 1 else tuple(quarters_to)
    made = PlaybackOrder(
        tuple(before), tuple(step_ms), tuple(seams.values()), tuple(main[::-1]), straight, quarters=told
    )
    if straight or _followable(made):
        return made
    as_written = replace(phrase, bars=tuple(replace(b, repeat_times=0, endings=()) for b in phrase.bars))
    return replace(playback_of(as_written, repeat), odd=True)


def _followable(playback: PlaybackOrder) -> bool:
    """Whether events are reached in the order they are written and repeated parts lie beside each other, first endings
    on their sides: what the search over seams can hold."""
    if any(b >= i for i, b in enumerate(playback.predecessor)):
        return False
    place = {e: p for p, e in enumerate(playback.main)}
    loops = set()
    for seam in playback.seams:
        side = playback.side(seam.source)
        last = playback.predecessor[side[0]] if side else seam.source
        if seam.target not in place or place[seam.target] > place[last]:
            return False
        loops.add((place[seam.target], place[last]))
    sided = sum(len(playback.side(s.source)) for s in playback.seams)
    inner = sorted(loops - {(0, len(playback.main) - 1)})
    apart = all(a[1] < b[0] for a, b in pairwise(inner))
    return apart and sided + len(playback.main) == len(playback.predecessor)


def _in_playing_order(phrase: Phrase) -> tuple[list[tuple[int, Fraction, float]], Fraction, float]:
    """(event, time in quarters and in ms as played) in playing order, and the time the whole takes, in both."""
    by_bar: dict[int, list[int]] = {}
    for e, event in enumerate(phrase.events):
        by_bar.setdefault(event.bar, []).append(e)
    found = []
    now, now_ms = Fraction(0), 0.0
    for index in phrase.playing_order():
        bar = phrase.bars[index]
        begins = phrase.seconds_at(bar.start)
        for e in by_bar.get(index, ()):
            onset = phrase.events[e].onset
            found.append((e, onset - bar.start + now, now_ms + 1000.0 * (phrase.seconds_at(onset) - begins)))
        now += bar.length
        now_ms += 1000.0 * (phrase.seconds_at(bar.end) - begins)
    return found, now, now_ms


def _ms(phrase: Phrase, a: int, b: int, quarters: Fraction, measured: float) -> float:
    """Time from event a to event b, so many written quarters later; swing moves both within their bars. Equal steps take
    exactly the same time, so that what is known of one is known of all; `measured` is what it is where the tempo changes."""
    if phrase.paced:
        return round(measured, 6)
    straight = _plain_ms(float(quarters), phrase.tempo)
    if phrase.swing.ratio == 1:
        return straight
    return straight + 1000.0 * (_late(phrase, b) - _late(phrase, a))


def _plain_ms(quarters: float, tempo: float) -> float:
    """What so many quarters take at a tempo."""
    return quarters * 60000.0 / tempo


def _late(phrase: Phrase, event: int) -> float:
    """Seconds by which swing delays an event."""
    bar = phrase.bars[phrase.events[event].bar]
    onset = phrase.events[event].onset
    return (phrase.seconds_at(onset) - phrase.seconds_at(bar.start)) - float(onset - bar.start) * 60.0 / phrase.tempo

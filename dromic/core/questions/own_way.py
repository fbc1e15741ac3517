"""My way: the player's own strokes, fingers and strings, judged as one more plan beside the best one of the same school.

What the player has set is what the phrase states (read from a file, or written down) and what is pinned. The school
yields wherever it says otherwise, and goes on from there.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from dromic.core.plan.kind_words import PICK_KINDS
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.prices.picking_rows import KINDS_OF_CHANGE, SWEEPS
from dromic.core.reports.comparison import differing, fretting_work, picking_work
from dromic.core.search.meant_pins import FINGERS, STROKES, freely, stated_pins
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.search.row_costs import broken
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.core.values.vocabulary import SIGN

MOST_DIFFERENCES = 12
"""stretches that are searched again with the player's own way let go"""
MOST_NAMED = 6
"""notes that a sentence names"""
RUN = 3
"""strokes against the school in a row from which on they are told as one run"""


@dataclass(frozen=True, slots=True)
class Difference:
    """A stretch of events that the player plays otherwise than the best plan, and what letting it go would bring:
    ceiling in quarters a minute, work in units of the objective (less is better); None where no plan is found."""

    events: tuple[int, ...]
    own: str
    best: str
    ceiling: float | None
    gain: float | None
    work: float | None


@dataclass(frozen=True, slots=True)
class OwnWay:
    """The player's own way as a plan, beside the best one of the same school."""

    plan: Plan
    best: Plan
    differences: tuple[Difference, ...]
    """the most costly first"""
    more: int
    """stretches beyond those searched"""
    breaks: tuple[str, ...]
    """where it breaks the school's own rule, in words"""


def is_stated(request: Request) -> bool:
    """Whether there is any way of the player's own to judge: a stroke or finger stated, or something pinned."""
    return bool(request.pins or request.overrides) or any(
        n.stroke or n.finger for e in request.phrase.events for n in e.notes
    )


def own_request(request: Request) -> Request:
    """The request in which everything the player has set holds, with the school yielding to it."""
    strokes = {pin.event: str(pin.value) for pin in stated_pins(request.phrase, (STROKES,))}
    overrides = {**strokes, **dict(request.overrides)}
    pins = list(stated_pins(request.phrase, (FINGERS,)))
    for pin in request.pins:
        if pin.field == "stroke" and pin.value in SIGN:
            overrides[pin.event] = str(pin.value)
        else:
            pins = [k for k in pins if (k.event, k.note, k.field) != (pin.event, pin.note, pin.field)]
            pins.append(pin)
    return replace(freely(request), pins=tuple(pins), overrides=tuple(sorted(overrides.items())))


def best_request(request: Request) -> Request:
    """The same request with nothing of the player's own."""
    return replace(freely(request), pins=(), overrides=())


def judge_own_way(request: Request, progress: Progress = lambda share: True) -> OwnWay:
    """The player's own way judged; DromicError where it cannot be played at all."""
    if not is_stated(request):
        raise DromicError("nothing of your own is set; write strokes or fingers on Write, or pin them on Plan")
    own_asked = own_request(request)
    own, best = solve(own_asked, progress), solve(best_request(request), progress)
    mine, theirs = judge(own), judge(best)
    runs = _runs(differing(mine, theirs))
    found = []
    for n, events in enumerate(runs[:MOST_DIFFERENCES]):
        if not progress(n / len(runs)):
            raise Cancelled
        found.append(_difference(own, best, events, progress))
    found.sort(key=lambda d: (-(d.gain or 0.0), d.work or 0.0))
    return OwnWay(mine, theirs, tuple(found), max(0, len(runs) - MOST_DIFFERENCES), tuple(_breaks(own, best)))


def _runs(events: Sequence[int]) -> list[tuple[int, ...]]:
    """Neighbouring events together; one that is the same between two that differ goes with them."""
    found: list[list[int]] = []
    for event in events:
        if found and event - found[-1][-1] <= 2:
            found[-1].append(event)
        else:
            found.append([event])
    return [tuple(run) for run in found]


def _difference(own: Solved, best: Solved, events: tuple[int, ...], progress: Progress) -> Difference:
    stretch = range(events[0], events[-1] + 1)
    request = own.request
    freed = replace(
        request,
        pins=tuple(k for k in request.pins if k.event not in stretch),
        overrides=tuple(o for o in request.overrides if o[0] not in stretch),
    )
    plan = judge(own)
    words = _words(plan, judge(best), stretch), _words(judge(best), plan, stretch)
    try:
        let_go = judge(solve(freed, progress, old=own))
    except DromicError:
        return Difference(events, *words, None, None, None)
    dial = request.player.judging.dial
    work = picking_work(let_go, dial) + fretting_work(let_go, dial)
    gain = (let_go.ceiling or 0.0) - (plan.ceiling or 0.0)
    before = picking_work(plan, dial) + fretting_work(plan, dial)
    return Difference(events, *words, let_go.ceiling, gain, work - before)


_SHORT = {"down": "d", "up": "u", "none": "–"}


def _words(plan: Plan, other: Plan, events: Sequence[int]) -> str:
    """Of some events what another plan does otherwise: strokes, strings, fingers."""
    told = []
    for name, field in (("strokes", "stroke"), ("strings", "string"), ("frets", "fret"), ("fingers", "finger")):
        here, there = ([getattr(p.events[e][0], field) for e in events] for p in (plan, other))
        if here != there:
            told.append(f"{name} {' '.join(_SHORT.get(str(v), str(v)) for v in here)}")
    attacks = [[p.events[e][0].attack for e in events] for p in (plan, other)]
    if attacks[0] != attacks[1]:
        told.append(f"sounded by {' '.join(attacks[0])}")
    return "; ".join(told)


def _breaks(own: Solved, best: Solved) -> Iterator[str]:
    """Strokes that are not what the school wants at their place, moves that it forbids, sweeps that arrive wrong."""
    label, plan = own.request.school.label, judge(own)
    wrong = [
        event
        for event, (sound, offer) in enumerate(zip(own.path.sounds, best.layers.options, strict=True))
        if sound.sign and offer.signs and sound.sign not in offer.signs
    ]
    for run in _neighbours(wrong, own):
        first, last = plan.events[run[0]][0], plan.events[run[-1]][0]
        if len(run) >= RUN:
            yield (
                f"From note {first.index + 1} (bar {first.bar_number}) to note {last.index + 1} every stroke is the opposite of what "
                f"{label} wants: {len(run)} strokes turned around"
            )
        else:
            for event in run:
                note = plan.events[event][0]
                yield f"Note {note.index + 1} (bar {note.bar_number}) is struck {note.stroke}; {label} wants the other stroke there"
    kinds = {move.to: move.pick_kind for move in plan.moves if not move.seam}
    others: dict[str, list[int]] = {}
    for event in (e for e in kinds if e not in wrong):
        for row in broken(own.path, event):
            if row.name == SWEEPS:
                continue  # told by what it makes of the sweep
            note = plan.events[event][0]
            if row.name == KINDS_OF_CHANGE and kinds[event] not in ("legato", "rest", "pluck"):
                by = PICK_KINDS[kinds[event]].by
                yield f"Note {note.index + 1} (bar {note.bar_number}) is reached by {by}, which {label} does not take"
            else:
                others.setdefault(row.words, []).append(note.index + 1)
    for words, notes in others.items():
        told = f"Note {notes[0]} goes" if len(notes) == 1 else f"Notes {_named(notes)} go"
        yield f"{told} against {label}: {words}"
    for finding in plan.findings:
        if finding.rule == "sweep-arrival":
            yield finding.text


def _named(notes: Sequence[int]) -> str:
    """Some numbers in words: the first of them, and how many more there are."""
    more = len(notes) - MOST_NAMED
    return f"{', '.join(map(str, notes[:MOST_NAMED]))}{f' and {more} more' if more > 0 else ''}"


def _neighbours(events: Sequence[int], own: Solved) -> list[list[int]]:
    """Runs of events that follow each other among the picked ones."""
    picked = [e for e, s in enumerate(own.path.sounds) if s.sign]
    place = {event: n for n, event in enumerate(picked)}
    keyed = itertools.groupby(enumerate(events), lambda pair: place[pair[1]] - pair[0])
    return [[event for _, event in run] for _, run in keyed]

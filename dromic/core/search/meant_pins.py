"""What a player writes is meant: strokes and fingers the phrase states are kept, and where they cannot all be, the plan is
made without the fewest of them, which are named.

The fewest are found by one more search in which every stated thing is open and leaving one costs more than any plan.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator
from dataclasses import dataclass, replace

from dromic.core.hands.articulation_options import EventOptions, offers_of
from dromic.core.music.phrase import Phrase
from dromic.core.music.stated_positions import left_open
from dromic.core.plan.request import Request
from dromic.core.search.lattice import lay_out
from dromic.core.search.pin_masks import fewest_broken
from dromic.core.search.planner import Solved, rhythm_of, solve, solve_beside
from dromic.core.setup.pin import Pin
from dromic.core.timing.beat_positions import pulse_unit
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.core.values.vocabulary import DOWN, UP

STROKES, FINGERS = "strokes", "fingers"
_FIELD = {STROKES: "stroke", FINGERS: "finger"}
MOST_NAMED = 8


@dataclass(frozen=True, slots=True)
class Stated:
    """How many strokes and fingers a phrase states, and how many grace notes of which it states no more."""

    strokes: int
    fingers: int
    graces: int = 0


def stated(phrase: Phrase) -> Stated:
    """What a phrase states; strokes are counted by event, fingers by note."""
    strokes = sum(e.stroke in (DOWN, UP) and e.struck for e in phrase.events)
    graces = sum(e.grace and e.attack is None for e in phrase.events)
    return Stated(strokes, sum(n.finger is not None for e in phrase.events for n in e.notes), graces)


def freely(request: Request) -> Request:
    """The request with what the phrase states of strokes and fingers left open."""
    return replace(request, keep=request.keep - {STROKES, FINGERS})


def opened_at(request: Request, event: int) -> Request | None:
    """The request with the strokes and fingers that it keeps left open at one event; None where none is stated there."""
    pins = [pin for pin in stated_pins(request.phrase, request.keep) if pin.event == event]
    return replace(request, phrase=_without(request.phrase, pins)) if pins else None


def solve_meant(request: Request, progress: Progress | None = None, before: Solved | None = None) -> Solved:
    """The best route for a request with what its phrase states and it keeps, as far as that can be; says how much that is. What
    differs from one solved `before` in its pins alone is searched on the layers of that. DromicError where there is no plan even
    without."""

    def solved(asked: Request) -> Solved:
        return solve(asked, progress) if before is None else solve_beside(asked, before, progress)

    wanted = [name for name in (STROKES, FINGERS) if name in request.keep]
    counts = stated(request.phrase)
    held = {name: getattr(counts, name) for name in wanted if getattr(counts, name)}
    if not held:
        return solved(request)
    try:
        return _saying(solved(request), _kept_words(held, ()))
    except DromicError:
        go = _fewest(request, tuple(held), progress)
        if not go:
            raise  # it is not what is written that stands in the way
    let_go = replace(request, phrase=_without(request.phrase, go))
    return _saying(solved(let_go), _kept_words(held, go))


def _saying(solved: Solved, sentence: str) -> Solved:
    return replace(solved, notices=(*solved.notices, sentence))


def _kept_words(held: dict[str, int], go: tuple[Pin, ...]) -> str:
    told = []
    for name, count in held.items():
        left = count - sum(pin.field == _FIELD[name] for pin in go)
        whole = f"all {count} written {name}" if count > 1 else f"the written {_FIELD[name]}"
        told.append(whole if left == count else f"{left} of {count} written {name if count > 1 else _FIELD[name]}")
    words = " and ".join(told) + (" is kept" if len(told) == 1 and sum(held.values()) == 1 else " are kept")
    if not go:
        return words
    named = [str(pin) for pin in go[:MOST_NAMED]]
    more = [f"{len(go) - MOST_NAMED} more"] if len(go) > MOST_NAMED else []
    return f"{words}; they cannot all hold, so these are let go: {'; '.join([*named, *more])}"


def stated_pins(phrase: Phrase, names: Collection[str]) -> Iterator[Pin]:
    """What a phrase states of strokes and fingers, as pins."""
    for number, event in enumerate(phrase.events):
        if STROKES in names and event.stroke in (DOWN, UP) and event.struck:
            yield Pin(number, 0, "stroke", str(event.stroke))
        if FINGERS in names:
            for n, note in enumerate(event.notes):
                if note.finger is not None:
                    yield Pin(number, n, "finger", note.finger)


def _without(phrase: Phrase, go: Iterable[Pin]) -> Phrase:
    """The phrase without some of what it states: a stroke of the whole event, a finger of its note."""
    by_event: dict[int, list[Pin]] = {}
    for pin in go:
        by_event.setdefault(pin.event, []).append(pin)

    def fields(pins: list[Pin]) -> Callable[[int], list[str]]:
        return lambda note: [pin.field for pin in pins if pin.field == "stroke" or pin.note == note]

    return left_open(phrase, {event: fields(pins) for event, pins in by_event.items()})


def _fewest(request: Request, names: tuple[str, ...], progress: Progress | None) -> tuple[Pin, ...]:
    """The smallest set of stated strokes and fingers without which there is a plan; empty where there is none anyway.

    Searched with everything open that is stated: the strokes the school asks for beside the written ones, every finger."""
    bare = freely(request)
    rhythm = rhythm_of(request)
    unit = pulse_unit(request.phrase, request.pulse, request.school)
    asked, written = (offers_of(one, unit, rhythm) for one in (bare, replace(bare, keep=bare.keep | {STROKES})))
    if STROKES in names:
        asked = tuple(_both(a, b) for a, b in zip(asked, written, strict=True))
    layers = lay_out(bare, unit, rhythm, progress, made=asked)
    return fewest_broken(layers, tuple(stated_pins(request.phrase, names)), request.pins) or ()


def _both(one: EventOptions, other: EventOptions) -> EventOptions:
    """An offer of the strokes of two."""
    return replace(one, signs=tuple(sorted({*one.signs, *other.signs}, reverse=True)))

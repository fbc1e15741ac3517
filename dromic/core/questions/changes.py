"""One thing changed at a time: every other way a note could be played, and the plan it leads to, searched again.

Another string, finger or stroke at a note is read off the passes that are already there; a note left unpicked, a stroke
against the school, the other first stroke and another lean lay out anew only what they touch.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

from dromic.core.hands.fretting_nodes import FINGER_NAMES
from dromic.core.line.one_fret import row_around
from dromic.core.plan.finding import Change
from dromic.core.plan.plan import PlanNote
from dromic.core.search.pin_masks import masks_of
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.setup.pin import BARRE, Pin
from dromic.core.setup.player import Lean
from dromic.core.setup.school import School
from dromic.core.values.errors import DromicError
from dromic.core.values.vocabulary import DOWN, PLUCK, PLUCKERS, SLUR, UP

OTHER = {DOWN: UP, UP: DOWN}
_FEWEST_FLAT = 2
"""Notes for which a finger lies flat, at least."""


@dataclass(frozen=True, eq=False)
class Tried:
    """One thing changed, and the plan with it."""

    change: Change
    solved: Solved


def tried_at(solved: Solved, event: int, note: PlanNote) -> Iterator[Tried]:
    """Every other string, finger and stroke than a note has for an event that the
    request leaves open, and the event unpicked."""
    yield from tried_strings(solved, event, note)
    yield from tried_fingers(solved, event, note)
    yield from tried_barre(solved, event)
    yield from tried_strokes(solved, event, note)


def tried_fingers(solved: Solved, event: int, note: PlanNote) -> Iterator[Tried]:
    """The event with every other finger than a note's; none where it is a chord."""
    lead = f"note {note.index + 1}"
    layer, shape = solved.layers.layers[event], solved.path.shape(event)
    for finger in sorted({s.notes[0].finger for s in layer.fretting.shapes if s.strings == shape.strings}):
        name = FINGER_NAMES[finger]
        if len(shape.notes) == 1 and finger and name != note.finger:
            pins = (Pin(event, 0, "string", note.string), Pin(event, 0, "finger", name))
            yield from _pinned(solved, f"take {lead} with finger {name}", *pins)


def tried_barre(solved: Solved, event: int) -> Iterator[Tried]:
    """A flat finger over the notes around an event that lie at its fret on neighbour strings, where they are rolled or have a finger
    each."""
    run = row_around(solved.request.phrase, event)
    if "positions" not in solved.request.keep or len(run) < _FEWEST_FLAT or any(solved.path.shape(e).flat for e in run):
        return
    pins = tuple(Pin(e, 0, BARRE, "yes") for e in run)
    asked = replace(solved.request, pins=(*solved.request.pins, *pins))
    found = _again(lambda: solve(asked, old=solved, rough=True))
    if found is not None:
        first, last = (judge(solved).events[e][0].index + 1 for e in (run[0], run[-1]))
        yield Tried(
            Change(f"lay one finger flat over notes {first} to {last}: no roll, and they ring together", pins), found
        )


def tried_strokes(solved: Solved, event: int, note: PlanNote) -> Iterator[Tried]:
    """The event with the other stroke, and unpicked."""
    lead = f"note {note.index + 1}"
    other = OTHER.get(note.stroke)
    if other is not None:
        yield from _pinned(solved, f"play {lead} with the {other}-stroke", Pin(event, 0, "stroke", other))
        yield from tried_unpicked(solved, event)


def tried_strings(solved: Solved, event: int, note: PlanNote) -> Iterator[Tried]:
    """The event on every string but a note's; none where it is a chord or its place is fixed."""
    groups = solved.layers.layers[event].fretting.groups
    if len(groups) > 1 and len(groups[0]) == 1:
        for (string,) in groups:
            if string != note.string:
                text = f"play note {note.index + 1} on string {string}"
                yield from _pinned(solved, text, Pin(event, 0, "string", string))


def tried_plucks(solved: Solved, event: int) -> Iterator[Tried]:
    """The event plucked by each other bare finger that the school lets take it."""
    note = judge(solved).events[event][0]
    layer = solved.layers.layers[event]
    if len(solved.path.shape(event).notes) == 1:
        open_to = {PLUCKERS[f] for part in layer.parts if part.attack == PLUCK for way in part.fingers for f in way}
        for finger in sorted(open_to - {note.stroke}):
            yield from _pinned(solved, f"pluck note {note.index + 1} with {finger}", Pin(event, 0, "stroke", finger))


def tried_against(solved: Solved, event: int) -> Iterator[Tried]:
    """The other stroke where the school does not allow it: the school yields at this note and goes on from it."""
    note = judge(solved).events[event][0]
    other = OTHER.get(note.stroke)
    if other is None or event in dict(solved.request.overrides):
        return
    request = replace(solved.request, overrides=(*solved.request.overrides, (event, other)))
    found = _again(lambda: solve(request, old=solved, rough=True))
    if found is not None:
        text = f"play note {note.index + 1} with the {other}-stroke, against the school"
        yield Tried(Change(text, override=(event, other)), found)


def tried_of_all(solved: Solved, leans: Mapping[str, tuple[Lean, ...]]) -> Iterator[Tried]:
    """The other first stroke, and each other lean (by what it does in words)."""
    request = solved.request
    first = next((s.sign for s in solved.path.sounds if s.sign), 0)
    if first and not request.school.pattern:
        other = UP if first > 0 else DOWN
        started = replace(request, start=other)
        found = _again(lambda: solve(started, old=solved, rough=True))
        if found is not None:
            yield Tried(Change(f"start on the {other}-stroke", start=other), found)
    for label, lean in leans.items():
        if lean != request.player.leans:
            leaning = replace(request, player=request.player.with_leans(lean))
            found = _again(lambda leaning=leaning: solve(leaning, rough=True, pace=solved.pace))  # type: ignore[misc]
            if found is not None:
                yield Tried(Change(f"lean so that {label}", lean=label), found)


def tried_schools(solved: Solved, schools: Mapping[str, School]) -> Iterator[Tried]:
    """The whole in each other school of some by name, where this one neither carries on to the next string nor has its own pattern."""
    own = solved.request.school
    if "carry-through" in own.kinds or own.pattern or own.plucks != "stated":
        return
    for name, school in schools.items():
        asked = replace(solved.request, school=school, start=None, pulse=None)
        found = _again(lambda asked=asked: solve(asked, rough=True, pace=solved.pace))  # type: ignore[misc]
        if found is not None:
            yield Tried(
                Change(f"play it in {school.label.lower()}, which carries on to the next string", school=name), found
            )


def _pinned(solved: Solved, text: str, *pins: Pin) -> Iterator[Tried]:
    masks = masks_of(solved.layers, pins)
    if all(mask.any() for mask in masks.values()):
        found = solved.narrowed(solved.request, masks)
        if found is not None:
            yield Tried(Change(text, pins), found)


def tried_unpicked(solved: Solved, event: int) -> Iterator[Tried]:
    """The note hammered, pulled or slid instead, where the note before it is on its string."""
    lead = f"note {judge(solved).events[event][0].index + 1}"
    offers, request = solved.layers.options, solved.request
    if event == 0 or len(request.phrase.events[event].notes) > 1:
        return
    if solved.layers.builder.ways.remembers or request.school.pattern:
        return
    made = tuple(replace(o, attacks=(SLUR,), signs=()) if i == event else o for i, o in enumerate(offers))
    found = _again(lambda: solve(request, old=solved, made=made, rough=True))
    if found is not None:
        attack = found.path.sounds[event].attack
        word = {"hammer": "hammer", "pull": "pull off to", "slide": "slide to"}[attack]
        yield Tried(Change(f"{word} {lead} instead of picking it", attacks=((event, attack),)), found)


def _again(search: Callable[[], Solved]) -> Solved | None:
    try:
        return search()
    except DromicError:
        return None

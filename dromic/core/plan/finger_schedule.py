"""The finger schedule: when each finger of the fretting hand presses and lifts, as the player's hold habit has it.

Judged after the search, on the plan it found: a finger that stays planted costs nothing there and saves a motion here.
Times are in seconds from the start of the phrase.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator
from dataclasses import dataclass, replace

from dromic.core.plan.plan import Move, Plan, PlanNote
from dromic.core.values.vocabulary import HAMMER, PULL, TAP


@dataclass(frozen=True, slots=True)
class Press:
    """A finger down at a place from `start_s` to `end_s`; `events` are those it sounds, in order. `again` is set where
    it comes down a second time though it could have stayed, `late` where a pull-off makes it come down as an extra
    motion, `cut_s` is how much of the last note a shift takes away. A press begins before its first note where the finger
    comes down with the note that is pulled off to it, and goes on after its last where it stays under a higher note."""

    finger: str
    string: int
    fret: int
    start_s: float
    end_s: float
    events: tuple[int, ...]
    again: bool = False
    late: bool = False
    cut_s: float = 0.0


@dataclass(frozen=True, slots=True)
class Schedule:
    """All presses in order, and for each event how many fingers come down or lift for it."""

    presses: tuple[Press, ...]
    motions: tuple[int, ...]

    @property
    def avoidable(self) -> int:
        """Presses that a finger left down would have saved."""
        return sum(p.again for p in self.presses)


_Key = tuple[str, int, int]
"""finger, string, fret"""


def schedule(plan: Plan) -> Schedule:
    """The finger schedule of a plan."""
    chords = plan.events
    presses = sorted(_presses(plan, chords), key=lambda press: (press.start_s, press.events[0]))
    onward = plan.onward
    presses = [_held(plan, chords, onward, press) for press in presses]
    motions = [0] * len(chords)
    starts = [_start(chord) for chord in chords]
    for press in presses:
        motions[press.events[0]] += 1
        after = bisect_left(starts, press.end_s, press.events[-1] + 1)
        if after < len(chords):
            motions[after] += 1
    return Schedule(tuple(presses), tuple(motions))


def _start(chord: tuple[PlanNote, ...]) -> float:
    return chord[0].start_s


def _fretted(note: PlanNote) -> bool:
    return note.finger != "0" and note.attack != TAP


def _presses(plan: Plan, chords: tuple[tuple[PlanNote, ...], ...]) -> Iterator[Press]:
    """Presses from note to note, lifted when the note ends; a finger that goes on at its place goes on pressing."""
    open_presses: dict[_Key, Press] = {}
    stays: set[_Key] = set()
    """presses that stay down under higher notes of their string"""
    last_of: dict[str, tuple[int, int, int, int]] = {}
    needed_open: dict[int, int] = {}
    """for each string, the last event that needed it free of fingers or stopped lower"""
    for event, chord in enumerate(chords):
        now = {(n.finger, n.string, n.fret): n for n in chord if _fretted(n)}
        busy = {key[0] for key in now}
        strings = {n.string for n in chord}
        for key in list(open_presses):
            if key in now:
                continue
            if _stays_under(plan, chords, open_presses[key], event):
                stays.add(key)
                above = next(n for n in chord if n.string == key[1])
                open_presses[key] = replace(open_presses[key], end_s=above.end_s)
            elif key[0] in busy or key[1] in strings or key in stays:
                stays.discard(key)
                yield open_presses.pop(key)
        for key, note in now.items():
            finger, string, fret = key
            if key in open_presses and (key in stays or open_presses[key].events[-1] == event - 1):
                stays.discard(key)
                held = open_presses[key]
                open_presses[key] = replace(held, end_s=note.end_s, events=(*held.events, event))
                continue
            before = last_of.get(finger)
            again = (
                before is not None
                and before[:3] == (string, fret, note.position)
                and before[3] < event - 1
                and needed_open.get(string, -1) <= before[3]
            )
            if key in open_presses:
                if again and before is not None and _rings_on(plan, chords, open_presses[key], before, event):
                    open_presses[key] = replace(
                        open_presses[key], end_s=note.end_s, events=(*open_presses[key].events, event)
                    )
                    continue
                yield open_presses.pop(key)
            start_s, late = note.start_s, False
            if note.attack == PULL and not _down_before(plan, chords, event, note):
                late = not _down_with_the_last(plan, chords, event, note)
                start_s = note.start_s if late else _start(chords[event - 1])
            open_presses[key] = Press(finger, string, fret, start_s, note.end_s, (event,), again, late)
        for note in chord:
            if _fretted(note):
                last_of[note.finger] = (note.string, note.fret, note.position, event)
            for key in list(open_presses):
                if key[1] == note.string and key[2] > note.fret and open_presses[key].events[-1] < event:
                    yield open_presses.pop(key)
            needed_open[note.string] = event if not _fretted(note) else needed_open.get(note.string, -1)
        for note in chord:
            for finger, (string, fret, _, _) in list(last_of.items()):
                if string == note.string and fret > note.fret:
                    del last_of[finger]
    yield from open_presses.values()


def _stays_under(plan: Plan, chords: tuple[tuple[PlanNote, ...], ...], press: Press, event: int) -> bool:
    """Whether a finger stays down while a higher note of its string sounds: the hand reaches both from one position, and it is
    hammered from that finger's note, or the line comes back to that before the finger or the string is wanted otherwise."""
    if plan.request.player.habits.hold == "lift":
        return False
    position = _last_note(chords, press).position
    for later in range(event, len(chords)):
        chord = chords[later]
        fretted = [n for n in chord if _fretted(n)]
        back = any((n.finger, n.string, n.fret) == (press.finger, press.string, press.fret) for n in fretted)
        if back:
            return later > event
        above = [n for n in chord if n.string == press.string]
        if any(n.position != position or n.finger == press.finger for n in fretted) or any(
            n.fret <= press.fret or n.attack == TAP for n in above
        ):
            return False
        if later == event and (not above or above[0].attack == HAMMER):
            return bool(above)
    return False


def _down_with_the_last(plan: Plan, chords: tuple[tuple[PlanNote, ...], ...], event: int, note: PlanNote) -> bool:
    """Whether the finger of a pull-off's target comes down together with the note that is pulled off: the hand reaches both from one
    position, and the finger plays nothing there, nor so shortly before that it cannot get there."""
    before = chords[event - 1] if event else ()
    if not any(n.string == note.string and _fretted(n) and n.position == note.position for n in before):
        return False
    jump_s = plan.request.player.fretting.jump_ms / 1000
    busy = [*before, *(n for n in chords[event - 2] if event > 1 and _start(before) - n.start_s < jump_s)]
    return all(n.finger != note.finger for n in busy)


def _rings(plan: Plan, note: PlanNote) -> bool:
    """Whether a finger stays down past the end of its note."""
    return plan.request.player.habits.hold == "ring" or "let-ring" in note.marks


def _last_note(chords: tuple[tuple[PlanNote, ...], ...], press: Press) -> PlanNote:
    return next(n for n in chords[press.events[-1]] if (n.finger, n.string) == (press.finger, press.string))


def _rings_on(
    plan: Plan,
    chords: tuple[tuple[PlanNote, ...], ...],
    press: Press,
    before: tuple[int, int, int, int],
    event: int,
) -> bool:
    """Whether a finger still rings at an event: nothing wanted it elsewhere, and the hand has stood still since."""
    *_, position, since = before
    still = all(n.position == position for chord in chords[since:event] for n in chord if _fretted(n))
    return still and _rings(plan, _last_note(chords, press))


def _held(plan: Plan, chords: tuple[tuple[PlanNote, ...], ...], onward: tuple[Move, ...], press: Press) -> Press:
    """A press with the end its player's habit gives it, and what a shift takes from it."""
    habit = plan.request.player.habits.hold
    last = press.events[-1]
    note = _last_note(chords, press)
    following = _start(chords[last + 1]) if last + 1 < len(chords) else note.end_s
    end = max(note.end_s, press.end_s)
    if _rings(plan, note):
        end = _needed_elsewhere(chords, press) or chords[-1][0].end_s
    elif habit == "lift":
        middle = (note.start_s + note.end_s) / 2  # it sounds for half its length at least
        end = min(end, max(following - plan.request.player.judging.overlap_ms / 1000, middle))
    elif habit in ("until-next", "overlap") and following - end < plan.request.player.judging.memory_ms / 1000:
        end = max(end, following)
        if habit == "overlap":
            wanted = _needed_elsewhere(chords, press, under=True)
            longer = following + plan.request.player.judging.overlap_ms / 1000
            end = max(end, longer if wanted is None else min(longer, wanted))
    cut = 0.0
    for place in range(last, len(onward)):
        move = onward[place]
        if move.fret_kind == "shift":
            leave = _start(chords[move.to]) - move.fret_ms / 1000
            if leave < note.end_s:
                cut = max(0.0, note.end_s - max(leave, note.start_s))
            end = min(end, max(leave, note.start_s))
        if _start(chords[move.to]) >= end:
            break
    p = press
    return Press(p.finger, p.string, p.fret, p.start_s, max(end, p.start_s), p.events, p.again, p.late, cut)


def _needed_elsewhere(chords: tuple[tuple[PlanNote, ...], ...], press: Press, under: bool = False) -> float | None:
    """When a finger left down is wanted somewhere else, or its string is: by any note, or where it may stay `under` one by a note that
    is no higher."""
    for event in range(press.events[-1] + 1, len(chords)):
        chord = chords[event]
        wanted = (n.string == press.string and not (under and n.fret > press.fret) for n in chord)
        if any(n.finger == press.finger for n in chord) or any(wanted):
            return _start(chord)
    return None


def _down_before(plan: Plan, chords: tuple[tuple[PlanNote, ...], ...], event: int, note: PlanNote) -> bool:
    """Whether the finger of a pull-off's target sounded its place lately and was not needed elsewhere since, so that it
    may still be down; otherwise it must come down first: three notes are four motions then."""
    memory = plan.request.player.judging.memory_ms / 1000
    for chord in (chords[e] for e in range(event - 1, -1, -1)):
        if note.start_s - _start(chord) > memory:
            return False
        for other in chord:
            if other.finger == note.finger:
                return (other.string, other.fret) == (note.string, note.fret)
            if other.string == note.string and other.fret < note.fret:
                return False
    return False

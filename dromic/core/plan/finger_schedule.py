"""The finger schedule: when each finger of the fretting hand presses and lifts, as the player's hold habit has it.

Judged after the search, on the plan it found: a finger that stays planted costs nothing there and saves a motion here.
Times are in seconds from the start of the phrase.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator
from dataclasses import dataclass, replace

from dromic.core.plan.plan import Move, Plan, PlanNote
from dromic.core.values.vocabulary import PULL, TAP


@dataclass(frozen=True, slots=True)
class Press:
    """A finger down at a place from `start_s` to `end_s`; `events` are those it sounds, in order. `again` is set where
    it comes down a second time though it could have stayed, `late` where a pull-off makes it come down as an extra
    motion, `cut_s` is how much of the last note a shift takes away."""

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


def schedule(plan: Plan) -> Schedule:
    """The finger schedule of a plan."""
    chords = plan.events
    presses = list(_presses(plan, chords))
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
    open_presses: dict[tuple[str, int, int], Press] = {}
    last_of: dict[str, tuple[int, int, int, int]] = {}
    needed_open: dict[int, int] = {}
    """for each string, the last event that needed it free of fingers or stopped lower"""
    for event, chord in enumerate(chords):
        now = {(n.finger, n.string, n.fret): n for n in chord if _fretted(n)}
        busy = {key[0] for key in now}
        strings = {n.string for n in chord}
        for key in list(open_presses):
            if key not in now and (key[0] in busy or key[1] in strings):
                yield open_presses.pop(key)
        for key, note in now.items():
            finger, string, fret = key
            if key in open_presses and open_presses[key].events[-1] == event - 1:
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
            late = note.attack == PULL and not _down_before(plan, chords, event, note)
            open_presses[key] = Press(finger, string, fret, note.start_s, note.end_s, (event,), again, late)
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
    end = note.end_s
    if _rings(plan, note):
        end = _needed_elsewhere(chords, press) or chords[-1][0].end_s
    elif habit in ("until-next", "overlap") and following - end < plan.request.player.judging.memory_ms / 1000:
        end = max(end, following)
        if habit == "overlap":
            wanted = _needed_elsewhere(chords, press)
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


def _needed_elsewhere(chords: tuple[tuple[PlanNote, ...], ...], press: Press) -> float | None:
    """When a finger left ringing is wanted somewhere else, or its string is."""
    for event in range(press.events[-1] + 1, len(chords)):
        chord = chords[event]
        if any(n.finger == press.finger or n.string == press.string for n in chord):
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

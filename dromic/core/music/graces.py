"""Grace notes and the notes they lead to: whose time they take, and when what is written.

A phrase holds its grace notes in the time before the note they lead to. Those before the very first note, where there is no such
time, begin the phrase, and their note comes later by so much.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from fractions import Fraction

from dromic.core.music.phrase import Event, Phrase
from dromic.core.values.vocabulary import ON


def graces_before(phrase: Phrase) -> dict[int, tuple[int, ...]]:
    """For every event that grace notes lead straight to, the numbers of these, in order."""
    found: dict[int, tuple[int, ...]] = {}
    group: list[int] = []
    for i, event in enumerate(phrase.events):
        if group and phrase.events[group[-1]].end != event.onset:
            group = []
        if event.grace:
            group.append(i)
        elif group:
            found[i] = tuple(group)
            group = []
    return found


def opening(phrase: Phrase) -> int | None:
    """The event that graces at the very start lead to, which comes later than it is written by as much as they last."""
    if not phrase.events or phrase.events[0].onset or not phrase.events[0].grace:
        return None
    return next((main for main, graces in graces_before(phrase).items() if graces[0] == 0), None)


def written_onset(phrase: Phrase, event: int) -> Fraction:
    """When an event that is no grace is written, in quarters from the start."""
    return Fraction(0) if event == opening(phrase) else phrase.events[event].onset


def sounding(phrase: Phrase, when: str) -> Phrase:
    """The same events at the times at which they sound."""
    groups = graces_before(phrase)
    if when != ON or not groups:
        return phrase
    events = list(phrase.events)
    for main, graces in groups.items():
        if main == opening(phrase):
            continue
        event, begins = events[main], events[graces[0]].onset
        following = events[main + 1].onset if main + 1 < len(events) else event.end
        room = min(following - event.onset, *(n.duration for n in event.notes))
        each = min(events[graces[0]].notes[0].duration, room / (2 * len(graces)))
        for n, grace in enumerate(graces):
            notes = tuple(replace(note, duration=each) for note in events[grace].notes)
            events[grace] = Event(event.onset + n * each, notes, event.bar)
        late = each * len(graces)
        shorter = tuple(replace(note, duration=note.duration - late) for note in event.notes)
        before = graces[0] - 1
        if before >= 0:
            events[before] = _longer(events[before], begins, event.onset)
        events[main] = Event(event.onset + late, shorter, event.bar)
    return phrase.with_events(events)


def without_graces(phrase: Phrase, mains: Collection[int]) -> Phrase:
    """The phrase without the graces that lead to some events; the time they took is given back."""
    events, gone = list(phrase.events), set()
    for main, graces in graces_before(phrase).items():
        if main not in mains:
            continue
        gone |= set(graces)
        onset, begins = written_onset(phrase, main), phrase.events[graces[0]].onset
        if graces[0]:
            events[graces[0] - 1] = _longer(events[graces[0] - 1], begins, onset)
        late = events[main].onset - onset
        notes = tuple(replace(note, duration=note.duration + late) for note in events[main].notes)
        events[main] = replace(events[main], onset=onset, notes=notes)
    return phrase.with_events(event for i, event in enumerate(events) if i not in gone)


def as_written(phrase: Phrase, when: str) -> tuple[tuple[Fraction, Fraction], ...]:
    """For every event when it is written, and how much longer it is written than the phrase holds it; in quarters. A grace stands
    where its time is taken: before its note, at the very start before 0, or with it."""
    found = [(event.onset, Fraction(0)) for event in phrase.events]
    first = opening(phrase)
    for main, graces in graces_before(phrase).items():
        starts = written_onset(phrase, main)
        late = phrase.events[main].onset - starts
        found[main] = starts, late
        for grace in graces:
            if when == ON:
                found[grace] = starts, Fraction(0)
            elif main == first:
                found[grace] = phrase.events[grace].onset - late, Fraction(0)
        before = graces[0] - 1
        begins = phrase.events[graces[0]].onset
        if when == ON and before >= 0 and phrase.events[before].end == begins:
            found[before] = found[before][0], found[before][1] + phrase.events[main].onset - begins
    return tuple(found)


def _longer(event: Event, ended: Fraction, ends: Fraction) -> Event:
    """An event whose notes have back the time that was taken from their end."""
    notes = tuple(
        replace(note, duration=ends - event.onset) if event.onset + note.duration == ended else note
        for note in event.notes
    )
    return replace(event, notes=notes)

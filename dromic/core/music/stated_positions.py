"""A phrase settled on an instrument: where a stated string and fret disagree with the pitch, they win, and it is said."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Set
from dataclasses import replace
from typing import Any

from dromic.core.music.phrase import Event, Note, Phrase
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.core.values.pitch import note_name


def resolve_positions(phrase: Phrase, instrument: Instrument) -> Phrase:
    """The phrase with every stated position on the instrument; DromicError for a string or fret it does not have."""
    notices: list[str] = []
    events = []
    for event in phrase.events:
        bar = phrase.bars[event.bar].number
        notes = tuple(_settled(n, instrument, bar, notices) for n in event.notes)
        events.append(event if notes == event.notes else replace(event, notes=notes))
    if len(notices) > 3:
        notices = [*notices[:2], f"{len(notices) - 2} more pitches disagree with their string and fret, which win"]
    return replace(phrase, events=tuple(events), instrument=instrument, notices=(*phrase.notices, *notices))


def _settled(note: Note, instrument: Instrument, bar: int, notices: list[str]) -> Note:
    if note.string is None or note.fret is None:
        return note
    try:
        pitch = instrument.pitch_at(note.string, note.fret)
    except DromicError as error:
        raise DromicError(
            f"{error.what} on the {instrument.label}; choose another instrument", where=f"bar {bar}"
        ) from error
    if pitch == note.pitch:
        return note
    notices.append(
        f"bar {bar}: string {note.string} fret {note.fret} sounds {note_name(pitch)}, not the {note_name(note.pitch)} "
        "written; string and fret win"
    )
    return replace(note, pitch=pitch)


PLACE = ("string", "fret", "finger")
Open = Mapping[int, Callable[[int], Collection[str]]]
"""for some events, which of the things it states a note leaves open, by its number in the event"""


def left_open(phrase: Phrase, what: Open) -> Phrase:
    """The phrase with some of what its notes state left open; events that state none of it stay the same values."""

    def opened(number: int, event: Event) -> Event:
        notes = []
        for n, note in enumerate(event.notes):
            gone: dict[str, Any] = {name: None for name in what[number](n) if getattr(note, name) is not None}
            notes.append(replace(note, **gone) if gone else note)
        return (
            event
            if all(a is b for a, b in zip(notes, event.notes, strict=True))
            else replace(event, notes=tuple(notes))
        )

    events = tuple(opened(i, e) if i in what else e for i, e in enumerate(phrase.events))
    return phrase if all(a is b for a, b in zip(events, phrase.events, strict=True)) else replace(phrase, events=events)


def placed_freely(phrase: Phrase, events: Set[int]) -> Phrase:
    """The phrase with the strings, frets and fingers of some events left open."""
    return left_open(phrase, {event: lambda note: PLACE for event in events})

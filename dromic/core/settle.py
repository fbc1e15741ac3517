"""A phrase settled on an instrument: where a stated string and fret disagree with the pitch, they win, and it is said."""

from __future__ import annotations

from collections.abc import Set
from dataclasses import replace

from dromic.core.errors import DromicError
from dromic.core.instrument import Instrument
from dromic.core.phrase import Note, Phrase
from dromic.core.pitch import note_name


def settled(phrase: Phrase, instrument: Instrument) -> Phrase:
    """The phrase with every stated position on the instrument; DromicError for a string or fret it does not have."""
    said: list[str] = []
    events = []
    for event in phrase.events:
        bar = phrase.bars[event.bar].number
        notes = tuple(_settled(n, instrument, bar, said) for n in event.notes)
        events.append(event if notes == event.notes else replace(event, notes=notes))
    if len(said) > 3:
        said = [*said[:2], f"{len(said) - 2} more pitches disagree with their string and fret, which win"]
    return replace(phrase, events=tuple(events), instrument=instrument, said=(*phrase.said, *said))


def _settled(note: Note, instrument: Instrument, bar: int, said: list[str]) -> Note:
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
    said.append(
        f"bar {bar}: string {note.string} fret {note.fret} sounds {note_name(pitch)}, not the {note_name(note.pitch)} "
        "written; string and fret win"
    )
    return replace(note, pitch=pitch)


def placed_freely(phrase: Phrase, events: Set[int]) -> Phrase:
    """The phrase with the strings, frets and fingers of some events left open."""
    freed = tuple(
        replace(e, notes=tuple(replace(n, string=None, fret=None, finger=None) for n in e.notes)) if i in events else e
        for i, e in enumerate(phrase.events)
    )
    return replace(phrase, events=freed) if freed != phrase.events else phrase

"""Reads and writes Dromic's own document: a songbook of entries as UTF-8 JSON, whose shape stands in shape.py.

The values check themselves as they are made. Written is only what is not as it is by default.
"""

from __future__ import annotations

import json
from collections.abc import Collection
from dataclasses import replace
from fractions import Fraction
from typing import Any

import msgspec

from dromic import presets
from dromic.core.music.octaves import AS_FILED, GUITAR
from dromic.core.music.phrase import Bar, Event, Note, Phrase, Section, Swing
from dromic.core.music.songbook import Entry, Songbook, id_from
from dromic.core.setup.instrument import Instrument
from dromic.core.values.checks import check_choice
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.pitch import note_name, note_number
from dromic.formats.document.choices_entry import choices_of, choices_shape, decision_of, decision_shape
from dromic.formats.document.shape import (
    NO_BEND,
    STEADY,
    BarShape,
    EntryShape,
    EventShape,
    InstrumentShape,
    NoteShape,
    PhraseShape,
    SectionShape,
    SongbookShape,
    SwingShape,
    decoded,
    plain,
)
from dromic.formats.document.version import VERSION
from dromic.formats.limits import check_phrase, check_words

OWN_INSTRUMENT = "own"
"""the name of an instrument whose measures stand in a document"""
EVENT_DEPTH = 7
"""how deep an event lies in a document: each stands in one line, which is read and compared well and written quickly"""


def document_titles(data: bytes) -> list[str]:
    """The titles of a songbook's phrases, in order."""
    return [entry.phrase.title for entry in decoded(data).entries]


def read_document(data: bytes, tune: int = 1, part: int = 1) -> Phrase:
    """The Nth phrase of a songbook."""
    return read_entry(data, tune, part).phrase


def read_entry(data: bytes, tune: int = 1, part: int = 1) -> Entry:
    """The Nth entry of a songbook."""
    if part != 1:
        raise DromicError(f"there is no part {part}; a songbook's phrases have one part")
    book = decoded(data)
    if not 1 <= tune <= len(book.entries):
        raise DromicError(f"there is no phrase {tune}; the songbook holds {len(book.entries)}")
    return _entry_of(book, tune - 1, {e.id for e in book.entries[: tune - 1]})


def read_songbook(data: bytes) -> Songbook:
    """A whole songbook."""
    book = decoded(data)
    check_words(book.title, book.about)
    entries: list[Entry] = []
    taken: set[str] = set()
    for place, shape in enumerate(book.entries):
        entries.append(_entry_of(book, place, taken))
        taken.add(shape.id)
    return Songbook(book.title, tuple(entries), book.about)


def songbook_bytes(book: Songbook) -> bytes:
    """A songbook as the bytes of its file."""
    entries = [_entry_shape(e) for e in book.entries]
    shape = SongbookShape(dromic=VERSION, kind="songbook", title=book.title, about=book.about, entries=entries)
    return _written(plain(shape), 0, EVENT_DEPTH).encode("utf-8", "replace") + b"\n"


def _written(value: Any, depth: int, most: int) -> str:
    """A value as JSON, opened up line by line down to a depth."""
    if depth >= most or not isinstance(value, dict | list) or not value:
        return json.dumps(value, ensure_ascii=False)
    pad, end = " " * (depth + 1), " " * depth
    if isinstance(value, dict):
        rows = [f"{pad}{json.dumps(k, ensure_ascii=False)}: {_written(v, depth + 1, most)}" for k, v in value.items()]
        return "{\n" + ",\n".join(rows) + f"\n{end}}}"
    return "[\n" + ",\n".join(pad + _written(v, depth + 1, most) for v in value) + f"\n{end}]"


def _entry_of(book: SongbookShape, place: int, taken: Collection[str]) -> Entry:
    """An entry of a book. One without an id, or with an id that an entry before it has `taken` (somebody copied it by hand),
    gets one that reading again gives too."""
    shape = book.entries[place]
    phrase = _phrase_of(shape.phrase)
    id, copy_of = shape.id, shape.copy_of
    if not id:
        id = id_from(book.title, place + 1, phrase)
    elif id in taken:
        id, copy_of = id_from(id, place + 1, phrase), id
    choices = None if shape.choices is None else choices_of(shape.choices)
    return Entry(phrase, choices, tuple(decision_of(one) for one in shape.decisions), id, copy_of)


def _entry_shape(entry: Entry) -> EntryShape:
    return EntryShape(
        id=entry.id,
        copy_of=entry.copy_of,
        phrase=_phrase_shape(entry.phrase),
        choices=None if entry.choices is None else choices_shape(entry.choices),
        decisions=[decision_shape(one) for one in entry.decisions],
    )


def _phrase_of(shape: PhraseShape) -> Phrase:
    stated = None if shape.instrument is None else _instrument_of(shape.instrument).with_capo(shape.capo)
    instrument = stated or presets.usual_instrument()
    bars: list[Bar] = []
    events: list[Event] = []
    metre, start = Metre(4, 4), Fraction(0)
    for index, bar in enumerate(shape.bars):
        try:
            metre = _metre_of(bar, metre)
            bars.append(_bar_of(bar, metre, start))
            events.extend(_event_of(e, start, index, instrument) for e in bar.events)
        except DromicError as error:
            raise DromicError(error.what, where=f"bar {bar.number} of {shape.title!r:.60}") from error
        start = bars[-1].end
    check_choice("read_as", shape.read_as, (AS_FILED, GUITAR))
    phrase = Phrase(
        title=shape.title,
        events=tuple(events),
        bars=tuple(bars),
        tempo=shape.tempo,
        tempo_stated=True,
        swing=Swing(shape.swing.unit, shape.swing.ratio) if shape.swing else Swing(),
        sections=tuple(Section(s.name, s.first_bar, s.last_bar) for s in shape.sections),
        instrument=stated,
        school=shape.school,
        about=shape.about,
        key=_key_of(shape.key),
        read_as=shape.read_as,
    )
    check_phrase(phrase)
    return phrase


def _phrase_shape(phrase: Phrase) -> PhraseShape:
    instrument, swing = phrase.instrument, phrase.swing
    by_bar: dict[int, list[Event]] = {}
    for event in phrase.events:
        by_bar.setdefault(event.bar, []).append(event)
    before = (None, *(bar.metre for bar in phrase.bars))
    return PhraseShape(
        title=phrase.title,
        about=phrase.about,
        key=phrase.key,
        tempo=phrase.tempo,
        instrument=_instrument_shape(instrument) if instrument else None,
        capo=instrument.capo if instrument else 0,
        school=phrase.school,
        swing=SwingShape(unit=swing.unit, ratio=swing.ratio) if swing.ratio != 1 else None,
        sections=[SectionShape(name=s.name, first_bar=s.first, last_bar=s.last) for s in phrase.sections],
        read_as=phrase.read_as,
        bars=[_bar_shape(bar, before[n], by_bar.get(n, [])) for n, bar in enumerate(phrase.bars)],
    )


def _key_of(written: str | None) -> str | None:
    if written is None:
        return None
    from dromic.core.harmony.musical_keys import key_of  # most phrases state none, and the window starts without it

    return key_of(written).name


def _instrument_of(shape: str | InstrumentShape) -> Instrument:
    """An instrument by its name or tuning, or one of the player's own with its measures."""
    if isinstance(shape, InstrumentShape):
        return presets.instrument_of(OWN_INSTRUMENT, msgspec.structs.asdict(shape))
    return presets.instrument_named(shape)


def _instrument_shape(instrument: Instrument) -> str | InstrumentShape:
    if presets.measured_otherwise(instrument):
        return InstrumentShape(**presets.instrument_entry(instrument))
    return presets.name_of(instrument)


def _metre_of(bar: BarShape, before: Metre) -> Metre:
    if not bar.metre:
        return before
    upper, _, lower = bar.metre.partition("/")
    if not (upper.isdecimal() and lower.isdecimal() and len(bar.metre) < 8):
        raise DromicError(f"metre is {bar.metre!r:.40}; write it as 4/4")
    return Metre(int(upper), int(lower), tuple(bar.groups))


def _bar_of(shape: BarShape, metre: Metre, start: Fraction) -> Bar:
    length = metre.length if shape.length is None else shape.length
    if length <= 0:
        raise DromicError(f"its length is {length}; it must be over 0")
    bar = Bar(
        shape.number, start, length, metre, Fraction(0), shape.repeat_start, shape.repeat_times, tuple(shape.endings),
        shape.pace,
    )  # fmt: skip
    return replace(bar, lead=bar.usual_lead if shape.lead is None else shape.lead)


def _bar_shape(bar: Bar, before: Metre | None, events: list[Event]) -> BarShape:
    changed = bar.metre != before
    return BarShape(
        number=bar.number,
        metre=str(bar.metre) if changed else None,
        groups=list(bar.metre.groups) if changed else [],
        length=bar.length if bar.length != bar.metre.length else None,
        lead=bar.lead if bar.lead != bar.usual_lead else None,
        repeat_start=bar.repeat_start,
        repeat_times=bar.repeat_times,
        endings=list(bar.endings),
        pace=bar.pace if bar.pace != STEADY else STEADY,
        events=[EventShape(at=e.onset - bar.start, notes=[_note_shape(n) for n in e.notes]) for e in events],
    )


def _event_of(shape: EventShape, start: Fraction, bar: int, instrument: Instrument) -> Event:
    return Event(start + shape.at, tuple(_note_of(n, instrument) for n in shape.notes), bar)


def _note_of(shape: NoteShape, instrument: Instrument) -> Note:
    if shape.pitch is not None:
        pitch = note_number(shape.pitch)
    elif shape.string is None or shape.fret is None:
        raise DromicError("a note needs a pitch, or a string and a fret")
    else:
        pitch = instrument.pitch_at(shape.string, shape.fret)
    return Note(
        pitch, shape.duration, shape.string, shape.fret, shape.finger, shape.attack, shape.stroke, frozenset(shape.marks),
        shape.bend, shape.tremolo, shape.words, shape.doubt,
    )  # fmt: skip


def _note_shape(note: Note) -> NoteShape:
    return NoteShape(
        pitch=note_name(note.pitch),
        duration=note.duration,
        string=note.string,
        fret=note.fret,
        finger=note.finger,
        attack=note.attack,
        stroke=note.stroke,
        marks=sorted(note.marks),
        bend=note.bend or NO_BEND,
        tremolo=note.tremolo,
        words=note.words,
        doubt=note.doubt,
    )

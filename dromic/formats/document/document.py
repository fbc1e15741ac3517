"""Reads and writes Dromic's own document: a songbook of entries as UTF-8 JSON.

The values check themselves as they are made; when something does not fit, the models of document_schema.py are asked
to name the place. Keys left over are faults too. Written is only what is not as it is by default.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from typing import Any, NoReturn, TypeVar

from dromic import presets
from dromic.core.music.octaves import AS_FILED, GUITAR
from dromic.core.music.phrase import Bar, Event, Note, Phrase, Section, Swing
from dromic.core.music.songbook import Entry, Songbook
from dromic.core.setup.instrument import Instrument
from dromic.core.values.checks import check_choice
from dromic.core.values.errors import DromicError
from dromic.core.values.metre import Metre
from dromic.core.values.pitch import note_name, note_number
from dromic.formats.document.choices_entry import choices_entry, decision_entry, read_choices, read_decision
from dromic.formats.document.version import TIME, VERSION, parsed, upgraded
from dromic.formats.limits import check_phrase, check_words

T = TypeVar("T")
_FAULTS = (KeyError, TypeError, ValueError, AttributeError, ArithmeticError, RecursionError)


def document_titles(data: bytes) -> list[str]:
    """The titles of a songbook's phrases, in order."""
    return _told(data, lambda book: [_text(e["phrase"]["title"]) for e in book["entries"]])


def read_document(data: bytes, tune: int = 1, part: int = 1) -> Phrase:
    """The Nth phrase of a songbook."""
    return read_entry(data, tune, part).phrase


def read_entry(data: bytes, tune: int = 1, part: int = 1) -> Entry:
    """The Nth entry of a songbook."""
    if part != 1:
        raise DromicError(f"there is no part {part}; a songbook's phrases have one part")
    return _told(data, lambda book: _nth(book, tune))


def read_songbook(data: bytes) -> Songbook:
    """A whole songbook."""
    return _told(data, _songbook)


def _told(data: bytes, read: Callable[[dict[str, Any]], T]) -> T:
    try:
        book = upgraded(parsed(data))
        if book["kind"] != "songbook":
            raise ValueError("its kind is not songbook")
        return read(book)
    except _FAULTS as error:
        _name_the_place(data, error)


def _name_the_place(data: bytes, cause: Exception) -> NoReturn:
    from dromic.formats.document.document_schema import songbook

    songbook(data)
    raise DromicError(f"it is not a sound Dromic document ({str(cause)[:120]})") from cause


def _songbook(book: dict[str, Any]) -> Songbook:
    _only(book, "dromic", "kind", "title", "about", "entries")
    title, about = _text(book["title"]), _text(book.get("about", ""))
    check_words(title, about)
    return Songbook(title, tuple(_entry(entry) for entry in book["entries"]), about)


def _nth(book: dict[str, Any], tune: int) -> Entry:
    _only(book, "dromic", "kind", "title", "about", "entries")
    entries = book["entries"]
    if not 1 <= tune <= len(entries):
        raise DromicError(f"there is no phrase {tune}; the songbook holds {len(entries)}")
    return _entry(entries[tune - 1])


def _entry(entry: dict[str, Any]) -> Entry:
    _only(entry, "phrase", "choices", "decisions")
    chosen = entry.get("choices")
    decisions = tuple(read_decision(one) for one in entry.get("decisions", ()))
    return Entry(_phrase(entry["phrase"]), None if chosen is None else read_choices(chosen), decisions)


def _only(entry: dict[str, Any], *names: str) -> None:
    for name in entry:
        if name not in names:
            raise KeyError(name)


def _text(value: object) -> str:
    if not isinstance(value, str):
        raise TypeError(value)
    return value


def _time(value: object) -> Fraction:
    if isinstance(value, bool) or not isinstance(value, (str, int)):
        raise TypeError(value)
    if not TIME.fullmatch(str(value)):
        raise ValueError(f"{str(value)[:40]!r} is no fraction of a quarter note such as 3/2")
    return Fraction(value)


def _key(written: object) -> str | None:
    if written is None:
        return None
    from dromic.core.harmony.musical_keys import key_of  # most phrases state none, and the window starts without it

    return key_of(_text(written)).name


def _phrase(entry: dict[str, Any]) -> Phrase:
    _only(
        entry, "title", "about", "key", "tempo", "instrument", "capo", "school", "swing", "sections", "bars", "read_as",
    )  # fmt: skip
    named = entry.get("instrument")
    stated = None if named is None else _instrument(named).with_capo(entry.get("capo", 0))
    instrument = stated or presets.usual_instrument()
    title = _text(entry["title"])
    bars: list[Bar] = []
    events: list[Event] = []
    metre, start = Metre(4, 4), Fraction(0)
    for index, bar in enumerate(entry["bars"]):
        _only(
            bar,
            "number",
            "metre",
            "groups",
            "length",
            "lead",
            "repeat_start",
            "repeat_times",
            "endings",
            "pace",
            "events",
        )
        try:
            metre = _metre(bar, metre)
            made = _bar(bar, metre, start)
            events.extend(_event(e, start, index, instrument) for e in bar.get("events", []))
        except DromicError as error:
            raise DromicError(error.what, where=f"bar {bar['number']!r:.20} of {title!r:.60}") from error
        bars.append(made)
        start += made.length
    swing = entry.get("swing")
    phrase = Phrase(
        title=title,
        events=tuple(events),
        bars=tuple(bars),
        tempo=float(entry["tempo"]),
        tempo_stated=True,
        swing=Swing(_time(swing["unit"]), _time(swing["ratio"])) if swing else Swing(),
        sections=tuple(Section(_text(s["name"]), s["first_bar"], s["last_bar"]) for s in entry.get("sections", [])),
        instrument=stated,
        school=None if entry.get("school") is None else _text(entry["school"]),
        about=_text(entry.get("about", "")),
        key=_key(entry.get("key")),
        read_as=_read_as(entry.get("read_as", AS_FILED)),
    )
    check_phrase(phrase)
    return phrase


def _instrument(value: object) -> Instrument:
    """An instrument by its name or tuning, or one of the player's own with its measures."""
    if isinstance(value, dict):
        return presets.instrument_of(OWN_INSTRUMENT, value)
    return presets.instrument_named(_text(value))


def _instrument_entry(instrument: Instrument) -> str | dict[str, Any]:
    if presets.measured_otherwise(instrument):
        return presets.instrument_entry(instrument)
    return presets.name_of(instrument)


def _read_as(value: object) -> str:
    check_choice("read_as", _text(value), (AS_FILED, GUITAR))
    return _text(value)


def _metre(bar: dict[str, Any], before: Metre) -> Metre:
    if not bar.get("metre"):
        return before
    upper, _, lower = _text(bar["metre"]).partition("/")
    if not (upper.isdecimal() and lower.isdecimal()):
        raise DromicError(f"metre is {bar['metre']!r}; write it as 4/4")
    return Metre(int(upper), int(lower), tuple(bar.get("groups", ())))


def _bar(bar: dict[str, Any], metre: Metre, start: Fraction) -> Bar:
    length = _time(bar["length"]) if bar.get("length") is not None else metre.length
    if length <= 0:
        raise DromicError(f"its length is {length}; it must be over 0")
    repeat = bar.get("repeat_start", False), bar.get("repeat_times", 0)
    made = Bar(
        bar["number"], start, length, metre, Fraction(0), *repeat, tuple(bar.get("endings", ())),
        float(bar.get("pace", 1.0)),
    )  # fmt: skip
    return replace(made, lead=made.usual_lead if bar.get("lead") is None else _time(bar["lead"]))


def _event(entry: dict[str, Any], start: Fraction, bar: int, instrument: Instrument) -> Event:
    _only(entry, "at", "notes")
    return Event(start + _time(entry["at"]), tuple(_note(n, instrument) for n in entry["notes"]), bar)


def _note(entry: dict[str, Any], instrument: Instrument) -> Note:
    _only(
        entry,
        "pitch",
        "for",
        "string",
        "fret",
        "finger",
        "attack",
        "stroke",
        "marks",
        "bend",
        "tremolo",
        "words",
        "doubt",
    )
    string, fret = entry.get("string"), entry.get("fret")
    if entry.get("pitch") is not None:
        pitch = note_number(entry["pitch"])
    elif string is None or fret is None:
        raise DromicError("a note needs a pitch, or a string and a fret")
    else:
        pitch = instrument.pitch_at(string, fret)
    return Note(
        pitch, _time(entry["for"]), string, fret, entry.get("finger"), entry.get("attack"), entry.get("stroke"),
        frozenset(entry.get("marks", ())), float(entry.get("bend", 0.0)), entry.get("tremolo", 0),
        _text(entry.get("words", "")), entry.get("doubt", 0),
    )  # fmt: skip


def songbook_bytes(book: Songbook) -> bytes:
    """A songbook as the bytes of its file."""
    entry = _without_defaults(
        {"dromic": VERSION, "kind": "songbook", "title": book.title, "about": book.about}, {"about": ""}
    )
    entry["entries"] = [_entry_entry(e) for e in book.entries]
    return _written(entry, 0, EVENT_DEPTH).encode("utf-8", "replace") + b"\n"


OWN_INSTRUMENT = "own"
"""the name of an instrument whose measures stand in a document"""
EVENT_DEPTH = 7
"""how deep an event lies in a document: each stands in one line, which is read and compared well and written quickly"""


def _written(value: Any, depth: int, most: int) -> str:
    """A value as JSON, opened up line by line down to a depth."""
    if depth >= most or not isinstance(value, dict | list) or not value:
        return json.dumps(value, ensure_ascii=False)
    pad, end = " " * (depth + 1), " " * depth
    if isinstance(value, dict):
        rows = [f"{pad}{json.dumps(k, ensure_ascii=False)}: {_written(v, depth + 1, most)}" for k, v in value.items()]
        return "{\n" + ",\n".join(rows) + f"\n{end}}}"
    return "[\n" + ",\n".join(pad + _written(v, depth + 1, most) for v in value) + f"\n{end}]"


def _entry_entry(entry: Entry) -> dict[str, Any]:
    found: dict[str, Any] = {"phrase": _phrase_entry(entry.phrase)}
    if entry.choices is not None:
        found["choices"] = choices_entry(entry.choices)
    if entry.decisions:
        found["decisions"] = [decision_entry(one) for one in entry.decisions]
    return found


def _without_defaults(entry: dict[str, Any], defaults: dict[str, Any]) -> dict[str, Any]:
    return {k: v for k, v in entry.items() if v is not None and (k not in defaults or v != defaults[k])}


def _phrase_entry(phrase: Phrase) -> dict[str, Any]:
    instrument, swing = phrase.instrument, phrase.swing
    by_bar: dict[int, list[Event]] = {}
    for event in phrase.events:
        by_bar.setdefault(event.bar, []).append(event)
    entry = {
        "title": phrase.title,
        "about": phrase.about,
        "key": phrase.key,
        "tempo": phrase.tempo,
        "instrument": _instrument_entry(instrument) if instrument else None,
        "capo": instrument.capo if instrument else 0,
        "school": phrase.school,
        "swing": {"unit": str(swing.unit), "ratio": str(swing.ratio)} if swing.ratio != 1 else None,
        "sections": [{"name": s.name, "first_bar": s.first, "last_bar": s.last} for s in phrase.sections],
        "read_as": phrase.read_as,
    }
    found = _without_defaults(entry, {"about": "", "capo": 0, "sections": [], "read_as": AS_FILED})
    metre: Metre | None = None
    bars = found["bars"] = []
    for index, bar in enumerate(phrase.bars):
        bars.append(_bar_entry(bar, metre, by_bar.get(index, [])))
        metre = bar.metre
    return found


def _bar_entry(bar: Bar, metre: Metre | None, events: list[Event]) -> dict[str, Any]:
    changed = bar.metre != metre
    entry = {
        "number": bar.number,
        "metre": str(bar.metre) if changed else None,
        "groups": list(bar.metre.groups) if changed else [],
        "length": str(bar.length) if bar.length != bar.metre.length else None,
        "lead": str(bar.lead) if bar.lead != bar.usual_lead else None,
        "repeat_start": bar.repeat_start,
        "repeat_times": bar.repeat_times,
        "endings": list(bar.endings),
        "pace": bar.pace,
        "events": [{"at": str(e.onset - bar.start), "notes": [_note_entry(n) for n in e.notes]} for e in events],
    }
    return _without_defaults(
        entry, {"groups": [], "repeat_start": False, "repeat_times": 0, "endings": [], "pace": 1.0, "events": []}
    )


def _note_entry(note: Note) -> dict[str, Any]:
    entry = {
        "pitch": note_name(note.pitch),
        "for": str(note.duration),
        "string": note.string,
        "fret": note.fret,
        "finger": note.finger,
        "attack": note.attack,
        "stroke": note.stroke,
        "marks": sorted(note.marks),
        "bend": note.bend,
        "tremolo": note.tremolo,
        "words": note.words,
        "doubt": note.doubt,
    }
    return _without_defaults(entry, {"marks": [], "bend": 0.0, "tremolo": 0, "words": "", "doubt": 0})

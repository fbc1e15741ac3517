"""The songbook's file, described once: this description reads it, writes it, names its faults and gives the published schema.

Times are fractions of a quarter note written as text ("3/2"), from the start of their bar. Whether a value is one that the
music allows (a string that there is, a tempo in its range) is asked of the values themselves, in document.py.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from fractions import Fraction
from typing import Any, Literal

import msgspec

from dromic.core.values.errors import DromicError
from dromic.formats.document.version import FIRST_WITH_ENTRIES, VERSION, upgraded, version_of

TIME = re.compile(r"-?[0-9]{1,9}(/[0-9]{1,9})?")
"""A time: no powers of ten, which could stand for numbers that take hours to work out."""
_BOM = b"\xef\xbb\xbf"
NO_BEND = 0.0
"""A note that is not bent, semitones."""
STEADY = 1.0
"""A bar at the phrase's tempo, a share of it."""


class Shape(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True, gc=False):
    """A group of named fields. A field that is unknown, missing or of another kind is a fault. What is written leaves out a
    field that holds the very object of its default, so a default that is a number with a fraction has a name."""


class NoteShape(Shape, kw_only=True):
    """A note: its pitch, or a string and a fret; `for` is how long it sounds."""

    pitch: str | None = None
    duration: Fraction = msgspec.field(name="for")
    string: int | None = None
    fret: int | None = None
    finger: str | None = None
    attack: str | None = None
    stroke: str | None = None
    marks: list[str] = []
    bend: float = NO_BEND
    tremolo: int = 0
    words: str = ""
    doubt: int = 0


class EventShape(Shape, kw_only=True):
    """Notes that start together; `at` counts from the start of the bar."""

    at: Fraction
    notes: list[NoteShape]


class BarShape(Shape, kw_only=True):
    """A bar; a metre holds until another is given, `lead` is what a pickup lacks at its front."""

    number: int
    metre: str | None = None
    groups: list[int] = []
    length: Fraction | None = None
    lead: Fraction | None = None
    repeat_start: bool = False
    repeat_times: int = 0
    endings: list[int] = []
    pace: float = STEADY
    events: list[EventShape] = []


class SwingShape(Shape, kw_only=True):
    """Long-short pairs: `unit` is the written length of each, `ratio` the first to the second."""

    unit: Fraction
    ratio: Fraction


class SectionShape(Shape, kw_only=True):
    """A named run of bars by index from 0, both ends included."""

    name: str
    first_bar: int
    last_bar: int


class InstrumentShape(Shape, kw_only=True):
    """An instrument by its measures; `tuning` runs from the lowest string up."""

    label: str
    tuning: list[str]
    scale_mm: float
    frets: int
    nut_spacing_mm: float
    bridge_spacing_mm: float
    pick_from_bridge_mm: float
    body_fret: int
    action_mm: float


class PhraseShape(Shape, kw_only=True):
    """A phrase; `tempo` is in quarter notes a minute, an instrument is a name, a tuning or its measures."""

    title: str
    about: str = ""
    key: str | None = None
    tempo: float
    instrument: str | InstrumentShape | None = None
    capo: int = 0
    school: str | None = None
    swing: SwingShape | None = None
    sections: list[SectionShape] = []
    read_as: str = ""
    bars: list[BarShape]


class PinShape(Shape, kw_only=True):
    """What is pinned of a note; events count from 0, the notes of an event from the lowest pitch up."""

    event: int
    note: int
    field: str
    value: int | str


class SetShape(Shape, kw_only=True):
    """A stroke set against the school."""

    event: int
    stroke: str


class ChoicesShape(Shape, kw_only=True):
    """What the player chose for a phrase."""

    school: str = "free"
    unit: str = ""
    player: str = "fluent"
    lean: str = ""
    tempo: float = 120.0
    instrument: str = ""
    positions: bool = True
    strokes: bool = True
    fingers: bool = True
    start: str = ""
    legato: str = "never"
    graces: str = ""
    grace_time: str = ""
    pattern: str = ""
    repeat: bool = False
    pins: list[PinShape] = []
    set: list[SetShape] = []


class RejectedShape(Shape, kw_only=True):
    """A plan that was weighed and not kept; `ceiling` is an estimate in quarter notes a minute."""

    label: str
    ceiling: float | None
    why: str


class DecisionShape(Shape, kw_only=True):
    """A plan that was kept: the choices that make it, and why; `day` as 2026-03-01."""

    label: str
    day: str
    why: str
    ceiling: float | None
    choices: ChoicesShape
    rejected: list[RejectedShape]


class EntryShape(Shape, kw_only=True):
    """A phrase with what was chosen and kept for it. The id never changes; `copy_of` is the id it was copied from."""

    id: str
    copy_of: str = ""
    phrase: PhraseShape
    choices: ChoicesShape | None = None
    decisions: list[DecisionShape] = []


class SongbookShape(Shape, kw_only=True):
    """A songbook."""

    dromic: Literal[VERSION]  # type: ignore[valid-type]
    kind: Literal["songbook"]
    title: str
    about: str = ""
    entries: list[EntryShape]


def _decoded_value(kind: type, value: object) -> object:
    """A time from what stands in the file; ValueError for anything else."""
    if isinstance(value, bool) or not isinstance(value, str | int) or not TIME.fullmatch(str(value)):
        raise ValueError("it must be a fraction of a quarter note such as 3/2")
    try:
        return Fraction(value)
    except ZeroDivisionError as error:
        raise ValueError("it must not divide by zero") from error


_DECODER = msgspec.json.Decoder(SongbookShape, dec_hook=_decoded_value)
_FAULTS = (msgspec.MsgspecError, RecursionError)


def decoded(data: bytes) -> SongbookShape:
    """The shape of a document of any known version; DromicError names the place of the first fault."""
    data = data.removeprefix(_BOM)
    try:
        return _DECODER.decode(data)
    except _FAULTS as fault:
        book = _values(data)
        version = version_of(book)
        if version == VERSION:
            raise _told(fault, data) from fault
    try:
        return msgspec.convert(upgraded(book), SongbookShape, dec_hook=_decoded_value)
    except _FAULTS as fault:
        raise _told(fault, data, version) from fault
    except (KeyError, TypeError, AttributeError) as fault:
        raise DromicError("it is not a sound Dromic document (its phrases are out of place)") from fault


def _values(data: bytes) -> Any:
    """The JSON values of a document, whatever they are; DromicError for what is no JSON."""
    try:
        return msgspec.json.decode(data)
    except _FAULTS as fault:
        raise _told(fault, data) from fault


def plain(shape: Shape) -> Any:
    """A shape as JSON values; fields that are as by default are left out."""
    return msgspec.to_builtins(shape, enc_hook=str)


_KINDS = {
    "int": "a whole number",
    "float": "a number",
    "str": "a text",
    "bool": "true or false",
    "null": "null",
    "array": "a list",
    "object": "a group of fields",
}
_WORDS: tuple[tuple[str, Callable[[re.Match[str]], str]], ...] = (
    (r"Expected `([^`]*)`, got `([^`]*)`", lambda m: f"it must be {_kinds(m[1])}, not {_kinds(m[2])}"),
    (r"Object contains unknown field `(.*)`", lambda m: f"it has a field {m[1]:.40}, which Dromic does not know"),
    (r"Object missing required field `(.*)`", lambda m: f"its field {m[1]} is missing"),
    (r"Input data was truncated", lambda m: "it ends too early"),
    (r"JSON is malformed: (.*)", lambda m: f"it is no JSON: {m[1]}"),
)


def _kinds(names: str) -> str:
    return " or ".join(_KINDS.get(name, name) for name in names.split(" | "))


def _told(fault: Exception, data: bytes, version: int = VERSION) -> DromicError:
    """What is wrong, in a sentence, with the place as the file has it: the path of a field, or a line."""
    if isinstance(fault, RecursionError):
        return DromicError("it is not a sound Dromic document (it is nested too deeply)")
    said, _, place = str(fault).partition(" - at `$")
    place = place.rstrip("`").lstrip(".")
    if version < FIRST_WITH_ENTRIES:
        place = re.sub(r"^entries(\[\d+\])\.phrase", r"phrases\1", place)
    byte = re.search(r" \(byte (\d+)\)$", said)
    if byte:
        line = data.count(b"\n", 0, int(byte[1])) + 1
        said, place = said[: byte.start()], f"line {line}"
    for pattern, words in _WORDS:
        match = re.fullmatch(pattern, said, re.DOTALL)
        if match:
            said = words(match)
            break
    return DromicError(f"it is not a sound Dromic document ({said[:120]})", where=place[:100])


def json_schema() -> str:
    """The JSON Schema of a document, as it is published in docs."""

    def of_time(kind: type) -> dict[str, Any]:
        return {"type": "string", "pattern": f"^{TIME.pattern}$", "description": "a fraction of a quarter note"}

    schema = msgspec.json.schema(SongbookShape, schema_hook=of_time)
    return json.dumps({"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}, indent=1) + "\n"

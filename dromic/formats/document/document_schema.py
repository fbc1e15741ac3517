"""The shape of Dromic's own document as pydantic models: for its published schema, and for saying what is wrong with one.

Reading a sound document (document.py) does without them, since loading pydantic takes longer than all the rest of
opening a phrase; a test holds the two to the same shape. Times are fractions of a quarter note written as text
("3/2"), from the start of their bar.
"""

from __future__ import annotations

import json
import re
from fractions import Fraction
from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, PlainSerializer, ValidationError, WithJsonSchema

from dromic.core.values.errors import DromicError
from dromic.formats.document.version import FIRST_WITH_ENTRIES, TIME, VERSION, parsed, upgraded


def _fraction(value: object) -> Fraction:
    if isinstance(value, bool) or not isinstance(value, (str, int, Fraction)) or not TIME.fullmatch(str(value)):
        raise ValueError("must be a fraction of a quarter note such as 3/2")
    try:
        return Fraction(value)
    except ZeroDivisionError as error:
        raise ValueError("must not divide by zero") from error


Time = Annotated[
    Fraction,
    BeforeValidator(_fraction),
    PlainSerializer(str),
    WithJsonSchema({"type": "string", "pattern": f"^{TIME.pattern}$", "description": "a fraction of a quarter note"}),
]


class _Model(BaseModel):
    model_config = ConfigDict(extra="forbid", arbitrary_types_allowed=True)


class NoteModel(_Model):
    pitch: str | None = None
    for_: Time = Field(alias="for")
    string: int | None = None
    fret: int | None = None
    finger: str | None = None
    attack: str | None = None
    stroke: str | None = None
    marks: list[str] = []
    bend: float = 0.0
    tremolo: int = 0
    words: str = ""
    doubt: int = 0


class EventModel(_Model):
    at: Time
    notes: list[NoteModel]


class BarModel(_Model):
    number: int
    metre: str | None = None
    groups: list[int] = []
    length: Time | None = None
    lead: Time | None = None
    repeat_start: bool = False
    repeat_times: int = 0
    endings: list[int] = []
    pace: float = 1.0
    events: list[EventModel] = []


class SwingModel(_Model):
    unit: Time
    ratio: Time


class SectionModel(_Model):
    name: str
    first_bar: int
    last_bar: int


class PinModel(_Model):
    event: int
    note: int
    field: str
    value: int | str


class SetModel(_Model):
    event: int
    stroke: str


class ChoicesModel(_Model):
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
    pattern: str = ""
    repeat: bool = False
    pins: list[PinModel] = []
    set: list[SetModel] = []


class RejectedModel(_Model):
    label: str
    ceiling: float | None
    why: str


class DecisionModel(_Model):
    label: str
    day: str
    why: str
    ceiling: float | None
    choices: ChoicesModel
    rejected: list[RejectedModel]


class InstrumentModel(_Model):
    label: str
    tuning: list[str]
    scale_mm: float
    frets: int
    nut_spacing_mm: float
    bridge_spacing_mm: float
    pick_from_bridge_mm: float
    body_fret: int
    action_mm: float


class PhraseModel(_Model):
    title: str
    about: str = ""
    key: str | None = None
    read_as: Literal["", "guitar"] = ""
    tempo: float
    instrument: str | InstrumentModel | None = None
    capo: int = 0
    school: str | None = None
    swing: SwingModel | None = None
    sections: list[SectionModel] = []
    bars: list[BarModel]


class EntryModel(_Model):
    phrase: PhraseModel
    choices: ChoicesModel | None = None
    decisions: list[DecisionModel] = []


class SongbookModel(_Model):
    dromic: Literal[VERSION]  # type: ignore[valid-type]
    kind: Literal["songbook"]
    title: str
    about: str = ""
    entries: list[EntryModel]


def songbook(data: bytes) -> SongbookModel:
    """The checked model of a document; DromicError names the place of the first fault."""
    version = VERSION
    try:
        book = parsed(data)
        if isinstance(book, dict) and "dromic" in book:
            version = book["dromic"] if isinstance(book["dromic"], int) else VERSION
            book = upgraded(book)
        return SongbookModel.model_validate(book)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        if version < FIRST_WITH_ENTRIES:
            place = re.sub(r"^entries\.(\d+)\.phrase", r"phrases.\1", place)  # as the file has it
        raise DromicError(
            f"it is not a sound Dromic document ({first['msg'].lower()[:120]})", where=place[:80]
        ) from error
    except (ValueError, RecursionError) as error:
        raise DromicError(f"it is not a sound Dromic document ({str(error)[:120]})") from error
    except (KeyError, TypeError, AttributeError) as error:
        raise DromicError("it is not a sound Dromic document (its phrases are out of place)") from error


def json_schema() -> str:
    """The JSON Schema of a document, as it is published in docs."""
    schema = SongbookModel.model_json_schema(by_alias=True)
    return json.dumps({"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}, indent=1) + "\n"

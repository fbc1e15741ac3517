"""The shape of Dromic's own document as pydantic models: for writing, and for saying what is wrong with one.

Reading a sound document (document.py) does without them, since loading pydantic takes longer than all the rest of
opening a phrase; a test holds the two to the same shape. Times are fractions of a quarter note written as text
("3/2"), from the start of their bar.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, PlainSerializer, ValidationError

from dromic.core.errors import DromicError
from dromic.core.phrase import Note, Phrase
from dromic.core.pitch import note_name
from dromic.formats.version import VERSION


def _fraction(value: object) -> Fraction:
    if isinstance(value, bool) or not isinstance(value, (str, int, Fraction)):
        raise ValueError("must be a fraction of a quarter note such as 3/2")
    try:
        return Fraction(value)
    except ZeroDivisionError as error:
        raise ValueError("must not divide by zero") from error


Time = Annotated[Fraction, BeforeValidator(_fraction), PlainSerializer(str)]


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


class EventModel(_Model):
    at: Time
    notes: list[NoteModel]


class BarModel(_Model):
    number: int
    metre: str | None = None
    groups: list[int] = []
    length: Time | None = None
    repeat_start: bool = False
    repeat_times: int = 0
    endings: list[int] = []
    events: list[EventModel] = []


class SwingModel(_Model):
    unit: Time
    ratio: Time


class SectionModel(_Model):
    name: str
    first_bar: int
    last_bar: int


class PhraseModel(_Model):
    title: str
    about: str = ""
    tempo: float
    instrument: str
    capo: int = 0
    school: str | None = None
    swing: SwingModel | None = None
    sections: list[SectionModel] = []
    bars: list[BarModel]


class SongbookModel(_Model):
    dromic: Literal[1]
    kind: Literal["songbook"]
    title: str
    about: str = ""
    phrases: list[PhraseModel]


def songbook(data: bytes) -> SongbookModel:
    """The checked model of a document; DromicError names the place of the first fault."""
    try:
        return SongbookModel.model_validate_json(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        if place == "dromic":
            raise DromicError(
                f"it is not a version {VERSION} Dromic document; open it with a newer Dromic", where=place
            ) from error
        raise DromicError(f"it is not a sound Dromic document ({first['msg'].lower()})", where=place) from error


def phrase_model(phrase: Phrase, instrument_name: str, about: str = "") -> PhraseModel:
    """A phrase as a document holds it."""
    bars = []
    metre = None
    for index, bar in enumerate(phrase.bars):
        events = [
            EventModel(at=e.onset - bar.start, notes=[_note_model(n) for n in e.notes])
            for e in phrase.events
            if e.bar == index
        ]
        bars.append(
            BarModel(
                number=bar.number,
                metre=None if bar.metre == metre else str(bar.metre),
                groups=list(bar.metre.groups) if bar.metre != metre else [],
                length=None if bar.length == bar.metre.length else bar.length,
                repeat_start=bar.repeat_start,
                repeat_times=bar.repeat_times,
                endings=list(bar.endings),
                events=events,
            )
        )
        metre = bar.metre
    swing = None if phrase.swing.ratio == 1 else SwingModel(unit=phrase.swing.unit, ratio=phrase.swing.ratio)
    return PhraseModel(
        title=phrase.title,
        about=about,
        tempo=phrase.tempo,
        instrument=instrument_name,
        school=phrase.school,
        swing=swing,
        sections=[SectionModel(name=s.name, first_bar=s.first, last_bar=s.last) for s in phrase.sections],
        bars=bars,
    )


def _note_model(note: Note) -> NoteModel:
    return NoteModel.model_validate(
        {
            "pitch": note_name(note.pitch),
            "for": note.duration,
            "string": note.string,
            "fret": note.fret,
            "finger": note.finger,
            "attack": note.attack,
            "stroke": note.stroke,
            "marks": sorted(note.marks),
            "bend": note.bend,
            "tremolo": note.tremolo,
        }
    )


def document_bytes(book: SongbookModel) -> bytes:
    """A songbook as the bytes of its file."""
    return book.model_dump_json(by_alias=True, exclude_defaults=True, indent=1).encode() + b"\n"

"""The one table of file kinds: extensions, label, how each is read and written, and what it can't carry.

Dialogs, command line and docs use it. What a kind needs is imported only when it is used.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from importlib import import_module
from pathlib import Path
from typing import Any, TypeVar

from dromic import presets
from dromic.core.music.octaves import with_offer
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import Entry, Songbook, id_of_played
from dromic.core.plan.plan import Plan
from dromic.core.setup.decision import Decision
from dromic.core.setup.instrument import Instrument
from dromic.core.values.errors import DromicError
from dromic.formats.limits import check_phrase, limit

T = TypeVar("T")
NOTHING, STRINGS, PLAN = "nothing", "strings", "plan"
"""what a writer needs beside the phrase"""


@dataclass(frozen=True, slots=True)
class Work:
    """What is written: a phrase on an instrument, with its plan where the kind needs one, and the entry it comes from."""

    phrase: Phrase
    instrument: Instrument
    plan: Plan | None = None
    entry: Entry | None = None
    click: bool = False
    """whether a sound has a click and a bar counted in"""

    @property
    def kept(self) -> Decision | None:
        """The plan that was kept for the phrase."""
        return self.entry.decision if self.entry is not None else None


def _of(module: str, name: str) -> Callable[..., Any]:
    """A function of a module of this package, imported when it is called."""

    def call(*arguments: Any) -> Any:
        return getattr(import_module(f"dromic.formats.{module}"), name)(*arguments)

    return call


def _no_titles(data: bytes) -> list[str]:
    return []


def _all_carried(phrase: Phrase) -> list[str]:
    return []


def _never(data: bytes) -> bool:
    return False


def _no_clef(data: bytes) -> bool:
    """Whether a score says nothing of sounding elsewhere than written; a compressed one is taken to say it."""
    return data[:2] != b"PK" and b"<clef-octave-change" not in data and b"<transpose" not in data


@dataclass(frozen=True, slots=True)
class Format:
    """A kind of file. `read` takes the bytes, the tune's and the part's number; `titles` lists a book's tunes (an empty
    list where a file holds one phrase); `write` makes the bytes of a Work, for which it `needs` so much; `lost` says
    what of a phrase is left out. `read` or `write` is None where a kind goes one way only."""

    extensions: tuple[str, ...]
    label: str
    read: Callable[[bytes, int, int], Phrase] | None
    write: Callable[[Work], bytes] | None
    cannot: str
    """in general words, for the docs"""
    titles: Callable[[bytes], list[str]] = _no_titles
    needs: str = NOTHING
    lost: Callable[[Phrase], list[str]] = _all_carried
    decides: bool = False
    """whether the plan that was kept for a phrase goes into the file"""

    own_words: bool = False
    """whether the player's words at notes, and other readings of doubtful ones, go into the file"""
    pasted: re.Pattern[str] | None = None
    """what a text of this kind holds, where one may be pasted"""
    octave_open: Callable[[bytes], bool] = _never
    """whether what sounds may be meant an octave below: nothing in the file says"""

    def left_out(self, work: Work) -> list[str]:
        """What of a phrase does not go into the file, the plan kept for it included."""
        kept = work.kept is not None and not self.decides
        own = [] if self.own_words else _own_words_lost(work.phrase)
        return self.lost(work.phrase) + own + (["the plan that was kept and why"] if kept else [])


def _sheet(kind: str) -> Callable[[Work], bytes]:
    def write(work: Work) -> bytes:
        pages = _of("sheet.sheet", "sheet")(work.plan, work.kept)
        return bytes(_of("sheet.sheet_paint", f"{kind}_bytes")(pages))

    return write


def _write_sound(work: Work) -> bytes:
    from dromic.sound.render import RenderRequest, render
    from dromic.sound.wav import wav_bytes

    return wav_bytes(render(work.phrase, RenderRequest(click=work.click, count_in=work.click)))


def _sound_lost(phrase: Phrase) -> list[str]:
    return ["all but the sound"]


def _write_document(work: Work) -> bytes:
    entry = Entry(work.phrase) if work.entry is None else replace(work.entry, phrase=work.phrase)
    return bytes(_of("document.document", "songbook_bytes")(Songbook(work.phrase.title, (entry,))))


def _write_line(work: Work) -> bytes:
    return (str(_of("text.quick_line", "write")(work.phrase)) + "\n").encode()


def _tab_lost(phrase: Phrase) -> list[str]:
    from dromic.formats.text.tab_write import CARRIED

    notes = [n for e in phrase.events for n in e.notes]
    marks = sorted({m for n in notes for m in n.marks} - CARRIED)
    notices = [f"the marks {', '.join(marks)}"] if marks else []
    if any(n.slid_to and n.stroke is None for n in notes):
        notices.append("that notes slid to are struck, where no stroke is written")
    notices += ["the sections"] if phrase.sections else []
    return notices + (["the school"] if phrase.school else [])


def _own_words_lost(phrase: Phrase) -> list[str]:
    """What only Dromic's own kinds of file hold."""
    notes = [n for e in phrase.events for n in e.notes]
    found = ["your words at notes"] if any(n.words for n in notes) else []
    return found + (["the other readings of doubtful notes"] if any(n.doubt for n in notes) else [])


def _line_lost(phrase: Phrase) -> list[str]:
    return ["title, tempo, swing, instrument and school"]


FORMATS: tuple[Format, ...] = (
    Format((".dromic",), "Dromic songbook", _of("document.document", "read_document"), _write_document,
           "nothing is left out", titles=_of("document.document", "document_titles"), decides=True, own_words=True),
    Format((".musicxml", ".xml"), "MusicXML 4.0", _of("xml.notation", "read_musicxml"),
           lambda w: _of("xml.musicxml_write", "musicxml_bytes")(w.phrase, w.instrument),
           "the school; notes that sound into the next end with it", lost=_of("xml.musicxml_write", "not_carried"),
           octave_open=_no_clef, pasted=re.compile(r"<score-partwise\b")),
    Format((".mxl",), "MusicXML, compressed", _of("xml.notation", "read_musicxml"),
           lambda w: _of("xml.musicxml_write", "compressed_bytes")(w.phrase, w.instrument),
           "the school; notes that sound into the next end with it", lost=_of("xml.musicxml_write", "not_carried")),
    Format((".mid", ".midi"), "Standard MIDI File", _of("midi.midi", "read_midi"),
           lambda w: _of("midi.midi", "midi_bytes")(w.phrase, w.instrument),
           "strokes, fingers, techniques but bends, sections, swing; repeats are written out", lost=_of("midi.midi", "not_carried"),
           octave_open=lambda data: True),
    Format((".txt", ".tab"), "Plain-text tablature", _of("text.tab_text", "read_tab"),
           lambda w: _of("text.tab_write", "tab_text")(w.phrase, w.instrument).encode(),
           "sections, the school and some marks", needs=STRINGS, lost=_tab_lost),
    Format((".abc",), "ABC tunes", _of("abc.abc_read", "read_abc"), None, "read only", titles=_of("abc.abc_read", "abc_titles"),
           pasted=re.compile(r"^(?:X:\s*\d|K:\s*[A-GHa-z])", re.MULTILINE)),
    Format((".line",), "Quick line", None, _write_line, "title, tempo, swing, instrument, school", lost=_line_lost, own_words=True),
    Format((".svg",), "Sheet, SVG", None, _sheet("svg"), "a picture", needs=PLAN, decides=True, own_words=True),
    Format((".pdf",), "Sheet, PDF", None, _sheet("pdf"), "a picture", needs=PLAN, decides=True, own_words=True),
    Format((".png",), "Sheet, PNG", None, _sheet("png"), "a picture", needs=PLAN, decides=True, own_words=True),
    Format((".csv",), "Plan as a table, CSV", None, lambda w: _of("sheet.plan_csv", "plan_csv")(w.plan), "a table", needs=PLAN),
    Format((".wav",), "Sound, WAV", None, _write_sound, "all but the sound", lost=_sound_lost),
)  # fmt: skip


def kind_of_text(text: str) -> Format | None:
    """The kind of file a text would be, as far as it shows; None for what may be tablature or a quick line."""
    return next((f for f in FORMATS if f.pasted is not None and f.pasted.search(text)), None)


def read_text(text: str, kind: Format) -> Phrase:
    """The phrase of a text of a kind; every fault is a DromicError."""
    return _entry_of(kind, text.encode(), "pasted", 1, 1).phrase


def readable() -> tuple[str, ...]:
    """Extensions that can be read."""
    return tuple(e for f in FORMATS if f.read for e in f.extensions)


def writable() -> tuple[str, ...]:
    """Extensions that can be written."""
    return tuple(e for f in FORMATS if f.write for e in f.extensions)


def format_of(path: Path) -> Format:
    """The kind of a file to be read, by its extension; DromicError for one that cannot be."""
    return _kind(path, "read", readable())


def writer_of(path: Path) -> Format:
    """The kind of a file to be written, by its extension; DromicError for one that cannot be."""
    return _kind(path, "written", writable())


def _kind(path: Path, done: str, able: tuple[str, ...]) -> Format:
    ending = path.suffix.lower()
    if ending not in able:
        raise DromicError(
            f"{ending or 'a file without an ending'} is not a kind that can be {done}; choose one of {' '.join(able)}",
            path=path.name,
        )
    return next(f for f in FORMATS if ending in f.extensions)


def file_bytes(path: Path) -> bytes:
    """The content of a file, its size checked first."""
    limit = presets.data("limits.toml")["file_mb"]
    try:
        if path.is_dir():
            raise DromicError("is a folder; choose a file", path=path.name)
        size = path.stat().st_size
        if size > limit * 1_000_000:
            raise DromicError(
                f"is {size / 1e6:.0f} MB; files over {limit} MB are not opened, so split it", path=path.name
            )
        if size == 0:
            raise DromicError("is empty; choose a file with notes", path=path.name)
        return path.read_bytes()
    except FileNotFoundError as error:
        raise DromicError("does not exist; check the name", path=path.name) from error
    except OSError as error:
        raise DromicError(
            f"cannot be read ({error.strerror or error}); check its permissions", path=path.name
        ) from error


def titles(path: Path) -> list[str]:
    """The tunes of a book, in order; empty for a file of one phrase."""
    return _named(path, lambda: format_of(path).titles(file_bytes(path)))


def read(path: Path, tune: int = 1, part: int = 1) -> Phrase:
    """A phrase from a file; every fault is a DromicError that names the file."""
    return read_entry(path, tune, part).phrase


def read_entry(path: Path, tune: int = 1, part: int = 1) -> Entry:
    """A phrase from a file, with what was chosen for it where the kind can hold that."""
    kind = format_of(path)
    return _named(path, lambda: _entry_of(kind, file_bytes(path), path.stem, tune, part))


def _entry_of(kind: Format, data: bytes, name: str, tune: int, part: int) -> Entry:
    assert kind.read is not None
    if kind is FORMATS[0]:
        from dromic.formats.document.document import read_entry

        return read_entry(data, tune, part)
    phrase = kind.read(data, tune, part)
    check_phrase(phrase)
    if kind.octave_open(data):
        phrase = with_offer(phrase, phrase.instrument or presets.usual_instrument(), limit("high_fret"))
    named = phrase if phrase.title != "untitled" else phrase.titled(name)
    return Entry(named, id=id_of_played(f"{name} {tune}.{part}", phrase))


def songbook_of(path: Path, data: bytes | None = None) -> Songbook:
    """All of a songbook, or a book of the one phrase another file holds; `data` is its content where that is read
    already."""
    kind = format_of(path)
    if kind is not FORMATS[0]:
        return Songbook(path.stem, (read_entry(path),))
    from dromic.formats.document.document import read_songbook

    return _named(path, lambda: read_songbook(file_bytes(path) if data is None else data))


def _named(path: Path, read_it: Callable[[], T]) -> T:
    """What is read, every fault of it with the file's name."""
    try:
        return read_it()
    except DromicError as error:
        raise error.at(path.name) from error

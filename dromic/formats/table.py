"""The one table of file kinds: extensions, label, and how each is read. Dialogs, command line and docs use it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from dromic import presets
from dromic.core.errors import DromicError
from dromic.core.phrase import Phrase
from dromic.core.songbook import Songbook


def _one(data: bytes) -> list[str]:
    return []


@dataclass(frozen=True, slots=True)
class Format:
    """A kind of file. `read` takes the bytes, the tune's and the part's number; `titles` lists a book's tunes (an empty
    list where a file holds one phrase); both are None while a kind is known but not read yet."""

    extensions: tuple[str, ...]
    label: str
    read: Callable[[bytes, int, int], Phrase] | None
    titles: Callable[[bytes], list[str]]


def _read_document(data: bytes, tune: int, part: int) -> Phrase:
    from dromic.formats.document import read_document

    return read_document(data, tune, part)


def _document_titles(data: bytes) -> list[str]:
    from dromic.formats.document import document_titles

    return document_titles(data)


def _read_musicxml(data: bytes, tune: int, part: int) -> Phrase:
    from dromic.formats.notation import read_musicxml

    return read_musicxml(data, tune, part)


def _read_abc(data: bytes, tune: int, part: int) -> Phrase:
    from dromic.formats.notation import read_abc

    return read_abc(data, tune, part)


def _abc_titles(data: bytes) -> list[str]:
    from dromic.formats.notation import abc_titles

    return abc_titles(data)


FORMATS: tuple[Format, ...] = (
    Format((".dromic",), "Dromic songbook", _read_document, _document_titles),
    Format((".musicxml", ".xml", ".mxl"), "MusicXML", _read_musicxml, _one),
    Format((".abc",), "ABC tunes", _read_abc, _abc_titles),
    Format((".mid", ".midi"), "Standard MIDI File", None, _one),
    Format((".txt",), "Plain-text tablature", None, _one),
)


def readable() -> tuple[str, ...]:
    """Extensions that can be read now."""
    return tuple(e for f in FORMATS if f.read for e in f.extensions)


def format_of(path: Path) -> Format:
    """The kind of a file by its extension; DromicError for an unknown one."""
    for kind in FORMATS:
        if path.suffix.lower() in kind.extensions:
            return kind
    raise DromicError(
        f"{path.suffix or 'a file without an ending'} is not a kind that can be read; choose one of "
        f"{' '.join(readable())}",
        path=path.name,
    )


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
    try:
        return format_of(path).titles(file_bytes(path))
    except DromicError as error:
        raise error.at(path.name) from error


def read(path: Path, tune: int = 1, part: int = 1) -> Phrase:
    """A phrase from a file; every fault is a DromicError that names the file."""
    kind = format_of(path)
    if kind.read is None:
        raise DromicError(f"{kind.label} is not read yet; use one of {' '.join(readable())}", path=path.name)
    try:
        return kind.read(file_bytes(path), tune, part)
    except DromicError as error:
        raise error.at(path.name) from error


def songbook_of(path: Path) -> Songbook:
    """All of a songbook, or a book of the one phrase another file holds."""
    if format_of(path) is not FORMATS[0]:
        return Songbook(path.stem, (read(path),))
    from dromic.formats.document import read_songbook

    try:
        return read_songbook(file_bytes(path))
    except DromicError as error:
        raise error.at(path.name) from error

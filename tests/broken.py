"""Real files, broken in the ways files break: bytes changed, cut, doubled, swapped, foreign pieces put in."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path

from dromic import presets
from dromic.core.plan import Request
from dromic.core.planner import plan
from dromic.core.worked import worked
from dromic.formats.table import FORMATS, Work, read

DEMO = Path(presets.DATA) / "songs" / "copper-wren.dromic"
_PIECES = (
    b"<", b">", b"&a;", b"\x00", b"\xff\xfe", b"-1", b"99999999999999999999", b"1/0", b"e|--", b"|:", b"[1", b"null",
    b"{", b"<note>", b"</note>", b"<duration>0</duration>", b"(3", b"nan", b"M:", b"\xc3", b"\r\n\r\n",
)  # fmt: skip


def originals() -> dict[str, list[bytes]]:
    """Sound files by ending: the demo as every kind that is both read and written, and small tunes nobody here wrote."""
    phrases = [read(DEMO, n) for n in (1, 3, 6)]
    found: dict[str, list[bytes]] = {}
    for kind in FORMATS:
        if kind.read is not None and kind.write is not None:
            found[kind.extensions[0]] = [kind.write(_work(p)) for p in phrases]
    found[".abc"] = [_tune(n) for n in (3, 40, 200)]
    return found


def _work(phrase) -> Work:
    instrument = phrase.instrument or presets.instruments()["guitar"]
    asked = Request(phrase, instrument, presets.players()["fluent"], presets.schools()["free"])
    return Work(worked(phrase, plan(asked)), instrument)


def _tune(number: int) -> bytes:
    """A tune of an old fiddle collection that ships with the notation library."""
    import music21

    book = Path(music21.__file__).parent / "corpus" / "ryansMammoth"
    files = sorted(book.glob("*.abc"))
    return files[number % len(files)].read_bytes()


def broken(data: bytes, chance: random.Random) -> bytes:
    """One file, broken one to four times."""
    for _ in range(chance.randint(1, 4)):
        if not data:
            return data
        a, b = sorted(chance.randrange(len(data) + 1) for _ in range(2))
        way = chance.randrange(6)
        if way == 0:
            data = data[:a] + bytes([chance.randrange(256)]) + data[a + 1 :]
        elif way == 1:
            data = data[:a]
        elif way == 2:
            data = data[:a] + data[min(b, a + 40) :]
        elif way == 3:
            data = data[:a] + chance.choice(_PIECES) + data[a:]
        elif way == 4:
            data = data[:b] + data[a : min(b, a + 60)] + data[b:]
        else:
            digits = [i for i, c in enumerate(data) if 48 <= c <= 57]
            if digits:
                i = chance.choice(digits)
                data = data[:i] + chance.choice([b"0", b"9", b"-", b"99999", b"."]) + data[i + 1 :]
    return data


def many(count: int, seed: int = 1) -> Iterator[tuple[str, bytes]]:
    """So many broken files, (ending, content), the endings in turn."""
    chance = random.Random(seed)
    sources = originals()
    endings = sorted(sources)
    for n in range(count):
        ending = endings[n % len(endings)]
        yield ending, broken(chance.choice(sources[ending]), chance)

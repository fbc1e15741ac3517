"""Real files, broken in the ways files break: bytes changed, cut, doubled, swapped, foreign pieces put in; and in the ways
somebody might break them on purpose: numbers beyond all bounds, other kinds of values, nesting, the same a thousand times."""

from __future__ import annotations

import io
import random
import re
import zipfile
from collections.abc import Iterator
from pathlib import Path

from dromic import presets
from dromic.core.music.songbook import Entry, Songbook
from dromic.core.plan.request import Request
from dromic.core.plan.write_back import phrase_with_plan
from dromic.core.search.planner import plan
from dromic.core.setup.choices import Choices
from dromic.core.setup.decision import Decision
from dromic.core.setup.pin import Pin
from dromic.formats.document.document import songbook_bytes
from dromic.formats.table import FORMATS, Work, read

DEMO = Path(presets.DATA) / "songs" / "copper-wren.dromic"
_PIECES = (
    b"<", b">", b"&a;", b"\x00", b"\xff\xfe", b"-1", b"99999999999999999999", b"1/0", b"e|--", b"|:", b"[1", b"null",
    b"{", b"<note>", b"</note>", b"<duration>0</duration>", b"(3", b"nan", b"M:", b"\xc3", b"\r\n\r\n",
)  # fmt: skip

_EXTREMES = (
    b"1e1000000000", b"1e-10000000", b"9" * 400, b"9" * 5000, b"1e400", b"NaN", b"-Infinity", b"true", b"null", b"[1]", b"{}",
    b'"x"', b"1.5", b"-5", b"0", b"1000000000", b'"\\ud800"', b"1-1000000000", b"1/1000000007",
)  # fmt: skip
_NESTS = (b"[", b"{", b"(", b"<direction>", b'{"a":', b"/")
_NUMBER = re.compile(rb"-?\d+(?:[./]\d+)?")
MOST_BYTES = 400_000
"""of a file made of the same again and again"""


def originals() -> dict[str, list[bytes]]:
    """Sound files by ending: the demo as every kind that is both read and written, and small tunes nobody here wrote."""
    phrases = [read(DEMO, n) for n in (1, 3, 6)]
    found: dict[str, list[bytes]] = {}
    for kind in FORMATS:
        if kind.read is not None and kind.write is not None:
            found[kind.extensions[0]] = [kind.write(_work(p)) for p in phrases]
    chosen = Choices(school="sweep", start="up", pins=(Pin(3, 0, "finger", "2"),), overrides=((5, "up"),))
    entry = Entry(phrases[0], chosen, (Decision("Sweep", chosen, 120.0, "why", "2026-03-01"),))
    found[".dromic"].append(songbook_bytes(Songbook("x", (entry,))))
    found[".abc"] = [_tune(n) for n in (3, 40, 200)]
    found[".mxl"] = [
        _packed(data, how)
        for data, how in zip(
            found[".musicxml"], (zipfile.ZIP_DEFLATED, zipfile.ZIP_LZMA, zipfile.ZIP_STORED), strict=True
        )
    ]
    return found


def _packed(data: bytes, how: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", how) as archive:
        archive.writestr("META-INF/container.xml", '<container><rootfile full-path="s.xml"/></container>')
        archive.writestr("s.xml", data)
    return out.getvalue()


def _work(phrase) -> Work:
    instrument = phrase.instrument or presets.instruments()["guitar"]
    asked = Request(phrase, instrument, presets.players()["fluent"], presets.schools()["free"])
    return Work(phrase_with_plan(phrase, plan(asked)), instrument)


def _tune(number: int) -> bytes:
    """A tune of an old fiddle collection that ships with the notation library."""
    import music21

    book = Path(music21.__file__).parent / "corpus" / "ryansMammoth"
    files = sorted(book.glob("*.abc"))
    return files[number % len(files)].read_bytes()


def broken(data: bytes, chance: random.Random, most: int = MOST_BYTES) -> bytes:
    """One file, broken one to four times; what is put in again and again comes to so many bytes at most."""
    for _ in range(chance.randint(1, 4)):
        if not data:
            return data
        a, b = sorted(chance.randrange(len(data) + 1) for _ in range(2))
        way = chance.randrange(9)
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
        elif way == 5:
            numbers = list(_NUMBER.finditer(data[:most]))
            if numbers:
                one = chance.choice(numbers)
                quoted = data[one.start() - 1 : one.start()] == b'"' and chance.random() < 0.5
                start, end = (one.start() - 1, one.end() + 1) if quoted else (one.start(), one.end())
                data = data[:start] + chance.choice(_EXTREMES) + data[end:]
        elif way == 6:
            piece = data[a : min(b, a + 200)]
            data = data[:a] + piece * min(chance.choice([50, 1000]), most // max(1, len(piece))) + data[a:]
        elif way == 7:
            data = data[:a] + chance.choice(_NESTS) * chance.choice([100, 20_000]) + data[a:]
        else:
            digits = [i for i, c in enumerate(data) if 48 <= c <= 57]
            if digits:
                i = chance.choice(digits)
                data = data[:i] + chance.choice([b"0", b"9", b"-", b"99999", b"."]) + data[i + 1 :]
    return data


def many(count: int, seed: int = 1, most: int = MOST_BYTES) -> Iterator[tuple[str, bytes]]:
    """So many broken files, (ending, content), the endings in turn."""
    chance = random.Random(seed)
    sources = originals()
    endings = sorted(sources)
    for n in range(count):
        ending = endings[n % len(endings)]
        yield ending, broken(chance.choice(sources[ending]), chance, most)

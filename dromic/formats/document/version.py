"""A document's JSON, parsed with care, and how documents of older versions are brought up to this one."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Callable
from typing import Any

from dromic.core.values.errors import DromicError

VERSION = 4
FIRST_WITH_ENTRIES = 4
TIME = re.compile(r"-?[0-9]{1,9}(/[0-9]{1,9})?")
"""how a time is written: no powers of ten, which could stand for numbers that take hours to work out"""
_MOST_DIGITS = 15
"""of a whole number: every number of a document has fewer, and longer ones cost more the longer they are"""


def parsed(data: bytes) -> Any:
    """The JSON values of a document; ValueError or RecursionError for what is no JSON, or holds numbers or text that no
    document can: endless ones, ones with hundreds of digits, half letters."""
    found = json.loads(data, parse_int=_whole, parse_float=_number, parse_constant=_no_number)
    if b"\\ud" in data.lower():
        json.dumps(found, ensure_ascii=False).encode()  # an escape of half a letter cannot be written down again
    return found


def _whole(digits: str) -> int:
    if len(digits) > _MOST_DIGITS:
        raise ValueError(f"a number of {len(digits)} digits stands in it")
    return int(digits)


def _number(digits: str) -> float:
    number = float(digits)
    if not math.isfinite(number):
        raise ValueError("an endless number stands in it")
    return number


def _no_number(word: str) -> float:
    raise ValueError(f"{word} stands in it, which is no number")


def _with_entries(book: dict[str, Any]) -> dict[str, Any]:
    """Version 4 puts what was chosen and kept beside the phrase. Plans made before it kept no written strokes or
    fingers, so what was decided then goes on without."""
    entries = []
    for phrase in book["phrases"]:
        music = {name: value for name, value in phrase.items() if name != "decision"}
        entry: dict[str, Any] = {"phrase": music}
        decision = phrase.get("decision")
        if decision is not None:
            chosen = {**decision["choices"], "strokes": False, "fingers": False}
            entry |= {"choices": chosen, "decisions": [{**decision, "choices": chosen}]}
        entries.append(entry)
    return {**{name: value for name, value in book.items() if name != "phrases"}, "dromic": 4, "entries": entries}


UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    # 2 adds what a bar lacks at its front, and phrases without an instrument; all that 1 holds means the same
    1: lambda book: {**book, "dromic": 2},
    # 3 adds the plan that was kept for a phrase
    2: lambda book: {**book, "dromic": 3},
    3: _with_entries,
}
"""for every older version how to make the next one of it"""


def upgraded(book: dict[str, Any]) -> dict[str, Any]:
    """A document of any known version as one of this; DromicError for one of a newer Dromic."""
    version = book["dromic"]
    if isinstance(version, bool) or not isinstance(version, int) or version < min(UPGRADES):
        raise DromicError(f"it says it is version {version!r:.40}, which there never was", where="dromic")
    if version > VERSION:
        raise DromicError(
            f"it is a version {version} Dromic document, and this Dromic knows up to {VERSION}; open it with a newer Dromic",
            where="dromic",
        )
    while book["dromic"] in UPGRADES:
        book = UPGRADES[book["dromic"]](book)
    return book

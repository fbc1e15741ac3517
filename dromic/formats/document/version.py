"""The versions of a songbook's file, and how one of an older version is brought up to this one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from dromic.core.values.errors import DromicError

VERSION = 5
FIRST_WITH_ENTRIES = 4


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


def _with_ids(book: dict[str, Any]) -> dict[str, Any]:
    """Version 5 gives every entry an id. What had none gets one from its music when that is read (document.py)."""
    return {**book, "dromic": 5, "entries": [{**entry, "id": ""} for entry in book["entries"]]}


UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    # 2 adds what a bar lacks at its front, and phrases without an instrument; all that 1 holds means the same
    1: lambda book: {**book, "dromic": 2},
    # 3 adds the plan that was kept for a phrase
    2: lambda book: {**book, "dromic": 3},
    3: _with_entries,
    4: _with_ids,
}
"""for every older version how to make the next one of it"""


def version_of(book: object) -> int:
    """The version a document's JSON values say they are; DromicError for none, one there never was or a newer one."""
    if not isinstance(book, dict) or "dromic" not in book:
        raise DromicError("it is not a sound Dromic document (its field dromic, the version, is missing)")
    version = book["dromic"]
    if isinstance(version, bool) or not isinstance(version, int) or version < min(UPGRADES):
        raise DromicError(f"it says it is version {version!r:.40}, which there never was", where="dromic")
    if version > VERSION:
        raise DromicError(
            f"it is a version {version!r:.20} Dromic document, and this Dromic knows up to {VERSION}; open it with a "
            "newer Dromic",
            where="dromic",
        )
    return version


def upgraded(book: dict[str, Any]) -> dict[str, Any]:
    """A document's JSON values of a known version as of this one; KeyError, TypeError or AttributeError where its
    entries are out of place."""
    while book["dromic"] in UPGRADES:
        book = UPGRADES[book["dromic"]](book)
    return book

"""The version of Dromic's own document, and how older ones are brought up to it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from dromic.core.errors import DromicError

VERSION = 3

UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    # 2 adds what a bar lacks at its front, and phrases without an instrument; all that 1 holds means the same
    1: lambda book: {**book, "dromic": 2},
    # 3 adds the plan that was kept for a phrase
    2: lambda book: {**book, "dromic": 3},
}
"""for every older version how to make the next one of it"""


def upgraded(book: dict[str, Any]) -> dict[str, Any]:
    """A document of any known version as one of this; DromicError for one of a newer Dromic."""
    version = book["dromic"]
    if isinstance(version, int) and not isinstance(version, bool) and version > VERSION:
        raise DromicError(
            f"it is a version {version} Dromic document, and this Dromic knows up to {VERSION}; open it with a newer Dromic",
            where="dromic",
        )
    while book["dromic"] in UPGRADES:
        book = UPGRADES[book["dromic"]](book)
    if book["dromic"] != VERSION:
        raise DromicError(f"it says it is version {version!r}, which there never was", where="dromic")
    return book

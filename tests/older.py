"""Documents as earlier versions of Dromic wrote them, made from those of this one."""

from __future__ import annotations

import json
from typing import Any


def older(book: dict[str, Any], version: int) -> bytes:
    """A songbook of version 1 to 4 with the phrases of a newer one, without ids; before 4 a plan kept stood in its phrase."""
    if version == 4:
        entries = [{k: v for k, v in entry.items() if k not in ("id", "copy_of")} for entry in book["entries"]]
        return json.dumps({**book, "dromic": 4, "entries": entries}).encode()
    phrases = []
    for entry in book["entries"]:
        kept = {"decision": entry["decisions"][-1]} if version == 3 and entry.get("decisions") else {}
        phrases.append({**entry["phrase"], **kept})
    rest = {name: value for name, value in book.items() if name not in ("entries", "dromic")}
    return json.dumps({"dromic": version, **rest, "phrases": phrases}).encode()

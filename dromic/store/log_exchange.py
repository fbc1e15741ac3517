"""Passes of the log as CSV and JSON, both ways."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable
from datetime import datetime
from pathlib import Path
from typing import Any

from dromic.core.practice.log_pass import Pass
from dromic.core.values.errors import DromicError
from dromic.store.logbook import COLUMNS


def pass_entry(one: Pass) -> dict[str, Any]:
    """A pass as JSON has it."""
    return {**{name: getattr(one, name) for name in COLUMNS}, "at": one.at.isoformat(), "notes": list(one.notes)}


def pass_from(entry: Any) -> Pass:
    """A pass from JSON; DromicError naming what is wrong with it."""
    if not isinstance(entry, dict) or not {"at", "phrase", "drill", "tempo", "clean"} <= set(entry):
        raise DromicError("a pass needs at, phrase, drill, tempo and clean")
    unknown = set(entry) - set(COLUMNS)
    if unknown:
        raise DromicError(f"a pass has no {sorted(unknown)[0]!r}; it has {', '.join(COLUMNS)}")
    try:
        given = {
            **entry,
            "at": datetime.fromisoformat(entry["at"]),
            "notes": tuple(int(n) for n in entry.get("notes", ())),
        }
        return Pass(**{**given, "tempo": float(entry["tempo"]), "clean": bool(entry["clean"])})
    except (TypeError, ValueError) as error:
        raise DromicError(
            f"a pass cannot be understood ({error}); write it as `dromic log list --json` does"
        ) from error


def as_csv(passes: Iterable[Pass]) -> str:
    """Passes as a table."""
    out = io.StringIO()
    table = csv.DictWriter(out, COLUMNS, lineterminator="\n")
    table.writeheader()
    for one in passes:
        table.writerow({**pass_entry(one), "notes": " ".join(map(str, one.notes))})
    return out.getvalue()


def from_text(text: str) -> list[Pass]:
    """Passes from CSV or JSON, as they were exported."""
    if text.lstrip()[:1] in ("[", "{"):
        try:
            found = json.loads(text)
        except ValueError as error:
            raise DromicError(f"it is no sound JSON ({error})") from error
        entries = found.get("passes") if isinstance(found, dict) else found
        return [pass_from(e) for e in entries or ()]
    passes = []
    for line, row in enumerate(csv.DictReader(io.StringIO(text)), start=2):
        try:
            passes.append(pass_from(_typed(row)))
        except DromicError as error:
            raise DromicError(error.what, where=f"line {line}") from error
    return passes


def _typed(row: dict[str, Any]) -> dict[str, Any]:
    given: dict[str, Any] = {k: v for k, v in row.items() if v != "" and k is not None}
    for name in ("clean", "attentive", "burst"):
        if name in given:
            given[name] = given[name] in ("True", "true", "1")
    for name, kind in (("tempo", float), ("seconds", float), ("soreness", int)):
        try:
            given |= {name: kind(given[name])} if name in given else {}
        except ValueError as error:
            raise DromicError(
                f"a pass cannot be understood: its {name} is {given[name][:40]!r}, not a number"
            ) from error
    given["notes"] = str(given.get("notes", "")).split()
    return given


def as_json(passes: Iterable[Pass]) -> str:
    """Passes as JSON."""
    return json.dumps({"dromic": 1, "passes": [pass_entry(p) for p in passes]}, indent=1) + "\n"


def read_passes(file: Path) -> list[Pass]:
    """The passes of a file; DromicError where it cannot be read."""
    try:
        text = file.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise DromicError(f"{file} cannot be read ({error}); choose a .csv or .json file of passes") from error
    return from_text(text)


def write_passes(file: Path, passes: Iterable[Pass]) -> None:
    """Write passes to a file, JSON where its name says so, else CSV; DromicError where it cannot be written."""
    text = as_json(passes) if file.suffix == ".json" else as_csv(passes)
    try:
        file.write_text(text, encoding="utf-8")
    except OSError as error:
        raise DromicError(f"{file} cannot be written ({error.strerror}); choose another place") from error

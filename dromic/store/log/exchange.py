"""Passes of the log as CSV and JSON, both ways; CSV as spreadsheets write it too."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import date, datetime
from itertools import count
from pathlib import Path
from typing import Any

from dromic.core.practice.log_pass import Pass
from dromic.core.values.errors import DromicError
from dromic.store.log.rows import COLUMNS
from dromic.store.saving import save

_NEEDED = ("at", "phrase", "drill", "tempo", "clean")
_FLAGS = ("clean", "attentive", "burst")
_TRUE = frozenset({"true", "1", "wahr", "verdadero", "vrai"})
_FALSE = frozenset({"false", "0", "falsch", "falso", "faux"})
"""as spreadsheets write them in English, German, Spanish and French"""
_RUN = "=+-@"
"""What a spreadsheet takes for a formula at the front of a cell."""
_PLAIN = "'"
"""What goes before it so that it does not."""
_TEXTS = ("phrase", "drill", "hand", "fault", "player", "plan", "note", "phrase_id")
_DELIMITERS = ",;\t"


@dataclass(frozen=True)
class PassesRead:
    """What a file of passes holds: the good ones, and of each bad one its number in the file and why."""

    passes: tuple[Pass, ...]
    bad: tuple[str, ...] = ()


def pass_entry(one: Pass) -> dict[str, Any]:
    """A pass as JSON has it."""
    return {**{name: getattr(one, name) for name in COLUMNS}, "at": one.at.isoformat(), "notes": list(one.notes)}


def pass_from(entry: Any) -> Pass:
    """A pass from JSON; DromicError naming what is wrong with it."""
    if not isinstance(entry, dict) or not set(_NEEDED) <= set(entry):
        raise DromicError("a pass needs at, phrase, drill, tempo and clean")
    unknown = set(entry) - set(COLUMNS)
    if unknown:
        raise DromicError(f"a pass has no {sorted(map(str, unknown))[0]!r:.60}; it has {', '.join(COLUMNS)}")
    given = {**entry, **{name: _flag(name, entry[name]) for name in _FLAGS if name in entry}}
    try:
        at, notes = datetime.fromisoformat(entry["at"]), entry.get("notes", ())
        if not isinstance(notes, (list, tuple)):
            raise TypeError("its notes are no list")
        return Pass(**{**given, "at": at, "notes": tuple(notes)})
    except (TypeError, ValueError, OverflowError) as error:
        raise DromicError(
            f"a pass cannot be understood ({error!s:.120}); write it as `dromic log list --json` does"
        ) from error


def _flag(name: str, value: object) -> object:
    """True or false from one of their words; what is neither is left, to be refused."""
    word = str(value).strip().lower()
    return True if word in _TRUE else False if word in _FALSE else value


def as_csv(passes: Iterable[Pass]) -> str:
    """Passes as a table. What a spreadsheet would run is written so that it does not."""
    out = io.StringIO()
    table = csv.DictWriter(out, COLUMNS, lineterminator="\n")
    table.writeheader()
    for one in passes:
        row = {**pass_entry(one), "notes": " ".join(map(str, one.notes))}
        table.writerow({**row, **{name: _unrun(row[name]) for name in _TEXTS}})
    return out.getvalue()


def _unrun(text: str | None) -> str | None:
    return _PLAIN + text if text and text[0] in _RUN + _PLAIN else text


def _as_it_was(text: str) -> str:
    return text[1:] if len(text) > 1 and text[0] == _PLAIN and text[1] in _RUN + _PLAIN else text


def from_text(text: str, today: date | None = None) -> PassesRead:
    """Passes from CSV or JSON, as they were exported or as a spreadsheet wrote them. A bad row is left out and named. `today` is the
    day that none may lie past by more than one. DromicError where it holds no rows."""
    text = text.removeprefix("\ufeff")
    if not text.strip():
        raise DromicError("it is empty; choose a .csv or .json file of passes")
    rows = _of_json(text) if text.lstrip()[:1] in ("[", "{") else _of_csv(text)
    passes, bad = [], []
    for where, entry in rows:
        try:
            if isinstance(entry, DromicError):
                raise entry
            passes.append(pass_from(entry).played_by(today or date.today()))
        except DromicError as error:
            bad.append(f"{where}: {error.what}")
    return PassesRead(tuple(passes), tuple(bad))


def _of_json(text: str) -> Iterator[tuple[str, Any]]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise DromicError(f"it is no sound JSON ({error!s:.120})") from error
    entries = found.get("passes") if isinstance(found, dict) else found
    if not isinstance(entries, list):
        raise DromicError("it holds no list of passes; write it as `dromic log list --json` does")
    return ((f"pass {n}", entry) for n, entry in enumerate(entries, start=1))


def _of_csv(text: str) -> Iterator[tuple[str, Any]]:
    """(line, entry or what is wrong with it) of every row under the head."""
    first = text.lstrip("\r\n").partition("\n")[0]
    delimiter = max(_DELIMITERS, key=first.count)
    table = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        head = [name.strip().lower() for name in next(table)]
    except (StopIteration, csv.Error) as error:
        raise DromicError(f"its first line is no head of a table ({error!s:.80})") from error
    if not set(_NEEDED) <= set(head):
        raise DromicError(
            f"its first line must name the columns: at, phrase, drill, tempo and clean, not {first!r:.60}"
        )
    for n in count(2):
        where = f"row {n}"
        try:
            row = next(table)
        except StopIteration:
            return
        except csv.Error as error:
            yield where, DromicError(f"it cannot be read ({error})")
            continue
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(head):
            yield where, DromicError(f"it has {len(row)} cells, and the head names {len(head)}")
            continue
        try:
            yield where, _typed(dict(zip(head, row, strict=True)), delimiter)
        except DromicError as error:
            yield where, error


def _typed(row: dict[str, str], delimiter: str) -> dict[str, Any]:
    """A row with its numbers; a comma is a decimal point where it parts no cells."""
    given: dict[str, Any] = {k: _as_it_was(v) if k in _TEXTS else v.strip() for k, v in row.items() if v != ""}
    for name, kind in (("tempo", float), ("seconds", float), ("soreness", int), ("utc_offset_min", int)):
        words = given.get(name, "")
        try:
            given |= {name: kind(words if delimiter == "," else words.replace(",", "."))} if words else {}
        except ValueError as error:
            raise DromicError(f"its {name} is {words!r:.40}, not a number") from error
    try:
        given["notes"] = [int(word) for word in given.get("notes", "").split()]
    except ValueError as error:
        raise DromicError(f"its notes are {given['notes']!r:.40}, not numbers") from error
    return given


def as_json(passes: Iterable[Pass]) -> str:
    """Passes as JSON."""
    return json.dumps({"dromic": 1, "passes": [pass_entry(p) for p in passes]}, indent=1) + "\n"


def read_passes(file: Path, today: date | None = None) -> PassesRead:
    """The passes of a file; DromicError where it cannot be read, or no pass in it can."""
    try:
        text = file.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise DromicError(
            f"cannot be read ({error.strerror}); choose another file of passes", path=file.name
        ) from error
    except UnicodeDecodeError as error:
        raise DromicError("is no text in UTF-8; choose a .csv or .json file of passes", path=file.name) from error
    try:
        found = from_text(text, today)
    except DromicError as error:
        raise DromicError(error.what, path=file.name) from error
    if not found.passes:
        why = f"; the first is {found.bad[0]}" if found.bad else ""
        raise DromicError(f"holds no pass that can be taken{why}", path=file.name)
    return found


def taken_words(new: int, found: PassesRead) -> str:
    """What is said of passes taken in."""
    words = f"{new} {'pass' if new == 1 else 'passes'} taken into the log"
    if there := len(found.passes) - new:
        words += f"; {there} {'was' if there == 1 else 'were'} there already"
    if found.bad:
        words += f"; {len(found.bad)} left out, the first: {found.bad[0]}"
    return words


def write_passes(file: Path, passes: Iterable[Pass]) -> None:
    """Write passes to a file whole or not at all, JSON where its name says so, else CSV; DromicError where it cannot be written."""
    save(file, (as_json(passes) if file.suffix.lower() == ".json" else as_csv(passes)).encode())

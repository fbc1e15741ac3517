"""Passes as rows of the log's tables, both ways."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import fields, replace
from datetime import datetime, timedelta
from typing import Any

from dromic.core.practice.log_pass import Pass
from dromic.core.values.errors import DromicError

COLUMNS = tuple(f.name for f in fields(Pass))
"""the fields of a pass, in their order"""
STORED = ("utc", "offset_min", *COLUMNS[1:-2], "phrase_id", "uid", "key", "day", "lent")
"""the columns of a row, in the order `row_of` gives them"""
READ = ", ".join(STORED[: len(COLUMNS)])
"""what `pass_of` takes, as SQL has it"""
UNREADABLE = (DromicError, ValueError, TypeError, AttributeError, OverflowError)
"""what a row ends in that nobody can read"""
_FLAGS = tuple(STORED.index(name) for name in ("clean", "attentive", "burst"))
_NOTES = STORED.index("notes")


def as_text(cell: bytes) -> str:
    """Text of a cell, damaged bytes replaced: a row of a damaged log can be told from a sound one only once it is read."""
    return cell.decode("utf-8", "replace")


def offset_of(one: Pass) -> int:
    """How many minutes local time lay before UTC: as the system's clock has it where nobody said (IANA time zones, by `datetime`)."""
    if one.utc_offset_min is not None:
        return one.utc_offset_min
    return round((one.at.astimezone().utcoffset() or timedelta(0)).total_seconds() / 60)


def placed(one: Pass) -> Pass:
    """The same pass with how local time lay."""
    return one if one.utc_offset_min is not None else replace(one, utc_offset_min=offset_of(one))


def row_of(one: Pass, uid: str, lent: int | None = None) -> tuple[Any, ...]:
    """A row of `STORED`; `uid` is the pass's own, `lent` the row it is a copy of."""
    offset = offset_of(one)
    return (
        (one.at - timedelta(minutes=offset)).isoformat(), offset, one.phrase, one.drill, one.tempo, int(one.clean),
        " ".join(map(str, one.notes)), one.hand, one.fault, int(one.attentive), one.seconds, one.soreness, int(one.burst),
        one.player, one.plan, one.note, one.phrase_id, uid, one.of.key, one.day.isoformat(), lent,
    )  # fmt: skip


def pass_of(row: Sequence[Any]) -> Pass:
    """A pass from what `READ` reads; one of `UNREADABLE` where it is none."""
    given = list(row)
    offset = given[1]
    for place in _FLAGS:
        given[place] = bool(given[place])
    given[_NOTES] = numbers(given[_NOTES])
    at = datetime.fromisoformat(given[0]) + timedelta(minutes=offset)
    return Pass(*[at, *given[2:-1], offset, given[-1]])


def readable(rows: Iterable[Sequence[Any]]) -> Iterator[Pass]:
    """The passes of rows, those left out that cannot be read."""
    for row in rows:
        with suppress(*UNREADABLE):
            yield pass_of(row)


def numbers(text: str) -> tuple[int, ...]:
    """Whole numbers as a row has them."""
    return tuple(map(int, text.split()))

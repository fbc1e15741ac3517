"""What the log sums up as passes come in: a row for each drill, and one for each day of it."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any

from dromic.core.practice.days import Day, hand_of
from dromic.core.practice.log_pass import FIRST_YEAR, Pass, PhraseName
from dromic.core.practice.log_summary import RECENT_DAYS, DrillRecord, Goal, PhraseRecord
from dromic.store.log.rows import numbers

_DRILL = """INSERT INTO drill VALUES (:key, :drill, :notes, :good, :good_at, :day, :good, 1, :clean)
  ON CONFLICT (key, drill) DO UPDATE SET passes = passes + 1, clean = clean + excluded.clean,
  notes = CASE WHEN excluded.last_day >= last_day THEN excluded.notes ELSE notes END,
  best_at = CASE WHEN excluded.best > COALESCE(best, 0) THEN excluded.best_at ELSE best_at END,
  best = CASE WHEN excluded.best > COALESCE(best, 0) THEN excluded.best ELSE best END,
  newest = CASE WHEN excluded.last_day > last_day THEN excluded.newest WHEN excluded.last_day < last_day THEN newest
           ELSE NULLIF(MAX(COALESCE(newest, 0), COALESCE(excluded.newest, 0)), 0) END,
  last_day = MAX(last_day, excluded.last_day)"""
_DAY = """INSERT INTO day VALUES (:key, :day, :drill, :seconds, 1, :clean, :picking, :fretting, :background, :fastest, :rank, :id)
  ON CONFLICT (key, day, drill) DO UPDATE SET seconds = seconds + excluded.seconds, passes = passes + 1,
  clean = clean + excluded.clean, picking = picking + excluded.picking, fretting = fretting + excluded.fretting,
  background = background + excluded.background,
  fastest = NULLIF(MAX(COALESCE(fastest, 0), COALESCE(excluded.fastest, 0)), 0),
  best_id = CASE WHEN excluded.best > best THEN excluded.best_id ELSE best_id END, best = MAX(best, excluded.best)"""
ADDED = (_DRILL, _DAY)
"""what a pass adds, with what `summed` takes of it"""


def summed(one: Pass, number: int) -> dict[str, Any]:
    """What the sums take of a pass: what is best was played with attention, bursts left aside."""
    good = one.tempo if one.clean and one.attentive and not one.burst else None
    day = one.day.isoformat()
    return {
        "key": one.of.key, "drill": one.drill, "notes": " ".join(map(str, one.notes)), "day": day, "seconds": one.seconds,
        "clean": int(one.clean), "good": good, "good_at": day if good else None,
        "background": 0.0 if one.attentive else one.seconds, "id": number,
        "fastest": one.tempo if one.clean and not one.burst else None,
        "rank": (good or 0.0) if one.attentive else -1.0,
        **{hand: int(not one.clean and one.hand in (hand, "both")) for hand in ("picking", "fretting")},
    }  # fmt: skip


def goal_in(base: sqlite3.Connection, of: PhraseName) -> Goal:
    """What was set as the goal of a phrase."""
    found = base.execute("SELECT target, ready FROM goal WHERE key = ?", (of.key,)).fetchone()
    try:
        return Goal(found[0], _date(found[1])) if found else Goal()
    except (ValueError, TypeError):
        return Goal()


def record_in(base: sqlite3.Connection, of: PhraseName, today: date | None) -> PhraseRecord:
    """What is summed up of a phrase; what is recent counts from its newest day, but from no day after today."""
    rows = base.execute(
        "SELECT drill, notes, best, best_at, last_day, newest, passes, clean FROM drill WHERE key = ? "
        "ORDER BY last_day, drill", (of.key,)
    )  # fmt: skip
    drills = tuple(found for row in rows if (found := _drill_record(row)) is not None)
    newest = base.execute("SELECT MAX(day) FROM day WHERE key = ? AND day <= ? AND day >= ? AND date(day) = day",
                          (of.key, (today or date.today()).isoformat(), f"{FIRST_YEAR}")).fetchone()[0]  # fmt: skip
    first = date.fromisoformat(newest) - timedelta(RECENT_DAYS - 1) if newest else date.max
    days = _day_rows(base, of, first, ("seconds", "picking", "fretting", "background"))
    minutes: dict[date, float] = {}
    technique: dict[str, float] = {}
    hands: dict[str, float] = {}
    for day, drill, seconds, _, _, _ in days:
        kind = drill.split(":")[0]
        minutes[day] = minutes.get(day, 0.0) + seconds / 60
        technique[kind] = technique.get(kind, 0.0) + seconds / 60
        hands[hand_of(kind)] = hands.get(hand_of(kind), 0.0) + seconds / 60
    blamed = {hand: sum(row[at] for row in days) for hand, at in (("picking", 3), ("fretting", 4))}
    background = sum(row[5] for row in days) / 60
    return PhraseRecord(of.title, drills, minutes, hands, technique, {h: n for h, n in blamed.items() if n}, background)


def days_in(base: sqlite3.Connection, of: PhraseName, since: date) -> dict[str, tuple[Day, ...]]:
    """The days of each drill from one on."""
    found: dict[str, list[Day]] = {}
    columns = ("COALESCE(fastest, 0)", "clean", "passes", "seconds")
    for day, drill, fastest, clean, passes, seconds in _day_rows(base, of, since, columns):
        minutes = {hand_of(drill.split(":")[0]): seconds / 60}
        found.setdefault(drill, []).append(Day(day, fastest or None, clean, passes - clean, minutes))
    return {drill: tuple(days) for drill, days in found.items()}


def _day_rows(base: sqlite3.Connection, of: PhraseName, since: date, columns: Sequence[str]) -> list[tuple[Any, ...]]:
    """(day, drill, numbers of those columns) of the days of a phrase from one on, in their order; what is damaged is left out."""
    rows = base.execute(
        f"SELECT day, drill, {', '.join(columns)} FROM day WHERE key = ? AND day >= ? AND date(day) = day ORDER BY day",
        (of.key, since.isoformat()),
    )
    return [
        (date.fromisoformat(day), drill, *values)
        for day, drill, *values in rows
        if isinstance(drill, str) and all(isinstance(value, int | float) for value in values)
    ]


def _drill_record(row: Sequence[Any]) -> DrillRecord | None:
    """What is summed up of a drill; None where it cannot be read."""
    try:
        last = date.fromisoformat(row[4])
        return DrillRecord(row[0], numbers(row[1]), row[2], _date(row[3]), last, row[6], row[7], row[5])
    except (ValueError, TypeError, AttributeError):
        return None


def _date(text: str | None) -> date | None:
    return date.fromisoformat(text) if text else None

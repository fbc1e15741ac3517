"""What the log says of a phrase: the tempo each note has been clean at, minutes, what slips, what is next and why."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from functools import cached_property

from dromic.core.drills.drill_kinds import AS_WRITTEN, TAKE, words_of
from dromic.core.practice.days import Day, days_of, hand_of, summed_days
from dromic.core.practice.log_pass import Pass

RECENT_DAYS = 60
"""what is looked at pass by pass; of what is older the log keeps the best and the counts"""
_SLIPS = 0.9
"""a drill slips when its newest day's fastest clean pass is under this share of its best"""


@dataclass(frozen=True, slots=True)
class DrillRecord:
    """What the log keeps of a drill of a phrase, over all days."""

    drill: str
    notes: tuple[int, ...]
    best_clean: float | None
    """played with attention, bursts left aside"""
    best_at: date | None
    last_at: date
    passes: int
    clean: int
    newest_clean: float | None
    """the fastest clean pass of its newest day"""

    @property
    def taken(self) -> bool:
        """Whether it was a part of a take, and no drill."""
        return self.drill.split(":")[0] == TAKE

    @property
    def slips(self) -> bool:
        """Whether it was faster before."""
        return self.best_clean is not None and (self.newest_clean or 0.0) < _SLIPS * self.best_clean


@dataclass(frozen=True, slots=True)
class PhraseRecord:
    """What the log says of a phrase."""

    phrase: str
    drills: tuple[DrillRecord, ...]
    minutes: Mapping[date, float]
    """of the recent days"""
    by_hand: Mapping[str, float] = field(default_factory=dict)
    """minutes of the recent days by the hand that was practised"""
    by_technique: Mapping[str, float] = field(default_factory=dict)
    """and by kind of drill"""
    blamed: Mapping[str, int] = field(default_factory=dict)
    """misses of the recent days by the hand that was blamed"""
    background: float = 0.0
    """minutes of the recent days played in the background"""

    @property
    def clean_by_note(self) -> dict[int, float]:
        """The fastest clean tempo of each note, from drills that play it as it is written, with both hands."""
        found: dict[int, float] = {}
        for record in self.drills:
            if record.best_clean is not None and record.drill.split(":")[0] in AS_WRITTEN:
                for note in record.notes:
                    found[note] = max(found.get(note, 0.0), record.best_clean)
        return found

    @property
    def ever_clean(self) -> frozenset[str]:
        """The drills, by name, that were clean at some tempo."""
        return frozenset(d.drill for d in self.drills if d.best_clean is not None)

    @property
    def slipping(self) -> tuple[DrillRecord, ...]:
        """What was faster before, the most practised first."""
        return tuple(sorted((d for d in self.drills if d.slips and not d.taken), key=lambda d: -d.passes))

    @property
    def missed_days(self) -> tuple[date, ...]:
        """Days between the first and last of the recent ones without practice."""
        if not self.minutes:
            return ()
        first, last = min(self.minutes), max(self.minutes)
        days = (first + timedelta(n) for n in range((last - first).days + 1))
        return tuple(day for day in days if day not in self.minutes)


@dataclass(frozen=True, slots=True)
class Goal:
    """What a player works towards with a phrase: a tempo (None for its own) and a day by which it is to be ready."""

    target: float | None = None
    ready: date | None = None


@dataclass(frozen=True)
class History:
    """What the log has of a phrase: its record over all days, the newest passes of the recent ones in their order, the goal, and what
    was played day by day."""

    record: PhraseRecord
    recent: tuple[Pass, ...] = ()
    goal: Goal = field(default_factory=Goal)
    days: Mapping[str, tuple[Day, ...]] = field(default_factory=dict)
    """the recent days of each drill, by its name"""

    @cached_property
    def by_drill(self) -> dict[str, tuple[Pass, ...]]:
        """The recent passes of each drill."""
        found: dict[str, list[Pass]] = {}
        for one in self.recent:
            found.setdefault(one.drill, []).append(one)
        return {name: tuple(of) for name, of in found.items()}

    def days_of(self, wanted: Callable[[str], bool]) -> tuple[Day, ...]:
        """The recent days of those drills, taken together, whose names are wanted."""
        return summed_days(day for name, days in self.days.items() if wanted(name) for day in days)

    @cached_property
    def clean_by_note(self) -> dict[int, float]:
        """The fastest clean tempo of each note, as it is written."""
        return self.record.clean_by_note

    @cached_property
    def played_by_note(self) -> dict[int, date]:
        """The newest day each note was practised as it is written."""
        found: dict[int, date] = {}
        for record in self.record.drills:
            if record.drill.split(":")[0] in AS_WRITTEN:
                found |= {note: max(found.get(note, record.last_at), record.last_at) for note in record.notes}
        return found


def history_of(phrase: str, passes: Sequence[Pass]) -> History:
    """The same from passes at hand."""
    by_drill: dict[str, list[Pass]] = {}
    for one in passes:
        by_drill.setdefault(one.drill, []).append(one)
    days = {name: days_of(of) for name, of in by_drill.items()}
    return History(record_of(phrase, passes), tuple(passes), days=days)


def next_words(record: PhraseRecord, today: date) -> tuple[str | None, str]:
    """The drill to take up next and the reason, in a sentence; None where the log knows of none."""
    drills = [d for d in record.drills if not d.taken]
    if not drills:
        return None, "Nothing of it is in the log yet: begin with the hardest move, slowly."
    slipping = record.slipping
    if slipping:
        worst = slipping[0]
        newest = f"{worst.newest_clean:.0f}" if worst.newest_clean else "not at all"
        return (
            worst.drill,
            f"{words_of(worst.drill)}: slips; it was clean at {worst.best_clean:.0f}, and last {newest}.",
        )
    away = (today - max(d.last_at for d in drills)).days
    behind = min(drills, key=lambda d: d.best_clean or 0.0)
    clean = f"clean up to {behind.best_clean:.0f}" if behind.best_clean else "not clean yet"
    days = f" Not practised for {away} days: begin lower today." if away > 1 else ""
    return behind.drill, f"{words_of(behind.drill)}: this holds it back, {clean}.{days}"


def record_of(phrase: str, passes: Sequence[Pass]) -> PhraseRecord:
    """The record of a phrase from its passes, in the order they were played."""
    by_drill: dict[str, list[Pass]] = {}
    for one in passes:
        by_drill.setdefault(one.drill, []).append(one)
    drills = tuple(_drill(name, found) for name, found in by_drill.items())
    newest = max((p.day for p in passes), default=None)
    recent = [p for p in passes if newest is not None and (newest - p.day).days < RECENT_DAYS]
    minutes: dict[date, float] = {}
    hands: dict[str, float] = {}
    technique: dict[str, float] = {}
    blamed: dict[str, int] = {}
    for one in recent:
        minutes[one.day] = minutes.get(one.day, 0.0) + one.seconds / 60
        kind = one.drill.split(":")[0]
        technique[kind] = technique.get(kind, 0.0) + one.seconds / 60
        hands[hand_of(kind)] = hands.get(hand_of(kind), 0.0) + one.seconds / 60
        if not one.clean and one.hand:
            blamed[one.hand] = blamed.get(one.hand, 0) + 1
    background = sum(p.seconds for p in recent if not p.attentive) / 60
    return PhraseRecord(phrase, drills, minutes, hands, technique, blamed, background)


def _drill(name: str, passes: Sequence[Pass]) -> DrillRecord:
    clean = [p for p in passes if p.clean and p.attentive and not p.burst]
    best = max(clean, key=lambda p: p.tempo, default=None)
    last = passes[-1].day
    newest = max((p.tempo for p in clean if p.day == last), default=None)
    return DrillRecord(
        name, passes[-1].notes, best.tempo if best else None, best.day if best else None, last, len(passes),
        sum(p.clean for p in passes), newest,
    )  # fmt: skip
